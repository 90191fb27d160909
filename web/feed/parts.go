package feed

import (
	"fmt"
	"slices"
	"strconv"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
	"largo/web/kit"
)

// partView is the form of one part of the supply, or of a new one.
type partView struct {
	Name, Title string // Name is "" of a new one
	Fields      []kit.Field
	Loose       []string
	Close       string
}

// newPart is the name under which a part is asked for that is not there yet.
const newPart = "+"

var partFields = []string{"to", "sort", "from", "place", "current", "curve", "residual", "type", "phase", "phases",
	"earth",
	"carries", "volts", "hertz", "loaded", "loadedBy", "length", "area", "onReel", "lamps", "button", "gear"}

// asked is the part that the address names; nil for none.
func asked(p *kit.Page) *partView {
	name := p.Ask.Get("part")
	if p.Refused != nil && len(p.Refused.Form) > 5 && p.Refused.Form[:5] == "part " {
		if name = p.Typed.Get("name"); name == "" {
			name = newPart
		}
	}
	if name == "" {
		return nil
	}
	s := rig.Supply{Sort: rig.Outlet}
	v := partView{Title: "A part more", Close: "/jobs/" + p.Job.Slug + "/feed"}
	if i := slices.IndexFunc(p.Rig().Supplies, func(s rig.Supply) bool { return s.Name == name }); i >= 0 {
		s, v.Name, v.Title = p.Rig().Supplies[i], name, name
	} else if name != newPart {
		return nil
	} else if n := len(p.Rig().Supplies); n > 0 {
		s.From = p.Rig().Supplies[0].Name
	}
	form := "part " + v.Name
	v.Fields = fields(p, form, &s, v.Name)
	v.Loose = p.Loose(form, partFields...)
	return &v
}

// fields are those that a part of its sort has.
func fields(p *kit.Page, form string, s *rig.Supply, name string) []kit.Field {
	yesNo := []kit.Choice{{Label: "not known"}, {Value: "yes", Label: "yes"}, {Value: "no", Label: "no"}}
	list := []kit.Field{p.Field(form, "to", "Name", name, "as it is called on site"),
		p.Choose(form, "sort", "It is a", string(s.Sort), kit.Choices(rig.SupplySorts)...),
		p.Choose(form, "from", "Fed by", s.From, froms(p.Rig(), name)...), p.Field(form, "place", "Where", s.Place, "")}
	new := name == ""
	has := func(sorts ...rig.SupplySort) bool { return new || slices.Contains(sorts, s.Sort) }
	list = append(list, p.Field(form, "current", "For, or trips above", s.Current.Typed(), "16 A"))
	if has(rig.Breaker) {
		list = append(list, p.Choose(form, "curve", "Curve", string(s.Curve), orNone(kit.Choices(rig.Curves))...))
	}
	list = append(list, p.Field(form, "residual", "Residual current it trips at", milli(s.Residual), "30 mA"),
		p.Choose(form, "type", "of type", string(s.Type), orNone(kit.Choices(rig.ResidualTypes))...))
	if has(rig.Source) {
		phases := ""
		if s.Phases != 0 {
			phases = strconv.Itoa(s.Phases)
		}
		list = append(list, p.Choose(form, "phases", "Phases", phases, kit.Choice{Label: "one"}, kit.Choice{Value: "3",
			Label: "three"}), p.Field(form, "hertz", "Frequency read", s.Hertz.Typed(), "50 Hz"),
			p.Choose(form, "gear", "Comes from", s.Gear, sets(p.Rig())...))
	}
	if s.Sort != rig.Source {
		list = append(list, p.Choose(form, "phase", "On phase", strconv.Itoa(s.Phase), kit.Choice{Value: "0",
			Label: "as what feeds it"}, kit.Choice{Value: "1", Label: "L1"}, kit.Choice{Value: "2", Label: "L2"},
			kit.Choice{Value: "3", Label: "L3"}))
	}
	if has(rig.Feeder) {
		reel := ""
		if s.OnReel {
			reel = "yes"
		}
		list = append(list, p.Field(form, "length", "Length of the lead", s.Length.Typed(), "25 m"),
			p.Field(form, "area", "Conductor", s.Area.Typed(), "2.5 mm²"), p.Choose(form, "onReel", "It lies", reel,
				kit.Choice{Label: "run out"}, kit.Choice{Value: "yes", Label: "wound up on its reel"}))
	}
	return append(list, p.Choose(form, "earth", "Protective earth", string(s.Earth), yesNo...),
		p.Field(form, "carries", "The house takes already", s.Carries.Typed(), "2 A"),
		p.Field(form, "volts", "Volts at rest", s.Volts.Typed(), "read: 231 V"),
		p.Field(form, "loaded", "Volts under a load", s.Loaded.Typed(), "read: 226 V"),
		p.Field(form, "loadedBy", "of", s.LoadedBy.Typed(), "8.7 A, as a kettle"),
		p.Choose(form, "lamps", "Three-lamp tester", string(s.Lamps), lampChoices()...),
		p.Choose(form, "button", "Trips by its button", string(s.Button), yesNo...))
}

func orNone(list []kit.Choice) []kit.Choice {
	return append([]kit.Choice{{Label: "not known"}}, list...)
}

func milli(a unit.Given[unit.Ampere]) string {
	if v, known := a.Get(); known {
		return unit.Number(float64(v)*1000) + " mA"
	}
	return ""
}

// lampChoices are what the tester shows, in its own lamps: line to neutral, line to earth,
// neutral to earth.
func lampChoices() []kit.Choice {
	list := []kit.Choice{{Label: "not tested"}}
	for _, l := range rig.AllLamps {
		text := ""
		for i, c := range l {
			if i > 0 {
				text += " "
			}
			text += map[rune]string{'0': "○", '1': "●"}[c]
		}
		list = append(list, kit.Choice{Value: string(l), Label: text})
	}
	return list
}

func froms(r rig.Rig, but string) []kit.Choice {
	list := []kit.Choice{{Label: "nothing: it is a source"}}
	for _, s := range r.Supplies {
		if s.Name != but && s.Sort != rig.Outlet {
			list = append(list, kit.Choice{Value: s.Name, Label: s.Name})
		}
	}
	return list
}

// sets are the generators and whatever else of the rig gives mains.
func sets(r rig.Rig) []kit.Choice {
	list := []kit.Choice{{Label: "the house"}}
	for _, d := range r.Devices {
		if m, _ := r.Model(d.Model); m != nil && m.Supply != nil {
			list = append(list, kit.Choice{Value: d.Tag, Label: d.Tag})
		}
	}
	return list
}

// readPart changes a part, or adds one.
func readPart(r rig.Rig, f *kit.Form) rig.Edit {
	name := f.Text("name")
	var was rig.Supply
	if i := slices.IndexFunc(r.Supplies, func(s rig.Supply) bool { return s.Name == name }); i >= 0 {
		was = r.Supplies[i]
	}
	s := rig.Supply{Name: f.Text("to"), Sort: rig.SupplySort(f.Text("sort")), From: f.Text("from"), Place: f.Text("place"),
		Curve: rig.Curve(f.Text("curve")), Type: rig.ResidualType(f.Text("type")), Earth: gear.Answer(f.Text("earth")),
		OnReel: f.Text("onReel") == "yes", Lamps: rig.Lamps(f.Text("lamps")), Button: gear.Answer(f.Text("button")),
		Gear: f.Text("gear"), Phases: f.Number("phases", "phases"), Phase: f.Number("phase", "phases")}
	s.Current = kit.KeepOrigin(was.Current, kit.Given(f, "current", unit.ParseAmpere))
	s.Residual = kit.KeepOrigin(was.Residual, kit.Given(f, "residual", unit.ParseAmpere))
	s.Hertz = kit.KeepOrigin(was.Hertz, kit.Given(f, "hertz", unit.ParseHertz))
	s.Carries = kit.KeepOrigin(was.Carries, kit.Given(f, "carries", unit.ParseAmpere))
	s.Volts = kit.KeepOrigin(was.Volts, kit.Given(f, "volts", unit.ParseVolt))
	s.Loaded = kit.KeepOrigin(was.Loaded, kit.Given(f, "loaded", unit.ParseVolt))
	s.LoadedBy = kit.KeepOrigin(was.LoadedBy, kit.Given(f, "loadedBy", unit.ParseAmpere))
	s.Length = kit.KeepOrigin(was.Length, kit.Given(f, "length", unit.ParseMetre))
	s.Area = kit.KeepOrigin(was.Area, kit.Given(f, "area", unit.ParseArea))
	if s.Name == "" {
		f.Fault("to", "Give it a name, as it is called on site: L2 · 3, wall left.")
	}
	return rig.ChangeSupply{Name: name, To: s}
}

// readFrom has a part fed by another one.
func readFrom(r rig.Rig, f *kit.Form) rig.Edit {
	name := f.Text("name")
	s := supplyNamed(r, name)
	if s == nil {
		f.Fault("", "There is no part %.60q of the supply any more.", name)
		return nil
	}
	next := *s
	if next.From = f.Text("from"); next.Sort == rig.Source {
		f.Fault("", "%s is a source; nothing feeds it.", name)
	}
	return rig.ChangeSupply{Name: name, To: next}
}

func readRemove(_ rig.Rig, f *kit.Form) rig.Edit { return rig.RemoveSupply{Name: f.Text("name")} }

// beginFields are those of a supply that is begun at one stroke.
func beginFields(p *kit.Page) []kit.Field {
	usual, residual := "16 A", "30 mA"
	if m, known := p.Rig().Brief.Region.Mains(); known {
		usual, residual = m.Usual.String(), milli(unit.Of(m.Trips))
	}
	return []kit.Field{p.Field("begin", "circuits", "Circuits at hand", "2", "each with one outlet; more is added later"),
		p.Field("begin", "amps", "Each of", usual, ""), p.Choose("begin", "curve", "Curve", "", orNone(
			kit.Choices(rig.Curves))...), p.Field("begin", "residual", "Residual current", residual,
			"empty: none, or not known"),
		p.Choose("begin", "phases", "Phases", "", kit.Choice{Label: "one"}, kit.Choice{Value: "3", Label: "three"})}
}

// mostBegun is how many circuits are begun at one stroke.
const mostBegun = 60

// readBegin is a source with so many circuits, each with an outlet; of three phases they take
// turns.
func readBegin(_ rig.Rig, f *kit.Form) rig.Edit {
	n, phases := f.Number("circuits", "circuits"), f.Number("phases", "phases")
	if n < 1 || n > mostBegun {
		f.Fault("circuits", "Give 1 to %d circuits.", mostBegun)
		return nil
	}
	amps, residual := kit.Given(f, "amps", unit.ParseAmpere), kit.Given(f, "residual", unit.ParseAmpere)
	list := []rig.Supply{{Name: "house", Sort: rig.Source, Phases: phases}}
	for i := range n {
		k := rig.Supply{Name: fmt.Sprintf("circuit %d", i+1), Sort: rig.Breaker, From: "house", Current: amps,
			Curve: rig.Curve(f.Text("curve")), Residual: residual}
		if phases == 3 {
			k.Phase = i%3 + 1
		}
		list = append(list, k, rig.Supply{Name: fmt.Sprintf("outlet %d", i+1), Sort: rig.Outlet, From: k.Name})
	}
	return rig.SetSupplies{Supplies: list}
}
