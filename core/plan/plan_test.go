package plan_test

import (
	"context"
	"math"
	"slices"
	"strings"
	"testing"

	"largo/core/drive"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/match"
	"largo/core/milp"
	"largo/core/plan"
	"largo/core/plantest"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

// planned solves a rig for an aim with the amplifiers given.
func planned(t *testing.T, r rig.Rig, w plan.Wishes, aim plan.Aim, owned ...gear.Holding) (plan.Plan, *rig.Index) {
	t.Helper()
	x := rig.NewIndex(r)
	outs := load.Outputs(x)
	groups, _ := plan.GroupsOf(x, outs, w)
	p := plan.NewProblem(groups, plan.AmpsOf(x, outs, owned, nil, w), w)
	return p.Plan(x, p.Solve(context.Background(), aim, nil)), x
}

// fourTops is four 8 Ω boxes of 350 W left and right, one on each channel of
// two amplifiers that stand 700 W into 4 Ω.
func fourTops(t *testing.T) rig.Rig {
	r := rigtest.New(t).Add(rigtest.Desk(), "DESK").Add(rigtest.Amp("amp"), "A1", "A2").Add(rigtest.Box("box"), "L1",
		"L2", "R1", "R2")
	for _, leads := range [][2]string{{"DESK/main L", "A1/in 1"}, {"DESK/main R", "A1/in 2"}, {"DESK/main L", "A2/in 1"},
		{"DESK/main R", "A2/in 2"},
		{"A1/out A", "L1/in"}, {"A1/out B", "R1/in"}, {"A2/out A", "L2/in"}, {"A2/out B", "R2/in"}} {
		r.Plug(leads[0], leads[1])
	}
	return r.Rig
}

// By hand: two boxes a channel are 4 Ω and 350 W each, so one amplifier does.
func TestPlanByHand(t *testing.T) {
	r := fourTops(t)
	w := plan.WishesOf(r)
	plan, x := planned(t, r, w, plan.Fewest)
	if !plan.Proved || plan.Totals.Amplifiers != 1 || plan.Totals.Ratio != 1 || plan.Totals.Outputs != 2 {
		t.Fatalf("%+v", plan.Totals)
	}
	after, err := rig.Apply(r, plan.Edit(x))
	if err != nil {
		t.Fatal(err)
	}
	if _, still := after.Device("A2"); still {
		t.Error("the idle amplifier stays in the rig")
	}
	v, fs := match.Judge(rig.NewIndex(after), drive.Outputs(rig.NewIndex(after), load.Outputs(rig.NewIndex(after))))
	if v.Driven != 4 {
		t.Errorf("%d of 4 boxes driven after the plan", v.Driven)
	}
	for _, f := range fs {
		if f.Gravity > 1 && f.Code != "match.level-short" {
			t.Errorf("after the plan: %s", f.What)
		}
	}
	for _, o := range v.Outputs {
		if len(o.Boxes) > 0 && o.Nominal.Value != 4 {
			t.Errorf("%s drives %s", o.Name(), o.Nominal.Text())
		}
	}
	programme := rig.NewIndex(after)
	for tag, want := range map[string]string{"L1": "main L", "L2": "main L", "R1": "main R", "R2": "main R"} {
		k, _ := programme.Into(rig.Ref{Device: tag, Port: "in"})
		for k.From.Device != "A1" {
			k, _ = programme.Into(rig.Ref{Device: k.From.Device, Port: "in"})
		}
		in := map[string]string{"out A": "in 1", "out B": "in 2"}[k.From.Port]
		if got := programme.Arrives(rig.Ref{Device: "A1", Port: in}); got != want {
			t.Errorf("%s hears %s, want %s", tag, got, want)
		}
	}
}

// Least loads, policy and school each take the plan away, and say why.
func TestWishesHold(t *testing.T) {
	r := fourTops(t)
	for what, c := range map[string]struct {
		change func(*plan.Wishes)
		amps   int // 0: no plan
	}{
		"as it is":                   {func(*plan.Wishes) {}, 1},
		"a quarter over the least":   {func(w *plan.Wishes) { w.Margin = 0.25 }, 2}, // 4 Ω is no longer enough: 8 Ω each
		"a spare of each model":      {func(w *plan.Wishes) { w.Spare = 1 }, 1},
		"two spares":                 {func(w *plan.Wishes) { w.Spare = 2 }, 0},
		"circuits that carry little": {func(w *plan.Wishes) { w.Circuits = []unit.Ampere{0.3} }, 0},
		"one output kept":            {func(w *plan.Wishes) { w.Keep = []rig.Ref{rigtest.Ref("A2/out A")} }, 2},
	} {
		w := plan.WishesOf(r)
		c.change(&w)
		plan, x := planned(t, r, w, plan.Fewest)
		if !plan.Proved || plan.Totals.Amplifiers != c.amps {
			t.Errorf("%s: %d amplifiers, want %d", what, plan.Totals.Amplifiers, c.amps)
		}
		if plan.X == nil {
			continue
		}
		after, err := rig.Apply(r, plan.Edit(x))
		if err != nil {
			t.Errorf("%s: %v", what, err)
			continue
		}
		x = rig.NewIndex(after)
		if v, _ := match.Judge(x, drive.Outputs(x, load.Outputs(x))); v.Driven != 4 {
			t.Errorf("%s: %d of 4 boxes driven", what, v.Driven)
		}
	}
}

// One aim is never better served by the plan for another.
func TestEachAimIsBestAtItsOwn(t *testing.T) {
	big := rigtest.Amp("big", func(a *gear.Amplifier) {
		a.Channels = 4
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 600}, {Mode: gear.Separate, Load: 4, Power: 1000}}
	})
	big.Body.Weight, big.Hire = unit.Of(unit.Kilogram(30)), unit.Of(unit.Money(40))
	small := rigtest.Amp("small")
	small.Body.Weight = unit.Of(unit.Kilogram(8))
	r := fourTops(t)
	w := plan.WishesOf(r)
	owned := []gear.Holding{{Model: big, Place: "truck", Count: 2}, {Model: small, Place: "truck", Count: 4}}
	plans := map[plan.Aim]plan.Plan{}
	for _, aim := range plan.Aims {
		plans[aim], _ = planned(t, r, w, aim, owned...)
		if !plans[aim].Proved || plans[aim].X == nil {
			t.Fatalf("%s: no proved plan", aim)
		}
	}
	for aim, p := range plans {
		switch {
		case p.Totals.Amplifiers < plans[plan.Fewest].Totals.Amplifiers:
			t.Errorf("%s takes fewer amplifiers than the fewest", aim)
		case p.Totals.Weight < plans[plan.Lightest].Totals.Weight-1e-6:
			t.Errorf("%s is lighter than the lightest", aim)
		case p.Totals.Draw < plans[plan.LeastDraw].Totals.Draw-1e-6:
			t.Errorf("%s draws less than the least", aim)
		case p.Totals.Ratio > plans[plan.MostHeadroom].Totals.Ratio+1e-9:
			t.Errorf("%s has more headroom than the most", aim)
		}
	}
	if plans[plan.NoneBridged].Totals.Bridged != 0 {
		t.Error("nothing bridged bridges")
	}
	if got := plans[plan.MostHeadroom].Totals.Ratio; got < 1.4 || got > 2 { // 600 W into 8 Ω for 350 W
		t.Errorf("the most headroom is %.2f times", got)
	}
}

// Circuits carry amplifiers whole: three of about 3 A do not go on two of 4 A,
// though together they would.
func TestOnCircuits(t *testing.T) {
	amp := rigtest.Amp("amp", func(a *gear.Amplifier) { a.Class = "AB" })
	amp.Intake = gear.Intake{Idle: unit.Of(unit.Watt(530)), Efficiency: unit.Of(unit.Ratio(0.6)),
		Factor: unit.Of(unit.Ratio(1))}
	three := plan.Plan{Problem: plan.Problem{Wishes: plan.Wishes{}}}
	for range 3 { // 530 W + 700 W / 8 / 0.6 = 676 W, 2.94 A
		three.Amps = append(three.Amps,
			plan.PlannedAmp{Model: amp, Outputs: []plan.PlannedOutput{{Option: plan.Option{Power: 700}}}})
	}
	for _, c := range []struct {
		circuits []unit.Ampere
		want     bool
	}{{[]unit.Ampere{4.5, 4.5}, false}, {[]unit.Ampere{6, 3}, true}, {[]unit.Ampere{3, 3, 3}, true},
		{[]unit.Ampere{2, 2, 2, 2, 2}, false}, {[]unit.Ampere{9}, true}} {
		three.Problem.Wishes.Circuits = c.circuits
		if on, fit := three.OnCircuits(); (fit == plan.Fits) != c.want || c.want && len(on) != 3 {
			t.Errorf("%v: %v, %v; want %v", c.circuits, on, fit, c.want)
		}
	}
}

// What ended a search that proved nothing is said.
func TestWhatEndedASearch(t *testing.T) {
	for want, a := range map[string]plan.Answer{
		"proved best":             {Proved: true, Full: true},
		"spent its memory":        {Full: true, Gap: 0.1},
		"up to 10.0 %":            {Spent: true, Gap: 0.1},
		"longest search there is": {Spent: true, Gap: math.Inf(1)},
		"not known yet":           {Gap: math.Inf(1)},
		"off by up to 2.5 %":      {Gap: 0.025},
	} {
		if got := a.Off(); !strings.Contains(got, want) {
			t.Errorf("%+v says %q, want %q", a, got, want)
		}
	}
}

// The key of a problem is that of all it reads: one amplifier less in stock, one
// box more, another aim, each is another problem; the same made anew is not.
func TestAProblemIsKnownByAllThatItReads(t *testing.T) {
	problem := func() plan.Problem { return plantest.Problem(7, 24, 6) }
	p := problem()
	if p.Key(plan.Fewest) != problem().Key(plan.Fewest) {
		t.Error("the same problem has two keys")
	}
	keys := map[[32]byte]string{p.Key(plan.Fewest): "as it is"}
	add := func(what string, k [32]byte) {
		if other, have := keys[k]; have {
			t.Errorf("%s has the key of %s", what, other)
		}
		keys[k] = what
	}
	for _, aim := range plan.Aims[1:] {
		add(string(aim), p.Key(aim))
	}
	less := problem()
	less.Amps = slices.Clone(less.Amps)
	less.Amps[0].Owned--
	add("one less in stock", less.Key(plan.Fewest))
	more := problem()
	more.Groups = slices.Clone(more.Groups)
	more.Groups[0].Boxes = append(slices.Clone(more.Groups[0].Boxes), "ONE MORE")
	add("one box more", more.Key(plan.Fewest))
	spare := problem()
	spare.Wishes.Spare++
	add("a spare", spare.Key(plan.Fewest))
	heavy := problem()
	heavy.Amps = slices.Clone(heavy.Amps)
	heavy.Amps[0].Model.Body.Weight = unit.Of(unit.Kilogram(77))
	add("another weight", heavy.Key(plan.Lightest))
}

// A search stops when its memory is spent, and says so.
func TestASearchIsBounded(t *testing.T) {
	p := plantest.Problem(3, 40, 8)
	r := milp.Solve(context.Background(), p.Judged(plan.Fewest), milp.Search{Most: 1})
	if !r.Full || r.Proved {
		t.Errorf("with a byte of memory: %+v", r)
	}
}
