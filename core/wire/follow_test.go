package wire_test

import (
	"maps"
	"slices"
	"testing"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/wire"
)

func TestFollow(t *testing.T) {
	r := rigtest.New(t).Add(rigtest.Player(), "PLAYER").Add(rigtest.Desk(), "DESK").Add(rigtest.Amp("amp"),
		"A1").Add(rigtest.Box("box"), "L1", "L2", "R1").
		Plug("PLAYER/out", "DESK/in 1").Plug("DESK/main L", "A1/in 1").Plug("DESK/main R", "A1/in 2").
		Plug("A1/out A", "L1/in").Plug("L1/link", "L2/in").Plug("A1/out B", "R1/in")
	follow := func(ref string) []string {
		return slices.Sorted(maps.Keys(wire.Follow(rig.NewIndex(r.Rig), rigtest.Ref(ref)).Devices))
	}
	for ref, want := range map[string][]string{
		"DESK/main L": {"A1", "DESK", "L1", "L2", "PLAYER"},
		"DESK/main R": {"A1", "DESK", "PLAYER", "R1"},
		"PLAYER/out":  {"A1", "DESK", "L1", "L2", "PLAYER", "R1"}, // a source may be mixed into all
	} {
		if got := follow(ref); !slices.Equal(got, want) {
			t.Errorf("%s goes through %v, want %v", ref, got, want)
		}
	}
	r.Do(rig.SetPair{Tag: "A1", Set: rig.Pair{Output: gear.Separate, Input: rig.ParallelIn}})
	if got := follow("DESK/main L"); !slices.Contains(got, "R1") {
		t.Errorf("with parallel inputs main L goes through %v, want R1 too", got)
	}
	if got := follow("DESK/main R"); slices.Contains(got, "R1") {
		t.Errorf("with parallel inputs main R should reach no box, but goes through %v", got)
	}
	if refs := wire.Programmes(rig.NewIndex(r.Rig)); len(refs) != 3 {
		t.Errorf("%v can be followed", refs)
	}
}
