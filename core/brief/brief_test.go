package brief_test

import (
	"math"
	"testing"

	"largo/core/brief"
	"largo/core/finding"
	"largo/core/rig"
	"largo/core/unit"
)

func TestTimeAtALevel(t *testing.T) {
	// NIOSH 98-126, table 1-1 (from memory): 85 dBA 8 h, 88 dBA 4 h, 94 dBA 1 h,
	// 100 dBA 15 min, 91 dBA 2 h.
	for level, hours := range map[unit.Decibel]float64{85: 8, 88: 4, 91: 2, 94: 1, 100: 0.25} {
		v, _ := brief.Judge(rig.NewRig(rig.Brief{Title: "T", Wanted: unit.Of(level)}))
		if got := v.Stay.Value / 3600; math.Abs(got-hours) > 1e-9 {
			t.Errorf("%v: %v h, want %v h", level, got, hours)
		}
	}
}

func TestGuess(t *testing.T) {
	// 1 W a listener for speech indoors, twice with low end, about three times
	// outdoors: common practice, no source.
	for _, c := range []struct {
		brief rig.Brief
		want  float64
	}{
		{rig.Brief{Listeners: 200, Programme: rig.Speech}, 200},
		{rig.Brief{Listeners: 200, Programme: rig.LowMusic}, 400},
		{rig.Brief{Listeners: 200, Programme: rig.LowMusic, Outdoors: true}, 1200},
	} {
		if v, _ := brief.Judge(rig.NewRig(c.brief)); v.Guess.Value != c.want {
			t.Errorf("%+v: %s, want %v W", c.brief, v.Guess.Text(), c.want)
		}
	}
	if v, _ := brief.Judge(rig.NewRig(rig.Brief{})); v.Guess.Known() {
		t.Error("nobody knows how many come, and yet there is a guess")
	}
}

func TestFindings(t *testing.T) {
	_, fs := brief.Judge(rig.NewRig(rig.Brief{Title: "T"}))
	if len(fs) != 3 {
		t.Errorf("an empty brief lacks level, distance and mains: %+v", fs)
	}
	// WHO global standard for safe listening venues: 100 dB LAeq,15min (2022; from memory).
	full := rig.Brief{Title: "T", Distance: unit.Of(unit.Metre(10)), Region: rig.Region230}
	for level, want := range map[unit.Decibel]int{100: 0, 101: 1} {
		full.Wanted = unit.Of(level)
		_, fs := brief.Judge(rig.NewRig(full))
		if len(fs) != want || want == 1 && fs[0].Danger != finding.People {
			t.Errorf("%v: %+v", level, fs)
		}
	}
}
