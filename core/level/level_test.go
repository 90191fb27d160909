package level_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/level"
	"largo/core/load"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/survey"
	"largo/core/unit"
)

func judge(r rig.Rig) (level.Verdict, []finding.Finding) {
	x := rig.NewIndex(r)
	return level.Judge(x, drive.Outputs(x, load.Outputs(x)))
}

// sending is a desk whose outputs go up to a level, that drives B1 and B2 from both
// channels of one amplifier.
func sending(t *testing.T, most unit.DBu) *rigtest.Rig {
	desk := rigtest.Desk()
	if !math.IsNaN(float64(most)) {
		desk.Mixer.LargestOut = unit.Of(most)
	}
	return rigtest.New(t).Add(rigtest.Player(), "PLAYER").Add(desk, "DESK").Add(rigtest.Amp("amp"), "A1").
		Add(rigtest.Box("box"), "B1", "B2").Plug("PLAYER/out", "DESK/in 1").Plug("DESK/main L", "A1/in 1").
		Plug("DESK/main R", "A1/in 2").Plug("A1/out A", "B1/in").Plug("A1/out B", "B2/in")
}

func has(fs []finding.Finding, code string) int {
	return slices.IndexFunc(fs, func(f finding.Finding) bool { return f.Code == code })
}

// 350 W into 8 Ω are √2800 = 52.92 V, 36.69 dBu; less 32 dB of gain the amplifier clips
// with +4.69 dBu at its input (0 dBu = √0.6 V). A desk of +22 dBu has 17.31 dB to spare,
// and its knob matches it 17 dB down; one of 0 dBu clips 4.69 dB before.
func TestWhatClipsFirst(t *testing.T) {
	r := sending(t, 22)
	v, fs := judge(r.Rig)
	rigtest.Near(t, "clip at the input", v.Lines[0].ClipIn().Value, 4.69, 0.005)
	rigtest.Near(t, "to spare", v.Lines[0].Spare().Value, 17.31, 0.005)
	i := has(fs, "level.source-hot")
	if i < 0 || fs[i].Gravity != finding.Mind || !strings.Contains(fs[i].What, "With knob A of A1 fully up") {
		t.Fatalf("%+v", fs)
	}
	for has(fs, "level.source-hot") >= 0 {
		r.Do(fs[has(fs, "level.source-hot")].Mends[0].Edit)
		_, fs = judge(r.Rig)
	}
	if d, _ := r.Device("A1"); len(d.Amp.Knobs) != 2 || d.Amp.Knobs[0].Down != 17 {
		t.Errorf("%+v", d.Amp)
	}
	short, fs := judge(sending(t, 0).Rig)
	rigtest.Near(t, "the desk clips first", short.Lines[0].Spare().Value, -4.69, 0.005)
	if i := has(fs, "level.source-short"); i < 0 || len(fs[i].Mends) > 0 || !strings.Contains(fs[i].What,
		"DESK clips 4.7 dB before A1 out A does.") {
		t.Errorf("%+v", fs)
	}
}

// A knob that is down is turned up by as much as is lacking, and no further.
func TestAKnobIsTurnedUp(t *testing.T) {
	r := sending(t, 4).Do(rig.SetKnob{Tag: "A1", Set: rig.Knob{Channel: 0, Down: 12}})
	_, fs := judge(r.Rig)
	i := has(fs, "level.source-short") // +4 − (4.69 + 12) = −12.69 dB
	if i < 0 || len(fs[i].Mends) != 1 {
		t.Fatalf("%+v", fs)
	}
	v, _ := judge(r.Do(fs[i].Mends[0].Edit).Rig)
	rigtest.Near(t, "fully up", v.Lines[0].Spare().Value, -0.69, 0.005)
}

// Boxes of one model for the same listeners are driven alike, to half a decibel; what is
// not on record says nothing.
func TestGainsAreMatched(t *testing.T) {
	knob := func(a, b unit.Decibel) []finding.Finding {
		_, fs := judge(sending(t, 12).Do(rig.SetKnob{Tag: "A1", Set: rig.Knob{Channel: 0, Down: a}}).
			Do(rig.SetKnob{Tag: "A1", Set: rig.Knob{Channel: 1, Down: b}}).Rig)
		return fs
	}
	if fs := knob(3, 3.5); has(fs, "level.unlike") >= 0 {
		t.Errorf("half a decibel: %+v", fs)
	}
	fs := knob(3, 6)
	i := has(fs, "level.unlike")
	if i < 0 || fs[i].At.Port != gear.ChannelPort(0) || !strings.Contains(fs[i].What, "3.0 dB louder") {
		t.Fatalf("%+v", fs)
	}
	if e := fs[i].Mends[0].Edit.(rig.SetKnob); e.Set.Down != 6 {
		t.Errorf("turned to %s", e.Set.Down)
	}
	_, fs = judge(sending(t, 12).Do(rig.SetKnob{Tag: "A1", Set: rig.Knob{Channel: 0, Down: 9}}).Rig)
	if has(fs, "level.unlike") >= 0 {
		t.Error("a knob that nobody noted is taken as fully up")
	}
}

// Nothing is fine of which nothing is known.
func TestUnknownIsNotFine(t *testing.T) {
	report := survey.Survey(sending(t, unit.DBu(math.NaN())).Rig)
	if !report.Empty(finding.Level) || !strings.Contains(report.Says(finding.Level), "Nobody knows what clips first") {
		t.Error(report.Says(finding.Level))
	}
	if said := survey.Survey(sending(t, 12).Rig).Says(finding.Level); !strings.Contains(said, "7.3 dB to spare") {
		t.Error(said)
	}
	stopped := survey.Survey(sending(t, 12).Add(rigtest.Box("box"), "B3", "B4").Plug("B1/link", "B3/in").
		Plug("B3/link", "B4/in").Rig)
	said, worst := stopped.Says(finding.Level), stopped.Worst(finding.Level)
	if strings.Contains(said, "to spare") || worst < finding.Mend {
		t.Errorf("at stop: %q, %s", said, worst)
	}
}
