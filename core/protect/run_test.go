package protect_test

import (
	"math"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/limiter"
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

// A recording takes the place of the noise, over and over: of a sine of half of full scale
// the average is set 3 dB under the limit, nothing is turned down, and 300 W/2 arrive.
func TestARecordingThroughTheLimiters(t *testing.T) {
	l, _ := limits(t, on(t, big(), box(300, func(s *gear.Loudspeaker) { s.Low = unit.Of(unit.Hertz(50)) })))
	played := 0
	trial := protect.UsualTrial
	trial.Length, trial.Over = 30, -3.0103
	trial.Recorded = &protect.Recording{Rate: 8000, RMS: 0.5 / math.Sqrt2, Play: func() (limiter.Source, error) {
		played++
		n := 0
		return func(buffer []float64) (int, error) {
			got := min(len(buffer), 80000-n)
			for i := range got {
				buffer[i] = 0.5 * math.Sin(2*math.Pi*200*float64(n+i)/8000)
			}
			n += got
			return got, nil
		}, nil
	}}
	ran, err := l.Run(trial)
	if err != nil || played < 3 || played > 4 || math.Abs(ran.Seconds-30) > 0.1 {
		t.Fatalf("played %d times, %g s, %v", played, ran.Seconds, err)
	}
	want := 48.9 * 48.9 / 8 / 2
	if math.Abs(ran.Watts-want) > 1 || ran.Moments[len(ran.Moments)-1].Reduction[0] > 0.01 {
		t.Errorf("%.1f W, want %.1f", ran.Watts, want)
	}
	trial.Recorded.Play = func() (limiter.Source, error) { return func([]float64) (int, error) { return 0, nil }, nil }
	if ran, err := l.Run(trial); err != nil || ran.Seconds > 1 {
		t.Errorf("a recording of nothing: %g s, %v", ran.Seconds, err)
	}
}

// on2 drives a box of which no rating is known.
func on2(t *testing.T) *rigtest.Rig {
	return on(t, big(), rigtest.Box("box", func(s *gear.Loudspeaker) { s.Continuous = unit.Given[unit.Watt]{} }))
}
