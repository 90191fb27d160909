package drive_test

import (
	"fmt"
	"math"
	"testing"

	"largo/core/drive"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

// lead is a piece of speaker lead, from and to written as "A1/out A".
type lead struct {
	from, to     string
	length, area float64
	series       string
}

func plug(r *rigtest.Rig, leads ...lead) *rigtest.Rig {
	for _, l := range leads {
		k := rig.Link{From: rigtest.Ref(l.from), To: rigtest.Ref(l.to), Series: l.series}
		if l.length > 0 {
			k.Length, k.Area = unit.Of(unit.Metre(l.length)), unit.Of(unit.SquareMillimetre(l.area))
		}
		r.Do(rig.Connect{Link: k})
	}
	return r
}

func outputs(r *rigtest.Rig) []drive.Output {
	x := rig.NewIndex(r.Rig)
	return drive.Outputs(x, load.Outputs(x))
}

func output(t *testing.T, r *rigtest.Rig, at string) *drive.Output {
	t.Helper()
	outs := outputs(r)
	for i := range outs {
		if outs[i].At == rigtest.Ref(at) {
			return &outs[i]
		}
	}
	t.Fatalf("no output %s", at)
	return nil
}

func withZo(z float64) gear.Model {
	return rigtest.Amp("amp", func(a *gear.Amplifier) {
		a.OutputZ = unit.Of(unit.Ohm(z))
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 350}, {Mode: gear.Separate, Load: 2, Power: 1200}}
	})
}

// Reference figures of leads, by closed form and ngspice: three 8 Ω boxes on one
// lead of 25 m and 2.5 mm² with 0.05 Ω inside have R 0.34483 Ω, a loss of the lead of
// 1.0563 dB, and a damping of 6.754 at each box (20.26 for one alone); a box at 20 m
// of 2.5 mm² with another linked 15 m of 1.5 mm² on loses 0.5677 dB and the other
// 0.9342 dB, with a damping of 14.806 and 8.806.
func TestLeadsByReference(t *testing.T) {
	shared := rigtest.Driven(t, withZo(0.05)).Add(rigtest.Box("box"), "B1", "B2", "B3")
	plug(shared, lead{"A1/out A", "B1/in", 25, 2.5, ""}, lead{"B1/link", "B2/in", 0.1, 50, ""},
		lead{"B2/link", "B3/in", 0.1, 50, ""})
	o := output(t, shared, "A1/out A")
	for i := range o.Boxes {
		b := &o.Boxes[i]
		rigtest.Near(t, b.Tag+" loss", b.Loss().Value, 1.0563, 3e-4)
		rigtest.Near(t, b.Tag+" damping", b.Damping().Value, 6.754, 5e-3)
	}
	alone := plug(rigtest.Driven(t, withZo(0.05)).Add(rigtest.Box("box"), "B1"), lead{"A1/out A", "B1/in", 25, 2.5, ""})
	b := &output(t, alone, "A1/out A").Boxes[0]
	rigtest.Near(t, "path", b.Path(20).Value, 0.34483, 5e-6)
	rigtest.Near(t, "damping alone", b.Damping().Value, 20.26, 5e-3)

	linked := plug(rigtest.Driven(t, withZo(0)).Add(rigtest.Box("box"), "B1", "B2"),
		lead{"A1/out A", "B1/in", 20, 2.5, ""}, lead{"B1/link", "B2/in", 15, 1.5, ""})
	o = output(t, linked, "A1/out A")
	rigtest.Near(t, "seen", o.Seen().Value, 4.36025, 5e-6)
	for i, want := range [][2]float64{{0.5677, 14.806}, {0.9342, 8.806}} {
		rigtest.Near(t, "loss", o.Boxes[i].Loss().Value, want[0], 5e-5)
		rigtest.Near(t, "damping", o.Boxes[i].Damping().Value, want[1], 5e-4)
	}
}

// A string of two divides the volts, and that is no loss: 8 + 8 Ω on leads of no
// resistance lose nothing, and each box sees the other's coil in full, a damping
// of 8/8 = 1 (closed form).
func TestAStringLosesNothing(t *testing.T) {
	r := plug(rigtest.Driven(t, withZo(0)).Add(rigtest.Box("box"), "B1", "B2"),
		lead{"A1/out A", "B1/in", 0.1, 50, "s"}, lead{"A1/out A", "B2/in", 0.1, 50, "s"})
	o := output(t, r, "A1/out A")
	rigtest.Near(t, "load", o.Nominal.Value, 16, 1e-9)
	for i := range o.Boxes {
		rigtest.Near(t, "loss", o.Boxes[i].Loss().Value, 0, 1e-4)
		rigtest.Near(t, "damping", o.Boxes[i].Damping().Value, 1, 1e-4)
		// 350 W into 8 Ω is 175 W into 16 Ω at constant voltage, half for each
		rigtest.Near(t, "power", o.Boxes[i].Power().Value, 175.0/2, 1e-2)
	}
}

// The conductor that is wanted, put in, loses just what was asked; and the piece to
// blame is the one with most of the loss.
func TestTheConductorWanted(t *testing.T) {
	of := func(link lead) (*drive.Output, *rigtest.Rig) {
		r := plug(rigtest.Driven(t, withZo(0)).Add(rigtest.Box("box"), "B1", "B2"),
			lead{"A1/out A", "B1/in", 30, 2.5, ""}, link)
		return output(t, r, "A1/out A"), r
	}
	o, r := of(lead{"B1/link", "B2/in", 2, 2.5, ""})
	need := o.Boxes[1].Conductor(0.5, 20)
	if need.Box != 0 || !need.Alone || !need.Need.Known() {
		t.Fatalf("to blame is %d, alone %v, %s", need.Box, need.Alone, need.Need.Text())
	}
	k, _ := rig.NewIndex(r.Rig).Into(rigtest.Ref("B1/in"))
	r.Do(rig.Disconnect{To: k.To})
	k.Area = unit.Of(unit.SquareMillimetre(need.Need.Value))
	r.Do(rig.Connect{Link: k})
	rigtest.Near(t, "loss with what was wanted", output(t, r, "A1/out A").Boxes[1].Loss().Value, 0.5, 1e-6)
	if o, _ := of(lead{"B1/link", "B2/in", 60, 0.75, ""}); o.Boxes[1].Blame() != 1 {
		t.Error("60 m of 0.75 mm² after 30 m of 2.5 are to blame")
	}
	// where other pieces lose too much already, every piece has to be thicker
	o, _ = of(lead{"B1/link", "B2/in", 40, 2.5, ""})
	if need := o.Boxes[1].Conductor(0.2, 20); need.Alone || need.Need.Value < 2.5 {
		t.Errorf("0.2 dB over two long pieces: alone %v, %s", need.Alone, need.Need.Text())
	}
	unknown := plug(rigtest.Driven(t, withZo(0)).Add(rigtest.Box("box"), "B1"), lead{from: "A1/out A", to: "B1/in"})
	b := &output(t, unknown, "A1/out A").Boxes[0]
	if b.Loss().Known() || b.Damping().Known() || b.Conductor(0.5, 20).Need.Known() || b.Path(20).Known() {
		t.Error("a lead of no known length has figures")
	}
}

// Four channels of 500 W on a supply of 1,200 W in all give 300 W each. Where two of
// them are held by limiters to 25 V, 78.1 W into 8 Ω, all four ask for 2 × 500 + 2 ×
// 78.125 W = 1156 W, and the other two have their own: conservation of energy.
func TestASharedSupply(t *testing.T) {
	amp := rigtest.Amp("four", func(a *gear.Amplifier) {
		a.Channels, a.Together = 4, unit.Of(unit.Watt(1200))
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 500}}
	})
	r := rigtest.New(t).Add(rigtest.Desk(), "DESK").Add(amp, "A1").Add(rigtest.Box("box"), "B1", "B2", "B3", "B4")
	for i := range 4 {
		r.Plug("DESK/main L", fmt.Sprintf("A1/in %d", i+1)).
			Plug(fmt.Sprintf("A1/out %s", gear.ChannelName(i)), fmt.Sprintf("B%d/in", i+1))
	}
	for _, o := range outputs(r) {
		rigtest.Near(t, o.At.String(), o.Power.Value, 300, 1e-6)
		if o.Held != drive.Sharing {
			t.Errorf("%s is held by %s", o.At, o.Held)
		}
	}
	for _, port := range []string{"out C", "out D"} {
		r.Do(rig.SetLimiter{Tag: "A1", Set: rig.Limiter{Port: port, RMS: unit.Of(unit.Volt(25))}})
	}
	for i, want := range []float64{500, 500, 78.125, 78.125} {
		o := output(t, r, "A1/out "+gear.ChannelName(i))
		rigtest.Near(t, o.At.String(), o.Gives().Value, want, 1e-6)
		rigtest.Near(t, o.At.String()+" at its box", o.Boxes[0].Power().Value, want, 1e-6)
	}
	if o := output(t, r, "A1/out C"); o.Held != drive.Limiting {
		t.Errorf("C is held by %s", o.Held)
	}
	// the rails sag until all together give what there is, never more
	for _, most := range []unit.Watt{100, 700, 999, 1200, 5000} {
		demands := []drive.Demand{{Power: 500}, {Power: 300, Most: unit.Of(unit.Watt(40))}, {Power: 200}}
		part, sum := drive.Shared(demands, most), 0.0
		for _, d := range demands {
			sum += math.Min(part*float64(d.Power), float64(d.Most.Or(d.Power)))
		}
		rigtest.Near(t, most.String(), sum, math.Min(float64(most), 740), 1e-6)
	}
}

// The mains at an inlet: of the region, of a reading at the outlet or above it,
// through a transformer by its ratio; an unregulated amplifier gives the square of
// the voltages' ratio, a regulated one the same within its range, neither anything
// that is known beyond it.
func TestMainsAtAnInlet(t *testing.T) {
	amp := rigtest.Amp("amp", func(a *gear.Amplifier) { a.Supply = unit.Of(unit.Volt(230)) })
	r := plug(rigtest.Driven(t, amp).Add(rigtest.Box("box"), "B1"), lead{"A1/out A", "B1/in", 0.1, 50, ""})
	power := func() (float64, drive.Holder) {
		o := output(t, r, "A1/out A")
		return o.Power.Value, o.Held
	}
	if p, held := power(); p != 350 || held != drive.Ratings {
		t.Errorf("on 230 V: %v W, held by %s", p, held)
	}
	r.Do(rig.SetSupplies{Supplies: []rig.Supply{{Name: "house", Sort: rig.Source, Volts: unit.Of(unit.Volt(220))},
		{Name: "ring", Sort: rig.Feeder, From: "house"}, {Name: "wall", Sort: rig.Outlet, From: "ring"},
		{Name: "far", Sort: rig.Outlet, From: "ring", Volts: unit.Of(unit.Volt(207))},
		{Name: "reel", Sort: rig.Feeder, From: "ring", Volts: unit.Of(unit.Volt(214))},
		{Name: "end", Sort: rig.Outlet, From: "reel"}}})
	for outlet, volts := range map[string]float64{"": 220, "wall": 220, "far": 207, "end": 214} {
		r.Do(rig.PlugMains{Tag: "A1", Outlet: outlet})
		p, held := power()
		rigtest.Near(t, "power on "+outlet, p, 350*volts*volts/230/230, 1e-9)
		rigtest.Near(t, "what "+outlet+" takes, dB", float64(output(t, r, "A1/out A").MainsTakes()),
			20*math.Log10(230/volts), 1e-6)
		if held != drive.Mains {
			t.Errorf("on %q it is held by %s", outlet, held)
		}
	}
	r.Do(rig.PlugMains{Tag: "A1"})
	down := gear.Model{ID: "down", Kind: gear.KindTransformer, Maker: "Test", Name: "down",
		Supply: &gear.Supply{Outlets: 1, Ratio: unit.Of(unit.Ratio(0.5))}}
	r.Add(down, "T1").Plug("T1/outlet 1", "A1/mains")
	x := rig.NewIndex(r.Rig)
	d, _ := x.Device("A1")
	rigtest.Near(t, "behind the transformer", drive.AtInlet(x, d).Value, 110, 1e-9)
	if o := output(t, r, "A1/out A"); o.Power.Known() || o.Gives().Known() || o.Boxes[0].Power().Known() {
		t.Errorf("an amplifier of 230 V on 110 V gives %s", o.Power.Text())
	}
}

// What holds levels: peaks of a limiter on record, 74.8 V peak is 52.9 V rms of a
// sine, 350 W into 8 Ω; of an rms limiter alone the peaks of 6 dB crest, twice its
// power; a burst is held by the peak limiter too, and never under what is held.
func TestWhatLimitersLetThrough(t *testing.T) {
	amp := rigtest.Amp("amp", func(a *gear.Amplifier) {
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 800},
			{Mode: gear.Separate, Load: 8, Power: 1500, Duration: gear.Burst}}
	})
	r := plug(rigtest.Driven(t, amp).Add(rigtest.Box("box"), "B1"), lead{"A1/out A", "B1/in", 0.1, 50, ""})
	for _, c := range []struct {
		rms, peak         float64
		gives, top, burst float64
	}{{0, 0, 800, 800, 1500}, {40, 0, 200, 400, 1500}, {40, 60, 200, 225, 225}, {0, 100, 800, 625, 625},
		{200, 300, 800, 800, 1500}} {
		l := rig.Limiter{Port: "out A"}
		if c.rms > 0 {
			l.RMS = unit.Of(unit.Volt(c.rms))
		}
		if c.peak > 0 {
			l.Peak = unit.Of(unit.Volt(c.peak))
		}
		r.Do(rig.SetLimiter{Tag: "A1", Set: l})
		o := output(t, r, "A1/out A")
		what := fmt.Sprintf("%v rms, %v peak: ", c.rms, c.peak)
		rigtest.Near(t, what+"for long", o.Gives().Value, c.gives, 1e-6)
		rigtest.Near(t, what+"volts", o.Volts().Value, math.Sqrt(c.gives*8), 1e-6)
		rigtest.Near(t, what+"peaks", o.Top().Value, c.top, 1e-6)
		rigtest.Near(t, what+"burst", o.Burst().Value, c.burst, 1e-6)
		rigtest.Near(t, what+"peaks at the box", o.Boxes[0].Top().Value, c.top, 2e-2)
	}
}

// A bridge whose second side is not turned gives nothing.
func TestABridgeThatIsNotTurned(t *testing.T) {
	amp := rigtest.Amp("amp", func(a *gear.Amplifier) { a.Bridging.Switch, a.Sockets.In = gear.No, gear.XLR })
	for _, c := range []struct {
		what     string
		set      rig.InputMode
		fed      bool
		swapped  bool
		inverted gear.Answer
		works    bool
	}{
		{"paralleled", rig.ParallelIn, false, false, "", false}, {"unfed", rig.SeparateIn, false, false, "", false},
		{"fed straight", rig.SeparateIn, true, false, "", false}, {"fed crossed", rig.SeparateIn, true, true, "", true},
		{"turned inside, paralleled", rig.ParallelIn, false, false, gear.Yes, true},
		{"turned inside and crossed", rig.SeparateIn, true, true, gear.Yes, false},
	} {
		m := amp.Clone()
		m.Amplifier.Bridging.Inverted = c.inverted
		r := rigtest.New(t).Add(rigtest.Desk(), "DESK").Add(m, "A1").Add(rigtest.Box("box"), "B1").
			Plug("DESK/main L", "A1/in 1").Plug("A1/out A+B", "B1/in").
			Do(rig.SetPair{Tag: "A1", Set: rig.Pair{Output: gear.Bridged, Input: c.set}})
		if c.fed {
			r.Do(rig.Connect{Link: rig.Link{From: rigtest.Ref("DESK/main L"), To: rigtest.Ref("A1/in 2"), Swapped: c.swapped}})
		}
		if o := output(t, r, "A1/out A+B"); o.Power.Known() != c.works || (o.Dead == "") != c.works {
			t.Errorf("%s: %s, dead %q", c.what, o.Power.Text(), o.Dead)
		}
	}
}

// A limiter can be set where the amplifier or a processor before it has one, or where
// nobody said that they have none; before an amplifier without, a desk has none.
func TestWhereALimiterCanBeSet(t *testing.T) {
	amp := func(limits gear.Answer) gear.Model {
		return rigtest.Amp("amp", func(a *gear.Amplifier) { a.Limits = limits })
	}
	crossover := func(limits gear.Answer) gear.Model {
		m := rigtest.Crossover()
		m.Processor.Limits = limits
		return m
	}
	for _, c := range []struct {
		amp, processor gear.Answer
		divided, want  bool
	}{
		{gear.Yes, "", false, true}, {"", "", false, true}, {gear.No, "", false, false},
		{gear.No, gear.Yes, true, true}, {gear.No, gear.No, true, false}, {gear.No, "", true, true},
	} {
		r := rigtest.Driven(t, amp(c.amp))
		if c.divided {
			r = rigtest.New(t).Add(rigtest.Player(), "PLAYER").Add(rigtest.Desk(), "DESK").Add(crossover(c.processor), "X").
				Add(amp(c.amp), "A1").Plug("PLAYER/out", "DESK/in 1").Plug("DESK/main L", "X/in 1").Plug("X/low", "A1/in 1")
		}
		r.Add(rigtest.Box("box"), "B1").Plug("A1/out A", "B1/in")
		if got := output(t, r, "A1/out A").Limitable; got != c.want {
			t.Errorf("%+v: %v", c, got)
		}
	}
}

// What a desk can send bounds what an output gives. +4 dBu are 1.228 V; 32 dB more, with
// the level control 12 dB down, are 12.28 V and 18.8 W into 8 Ω; fully up 48.9 V and
// 298.8 W. At +22 dBu the amplifier clips first (V = 0.7746 × 10^(L/20), P = U²/Z).
func TestTheSourceAndTheKnobBoundTheOutput(t *testing.T) {
	desk := func(most unit.DBu) gear.Model {
		m := rigtest.Desk()
		m.Mixer.LargestOut = unit.Of(most)
		return m
	}
	for _, c := range []struct {
		most  unit.DBu
		down  unit.Decibel
		watts float64
		held  drive.Holder
	}{{4, 12, 18.85, drive.Driving}, {4, 0, 298.75, drive.Driving}, {22, 0, 350, drive.Ratings}} {
		r := rigtest.New(t).Add(rigtest.Player(), "PLAYER").Add(desk(c.most), "DESK").Add(rigtest.Amp("amp"), "A1").
			Plug("PLAYER/out", "DESK/in 1").Plug("DESK/main L", "A1/in 1").Add(rigtest.Box("box"), "B1").
			Plug("A1/out A", "B1/in").Do(rig.SetKnob{Tag: "A1", Set: rig.Knob{Down: c.down}})
		x := rig.NewIndex(r.Rig)
		o := drive.Outputs(x, load.Outputs(x))[0]
		if o.Held != c.held || math.Abs(o.Gives().Value-c.watts) > 0.02*c.watts {
			t.Errorf("%s, %s down: %s, held by %s; want %.2f W", c.most, c.down, o.Gives().Text(), o.Held, c.watts)
		}
		if top := o.Top().Value; math.Abs(top-c.watts) > 0.02*c.watts {
			t.Errorf("%s, %s down: peaks of %.1f W", c.most, c.down, top)
		}
	}
}

// Leads and amplifier loosen the bass by what they add to the coil: Qes (Re + Rs)/Re (R. H.
// Small, J. Audio Eng. Soc. 20, 1972; from memory). 25 m of 2.5 mm² are 0.34483 Ω, with 0.05
// inside 0.39483; on a coil of 6.3 Ω with Qes 0.38 that makes 0.4038.
func TestLooseBass(t *testing.T) {
	cone := rigtest.Box("box", func(s *gear.Loudspeaker) {
		s.Driver = &gear.Driver{Re: unit.Of(unit.Ohm(6.3)), Qes: unit.Of(unit.Ratio(0.38))}
	})
	r := plug(rigtest.New(t).Add(withZo(0.05), "A1").Add(cone, "B1"), lead{from: "A1/out A", to: "B1/in", length: 25,
		area: 2.5})
	b := &output(t, r, "A1/out A").Boxes[0]
	rigtest.Near(t, "Qes with leads", b.QesIn().Value, 0.38*(6.3+0.39483)/6.3, 1e-4)
	bare := plug(rigtest.New(t).Add(withZo(0.05), "A1").Add(rigtest.Box("box"), "B1"), lead{from: "A1/out A", to: "B1/in"})
	if output(t, bare, "A1/out A").Boxes[0].QesIn().Known() {
		t.Error("a Qes of which nothing is known")
	}
}
