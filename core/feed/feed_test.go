package feed_test

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"largo/core/feed"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/protect"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/stage"
	"largo/core/supply"
	"largo/core/survey"
	"largo/core/unit"
)

// big is an amplifier of class D of 1000 W a channel at 8 Ω, all on its sheet.
func big() gear.Model {
	m := rigtest.Amp("big", func(a *gear.Amplifier) {
		a.Class, a.Ratings = "D", []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 1000},
			{Mode: gear.Separate, Load: 4, Power: 1600}}
	})
	m.Intake.Idle, m.Intake.Efficiency = unit.Of(unit.Watt(60)), unit.Of(unit.Ratio(0.85))
	m.Intake.Factor, m.Intake.Corrected, m.Intake.Earthed = unit.Of(unit.Ratio(0.95)), gear.Yes, gear.Yes
	m.Intake.Leakage, m.Intake.Inrush = unit.Of(unit.Ampere(0.0015)), unit.Of(unit.Ampere(40))
	return m
}

// on is n such amplifiers, each with two boxes, on one outlet behind a breaker.
func on(t *testing.T, n int, breaker rig.Supply) *rigtest.Rig {
	r := rigtest.New(t)
	breaker.Name, breaker.Sort, breaker.From = "K1", rig.Breaker, "house"
	r.Do(rig.SetSupplies{Supplies: []rig.Supply{{Name: "house", Sort: rig.Source, Volts: unit.Of(unit.Volt(230))}, breaker,
		{Name: "wall", Sort: rig.Outlet, From: "K1", Earth: gear.Yes}}})
	for i := range n {
		a, b, c := fmt.Sprintf("A%d", i+1), fmt.Sprintf("L%d", i+1), fmt.Sprintf("R%d", i+1)
		r.Add(big(), a).Add(rigtest.Box("box", func(s *gear.Loudspeaker) { s.Continuous = unit.Of(unit.Watt(1000)) }), b, c).
			Plug(a+"/out A", b+"/in").Plug(a+"/out B", c+"/in").Do(rig.PlugMains{Tag: a, Outlet: "wall"})
	}
	return r
}

func amps(a float64) unit.Given[unit.Ampere] { return unit.Of(unit.Ampere(a)) }

func found(r rig.Rig, code string) (finding.Finding, bool) {
	fs := survey.Survey(r).At(finding.Feed)
	i := slices.IndexFunc(fs, func(f finding.Finding) bool { return f.Code == code })
	if i < 0 {
		return finding.Finding{}, false
	}
	return fs[i], true
}

// says asserts that a rig has a finding of that code, gravity and danger, and these words.
func says(t *testing.T, r rig.Rig, code string, g finding.Gravity, d finding.Danger, words ...string) finding.Finding {
	t.Helper()
	f, has := found(r, code)
	if !has || f.Gravity != g || f.Danger != d {
		t.Fatalf("%s: %t %s %s %q", code, has, f.Gravity, f.Danger, f.What)
	}
	for _, w := range words {
		if !strings.Contains(f.What+" "+f.Why, w) {
			t.Errorf("%s lacks %q: %s %s", code, w, f.What, f.Why)
		}
	}
	return f
}

func silent(t *testing.T, what string, r rig.Rig) {
	t.Helper()
	for _, f := range survey.Survey(r).At(finding.Feed) {
		t.Errorf("%s: %s %s", what, f.Code, f.What)
	}
}

// Of one amplifier an eighth takes 60 + 2·125/0.85 = 354 W, 1.62 A; a third 844 W, 3.86 A. Four
// of them on 16 A hold with ordinary programme, 6.48 A, and on dense music, 15.5 A; five do not
// hold on dense music, 19.3 A; twelve, 19.4 A, not even with ordinary programme.
func TestABreakerHoldsOrNot(t *testing.T) {
	silent(t, "four", on(t, 4, rig.Supply{Current: amps(16), Curve: rig.CurveC}).Rig)
	five := on(t, 5, rig.Supply{Current: amps(16), Curve: rig.CurveC})
	f := says(t, five.Rig, "feed.dense", finding.Mend, finding.Sound, "19.3 A", "16 A")
	if len(f.Mends) != 1 {
		t.Fatal("no mend by limiters")
	}
	spare := on(t, 5, rig.Supply{Current: amps(16), Curve: rig.CurveC}).
		Do(rig.ChangeSupply{To: rig.Supply{Name: "K2", Sort: rig.Breaker, From: "house", Current: amps(16),
			Curve: rig.CurveC}}).
		Do(rig.ChangeSupply{To: rig.Supply{Name: "other", Sort: rig.Outlet, From: "K2", Earth: gear.Yes}})
	moved := says(t, spare.Rig, "feed.dense", finding.Mend, finding.Sound).Mends[0]
	if moved.Label != "Plug A1 into other" {
		t.Error(moved.Label)
	}
	silent(t, "one of them moved", spare.Do(moved.Edit).Rig)
	// five of them leave 16/5 A each, 639.7 W above idle · 0.85 over two outputs of 8 Ω: 46.4 V
	v := survey.Of[protect.Verdict](survey.Survey(five.Rig)).Outputs[0]
	want := math.Sqrt((16*230*0.95/5 - 60) * 0.85 / 2 * 8)
	if !v.Mains.Known() || math.Abs(v.Mains.Value-want) > 0.1 || v.Long.Value < v.Mains.Value {
		t.Errorf("the ceiling is %s, want %.1f V, of the box %s", v.Mains.Text(), want, v.Long.Text())
	}
	silent(t, "held back by limiters", five.Do(f.Mends[0].Edit).Rig)
	says(t, on(t, 12, rig.Supply{Current: amps(16), Curve: rig.CurveB}).Rig, "feed.over", finding.Mend, finding.Sound,
		"carries 19.4 A", "trip after")
	if said := survey.Survey(on(t, 4, rig.Supply{Current: amps(16)}).Rig).Says(finding.Feed); !strings.Contains(said,
		"hold on dense music; K1 is the fullest, 15.5 A of 16 A") {
		t.Error(said)
	}
}

// A load of three hours or more may take 80 % of a breaker in North America (NEC 210.20), and
// all of it elsewhere; a short show may too.
func TestTheContinuousRule(t *testing.T) {
	r := on(t, 4, rig.Supply{Current: amps(7), Curve: rig.CurveAmerican})
	if f, has := found(r.Rig, "feed.continuous"); has {
		t.Errorf("in Europe: %s", f.What)
	}
	brief := r.Brief
	brief.Region = rig.RegionWye
	r.Do(rig.SetBrief{Brief: brief})
	says(t, r.Rig, "feed.continuous", finding.Mend, finding.Sound, "5.6 A", "not in the brief")
	brief.Lasts = unit.Of(unit.Second(2 * 3600))
	if _, has := found(r.Do(rig.SetBrief{Brief: brief}).Rig, "feed.continuous"); has {
		t.Error("of a show of two hours")
	}
}

// Which faults the three lamps show, and which they do not: neutral and earth exchanged, and
// an earth that is joined to the neutral, look sound (TRADE.md, Feed).
func TestThreeLamps(t *testing.T) {
	for lamps, want := range map[rig.Lamps]string{"110": "sound, neutral and earth exchanged, earth joined to " +
		"the neutral " +
		"in the outlet", "100": "no earth", "010": "no neutral", "000": "no line", "101": "line and neutral exchanged",
		"011": "line and earth exchanged"} {
		var names []string
		for _, f := range feed.Means(lamps) {
			names = append(names, f.Name)
		}
		if got := strings.Join(names, ", "); got != want {
			t.Errorf("%s: %s; want %s", lamps, got, want)
		}
	}
}

// with changes the outlet of a sound rig.
func with(t *testing.T, change func(s *rig.Supply)) *rigtest.Rig {
	r := on(t, 1, rig.Supply{Current: amps(16), Curve: rig.CurveC})
	s := r.Supplies[2]
	change(&s)
	return r.Do(rig.ChangeSupply{Name: "wall", To: s})
}

func TestPeopleFirst(t *testing.T) {
	silent(t, "a sound outlet", with(t, func(s *rig.Supply) { s.Lamps, s.Button = feed.Sound, gear.Yes }).Rig)
	says(t, with(t, func(s *rig.Supply) { s.Lamps = "100" }).Rig, "feed.wiring", finding.Stop, finding.People, "no earth")
	says(t, with(t, func(s *rig.Supply) { s.Button = gear.No }).Rig, "feed.button", finding.Stop, finding.People)
	bare := with(t, func(s *rig.Supply) { s.Earth = gear.No })
	says(t, bare.Rig, "feed.no-earth", finding.Stop, finding.People, "A1 must have it")
	bare.Do(rig.ChangeSupply{To: rig.Supply{Name: "other", Sort: rig.Outlet, From: "K1", Earth: gear.Yes}})
	f, _ := found(bare.Rig, "feed.no-earth")
	if _, still := found(bare.Do(f.Mends[0].Edit).Rig, "feed.no-earth"); still {
		t.Error("the mend does not mend")
	}
	doubly := with(t, func(s *rig.Supply) { s.Earth = gear.No })
	doubly.Models = slices.Clone(doubly.Models)
	for i := range doubly.Models {
		if doubly.Models[i].Amplifier != nil {
			doubly.Models[i].Intake.Earthed = gear.No
		}
	}
	silent(t, "class II on an outlet without earth", doubly.Rig)
}

// Residual current: of 30 mA 9 are to be minded and 15 to be mended; a GFCI of class A has to
// hold 4 mA (UL 943). Behind a floating generator none protects.
func TestResidualCurrent(t *testing.T) {
	behind := func(n int, trip float64, kind rig.ResidualType) rig.Rig {
		return on(t, n, rig.Supply{Current: amps(40), Curve: rig.CurveD, Residual: amps(trip), Type: kind}).Rig
	}
	if f, has := found(behind(5, 0.03, rig.TypeA), "feed.leakage"); has {
		t.Errorf("7.5 of 30 mA: %s", f.What)
	}
	says(t, behind(7, 0.03, rig.TypeA), "feed.leakage", finding.Mind, finding.Sound, "10.5 mA")
	f := says(t, behind(11, 0.03, rig.TypeA), "feed.leakage", finding.Mend, finding.Sound, "16.5 mA")
	if strings.Contains(f.Advice, "emove it") || !strings.Contains(f.Advice, "never removed") {
		t.Error(f.Advice)
	}
	says(t, behind(3, 0.006, rig.GFCI), "feed.leakage", finding.Mend, finding.Sound, "4.5 mA")
	says(t, behind(2, 0.006, rig.GFCI), "feed.leakage", finding.Mind, finding.Sound, "3 mA")
	says(t, behind(1, 0.03, rig.TypeAC), "feed.residual-type", finding.Mend, finding.People)
	for bonded, gravity := range map[gear.Answer]finding.Gravity{gear.No: finding.Stop, "": finding.Mend, gear.Yes: 0} {
		set := gear.Model{ID: "gen", Kind: gear.KindGenerator, Maker: "Test", Name: "gen", Supply: &gear.Supply{Outlets: 1,
			Gives: unit.Of(unit.Volt(230)), Apparent: unit.Of(unit.Watt(9200)), Bonded: bonded}}
		r := on(t, 1, rig.Supply{Current: amps(16), Curve: rig.CurveC, Residual: amps(0.03), Type: rig.TypeA}).Add(set, "G1")
		house := r.Supplies[0]
		house.Gear = "G1"
		r.Do(rig.ChangeSupply{Name: "house", To: house})
		if f, _ := found(r.Rig, "feed.floating"); f.Gravity != gravity {
			t.Errorf("bonded %q: %s", bonded, f.Gravity)
		}
	}
}

// A lead of 50 m and 2.5 mm² that carries 16 A loses 13.203 of 230 V, 5.74 %, its copper at
// 70 °C (REFERENCE.md, Mains); wound up it melts.
func TestLeads(t *testing.T) {
	r := on(t, 4, rig.Supply{Current: amps(32), Curve: rig.CurveC})
	lead := rig.Supply{Name: "lead", Sort: rig.Feeder, From: "K1", Length: unit.Of(unit.Metre(50)),
		Area: unit.Of(unit.SquareMillimetre(2.5)), Current: amps(16), Carries: amps(16 - 4*354.12/230/0.95)}
	wall := r.Supplies[2]
	wall.From = "lead"
	r.Do(rig.SetSupplies{Supplies: []rig.Supply{r.Supplies[0], r.Supplies[1], lead, wall}})
	f := says(t, r.Rig, "feed.drop", finding.Mend, finding.Sound, "5.7 %")
	rigtest.Near(t, "the drop", f.Figures[0].Value, 0.0574, 1e-4)
	if len(f.Mends) != 1 || f.Mends[0].Label != "Take a lead of 4 mm²: it loses 3.6 %" { // 5.74 × 2.5 / 4
		t.Errorf("%+v", f.Mends)
	}
	lead.OnReel = true
	r.Do(rig.ChangeSupply{Name: "lead", To: lead})
	f = says(t, r.Rig, "feed.reel", finding.Mend, finding.People, "16 A")
	if _, still := found(r.Do(f.Mends[0].Edit).Rig, "feed.reel"); still {
		t.Error("run out, and still wound up")
	}
}

// 230 V at rest and 220 under 10 A are 1 Ω behind the outlet: 15.4 A leave 214.6 V, which is
// enough; of 3 Ω they leave 183.7.
func TestVoltsUnderLoad(t *testing.T) {
	read := func(under float64) rig.Rig {
		r := on(t, 4, rig.Supply{Current: amps(16), Curve: rig.CurveC})
		s := r.Supplies[2]
		s.Volts, s.Loaded, s.LoadedBy = unit.Of(unit.Volt(230)), unit.Of(unit.Volt(under)), amps(10)
		return r.Do(rig.ChangeSupply{Name: "wall", To: s}).Rig
	}
	silent(t, "1 Ω", read(220))
	f := says(t, read(200), "feed.sag", finding.Mend, finding.Sound, "183.6 V is left")
	rigtest.Near(t, "the source", f.Figures[0].Value, 3, 1e-9)
}

// Air of 12 °C and 75 % has its dew point at 7.70 °C (REFERENCE.md, Place): gear of 4 °C gets
// wet, of 9 °C not.
func TestDew(t *testing.T) {
	rigtest.Near(t, "dew point", feed.DewPoint(12, 0.75).Value, 7.70, 0.005)
	r := on(t, 1, rig.Supply{Current: amps(16), Curve: rig.CurveC})
	b := r.Brief
	b.Air, b.Humidity, b.Arrives = unit.Of(unit.Celsius(12)), unit.Of(unit.Ratio(0.75)), unit.Of(unit.Celsius(4))
	says(t, r.Do(rig.SetBrief{Brief: b}).Rig, "feed.damp", finding.Mind, finding.Gear, "below 7.7 °C")
	b.Arrives = unit.Of(unit.Celsius(9))
	silent(t, "gear of 9 °C", r.Do(rig.SetBrief{Brief: b}).Rig)
}

// Two amplifiers on one switch take 80 A for an instant: a breaker of 16 A surely holds 3 times
// its rating, a peak of 67.9 A (B), and 113.1 (C).
func TestInrush(t *testing.T) {
	together := func(curve rig.Curve) rig.Rig {
		r := on(t, 2, rig.Supply{Current: amps(16), Curve: curve})
		for _, tag := range []string{"A1", "A2"} {
			d, _ := r.Device(tag)
			e := d.Change()
			e.Switch = "strip"
			r.Do(e)
		}
		return r.Rig
	}
	says(t, together(rig.CurveB), "feed.inrush", finding.Mend, finding.Sound, "80 A", "67.9 A")
	silent(t, "on C", together(rig.CurveC))
	silent(t, "one by one", on(t, 2, rig.Supply{Current: amps(16), Curve: rig.CurveB}).Rig)
}

// Phases that part by more than 30 % of what they are for; a neutral that carries more than a
// phase does.
func TestThreePhases(t *testing.T) {
	r := rigtest.New(t)
	parts := []rig.Supply{{Name: "house", Sort: rig.Source, Phases: 3, Current: amps(16), Volts: unit.Of(unit.Volt(230))}}
	for i := range 3 {
		name := "L" + string(rune('1'+i))
		parts = append(parts, rig.Supply{Name: name, Sort: rig.Breaker, From: "house", Phase: i + 1, Current: amps(16),
			Curve: rig.CurveC}, rig.Supply{Name: "wall " + name, Sort: rig.Outlet, From: name, Earth: gear.Yes})
	}
	r.Do(rig.SetSupplies{Supplies: parts})
	lamp := gear.Model{ID: "lamp", Kind: gear.KindAppliance, Maker: "Test", Name: "lamp", Appliance: &gear.Appliance{},
		Intake: gear.Intake{Most: unit.Of(unit.Watt(2000)), Idle: unit.Of(unit.Watt(2000)),
			Factor: unit.Of(unit.Ratio(0.65))}}
	r.Add(lamp, "X1", "X2", "X3").Do(rig.PlugMains{Tag: "X1", Outlet: "wall L1"}).
		Do(rig.PlugMains{Tag: "X2", Outlet: "wall L1"})
	if _, has := found(r.Do(rig.PlugMains{Tag: "X3", Outlet: "wall L2"}).Rig, "feed.uneven"); !has {
		t.Error("two on one phase, one on the second, none on the third")
	}
	r.Do(rig.PlugMains{Tag: "X2", Outlet: "wall L3"})
	if _, has := found(r.Rig, "feed.uneven"); has {
		t.Error("one on each is even")
	}
	// 13.38 A each with a third harmonic of 0.7 of the fundamental: 3 · 0.7 · 13.38/1.2207
	says(t, r.Rig, "feed.neutral", finding.Mend, finding.People, "carries 23 A")
}

// A lead with nothing above it that holds it to what it is for burns; of a device on no outlet
// and a breaker of no rating nobody says that all is well.
func TestWhatIsNotKnown(t *testing.T) {
	r := rigtest.New(t).Do(rig.SetSupplies{Supplies: []rig.Supply{{Name: "house", Sort: rig.Source},
		{Name: "reel", Sort: rig.Feeder, From: "house", Current: amps(6)}, {Name: "wall", Sort: rig.Outlet, From: "reel"}}})
	kettle := gear.Model{ID: "kettle", Kind: gear.KindAppliance, Maker: "Test", Name: "kettle",
		Appliance: &gear.Appliance{}, Intake: gear.Intake{Most: unit.Of(unit.Watt(2300)), Factor: unit.Of(unit.Ratio(1))}}
	r.Add(kettle, "TEA").Do(rig.PlugMains{Tag: "TEA", Outlet: "wall"})
	says(t, r.Rig, "feed.over", finding.Stop, finding.People, "No breaker")
	says(t, r.Do(rig.PlugMains{Tag: "TEA"}).Rig, "feed.unknown", finding.Mind, finding.Sound, "TEA")
	says(t, on(t, 1, rig.Supply{}).Rig, "feed.rating", finding.Mind, finding.Sound)
}

// Five amplifiers of 3.87 A on dense music over circuits of 8 A: two each, so three circuits;
// and of 7 A one each, so that five are needed and three are short of two.
func TestThePlan(t *testing.T) {
	rows := func(n int, each float64) *rigtest.Rig {
		r := on(t, 5, rig.Supply{Current: amps(each), Curve: rig.CurveC})
		for i := 2; i <= n; i++ {
			k := fmt.Sprintf("K%d", i)
			r.Do(rig.ChangeSupply{To: rig.Supply{Name: k, Sort: rig.Breaker, From: "house", Current: amps(each),
				Curve: rig.CurveC}}).Do(rig.ChangeSupply{To: rig.Supply{Name: "wall " + k, Sort: rig.Outlet, From: k,
				Earth: gear.Yes}})
		}
		return r
	}
	plan := func(r rig.Rig, anew bool) feed.Planned {
		report := survey.Survey(r)
		return survey.Of[feed.Verdict](report).PlanPlugs(report.Index, anew)
	}
	r := rows(4, 8)
	if got := plan(r.Rig, false); got.Fails == "" {
		t.Errorf("all are plugged in: %+v", got)
	}
	got := plan(r.Rig, true)
	if got.Fails != "" || got.Used != 3 || !got.Proved || len(got.Plugs) != 5 {
		t.Fatalf("%+v", got)
	}
	silent(t, "plugged in as planned", r.Do(got.Way.Edit).Rig)
	// a source of 15 A holds four of five, whatever its circuits hold
	house := r.Supplies[0]
	house.Current = amps(15)
	if got = plan(r.Do(rig.ChangeSupply{Name: "house", To: house}).Rig, true); !strings.Contains(got.Fails,
		"House holds with ordinary programme, and not on dense music") || got.Way.Edit != nil {
		t.Errorf("over what the source holds: %+v", got)
	}
	short := plan(rows(3, 7).Rig, true)
	if short.More != 2 || !strings.Contains(short.Says(), "two circuits more of 7 A would do") {
		t.Errorf("%+v", short)
	}
	if short.Way.Edit == nil || len(short.Plugs) != 5 { // two on each of two circuits, 3.5 A each
		t.Fatalf("no limiters: %+v", short)
	}
	held := rows(3, 7).Do(short.Way.Edit)
	silent(t, "held back as planned", held.Rig)
	k, _ := survey.Of[feed.Verdict](survey.Survey(held.Rig)).Node("K1")
	if a := k.Carries(supply.Dense); a < 6.8 || a > 7 {
		t.Errorf("K1 carries %s of 7 A: held back more than it has to be", a)
	}
	if each := plan(rows(6, 7).Rig, true); len(each.Alone) != 5 || !strings.Contains(each.Says(), "have a circuit each") {
		t.Errorf("one each: %s", each.Says())
	}
	// what makes no sound has a circuit of its own while there is one
	kettle := gear.Model{ID: "kettle", Kind: gear.KindAppliance, Maker: "Test", Name: "kettle",
		Appliance: &gear.Appliance{},
		Intake:    gear.Intake{Most: unit.Of(unit.Watt(230)), Factor: unit.Of(unit.Ratio(1))}}
	for circuits, mixed := range map[int]bool{3: true, 4: false} {
		got := plan(rows(circuits, 9).Add(kettle, "TEA").Rig, true)
		if got.Fails != "" || got.Mixed != mixed || got.Used != circuits {
			t.Errorf("%d circuits: %+v", circuits, got)
		}
	}
	// class I gear goes where there is earth
	r = rows(4, 8)
	for _, s := range r.Supplies {
		if s.Name == "K2" || s.Name == "K3" {
			s.Earth = gear.No
			r.Do(rig.ChangeSupply{Name: s.Name, To: s})
		}
	}
	if got = plan(r.Rig, true); got.More == 0 {
		t.Errorf("two circuits without earth: %+v", got)
	}
}

// BenchmarkFeed is the mains with all findings of 40 amplifiers and 160 boxes over 40 circuits, 200 devices.
func BenchmarkFeed(b *testing.B) {
	t := &testing.T{}
	r := on(t, 40, rig.Supply{Current: amps(125), Curve: rig.CurveC})
	for i := range 40 {
		k := fmt.Sprintf("C%d", i)
		r.Do(rig.ChangeSupply{To: rig.Supply{Name: k, Sort: rig.Breaker, From: "house", Current: amps(16)}}).
			Do(rig.ChangeSupply{To: rig.Supply{Name: "O" + k, Sort: rig.Outlet, From: k}}).
			Do(rig.PlugMains{Tag: fmt.Sprintf("A%d", i+1), Outlet: "O" + k})
	}
	for b.Loop() {
		b.StopTimer()
		in := stage.NewInput(r.Rig)
		in.Driven()
		b.StartTimer()
		if out := feed.Stage.Judge(in); len(out.Result.(feed.Verdict).Circuits) != 41 {
			b.Fatal(len(out.Findings))
		}
	}
}
