package wire_test

import (
	"slices"
	"strings"
	"testing"

	"largo/core/finding"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/wire"
)

// A mixer with its amplifiers in one case has one inlet: the lead into one part
// feeds all, an empty inlet is said once and of the case, and between its parts
// there is nothing to pack or to plug.
func TestACaseHasOneInletAndNoLeadsInside(t *testing.T) {
	loose := rigtest.Driven(t, rigtest.Amp("amp")).Add(distro(), "D").Add(active(), "P").
		Plug("D/outlet 1", "P/mains")
	packed := func(r rig.Rig) (n int) {
		for _, c := range wire.Cables(rig.NewIndex(r)) {
			n += c.Count
		}
		return n
	}
	apart := packed(loose.Rig)
	cased := loose.Do(rig.SetCase{Case: rig.Case{Name: "MIX"}, Parts: []string{"DESK", "A1"}})
	without := func(r rig.Rig) (what []string) {
		_, fs := judge(r)
		for _, f := range fs {
			if f.Code == "wire.no-mains" && f.Gravity == finding.Mend && !strings.Contains(f.What, "PLAYER") &&
				!strings.Contains(f.What, "distro") {
				what = append(what, f.What)
			}
		}
		return what
	}
	if got, want := without(cased.Rig), []string{"The case MIX has no mains lead."}; !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
	before := cased.Rig
	onWall := cased.Do(rig.SetSupplies{Supplies: []rig.Supply{{Name: "house", Sort: rig.Source}, {Name: "wall",
		Sort: rig.Outlet, From: "house"}}}).Do(rig.PlugMains{Tag: "A1", Outlet: "wall"})
	if got := without(onWall.Rig); got != nil {
		t.Errorf("on an outlet of the house: %q", got)
	}
	cased.Rig = before
	fed := cased.Plug("D/outlet 2", "A1/mains")
	if got := without(fed.Rig); got != nil {
		t.Errorf("fed by one part: %q", got)
	}
	x := rig.NewIndex(fed.Rig)
	for _, k := range wire.PatchList(x) {
		if k.From.Device == "DESK" && k.To.Device == "A1" {
			t.Errorf("%s to %s is to be plugged, inside the case", k.From, k.To)
		}
	}
	if n := packed(fed.Rig); n >= apart+1 { // and the lead that feeds it
		t.Errorf("%d leads to pack as one case, %d apart and unfed", n, apart)
	}
	device := func(tag string) int {
		return slices.IndexFunc(fed.Rig.Devices, func(d rig.Device) bool { return d.Tag == tag })
	}
	if on := x.Supplies(device("D")); !on.Has(device("DESK")) || !on.Has(device("A1")) {
		t.Error("what feeds one part does not wake the others")
	}
}
