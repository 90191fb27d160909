// Package load derives what each amplifier output drives, by walking the
// leads from the output through every link-through and series string.
//
// Impedances are magnitudes and add as resistances: the honest sum while only
// nominal and least figures are known. Lead resistance is left out on
// purpose, for it never excuses a load that is too low.
package load

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// Output is one output of an amplifier, a channel or a bridged pair, with
// what hangs on it.
type Output struct {
	At      rig.Ref
	Device  *rig.Device
	Amp     *gear.Amplifier
	Channel int // the first, from 0
	Pair    int // of channels, from 0; -1 for an odd last channel
	Mode    gear.Mode
	Live    bool    // false: something hangs on an output that this mode does not drive
	Input   rig.Ref // where its signal enters
	Arrives string  // what arrives there; "" when nothing does
	Dead    string  // why it gives nothing though it is driven: a bridge whose second side is not turned
	Boxes   []Box
	Nominal reckon.Figure // load, Ω

	hung []group // as the leads run; its nodes are numbered as Boxes
}

// Box is a passive loudspeaker on an output.
type Box struct {
	Tag     string
	Device  *rig.Device
	Poles   int               // the pair of poles that this output drives, from 1
	Way     string            // what those drive, where the box has several ways
	Speaker *gear.Loudspeaker // as this output sees it: its figures are those of the way
	Share   float64           // of the output's voltage that reaches it: 1 unless in series; 0 when unknown
	Lead    Lead              // that it hangs on
}

// Lead is the piece of lead that ends at a box. Where the boxes before it only pass the
// poles on, as a selector has it, their pieces count in it.
type Lead struct {
	Link   *rig.Link
	Length unit.Given[unit.Metre]
	Area   unit.Given[unit.SquareMillimetre]
	Before int // the box that it is linked on from; -1: it begins at the output
}

// Known tells whether its resistance can be worked out.
func (l Lead) Known() bool { return l.Length.Known() && l.Area.Known() }

// after is a lead with the pieces before it, through boxes that only pass its poles
// on: as long as all, and of the conductor that has their resistance.
func (l Lead) after(before *Lead) Lead {
	if before == nil {
		return l
	}
	whole := unit.Given[unit.Metre]{}
	area := unit.Given[unit.SquareMillimetre]{}
	if a, b := l.Length, before.Length; a.Known() && b.Known() {
		whole = unit.From(a.Or(0)+b.Or(0), "all pieces")
	}
	if l.Known() && before.Known() {
		per := float64(l.Length.Or(0))/float64(l.Area.Or(0)) + float64(before.Length.Or(0))/float64(before.Area.Or(0))
		area = unit.From(unit.SquareMillimetre(float64(whole.Or(0))/per), "all pieces")
	}
	l.Length, l.Area = whole, area
	return l
}

// Ohms is its resistance there and back at a temperature in °C, 0 where it is
// not known.
func (l Lead) Ohms(celsius float64) unit.Ohm {
	if !l.Known() {
		return 0
	}
	return gear.LoopResistance(l.Length.Or(0), l.Area.Or(0), celsius)
}

// Name is the tag of the box, with the way where it has several.
func (b Box) Name() string {
	if b.Way == "" {
		return b.Tag
	}
	return b.Tag + " " + b.Way
}

// In is the input that the box is fed at.
func (b Box) In() rig.Ref { return rig.Ref{Device: b.Tag, Port: gear.PoleIn(b.Poles)} }

// Part is the part of the rig that it belongs to.
func (b Box) Part() rig.Part {
	way := b.Poles
	if b.Way == "" {
		way = 1 // a selector moves the box to other poles, and makes it no other way
	}
	return rig.PartOf(b.Device.Aim(), b.Speaker.Sub, way)
}

// Through is the link-through of what it is fed with.
func (b Box) Through() rig.Ref { return rig.Ref{Device: b.Tag, Port: gear.PoleLink(b.Poles)} }

// Least is the load of all boxes at the least impedance of each, Ω.
func (o *Output) Least() reckon.Figure {
	return o.total(least).Called("least", "Zmin", "least load in the band")
}

// Hung are the boxes that hang on the output.
func (o *Output) Hung() []Box { return o.Boxes }

// Tags lists the names of boxes.
func Tags(boxes []Box) []string {
	tags := make([]string, len(boxes))
	for i, b := range boxes {
		tags[i] = b.Name()
	}
	return tags
}

// node is a box, by its place in the list of boxes, with whatever is linked
// through from it.
type node struct {
	box  int
	kids []group
}

// group is what hangs side by side on one connector: a lone branch, or the
// branches of a series string.
type group []node

// Outputs lists the outputs of all amplifiers: every channel, or every
// bridged pair, and whatever else has something hung on it.
func Outputs(x *rig.Index) []Output {
	channels, boxes := 0, 0
	for i := range x.Rig.Devices {
		switch m := x.ModelAt(i); {
		case m.Kind == gear.KindAmplifier:
			channels += m.Amplifier.Channels
		case m.Kind == gear.KindLoudspeaker && !m.Loudspeaker.Active:
			boxes += m.Loudspeaker.PolePairs()
		}
	}
	outs := make([]Output, 0, channels)
	w := walk{x: x, boxes: make([]Box, 0, boxes)}
	for i := range x.Rig.Devices {
		d := &x.Rig.Devices[i]
		if m := x.ModelAt(i); m.Kind == gear.KindAmplifier {
			outs = w.appendOutputs(outs, d, m.Amplifier)
		}
	}
	return outs
}

func (w *walk) appendOutputs(outs []Output, d *rig.Device, a *gear.Amplifier) []Output {
	for ch := range a.Channels {
		pair := ch / 2
		if pair >= a.Pairs() {
			pair = -1
		}
		bridged := pair >= 0 && d.PairSetting(pair).Output == gear.Bridged
		if pair >= 0 && ch%2 == 0 {
			outs = w.appendOutput(outs, d, a, ch, pair, gear.BridgePort(pair), gear.Bridged, bridged)
		}
		outs = w.appendOutput(outs, d, a, ch, pair, gear.ChannelPort(ch), gear.Separate, !bridged)
	}
	return outs
}

func (w *walk) appendOutput(outs []Output, d *rig.Device, a *gear.Amplifier, ch, pair int, port string,
	mode gear.Mode, live bool) []Output {
	x, at := w.x, rig.Ref{Device: d.Tag, Port: port}
	w.boxes = w.boxes[len(w.boxes):] // after those of the outputs before
	hung := w.hanging(at, -1, nil)
	if !live && len(hung) == 0 {
		return outs
	}
	input := x.ChannelInput(d, ch, a.Channels)
	o := Output{At: at, Device: d, Amp: a, Channel: ch, Pair: pair, Mode: mode, Live: live, Input: input,
		Arrives: x.Arrives(input), Boxes: slices.Clip(w.boxes), hung: hung}
	o.Nominal = o.total(nominal).Called("load", "Z", "nominal load")
	if o.Nominal.Known() && len(o.Boxes) > 0 {
		for i, k := range o.Nominally(func(int) unit.Ohm { return 0 }).Share {
			o.Boxes[i].Share = k
		}
	}
	if mode == gear.Bridged && live {
		o.Dead = unturned(x, d, a, pair)
	}
	return append(outs, o)
}

// unturned says why a bridge gives nothing across its load: its second side is not
// turned against the first. It is "" where the bridge works.
func unturned(x *rig.Index, d *rig.Device, a *gear.Amplifier, pair int) string {
	set := d.PairSetting(pair)
	in1 := rig.Ref{Device: d.Tag, Port: gear.InputPort(2 * pair)}
	in2 := rig.Ref{Device: d.Tag, Port: gear.InputPort(2*pair + 1)}
	first, fed1 := x.Into(in1)
	second, fed2 := x.Into(in2)
	switch how := a.Inverts(); {
	case !fed1 || how == gear.BySwitch:
		return "" // unfed is a finding of its own; a switch turns the second side itself
	case how == gear.Inside && set.Input == rig.ParallelIn:
		return ""
	case how == gear.Inside && !fed2:
		return "nothing feeds " + in2.String()
	case how == gear.Inside && first.Swapped != second.Swapped:
		return "its second channel is turned inside and once more by a lead"
	case how == gear.Inside:
		return ""
	case set.Input == rig.ParallelIn:
		return "its inputs are parallel, so both sides get the same signal"
	case !fed2:
		return "nothing feeds " + in2.String()
	case how == gear.ByStage:
		return "" // whether a stage stands there is not on record
	case first.Swapped == second.Swapped:
		return "both inputs get the signal the same way round"
	}
	return ""
}

// walk reads what hangs on outputs, one after the other: their boxes stand in one list,
// with room for all of them.
type walk struct {
	x     *rig.Index
	boxes []Box // of the output at hand
}

// hanging reads what is plugged into an output or link-through, of the box
// before, -1 for the output, by the pieces of lead on the way that lead to no box.
func (w *walk) hanging(at rig.Ref, before int, by *Lead) []group {
	var groups []group
	series := map[string]int{}
	for _, k := range w.x.From(at) {
		d, m := w.x.Device(k.To.Device)
		if m == nil || m.Kind != gear.KindLoudspeaker || m.Loudspeaker.Active {
			continue // not a load; wire says what is wrong with it
		}
		pair := gear.PairOf(k.To.Port)
		if pair == 0 {
			continue
		}
		lead := Lead{Link: k, Length: w.x.LeadLength(*k), Area: w.x.LeadArea(*k), Before: before}.after(by)
		if m.Loudspeaker.Selector && d.Poles() != pair {
			groups = append(groups, w.hanging(rig.Ref{Device: d.Tag, Port: gear.PoleLink(pair)}, before, &lead)...)
			continue
		}
		speaker, way := m.Loudspeaker.WayAt(pair)
		box := Box{Tag: d.Tag, Device: d, Poles: pair, Way: way, Speaker: speaker, Lead: lead}
		n := node{box: len(w.boxes)}
		w.boxes = append(w.boxes, box)
		n.kids = w.hanging(box.Through(), n.box, nil)
		if g, known := series[k.Series]; known && k.Series != "" {
			groups[g] = append(groups[g], n)
			continue
		}
		series[k.Series] = len(groups)
		groups = append(groups, group{n})
	}
	return groups
}

// A box behind a line transformer is no impedance to add: such lines are
// planned in watts.
const planned = "it is fed through a line transformer; 70 and 100 V lines are planned by adding watts, which is out " +
	"of reach here"

func nominal(s *gear.Loudspeaker) reckon.Figure {
	if s.Transformer {
		return reckon.Unknown("nominal", "Z", "nominal impedance", planned)
	}
	return s.NominalZ()
}

func least(s *gear.Loudspeaker) reckon.Figure {
	if s.Transformer {
		return reckon.Unknown("least", "Zmin", "least impedance", planned)
	}
	return s.LeastZ()
}

// total is the load of all that hangs there, with its working.
func (o *Output) total(of func(*gear.Loudspeaker) reckon.Figure) reckon.Figure {
	if len(o.hung) == 0 {
		return reckon.Unknown("", "", "", "nothing hangs on this output")
	}
	s := sum{boxes: o.Boxes, of: of}
	z, expr := s.parallel(o.hung)
	if s.lacks != "" {
		return reckon.Unknown("", "", "", s.lacks)
	}
	f := reckon.Of("", "", "", z, expr, s.terms...).Because("parallel 1/Z = Σ 1/Zi, series Z = Σ Zi")
	if s.alike && len(s.terms) > 1 {
		one := s.terms[0]
		one.Symbol, one.What = "Z1", fmt.Sprintf("each of %d boxes", len(s.terms))
		f.Formula, f.Terms = "{Z1} / {n}", []reckon.Term{one, reckon.Count("n", "boxes in parallel", float64(len(s.terms)))}
	}
	return f.Noting(s.note)
}

// sum gathers the terms of a load while it is worked out.
type sum struct {
	boxes []Box
	of    func(*gear.Loudspeaker) reckon.Figure
	last  *gear.Loudspeaker // whose figure is at hand: boxes of one kind hang together
	z     reckon.Figure
	terms []reckon.Term
	alike bool // all boxes the same and in parallel
	lacks string
	note  string
}

// parallel adds up what hangs side by side: each branch, and all that is linked on from
// its box, for a link-through puts the next box beside it too.
func (s *sum) parallel(groups []group) (unit.Ohm, string) {
	return s.beside(s.gather(nil, groups))
}

// branch is the load of a box or a string, with its sum.
type branch struct {
	z    unit.Ohm
	expr string
}

func (s *sum) gather(all []branch, groups []group) []branch {
	for _, g := range groups {
		if len(g) > 1 {
			all = append(all, s.series(g))
			continue
		}
		all = append(all, s.own(g[0]))
		all = s.gather(all, g[0].kids)
	}
	return all
}

// beside is branches in parallel.
func (s *sum) beside(all []branch) (unit.Ohm, string) {
	if len(all) == 1 {
		return all[0].z, all[0].expr
	}
	zs := make([]unit.Ohm, len(all))
	var expr strings.Builder
	for i, b := range all {
		zs[i] = b.z
		if i == 0 {
			expr.WriteString("1 / (1/")
		} else {
			expr.WriteString(" + 1/")
		}
		expr.WriteString(b.expr)
	}
	expr.WriteByte(')')
	return unit.Parallel(zs...), expr.String()
}

// series is a string: its boxes, each with what is linked on from it, one after the
// other.
func (s *sum) series(g group) branch {
	zs := make([]unit.Ohm, len(g))
	exprs := make([]string, len(g))
	for i, n := range g {
		beside := s.gather([]branch{s.own(n)}, n.kids)
		if zs[i], exprs[i] = s.beside(beside); len(beside) > 1 {
			exprs[i] = "(" + exprs[i] + ")"
		}
	}
	s.alike = false
	return branch{unit.Series(zs...), "(" + strings.Join(exprs, " + ") + ")"}
}

// own is a box alone.
func (s *sum) own(n node) branch {
	box := &s.boxes[n.box]
	if s.last != box.Speaker {
		s.last, s.z = box.Speaker, s.of(box.Speaker)
	}
	z := s.z
	if !z.Known() && s.lacks == "" {
		s.lacks = box.Name() + ": " + z.Lacks
	}
	if z.Note != "" {
		s.note = z.Note
	}
	symbol := "Z" + strconv.Itoa(len(s.terms)+1)
	s.alike = len(s.terms) == 0 || s.alike && s.terms[0].Value == z.Value
	s.terms = append(s.terms, reckon.In(symbol, box.Name(), unit.Ohm(z.Value), z.Source))
	return branch{unit.Ohm(z.Value), "{" + symbol + "}"}
}
