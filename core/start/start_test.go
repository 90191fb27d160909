package start_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/kick"
	"largo/core/order"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/stage"
	"largo/core/start"
	"largo/core/strike"
	"largo/core/unit"
)

func plan(r rig.Rig) (start.Verdict, []finding.Finding) {
	x := rig.NewIndex(r)
	return start.Judge(x, order.New(x))
}

func switches(steps []order.Step) []string {
	var out []string
	for _, s := range steps {
		out = append(out, s.Switch)
	}
	return out
}

func small(t testing.TB) *rigtest.Rig {
	return rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1").Plug("A1/out A", "B1/in")
}

// Sources, mixer, processing, then amplifiers, when everything that can reach
// them has settled (common practice, no source).
func TestAmplifiersLast(t *testing.T) {
	p, fs := plan(small(t).Rig)
	if got := fmt.Sprint(switches(p.Steps)); got != "[PLAYER DESK A1]" {
		t.Errorf("order %s", got)
	}
	// PLAYER and DESK settle beside each other, by 20 and by 95 s; A1 then takes the careful
	// 15 s of an amplifier whose time is unknown.
	for i, want := range []unit.Second{0, 5, 95} {
		if p.Steps[i].At != want {
			t.Errorf("%s at %v, want %v", p.Steps[i].Switch, p.Steps[i].At, want)
		}
	}
	if p.Total.Value != 110 || !p.Proved || !p.Steps[2].Assumed {
		t.Errorf("total %s, assumed %v", p.Total.Text(), p.Steps[2].Assumed)
	}
	if len(fs) != 1 || fs[0].Code != "start.unknown-settle" {
		t.Errorf("%+v", fs)
	}
}

func TestOwnOrderIsChecked(t *testing.T) {
	r := small(t).Do(rig.SetOrder{Order: []string{"A1", "PLAYER"}})
	p, fs := plan(r.Rig)
	if got := fmt.Sprint(switches(p.Steps)); got != "[A1 PLAYER DESK]" {
		t.Errorf("own order, the rest behind it: %s", got)
	}
	if fs[0].Code != "start.too-early" || fs[0].Gravity != finding.Stop {
		t.Fatalf("%+v", fs)
	}
	r.Do(fs[0].Mends[0].Edit)
	if p, fs := plan(r.Rig); p.Own || finding.Worst(fs) == finding.Stop {
		t.Errorf("after the mend: own %v, %+v", p.Own, fs)
	}
	swapped := small(t).Do(rig.SetOrder{Order: []string{"DESK", "PLAYER", "A1"}})
	if _, fs := plan(swapped.Rig); finding.Worst(fs) == finding.Stop {
		t.Error("desk before player is nobody's danger while nothing is live")
	}
}

func TestSharedSwitch(t *testing.T) {
	r := small(t).
		Do(rig.ChangeDevice{Tag: "DESK", NewTag: "DESK", Switch: "STRIP"}).
		Do(rig.ChangeDevice{Tag: "A1", NewTag: "A1", Switch: "STRIP"})
	p, fs := plan(r.Rig)
	if len(p.Steps) != 2 || fs[0].Code != "start.shared-switch" {
		t.Fatalf("%v, %+v", switches(p.Steps), fs)
	}
	r.Do(fs[0].Mends[0].Edit)
	if _, fs := plan(r.Rig); finding.Worst(fs) == finding.Stop {
		t.Errorf("after the mend: %+v", fs)
	}
}

// A generator runs steadily before anything behind it goes on, and stops last
// (common practice, no source).
func TestGeneratorFirst(t *testing.T) {
	supply := func(id string, k gear.Kind) gear.Model {
		return gear.Model{ID: id, Kind: k, Maker: "Test", Name: id, Wake: gear.Wake{Settle: unit.Of(unit.Second(90))},
			Supply: &gear.Supply{Outlets: 6}}
	}
	r := small(t).Add(supply("generator", gear.KindGenerator), "GEN").Add(supply("distro", gear.KindDistro), "BOARD").
		Plug("GEN/outlet 1", "BOARD/mains").Plug("BOARD/outlet 1", "A1/mains").Plug("BOARD/outlet 2",
		"DESK/mains").Plug("BOARD/outlet 3", "PLAYER/mains")
	p, _ := plan(r.Rig)
	if got := fmt.Sprint(switches(p.Steps)); got != "[GEN PLAYER DESK A1]" || p.Steps[1].At != 90 {
		t.Errorf("order %s, the second at %v", got, p.Steps[1].At)
	}
	r.Do(rig.SetOrder{Order: []string{"PLAYER", "DESK", "A1", "GEN"}})
	if _, fs := plan(r.Rig); len(fs) == 0 || fs[0].Code != "start.too-early" || !strings.Contains(fs[0].What, "GEN") {
		t.Errorf("an amplifier that is on before its generator runs: %+v", fs)
	}
	x := rig.NewIndex(r.Rig)
	down, _ := strike.Judge(x, order.New(x))
	if got := fmt.Sprint(switches(down.Steps)); got != "[A1 DESK PLAYER GEN]" {
		t.Errorf("shutdown %s", got)
	}
}

func TestMixerAndItsEffectsFeedEachOther(t *testing.T) {
	effects := gear.Model{ID: "fx", Kind: gear.KindProcessor, Maker: "Test", Name: "fx",
		Processor: &gear.Processor{Inputs: 1, Outputs: []string{"out"}}}
	r := small(t).Add(effects, "FX").Plug("DESK/main R", "FX/in 1")
	r.Do(rig.Connect{Link: rig.Link{From: rigtest.Ref("FX/out"), To: rigtest.Ref("DESK/in 2")}})
	p, _ := plan(r.Rig)
	if got := fmt.Sprint(switches(p.Steps)); got != "[PLAYER DESK FX A1]" {
		t.Errorf("a ring through the desk: %s", got)
	}
}

// Laws of any rig: whatever makes sound goes on only when all that reaches it
// has settled; it is dead before any of that goes off; and no order is shorter.
func TestLawsOfOrder(t *testing.T) {
	for seed := range uint64(40) {
		r := random(t, rand.New(rand.NewPCG(seed, 7)))
		x := rig.NewIndex(r.Rig)
		o := order.New(x)
		up, fs := start.Judge(x, o)
		down, _ := strike.Judge(x, o)
		if finding.Worst(fs) == finding.Stop {
			t.Fatalf("seed %d: the derived order breaks its own rules: %+v", seed, fs)
		}
		if !up.Proved || !down.Plan.Proved || len(up.Steps)+len(up.Free) != len(down.Steps)+len(down.Free) {
			t.Fatalf("seed %d: up %v, down %v", seed, switches(up.Steps), switches(down.Steps))
		}
		for _, loud := range up.Steps {
			for _, other := range up.Steps {
				if loud.Loud && !other.Loud && reaches(x, other, loud) && loud.At < other.Done {
					t.Errorf("seed %d: %s at %v, but %s settles at %v", seed, loud.Switch, loud.At, other.Switch, other.Done)
				}
			}
		}
		for _, loud := range down.Steps {
			for _, other := range down.Steps {
				if loud.Loud && !other.Loud && reaches(x, other, loud) && other.At < loud.Done {
					t.Errorf("seed %d: %s goes off at %v, but %s is live until %v", seed, other.Switch, other.At,
						loud.Switch, loud.Done)
				}
			}
		}
	}
}

func reaches(x *rig.Index, a, b order.Step) bool {
	for i, d := range x.Rig.Devices {
		if d.Tag != a.Switch {
			continue
		}
		for to := range x.Reach()[i].Each {
			if x.Rig.Devices[to].Tag == b.Switch {
				return true
			}
		}
	}
	return false
}

func random(t testing.TB, rnd *rand.Rand) *rigtest.Rig {
	r := rigtest.New(t)
	desk, player, amp := rigtest.Desk(), rigtest.Player(), rigtest.Amp("amp")
	n := 1 + rnd.IntN(4)
	for i := range n {
		desk := desk
		desk.ID, desk.Wake.Settle = fmt.Sprintf("desk%d", i), unit.Of(unit.Second(rnd.IntN(120)))
		r.Add(amp, fmt.Sprintf("AMP%d", i)).Add(player, fmt.Sprintf("PLAYER%d", i)).Add(desk, fmt.Sprintf("DESK%d", i))
		r.Plug(fmt.Sprintf("PLAYER%d/out", i), fmt.Sprintf("DESK%d/in %d", rnd.IntN(i+1), 3+i))
	}
	for i := range n {
		taken := r.Rig
		from := fmt.Sprintf("DESK%d/main L", rnd.IntN(n))
		if next, err := rig.Apply(taken,
			rig.Connect{Link: rig.Link{From: rigtest.Ref(from), To: rigtest.Ref(fmt.Sprintf("AMP%d/in 1", i))}}); err == nil {
			r.Rig = next
		}
		if next, err := rig.Apply(r.Rig,
			rig.Connect{Link: rig.Link{From: rigtest.Ref(from), To: rigtest.Ref(fmt.Sprintf("DESK%d/in 2", i))}}); err == nil {
			r.Rig = next
		}
	}
	return r
}

// One person throws one switch after the other, 5 s apart at least, which keeps
// inrush currents apart too (common practice, no source).
func TestOneSwitchAfterTheOther(t *testing.T) {
	quick := rigtest.Player()
	quick.ID, quick.Wake.Settle = "quick", unit.Of(unit.Second(0))
	p, _ := plan(rigtest.New(t).Add(quick, "P1", "P2", "P3").Rig)
	for i, s := range p.Steps {
		if s.At != unit.Second(5*i) {
			t.Errorf("%s at %v, want %d s", s.Switch, s.At, 5*i)
		}
	}
	if len(p.Steps) != 3 {
		t.Errorf("%d steps", len(p.Steps))
	}
}

// What makes sound and goes off by one switch with what feeds it is found, the mend
// parts them, and what feeds others waits until those are dead behind it.
func TestStrikeOfASharedSwitch(t *testing.T) {
	r := small(t).Add(rigtest.Amp("second"), "A2").Plug("DESK/main L", "A2/in 1").
		Do(rig.ChangeDevice{Tag: "DESK", NewTag: "DESK", Switch: "STRIP"}).
		Do(rig.ChangeDevice{Tag: "A1", NewTag: "A1", Switch: "STRIP"})
	down := func() (strike.Verdict, []finding.Finding) {
		x := rig.NewIndex(r.Rig)
		return strike.Judge(x, order.New(x))
	}
	v, fs := down()
	if fs[0].Code != "strike.shared-switch" || !strings.Contains(fs[0].What, "A1 goes off together with DESK") {
		t.Fatalf("%+v", fs)
	}
	var strip, other order.Step
	for _, s := range v.Steps {
		switch s.Switch {
		case "STRIP":
			strip = s
		case "A2":
			other = s
		}
	}
	if strip.At < other.Done {
		t.Errorf("the strip with the desk goes off at %v, and A2 is live until %v", strip.At, other.Done)
	}
	r.Do(fs[0].Mends[0].Edit)
	if _, fs := down(); len(fs) == 0 || fs[0].Code == "strike.shared-switch" {
		t.Errorf("after the mend: %+v", fs)
	}
}

// A master switch on the mains as drawn wakes what hangs on it, whatever the devices
// were told; a sequencer wakes one by one. Mains and network come first.
func TestMastersOnTheMains(t *testing.T) {
	board := func(sequences gear.Answer) *rigtest.Rig {
		m := gear.Model{ID: "board", Kind: gear.KindDistro, Maker: "Test", Name: "board",
			Wake: gear.Wake{Switch: "red rocker"}, Supply: &gear.Supply{Outlets: 4, Sequences: sequences}}
		return small(t).Add(m, "BOARD").Plug("BOARD/outlet 1", "A1/mains").Plug("BOARD/outlet 2", "DESK/mains")
	}
	p, fs := plan(board("").Rig)
	if got := fmt.Sprint(switches(p.Steps)); got != "[BOARD PLAYER DESK A1]" {
		t.Errorf("order %s", got)
	}
	if fs[0].Code != "start.master-switch" || !strings.Contains(fs[0].What, "BOARD feeds A1 as well as DESK") {
		t.Errorf("%+v", fs)
	}
	if _, fs := plan(board(gear.Yes).Rig); fs[0].Code == "start.master-switch" {
		t.Error("what switches one by one wakes nothing together")
	}
}

// Every kind that is switched has a careful time of its own, none of them nothing
// (common practice, no source).
func TestEveryKindHasACarefulTime(t *testing.T) {
	for _, k := range gear.Kinds {
		m, ok := gear.Blank(k)
		if !ok {
			continue
		}
		if s, known := order.Settle(&m); known || s <= 0 {
			t.Errorf("%s settles in %v, known %v", k, s, known)
		}
	}
	powered := rigtest.Desk()
	powered.Mixer.Outputs = append(powered.Mixer.Outputs, gear.Outlet{Name: "speaker 1", Signal: gear.Speaker})
	if !powered.MakesSound() || func() bool { d := rigtest.Desk(); return d.MakesSound() }() {
		t.Error("a mixer makes sound where it has a speaker output, and only there")
	}
}

// A mixer with its amplifiers in one case wakes as its maker made it: no stop for
// the one switch of the case; where its parts hang on a shared switch it is one.
func TestACaseWakesTogether(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Do(rig.SetCase{Case: rig.Case{Name: "MIX"}, Parts: []string{"DESK", "A1"}})
	shared := func() bool {
		x := rig.NewIndex(r.Rig)
		_, on := start.Judge(x, order.New(x))
		_, off := strike.Judge(x, order.New(x))
		return slices.ContainsFunc(append(on, off...), func(f finding.Finding) bool {
			return f.Code == "start.shared-switch" || f.Code == "strike.shared-switch"
		})
	}
	if shared() {
		t.Error("a case is told to be switched apart")
	}
	for _, tag := range []string{"DESK", "A1"} {
		r.Do(rig.ChangeDevice{Tag: tag, NewTag: tag, Switch: "strip"})
	}
	if !shared() {
		t.Error("parts on a strip are not found")
	}
}

// What nothing waits for is free at any time; what boots over a network waits until that stands,
// and a quiet one behind a source only for a hand.
func TestFreeAndNetwork(t *testing.T) {
	net := gear.Model{ID: "net", Kind: gear.KindSwitch, Maker: "Test", Name: "net", Switch: &gear.Switch{Sockets: 4},
		Wake: gear.Wake{Settle: unit.Of(unit.Second(40))}}
	desk := rigtest.Desk()
	desk.ID = "digital"
	desk.Wake.Network = 1
	r := small(t).Add(rigtest.Player(), "SPARE").Add(rigtest.Amp("amp"), "IDLE").Add(net, "NET").Add(desk,
		"SIDE").Plug("NET/data 1", "SIDE/network 1")
	p, fs := plan(r.Rig)
	if finding.Worst(fs) == finding.Stop || len(p.Free) != 1 || p.Free[0].Switch != "SPARE" {
		t.Errorf("free: %v, %+v", switches(p.Free), fs)
	}
	at := map[string]unit.Second{}
	for _, s := range p.Steps {
		at[s.Switch] = s.At
	}
	if at["SIDE"] < at["NET"]+40 || at["DESK"] != at["PLAYER"]+5 && at["DESK"] < at["PLAYER"] {
		t.Errorf("%v", at)
	}
}

// A sequencer is one act: what hangs on its outlets wakes in turn, and where that is late enough
// nothing thumps.
func TestASequencerWakesInTurn(t *testing.T) {
	by := func(step unit.Second) *rigtest.Rig {
		m := gear.Model{ID: "seq", Kind: gear.KindSequencer, Maker: "Test", Name: "seq",
			Supply: &gear.Supply{Outlets: 8, Sequences: gear.Yes, StepsBy: unit.Of(step)}}
		r := small(t).Add(m, "SEQ").Plug("SEQ/outlet 1", "PLAYER/mains").Plug("SEQ/outlet 2", "DESK/mains").
			Plug("SEQ/outlet 5", "A1/mains")
		for _, tag := range []string{"SEQ", "PLAYER", "DESK", "A1"} {
			d, _ := r.Device(tag)
			e := d.Change()
			e.Switch = "key"
			r.Do(e)
		}
		return r
	}
	p, fs := plan(by(30).Rig) // DESK settles by 30 + 90, A1 wakes at 120
	if len(p.Steps) != 1 || finding.Worst(fs) == finding.Stop || p.Total.Value != 135 {
		t.Errorf("%v, %s, %+v", switches(p.Steps), p.Total.Text(), fs)
	}
	if _, fs = plan(by(29).Rig); len(fs) == 0 || fs[0].Code != "start.shared-switch" {
		t.Errorf("a second too early: %+v", fs)
	}
}

// A kick is its volts times the gain (U2 = U1 · 10^(G/20)), and no more than the amplifier gives,
// the crest of the sine that it clips with; a relay lets nothing through, and a receiver roars as
// loud as it can when its transmitter goes (TRADE.md, Start).
func TestKicks(t *testing.T) {
	in := func(change func(m *gear.Model)) *stage.Input {
		r := small(t)
		for i := range r.Models {
			if r.Models[i].Kind == gear.KindMixer {
				change(&r.Models[i])
			}
		}
		return stage.NewInput(r.Rig)
	}
	desk := func(in *stage.Input) kick.Arrival {
		return kick.Reaches(in.Index, in.Driven(), in.Index.At("DESK"), kick.Wakes)[0]
	}
	quiet := desk(in(func(m *gear.Model) { m.Wake.Kick = unit.Of(unit.Volt(0.1)) }))
	o := in(func(*gear.Model) {}).Driven()[0]
	gain, _ := o.GainDB()
	rigtest.Near(t, "0.1 V times the gain", quiet.Volts.Value, 0.1*math.Pow(10, float64(gain)/20), 1e-9)
	if quiet.Over() || !strings.Contains(quiet.Says(), "a thump, and no damage") {
		t.Error(quiet.Says())
	}
	clip, _ := o.ClipVolts()
	over := unit.Volt(1.5 * float64(clip) * math.Sqrt2 / math.Pow(10, float64(gain)/20))
	loud := desk(in(func(m *gear.Model) { m.Wake.Kick = unit.Of(over) }))
	rigtest.Near(t, "all that A1 gives", loud.Volts.Value, float64(clip)*math.Sqrt2, 1e-9)
	muted := desk(in(func(m *gear.Model) { m.Wake.Mutes = gear.Yes }))
	if muted.Volts.Value != 0 {
		t.Errorf("through a relay: %s", muted.Volts.Text())
	}
	off := in(func(m *gear.Model) { m.Wake.Mutes, m.Wake.KickOff = gear.Yes, unit.Of(unit.Volt(0.1)) })
	if got := kick.Reaches(off.Index, off.Driven(), off.Index.At("DESK"), kick.Dies)[0]; got.Volts.Value == 0 {
		t.Error("its relay mutes it when it wakes, not when it dies")
	}
	roars := in(func(m *gear.Model) { m.Wake.Mutes, m.Wake.Roars = gear.Yes, gear.Yes })
	if got := kick.Reaches(roars.Index, roars.Driven(), roars.Index.At("DESK"), kick.Dies)[0]; got.Volts.Known() &&
		got.Volts.Value == 0 {
		t.Error("a receiver that roars is silent when it goes")
	}
}

// Each step says why it stands where it does; a move that would thump is refused with the volts.
func TestReasons(t *testing.T) {
	r := small(t)
	for i := range r.Models {
		if m := r.Models[i].Mixer; m != nil {
			m.LargestOut = unit.Of(unit.DBu(20))
		}
	}
	in := stage.NewInput(r.Rig)
	p, _ := start.Judge(in.Index, in.Order())
	var said []string
	for _, why := range kick.Reasons(in.Index, in.Driven(), in.Order(), p.Plan, kick.Wakes) {
		said = append(said, why.Text)
	}
	for i, want := range []string{"Nothing has to go before it.", "Behind PLAYER, as is usual",
		"DESK has settled first: the kick of DESK is up to"} {
		if !strings.Contains(said[i], want) {
			t.Errorf("step %d: %q lacks %q", i+1, said[i], want)
		}
	}
	if got := start.Forbidden(r.Rig, []string{"PLAYER", "A1", "DESK"}); !strings.Contains(got,
		"A1 would go on before DESK has settled: the kick of DESK is up to") || !strings.Contains(got, "V peak at B1") {
		t.Error(got)
	}
	if got := start.Forbidden(r.Rig, []string{"DESK", "PLAYER", "A1"}); got != "" {
		t.Errorf("nobody's danger: %s", got)
	}
	down := kick.Reasons(in.Index, in.Driven(), in.Order(), in.Order().Down(), kick.Dies)
	if !strings.Contains(down[1].Text, "A1 is dead first") {
		t.Errorf("%+v", down)
	}
}

// One breaker that feeds the amplifiers alone silences all and takes nothing with it; where none
// does, the amplifiers one by one; what else hangs on it is the price, with its time to come back.
func TestEmergency(t *testing.T) {
	on := func(outlets map[string]string) start.Emergency {
		r := small(t).Add(rigtest.Amp("amp"), "A2").Do(rig.SetSupplies{Supplies: []rig.Supply{{Name: "house",
			Sort: rig.Source},
			{Name: "K1", Sort: rig.Breaker, From: "house", Place: "stairs"}, {Name: "K2", Sort: rig.Breaker, From: "house"},
			{Name: "wall 1", Sort: rig.Outlet, From: "K1"}, {Name: "wall 2", Sort: rig.Outlet, From: "K2"}}})
		for tag, outlet := range outlets {
			r.Do(rig.PlugMains{Tag: tag, Outlet: outlet})
		}
		return start.EmergencyOf(stage.NewInput(r.Rig))
	}
	if got := on(map[string]string{"A1": "wall 1", "A2": "wall 1", "DESK": "wall 2"}).Says(); got !=
		"One act silences all: the breaker K1, stairs." {
		t.Error(got)
	}
	if got := on(map[string]string{"A1": "wall 1", "A2": "wall 1", "DESK": "wall 1"}).Says(); !strings.Contains(got,
		"With it DESK goes off, and takes 90 s to come back") {
		t.Error(got)
	}
	if got := on(map[string]string{"A1": "wall 1", "DESK": "wall 1"}).Says(); !strings.Contains(got,
		"In this order: A1; then A2.") {
		t.Error(got)
	}
}

// A late one is muted where it enters the desk, or what it reaches goes off first; after a failure
// the amplifiers' switches are off before the mains returns.
func TestLateAndFailure(t *testing.T) {
	in := stage.NewInput(small(t).Rig)
	if got := start.Late(in, "PLAYER"); !strings.Contains(got[0], "Mute DESK in 1") || !strings.Contains(got[2], "20 s") {
		t.Error(got)
	}
	if got := start.Late(in, "DESK"); !strings.Contains(got[0], "switch off A1 first") {
		t.Error(got)
	}
	if got := start.Failure(in); !strings.Contains(got[0], "A1 off, by their own switches") || !strings.Contains(got[1],
		"PLAYER and DESK off") {
		t.Error(got)
	}
}

// What stands on an outlet of a supply that comes from our generator waits for it as by a lead.
func TestAGeneratorBehindTheOutlets(t *testing.T) {
	gen := gear.Model{ID: "gen", Kind: gear.KindGenerator, Maker: "Test", Name: "gen", Supply: &gear.Supply{Outlets: 1},
		Wake: gear.Wake{Settle: unit.Of(unit.Second(90))}}
	r := small(t).Add(gen, "GEN").Do(rig.SetSupplies{Supplies: []rig.Supply{{Name: "set", Sort: rig.Source, Gear: "GEN"},
		{Name: "L1", Sort: rig.Breaker, From: "set"}, {Name: "wall", Sort: rig.Outlet, From: "L1"}}})
	for _, tag := range []string{"PLAYER", "DESK", "A1"} {
		r.Do(rig.PlugMains{Tag: tag, Outlet: "wall"})
	}
	p, _ := plan(r.Rig)
	if got := fmt.Sprint(switches(p.Steps)); got != "[GEN PLAYER DESK A1]" || p.Steps[1].At != 90 {
		t.Errorf("%s, the second at %v", got, p.Steps[1].At)
	}
}
