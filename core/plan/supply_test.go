package plan_test

import (
	"context"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/load"
	"largo/core/match"
	"largo/core/plan"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

func shared(together unit.Watt) gear.Model {
	return rigtest.Amp("four", func(a *gear.Amplifier) {
		a.Channels, a.Together = 4, unit.Of(together)
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 500}}
		a.Bridging = gear.Bridging{}
	})
}

func groupOf(n int, rating unit.Watt, policy rig.Policy) plan.Group {
	g := plan.Group{Name: "tops", Z: 8, Rating: rating, Poles: 1, Policy: policy, Speaker: rigtest.Box("box").Loudspeaker}
	for i := range n {
		g.Boxes = append(g.Boxes, string(rune('a'+i)))
	}
	return g
}

// Four channels of 500 W on 1,000 W in all drive four boxes of 250 W under headroom:
// each needs its 250 W, all of it together. Three of them have to be held to 44.8 V,
// sqrt(250 × 8), so that the fourth's 500 W leave enough: or all four, 4 × 250 = 1000.
// On 900 W they cannot, and two amplifiers are needed (by hand).
func TestPlansOnASharedSupply(t *testing.T) {
	solve := func(together unit.Watt) plan.Plan {
		p := plan.NewProblem([]plan.Group{groupOf(4, 250, rig.Headroom)}, []plan.Stocked{{Model: shared(together), Owned: 3}},
			plan.Wishes{Policy: rig.Headroom})
		return p.Plan(rig.NewIndex(rigtest.New(t).Rig), p.Solve(context.Background(), plan.Fewest, nil))
	}
	enough := solve(1000)
	if enough.Totals.Amplifiers != 1 || !strings.Contains(enough.Amps[0].Only, "limited to 44.8 V: 1000 W of 1000 W") {
		t.Errorf("%d amplifiers, %q", enough.Totals.Amplifiers, enough.Amps[0].Only)
	}
	short := solve(900)
	if short.Totals.Amplifiers != 2 {
		t.Errorf("on 900 W %d amplifiers", short.Totals.Amplifiers)
	}
	for _, a := range short.Amps {
		if len(a.Outputs) != 2 || a.Short != "" {
			t.Errorf("%s has %d outputs, %q", a.Tag, len(a.Outputs), a.Short)
		}
	}
	if plenty := solve(2000); plenty.Totals.Amplifiers != 1 || plenty.Amps[0].Only != "" {
		t.Errorf("on 2000 W: %q", plenty.Amps[0].Only)
	}
}

// An output that is kept needs its part of a shared supply: four boxes of 350 W need
// 1,400 W, so that 1,200 W do not carry the other three, and 1,400 W do (by hand).
func TestWhatIsKeptNeedsItsPartOfTheSupply(t *testing.T) {
	for together, want := range map[unit.Watt]int{1200: 2, 1400: 1} {
		r := rigtest.Driven(t, shared(together)).Add(rigtest.Box("box"), "B1", "B2", "B3", "B4")
		for i, port := range []string{"A1/out A", "A1/out B", "A1/out C", "A1/out D"} {
			r.Plug(port, "B"+string(rune('1'+i))+"/in")
		}
		w := plan.WishesOf(r.Rig)
		w.Policy, w.Keep = rig.Headroom, []rig.Ref{rigtest.Ref("A1/out A")}
		p, _ := planned(t, r.Rig, w, plan.Fewest, gear.Holding{Model: shared(together), Count: 3})
		if p.X == nil || p.Totals.Amplifiers != want {
			t.Errorf("on %v: %+v", together, p.Totals)
		}
		for _, a := range p.Amps {
			if a.Short != "" {
				t.Error(a.Short)
			}
		}
	}
}

// Too weak is a price and no ban: where nothing gives 700 W, as few boxes as can be get
// less, and it is said which policy is kept; where something does, nobody gets less.
func TestTooWeakIsAPrice(t *testing.T) {
	weak, strong := rigtest.Amp("weak"), rigtest.Amp("strong", func(a *gear.Amplifier) {
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 800}}
		a.Bridging = gear.Bridging{}
	})
	best := func(amps ...plan.Stocked) plan.Plan {
		p := plan.NewProblem([]plan.Group{groupOf(4, 700, rig.Headroom)}, amps,
			plan.Wishes{Policy: rig.Headroom, School: rig.Never})
		solved, a := p.Best(context.Background(), plan.Fewest, nil)
		return solved.Plan(rig.NewIndex(rigtest.New(t).Rig), a)
	}
	few := best(plan.Stocked{Model: weak, Owned: 4}, plan.Stocked{Model: strong, Owned: 1})
	said := strings.Join(few.Says(), " ")
	if few.X == nil || !few.Proved || !strings.Contains(said, `2 boxes get less than the policy "headroom" asks`) {
		t.Errorf("proved %v: %s", few.Proved, said)
	}
	enough := best(plan.Stocked{Model: weak, Owned: 4}, plan.Stocked{Model: strong, Owned: 2})
	if said := strings.Join(enough.Says(), " "); enough.Totals.Amplifiers != 2 || strings.Contains(said, "get less") ||
		!strings.Contains(said, `as the policy "headroom" asks, 1.14 times`) {
		t.Errorf("%d amplifiers: %s", enough.Totals.Amplifiers, said)
	}
}

// Each part of a rig is planned by its own policy, as match judges it.
func TestPoliciesByPart(t *testing.T) {
	r := rigtest.Hung(t, rigtest.Amp("amp"), rigtest.Box("box", func(s *gear.Loudspeaker) { s.Sub = true }), 1).Rig
	r, err := rig.Apply(r, rig.SetPolicies{Policies: map[rig.Part]rig.Policy{rig.Subs: rig.Within}})
	if err != nil {
		t.Fatal(err)
	}
	p, _ := planned(t, r, plan.WishesOf(r), plan.Fewest)
	if p.X == nil || p.Problem.Groups[0].Policy != rig.Within || match.PolicyAt(r,
		load.Outputs(rig.NewIndex(r))[0].Boxes[0]) != rig.Within {
		t.Errorf("planned by %q", p.Problem.Groups[0].Policy)
	}
}

// Beside the best stand other plans that take other amplifiers, and what is left in the
// truck is a spare for what it can replace.
func TestOtherPlansAndSpares(t *testing.T) {
	a, b := rigtest.Amp("a"), rigtest.Amp("b")
	b.Body.Weight = unit.Of(unit.Kilogram(30))
	a.Body.Weight = unit.Of(unit.Kilogram(20))
	p := plan.NewProblem([]plan.Group{groupOf(4, 350, rig.Headroom)}, []plan.Stocked{{Model: a, Owned: 3}, {Model: b,
		Owned: 1}},
		plan.Wishes{Policy: rig.Headroom, School: rig.Never})
	best := p.Solve(context.Background(), plan.Fewest, nil)
	x := rig.NewIndex(rigtest.New(t).Rig)
	shown := p.Plan(x, best)
	if shown.Totals.Amplifiers != 1 || shown.Totals.Weight != 20 {
		t.Fatalf("%+v", shown.Totals)
	}
	others := p.Others(context.Background(), best, 3)
	if len(others) != 1 || p.Plan(x, others[0]).Totals.Weight != 30 {
		t.Fatalf("%d others", len(others))
	}
	if said := strings.Join(shown.Covers(), " "); !strings.Contains(said, "2 Test a left: spares for A1") ||
		!strings.Contains(said, "1 Test b left: a spare for A1") {
		t.Error(said)
	}
}
