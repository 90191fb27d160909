package protect_test

import (
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/protect"
	"largo/core/rigtest"
	"largo/core/unit"
)

// Dense music that leans 5 dB on the slow limiter comes out at the limit, a little under
// 300 W of a 300 W box, for it lets go more slowly than it takes hold; with the limiters off
// four times that, and a coil far hotter.
func TestAProgrammeThroughTheLimiters(t *testing.T) {
	l, _ := limits(t, on(t, big(), box(300, func(s *gear.Loudspeaker) { s.Low = unit.Of(unit.Hertz(50)) })))
	trial := protect.UsualTrial
	trial.Length = 900
	on, err := l.Run(trial)
	if err != nil {
		t.Fatal(err)
	}
	if on.OnRecord || on.Long != 48.9 {
		t.Errorf("%+v V, on record %t", on.Long, on.OnRecord)
	}
	last := on.Moments[len(on.Moments)-1]
	if last.Watts < 200 || last.Watts > 310 || last.Reduction[0] < 4 || last.Heat.Coil < last.Heat.Frame+40 {
		t.Errorf("%+v", last)
	}
	off := trial
	off.Off = true
	without, err := l.Run(off)
	if err != nil || without.Watts < 2.5*on.Watts || without.Watts > 4.6*on.Watts ||
		without.Hottest.Coil < on.Hottest.Coil+100 {
		t.Errorf("%.0f W and %.0f °C, with them %.0f W and %.0f °C, %v", without.Watts, without.Hottest.Coil, on.Watts,
			on.Hottest.Coil, err)
	}
	for say, wrong := range map[string]protect.Trial{"crest of 1": {Crest: 1, Length: 60, Attack: 1, Release: 1},
		"length of 0": {Crest: 9, Attack: 1, Release: 1}, "attack of 0": {Crest: 9, Length: 60, Release: 1}} {
		if _, err := l.Run(wrong); err == nil || !strings.Contains(err.Error(), say) {
			t.Errorf("%s: %v", say, err)
		}
	}
	bare, _ := limits(t, on2(t))
	if _, err := bare.Run(protect.UsualTrial); err == nil || !strings.Contains(err.Error(), "No limit") {
		t.Error(err)
	}
}

// on2 drives a box of which no rating is known.
func on2(t *testing.T) *rigtest.Rig {
	return on(t, big(), rigtest.Box("box", func(s *gear.Loudspeaker) { s.Continuous = unit.Given[unit.Watt]{} }))
}
