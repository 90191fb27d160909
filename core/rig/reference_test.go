package rig

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/unit"
)

// full is a rig in which nothing is left out and one device is named wherever
// a device can be named.
func full() Rig {
	length, area := unit.Of(unit.Metre(5)), unit.Of(unit.SquareMillimetre(2.5))
	return Rig{
		Brief: Brief{Title: "T", Place: "P", Date: "2027-06-12", Listeners: 1, Outdoors: true, Programme: Music,
			Wanted: unit.Of(unit.Decibel(95)), WantedBy: "w", Weighting: WeightC,
			Volume: unit.Of(unit.CubicMetre(900)), Reverberation: unit.Of(unit.Second(1.2)), Noise: unit.Of(unit.Decibel(40)),
			Distance: length, Region: Region230, Mains: "m", Lasts: unit.Of(unit.Second(7200)),
			Air: unit.Of(unit.Celsius(12)), Crest: unit.Of(unit.Decibel(14)),
			Humidity: unit.Of(unit.Ratio(0.75)), Arrives: unit.Of(unit.Celsius(5)), Altitude: unit.Of(unit.Metre(500))},
		Policy: Within, Bridging: Never, Limits: HalfRating, Policies: map[Part]Policy{Subs: Headroom},
		Models:   []gear.Model{{ID: "m"}},
		Places:   []Place{{Name: "p", Note: "n"}},
		Switches: []Switch{{Name: "strip", Place: "p", Looks: "red"}},
		Cases:    []Case{{Name: "rack", Place: "p"}},
		Supplies: []Supply{{Name: "wall", Sort: Outlet, From: "house", Place: "p", Volts: unit.Of(unit.Volt(230)),
			Current: unit.Of(unit.Ampere(16)), Residual: unit.Of(unit.Ampere(0.03)), Hertz: unit.Of(unit.Hertz(50)),
			Phases: 3, Gear: "ZZZ",
			Phase: 1, Curve: CurveB, Type: TypeA, Delayed: true, Earth: gear.Yes, Carries: unit.Of(unit.Ampere(2)),
			Length: length, Area: area, OnReel: true, Loaded: unit.Of(unit.Volt(225)), LoadedBy: unit.Of(unit.Ampere(10)),
			Lamps: "110", Button: gear.Yes}},
		People: []Person{{Name: "Ada", Role: "electrician", Number: "1"}},
		Devices: []Device{{Tag: "ZZZ", Model: "m", Place: "p", Switch: "strip", Case: "rack", Outlet: "wall", Lifted: true,
			Spot: &Spot{1, 1},
			Amp: &AmpSettings{Pairs: []Pair{{gear.Separate, SeparateIn}}, Knobs: []Knob{{0, 3}},
				Limiters: []Limiter{{Port: "out A", RMS: unit.Of(unit.Volt(9)), Peak: unit.Of(unit.Volt(9))}},
				Readings: []Reading{{"out A", 5}}},
			Box:  &BoxSettings{OnStage, length, 2},
			Desk: &DeskSettings{[]string{"in 1"}},
			Ports: []PortSetting{{"in 1", unit.Of(unit.Decibel(30)), unit.Of(unit.Hertz(100)), Voice,
				unit.Of(unit.Decibel(120))}}},
			{Tag: "OTHER", Model: "m", Switch: "strip"}},
		Links: []Link{{From: Ref{"ZZZ", "a"}, To: Ref{"OTHER", "b"}, Series: "s", Swapped: true, Length: length, Area: area,
			Pad:    unit.Of(unit.Decibel(20)),
			Cables: []string{"m"}, Via: "ZZZ", Rides: Ref{"ZZZ", "in 2"}},
			{From: Ref{"OTHER", "a"}, To: Ref{"ZZZ", "b"}}, {From: Ref{"OTHER", "a"}, To: Ref{"OTHER", "c"}, Via: "ZZZ"}},
		Order: []string{"strip"},
	}
}

// A field or list that is added to the rig is filled in full, or this fails: so
// that no reference to a device can be forgotten by those who rename or remove.
func TestTheFullRigIsFull(t *testing.T) {
	var walk func(path string, v reflect.Value)
	walk = func(path string, v reflect.Value) {
		switch v.Kind() {
		case reflect.Slice:
			if v.Len() == 0 {
				t.Errorf("%s is empty in the full rig", path)
				return
			}
			walk(path+"[0]", v.Index(0))
		case reflect.Pointer:
			if v.IsNil() {
				t.Errorf("%s is missing in the full rig", path)
				return
			}
			walk(path, v.Elem())
		case reflect.Struct:
			if v.Type().PkgPath() == reflect.TypeFor[Rig]().PkgPath() {
				for i := range v.NumField() {
					walk(path+"."+v.Type().Field(i).Name, v.Field(i))
				}
			} else if v.IsZero() {
				t.Errorf("%s is unknown in the full rig", path)
			}
		case reflect.String, reflect.Int, reflect.Bool:
			if v.IsZero() && !strings.HasSuffix(path, "Channel") {
				t.Errorf("%s is empty in the full rig", path)
			}
		}
	}
	walk("rig", reflect.ValueOf(full()))
}

func TestRenamingAndRemovingFollowEveryReference(t *testing.T) {
	renamed := full()
	if err := (ChangeDevice{Tag: "ZZZ", NewTag: "YYY", Place: "p", Switch: "strip"}).change(&renamed); err != nil {
		t.Fatal(err)
	}
	if b, _ := json.Marshal(renamed); strings.Contains(string(b), "ZZZ") || strings.Count(string(b), "YYY") != 7 {
		t.Errorf("renamed: %s", b)
	}
	removed := full()
	if err := (RemoveDevice{Tag: "ZZZ"}).change(&removed); err != nil {
		t.Fatal(err)
	}
	if b, _ := json.Marshal(removed); strings.Contains(string(b), "ZZZ") || len(removed.Links) != 1 {
		t.Errorf("removed: %s", b)
	}
}

// A place that is renamed is renamed wherever it is named; one that joins another
// leaves its name nowhere.
func TestRenamingAPlaceFollowsEveryReference(t *testing.T) {
	r := full()
	for i := range r.Places {
		r.Places[i].Name = "QQQ"
	}
	r.placeNames(func(name *string) {
		if *name != "" {
			*name = "QQQ"
		}
	})
	if err := (SetPlace{Name: "QQQ", To: Place{Name: "foyer"}}).change(&r); err != nil {
		t.Fatal(err)
	}
	if b, _ := json.Marshal(r); strings.Contains(string(b), "QQQ") || strings.Count(string(b), "foyer") != 5 {
		t.Errorf("%s", b)
	}
}
