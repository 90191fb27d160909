package supply

import (
	"math"
	"slices"

	"largo/core/drive"
	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// Node is a part of what feeds the rig: of the house, or gear that passes mains on.
type Node struct {
	Name   string
	Part   *rig.Supply // of the house; nil for gear
	Device int         // gear, by its index in the rig; −1 for a part of the house
	Model  *gear.Model // of gear
	Up     int         // what feeds it; −1 for nothing that is known
	Down   []int       // what it feeds, of nodes
	Loads  []int       // what is plugged into it, of Tree.Taken
	Phase  int         // 1 to 3, 0 for one or for all three
	Three  bool        // three phases come through it
	Limit  unit.Ampere // that it carries, a phase; 0 where that is not known
	Amps   [states]unit.Ampere
	Each   [3][states]unit.Ampere // of its three phases
	Watts  [states]unit.Watt
	VA     [states]float64
	Leaks  unit.Ampere // that is known
	Silent int         // devices below whose leakage is not known
	Volts  reckon.Figure
}

// Tree is the whole of it. Sums go up: what a node carries is what everything below it takes,
// added as amperes, which is the most that it can be.
type Tree struct {
	Nodes  []Node
	Taken  []Taken
	Loose  []int // of Taken: on no outlet that is known
	x      *rig.Index
	hung   []int          // by Taken, the node that it hangs on; −1 for none that is known
	named  map[string]int // parts of the house, by name
	tagged map[string]int // devices, by tag
}

// New is the tree of a rig that has passed its Check.
func New(x *rig.Index, outs []drive.Output) *Tree {
	t := &Tree{x: x, Taken: TakenBy(x, outs), named: map[string]int{},
		tagged: make(map[string]int, len(x.Rig.Devices))}
	for i := range x.Rig.Supplies {
		s := &x.Rig.Supplies[i]
		t.named[s.Name] = len(t.Nodes)
		t.Nodes = append(t.Nodes, Node{Name: s.Name, Part: s, Device: -1, Up: -1, Phase: s.Phase, Limit: s.Current.Or(0)})
	}
	gearAt := make([]int, len(x.Rig.Devices))
	for i := range x.Rig.Devices {
		gearAt[i] = -1
		t.tagged[x.Rig.Devices[i].Tag] = i
		if m := x.ModelAt(i); m.Supply != nil {
			gearAt[i] = len(t.Nodes)
			t.Nodes = append(t.Nodes, Node{Name: x.Rig.Devices[i].Tag, Device: i, Model: m, Up: -1, Limit: limitOf(x, i, m)})
		}
	}
	t.join(gearAt)
	for i := range t.Nodes {
		t.inherit(i)
	}
	t.hung = slices.Repeat([]int{-1}, len(t.Taken))
	for i := range t.Taken {
		t.hang(i, gearAt)
	}
	return t
}

// limitOf is what gear that passes mains on carries: its amperes, or its power at its volts.
func limitOf(x *rig.Index, i int, m *gear.Model) unit.Ampere {
	if a, known := m.Supply.Current.Get(); known {
		return a
	}
	va, known := m.Supply.Apparent.Get()
	if !known {
		return 0
	}
	volts := m.Supply.Gives.Or(0)
	if volts == 0 {
		if at := drive.AtInlet(x, &x.Rig.Devices[i]); at.Known() {
			volts = unit.Volt(at.Value) * unit.Volt(m.Supply.Ratio.Or(1))
		}
	}
	if volts == 0 {
		return 0
	}
	return unit.Ampere(float64(va) / float64(volts))
}

// join finds what feeds each node.
func (t *Tree) join(gearAt []int) {
	for i := range t.Nodes {
		n := &t.Nodes[i]
		up := -1
		switch {
		case n.Part != nil && n.Part.From != "":
			up = t.named[n.Part.From]
		case n.Part != nil && n.Part.Gear != "":
			up = gearAt[t.tagged[n.Part.Gear]]
		case n.Part == nil:
			up = t.feeds(n.Device, gearAt)
		}
		if up >= 0 && !t.under(up, i) { // gear that feeds itself in a ring is fed by nothing
			n.Up = up
			t.Nodes[up].Down = append(t.Nodes[up].Down, i)
		}
	}
}

// under tells whether a node is another, or is fed by it however far up.
func (t *Tree) under(i, of int) bool {
	for ; i >= 0; i = t.Nodes[i].Up {
		if i == of {
			return true
		}
	}
	return false
}

// feeds is the node that a device is plugged into, −1 where that is not known.
func (t *Tree) feeds(device int, gearAt []int) int {
	d := &t.x.Rig.Devices[device]
	if k, fed := t.x.Inlet(d); fed {
		return gearAt[t.tagged[k.From.Device]]
	}
	if outlet := t.x.OutletOf(d); outlet != "" {
		return t.named[outlet]
	}
	return -1
}

// inherit gives a node the phase of what feeds it, and tells whether all three come through.
func (t *Tree) inherit(i int) {
	n := &t.Nodes[i]
	three := false
	for at := i; at >= 0; at = t.Nodes[at].Up {
		up := &t.Nodes[at]
		if n.Phase == 0 && up.Phase != 0 {
			n.Phase = up.Phase
		}
		three = three || up.Part != nil && up.Part.Phases == 3
	}
	n.Three = three && n.Phase == 0
	if !three {
		n.Phase = 0
	}
	n.Volts = t.voltsAt(n)
}

func (t *Tree) voltsAt(n *Node) reckon.Figure {
	if n.Part != nil {
		return drive.AtOutlet(t.x.Rig, n.Name)
	}
	if g, known := n.Model.Supply.Gives.Get(); known {
		return reckon.Of("supply", "U", "mains at its outlets", g, "")
	}
	return drive.AtInlet(t.x, &t.x.Rig.Devices[n.Device])
}

// hang adds what a device takes to all that feeds it.
func (t *Tree) hang(i int, gearAt []int) {
	l := &t.Taken[i]
	at := t.feeds(l.Device, gearAt)
	if l.Model.Supply != nil {
		at = t.Nodes[gearAt[l.Device]].Up // what it takes itself it takes from above
	}
	if at < 0 {
		t.Loose = append(t.Loose, i)
		return
	}
	t.hung[i] = at
	t.Nodes[at].Loads = append(t.Nodes[at].Loads, i)
	phase := t.Nodes[at].Phase
	leak, leaks := l.Model.Intake.Leakage.Get()
	for ; at >= 0; at = t.Nodes[at].Up {
		n := &t.Nodes[at]
		for s := range states {
			// what stands behind a transformer is drawn by its ratio from before it
			amps := unit.Ampere(float64(l.Watts[s]) / (float64(t.voltsOr(n, l.Volts)) * float64(l.Factor)))
			n.Amps[s] += amps
			n.Watts[s] += l.Watts[s]
			n.VA[s] += float64(l.Watts[s]) / float64(l.Factor)
			for p := range n.Each { // of which nobody says the phase may be on any
				if phase == p+1 || phase == 0 {
					n.Each[p][s] += amps
				}
			}
		}
		n.Leaks += leak
		if !leaks && l.Model.Supply == nil && l.Model.Intake.Earthed != gear.No {
			n.Silent++
		}
	}
}

func (t *Tree) voltsOr(n *Node, usual unit.Volt) unit.Volt {
	if n.Volts.Known() {
		return unit.Volt(n.Volts.Value)
	}
	return usual
}

// Carries is what flows through a node in a state: of three phases the largest; with what the
// house takes there already.
func (n *Node) Carries(s State) unit.Ampere {
	most := n.Amps[s]
	if n.Three {
		most = max(n.Each[0][s], n.Each[1][s], n.Each[2][s])
	}
	if n.Part != nil {
		most += n.Part.Carries.Or(0)
	}
	return most
}

// Below are the nodes under one, itself first, each before what it feeds.
func (t *Tree) Below(i int) []int {
	list := []int{i}
	for _, d := range t.Nodes[i].Down {
		list = append(list, t.Below(d)...)
	}
	return list
}

// Roots are the nodes that nothing feeds.
func (t *Tree) Roots() (list []int) {
	for i := range t.Nodes {
		if t.Nodes[i].Up < 0 {
			list = append(list, i)
		}
	}
	return list
}

// Index is the rig that the tree is of.
func (t *Tree) Index() *rig.Index { return t.x }

// Node finds one by its name.
func (t *Tree) Node(name string) (*Node, bool) {
	for i := range t.Nodes {
		if t.Nodes[i].Name == name {
			return &t.Nodes[i], true
		}
	}
	return nil, false
}

// thirdOf is the part of its fundamental that a supply's third harmonic is: of a rectifier
// that charges a capacitor some 70 % (from memory), of a corrected one a tenth.
func thirdOf(c gear.Answer) float64 {
	if c == gear.Yes {
		return 0.1
	}
	return 0.7
}

// NeutralOf is the neutral's current of three phases, A rms: what does not balance of the
// fundamental, and the third harmonics, which add up: sqrt(I1N² + (Σ I3)²), with
// I1N² = a² + b² + c² − ab − bc − ca.
func NeutralOf(fundamental, third [3]float64) unit.Ampere {
	a, b, c := fundamental[0], fundamental[1], fundamental[2]
	one := a*a + b*b + c*c - a*b - b*c - c*a
	sum := third[0] + third[1] + third[2]
	return unit.Ampere(math.Sqrt(max(one, 0) + sum*sum))
}

// Neutral is the neutral's current at a node with three phases, A.
func (t *Tree) Neutral(i int, s State) unit.Ampere {
	var first, third [3]float64
	for _, below := range t.Below(i) {
		n := &t.Nodes[below]
		phase := max(n.Phase, 1) // of which nobody says the phase is on one, and so in the neutral
		for _, l := range n.Loads {
			h := thirdOf(t.Taken[l].Model.Intake.Corrected)
			fundamental := float64(t.Taken[l].Amps(s)) / math.Sqrt(1+h*h)
			first[phase-1] += fundamental
			third[phase-1] += h * fundamental
		}
	}
	return NeutralOf(first, third)
}
