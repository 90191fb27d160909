package wire

import (
	"fmt"
	"maps"
	"slices"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
	"largo/core/words"
)

// LineTest is what an ohmmeter should show across a speaker line, with the
// amplifier unplugged from it and off, and what it did show.
type LineTest struct {
	At    rig.Ref
	Boxes int
	Words string // what should be read, where no figure can say it
	Read  unit.Given[unit.DC]
	Says  string // what the reading means; "" while there is none
	Wrong bool

	out *load.Output
}

// Low is the least DC reading to expect, Ω.
func (t LineTest) Low() reckon.Figure { return t.expected("dcLow", "least DC reading", 0) }

// High is the most DC reading to expect, Ω.
func (t LineTest) High() reckon.Figure { return t.expected("dcHigh", "most DC reading", 1) }

func (t LineTest) expected(key, name string, end int) reckon.Figure {
	switch {
	case t.Words != "":
		return reckon.Unknown(key, "Rdc", name, t.Words)
	case !t.out.Nominal.Known():
		return reckon.Unknown(key, "Rdc", name, t.out.Nominal.Lacks)
	}
	f := reckon.Of(key, "Rdc", name, unit.Ohm(spread(t.out, nil)[end]), "boxes at "+dcWords[end]+" of nominal, and leads").
		Because("an 8 Ω box shows 5 to 7 Ω: common practice, no source")
	for _, b := range t.out.Boxes {
		if !b.Lead.Known() {
			return f.Noting("The resistance of the lead to " + b.Name() + " is not known and left out.")
		}
	}
	return f
}

// dcShare is the DC resistance of a box over its nominal impedance: an 8 Ω
// box shows 5 to 7 Ω (common practice, no source).
var dcShare = [2]float64{5.0 / 8, 7.0 / 8}

var dcWords = [2]string{"5/8", "7/8"}

// reSpread is how far a box whose DC resistance is on record may lie from it: the
// spread of coils and of a meter's own leads (common practice, no source).
const reSpread = 0.05

// dcOf is the least and the most DC that a box shows.
func dcOf(s *gear.Loudspeaker) [2]float64 {
	if s.Blocked == gear.Yes {
		return [2]float64{noPath, noPath}
	}
	if s.Driver != nil {
		if re, known := s.Driver.Re.Get(); known {
			return [2]float64{float64(re) * (1 - reSpread), float64(re) * (1 + reSpread)}
		}
	}
	z := float64(s.Nominal.Or(0))
	return [2]float64{dcShare[0] * z, dcShare[1] * z}
}

// noPath stands for a box that no DC goes through, Ω.
const noPath = 1e12

// spread is the least and the most that a line shows while some of its boxes are
// not connected.
func spread(o *load.Output, missing []int) (ends [2]float64) {
	leads := o.LeadsAt(20)
	for end := range ends {
		ends[end] = float64(o.At1V(func(i int) unit.Ohm {
			if slices.Contains(missing, i) {
				return noPath
			}
			return unit.Ohm(dcOf(o.Boxes[i].Speaker)[end])
		}, leads).Seen)
	}
	return ends
}

// LineTests lists the speaker lines of a rig.
func LineTests(outs []load.Output) ([]LineTest, []finding.Finding) {
	tests := make([]LineTest, 0, len(outs))
	var fs []finding.Finding
	for i := range outs {
		o := &outs[i]
		if len(o.Boxes) == 0 {
			continue
		}
		t := lineTest(o)
		tests = append(tests, t)
		if t.Wrong {
			fs = append(fs, t.finding())
		}
	}
	return tests, fs
}

func lineTest(o *load.Output) LineTest {
	t := LineTest{At: o.At, Boxes: len(o.Boxes), Read: o.Device.Reading(o.At.Port), out: o}
	r, read := t.Read.Get()
	if words, judge := unusual(o); words != "" {
		t.Words = words
		if read {
			t.Says, t.Wrong = judge(float64(r))
		}
		return t
	}
	if read && o.Nominal.Known() {
		t.Says, t.Wrong = meaning(o, float64(r))
	}
	return t
}

// unusual tells what a line should show that an ohmmeter cannot measure the
// boxes of: one fed through transformers, or through capacitors alone.
func unusual(o *load.Output) (words string, judge func(r float64) (string, bool)) {
	blocked, transformers := 0, 0
	for _, b := range o.Boxes {
		if b.Speaker.Transformer {
			transformers++
		} else if b.Speaker.Blocked == gear.Yes {
			blocked++
		}
	}
	switch {
	case transformers == len(o.Boxes):
		return "near a short: transformers", func(r float64) (string, bool) {
			if r <= transformerDC {
				return "as it should be", false
			}
			return "more than transformers should show: a lead is open, or the boxes hang on it without theirs", true
		}
	case blocked == len(o.Boxes):
		return "open: fed through a capacitor", func(r float64) (string, bool) {
			if r >= openDC {
				return "as it should be", false
			}
			return "less than open: the capacitor is shorted, or another way hangs on the line", true
		}
	}
	return "", nil
}

// A line of transformers shows less than this, one fed through capacitors
// more, Ω (common practice, no source).
const transformerDC, openDC = 5.0, 10000.0

// slack is how far a reading may lie outside what good boxes show: the meter's own
// error and its leads (common practice, no source).
const slack = 0.05

func within(r float64, ends [2]float64) bool { return r >= ends[0]*(1-slack) && r <= ends[1]*(1+slack) }

// meaning says what a reading means. That boxes are missing is said only where the
// reading lies beyond what all of them may show, and within what the rest does.
func meaning(o *load.Output, r float64) (says string, wrong bool) {
	good := spread(o, nil)
	switch {
	case within(r, good):
		return "as it should be", false
	case r < 0.4*good[0]:
		return "near a short: a crushed lead, touching strands, or a transformer in the line", true
	case r < good[0]:
		return "less than these boxes should show: one more hangs on the line, or one of another kind", true
	case r >= openDC || r > 4*widest(o):
		return "open: nothing is connected, a lead is broken, or the way is fed through a capacitor", true
	}
	if lost := pulled(o, r); len(lost) > 0 {
		return missing(o, lost), true
	}
	return "more than these boxes should show: a bad contact, or boxes of another kind", true
}

// widest is more than the boxes of a line show however they are joined: all one
// after another, Ω.
func widest(o *load.Output) (most float64) {
	for i := range o.Boxes {
		if dc := dcOf(o.Boxes[i].Speaker); dc[1] < noPath {
			most += (dc[0] + dc[1]) / 2
		}
	}
	return most
}

// mostPulled is how many boxes a line may have for pairs of pulled leads to be
// tried as well as single ones.
const mostPulled = 16

// pulled lists the sets of boxes without which the line would show a reading, for
// one pulled lead; where none does, for two.
func pulled(o *load.Output, r float64) (sets [][]int) {
	silent := o.Sides()
	try := func(lost []int) {
		slices.Sort(lost)
		lost = slices.Compact(lost)
		if len(lost) < len(o.Boxes) && within(r, spread(o, lost)) {
			sets = append(sets, lost)
		}
	}
	for _, lost := range silent {
		try(slices.Clone(lost))
	}
	if len(sets) > 0 || len(silent) > mostPulled {
		return sets
	}
	for i := range silent {
		for j := range i {
			try(slices.Concat(silent[i], silent[j]))
		}
	}
	return sets
}

// missing says how many boxes a reading shows, and which are not connected where
// only some could be.
func missing(o *load.Output, sets [][]int) string {
	counts := map[int]bool{}
	for _, lost := range sets {
		counts[len(o.Boxes)-len(lost)] = true
	}
	least, most := slices.Min(slices.Collect(maps.Keys(counts))), slices.Max(slices.Collect(maps.Keys(counts)))
	text := fmt.Sprintf("reads like %d of the %d boxes", least, len(o.Boxes))
	if most > least {
		text = fmt.Sprintf("reads like %d to %d of the %d boxes", least, most, len(o.Boxes))
	}
	first := sets[0]
	if !slices.ContainsFunc(sets, func(s []int) bool { return !slices.Equal(s, first) }) {
		var names []string
		for _, i := range first {
			names = append(names, o.Boxes[i].Name())
		}
		return fmt.Sprintf("%s; %s %s not connected", text, words.List(names), words.Is(len(names)))
	}
	return text + "; the rest are not connected"
}

func (t LineTest) finding() finding.Finding {
	f := at(t.At, "wire.line-reading", finding.Gear, finding.Mend)
	f.What = fmt.Sprintf("The line of %s reads %s; %s to %s are expected.", t.At, t.Read, t.Low().Text(), t.High().Text())
	if t.Words != "" {
		f.What = fmt.Sprintf("The line of %s reads %s; it should read %s.", t.At, t.Read, t.Words)
	}
	f.Why = words.Capital(t.Says) + "."
	if t.Words == "" {
		f.Figures = []reckon.Figure{t.Low(), t.High()}
	}
	f.Advice = "Pull the line at the amplifier and halve it until the fault is found; then read it again."
	return f
}
