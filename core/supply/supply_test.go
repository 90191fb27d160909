package supply_test

import (
	"math"
	"testing"

	"largo/core/drive"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/supply"
	"largo/core/unit"
)

func tree(r rig.Rig) *supply.Tree {
	x := rig.NewIndex(r)
	return supply.New(x, drive.Outputs(x, load.Outputs(x)))
}

// heavy is an amplifier of class D of 350 W at 8 Ω whose figures are all on its sheet: 60 W
// idle, 65 % above it, a power factor of 0.65.
func heavy() gear.Model {
	m := rigtest.Amp("heavy", func(a *gear.Amplifier) { a.Class = "D" })
	m.Intake.Idle, m.Intake.Efficiency = unit.Of(unit.Watt(60)), unit.Of(unit.Ratio(0.65))
	m.Intake.Factor, m.Intake.Earthed = unit.Of(unit.Ratio(0.65)), gear.Yes
	m.Intake.Leakage = unit.Of(unit.Ampere(0.0012))
	return m
}

// Two boxes of 8 Ω on two outputs of 350 W: an eighth is 87.5 W, a third 233.3, and what the
// wall gives is P_in = idle + P_out/efficiency (REFERENCE.md, Mains).
func TestWhatAnAmplifierTakes(t *testing.T) {
	r := rigtest.New(t).Add(rigtest.Desk(), "DESK").Add(heavy(), "A1").Add(rigtest.Box("box"), "B1", "B2").
		Plug("DESK/main L", "A1/in 1").Plug("DESK/main R", "A1/in 2").Plug("A1/out A", "B1/in").Plug("A1/out B", "B2/in")
	a, _ := supply.Of(tree(r.Rig).Taken, "A1")
	for s, want := range map[supply.State]float64{supply.Idle: 60, supply.Ordinary: 60 + 2*350/8.0/0.65,
		supply.Dense: 60 + 2*350/3.0/0.65, supply.Burst: 60 + 2*350/0.65} {
		rigtest.Near(t, s.String(), float64(a.Watts[s]), want, 0.01)
		rigtest.Near(t, s.String()+", A", float64(a.Amps(s)), want/230/0.65, 1e-4)
	}
	rigtest.Near(t, "its heat", float64(a.Heat(supply.Ordinary)), 60+2*350/8.0/0.65-87.5, 0.01)
	rigtest.Near(t, "half of dense music", float64(a.At(0.5)), 60+350/3.0/0.65, 0.01)
	r.Do(rig.SetLimiter{Tag: "A1", Set: rig.Limiter{Port: "out A", RMS: unit.Of(unit.Volt(20))}}) // 50 W
	a, _ = supply.Of(tree(r.Rig).Taken, "A1")
	rigtest.Near(t, "with a limiter at 20 V", float64(a.Watts[supply.Dense]), 60+(50+350/3.0)/0.65, 0.01)
	brief := r.Brief
	brief.Crest = unit.Of(unit.Decibel(12.0412)) // an eighth: 12.041 dB (REFERENCE.md, Clipping)
	before := a.Watts[supply.Ordinary]
	a, _ = supply.Of(tree(r.Do(rig.SetBrief{Brief: brief}).Rig).Taken, "A1")
	rigtest.Near(t, "of a recording with that crest", float64(a.Watts[supply.Ordinary]), float64(before), 0.01)
}

// Nothing that is not known is nothing: a mixer of no sheet takes something, and says so.
func TestUnknownIsNotNothing(t *testing.T) {
	desk, _ := supply.Of(tree(rigtest.New(t).Add(rigtest.Desk(), "DESK").Rig).Taken, "DESK")
	if desk.Watts[supply.Ordinary] < 50 || len(desk.Assumed) < 2 {
		t.Errorf("%+v", desk)
	}
}

// A maker's own table goes before all: of an active box 1.2 A at an eighth, 230 V, 0.65.
func TestTheMakersTable(t *testing.T) {
	box := rigtest.Box("active", func(s *gear.Loudspeaker) { s.Active = true })
	box.Intake.Factor, box.Intake.Idle, box.Intake.Most = unit.Of(unit.Ratio(0.65)), unit.Of(unit.Watt(30)),
		unit.Of(unit.Watt(900))
	box.Intake.Table = []gear.Taken{{Part: gear.Eighth, Amps: unit.Of(unit.Ampere(1.2))}}
	a, _ := supply.Of(tree(rigtest.New(t).Add(box, "H1").Rig).Taken, "H1")
	rigtest.Near(t, "an eighth", float64(a.Watts[supply.Ordinary]), 1.2*230*0.65, 1e-6)
	rigtest.Near(t, "an eighth, A", float64(a.Amps(supply.Ordinary)), 1.2, 1e-9)
	rigtest.Near(t, "at rest", float64(a.Watts[supply.Idle]), 30, 1e-9)
}

// Of the house a breaker on each of three phases; sums go up, and the fullest phase counts.
func TestTheTree(t *testing.T) {
	parts := []rig.Supply{{Name: "house", Sort: rig.Source, Phases: 3, Volts: unit.Of(unit.Volt(230)),
		Current: unit.Of(unit.Ampere(32))}}
	r := rigtest.New(t).Add(heavy(), "A1", "A2", "A3")
	for i, tag := range []string{"A1", "A2", "A3"} {
		parts = append(parts, rig.Supply{Name: "K" + tag, Sort: rig.Breaker, From: "house", Phase: i%2 + 1,
			Current: unit.Of(unit.Ampere(16)), Carries: unit.Of(unit.Ampere(2))},
			rig.Supply{Name: "wall " + tag, Sort: rig.Outlet, From: "K" + tag})
	}
	r.Do(rig.SetSupplies{Supplies: parts})
	for _, tag := range []string{"A1", "A2", "A3"} {
		r.Do(rig.PlugMains{Tag: tag, Outlet: "wall " + tag})
	}
	tr := tree(r.Rig)
	each := 60 / 230.0 / 0.65
	k, _ := tr.Node("KA1")
	house, _ := tr.Node("house")
	rigtest.Near(t, "a breaker, with the house's", float64(k.Carries(supply.Idle)), each+2, 1e-6)
	rigtest.Near(t, "the house, of its fullest phase", float64(house.Carries(supply.Idle)), 2*each, 1e-6)
	rigtest.Near(t, "its watts", float64(house.Watts[supply.Idle]), 180, 1e-6)
	rigtest.Near(t, "its leakage", float64(house.Leaks), 0.0036, 1e-9)
	if len(tr.Loose) != 0 || !house.Three || k.Three || k.Phase != 1 {
		t.Errorf("%v, %+v, %+v", tr.Loose, house, k)
	}
	parts[1].Phase = 0 // KA1: it may be on the phase of the fullest
	before := r.Rig
	unsaid, _ := tree(r.Do(rig.SetSupplies{Supplies: parts}).Rig).Node("house")
	rigtest.Near(t, "of one nobody says the phase", float64(unsaid.Carries(supply.Idle)), 2*each, 1e-6)
	parts[5].Phase = 2 // KA3, with KA2: three on one phase at the worst
	unsaid, _ = tree(r.Do(rig.SetSupplies{Supplies: parts}).Rig).Node("house")
	rigtest.Near(t, "and two on another", float64(unsaid.Carries(supply.Idle)), 3*each, 1e-6)
	r.Rig = before
	r.Do(rig.PlugMains{Tag: "A3"})
	if tr = tree(r.Rig); len(tr.Loose) != 1 || tr.Taken[tr.Loose[0]].Tag != "A3" {
		t.Errorf("pulled: %v", tr.Loose)
	}
}

// The neutral: 16/12/8 A 6.9282; with 30 % of third harmonic 12.8312; 10/10/10 with 50 %
// 15.0 (REFERENCE.md, Mains).
func TestTheNeutral(t *testing.T) {
	for _, c := range []struct {
		first [3]float64
		third float64
		want  float64
	}{{[3]float64{16, 12, 8}, 0, 6.9282}, {[3]float64{16, 12, 8}, 0.3, 12.8312}, {[3]float64{10, 10, 10}, 0.5, 15}} {
		var third [3]float64
		for i, v := range c.first {
			third[i] = c.third * v
		}
		rigtest.Near(t, "neutral", float64(supply.NeutralOf(c.first, third)), c.want, 1e-4)
	}
}

// A generator of ours behind which the house's parts stand, and a transformer that halves the
// volts: what stands behind it is drawn from before it by half the current.
func TestGearThatPassesMainsOn(t *testing.T) {
	set := gear.Model{ID: "gen", Kind: gear.KindGenerator, Maker: "Test", Name: "gen", Supply: &gear.Supply{Outlets: 2,
		Gives: unit.Of(unit.Volt(230)), Apparent: unit.Of(unit.Watt(4600))}}
	down := gear.Model{ID: "down", Kind: gear.KindTransformer, Maker: "Test", Name: "down",
		Supply: &gear.Supply{Outlets: 1,
			Ratio: unit.Of(unit.Ratio(0.5)), Apparent: unit.Of(unit.Watt(1150))}}
	kettle := gear.Model{ID: "kettle", Kind: gear.KindAppliance, Maker: "Test", Name: "kettle",
		Appliance: &gear.Appliance{}, Intake: gear.Intake{Most: unit.Of(unit.Watt(1150)), Factor: unit.Of(unit.Ratio(1))}}
	r := rigtest.New(t).Add(set, "G1").Add(down, "T1").Add(kettle, "TEA").Plug("G1/outlet 1", "T1/mains").
		Plug("T1/outlet 1", "TEA/mains")
	tr := tree(r.Rig)
	gen, _ := tr.Node("G1")
	tee, _ := tr.Node("T1")
	rigtest.Near(t, "the generator carries", float64(gen.Limit), 20, 1e-9)
	rigtest.Near(t, "the transformer carries", float64(tee.Limit), 10, 1e-9)
	rigtest.Near(t, "through the generator", float64(gen.Carries(supply.Ordinary)), 5, 1e-6)
	if amps := tr.Taken[0].Amps(supply.Ordinary); math.IsNaN(float64(amps)) {
		t.Error("no current")
	}
	ring := tree(rigtest.New(t).Add(down, "T1", "T2").Plug("T1/outlet 1", "T2/mains").Plug("T2/outlet 1", "T1/mains").Rig)
	if len(ring.Roots()) != 1 || len(ring.Below(ring.Roots()[0])) != 2 {
		t.Errorf("a ring: %+v", ring.Nodes)
	}
	r.Do(rig.SetSupplies{Supplies: []rig.Supply{{Name: "board", Sort: rig.Source, Gear: "G1"},
		{Name: "wall", Sort: rig.Outlet, From: "board"}}})
	r.Add(heavy(), "A1").Do(rig.PlugMains{Tag: "A1", Outlet: "wall"})
	tr = tree(r.Rig)
	gen, _ = tr.Node("G1")
	rigtest.Near(t, "with what hangs on its board", float64(gen.Watts[supply.Idle]), 1150+60, 1e-6)
}

// IEC 60898-1, a breaker of 16 A: holds 18.08 A for an hour, trips by 23.2 A within it, and at
// once from 48 to 80 A (B), 80 to 160 (C), 160 to 320 (D); 2.55 times within 1 to 60 s
// (REFERENCE.md and from memory).
func TestBreakerBands(t *testing.T) {
	for _, c := range []struct {
		curve       rig.Curve
		amps        float64
		early, late float64
	}{{rig.CurveB, 18.08, 0, 0}, {rig.CurveB, 23.2, math.NaN(), 3600}, {rig.CurveB, 40.8, 1, 60}, {rig.CurveB, 48, 0.1,
		math.NaN()}, {rig.CurveB, 80, 0.1, 0.1}, {rig.CurveC, 80, 0.1, math.NaN()}, {rig.CurveC, 160, 0.1, 0.1},
		{rig.CurveD, 100, 0.2208, math.NaN()}, {rig.CurveD, 320, 0.1, 0.1}} {
		early, late := supply.Within(16, unit.Ampere(c.amps), c.curve)
		if !math.IsNaN(c.early) && math.Abs(float64(early)-c.early) > 0.01*c.early+1e-9 ||
			!math.IsNaN(c.late) && math.Abs(float64(late)-c.late) > 0.01*c.late+1e-9 {
			t.Errorf("%s at %g A: %g to %g s, want %g to %g", c.curve, c.amps, early, late, c.early, c.late)
		}
	}
}

// 230 V at rest and 220 under 10 A are 1 Ω, a fiftieth more or less: what four amplifiers take
// on dense music flows through it. One without power-factor correction gives 20 lg of it less.
func TestVoltsLeft(t *testing.T) {
	m := heavy()
	r := rigtest.New(t).Add(m, "A1").Add(rigtest.Box("box"), "B1").Plug("A1/out A", "B1/in")
	r.Do(rig.SetSupplies{Supplies: []rig.Supply{{Name: "house", Sort: rig.Source, Volts: unit.Of(unit.Volt(230))},
		{Name: "wall", Sort: rig.Outlet, From: "house", Volts: unit.Of(unit.Volt(230)), Loaded: unit.Of(unit.Volt(220)),
			LoadedBy: unit.Of(unit.Ampere(10))}}}).Do(rig.PlugMains{Tag: "A1", Outlet: "wall"})
	tr := tree(r.Rig)
	z, give := supply.SourceOhms(&r.Supplies[1])
	rigtest.Near(t, "behind it", z.Value, 1, 1e-9)
	rigtest.Near(t, "give or take", give.Value, 0.02, 1e-9)
	flows := (60 + 350/3.0/0.65) / 230 / 0.65
	rigtest.Near(t, "left", tr.UnderAt(0, supply.Dense).Value, 230-flows, 0.001)
	loses, is := tr.Loses(0, supply.Dense)
	rigtest.Near(t, "and loses", float64(loses), -20*math.Log10((230-flows)/230), 1e-6)
	r.Models[0].Intake.Corrected = gear.Yes
	if _, loses := tree(r.Rig).Loses(0, supply.Dense); !is || loses {
		t.Error("with correction it gives as much")
	}
	r.Do(rig.PlugMains{Tag: "A1"})
	if tree(r.Rig).UnderAt(0, supply.Dense).Known() {
		t.Error("on no outlet")
	}
}

// A breaker of 16 A C holds 18 A for ever; at 2.55 times it may trip after a second
// (IEC 60898-1, from memory), and ten seconds of it are ten times that. What lies further apart
// than two minutes is no reading of what was between.
func TestWorn(t *testing.T) {
	flow := func(amps unit.Ampere, every, n int) (f []supply.Flow) {
		for i := range n {
			f = append(f, supply.Flow{At: float64(i * every), Amps: amps})
		}
		return f
	}
	used, mean := supply.Worn(flow(18, 30, 121), 16, rig.CurveC)
	rigtest.Near(t, "18 A", used.Value, 0, 0)
	rigtest.Near(t, "its mean", mean.Value, 18, 1e-9)
	used, _ = supply.Worn(flow(2.55*16, 10, 2), 16, rig.CurveC)
	rigtest.Near(t, "ten seconds of 2.55 times", used.Value, 10, 1e-6)
	early, _ := supply.Within(16, 24, rig.CurveC)
	used, _ = supply.Worn(flow(24, 30, 3), 16, rig.CurveC)
	rigtest.Near(t, "a minute of 24 A", used.Value, 60/float64(early), 1e-9)
	if used, _ := supply.Worn(flow(24, 600, 6), 16, rig.CurveC); used.Known() {
		t.Errorf("ten minutes between readings: %s", used.Text())
	}
}
