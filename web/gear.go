package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"reflect"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/gear"
	"largo/store"
)

type gearView struct {
	Kinds  []gearKind
	Faults []string // of a file that was refused
	Search field
}

type gearKind struct {
	Kind   gear.Kind
	Plural string
	Models []gearLine
}

type gearLine struct{ Title, Href, Says, Source string }

// modelView is the form of one model.
type modelView struct {
	Kind       gear.Kind
	New        bool
	Action     string
	Sections   []section
	Loose      []string
	Understood []string // how the ratings were read
	Ports      []string
	Plate      *plate
	Curves     []curveSlot
	Held       []gear.Holding
}

type section struct {
	Title, Note string
	Steps       []string
	Fields      []field
}

func (s *Server) gear(c *gin.Context) { s.showGear(c, http.StatusOK, nil) }

// mostFaults is how many faults of a file are shown.
const mostFaults = 12

func (s *Server) showGear(c *gin.Context, status int, faults fault.List) {
	typed := c.Query("q")
	models, all, err := s.store.SearchModels(c, typed, mostListed)
	if err != nil {
		s.fail(c, err)
		return
	}
	byKind := map[gear.Kind][]gearLine{}
	for _, m := range models {
		byKind[m.Kind] = append(byKind[m.Kind], gearLine{m.Title(), "/gear/model/" + url.PathEscape(m.ID), summary(m), m.Source})
	}
	var v gearView
	for i, f := range faults {
		if i == mostFaults {
			v.Faults = append(v.Faults, "And "+strconv.Itoa(len(faults)-mostFaults)+" more.")
			break
		}
		v.Faults = append(v.Faults, strings.TrimPrefix(f.Field+": ", ": ")+f.Say)
	}
	for _, k := range gear.Kinds {
		if typed == "" || len(byKind[k]) > 0 {
			v.Kinds = append(v.Kinds, gearKind{k, kindPlural(k), byKind[k]})
		}
	}
	p := s.gearPage(c, "Gear", gearVerdict(typed, all, len(models)))
	v.Search = p.Field("gear", "q", "Search", typed, "maker, name or kind")
	if len(faults) > 0 {
		p.Problem = "Nothing was imported."
	}
	p.Here, p.Body = "/gear", v
	s.render(c, status, "gear", p)
}

// mostListed is how many models the library shows at once.
const mostListed = 200

func gearVerdict(typed string, all, shown int) string {
	in := " in the library."
	if typed != "" {
		in = fmt.Sprintf(" with %q.", typed)
	}
	if shown < all {
		in += fmt.Sprintf(" The first %d are shown; type more to narrow it.", shown)
	}
	return plural(all, "model", "models") + in
}

func (s *Server) gearPage(c *gin.Context, title, verdict string) *page {
	return &page{Title: title + " · Largo", Verdict: verdict, Scheme: scheme(c), Here: c.Request.URL.Path, Command: newCommand(), Keys: plainKeys, gin: c,
		Finds: []findItem{{Label: "All jobs", Note: "tour", Href: "/"}, {Label: "Gear", Note: "library", Href: "/gear"}, {Label: "Stock", Note: "what is owned", Href: "/stock"}}}
}

// summary is what matters of a model in one line.
func summary(m gear.Model) string {
	switch m.Kind {
	case gear.KindAmplifier:
		parts := []string{strconv.Itoa(m.Amplifier.Channels) + " channels"}
		for _, r := range m.Amplifier.Ratings {
			text := r.Power.String() + " into " + r.Load.String()
			if r.Mode == gear.Bridged {
				text = "bridged " + text
			}
			parts = append(parts, text)
		}
		return strings.Join(parts, ", ")
	case gear.KindLoudspeaker:
		if m.Loudspeaker.Active {
			return "active, largest level " + m.Loudspeaker.MaxSPL.String()
		}
		return m.Loudspeaker.NominalZ().Text() + ", " + m.Loudspeaker.ContinuousW().Text() + " continuous, " + m.Loudspeaker.OneWattSensitivity().Text() + " for 1 W"
	}
	ports := strconv.Itoa(len(m.Ports())) + " connectors"
	if len(m.Ports()) == 1 {
		ports = "1 connector"
	}
	switch {
	case !m.Powered():
		return ports + ", no switch"
	case !m.Wake.Settle.Known():
		return ports + ", settling time unknown"
	}
	return ports + ", settles in " + m.Wake.Settle.String()
}

func (s *Server) newModel(c *gin.Context) {
	k := gear.Kind(c.Param("kind"))
	m, ok := gear.Blank(k)
	if !ok {
		s.fail(c, store.ErrNotFound)
		return
	}
	suggest(&m)
	s.showModel(c, http.StatusOK, m, true, nil)
}

// suggest fills a new form with what most such gear has.
func suggest(m *gear.Model) {
	switch m.Kind {
	case gear.KindLoudspeaker:
		m.Loudspeaker.Link = true
	case gear.KindMixer:
		m.Mixer.Inputs, m.Mixer.Outputs = 16, []gear.Outlet{{Name: "main L", Signal: gear.Line}, {Name: "main R", Signal: gear.Line}}
	case gear.KindProcessor:
		m.Processor.Inputs, m.Processor.Outputs = 2, []string{"out 1", "out 2"}
	case gear.KindSource:
		m.Feed.Outputs = []gear.Outlet{{Name: "out", Signal: gear.Mic}}
	}
}

func (s *Server) editModel(c *gin.Context) {
	m, err := s.store.Model(c, c.Param("id"))
	if err != nil {
		s.fail(c, err)
		return
	}
	s.showModel(c, http.StatusOK, m, false, nil)
}

func (s *Server) showModel(c *gin.Context, status int, m gear.Model, isNew bool, wrong *refused) {
	verdict := m.Title() + ", " + string(m.Kind)
	if isNew {
		verdict = "A new " + string(m.Kind) + ". Leave empty whatever its sheet does not say."
	}
	p := s.gearPage(c, "Gear", verdict)
	p.refused = wrong
	if wrong != nil {
		p.typed, p.Problem = c.Request.PostForm, wrong.problem
	}
	v := modelView{Kind: m.Kind, New: isNew, Action: c.Request.URL.Path, Sections: p.modelSections(m)}
	var names []string
	for _, sec := range v.Sections {
		for _, f := range sec.Fields {
			names = append(names, f.Name)
		}
	}
	v.Loose = p.Loose("model", names...)
	if m.Kind == gear.KindAmplifier {
		for _, r := range m.Amplifier.Ratings {
			v.Understood = append(v.Understood, r.Line())
		}
	}
	if drawn, ok := modelPlate(m); ok && !isNew {
		v.Plate = &drawn
	}
	v.Curves = curveSlots(m)
	if !isNew {
		held, err := s.store.Held(c, m.ID)
		if err != nil {
			s.fail(c, err)
			return
		}
		v.Held, p.Here = held, "/gear/model/"+url.PathEscape(m.ID)
	}
	for _, port := range m.Ports() {
		v.Ports = append(v.Ports, port.Name+" ("+string(port.Signal)+" "+string(port.Dir)+")")
	}
	p.Body = v
	s.render(c, status, "model", p)
}

// saveModel keeps a model of the library. Rigs that hold it keep the figures
// of the day it was added, until they are told to take the new ones.
func (s *Server) saveModel(c *gin.Context) {
	f, err := readForm(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	isNew := c.Param("id") == ""
	m, ok := gear.Blank(gear.Kind(c.Param("kind")))
	if !isNew {
		if m, err = s.store.Model(c, c.Param("id")); err != nil {
			s.fail(c, err)
			return
		}
	} else if !ok {
		s.fail(c, store.ErrNotFound)
		return
	}
	old := m
	m = f.readModel(old)
	if isNew {
		m.ID = gear.IDOf(m.Maker, m.Name)
		if _, err := s.store.Model(c, m.ID); err == nil {
			f.fault("name", "The library already has %s.", m.Title())
		} else if !errors.Is(err, store.ErrNotFound) {
			s.fail(c, err)
			return
		}
	}
	if err := m.Check(); err != nil { // whatever could not be read counts as unknown here
		f.refuse(atFields(err))
	}
	if len(f.faults) > 0 {
		s.showModel(c, http.StatusUnprocessableEntity, old, isNew, &refused{form: "model", faults: f.faults, problem: f.problem()})
		return
	}
	if err := s.store.SaveModels(c, m); err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/gear/model/"+url.PathEscape(m.ID))
}

func sameModel(a, b gear.Model) bool { return reflect.DeepEqual(a, b) }
