package rig

import "largo/core/unit"

// Region is the mains of the place.
type Region string

// The regions.
const (
	Region230     Region = "230 V 50 Hz"
	RegionBritain Region = "230 V 50 Hz, Britain"
	RegionOceania Region = "230 V 50 Hz, Australia"
	Region120     Region = "120 V 60 Hz"
	RegionSplit   Region = "120/240 V 60 Hz"
	RegionWye     Region = "120/208 V 60 Hz"
	RegionBrazil  Region = "127/220 V 60 Hz"
	Region100     Region = "100 V 50/60 Hz"
	RegionEast    Region = "100 V 50 Hz, eastern Japan"
	RegionWest    Region = "100 V 60 Hz, western Japan"
)

// Mains is what a region has at its outlets, and the rules by which its circuits are loaded.
// A region more is a row of mains and its name.
type Mains struct {
	Volts  unit.Volt  // line to neutral
	Across unit.Volt  // line to line, 0 where outlets have none
	Hertz  unit.Hertz // 0: it depends on where
	Usual  unit.Ampere
	Plug   string
	// Continuous is the part of a breaker's rating that a load of three hours or more may
	// take: NEC 210.20 sizes for 125 % of it; IEC practice has no such rule.
	Continuous float64
	// Trips is the residual current that protects people there: UL 943 class A trips by
	// 6 mA and holds under 4; IEC 61008 devices for people trip by 30 mA.
	Trips unit.Ampere
}

// mains are the regions in the order in which they are offered. Volts, hertz and plugs are
// those of IEC 60038 and IEC TR 60083, from memory.
var mains = []struct {
	Region
	Mains
}{
	{Region230, Mains{Volts: 230, Across: 400, Hertz: 50, Usual: 16, Plug: "CEE 7", Continuous: 1, Trips: 0.03}},
	{RegionBritain, Mains{Volts: 230, Across: 400, Hertz: 50, Usual: 32, Plug: "BS 1363, fused 13 A", Continuous: 1,
		Trips: 0.03}},
	{RegionOceania, Mains{Volts: 230, Across: 400, Hertz: 50, Usual: 20, Plug: "AS/NZS 3112, 10 A", Continuous: 1,
		Trips: 0.03}},
	{Region120, Mains{Volts: 120, Hertz: 60, Usual: 15, Plug: "NEMA 5-15", Continuous: 0.8, Trips: 0.006}},
	{RegionSplit, Mains{Volts: 120, Across: 240, Hertz: 60, Usual: 20, Plug: "NEMA 5-20", Continuous: 0.8, Trips: 0.006}},
	{RegionWye, Mains{Volts: 120, Across: 208, Hertz: 60, Usual: 20, Plug: "NEMA 5-20", Continuous: 0.8, Trips: 0.006}},
	{RegionBrazil, Mains{Volts: 127, Across: 220, Hertz: 60, Usual: 20, Plug: "NBR 14136", Continuous: 1, Trips: 0.03}},
	{Region100, Mains{Volts: 100, Across: 200, Usual: 15, Plug: "JIS C 8303", Continuous: 1, Trips: 0.03}},
	{RegionEast, Mains{Volts: 100, Across: 200, Hertz: 50, Usual: 15, Plug: "JIS C 8303", Continuous: 1, Trips: 0.03}},
	{RegionWest, Mains{Volts: 100, Across: 200, Hertz: 60, Usual: 15, Plug: "JIS C 8303", Continuous: 1, Trips: 0.03}},
}

// Regions lists the choices.
var Regions = func() (list []Region) {
	for _, r := range mains {
		list = append(list, r.Region)
	}
	return list
}()

// Mains is what the region has; false for none that is known.
func (r Region) Mains() (Mains, bool) {
	for _, m := range mains {
		if m.Region == r {
			return m.Mains, true
		}
	}
	return Mains{}, false
}
