package wire_test

import (
	"strings"
	"testing"

	"largo/core/finding"
	"largo/core/load"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
	"largo/core/wire"
)

// Half a decibel in the leads is usual, more is found (common practice, no
// source). 2.5 mm² into 8 Ω: 34 m lose 0.494 dB, 35 m 0.508 (voltage divider).
func TestAThinLead(t *testing.T) {
	for metres, thin := range map[unit.Metre]bool{10: false, 34: false, 35: true, 80: true} {
		r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1")
		r.Do(rig.Connect{Link: rig.Link{From: rigtest.Ref("A1/out A"), To: rigtest.Ref("B1/in"), Length: unit.Of(metres),
			Area: unit.Of(unit.SquareMillimetre(2.5))}})
		_, fs := judge(r.Rig)
		found := false
		for _, f := range fs {
			found = found || strings.Contains(f.Code, "thin")
		}
		if found != thin {
			t.Errorf("%s: found %v", metres, found)
		}
	}
}

// What a reading says of one 8 Ω box, which shows 5 to 7 Ω: under two fifths of
// the least near a short, a little under it one box too many, a little over it
// a bad contact, far over it nothing connected (common practice, no source).
func TestReadingsAtTheirThresholds(t *testing.T) {
	for read, says := range map[unit.DC]string{1.9: "near a short", 2.1: "one more hangs", 4.7: "one more hangs",
		4.8: "as it should be", 7.3: "as it should be", 7.5: "bad contact", 23: "bad contact", 25: "open: nothing"} {
		r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1").Plug("A1/out A", "B1/in")
		r.Do(rig.RecordReading{At: rigtest.Ref("A1/out A"), DC: unit.Of(read)})
		x := rig.NewIndex(r.Rig)
		tests, _ := lineTests(x, load.Outputs(x))
		if !strings.Contains(tests[0].Says, says) {
			t.Errorf("%s: %q, want %q", read, tests[0].Says, says)
		}
	}
}

// lineTests are the lines of a rig, as its stage finds them.
func lineTests(x *rig.Index, outs []load.Output) ([]wire.LineTest, []finding.Finding) {
	return wire.LineTests(outs)
}
