package wire_test

import (
	"slices"
	"strings"
	"testing"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
	"largo/core/wire"
)

func cable(id string, c gear.Cable) gear.Model {
	return gear.Model{ID: id, Kind: gear.KindCable, Maker: "Test", Name: id, Cable: &c}
}

func source(id string, o gear.Outlet) gear.Model {
	o.Name = "out"
	return gear.Model{ID: id, Kind: gear.KindMicrophone, Maker: "Test", Name: id,
		Feed: &gear.Source{Outputs: []gear.Outlet{o}}}
}

func snake(lines, returns int) gear.Model {
	return gear.Model{ID: "snake", Kind: gear.KindStageBox, Maker: "Test", Name: "snake",
		StageBox: &gear.StageBox{Lines: lines, Returns: returns}}
}

func distro() gear.Model {
	return gear.Model{ID: "distro", Kind: gear.KindDistro, Maker: "Test", Name: "distro", Supply: &gear.Supply{Outlets: 6}}
}

// plugWith plugs a lead of stock.
func plugWith(r *rigtest.Rig, from, to string, pieces ...gear.Model) *rigtest.Rig {
	k := rig.Link{From: rigtest.Ref(from), To: rigtest.Ref(to)}
	for _, m := range pieces {
		k.Cables = append(k.Cables, m.ID)
	}
	return r.Do(rig.Connect{Link: k, Stock: pieces})
}

func TestWhatThePlugsSay(t *testing.T) {
	twist := func(m *gear.Amplifier) { m.Sockets = gear.Sockets{In: gear.XLR, Out: gear.TwistLock4} }
	box := rigtest.Box("box", func(s *gear.Loudspeaker) { s.Sockets.In = gear.TwistLock4 })
	base := func() *rigtest.Rig { return rigtest.Driven(t, rigtest.Amp("amp", twist)).Add(box, "B1") }
	speaker := cable("sp", gear.Cable{Sort: gear.SpeakerCable, Ends: [2]gear.Connector{gear.TwistLock4, gear.TwistLock4},
		Length: unit.Of(unit.Metre(10)), Area: unit.Of(unit.SquareMillimetre(2.5))})
	guitar := cable("gt", gear.Cable{Sort: gear.InstrumentCable, Ends: [2]gear.Connector{gear.Jack, gear.Jack},
		Length: unit.Of(unit.Metre(10))})
	xlr := cable("xlr", gear.Cable{Sort: gear.MicCable, Ends: [2]gear.Connector{gear.XLR, gear.XLR},
		Length: unit.Of(unit.Metre(10))})
	posts := cable("posts", gear.Cable{Sort: gear.SpeakerCable, Ends: [2]gear.Connector{gear.BareEnds, gear.TwistLock4}})
	guitarOut := source("gtr", gear.Outlet{Signal: gear.Mic, Balanced: gear.No, Connector: gear.Jack})
	ribbon := source("ribbon", gear.Outlet{Signal: gear.Mic, Phantom: gear.Harmed})
	condenser := source("condenser", gear.Outlet{Signal: gear.Mic, Phantom: gear.Needs})
	on := rig.SetPhantom{At: rigtest.Ref("DESK/in 3"), On: true}
	for _, c := range []struct {
		what    string
		rig     *rigtest.Rig
		code    string
		gravity finding.Gravity
	}{
		{"instrument lead to a box", plugWith(base(), "A1/out A", "B1/in", guitar), "wire.instrument-lead", finding.Stop},
		{"speaker lead from a microphone", plugWith(base().Add(ribbon, "M"), "M/out", "DESK/in 3", speaker),
			"wire.lead-sort", finding.Mend},
		{"bare ends into a twist-lock", plugWith(base(), "A1/out A", "B1/in", posts), "wire.plug-misfit", finding.Mend},
		{"two pieces that do not meet", plugWith(base(), "A1/out A", "B1/in", speaker, posts), "wire.plug-misfit",
			finding.Mend},
		{"10 m unbalanced", plugWith(base().Add(guitarOut, "G"), "G/out", "DESK/in 3", guitar), "wire.unbalanced-run",
			finding.Mend},
		{"phantom into a ribbon", base().Add(ribbon, "M").Plug("M/out", "DESK/in 3").Do(on), "wire.phantom-harms",
			finding.Stop},
		{"phantom into a player", base().Add(rigtest.Player(), "P2").Plug("P2/out", "DESK/in 3").Do(on),
			"wire.phantom-harms", finding.Stop},
		{"a condenser without phantom", base().Add(condenser, "M").Plug("M/out", "DESK/in 3"), "wire.phantom-missing",
			finding.Mend},
	} {
		_, fs := judge(c.rig.Rig)
		if i := slices.IndexFunc(fs, func(f finding.Finding) bool { return f.Code == c.code }); i < 0 ||
			fs[i].Gravity != c.gravity {
			t.Errorf("%s: %+v, want %s", c.what, fs, c.code)
		}
	}
	sound := plugWith(plugWith(plugWith(base().Add(condenser, "M").Add(guitarOut, "G").Add(box, "B2"), "A1/out A",
		"B1/in", speaker), "A1/out B", "B2/in", speaker), "M/out", "DESK/in 3", xlr, xlr).Do(on)
	short := guitar
	short.Cable = &gear.Cable{Sort: gear.InstrumentCable, Ends: guitar.Cable.Ends, Length: unit.Of(unit.Metre(6))}
	short.ID = "short"
	plugWith(sound, "G/out", "DESK/in 4", short)
	if _, fs := judge(sound.Rig); len(fs) > 0 {
		t.Errorf("leads that fit are complained of: %+v", fs)
	}
	if x := rig.NewIndex(sound.Rig); x.LeadLength(sound.Links[5]).Or(0) != 20 {
		t.Errorf("two joined leads of 10 m are %s", x.LeadLength(sound.Links[5]))
	}
}

func TestWhatReachesWhat(t *testing.T) {
	ways := func(change ...func(*gear.Loudspeaker)) *rigtest.Rig {
		return rigtest.Divided(t, rigtest.Amp("amp")).Add(rigtest.Biamped(change...), "B1", "B2").Plug("A1/out A",
			"B1/in").Plug("A1/out B", "B1/in 2")
	}
	shared := func(s *gear.Loudspeaker) { s.JoinedMinus = gear.Yes }
	floating := rigtest.Amp("floating", func(a *gear.Amplifier) { a.Bridging.Common = gear.No })
	processor := gear.Model{ID: "proc", Kind: gear.KindProcessor, Maker: "Test", Name: "proc",
		Processor: &gear.Processor{Inputs: 2, Outputs: []string{"out L", "out R"}}}
	driven := func() *rigtest.Rig { return rigtest.Driven(t, rigtest.Amp("amp")) }
	for _, c := range []struct {
		what, code string
		rig        *rigtest.Rig
		gravity    finding.Gravity
	}{
		{"a two-pole lead between two-way boxes", "wire.way-silent", ways().Plug("B1/link", "B2/in"), finding.Mend},
		{"one way never fed", "wire.way-silent", driven().Add(rigtest.Biamped(), "B1").Plug("A1/out A", "B1/in"),
			finding.Mend},
		{"a crossed four-pole lead", "wire.ways-crossed", ways().Plug("B1/link", "B2/in 2").Plug("B1/link 2", "B2/in"),
			finding.Stop},
		{"one minus for two ways on a floating amplifier", "wire.minus-joined",
			rigtest.Driven(t, floating).Add(rigtest.Biamped(shared), "B1").Plug("A1/out A", "B1/in").Plug("A1/out B",
				"B1/in 2"), finding.Stop},
		{"a high way without a crossover", "wire.bands-unsplit",
			driven().Add(rigtest.Biamped(), "B1").Plug("A1/out B", "B1/in 2"), finding.Stop},
		{"a high way that asks for nothing", "wire.bands-unsplit",
			driven().Add(rigtest.Biamped(func(s *gear.Loudspeaker) { s.Ways[1].Blocked = "" }), "B1").Plug("A1/out B",
				"B1/in 2"), finding.Stop},
		{"a low way without one", "wire.bands-unsplit",
			driven().Add(rigtest.Biamped(), "B1").Plug("A1/out A", "B1/in"), finding.Mend},
		{"two ways of one band", "wire.bands-same", ways().Do(rig.SetPair{Tag: "A1",
			Set: rig.Pair{Output: gear.Separate, Input: rig.ParallelIn}}), finding.Stop},
		{"a processor into itself by another", "wire.loop",
			driven().Add(processor, "X1", "X2").Plug("X1/out L", "X2/in 1").Plug("X2/out L", "X1/in 1"), finding.Mend},
		{"a send and its return", "wire.loop",
			rigtest.New(t).Add(rigtest.Desk(), "DESK").Add(processor, "FX").Plug("DESK/main R", "FX/in 1").Plug("FX/out L",
				"DESK/in 7"), finding.Mind},
		{"only the left drives boxes", "wire.one-sided", driven().Add(rigtest.Box("box"), "B1").Plug("A1/out A", "B1/in"),
			finding.Mend},
		{"an active box without mains", "wire.no-mains", driven().Add(distro(), "D").Add(active(), "P").Plug("D/outlet 1",
			"DESK/mains"), finding.Mend},
		{"two lines through a multicore of one", "wire.multicore-full",
			vias(driven().Add(snake(1, 8), "MC").Add(mic(), "M").Plug("M/out", "DESK/in 3"), "PLAYER/out", "M/out"),
			finding.Mend},
		{"two returns where there are none", "wire.multicore-full", vias(driven().Add(snake(8, 0), "MC"), "DESK/main L"),
			finding.Mend},
	} {
		_, fs := judge(c.rig.Rig)
		if i := slices.IndexFunc(fs, func(f finding.Finding) bool { return f.Code == c.code }); i < 0 ||
			fs[i].Gravity != c.gravity {
			t.Errorf("%s: %+v, want %s", c.what, fs, c.code)
		}
	}
	// what a high way asks for is known by its high-pass and its capacitor as well
	for _, asks := range []func(*gear.Loudspeaker){func(s *gear.Loudspeaker) { s.Ways[0].Blocked = gear.Yes },
		func(s *gear.Loudspeaker) { s.Ways[0].HighPass = unit.Of(unit.Hertz(800)) }} {
		_, fs := judge(driven().Add(rigtest.Biamped(asks), "B1").Plug("A1/out A", "B1/in").Rig)
		if f := fs[slices.IndexFunc(fs, func(f finding.Finding) bool { return f.Code == "wire.bands-unsplit" })]; f.
			Gravity != finding.Stop {
			t.Errorf("a first way that lows would burn: %+v", f)
		}
	}
	sound := ways(shared).Plug("B1/link", "B2/in").Plug("B1/link 2", "B2/in 2") // a common return bears a joined minus
	if _, fs := judge(sound.Rig); len(fs) > 0 {
		t.Errorf("a sound two-way rig is complained of: %+v", fs)
	}
}

// vias runs the leads from these outputs in the multicore MC.
func vias(r *rigtest.Rig, outs ...string) *rigtest.Rig {
	for _, k := range r.Links {
		if slices.Contains(outs, k.From.Device+"/"+k.From.Port) {
			r.Do(rig.SetLead{To: k.To, Via: "MC"})
		}
	}
	return r
}

// A mend of a silent way takes it away.
func TestSilentWayIsMended(t *testing.T) {
	r := rigtest.Divided(t, rigtest.Amp("amp")).Add(rigtest.Biamped(), "B1", "B2").Plug("A1/out A",
		"B1/in").Plug("A1/out B", "B1/in 2").Plug("B1/link", "B2/in")
	_, fs := judge(r.Rig)
	if len(fs) != 1 || len(fs[0].Mends) != 1 {
		t.Fatalf("%+v", fs)
	}
	r.Do(fs[0].Mends[0].Edit)
	if _, fs := judge(r.Rig); len(fs) > 0 {
		t.Errorf("after the mend: %+v", fs)
	}
}

// A selector on poles that the lead does not feed leaves its box silent, and setting it
// mends that.
func TestASelectorOnTheOtherPoles(t *testing.T) {
	r := rigtest.Hung(t, rigtest.Amp("amp"), rigtest.Box("box", func(s *gear.Loudspeaker) { s.Selector = true }), 1)
	d, _ := r.Device("B1")
	set := d.Change()
	set.Poles = 2
	silent := func(f finding.Finding) bool { return f.Code == "wire.poles-unfed" }
	if _, fs := judge(r.Rig); slices.ContainsFunc(fs, silent) {
		t.Error("a box that hears what its lead brings is found")
	}
	_, fs := judge(r.Do(set).Rig)
	i := slices.IndexFunc(fs, silent)
	if i < 0 || len(fs[i].Mends) != 1 {
		t.Fatalf("%v", fs)
	}
	if _, fs := judge(r.Do(fs[i].Mends[0].Edit).Rig); slices.ContainsFunc(fs, silent) {
		t.Error("the mend does not mend")
	}
}

// Each channel of a two-way box sees its own way: two of 8 Ω and two of 16 Ω
// in parallel.
func TestLoadByPoles(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Biamped(), "B1", "B2").
		Plug("A1/out A", "B1/in").Plug("A1/out B", "B1/in 2").Plug("B1/link", "B2/in").Plug("B1/link 2", "B2/in 2")
	x := rig.NewIndex(r.Rig)
	outs := load.Outputs(x)
	for i, want := range []float64{4, 8} {
		if z := outs[i].Nominal.Value; z != want || len(outs[i].Boxes) != 2 {
			t.Errorf("%s sees %g Ω of %v, want %g", outs[i].At, z, load.Tags(outs[i].Boxes), want)
		}
	}
	if got := outs[1].Boxes[1].Name(); got != "B2 high" {
		t.Errorf("the second box of channel B is %q", got)
	}
	tests, _ := lineTests(x, outs)
	if tests[1].Words == "" || tests[0].Words != "" {
		t.Errorf("a capacitor-fed way reads open: %+v", tests)
	}
}

// A transformer line reads nearly a short, a capacitor-fed one open (common
// practice, no source).
func TestUnusualLines(t *testing.T) {
	line := rigtest.Box("line", func(s *gear.Loudspeaker) { s.Transformer = true })
	horn := rigtest.Box("horn", func(s *gear.Loudspeaker) { s.Blocked = gear.Yes })
	for _, c := range []struct {
		what  string
		box   gear.Model
		reads unit.DC
		wrong bool
	}{{"transformers", line, 0.6, false}, {"transformers open", line, 40, true}, {"capacitor", horn, 1e6, false},
		{"capacitor, off the scale", horn, unit.Open, false}, {"transformers off the scale", line, unit.Open, true},
		{"capacitor shorted", horn, 6, true}} {
		r := rigtest.Driven(t, rigtest.Amp("amp")).Add(c.box, "B1").Plug("A1/out A", "B1/in").
			Do(rig.RecordReading{At: rigtest.Ref("A1/out A"), DC: unit.Of(c.reads)})
		x := rig.NewIndex(r.Rig)
		tests, fs := lineTests(x, load.Outputs(x))
		if tests[0].Wrong != c.wrong || (len(fs) > 0) != c.wrong {
			t.Errorf("%s reading %s: %+v", c.what, c.reads, tests[0])
		}
	}
}

// fourPole is a speaker lead with twist-locks and so many conductors.
func fourPole(id string, poles int) gear.Model {
	return gear.Model{ID: id, Kind: gear.KindCable, Maker: "Test", Name: id, Cable: &gear.Cable{Sort: gear.SpeakerCable,
		Ends: [2]gear.Connector{gear.TwistLock4, gear.TwistLock4}, Length: unit.Of(unit.Metre(10)),
		Area: unit.Of(unit.SquareMillimetre(2.5)), Poles: poles}}
}

// The poles of every lead are checked: a two-pole lead between two-way boxes is not
// plugged twice by the mend; it takes one of the rig that has four conductors, or says
// that there is none. One lead of four carries both ways, and is there once.
func TestPolesOfLeads(t *testing.T) {
	two, four := fourPole("two", 2), fourPole("four", 4)
	chain := func(lead gear.Model) *rigtest.Rig {
		r := rigtest.Divided(t, rigtest.Amp("amp")).Add(rigtest.Biamped(), "B1", "B2").Plug("A1/out A", "B1/in").
			Plug("A1/out B", "B1/in 2")
		return r.Do(rig.Connect{Link: rig.Link{From: rigtest.Ref("B1/link"), To: rigtest.Ref("B2/in"),
			Cables: []string{lead.ID}}, Stock: []gear.Model{lead}})
	}
	silent := func(r *rigtest.Rig) (f finding.Finding) {
		_, fs := judge(r.Rig)
		for _, one := range fs {
			if one.Code == "wire.way-silent" || one.Code == "wire.lead-poles" {
				f = one
			}
		}
		return f
	}
	if f := silent(chain(two)); len(f.Mends) != 0 || !strings.Contains(f.Advice, "take one from stock") {
		t.Errorf("no lead has four conductors, and yet %+v", f)
	}
	own := chain(two)
	own.Do(rig.Connect{Link: rig.Link{From: rigtest.Ref("B1/link 2"), To: rigtest.Ref("B2/in 2"),
		Cables: []string{two.ID}}, Stock: []gear.Model{two}})
	if f := silent(own); f.Code != "wire.lead-poles" {
		t.Errorf("poles 2± in a lead of two conductors: %q", f.What)
	}
	same := chain(four)
	same.Do(silent(same).Mends[0].Edit)
	k, _ := rig.NewIndex(same.Rig).Into(rigtest.Ref("B2/in 2"))
	if f := silent(same); f.Code != "" || k.Rides != rigtest.Ref("B2/in") || len(k.Cables) != 0 {
		t.Errorf("both ways in one lead of four: %+v, %+v", f, k)
	}
	x := rig.NewIndex(same.Rig)
	if l := x.LeadLength(k); l.Or(0) != 10 {
		t.Errorf("what rides in a lead is %s long", l)
	}
	for _, n := range wire.Needs(x, wire.Stock{}) {
		if n.Model.ID == "four" && n.Need != 1 {
			t.Errorf("one lead is counted %d times", n.Need)
		}
	}
	// a lead with two conductors under poles that need four is found, and another of the rig offered
	wrong := chain(four).Do(rig.SetLead{To: rigtest.Ref("B1/in"), Stock: []gear.Model{four}})
	wrong.Do(rig.SetLead{To: rigtest.Ref("B2/in"), Stock: []gear.Model{two}})
	f := silent(wrong)
	if len(f.Mends) != 1 {
		t.Fatalf("%+v", f)
	}
	if f = silent(wrong.Do(f.Mends[0].Edit)); f.Code != "" {
		t.Errorf("after the mend: %+v", f)
	}
}
