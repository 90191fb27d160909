package plan_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"largo/core/drive"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/plan"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

// spread is six boxes at places of a room, on home leads of given lengths from two
// amplifiers that stand apart, one to an output as far as there are outputs.
func spread(t *testing.T, g *rand.Rand) rig.Rig {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Amp("amp"), "A2").Plug("DESK/main L", "A2/in 1").
		Do(rig.Disconnect{To: rigtest.Ref("A1/in 2")}).Plug("DESK/main L", "A1/in 2").Plug("DESK/main L", "A2/in 2")
	place := func(tag, at string) {
		d, _ := r.Device(tag)
		e := d.Change()
		e.Place = at
		r.Do(e)
	}
	place("A1", "rack left")
	place("A2", "rack right")
	far := map[string]unit.Metre{}
	for i := range 6 {
		tag := fmt.Sprintf("B%d", i+1)
		amp := []string{"A1", "A2"}[g.IntN(2)]
		at := fmt.Sprintf("spot %d", g.IntN(3))
		if far[amp+at] == 0 {
			far[amp+at] = unit.Metre(3 + g.IntN(30))
		}
		r.Add(rigtest.Box("box"), tag)
		place(tag, at)
		r.Do(rig.Connect{Link: rig.Link{From: rigtest.Ref(amp + "/out " + []string{"A", "B"}[g.IntN(2)]),
			To: rigtest.Ref(tag + "/in"), Length: unit.Of(far[amp+at]), Area: unit.Of(unit.SquareMillimetre(1.5))}})
	}
	return r.Rig
}

// leastByTrying tries every order of six boxes, two to an output, from every choice of
// amplifier with a free channel: what the worst box loses at the least, in dB (Ohm's
// law over the ladder of two leads).
func leastByTrying(x *rig.Index, leads *rig.Leads) float64 {
	ohms := func(a, b string) float64 {
		way, known := leads.Ground().Between(a, b)
		if !known {
			way = 10
		}
		length, area, _ := leads.Shortest(way, 1)
		return float64(gear.LoopResistance(length, area, 20))
	}
	const z = 8.0
	two := func(amp, a, b string) float64 {
		r1, r2 := ohms(amp, a), ohms(a, b)
		node := 1 / (1/z + 1/(z+r2))
		return 20 * math.Log10((node+r1)/node*(z+r2)/z)
	}
	best := math.Inf(1)
	var try func(left []string, free map[string]int, worst float64)
	try = func(left []string, free map[string]int, worst float64) {
		if len(left) == 0 {
			best = min(best, worst)
			return
		}
		for i := 1; i < len(left); i++ {
			rest := append(append([]string{}, left[1:i]...), left[i+1:]...)
			for _, amp := range []string{"A1", "A2"} {
				if free[amp]--; free[amp] >= 0 {
					try(rest, free, max(worst, min(two(amp, left[0], left[i]), two(amp, left[i], left[0]))))
				}
				free[amp]++
			}
		}
	}
	try([]string{"B1", "B2", "B3", "B4", "B5", "B6"}, map[string]int{"A1": 2, "A2": 2}, 0)
	return best
}

// Which boxes share an output, and of which amplifier, loses as little in the leads as
// trying everything finds; and every lead that is plugged reaches.
func TestBoxesAreDealtOutByTheirLeads(t *testing.T) {
	for seed := range uint64(60) {
		g := rand.New(rand.NewPCG(10, seed))
		r := spread(t, g)
		w := plan.WishesOf(r)
		w.School, w.Mirrors = rig.Never, false
		p, x := planned(t, r, w, plan.Fewest)
		if p.X == nil || p.Totals.Amplifiers != 2 {
			t.Fatalf("seed %d: %+v", seed, p.Totals)
		}
		var pulled []rig.Link
		for i := range 6 {
			k, _ := x.Into(rigtest.Ref(fmt.Sprintf("B%d/in", i+1)))
			pulled = append(pulled, k)
		}
		if p.Totals.Outputs != 3 {
			continue // single boxes on outputs: three of two, or four
		}
		want := leastByTrying(x, x.LeadsAtHand(pulled, nil))
		if !p.Dealt.Proved || math.Abs(float64(p.Dealt.Loss)-want) > 1e-9 {
			t.Errorf("seed %d: %s, proved %v; by trying %.4f dB", seed, p.Dealt.Loss, p.Dealt.Proved, want)
		}
		after, err := rig.Apply(r, p.Edit(x))
		if err != nil {
			t.Fatal(err)
		}
		for _, k := range after.Links {
			way, known := x.Ground(gear.Speaker).Between(k.From.Device, k.To.Device)
			if length, said := k.Length.Get(); known && said && length < way {
				t.Errorf("seed %d: %s is %s long, and the way is %s", seed, k, length, way)
			}
		}
	}
}

// Where each box may have the lead that its way asks for, match finds the very loss
// that the plan promised.
func TestThePlanLosesWhatMatchSays(t *testing.T) {
	g := rand.New(rand.NewPCG(10, 3))
	r := spread(t, g)
	w := plan.WishesOf(r)
	w.School, w.Mirrors = rig.Never, false
	x := rig.NewIndex(r)
	outs := load.Outputs(x)
	groups, _ := plan.GroupsOf(x, outs, w)
	p := plan.NewProblem(groups, plan.AmpsOf(x, outs, nil, nil, w), w)
	for length := unit.Metre(1); length < 80; length++ {
		p.Leads = append(p.Leads, gear.Holding{Count: 9, Model: gear.Model{ID: fmt.Sprintf("lead-%.0f", length),
			Kind: gear.KindCable, Maker: "Test", Name: "lead", Cable: &gear.Cable{Sort: gear.SpeakerCable,
				Length: unit.Of(length), Area: unit.Of(unit.SquareMillimetre(2.5)), Poles: 2}}})
	}
	best := p.Plan(x, p.Solve(t.Context(), plan.Fewest, nil))
	after, err := rig.Apply(r, best.Edit(x))
	if err != nil {
		t.Fatal(err)
	}
	y := rig.NewIndex(after)
	worst := 0.0
	for _, o := range drive.Outputs(y, load.Outputs(y)) {
		for i := range o.Boxes {
			worst = max(worst, -o.Boxes[i].Loss().Value, o.Boxes[i].Loss().Value)
		}
	}
	if worst > float64(best.Dealt.Loss)+1e-9 || len(best.Dealt.Short) > 0 {
		t.Errorf("promised %s, match finds %.4f dB; short of %v", best.Dealt.Loss, worst, best.Dealt.Short)
	}
	if said := strings.Join(best.Says(), " "); !strings.Contains(said, "no other sharing of outputs does better.") {
		t.Error(said)
	}
}

// What leads lose is promised only where every way is known.
func TestNoLossIsPromisedOverUnknownWays(t *testing.T) {
	r := spread(t, rand.New(rand.NewPCG(10, 3)))
	r, err := rig.Apply(r, rig.AddDevices{Model: rigtest.Box("box"), Tags: []string{"B7"}, Place: "elsewhere"})
	if err != nil {
		t.Fatal(err)
	}
	w := plan.WishesOf(r)
	w.School, w.Mirrors = rig.Never, false
	p, _ := planned(t, r, w, plan.Fewest)
	said := strings.Join(p.Says(), " ")
	if p.X == nil || strings.Contains(said, "lost at the worst box") ||
		!strings.Contains(said, "what the leads lose is not") {
		t.Error(said)
	}
}

// Left and right are hung alike: the boxes of an output on the right are the partners
// of those on the left, in their order, and the worse side decides.
func TestMirroredSidesAreHungAlike(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Amp("amp"), "A2").
		Plug("DESK/main L", "A2/in 1").Plug("DESK/main R", "A2/in 2")
	for i, hung := range []struct {
		out, box string
		length   unit.Metre
	}{{"A1/out A", "L1", 5}, {"A1/out A", "L2", 20}, {"A2/out A", "L3", 5}, {"A2/out A", "L4", 20},
		{"A1/out B", "R1", 30}, {"A1/out B", "R2", 8}, {"A2/out B", "R3", 30}, {"A2/out B", "R4", 8}} {
		r.Add(rigtest.Box("box"), hung.box)
		d, _ := r.Device(hung.box)
		e := d.Change()
		e.Place = []string{"left near", "left far", "left near", "left far", "right far", "right near", "right far",
			"right near"}[i]
		r.Do(e).Do(rig.Connect{Link: rig.Link{From: rigtest.Ref(hung.out), To: rigtest.Ref(hung.box + "/in"),
			Length: unit.Of(hung.length), Area: unit.Of(unit.SquareMillimetre(2.5))}})
	}
	for _, tag := range []string{"A1", "A2"} {
		d, _ := r.Device(tag)
		e := d.Change()
		e.Place = "rack"
		r.Do(e)
	}
	w := plan.WishesOf(r.Rig)
	w.School = rig.Never
	p, _ := planned(t, r.Rig, w, plan.Fewest)
	if len(p.Problem.Groups) != 1 || !p.Dealt.Proved {
		t.Fatalf("%d groups, proved %v", len(p.Problem.Groups), p.Dealt.Proved)
	}
	hung := map[string]bool{}
	for _, a := range p.Amps {
		for _, o := range a.Outputs {
			hung[strings.Join(o.Tags, " ")] = true
		}
	}
	for left := range hung {
		if right := strings.ReplaceAll(left, "L", "R"); !hung[right] {
			t.Errorf("%q hang together, and %q do not: %v", left, right, hung)
		}
	}
	// L1 L3 are 5 m from the rack and R1 R3 30 m: with their partners at hand the boxes
	// of one spot share an output (by hand).
	if !hung["L1 L3"] && !hung["L3 L1"] {
		t.Errorf("%v", hung)
	}
}

// Whatever rig it is asked for, a plan can be made so, and plugs no lead of a known
// length over a way that is longer.
func TestPlansOfRandomRigsAreMadeSo(t *testing.T) {
	strong := rigtest.Amp("strong", func(a *gear.Amplifier) {
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 400}, {Mode: gear.Separate, Load: 2, Power: 1600}}
	})
	small := rigtest.Amp("small", func(a *gear.Amplifier) {
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 16, Power: 90}, {Mode: gear.Separate, Load: 4, Power: 300}}
		a.Bridging = gear.Bridging{}
	})
	made := 0
	for seed := range uint64(40) {
		r := rigtest.Random([]gear.Model{rigtest.Player(), rigtest.Desk(), rigtest.Amp("amp"), rigtest.Box("box"),
			rigtest.Biamped(), rigtest.Crossover()}, seed)
		w := plan.WishesOf(r)
		w.Weak, w.Loud, w.Supply = true, true, reckon.Figure{}
		p, x := planned(t, r, w, plan.Fewest, gear.Holding{Model: strong, Count: 30},
			gear.Holding{Model: small, Count: 30})
		if p.X == nil {
			continue
		}
		made++
		after, err := rig.Apply(r, p.Edit(x))
		if err != nil {
			t.Errorf("seed %d: %v", seed, err)
			continue
		}
		ground := x.Ground(gear.Speaker)
		y := rig.NewIndex(after)
		for _, k := range after.Links {
			if was, fed := x.Into(k.To); fed && x.Spot(was.From.Device) == y.Spot(k.From.Device) {
				continue // it lay between the same spots
			}
			way, known := ground.Way(y.Spot(k.From.Device), y.Spot(k.To.Device))
			if length, said := y.LeadLength(k).Get(); known && said && length < way && k.Via == "" &&
				k.Rides == (rig.Ref{}) {
				t.Errorf("seed %d: %s is %s long, and the way is %s", seed, k, length, way)
			}
		}
	}
	if made < 10 {
		t.Errorf("only %d of 40 rigs could be planned", made)
	}
}
