package match_test

import (
	"math"
	"strings"
	"testing"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

// aimed is an amplifier with a box on each channel, the second for an area of its
// own at a distance.
func aimed(t *testing.T, area rig.Aim, metres float64) *rigtest.Rig {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1", "B2").
		Plug("A1/out A", "B1/in").Plug("A1/out B", "B2/in")
	e := rig.ChangeDevice{Tag: "B2", NewTag: "B2", Aim: area}
	if metres > 0 {
		e.Distance = unit.Of(unit.Metre(metres))
	}
	return r.Do(e)
}

// Who sits in one area is not helped by another: a balcony at 40 m gets 97 + 10 lg
// 350 − 20 lg 40 = 90.40 dB of its own box alone, and decides; the stage never does.
func TestTheOwnListenersHearABox(t *testing.T) {
	v, fs := judge(aimed(t, "balcony", 40).Rig)
	if len(v.Areas) != 2 || v.Decides().Name != "balcony" {
		t.Fatalf("%d areas, %q decides", len(v.Areas), v.Decides().Name)
	}
	rigtest.Near(t, "balcony", v.Decides().Level.Value, 97+10*math.Log10(350)-20*math.Log10(40), 1e-6)
	rigtest.Near(t, "audience", v.Areas[0].Level.Value, 97+10*math.Log10(350)-20, 1e-6)
	if f := fs[len(fs)-1]; f.Code != "match.level-short" || !strings.Contains(f.What, "for balcony") {
		t.Errorf("%+v", f)
	}
	if v, _ := judge(aimed(t, rig.OnStage, 1).Rig); v.Decides().Name != rig.Audience || v.Areas[1].Name != rig.OnStage {
		t.Errorf("%q decides over the stage", v.Decides().Name)
	}
}

// While a box of an area is silent, or what it gives is not known, nothing is to
// spare; another area's is no matter of it.
func TestNothingToSpareOverSilence(t *testing.T) {
	for what, c := range map[string]struct {
		rig  *rigtest.Rig
		want string
	}{
		"silent":           {aimed(t, "", 0).Do(rig.Disconnect{To: rigtest.Ref("B2/in")}), "B2 is silent"},
		"no distance":      {aimed(t, "balcony", 0), "the level of no box is known"},
		"silent elsewhere": {aimed(t, "stage", 2).Do(rig.Disconnect{To: rigtest.Ref("B2/in")}), ""},
	} {
		v, fs := judge(c.rig.Rig)
		spare := v.Decides().Spare
		if spare.Known() != (c.want == "") || !strings.Contains(spare.Lacks, c.want) {
			t.Errorf("%s: to spare %s (%s)", what, spare.Text(), spare.Lacks)
		}
		found := false
		for _, f := range fs {
			found = found || f.Code == "brief.level-unknown" && f.Stage == finding.Brief
		}
		if found != (c.want != "") {
			t.Errorf("%s: said %v", what, found)
		}
	}
}

// An active sub is a sub: an A-weighted reading hardly sees it, a C-weighted one
// counts it, in powers with the tops.
func TestSubsAndWeighting(t *testing.T) {
	sub := gear.Model{ID: "asub", Kind: gear.KindLoudspeaker, Maker: "Test", Name: "asub",
		Loudspeaker: &gear.Loudspeaker{Active: true, Sub: true, MaxSPL: unit.Of(unit.Decibel(130))}}
	r := rigtest.Hung(t, rigtest.Amp("amp"), rigtest.Box("box"), 1).Add(sub, "S1").Plug("DESK/main L", "S1/in")
	top, low := 97+10*math.Log10(350)-20, 130-3.01-20
	v, _ := judge(r.Rig)
	rigtest.Near(t, "A", v.Decides().Level.Value, top, 1e-6)
	rigtest.Near(t, "the sub", v.Decides().Subs.Value, low, 1e-6)
	b := r.Brief
	b.Weighting = rig.WeightC
	v, _ = judge(r.Do(rig.SetBrief{Brief: b}).Rig)
	rigtest.Near(t, "C", v.Decides().Level.Value, 10*math.Log10(math.Pow(10, top/10)+math.Pow(10, low/10)), 1e-6)
}

// Subwoofers of one programme at one place add as pressures, at two places as
// powers (physics).
func TestSubsTogetherAndApart(t *testing.T) {
	sub := rigtest.Box("sub", func(s *gear.Loudspeaker) { s.Sub = true })
	for places, want := range map[[2]string]float64{{"left", "left"}: 20 * math.Log10(2),
		{"left", "right"}: 10 * math.Log10(2), {"", ""}: 20 * math.Log10(2)} {
		r := rigtest.Driven(t, rigtest.Amp("amp")).Add(sub, "S1", "S2").Plug("A1/out A", "S1/in").Plug("S1/link", "S2/in")
		for i, place := range places {
			tag := []string{"S1", "S2"}[i]
			r.Do(rig.ChangeDevice{Tag: tag, NewTag: tag, Place: place})
		}
		v, _ := judge(r.Rig)
		rigtest.Near(t, strings.Join(places[:], " and "), v.Decides().Subs.Value, 97+10*math.Log10(350)-20+want, 1e-6)
	}
}

// A room of 4000 m³ and 1.6 s has a critical distance of 6.373 m at a directivity of
// 5; at 10 m the direct sound is 3.913 dB under the reverberant (reference, by closed
// form), so both together are 10 lg(1 + 10^0.3913) over the direct. Outdoors there is
// no room.
func TestTheRoomCountsOnceItIsKnown(t *testing.T) {
	r := rigtest.Hung(t, rigtest.Amp("amp"), rigtest.Box("box"), 1)
	direct := 97 + 10*math.Log10(350) - 20
	v, _ := judge(r.Rig)
	rigtest.Near(t, "direct sound", v.Decides().Level.Value, direct, 1e-6)
	if got := v.Outputs[0].Boxes[0].Level.Source; !strings.Contains(got, "direct sound") {
		t.Errorf("a level without its room says %q", got)
	}
	b := r.Brief
	b.Volume, b.Reverberation = unit.Of(unit.CubicMetre(4000)), unit.Of(unit.Second(1.6))
	v, _ = judge(r.Do(rig.SetBrief{Brief: b}).Rig)
	rigtest.Near(t, "in the room", v.Decides().Level.Value, direct+10*math.Log10(1+math.Pow(10, 0.3913)), 1e-3)
	b.Outdoors = true
	v, _ = judge(r.Do(rig.SetBrief{Brief: b}).Rig)
	rigtest.Near(t, "outdoors", v.Decides().Level.Value, direct, 1e-6)
}
