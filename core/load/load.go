// Package load derives what each amplifier output drives, by walking the
// leads from the output through every link-through and series string.
//
// Impedances are magnitudes and add as resistances: the honest sum while only
// nominal and least figures are known. Lead resistance is left out on
// purpose, for it never excuses a load that is too low.
package load

import (
	"fmt"
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
	Boxes   []Box
	Nominal reckon.Figure // load, Ω
	Least   reckon.Figure // load, Ω
}

// Box is a passive loudspeaker on an output.
type Box struct {
	Tag     string
	Device  *rig.Device
	Poles   int               // the pair of poles that this output drives, from 1
	Way     string            // what those drive, where the box has several ways
	Speaker *gear.Loudspeaker // as this output sees it: its figures are those of the way
	Share   float64           // of the output's voltage that reaches it: 1 unless in series; 0 when unknown
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

// Through is the link-through of what it is fed with.
func (b Box) Through() rig.Ref { return rig.Ref{Device: b.Tag, Port: gear.PoleLink(b.Poles)} }

// Tags lists the names of boxes.
func Tags(boxes []Box) []string {
	tags := make([]string, len(boxes))
	for i, b := range boxes {
		tags[i] = b.Name()
	}
	return tags
}

// node is a box with whatever is linked through from it.
type node struct {
	box  Box
	kids []group
}

// group is what hangs side by side on one connector: a lone branch, or the
// branches of a series string.
type group []node

// Outputs lists the outputs of all amplifiers: every channel, or every
// bridged pair, and whatever else has something hung on it.
func Outputs(x *rig.Index) []Output {
	channels := 0
	for i := range x.Rig.Devices {
		if m := x.ModelAt(i); m.Kind == gear.KindAmplifier {
			channels += m.Amplifier.Channels
		}
	}
	outs := make([]Output, 0, channels)
	for i := range x.Rig.Devices {
		d := &x.Rig.Devices[i]
		if m := x.ModelAt(i); m.Kind == gear.KindAmplifier {
			outs = appendOutputs(outs, x, d, m.Amplifier)
		}
	}
	return outs
}

func appendOutputs(outs []Output, x *rig.Index, d *rig.Device, a *gear.Amplifier) []Output {
	for ch := range a.Channels {
		pair := ch / 2
		if pair >= a.Pairs() {
			pair = -1
		}
		bridged := pair >= 0 && d.PairSetting(pair).Output == gear.Bridged
		if pair >= 0 && ch%2 == 0 {
			outs = appendOutput(outs, x, d, a, ch, pair, gear.BridgePort(pair), gear.Bridged, bridged)
		}
		outs = appendOutput(outs, x, d, a, ch, pair, gear.ChannelPort(ch), gear.Separate, !bridged)
	}
	return outs
}

func appendOutput(outs []Output, x *rig.Index, d *rig.Device, a *gear.Amplifier, ch, pair int, port string,
	mode gear.Mode, live bool) []Output {
	at := rig.Ref{Device: d.Tag, Port: port}
	hung := hanging(x, at)
	if !live && len(hung) == 0 {
		return outs
	}
	input := x.ChannelInput(d, ch, a.Channels)
	o := Output{At: at, Device: d, Amp: a, Channel: ch, Pair: pair, Mode: mode, Live: live, Input: input,
		Arrives: x.Arrives(input)}
	o.Nominal = total(hung, nominal).Called("load", "Z", "nominal load")
	o.Least = total(hung, least).Called("least", "Zmin", "least load in the band")
	o.Boxes = flatten(nil, hung, 1, o.Nominal.Known())
	return append(outs, o)
}

// hanging reads what is plugged into an output or link-through.
func hanging(x *rig.Index, at rig.Ref) []group {
	var groups []group
	series := map[string]int{}
	for _, k := range x.From(at) {
		d, m := x.Device(k.To.Device)
		if m == nil || m.Kind != gear.KindLoudspeaker || m.Loudspeaker.Active {
			continue // not a load; wire says what is wrong with it
		}
		pair := gear.PairOf(k.To.Port)
		if pair == 0 {
			continue
		}
		speaker, way := m.Loudspeaker.WayAt(pair)
		box := Box{Tag: d.Tag, Device: d, Poles: pair, Way: way, Speaker: speaker}
		n := node{box: box, kids: hanging(x, box.Through())}
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

// total is the load of groups side by side, with its working.
func total(hung []group, of func(*gear.Loudspeaker) reckon.Figure) reckon.Figure {
	if len(hung) == 0 {
		return reckon.Unknown("", "", "", "nothing hangs on this output")
	}
	var s sum
	z, expr := s.parallel(hung, of)
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
	terms []reckon.Term
	alike bool // all boxes the same and in parallel
	lacks string
	note  string
}

func (s *sum) parallel(groups []group, of func(*gear.Loudspeaker) reckon.Figure) (unit.Ohm, string) {
	zs := make([]unit.Ohm, len(groups))
	exprs := make([]string, len(groups))
	for i, g := range groups {
		zs[i], exprs[i] = s.series(g, of)
	}
	if len(groups) == 1 {
		return zs[0], exprs[0]
	}
	return unit.Parallel(zs...), "1 / (1/" + strings.Join(exprs, " + 1/") + ")"
}

func (s *sum) series(g group, of func(*gear.Loudspeaker) reckon.Figure) (unit.Ohm, string) {
	if len(g) == 1 {
		return s.branch(g[0], of)
	}
	zs := make([]unit.Ohm, len(g))
	exprs := make([]string, len(g))
	for i, n := range g {
		zs[i], exprs[i] = s.branch(n, of)
	}
	s.alike = false
	return unit.Series(zs...), "(" + strings.Join(exprs, " + ") + ")"
}

func (s *sum) branch(n node, of func(*gear.Loudspeaker) reckon.Figure) (unit.Ohm, string) {
	z := of(n.box.Speaker)
	if !z.Known() && s.lacks == "" {
		s.lacks = n.box.Name() + ": " + z.Lacks
	}
	if z.Note != "" {
		s.note = z.Note
	}
	own := unit.Ohm(z.Value)
	symbol := fmt.Sprintf("Z%d", len(s.terms)+1)
	s.alike = len(s.terms) == 0 || s.alike && s.terms[0].Value == z.Value
	s.terms = append(s.terms, reckon.In(symbol, n.box.Name(), own, z.Source))
	expr := "{" + symbol + "}"
	if len(n.kids) == 0 {
		return own, expr
	}
	linked, more := s.parallel(n.kids, of)
	return unit.Parallel(own, linked), "(1 / (1/" + expr + " + 1/" + more + "))"
}

// flatten lists the boxes in the order of the leads, with the share of the
// output's voltage that each gets.
func flatten(boxes []Box, groups []group, share float64, known bool) []Box {
	for _, g := range groups {
		shares := make([]float64, len(g))
		if known {
			var whole unit.Ohm
			for i, n := range g {
				z := branchZ(n)
				shares[i], whole = float64(z), whole+z
			}
			for i := range shares {
				shares[i] *= share / float64(whole)
			}
		}
		for i, n := range g {
			n.box.Share = shares[i]
			boxes = append(boxes, n.box)
			boxes = flatten(boxes, n.kids, shares[i], known)
		}
	}
	return boxes
}

// branchZ is the nominal impedance of a box with all that is linked on from it.
// Unlike branch it writes no sum, for it is asked for at every box of a chain.
func branchZ(n node) unit.Ohm {
	own := unit.Ohm(nominal(n.box.Speaker).Value)
	if len(n.kids) == 0 {
		return own
	}
	admittance := 1 / float64(own)
	for _, g := range n.kids {
		var z unit.Ohm
		for _, member := range g {
			z += branchZ(member)
		}
		admittance += 1 / float64(z)
	}
	return unit.Ohm(1 / admittance)
}
