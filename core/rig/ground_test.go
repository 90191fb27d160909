package rig_test

import (
	"testing"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

// ground is a rig with leads of 20 m from the rack to the left, 2 m from left to left,
// and 12 m from the left to the right.
func ground(t *testing.T) *rigtest.Rig {
	r := rigtest.Driven(t, rigtest.Amp("amp")).
		Do(rig.AddDevices{Model: rigtest.Box("box"), Tags: []string{"L1", "L2"}, Place: "left"}).
		Do(rig.AddDevices{Model: rigtest.Box("box"), Tags: []string{"R1"}, Place: "right"})
	for _, k := range []struct {
		from, to string
		length   unit.Metre
	}{{"A1/out A", "L1/in", 20}, {"L1/link", "L2/in", 2}, {"L2/link", "R1/in", 12}} {
		r.Do(rig.Connect{Link: rig.Link{From: rigtest.Ref(k.from), To: rigtest.Ref(k.to), Length: unit.Of(k.length),
			Area: unit.Of(unit.SquareMillimetre(2.5))}})
	}
	return r
}

// lain is a lead of a length.
func lain(from, to string, length unit.Metre) rig.Edit {
	return rig.Connect{Link: rig.Link{From: rigtest.Ref(from), To: rigtest.Ref(to), Length: unit.Of(length)}}
}

// How far it is, by the leads that lie there: 20 + 12 m by way of the left (by hand).
func TestTheWaysOnTheGround(t *testing.T) {
	g := rig.NewIndex(ground(t).Rig).Ground(gear.Speaker)
	for pair, want := range map[[2]string]unit.Metre{{"A1", "L1"}: 20, {"A1", "L2"}: 20, {"L1", "L2"}: 0, {"L1", "R1"}: 12,
		{"R1", "A1"}: 32} {
		if way, known := g.Between(pair[0], pair[1]); !known || way != want {
			t.Errorf("from %s to %s %s, %v; want %s", pair[0], pair[1], way, known, want)
		}
	}
	if way, known := g.Between("DESK", "A1"); known {
		t.Errorf("nothing with a length lies from the desk to the amplifier, and it is %s", way)
	}
	if !g.Alike("left", "left") || g.Alike("left", "right") {
		t.Error("spots that are alike")
	}
}

// What lies between two spots tells their way, though a shorter one goes by way of a
// third; within a place it is none, whether or not a lead lies there.
func TestTheLeadThatLiesThereTells(t *testing.T) {
	r := ground(t).Do(rig.AddDevices{Model: rigtest.Box("box"), Tags: []string{"F1", "F2"}, Place: "far"}).
		Do(lain("A1/out B", "F1/in", 50)).Do(lain("R1/link", "F2/in", 3)).
		Do(rig.AddDevices{Model: rigtest.Box("box"), Tags: []string{"N1", "N2"}, Place: "nowhere"})
	g := rig.NewIndex(r.Rig).Ground(gear.Speaker)
	if way, _ := g.Between("A1", "F2"); way != 50 { // 20 + 12 + 3 by way of others
		t.Errorf("%s to where a lead of 50 m lies", way)
	}
	if way, known := g.Between("N1", "N2"); !known || way != 0 {
		t.Errorf("within a place %s, %v", way, known)
	}
}

// What shares a lead goes on sharing it while that runs between the same devices.
func TestWhatRidesInALead(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Amp("amp"), "A2").Add(rigtest.Biamped(), "B1").
		Do(lain("A1/out A", "B1/in", 10)).
		Do(rig.Connect{Link: rig.Link{From: rigtest.Ref("A1/out B"), To: rigtest.Ref("B1/in 2"),
			Rides: rigtest.Ref("B1/in")}})
	x := rig.NewIndex(r.Rig)
	low, _ := x.Into(rigtest.Ref("B1/in"))
	high, _ := x.Into(rigtest.Ref("B1/in 2"))
	for from, rides := range map[string]bool{"A1/out A": true, "A2/out A": false} {
		links := []rig.Link{{From: rigtest.Ref(from), To: low.To}, {From: rigtest.Ref("A1/out B"), To: high.To}}
		plugs, _ := x.LeadsAtHand([]rig.Link{low, high}, nil).Plug(links, x.Spot)
		if k := plugs[1].(rig.Connect).Link; k.Rides != (rig.Ref{}) != rides {
			t.Errorf("the low way from %s: the high one rides in %v", from, k.Rides)
		}
	}
}

// A way on poles 2± takes a lead of four conductors, though one of two is shorter.
func TestALeadHasThePoles(t *testing.T) {
	lead := func(id string, poles int, length unit.Metre) gear.Holding {
		return gear.Holding{Count: 1, Model: gear.Model{ID: id, Kind: gear.KindCable, Maker: "Test", Name: id,
			Cable: &gear.Cable{Sort: gear.SpeakerCable, Length: unit.Of(length), Poles: poles}}}
	}
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Biamped(), "B1").
		Do(lain("A1/out A", "B1/in", 4))
	x := rig.NewIndex(r.Rig)
	high := rig.Link{From: rigtest.Ref("A1/out B"), To: rigtest.Ref("B1/in 2")}
	leads := x.LeadsAtHand(nil, []gear.Holding{lead("two", 2, 5), lead("four", 4, 9)})
	plugs, short := leads.Plug([]rig.Link{high}, x.Spot)
	if k := plugs[0].(rig.Connect).Link; len(short) > 0 || len(k.Cables) != 1 || k.Cables[0] != "four" {
		t.Errorf("%v, short of %v", k.Cables, short)
	}
}

// Boxes hung anew take the leads that reach: L1 keeps its 20 m, R1 with 12 m would not
// reach the amplifier and is left without; linked on from L1 its 12 m do.
func TestHangKnowsTheWays(t *testing.T) {
	at := func(r *rigtest.Rig, in string) unit.Given[unit.Metre] {
		k, _ := rig.NewIndex(r.Rig).Into(rigtest.Ref(in))
		return k.Length
	}
	outs := []rig.Ref{rigtest.Ref("A1/out A"), rigtest.Ref("A1/out B")}
	apart := ground(t).Do(rig.Hang{Boxes: []string{"L1", "R1"}, Outputs: outs, Each: 1})
	if at(apart, "L1/in").Or(0) != 20 || at(apart, "R1/in").Known() {
		t.Errorf("L1 on %s, R1 on %s", at(apart, "L1/in"), at(apart, "R1/in"))
	}
	together := ground(t).Do(rig.Hang{Boxes: []string{"L1", "R1"}, Outputs: outs, Each: 2})
	if at(together, "L1/in").Or(0) != 20 || at(together, "R1/in").Or(0) != 12 {
		t.Errorf("L1 on %s, R1 on %s", at(together, "L1/in"), at(together, "R1/in"))
	}
}
