package rig_test

import (
	"slices"
	"testing"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

func TestMirrorLeft(t *testing.T) {
	r := rigtest.New(t).Add(rigtest.Desk(), "DESK").Add(rigtest.Amp("amp", func(a *gear.Amplifier) { a.Channels = 4 }),
		"A1", "SUB L").
		Add(rigtest.Box("box"), "TOP L1", "TOP L2", "BIN L").
		Plug("DESK/main L", "A1/in 1").Plug("DESK/main L", "SUB L/in 1").
		Plug("A1/out A", "TOP L1/in").Plug("TOP L1/link", "TOP L2/in").Plug("SUB L/out A+B", "BIN L/in").
		Do(rig.SetPair{Tag: "SUB L", Set: rig.Pair{Output: gear.Bridged, Input: rig.SeparateIn}})
	left := r.LeftSide()
	if !slices.Equal(left, []string{"SUB L", "TOP L1", "TOP L2", "BIN L"}) {
		t.Fatalf("left side %v", left)
	}
	r.Do(rig.MirrorLeft{Tags: left})
	for _, want := range []string{"A1 out B to TOP R1 in", "TOP R1 link to TOP R2 in", "SUB R out A+B to BIN R in",
		"DESK main R to SUB R in 1"} {
		if !slices.ContainsFunc(r.Links, func(k rig.Link) bool { return k.String() == want }) {
			t.Errorf("no lead %s in %v", want, r.Links)
		}
	}
	d, _ := r.Device("SUB R")
	if d.PairSetting(0).Output != gear.Bridged || len(r.Devices) != 10 || len(r.Links) != 9 {
		t.Errorf("%d devices, %d leads, SUB R %+v", len(r.Devices), len(r.Links), d.Amp)
	}
	again := r.Rig
	r.Do(rig.MirrorLeft{Tags: left})
	if len(r.Links) != len(again.Links) || len(r.Devices) != len(again.Devices) {
		t.Error("duplicated twice, the right side is there twice")
	}
	r.Do(rig.RemoveDevice{Tag: "TOP R1"}).Plug("A1/out D", "TOP R2/in")
	if _, err := rig.Apply(r.Rig, rig.MirrorLeft{Tags: left}); err == nil {
		t.Error("a right side that is fed otherwise was not refused")
	}
}

// A bridged pair of one amplifier for both sides is mirrored to its next pair.
func TestMirrorBridgedPair(t *testing.T) {
	r := rigtest.New(t).Add(rigtest.Amp("amp", func(a *gear.Amplifier) { a.Channels = 4 }),
		"A1").Add(rigtest.Box("box"), "BIN L").
		Plug("A1/out A+B", "BIN L/in").Do(rig.SetPair{Tag: "A1", Set: rig.Pair{Output: gear.Bridged, Input: rig.SeparateIn}}).
		Do(rig.MirrorLeft{Tags: []string{"BIN L"}})
	d, _ := r.Device("A1")
	if r.Links[1].String() != "A1 out C+D to BIN R in" || d.PairSetting(1).Output != gear.Bridged {
		t.Errorf("%v, pairs %+v", r.Links, d.Amp)
	}
}

func TestRightOf(t *testing.T) {
	for tag, want := range map[string]string{"TOP L": "TOP R", "main L": "main R", "TOP L1": "TOP R1", "L": "R",
		"LEFT": "", "SOLO": "", "MIDL": ""} {
		got, ok := rig.RightOf(tag)
		if ok != (want != "") || ok && got != want {
			t.Errorf("the right of %q is %q, %v", tag, got, ok)
		}
	}
}

// Leads of stock come into the rig with the link and leave with it.
func TestStockLeadsFollowTheirLink(t *testing.T) {
	lead := gear.Model{ID: "nl-10", Kind: gear.KindCable, Maker: "Test", Name: "10 m",
		Cable: &gear.Cable{Sort: gear.SpeakerCable, Length: unit.Of(unit.Metre(10)),
			Area: unit.Of(unit.SquareMillimetre(2.5))}}
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1").Plug("A1/out A", "B1/in")
	to := rigtest.Ref("B1/in")
	r.Do(rig.SetLead{To: to, Stock: []gear.Model{lead}})
	x := rig.NewIndex(r.Rig)
	k, _ := x.Into(to)
	if m, ok := r.Model("nl-10"); !ok || m.Cable == nil || x.LeadArea(k).Or(0) != 2.5 || x.LeadLength(k).Or(0) != 10 {
		t.Errorf("lead %+v, %s of %s", k, x.LeadLength(k), x.LeadArea(k))
	}
	for what, bad := range map[string]rig.Edit{
		"a length beside a made-up lead":   rig.SetLead{To: to, Stock: []gear.Model{lead}, Length: unit.Of(unit.Metre(5))},
		"a multicore that is an amplifier": rig.SetLead{To: to, Via: "A1"},
		"phantom power at an amplifier":    rig.SetPhantom{At: rigtest.Ref("A1/in 1"), On: true},
		"a lead as a device":               rig.AddDevices{Model: lead, Tags: []string{"LEAD"}},
		"a spot off the drawing":           rig.PlaceOnDrawing{Tag: "A1", At: &rig.Spot{X: -5, Y: 1}},
		"mains into a line input": rig.Connect{Link: rig.Link{From: rigtest.Ref("DESK/main L"),
			To: rigtest.Ref("A1/mains")}},
	} {
		if _, err := rig.Apply(r.Rig, bad); err == nil {
			t.Errorf("%s was not refused", what)
		}
	}
	r.Do(rig.Disconnect{To: to})
	if _, ok := r.Model("nl-10"); ok {
		t.Error("the lead is still in the rig after it was unplugged")
	}
}

// A lead that runs in a multicore of its side runs in that of the other side.
func TestMirroredLeadsRunInTheOtherMulticore(t *testing.T) {
	reel := gear.Model{ID: "reel", Kind: gear.KindStageBox, Maker: "M", Name: "reel", StageBox: &gear.StageBox{Lines: 8}}
	r := rigtest.New(t).Add(rigtest.Desk(), "DESK").Add(reel, "REEL L").
		Add(rigtest.Amp("amp"), "A L").Plug("DESK/main L", "A L/in 1").
		Do(rig.SetLead{To: rigtest.Ref("A L/in 1"), Via: "REEL L"}).
		Do(rig.MirrorLeft{Tags: []string{"REEL L", "A L"}})
	for _, k := range r.Links {
		if k.To.Device == "A R" && (k.Via != "REEL R" || k.From.Port != "main R") {
			t.Errorf("%s runs through %q", k, k.Via)
		}
	}
	if len(r.Links) != 2 {
		t.Errorf("%v", r.Links)
	}
}
