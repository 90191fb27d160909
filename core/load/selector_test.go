package load_test

import (
	"slices"
	"testing"

	"largo/core/gear"
	"largo/core/load"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

// A sub on poles 2± under a top on 1±, one lead of four conductors to both: each
// channel drives the one box that listens to it, and the top hangs behind 10 + 2 m of
// lead (what a selector does is common practice, no source; the resistance by hand:
// lengths of one conductor add).
func TestASelectorPassesOnWhatItDoesNotHear(t *testing.T) {
	sub := rigtest.Box("sub", func(s *gear.Loudspeaker) { s.Sub, s.Selector = true, true })
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(sub, "SUB").Add(rigtest.Box("top"), "TOP")
	d, _ := r.Device("SUB")
	set := d.Change()
	set.Poles = 2
	lead := func(from, to string, length unit.Metre, area unit.SquareMillimetre) rig.Edit {
		return rig.Connect{Link: rig.Link{From: rigtest.Ref(from), To: rigtest.Ref(to), Length: unit.Of(length),
			Area: unit.Of(area)}}
	}
	r.Do(set).Do(lead("A1/out A", "SUB/in", 10, 2.5)).Do(lead("SUB/link", "TOP/in", 2, 1.5)).Plug("A1/out B", "SUB/in 2")
	x := rig.NewIndex(r.Rig)
	outs := load.Outputs(x)
	if a, b := load.Tags(outs[0].Boxes), load.Tags(outs[1].Boxes); !slices.Equal(a, []string{"TOP"}) ||
		!slices.Equal(b, []string{"SUB"}) {
		t.Fatalf("A drives %v, B %v", a, b)
	}
	top := outs[0].Boxes[0]
	if top.Lead.Length.Or(0) != 12 || outs[1].Boxes[0].Part() != rig.Subs {
		t.Errorf("%v of lead; the sub is of %q", top.Lead.Length, outs[1].Boxes[0].Part())
	}
	both := gear.LoopResistance(10, 2.5, 20) + gear.LoopResistance(2, 1.5, 20)
	rigtest.Near(t, "both pieces", float64(top.Lead.Ohms(20)), float64(both), 1e-9)
}

// A link-through of two poles passes the lows of a two-way box on, and leaves the highs
// of the next one without.
func TestALinkOfTwoPoles(t *testing.T) {
	m := rigtest.Biamped(func(s *gear.Loudspeaker) { s.LinkTwo = true })
	if _, has := m.Port("link"); !has {
		t.Error("poles 1± are not passed on")
	}
	if _, has := m.Port("link 2"); has {
		t.Error("poles 2± are passed on by two poles")
	}
}
