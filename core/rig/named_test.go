package rig_test

import (
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

// Places and shared switches come with the first device that names them and go
// with the last; what more is known of one stays.
func TestPlacesAndSwitchesComeAndGo(t *testing.T) {
	r := rigtest.New(t).Do(rig.AddDevices{Model: rigtest.Amp("amp"), Tags: []string{"A1", "A2"}, Place: "wing"})
	names := func() string {
		var list []string
		for _, p := range r.Places {
			list = append(list, p.Name)
		}
		for _, s := range r.Switches {
			list = append(list, "switch "+s.Name)
		}
		return strings.Join(list, ", ")
	}
	for _, c := range []struct {
		edit rig.Edit
		want string
	}{
		{rig.Batch{}, "wing"},
		{rig.ChangeDevice{Tag: "A1", NewTag: "A1", Place: "pit", Switch: "strip"}, "wing, pit, switch strip"},
		{rig.SetPlace{Name: "pit", To: rig.Place{Name: "orchestra pit", Note: "down the ladder"}},
			"wing, orchestra pit, switch strip"},
		{rig.ChangeDevice{Tag: "A1", NewTag: "A1"}, "wing, orchestra pit"}, // the note keeps it
		{rig.RemoveDevice{Tag: "A2"}, "orchestra pit"},
		{rig.SetPlace{Name: "orchestra pit", To: rig.Place{Name: "orchestra pit"}}, ""},
	} {
		if r.Do(c.edit); names() != c.want {
			t.Errorf("%s: %q, want %q", c.edit.Say(), names(), c.want)
		}
	}
}

// The parts of a case share its switch, and the crew's order follows.
func TestTheSwitchOfACase(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp"))
	r.Do(rig.SetOrder{Order: []string{"PLAYER", "DESK", "A1"}}).
		Do(rig.SetCase{Case: rig.Case{Name: "rack", Place: "wing"}, Parts: []string{"DESK", "A1"}})
	if got := strings.Join(r.Order, ", "); got != "PLAYER, rack" {
		t.Errorf("the order is %q", got)
	}
	for _, tag := range []string{"DESK", "A1"} {
		if d, _ := r.Device(tag); d.SwitchName() != "rack" || d.Place != "wing" {
			t.Errorf("%s is switched by %q and stands in %q", tag, d.SwitchName(), d.Place)
		}
	}
	r.Do(rig.SetCase{Case: rig.Case{Name: "rack"}})
	if d, _ := r.Device("A1"); d.SwitchName() != "A1" || len(r.Cases) != 0 {
		t.Errorf("taken apart: %+v, %v", d, r.Cases)
	}
}

// A supply is a tree, and what is not one is refused in words.
func TestSuppliesAreATree(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp"))
	house := rig.Supply{Name: "house", Sort: rig.Source, Volts: unit.Of(unit.Volt(230))}
	board := rig.Supply{Name: "board", Sort: rig.Breaker, From: "house", Current: unit.Of(unit.Ampere(16)),
		Residual: unit.Of(unit.Ampere(0.03))}
	wall := rig.Supply{Name: "wall", Sort: rig.Outlet, From: "board"}
	r.Do(rig.SetSupplies{Supplies: []rig.Supply{house, board, wall}}).Do(rig.PlugMains{Tag: "A1", Outlet: "wall"})
	if d, _ := r.Device("A1"); d.Outlet != "wall" {
		t.Errorf("A1 is on %q", d.Outlet)
	}
	with := func(s rig.Supply, change func(*rig.Supply)) rig.Supply { change(&s); return s }
	for want, supplies := range map[string][]rig.Supply{
		"nothing feeds it":   {with(house, func(s *rig.Supply) { s.From = "board" }), board, wall},
		"say what feeds it":  {house, with(board, func(s *rig.Supply) { s.From = "" }), wall},
		"no supply \"mill\"": {house, with(board, func(s *rig.Supply) { s.From = "mill" }), wall},
		"would feed itself": {house, with(board, func(s *rig.Supply) { s.From = "loop" }),
			with(board, func(s *rig.Supply) { s.Name = "loop"; s.From = "board" })},
		"wall is an outlet":    {house, board, wall, with(wall, func(s *rig.Supply) { s.Name = "tail"; s.From = "wall" })},
		"a second time":        {house, board, wall, wall},
		"not \"spring\"":       {with(house, func(s *rig.Supply) { s.Sort = "spring" })},
		"give 50 V to 1000 V":  {with(house, func(s *rig.Supply) { s.Volts = unit.Of(unit.Volt(1001)) })},
		"give 0.5 A to 2000 A": {house, with(board, func(s *rig.Supply) { s.Current = unit.Of(unit.Ampere(0.4)) })},
		"give 1 mA to 3 A":     {house, with(board, func(s *rig.Supply) { s.Residual = unit.Of(unit.Ampere(3.1)) })},
	} {
		if _, err := rig.Apply(r.Rig, rig.SetSupplies{Supplies: supplies}); err == nil ||
			!strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	r.Do(rig.SetSupplies{Supplies: []rig.Supply{house}})
	if d, _ := r.Device("A1"); d.Outlet != "" {
		t.Error("A1 is on an outlet that is gone")
	}
}

// What a device says of where it is has to be in the rig; settings are of its own
// kind.
func TestDevicesNameWhatThereIs(t *testing.T) {
	r := rigtest.Hung(t, rigtest.Amp("amp"), rigtest.Box("box"), 1).Rig
	for want, change := range map[string]func(*rig.Device){
		"no place \"moon\"":                 func(d *rig.Device) { d.Place = "moon" },
		"no switch \"strip\"":               func(d *rig.Device) { d.Switch = "strip" },
		"no case \"rack\"":                  func(d *rig.Device) { d.Case = "rack" },
		"no outlet \"wall\"":                func(d *rig.Device) { d.Outlet = "wall" },
		"is aimed at somebody":              func(d *rig.Device) { d.Box = &rig.BoxSettings{Aim: rig.OnStage} },
		"phantom power is given by a mixer": func(d *rig.Device) { d.Desk = &rig.DeskSettings{Phantom: []string{"in 1"}} },
		"at most 1 pairs can be set":        func(d *rig.Device) { d.Amp = &rig.AmpSettings{Pairs: make([]rig.Pair, 2)} },
		"stands 0 to 100 dB below fully up.": func(d *rig.Device) {
			d.Amp = &rig.AmpSettings{Knobs: []rig.Knob{{Channel: 2}}}
		},
	} {
		next := r.Clone()
		for i := range next.Devices {
			if next.Devices[i].Tag == "A1" {
				change(&next.Devices[i])
			}
		}
		if err := next.Check(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
}

// A rig of the first format is the rig it was: its settings by kind, its words for
// places and switches as things.
func TestTheFirstFormat(t *testing.T) {
	old := rig.V1{Brief: rig.Brief{Title: "T"}, Policy: rig.Headroom, Bridging: rig.AsRated,
		Models: []gear.Model{rigtest.Amp("amp"), rigtest.Box("box"), rigtest.Desk()},
		Devices: []rig.DeviceV1{
			{Tag: "A1", Model: "amp", Place: "wing", Switch: "strip", Knobs: []rig.Knob{{Channel: 1, Down: 6}}},
			{Tag: "B1", Model: "box", Place: "wing", Aim: rig.OnStage, Distance: unit.Of(unit.Metre(3))},
			{Tag: "DESK", Model: rigtest.Desk().ID, Switch: "strip", Aim: rig.OnStage},
		}}
	r := old.Rig()
	if err := r.Check(); err != nil {
		t.Fatal(err)
	}
	a, _ := r.Device("A1")
	b, _ := r.Device("B1")
	d, _ := r.Device("DESK")
	down, noted := a.Knob(1)
	if down != 6 || !noted || a.SwitchName() != "strip" || b.Aim() != rig.OnStage || b.Distance().Or(0) != 3 ||
		d.Box != nil {
		t.Errorf("%+v %+v %+v", a, b, d)
	}
	if len(r.Places) != 1 || r.Places[0].Name != "wing" || len(r.Switches) != 1 || r.Switches[0].Name != "strip" {
		t.Errorf("places %v, switches %v", r.Places, r.Switches)
	}
}

// People are read a line each: what is a number by its digits, else what they do.
func TestPeopleOneALine(t *testing.T) {
	people, err := rig.ParsePeople("Ada Fenn, sound, 0700 900 123\r\n\nBo, +44 1632 960001\nCol")
	if err != nil || len(people) != 3 || people[0] != (rig.Person{"Ada Fenn", "sound", "0700 900 123"}) ||
		people[1] != (rig.Person{Name: "Bo", Number: "+44 1632 960001"}) {
		t.Fatalf("%+v, %v", people, err)
	}
	if people[0].Line() != "Ada Fenn, sound, 0700 900 123" {
		t.Error(people[0].Line())
	}
	if _, err := rig.ParsePeople("Ada, sound, lights"); err == nil {
		t.Error("two things to do were taken")
	}
}
