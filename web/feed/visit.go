package feed

import (
	"fmt"
	"net/url"
	"slices"
	"time"

	"github.com/gin-gonic/gin"

	"largo/core/feed"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/rig"
	"largo/core/supply"
	"largo/core/unit"
	"largo/store"
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
	Before      []feed.Compared
	Shots       []shot
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
	if z, give := supply.SourceOhms(at); z.Known() {
		v.Said = fmt.Sprintf("By its readings %s stand behind it, %s more or less: a tenth of a volt in either reading.",
			z.Text(), give.Text())
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

// mostVisits is how many visits to a place are looked at.
const mostVisits = 12

// before puts the earlier visits to this outlet beside what is on record today, and shows what
// was photographed.
func (v *visitView) before(s *kit.Server, p *kit.Page) (err error) {
	if v.Name == "" {
		return nil
	}
	if v.Shots, err = shotsOf(s, p, v.Name); err != nil {
		return err
	}
	visits, err := s.Store.Visits(p.Gin, p.Job.Slug, mostVisits)
	if err != nil {
		return err
	}
	all := []feed.Visit{{When: "today", Supply: *supplyNamed(p.Rig(), v.Name)}}
	for _, j := range visits {
		if at := supplyNamed(j.Rig, v.Name); at != nil && checked(at) {
			all = append(all, feed.Visit{When: day(j.Rig.Brief.Date), Supply: *at})
		}
	}
	if len(all) > 1 {
		v.Before = feed.Compare(all)
	}
	return nil
}

func supplyNamed(r rig.Rig, name string) *rig.Supply {
	for i := range r.Supplies {
		if r.Supplies[i].Name == name {
			return &r.Supplies[i]
		}
	}
	return nil
}

// day writes a date as it is said.
func day(date string) string {
	if t, err := time.Parse(time.DateOnly, date); err == nil {
		return t.Format("2 January 2006")
	}
	return date
}

// lastSupply is the last visit to this place whose supply is drawn; nil for none.
func lastSupply(s *kit.Server, p *kit.Page) (*store.Job, error) {
	visits, err := s.Store.Visits(p.Gin, p.Job.Slug, mostVisits)
	for i := range visits {
		if len(visits[i].Rig.Supplies) > 0 {
			return &visits[i], err
		}
	}
	return nil, err
}

// takeOver draws the supply as it was at the last visit: what it is, and not what was read,
// which is read anew.
func takeOver(s *kit.Server, c *gin.Context) {
	visits, err := s.Store.Visits(c, c.Param("job"), mostVisits)
	if err != nil {
		s.Fail(c, err)
		return
	}
	s.Edit(c, finding.Feed, "again", func(r rig.Rig, f *kit.Form) rig.Edit {
		for _, j := range visits {
			if len(j.Rig.Supplies) > 0 {
				return rig.SetSupplies{Supplies: unread(j.Rig.Supplies)}
			}
		}
		f.Fault("", "No visit to this place before has its supply on record.")
		return nil
	})
}

// unread are parts without what was read of them, and without gear of that rig. A fault that was
// found stays until somebody tests it sound.
func unread(parts []rig.Supply) []rig.Supply {
	parts = slices.Clone(parts)
	for i := range parts {
		s := &parts[i]
		s.Volts, s.Loaded, s.LoadedBy = unit.Given[unit.Volt]{}, unit.Given[unit.Volt]{}, unit.Given[unit.Ampere]{}
		s.Hertz, s.Gear = unit.Given[unit.Hertz]{}, ""
		if s.Lamps == feed.Sound {
			s.Lamps = ""
		}
		if s.Button == gear.Yes {
			s.Button = ""
		}
	}
	return parts
}
