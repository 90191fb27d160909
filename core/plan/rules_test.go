package plan_test

import (
	"context"
	"math"
	"testing"

	"largo/core/gear"
	"largo/core/load"
	"largo/core/plan"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

// The planner takes the bounds of a policy as they are written, with both ends
// (within: up to 1; a tenth over: 1 to 1.1; headroom: 1 to 2), and nothing
// beyond them.
func TestThePlannerKeepsTheBounds(t *testing.T) {
	suits := func(policy rig.Policy, watts unit.Watt) bool {
		amp := rigtest.Amp("amp", func(a *gear.Amplifier) {
			a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: watts}}
		})
		box := rigtest.Box("box")
		g := plan.Group{Name: "G", Boxes: []string{"B1"}, Z: 8, Rating: 350, Poles: 1, Speaker: box.Loudspeaker}
		return len(plan.NewProblem([]plan.Group{g}, []plan.Stocked{{Model: amp, Owned: 1}},
			plan.Wishes{Policy: policy}).Options) > 0
	}
	for _, c := range []struct {
		policy rig.Policy
		watts  unit.Watt
		want   bool
	}{
		{rig.Headroom, 700, true}, {rig.Headroom, 701, false}, {rig.Headroom, 350, true}, {rig.Headroom, 349, false},
		{rig.Within, 350, true}, {rig.Within, 351, false}, {rig.TenthOver, 385, true}, {rig.TenthOver, 386, false},
		{rig.TenthOver, 349, false},
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
	groups := func(n int) []plan.Group {
		r := rigtest.Hung(t, rigtest.Amp("amp"), rigtest.Box("box"),
			n).Do(rig.SetWishes{Policy: rig.LevelFirst, Bridging: rig.AsRated})
		x := rig.NewIndex(r.Rig)
		gs, _ := plan.GroupsOf(x, load.Outputs(x), plan.WishesOf(r.Rig))
		return gs
	}
	// 95 dB + 9.03 − 97 + 20 lg 10 = 27.03 dB: 504.7 W for one box
	one, two := groups(1), groups(2)
	rigtest.Near(t, "one box", float64(one[0].Least), math.Pow(10, (95+9.03-97+20)/10), 0.01)
	rigtest.Near(t, "each of two", float64(two[0].Least), float64(one[0].Least)/2, 0.01)
	suits := func(watts unit.Watt) bool {
		amp := rigtest.Amp("amp", func(a *gear.Amplifier) {
			a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: watts}}
		})
		g := one[0]
		g.Rating = 1000
		return len(plan.NewProblem([]plan.Group{g}, []plan.Stocked{{Model: amp, Owned: 1}},
			plan.Wishes{Policy: rig.LevelFirst}).Options) > 0
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
		g := plan.Group{Name: "G", Boxes: []string{"B1"}, Z: 8, Rating: 350, Poles: 1, Speaker: box.Loudspeaker}
		p := plan.NewProblem([]plan.Group{g},
			[]plan.Stocked{{Model: rigtest.Amp("unknown"), Owned: 1}, {Model: weighed(kg), Owned: 1}},
			plan.Wishes{Policy: rig.Headroom})
		a := p.Solve(context.Background(), plan.Lightest, nil)
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
	g := plan.Group{Name: "G", Boxes: []string{"B1", "B2", "B3", "B4", "B5", "B6"}, Z: 8, Rating: 350, Poles: 1,
		Speaker: box.Loudspeaker}
	p := plan.NewProblem([]plan.Group{g}, []plan.Stocked{{Model: heavy, Owned: 1}, {Model: light, Owned: 4}},
		plan.Wishes{Policy: rig.Headroom, School: rig.Never})
	for aim, want := range map[plan.Aim]float64{plan.Fewest: 1, plan.Lightest: 0} {
		if a := p.Solve(context.Background(), aim, nil); a.X[len(p.Options)] != want {
			t.Errorf("%s: %v heavy ones", aim, a.X[len(p.Options)])
		}
	}
}
