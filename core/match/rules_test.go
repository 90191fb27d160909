package match_test

import (
	"math"
	"slices"
	"testing"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

// Rules of the trade, each at both sides of its threshold.

// A limiter holds a box at twice its continuous rating, the peak of a rating
// with 6 dB crest (AES2-1984, IEC 60268-5; from memory): more power makes it no
// louder.
func TestLevelIsHeldAtTwiceTheRating(t *testing.T) {
	for watts, counts := range map[unit.Watt]float64{500: 500, 700: 700, 710: 700, 1500: 700} {
		amp := rigtest.Amp("amp", func(a *gear.Amplifier) {
			a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: watts}}
		})
		v, _ := judge(rigtest.Hung(t, amp, rigtest.Box("box"), 1).Rig)
		rigtest.Near(t, watts.String(), v.Decides().Level.Value, 97+10*math.Log10(counts)-20, 1e-9)
	}
}

// The sheet's largest level of an active box is a peak, 3.01 dB over a full
// sine (a sine's crest): 130 dB at 1 m are 130 − 3.01 − 20 lg 10 at 10 m.
func TestAnActiveBoxIsAPeak(t *testing.T) {
	active := rigtest.Box("active",
		func(s *gear.Loudspeaker) { *s = gear.Loudspeaker{Active: true, MaxSPL: unit.Of(unit.Decibel(130))} })
	r := rigtest.New(t).Add(rigtest.Player(), "PLAYER").Add(rigtest.Desk(), "DESK").Add(active, "B1").Plug("PLAYER/out",
		"DESK/in 1").Plug("DESK/main L", "B1/in")
	v, _ := judge(r.Rig)
	rigtest.Near(t, "one", v.Decides().Level.Value, 130-10*math.Log10(2)-20, 0.001)
}

// Subwoofers close together add in step: two are 6.02 dB louder than one, four
// 12.04 (20 lg n; pressures add).
func TestSubsAddInStep(t *testing.T) {
	sub := rigtest.Box("sub", func(s *gear.Loudspeaker) { s.Sub = true })
	amp := rigtest.Amp("amp", func(a *gear.Amplifier) {
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 350}, {Mode: gear.Separate, Load: 4, Power: 700},
			{Mode: gear.Separate, Load: 2, Power: 1400}}
	})
	one, _ := judge(rigtest.Hung(t, amp, sub, 1).Rig)
	rigtest.Near(t, "one", one.Decides().Subs.Value, 102.4407, 1e-3)
	for n, more := range map[int]float64{2: 6.0206, 4: 12.0412} {
		v, _ := judge(rigtest.Hung(t, amp, sub, n).Rig)
		rigtest.Near(t, "subs", v.Decides().Subs.Value-one.Decides().Subs.Value, more, 1e-3)
	}
}

// A rig that falls short of the wanted level is found as soon as it does; one
// box of unknown level makes the sum a lower bound, of which nothing is said.
func TestTheLevelFallsShort(t *testing.T) {
	// one box gives 102.44 dB at full power, 93.41 dB on programme
	short := func(wanted unit.Decibel, unknown int) bool {
		r := rigtest.Hung(t, rigtest.Amp("amp"), rigtest.Box("box"), 1)
		mute := rigtest.Box("mute", func(s *gear.Loudspeaker) { s.Sensitivity = unit.Given[unit.Decibel]{} })
		for i := range unknown {
			tag := []string{"U1", "U2"}[i]
			r.Add(mute, tag).Plug([]string{"A1/out B", "U1/link"}[i], tag+"/in")
		}
		b := r.Brief
		b.Wanted = unit.Of(wanted)
		_, fs := judge(r.Do(rig.SetBrief{Brief: b}).Rig)
		return slices.Contains(codes(fs), "match.level-short")
	}
	for _, c := range []struct {
		wanted  unit.Decibel
		unknown int
		short   bool
	}{{93, 0, false}, {94, 0, true}, {96, 0, true}, {96, 1, false}, {96, 2, false}} {
		if got := short(c.wanted, c.unknown); got != c.short {
			t.Errorf("%s wanted, %d boxes unknown: short %v", c.wanted, c.unknown, got)
		}
	}
}

// A load may lie 0.5 % under the least and count as it, the rounding of figures
// such as 2.67 Ω for three 8 Ω boxes; 1 % under is an overload.
func TestTheToleranceOfALoad(t *testing.T) {
	for z, under := range map[unit.Ohm]bool{4: false, 3.985: false, 3.96: true, 3.7: true} {
		amp := rigtest.Amp("amp", func(a *gear.Amplifier) {
			a.Ratings, a.Least = []gear.Rating{{Mode: gear.Separate, Load: 2, Power: 700},
				{Mode: gear.Separate, Load: 8, Power: 350}}, unit.Of(unit.Ohm(4))
		})
		_, fs := judge(rigtest.Hung(t, amp, rigtest.Box("box", func(s *gear.Loudspeaker) { s.Nominal = unit.Of(z) }), 1).Rig)
		if slices.Contains(codes(fs), "match.load-below-least") != under {
			t.Errorf("%s on a least of 4 Ω: overload %v", z, !under)
		}
	}
}

// Too strong is judged of an output alone, for the other channels may rest: 500 W on a
// 350 W box are too much under "within", though channels that share 500 W give each
// box 250 W while both are driven.
func TestTooStrongIsJudgedAlone(t *testing.T) {
	amp := rigtest.Amp("amp", func(a *gear.Amplifier) {
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 500}}
		a.Bridging, a.Together = gear.Bridging{}, unit.Of(unit.Watt(500))
	})
	r := rigtest.Driven(t, amp).Add(rigtest.Box("box"), "B1", "B2").Plug("A1/out A", "B1/in").Plug("A1/out B", "B2/in").
		Do(rig.SetWishes{Policy: rig.Within, Bridging: rig.Never})
	v, fs := judge(r.Rig)
	if v.Outputs[0].Ratio.Value > 1 || !slices.Contains(codes(fs), "match.too-strong") {
		t.Errorf("%.2f times with both driven; %v", v.Outputs[0].Ratio.Value, codes(fs))
	}
}
