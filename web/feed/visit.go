package feed

import (
	"fmt"
	"net/url"
	"slices"

	"largo/core/feed"
	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
	"largo/web/kit"
)

// visitView is the check of the site: one outlet after the other, on a phone in the hand.
type visitView struct {
	Name, Place string
	Done, All   int
	Fields      []kit.Field
	Loose       []string
	Others      []kit.Choice
	Said        string // what the last reading of it means
	Over        bool
}

// visitNext asks for the first outlet that nobody has checked.
const visitNext = "next"

// checked tells whether an outlet was tested and its volts read.
func checked(s *rig.Supply) bool { return s.Lamps != "" && s.Volts.Known() }

// visitOf is the check that the address asks for; nil where it asks for none.
func visitOf(p *kit.Page) *visitView {
	asked := p.Ask.Get("visit")
	if asked == "" && p.RefusedIs("visit") {
		asked = p.Typed.Get("name")
	}
	if asked == "" {
		return nil
	}
	v := visitView{Over: true, Loose: p.Loose("visit", "lamps", "volts", "loaded", "loadedBy", "button", "earth")}
	var at *rig.Supply
	for i := range p.Rig().Supplies {
		s := &p.Rig().Supplies[i]
		if s.Sort != rig.Outlet {
			continue
		}
		v.All++
		if checked(s) {
			v.Done++
		}
		if s.Name == asked || asked == visitNext && at == nil && !checked(s) {
			at = s
		}
		mark := "○ "
		if checked(s) {
			mark = "● "
		}
		v.Others = append(v.Others, kit.Choice{Value: "/jobs/" + p.Job.Slug + "/feed?" + visitQuery(s.Name),
			Label:  mark + s.Name,
			Chosen: s.Name == asked})
	}
	if at == nil {
		return &v
	}
	v.Over, v.Name, v.Place = false, at.Name, at.Place
	if z, known := feed.SourceOhms(at).Get(); known {
		v.Said = fmt.Sprintf("By its readings %s stand behind it; a tenth of a volt off in either makes that "+
			"%s more or less.",
			z, unit.Ohm(0.2/float64(at.LoadedBy.Or(1))))
	}
	yesNo := []kit.Choice{{Label: "not tried"}, {Value: "yes", Label: "yes"}, {Value: "no", Label: "no"}}
	v.Fields = []kit.Field{p.Choose("visit", "lamps", "Tester: line–neutral, line–earth, neutral–earth", string(at.Lamps),
		lampChoices()...), p.Field("visit", "volts", "Volts at rest", at.Volts.Typed(), "231 V"),
		p.Field("visit", "loaded", "Volts with a load on it", at.Loaded.Typed(), "226 V"),
		p.Field("visit", "loadedBy", "That load", at.LoadedBy.Typed(), "8.7 A: a kettle of 2 kW"),
		p.Choose("visit", "button", "Residual-current device trips by its button", string(at.Button), yesNo...),
		p.Choose("visit", "earth", "Protective earth", string(at.Earth), yesNo...)}
	return &v
}

func visitQuery(name string) string { return url.Values{"visit": {name}}.Encode() + "#visit" }

// readVisit keeps what was found at an outlet.
func readVisit(r rig.Rig, f *kit.Form) rig.Edit {
	name := f.Text("name")
	i := slices.IndexFunc(r.Supplies, func(s rig.Supply) bool { return s.Name == name && s.Sort == rig.Outlet })
	if i < 0 {
		f.Fault("", "There is no outlet %.60q any more.", name)
		return nil
	}
	s := r.Supplies[i]
	s.Lamps, s.Button, s.Earth = rig.Lamps(f.Text("lamps")), gear.Answer(f.Text("button")), gear.Answer(f.Text("earth"))
	s.Volts = kit.KeepOrigin(s.Volts, kit.Given(f, "volts", unit.ParseVolt))
	s.Loaded = kit.KeepOrigin(s.Loaded, kit.Given(f, "loaded", unit.ParseVolt))
	s.LoadedBy = kit.KeepOrigin(s.LoadedBy, kit.Given(f, "loadedBy", unit.ParseAmpere))
	return rig.ChangeSupply{Name: name, To: s}
}
