package wire

import (
	"fmt"
	"math"

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

	load *reckon.Figure // nominal, Ω
	loop float64        // of the lead, there and back, Ω
}

// Low is the least DC reading to expect, Ω.
func (t LineTest) Low() reckon.Figure { return t.expected("dcLow", "least DC reading", dcShare[0]) }

// High is the most DC reading to expect, Ω.
func (t LineTest) High() reckon.Figure { return t.expected("dcHigh", "most DC reading", dcShare[1]) }

func (t LineTest) expected(key, name string, share float64) reckon.Figure {
	if t.Words != "" {
		return reckon.Unknown(key, "Rdc", name, t.Words)
	}
	return expected(key, name, *t.load, share, t.loop)
}

// dcShare is the DC resistance of a box over its nominal impedance: an 8 Ω
// box shows 5 to 7 Ω (common practice, no source).
var dcShare = [2]float64{5.0 / 8, 7.0 / 8}

// LineTests lists the speaker lines of a rig, whose leads are known already.
func LineTests(outs []load.Output, leads []Lead) ([]LineTest, []finding.Finding) {
	loops := make(map[rig.Ref]float64, len(leads))
	for _, l := range leads {
		loops[l.Link.From] = l.Resistance.Value
	}
	tests := make([]LineTest, 0, len(outs))
	var fs []finding.Finding
	for i := range outs {
		o := &outs[i]
		if len(o.Boxes) == 0 {
			continue
		}
		t := lineTest(o, loops[o.At])
		tests = append(tests, t)
		if t.Wrong {
			fs = append(fs, t.finding())
		}
	}
	return tests, fs
}

func lineTest(o *load.Output, loop float64) LineTest {
	t := LineTest{At: o.At, Boxes: len(o.Boxes), Read: o.Device.Reading(o.At.Port), load: &o.Nominal,
		loop: loop}
	r, read := t.Read.Get()
	if words, judge := unusual(o); words != "" {
		t.Words = words
		if read {
			t.Says, t.Wrong = judge(float64(r) - loop)
		}
		return t
	}
	if read && o.Nominal.Known() {
		t.Says, t.Wrong = meaning(float64(r)-loop, o.Nominal.Value, len(o.Boxes))
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

func expected(key, name string, z reckon.Figure, share, loop float64) reckon.Figure {
	if !z.Known() {
		return reckon.Unknown(key, "Rdc", name, z.Lacks)
	}
	f := reckon.Of(key, "Rdc", name, unit.Ohm(share*z.Value+loop), "{s} × {Z} + {Rlead}",
		reckon.Count("s", "DC over nominal", share), z.As("Z"),
		reckon.In("Rlead", "lead, there and back", unit.Ohm(loop),
			"")).Because("an 8 Ω box shows 5 to 7 Ω: common practice, no source")
	if loop == 0 {
		f = f.Noting("The lead's own resistance is not known and left out.")
	}
	return f
}

// meaning says what a reading, less its lead, means for n boxes whose nominal
// load together is z. One box of n missing reads n/(n−1) times as much.
func meaning(r, z float64, n int) (says string, wrong bool) {
	low, high := dcShare[0]*z, dcShare[1]*z
	connected := float64(n) * (low + high) / 2 / r
	switch k := int(math.Round(connected)); {
	case r >= 0.95*low && r <= 1.05*high:
		return "as it should be", false
	case r < 0.4*low:
		return "near a short: a crushed lead, touching strands, or a transformer in the line", true
	case r < low:
		return "less than these boxes should show: one more hangs on the line, or one of another kind", true
	case k >= 1 && k < n:
		return fmt.Sprintf("reads like %d of the %d boxes; the rest are not connected", k, n), true
	case connected < 0.25:
		return "open: nothing is connected, a lead is broken, or the way is fed through a capacitor", true
	}
	return "more than these boxes should show: a bad contact, or boxes of another kind", true
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
