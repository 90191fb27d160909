// Package order derives in which order switches go on, from who feeds whom:
// whatever wakes sends a transient of volts, so nothing that makes sound may
// be live before everything that can reach it has settled. It is a partial
// order; where it leaves freedom, the short way is walked.
package order

import (
	"slices"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
)

// Node is one switch with all that it wakes.
type Node struct {
	Switch  string
	Devices []int // indices in the rig
	Loud    bool  // wakes something that makes sound
	rank    int
	place   string
}

// Order is the nodes of a rig and how they depend on each other.
type Order struct {
	x      *rig.Index
	Nodes  []Node
	before []rig.Set // before[i] has j: something of i reaches something loud or not of j
	reach  []rig.Set // by device: signal, and the mains of a generator

	derived []int
}

// New reads the switches of a rig.
func New(x *rig.Index) *Order {
	o := &Order{x: x, reach: slices.Clone(x.Reach())} // its rows are shared, not changed
	at := map[string]int{}
	for i := range x.Rig.Devices {
		d, m := &x.Rig.Devices[i], x.ModelAt(i)
		if !m.Switched() {
			continue
		}
		if m.Kind.Supplies() {
			o.reach[i] = x.Supplies(i) // nothing goes on before its mains is steady
		}
		if m.Kind == gear.KindSwitch {
			o.reach[i] = x.Networks(i) // nor what boots over a network before that is up
		}
		n, known := at[d.SwitchName()]
		if !known {
			n = len(o.Nodes)
			at[d.SwitchName()] = n
			o.Nodes = append(o.Nodes, Node{Switch: d.SwitchName(), place: d.Place})
		}
		node := &o.Nodes[n]
		node.Devices = append(node.Devices, i)
		node.Loud = node.Loud || m.MakesSound()
		node.rank = max(node.rank, rank(m))
	}
	o.depend()
	o.derived = o.derive()
	return o
}

// rank is the usual order where signal does not decide: sources, mixer,
// processing, then all that makes sound (common practice, no source).
func rank(m *gear.Model) int {
	if m.MakesSound() {
		return 4
	}
	switch m.Kind {
	case gear.KindMixer:
		return 2
	case gear.KindProcessor:
		return 3
	case gear.KindSource, gear.KindMicrophone, gear.KindReceiver:
		return 1
	}
	return 0 // mains and network, before what needs them
}

func (o *Order) depend() {
	owner := make([]int, len(o.x.Rig.Devices))
	for i := range owner {
		owner[i] = -1
	}
	for n, node := range o.Nodes {
		for _, d := range node.Devices {
			owner[d] = n
		}
	}
	o.before = rig.NewSets(len(o.Nodes))
	for n, node := range o.Nodes {
		for _, d := range node.Devices {
			for to := range o.reach[d].Each {
				if t := owner[to]; t >= 0 && t != n {
					o.before[n].Add(t)
				}
			}
		}
	}
}

// Before tells whether node i must have settled before node j goes on. Two
// nodes that feed each other, as a mixer and its effects do, go by rank.
func (o *Order) Before(i, j int) bool {
	if !o.before[i].Has(j) {
		return false
	}
	return !o.before[j].Has(i) || o.Nodes[i].rank < o.Nodes[j].rank
}

// Derived is the order of nodes: a topological order that takes the lowest
// rank that is free, and among equals stays at the place where one stands.
// The result is the caller's own.
func (o *Order) Derived() []int { return slices.Clone(o.derived) }

func (o *Order) derive() []int {
	waits := make([]int, len(o.Nodes)) // how many it still waits for; −1 when done
	for j := range o.Nodes {
		for i := range o.Nodes {
			if o.Before(i, j) {
				waits[j]++
			}
		}
	}
	order := make([]int, 0, len(o.Nodes))
	place := ""
	for len(order) < len(o.Nodes) {
		best := -1
		for i := range o.Nodes {
			if waits[i] == 0 && (best < 0 || o.sooner(i, best, place)) {
				best = i
			}
		}
		if best < 0 { // a ring of equals: the first left opens it
			best = slices.IndexFunc(waits, func(w int) bool { return w > 0 })
		}
		waits[best] = -1
		for j := range o.Nodes {
			if waits[j] > 0 && o.Before(best, j) {
				waits[j]--
			}
		}
		place = o.Nodes[best].place
		order = append(order, best)
	}
	return order
}

func (o *Order) sooner(i, best int, place string) bool {
	a, b := o.Nodes[i], o.Nodes[best]
	if a.rank != b.rank {
		return a.rank < b.rank
	}
	return a.place == place && b.place != place
}

// Sequence is the order in force: the crew's own where there is one, with
// whatever it leaves out in derived order behind it.
func (o *Order) Sequence() []int {
	derived := o.Derived()
	if len(o.x.Rig.Order) == 0 {
		return derived
	}
	position := func(n int) int {
		if p := slices.Index(o.x.Rig.Order, o.Nodes[n].Switch); p >= 0 {
			return p
		}
		return len(o.x.Rig.Order)
	}
	slices.SortStableFunc(derived, func(a, b int) int { return position(a) - position(b) })
	return derived
}

// Master is a switch that wakes what hangs on its mains, unless each is left off by
// a switch of its own.
type Master struct {
	Device int   // index of what passes the mains on
	Loud   []int // indices of what makes sound behind it
	Upper  []int // indices of what reaches those, behind it too
}

// Masters lists what passes mains on to something that makes sound and to something
// that feeds it, each by a switch of its own.
func (o *Order) Masters() []Master {
	var all []Master
	for i := range o.x.Rig.Devices {
		m := o.x.ModelAt(i)
		if !m.Kind.Supplies() || m.Kind.Generates() || m.Supply.Sequences == gear.Yes {
			continue
		}
		behind := o.x.Supplies(i)
		master := Master{Device: i}
		upper := map[int]bool{}
		for loud := range behind.Each {
			if !o.x.ModelAt(loud).MakesSound() {
				continue
			}
			fed := false
			for up := range behind.Each {
				if o.apart(up, loud) && o.reach[up].Has(loud) && !o.x.ModelAt(up).MakesSound() && !o.x.ModelAt(up).Kind.Supplies() {
					upper[up], fed = true, true
				}
			}
			if fed {
				master.Loud = append(master.Loud, loud)
			}
		}
		for j := range o.x.Rig.Devices {
			if upper[j] {
				master.Upper = append(master.Upper, j)
			}
		}
		if len(master.Loud) > 0 {
			all = append(all, master)
		}
	}
	return all
}

// apart tells whether two devices are woken by different switches.
func (o *Order) apart(i, j int) bool {
	return o.x.Rig.Devices[i].SwitchName() != o.x.Rig.Devices[j].SwitchName()
}

// Shared lists what makes sound and shares a switch with what feeds it.
func (o *Order) Shared() []TooEarly {
	var bad []TooEarly
	position := make([]int, len(o.Nodes))
	for n, node := range o.Nodes {
		for _, d := range node.Devices {
			if !o.x.ModelAt(d).MakesSound() {
				continue
			}
			if _, together := o.missed(n, 0, d, position); len(together) > 0 {
				bad = append(bad, TooEarly{Early: d, Upper: together, Shared: true})
			}
		}
	}
	return bad
}

// TooEarly is a switch that a sequence throws before something that can
// reach it has settled.
type TooEarly struct {
	Early  int   // device index of what wakes too early
	Upper  []int // device indices of what it should wait for
	Shared bool  // they hang on one switch
}

// Violations lists what a sequence does too early. Only what makes sound is
// in danger.
func (o *Order) Violations(sequence []int) []TooEarly {
	var bad []TooEarly
	position := make([]int, len(o.Nodes))
	for p, n := range sequence {
		position[n] = p
	}
	for p, n := range sequence {
		for _, d := range o.Nodes[n].Devices {
			if !o.x.ModelAt(d).MakesSound() {
				continue
			}
			later, together := o.missed(n, p, d, position)
			if len(together) > 0 {
				bad = append(bad, TooEarly{Early: d, Upper: together, Shared: true})
			}
			if len(later) > 0 {
				bad = append(bad, TooEarly{Early: d, Upper: later})
			}
		}
	}
	return bad
}

// missed lists what can reach device d of node n and goes on later than
// position p, or on the same switch.
func (o *Order) missed(n, p, d int, position []int) (later, together []int) {
	for m, node := range o.Nodes {
		for _, up := range node.Devices {
			switch {
			case up == d || !o.reach[up].Has(d) || o.x.ModelAt(up).MakesSound() || o.oneCase(up, d) || o.inTurn(up, d):
			case m == n:
				together = append(together, up)
			case position[m] > p:
				later = append(later, up)
			}
		}
	}
	return later, together
}

// Untimed is a model whose time is on no record, at the first device of it.
type Untimed struct {
	At    rig.Ref
	Model *gear.Model
	Takes unit.Second // that is allowed for
}

// UntimedOf lists the models that matter of which a time, Settle or Drain, is
// assumed, each once.
func UntimedOf(x *rig.Index, takes func(*gear.Model) (unit.Second, bool), matters func(*gear.Model) bool) []Untimed {
	var all []Untimed
	seen := map[*gear.Model]bool{}
	for i := range x.Rig.Devices {
		m := x.ModelAt(i)
		t, known := takes(m)
		if known || !matters(m) || seen[m] {
			continue
		}
		seen[m] = true
		all = append(all, Untimed{rig.Ref{Device: x.Rig.Devices[i].Tag}, m, t})
	}
	return all
}

// oneCase tells whether two devices are parts of one case woken by its own switch:
// its maker saw to it that they wake together quietly, by relay or delay (common
// practice, no source), and nobody can switch them apart.
func (o *Order) oneCase(i, j int) bool {
	a, b := &o.x.Rig.Devices[i], &o.x.Rig.Devices[j]
	return a.Case != "" && a.Case == b.Case && a.Switch == "" && b.Switch == ""
}

// Settle is how long a device takes from its switch until its outputs are
// quiet; where the sheet says nothing, the careful assumption for its kind
// (common practice, no source), and false.
func Settle(m *gear.Model) (unit.Second, bool) {
	if s, known := m.Wake.Settle.Get(); known {
		return s, true
	}
	if s, told := careful[m.Kind]; told {
		return s, false
	}
	return 60, false
}

// careful is what is allowed for each kind whose sheet gives no time, s.
var careful = map[gear.Kind]unit.Second{
	gear.KindSource: 60, gear.KindMicrophone: 10, gear.KindReceiver: 30, gear.KindMixer: 120, gear.KindProcessor: 120,
	gear.KindSwitch: 120, gear.KindGenerator: 60, gear.KindBattery: 15, gear.KindTransformer: 5, gear.KindDistro: 5,
	gear.KindConditioner: 10,
	gear.KindSequencer:   30, gear.KindAmplifier: 15, gear.KindLoudspeaker: 15,
}

// Drain is how long a device takes from its switch until its outputs are
// dead; where the sheet says nothing, the careful assumption for its kind
// (common practice, no source), and false.
func Drain(m *gear.Model) (unit.Second, bool) {
	if s, known := m.Wake.Drain.Get(); known {
		return s, true
	}
	if m.MakesSound() {
		return 60, false
	}
	return 10, false
}
