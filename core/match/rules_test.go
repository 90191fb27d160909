package match_test

import (
	"context"
	"math"
	"slices"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/load"
	"largo/core/match"
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
		amp := rigtest.Amp("amp", func(a *gear.Amplifier) { a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: watts}} })
		v, _ := judge(hung(t, amp, rigtest.Box("box"), 1).Rig)
		near(t, watts.String(), v.Level.Value, 97+10*math.Log10(counts)-20, 1e-9)
	}
}

// The sheet's largest level of an active box is a peak, 3.01 dB over a full
// sine (a sine's crest): 130 dB at 1 m are 130 − 3.01 − 20 lg 10 at 10 m.
func TestAnActiveBoxIsAPeak(t *testing.T) {
	active := rigtest.Box("active", func(s *gear.Loudspeaker) { *s = gear.Loudspeaker{Active: true, MaxSPL: unit.Of(unit.Decibel(130))} })
	r := rigtest.New(t).Add(rigtest.Player(), "PLAYER").Add(rigtest.Desk(), "DESK").Add(active, "B1").Plug("PLAYER/out", "DESK/in 1").Plug("DESK/main L", "B1/in")
	v, _ := judge(r.Rig)
	near(t, "one", v.Level.Value, 130-10*math.Log10(2)-20, 0.001)
}

// Subwoofers close together add in step: two are 6.02 dB louder than one, four
// 12.04 (20 lg n; pressures add).
func TestSubsAddInStep(t *testing.T) {
	sub := rigtest.Box("sub", func(s *gear.Loudspeaker) { s.Sub = true })
	amp := rigtest.Amp("amp", func(a *gear.Amplifier) {
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 350}, {Mode: gear.Separate, Load: 4, Power: 700}, {Mode: gear.Separate, Load: 2, Power: 1400}}
	})
	one, _ := judge(hung(t, amp, sub, 1).Rig)
	near(t, "one", one.Subs.Value, 102.4407, 1e-3)
	for n, more := range map[int]float64{2: 6.0206, 4: 12.0412} {
		v, _ := judge(hung(t, amp, sub, n).Rig)
		near(t, "subs", v.Subs.Value-one.Subs.Value, more, 1e-3)
	}
}

// A rig that falls short of the wanted level is found as soon as it does; one
// box of unknown level makes the sum a lower bound, of which nothing is said.
func TestTheLevelFallsShort(t *testing.T) {
	// one box gives 102.44 dB at full power, 93.41 dB on programme
	short := func(wanted unit.Decibel, unknown int) bool {
		r := hung(t, rigtest.Amp("amp"), rigtest.Box("box"), 1)
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

// Two channels carry noise of their own: a bridge adds them as powers, 3.01 dB
// (uncorrelated sources).
func TestTheNoiseOfABridge(t *testing.T) {
	r := rigtest.New(t).Add(rigtest.Desk(), "DESK").Add(rigtest.Amp("amp"), "A1").Add(rigtest.Box("box", func(s *gear.Loudspeaker) { s.Continuous = unit.Of(unit.Watt(1000)) }), "B1").
		Plug("DESK/main L", "A1/in 1").Plug("A1/out A", "B1/in")
	x := rig.NewIndex(r.Rig)
	for _, c := range match.Advise(x, judged(t, x, "A1/out A"), nil).Choices {
		want := 0.0
		if strings.Contains(c.Name, "bridged") {
			want = 10 * math.Log10(2)
		}
		near(t, c.Name, float64(c.Noise), want, 0.005)
	}
}

// The adviser weighs an amplifier with a load 0.5 % under its least as one that
// fits, and below that as one that does not; and lets no choice pass that a
// policy forbids (350 W boxes, headroom: at most 700 W).
func TestTheAdviserKeepsTheRules(t *testing.T) {
	advise := func(z unit.Ohm, watts unit.Watt) (fits, allowed bool) {
		amp := rigtest.Amp("amp", func(a *gear.Amplifier) {
			a.Ratings, a.Least, a.Bridging = []gear.Rating{{Mode: gear.Separate, Load: 4, Power: watts}, {Mode: gear.Separate, Load: 2, Power: watts}}, unit.Of(unit.Ohm(4)), gear.Bridging{}
		})
		box := rigtest.Box("box", func(s *gear.Loudspeaker) { s.Nominal = unit.Of(z) })
		r := hung(t, amp, box, 1)
		x := rig.NewIndex(r.Rig)
		c := match.Advise(x, judged(t, x, "A1/out A"), nil).Choices[0]
		return c.Power.Known(), c.Allowed
	}
	for z, want := range map[unit.Ohm]bool{4: true, 3.985: true, 3.97: false, 2.5: false} {
		if fits, _ := advise(z, 300); fits != want {
			t.Errorf("%s on a least of 4 Ω: fits %v", z, fits)
		}
	}
	for watts, want := range map[unit.Watt]bool{690: true, 700: true, 702: false, 1000: false} {
		if _, allowed := advise(4, watts); allowed != want {
			t.Errorf("%s on a box of 350 W: allowed %v", watts, allowed)
		}
	}
}

// The planner takes the bounds of a policy as they are written, with both ends
// (within: up to 1; a tenth over: 1 to 1.1; headroom: 1 to 2), and nothing
// beyond them.
func TestThePlannerKeepsTheBounds(t *testing.T) {
	suits := func(policy rig.Policy, watts unit.Watt) bool {
		amp := rigtest.Amp("amp", func(a *gear.Amplifier) { a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: watts}} })
		box := rigtest.Box("box")
		g := match.Group{Name: "G", Boxes: []string{"B1"}, Z: 8, Rating: 350, Poles: 1, Speaker: box.Loudspeaker}
		return len(match.NewProblem([]match.Group{g}, []match.Stocked{{Model: amp, Owned: 1}}, match.Wishes{Policy: policy}).Options) > 0
	}
	for _, c := range []struct {
		policy rig.Policy
		watts  unit.Watt
		want   bool
	}{
		{rig.Headroom, 700, true}, {rig.Headroom, 701, false}, {rig.Headroom, 350, true}, {rig.Headroom, 349, false},
		{rig.Within, 350, true}, {rig.Within, 351, false}, {rig.TenthOver, 385, true}, {rig.TenthOver, 386, false}, {rig.TenthOver, 349, false},
	} {
		if got := suits(c.policy, c.watts); got != c.want {
			t.Errorf("%s on 350 W under %q: %v", c.watts, c.policy, got)
		}
	}
}

// Level first: what each box has to be given follows from the level wanted, its
// distance and the room that programme needs. n boxes add as powers: two have to
// give half as much each, not a quarter.
func TestLevelFirstAsksForTheLevel(t *testing.T) {
	groups := func(n int) []match.Group {
		r := hung(t, rigtest.Amp("amp"), rigtest.Box("box"), n).Do(rig.SetWishes{Policy: rig.LevelFirst, Bridging: rig.AsRated})
		x := rig.NewIndex(r.Rig)
		gs, _ := match.GroupsOf(x, load.Outputs(x), match.WishesOf(r.Rig))
		return gs
	}
	// 95 dB + 9.03 − 97 + 20 lg 10 = 27.03 dB: 504.7 W for one box
	one, two := groups(1), groups(2)
	near(t, "one box", float64(one[0].Least), math.Pow(10, (95+9.03-97+20)/10), 0.01)
	near(t, "each of two", float64(two[0].Least), float64(one[0].Least)/2, 0.01)
	suits := func(watts unit.Watt) bool {
		amp := rigtest.Amp("amp", func(a *gear.Amplifier) { a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: watts}} })
		g := one[0]
		g.Rating = 1000
		return len(match.NewProblem([]match.Group{g}, []match.Stocked{{Model: amp, Owned: 1}}, match.Wishes{Policy: rig.LevelFirst}).Options) > 0
	}
	for watts, want := range map[unit.Watt]bool{500: false, 504: false, 505: true, 800: true} {
		if suits(watts) != want {
			t.Errorf("%s for %.1f W asked: %v", watts, float64(one[0].Least), !want)
		}
	}
}

// An amplifier of unknown weight counts as a heavy one, 35 kg (common practice,
// no source): it never seems light.
func TestAnUnknownWeightIsHeavy(t *testing.T) {
	weighed := func(kg unit.Kilogram) gear.Model {
		m := rigtest.Amp("weighed")
		m.Body.Weight = unit.Of(kg)
		return m
	}
	lightest := func(kg unit.Kilogram) string {
		box := rigtest.Box("box")
		g := match.Group{Name: "G", Boxes: []string{"B1"}, Z: 8, Rating: 350, Poles: 1, Speaker: box.Loudspeaker}
		p := match.NewProblem([]match.Group{g}, []match.Stocked{{Model: rigtest.Amp("unknown"), Owned: 1}, {Model: weighed(kg), Owned: 1}}, match.Wishes{Policy: rig.Headroom})
		a := p.Solve(context.Background(), match.Lightest, nil)
		if a.X[len(p.Options)] > 0 {
			return "unknown"
		}
		return "weighed"
	}
	for kg, want := range map[unit.Kilogram]string{34: "weighed", 36: "unknown", 5: "weighed", 60: "unknown"} {
		if got := lightest(kg); got != want {
			t.Errorf("beside one of %s the %s one is taken", kg, got)
		}
	}
}

// Fewest amplifiers means fewest, whatever they weigh: one heavy one before two
// light ones.
func TestFewestBeforeLightest(t *testing.T) {
	heavy := rigtest.Amp("heavy", func(a *gear.Amplifier) { a.Channels = 4 })
	heavy.Body.Weight = unit.Of(unit.Kilogram(50))
	light := rigtest.Amp("light")
	light.Body.Weight = unit.Of(unit.Kilogram(5))
	box := rigtest.Box("box", func(s *gear.Loudspeaker) { s.Continuous = unit.Of(unit.Watt(350)) })
	g := match.Group{Name: "G", Boxes: []string{"B1", "B2", "B3", "B4", "B5", "B6"}, Z: 8, Rating: 350, Poles: 1, Speaker: box.Loudspeaker}
	p := match.NewProblem([]match.Group{g}, []match.Stocked{{Model: heavy, Owned: 1}, {Model: light, Owned: 4}}, match.Wishes{Policy: rig.Headroom, School: rig.Never})
	for aim, want := range map[match.Aim]float64{match.Fewest: 1, match.Lightest: 0} {
		if a := p.Solve(context.Background(), aim, nil); a.X[len(p.Options)] != want {
			t.Errorf("%s: %v heavy ones", aim, a.X[len(p.Options)])
		}
	}
}

// A load may lie 0.5 % under the least and count as it, the rounding of figures
// such as 2.67 Ω for three 8 Ω boxes; 1 % under is an overload.
func TestTheToleranceOfALoad(t *testing.T) {
	for z, under := range map[unit.Ohm]bool{4: false, 3.985: false, 3.96: true, 3.7: true} {
		amp := rigtest.Amp("amp", func(a *gear.Amplifier) {
			a.Ratings, a.Least = []gear.Rating{{Mode: gear.Separate, Load: 2, Power: 700}, {Mode: gear.Separate, Load: 8, Power: 350}}, unit.Of(unit.Ohm(4))
		})
		_, fs := judge(hung(t, amp, rigtest.Box("box", func(s *gear.Loudspeaker) { s.Nominal = unit.Of(z) }), 1).Rig)
		if slices.Contains(codes(fs), "match.load-below-least") != under {
			t.Errorf("%s on a least of 4 Ω: overload %v", z, !under)
		}
	}
}
