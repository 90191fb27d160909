package protect_test

import (
	"math"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/rigtest"
	"largo/core/unit"
)

// A quarter, a half and the whole of 1,000 W into 8 Ω: 44.72, 63.25 and 89.44 V; 35.23,
// 38.24 and 41.25 dBu without gain (V = √(P Z), 0 dBu = √0.6 V); 12.55, 9.54 and 6.53 dB
// under the 189.7 V at which 4,500 W clip. No step stands above the clip.
func TestStepsOfALimit(t *testing.T) {
	r := on(t, big(), box(1000, func(s *gear.Loudspeaker) { s.HighPass = unit.Of(unit.Hertz(40)) }))
	l, _ := limits(t, r)
	steps := l.Steps()
	if len(steps) != 3 {
		t.Fatalf("%d steps", len(steps))
	}
	for i, want := range []struct{ volts, watts, in, under float64 }{{44.721, 250, 35.229, 12.553},
		{63.246, 500, 38.239, 9.542}, {89.443, 1000, 41.249, 6.532}} {
		s := steps[i]
		rigtest.Near(t, s.Name+", V", s.Volts.Value, want.volts, 1e-3)
		rigtest.Near(t, s.Name+", W", s.Watts.Value, want.watts, 1e-6)
		rigtest.Near(t, s.Name+", dBu", s.In.Value, want.in, 1e-3)
		rigtest.Near(t, s.Name+", under clip", s.Under.Value, want.under, 1e-3)
		if s.Full.Known() {
			t.Errorf("%s below a full scale that nobody knows: %v", s.Name, s.Full)
		}
	}
	// One period of 40 Hz is 25 ms.
	rigtest.Near(t, "attack", l.Attack().Value, 0.025, 1e-9)
	rigtest.Near(t, "release", l.Release().Value, 0.25, 1e-9)
	small, _ := limits(t, on(t, rigtest.Amp("amp"), box(1000)))
	if whole := small.Steps()[2]; whole.Volts.Value != small.Clip().Value || whole.Under.Value != 0 {
		t.Errorf("a limit of %s over a clip of %s", whole.Volts.Text(), small.Clip().Text())
	}
	if small.Attack().Known() {
		t.Error("an attack of a band that nobody knows")
	}
}

// Against a desk of +22 dBu a limit of +3.23 dBu at the amplifier stands 18.77 dB under
// its full scale.
func TestStepsAgainstFullScale(t *testing.T) {
	desk := rigtest.Desk()
	desk.Mixer.LargestOut = unit.Of(unit.DBu(22))
	amp := big(func(a *gear.Amplifier) { a.Gain = unit.Of(unit.Decibel(32)) })
	l, _ := limits(t, rigtest.New(t).Add(rigtest.Player(), "PLAYER").Add(desk, "DESK").Add(amp, "A1").
		Add(box(250), "B1").Plug("PLAYER/out", "DESK/in 1").Plug("DESK/main L", "A1/in 1").Plug("A1/out A", "B1/in"))
	rigtest.Near(t, "full scale", l.Steps()[2].Full.Value, 3.229-22, 1e-3)
}

// A setting means what its unit says: on 4,500 W into 8 Ω with 32 dB of gain, behind a
// desk of +22 dBu, a box of 250 W stands 44.72 V rms. 44.72 V, 63.25 V peak, +3.23 dBu,
// −18.77 dBFS and 250 W are one and the same; 12.55 dB under the clip of 189.7 V too
// (U = √(P Z), a sine's peak is √2 of it, 0 dBu = √0.6 V).
func TestWhatASettingMeans(t *testing.T) {
	desk := rigtest.Desk()
	desk.Mixer.LargestOut = unit.Of(unit.DBu(22))
	amp := big(func(a *gear.Amplifier) { a.Gain = unit.Of(unit.Decibel(32)) })
	l, _ := limits(t, rigtest.New(t).Add(rigtest.Player(), "PLAYER").Add(desk, "DESK").Add(amp, "A1").
		Add(box(250), "B1").Plug("PLAYER/out", "DESK/in 1").Plug("DESK/main L", "A1/in 1").Plug("A1/out A", "B1/in"))
	for _, says := range []string{"44.72 V", "44.72 V rms", "63.25 V peak", "+3.229 dBu", "−18.771 dBFS", "250 W",
		"-12.553 dB"} {
		m, err := l.Means(says)
		if err != nil || m.Wrong || math.Abs(m.Volts.Value-44.721) > 0.005 || math.Abs(m.Watts.Value-250) > 0.06 {
			t.Errorf("%s: %s, %s, wrong %v: %s %v", says, m.Volts.Text(), m.Watts.Text(), m.Wrong, m.Says, err)
		}
	}
	for says, want := range map[string]string{"60 V": "2.6 dB over what B1 stands",
		"200 V": "clips at 189.7 V rms, before", "22.36 V": "6.0 dB under what B1 stands"} {
		if m, err := l.Means(says); err != nil || !strings.Contains(m.Says, want) || m.Wrong != (says != "22.36 V") {
			t.Errorf("%s: %q, wrong %v, %v", says, m.Says, m.Wrong, err)
		}
	}
	for _, says := range []string{"", "loud", "0 V", "-3 V", "1e9 V", "900 dBu", "5 ohm"} {
		if m, err := l.Means(says); err == nil {
			t.Errorf("%q is taken as %s", says, m.Volts.Text())
		}
	}
	unsaid, _ := limits(t, on(t, big(), box(250)))
	if m, err := unsaid.Means("-3 dBFS"); err != nil || !m.Wrong ||
		!strings.Contains(m.Says, "the largest level of DESK is not on record") {
		t.Errorf("%+v, %v", m, err)
	}
}
