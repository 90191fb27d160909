package rig_test

import (
	"fmt"
	"reflect"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

func base(t *testing.T) *rigtest.Rig {
	return rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1", "B2", "B3").
		Plug("A1/out A", "B1/in").Plug("B1/link", "B2/in").Plug("B2/link", "B3/in")
}

func link(from, to string) rig.Edit {
	return rig.Connect{Link: rig.Link{From: rigtest.Ref(from), To: rigtest.Ref(to)}}
}

func TestImpossibleEditsAreRefusedWhole(t *testing.T) {
	r := base(t)
	for _, c := range []struct {
		what string
		edit rig.Edit
		say  string
	}{
		{"a box linked to itself", link("B3/link", "B3/in"), "cannot be linked to itself"},
		{"two outputs joined at an input", link("A1/out B", "B1/in"), "join two outputs"},
		{"two outputs joined", link("A1/out B", "A1/out A"), "itself"},
		{"output into output", link("DESK/main L", "A1/out A"), "both outputs"},
		{"input as a start", link("B1/in", "A1/in 1"), "is an input"},
		{"a port that is not there", link("A1/out Z", "B1/in"), "no \"A1 out Z\""},
		{"a device that is not there", link("A9/out A", "B1/in"), "no \"A9 out A\""},
		{"series at line level", rig.Connect{Link: rig.Link{From: rigtest.Ref("PLAYER/out"), To: rigtest.Ref("DESK/in 2"),
			Series: "s"}}, "Only loudspeakers"},
		{"a lead of 9 km", rig.Connect{Link: rig.Link{From: rigtest.Ref("PLAYER/out"), To: rigtest.Ref("DESK/in 2"),
			Length: unit.Of(unit.Metre(9000))}}, "9000 m"},
		{"a tag used twice", rig.AddDevices{Model: rigtest.Box("box"), Tags: []string{"b1"}}, "already bears"},
		{"the same tag twice in one act", rig.AddDevices{Model: rigtest.Box("box"), Tags: []string{"B9", "B9"}},
			"already bears"},
		{"no tag", rig.AddDevices{Model: rigtest.Box("box")}, "at least one tag"},
		{"script in a tag", rig.AddDevices{Model: rigtest.Box("box"), Tags: []string{"<script>"}}, "A tag is what"},
		{"10,000 characters", rig.AddDevices{Model: rigtest.Box("box"), Tags: []string{strings.Repeat("x", 10000)}},
			"A tag is what"},
		{"0 Ω", rig.AddDevices{Model: rigtest.Box("zero", func(s *gear.Loudspeaker) { s.Nominal = unit.Of(unit.Ohm(0)) }),
			Tags: []string{"B9"}}, "0 Ω cannot be right"},
		{"unplugging what is not plugged", rig.Disconnect{To: rigtest.Ref("A1/in 9")}, "Nothing is plugged"},
		{"a pair that is not there", rig.SetPair{Tag: "A1", Pair: 3, Set: rig.Pair{Output: gear.Bridged}}, "no such pair"},
		{"a pair of a box", rig.SetPair{Tag: "B1", Set: rig.Pair{Output: gear.Bridged}}, "no such pair"},
		{"a mode that is not one", rig.SetPair{Tag: "A1", Set: rig.Pair{Output: "sideways"}}, "not one of the choices"},
		{"a limiter on a box", rig.SetLimiter{Tag: "B1", Set: rig.Limiter{Port: "in", RMS: unit.Of(unit.Volt(9))}},
			"set at an amplifier"},
		{"peak under rms", rig.SetLimiter{Tag: "A1",
			Set: rig.Limiter{Port: "out A", RMS: unit.Of(unit.Volt(9)), Peak: unit.Of(unit.Volt(8))}},
			"never less than its rms"},
		{"a negative limiter", rig.SetLimiter{Tag: "A1", Set: rig.Limiter{Port: "out A", RMS: unit.Of(unit.Volt(-9))}},
			"cannot be right"},
		{"a knob of channel 7", rig.SetKnob{Tag: "A1", Set: rig.Knob{Channel: 7, Down: 3}}, "level control"},
		{"an order of strangers", rig.SetOrder{Order: []string{"NOBODY"}}, "not in the rig"},
		{"an order twice over", rig.SetOrder{Order: []string{"A1", "A1"}}, "twice"},
		{"a policy that is not one", rig.SetWishes{Policy: "louder", Bridging: rig.Never}, "not one of the choices"},
		{"an empty title", rig.SetBrief{Brief: rig.Brief{}}, "The title is missing"},
		{"a title of 10,000", rig.SetBrief{Brief: rig.Brief{Title: strings.Repeat("x", 10000)}}, "10000 characters"},
		{"script in a title", rig.SetBrief{Brief: rig.Brief{Title: "<script>"}}, "may not hold <"},
		{"a date of nowhere", rig.SetBrief{Brief: rig.Brief{Title: "T", Date: "12/6"}}, "not a date"},
		{"a level of 300 dB", rig.SetBrief{Brief: rig.Brief{Title: "T", Wanted: unit.Of(unit.Decibel(300))}},
			"300.0 dB cannot be right"},
		{"minus ten listeners", rig.SetBrief{Brief: rig.Brief{Title: "T", Listeners: -10}}, "cannot be right"},
		{"removing nothing", rig.RemoveDevice{Tag: "GHOST"}, "no device"},
		{"half of a batch", rig.Batch{Edits: []rig.Edit{rig.RemoveDevice{Tag: "B3"}, rig.RemoveDevice{Tag: "GHOST"}}},
			"no device"},
	} {
		before := r.Rig.Clone()
		after, err := rig.Apply(r.Rig, c.edit)
		if err == nil || !strings.Contains(err.Error(), c.say) {
			t.Errorf("%s: %v, want a sentence with %q", c.what, err, c.say)
		}
		if !reflect.DeepEqual(after, before) || !reflect.DeepEqual(r.Rig, before) {
			t.Errorf("%s: the refused edit left a trace", c.what)
		}
	}
}

func TestRingOfLinkThroughs(t *testing.T) {
	r := base(t).Do(rig.Disconnect{To: rigtest.Ref("B1/in")})
	if _, err := rig.Apply(r.Rig, link("B3/link", "B1/in")); err == nil || !strings.Contains(err.Error(), "ring") {
		t.Errorf("%v, want the ring named", err)
	}
	// In a file the ring may stand beside a chain that merely hangs on it; the
	// walk up that chain must not go round for ever.
	bad := base(t).Do(rig.Disconnect{To: rigtest.Ref("B2/in")}).Do(rig.Disconnect{To: rigtest.Ref("B1/in")}).Rig.Clone()
	bad.Links = append(bad.Links, rig.Link{From: rigtest.Ref("B3/link"), To: rigtest.Ref("B2/in")},
		rig.Link{From: rigtest.Ref("B3/link"), To: rigtest.Ref("B1/in")})
	if err := bad.Check(); err == nil || !strings.Contains(err.Error(), "ring") {
		t.Errorf("%v, want the ring named", err)
	}
}

func TestEditsLeaveTheOriginalAlone(t *testing.T) {
	r := base(t)
	r.Do(rig.SetLimiter{Tag: "A1", Set: rig.Limiter{Port: "out A", RMS: unit.Of(unit.Volt(40)),
		Peak: unit.Of(unit.Volt(80))}})
	before := r.Rig.Clone()
	for _, e := range []rig.Edit{
		rig.SetPair{Tag: "A1", Set: rig.Pair{Output: gear.Bridged, Input: rig.ParallelIn}},
		rig.SetLimiter{Tag: "A1", Set: rig.Limiter{Port: "out A"}},
		rig.SetKnob{Tag: "A1", Set: rig.Knob{Channel: 1, Down: 6}},
		rig.RemoveDevice{Tag: "B2"},
		rig.ChangeDevice{Tag: "A1", NewTag: "RACK 1"},
		rig.SetOrder{Order: []string{"DESK"}},
	} {
		if _, err := rig.Apply(r.Rig, e); err != nil {
			t.Fatalf("%s: %v", e.Say(), err)
		}
		if !reflect.DeepEqual(r.Rig, before) {
			t.Fatalf("%s was seen in the original", e.Say())
		}
	}
}

func TestRenamingCarriesLeadsAndOrder(t *testing.T) {
	r := base(t).Do(rig.SetOrder{Order: []string{"DESK", "A1"}}).Do(rig.ChangeDevice{Tag: "A1", NewTag: "RACK 1",
		Place: "left"})
	if got := fmt.Sprint(r.Order); got != "[DESK RACK 1]" {
		t.Errorf("order %s", got)
	}
	x := rig.NewIndex(r.Rig)
	if k, ok := x.Into(rigtest.Ref("B1/in")); !ok || k.From.Device != "RACK 1" {
		t.Errorf("B1 is fed from %v", k.From)
	}
	r.Do(rig.RemoveDevice{Tag: "RACK 1"})
	if len(r.Order) != 1 || len(r.Links) != 3 {
		t.Errorf("after removing: order %v, %d links", r.Order, len(r.Links))
	}
	if _, have := r.Rig.Model("amp"); have {
		t.Error("a model that nothing uses stayed in the rig")
	}
}

func TestAmplifiersOfOneModelShareItsFigures(t *testing.T) {
	r := base(t)
	m := rigtest.Amp("amp", func(a *gear.Amplifier) { a.Least = unit.Of(unit.Ohm(2)) })
	r.Do(rig.ReplaceModel{Model: m}).Add(m, "A2")
	if len(r.Models) != 4 {
		t.Errorf("%d models, want player, desk, amp and box", len(r.Models))
	}
	got, _ := r.Rig.Model("amp")
	if !got.Amplifier.Least.Known() {
		t.Error("the new figure is not in the rig")
	}
}
