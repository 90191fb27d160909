package rig_test

import (
	"testing"

	"largo/core/rig"
	"largo/core/rigtest"
)

// The part of a box by which its policy is chosen: a high way before all, for it burns
// first, then a sub, then whom it is for.
func TestPartOf(t *testing.T) {
	for _, c := range []struct {
		aim   rig.Aim
		sub   bool
		poles int
		want  rig.Part
	}{
		{rig.Audience, false, 1, rig.Tops}, {rig.Audience, true, 1, rig.Subs}, {rig.OnStage, false, 1, rig.Monitors},
		{"balcony", false, 1, rig.Fills}, {rig.Audience, false, 2, rig.HighWays}, {rig.OnStage, false, 2, rig.HighWays},
		{rig.OnStage, true, 1, rig.Subs},
	} {
		if got := rig.PartOf(c.aim, c.sub, c.poles); got != c.want {
			t.Errorf("%q, sub %v, poles %d±: %s, want %s", c.aim, c.sub, c.poles, got, c.want)
		}
	}
}

// What goes on from box to box goes in one lead: the second pair of poles rides in the
// lead of the first, unless it has a lead of its own.
func TestBothWaysGoOnInOneLead(t *testing.T) {
	r := rigtest.Divided(t, rigtest.Amp("amp")).Add(rigtest.Biamped(), "B1", "B2").Plug("A1/out A", "B1/in").
		Plug("A1/out B", "B1/in 2").Plug("B1/link", "B2/in").Plug("B1/link 2", "B2/in 2")
	k, fed := rig.NewIndex(r.Rig).Into(rigtest.Ref("B2/in 2"))
	if !fed || k.Rides != rigtest.Ref("B2/in") {
		t.Errorf("poles 2± go on in %+v", k)
	}
	if k, _ := rig.NewIndex(r.Rig).Into(rigtest.Ref("B1/in 2")); k.Rides != (rig.Ref{}) {
		t.Errorf("from the amplifier they ride in %s", k.Rides)
	}
}
