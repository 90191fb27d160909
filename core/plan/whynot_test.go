package plan_test

import (
	"context"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/load"
	"largo/core/plan"
	"largo/core/rig"
	"largo/core/rigtest"
)

func problemOf(r rig.Rig, w plan.Wishes, amps []plan.Stocked) plan.Problem {
	x := rig.NewIndex(r)
	outs := load.Outputs(x)
	groups, _ := plan.GroupsOf(x, outs, w)
	if amps == nil {
		amps = plan.AmpsOf(x, outs, nil, nil, w)
	}
	return plan.NewProblem(groups, amps, w)
}

// Why an amplifier is not used is told by the rule that is against it, or by
// what the best plan with it costs more.
func TestWhyNot(t *testing.T) {
	r := fourTops(t)
	w := plan.WishesOf(r)
	w.School = rig.Freely
	floating := rigtest.Amp("floating",
		func(a *gear.Amplifier) { a.Bridging = gear.Bridging{Common: gear.No}; a.Ratings = a.Ratings[:2] })
	weak := rigtest.Amp("weak", func(a *gear.Amplifier) {
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 100}, {Mode: gear.Separate, Load: 4, Power: 180}}
	})
	strong := rigtest.Amp("strong",
		func(a *gear.Amplifier) { a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 1500}} })
	single := rigtest.Amp("single", func(a *gear.Amplifier) {
		a.Ratings, a.Bridging.Inverted = a.Ratings[:1], gear.No
	})
	amps := []plan.Stocked{{Model: rigtest.Amp("amp"), Owned: 2}, {Model: floating, Owned: 1}, {Model: weak, Owned: 1},
		{Model: strong, Owned: 1}, {Model: single, Owned: 2}, {Model: rigtest.Amp("none")}}
	p := problemOf(r, w, amps)
	a := p.Solve(context.Background(), plan.Fewest, nil)
	for _, c := range []struct {
		amp  int
		mode gear.Mode
		say  string
	}{
		{1, gear.Bridged, "no common return"},
		{0, gear.Bridged, "times its rating"}, // 1400 W into 8 Ω for 350 W
		{2, gear.Separate, "only 100 W"},
		{3, gear.Separate, "allows 2"},
		{4, gear.Separate, "1 more"}, // one box an output: two amplifiers
		{5, gear.Separate, "neither owned nor for hire"},
	} {
		if said := strings.Join(p.Why(context.Background(), a, c.amp, c.mode), " "); !strings.Contains(said, c.say) {
			t.Errorf("why not %s %s: %q, want %q in it", amps[c.amp].Model.Name, c.mode, said, c.say)
		}
	}
	if said := p.Why(context.Background(), a, 0, gear.Separate); said != nil && a.X[len(p.Options)] > 0.5 {
		t.Errorf("what the plan uses needs no excuse: %q", said)
	}
	low := problemOf(r, w, []plan.Stocked{{Model: single, Owned: 2}})
	low.Wishes.School = rig.Freely
	if said := strings.Join(low.Why(context.Background(), plan.Answer{}, 0, gear.Bridged), " "); !strings.Contains(said,
		"a side") && !strings.Contains(said, "times its rating") {
		t.Errorf("a bridge into too little: %q", said)
	}
}

// The smallest set of wishes to give up is found, and giving it up helps.
func TestGiveUp(t *testing.T) {
	r := fourTops(t)
	for what, c := range map[string]struct {
		change func(*plan.Wishes)
		want   string
	}{
		"two spares of two":      {func(w *plan.Wishes) { w.Spare = 2 }, "spare amplifiers in the truck"},
		"a margin no load keeps": {func(w *plan.Wishes) { w.Margin = 3 }, "the margin over the least load"},
		"a circuit of nothing":   {func(w *plan.Wishes) { w.Circuits = append(w.Circuits, 0.01) }, "what the circuits carry"},
	} {
		w := plan.WishesOf(r)
		c.change(&w)
		p := problemOf(r, w, nil)
		if p.Solve(context.Background(), plan.Fewest, nil).X != nil {
			t.Errorf("%s: there is a plan all the same", what)
		}
		sets := plan.GiveUp(context.Background(), w, p.Amps, func(w plan.Wishes, amps []plan.Stocked) plan.Problem {
			return problemOf(r, w, amps)
		})
		found := false
		for _, set := range sets {
			found = found || len(set) == 1 && set[0] == c.want
		}
		if !found {
			t.Errorf("%s: give up %v, want %q among them", what, sets, c.want)
		}
	}
}
