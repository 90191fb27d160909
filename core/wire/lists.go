package wire

import (
	"cmp"
	"slices"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
)

// Cable is one sort of lead that no made-up lead was chosen for, with how
// many of it are plugged in this rig.
type Cable struct {
	Carries gear.Signal
	Length  unit.Given[unit.Metre]
	Area    unit.Given[unit.SquareMillimetre]
	Count   int
}

// Cables counts the leads of a rig that are not of stock by what they carry, length and conductor:
// what has to be in the truck. Leads whose length nobody gave come last in
// their sort.
func Cables(x *rig.Index) []Cable {
	at := map[Cable]int{}
	for _, k := range x.Rig.Links {
		if len(k.Cables) > 0 || k.Rides != (rig.Ref{}) || x.Inside(k) {
			continue
		}
		from, _ := x.Port(k.From)
		length, known := k.Length.Get()
		c := Cable{Carries: from.Signal}
		if known {
			c.Length = unit.Of(length)
		}
		if area, known := k.Area.Get(); known && from.Signal == gear.Speaker {
			c.Area = unit.Of(area)
		}
		at[c]++
	}
	list := make([]Cable, 0, len(at))
	for c, n := range at {
		c.Count = n
		list = append(list, c)
	}
	slices.SortFunc(list, func(a, b Cable) int {
		const last = 1e9
		return cmp.Or(cmp.Compare(a.Carries, b.Carries), cmp.Compare(a.Length.Or(last), b.Length.Or(last)),
			cmp.Compare(a.Area.Or(last), b.Area.Or(last)))
	})
	return list
}

// PatchList lists the leads, those inside a case apart, against the signal flow, from the boxes back to
// the sources, so that each can be traced back to where it comes from.
func PatchList(x *rig.Index) []rig.Link {
	rank := func(k rig.Link) int {
		_, m := x.Device(k.To.Device)
		return slices.Index(gear.Kinds, m.Kind)
	}
	list := slices.DeleteFunc(slices.Clone(x.Rig.Links), x.Inside)
	slices.SortStableFunc(list, func(a, b rig.Link) int { return rank(b) - rank(a) })
	return list
}
