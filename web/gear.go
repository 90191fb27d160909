package web

import (
	"context"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/words"
	"largo/exchange"
	"largo/store"
)

type gearView struct {
	Kinds    []gearKind
	Faults   []string // of a file that was refused
	Search   field
	Unread   []string // ids of models that cannot be read
	Archived bool     // the archive is shown
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
	Base       int // the revision of the model that the form shows
	CanUndo    bool
	CanRedo    bool
	Archived   bool
	History    []store.ModelLine
	Differs    []exchange.CellChange // the library's model against what was typed, where somebody else was first
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
	archived := c.Query("archived") == "yes"
	found, err := s.store.SearchModels(c, typed, archived, mostListed)
	if err != nil {
		s.fail(c, err)
		return
	}
	byKind := map[gear.Kind][]gearLine{}
	for _, m := range found.Models {
		byKind[m.Kind] = append(byKind[m.Kind], gearLine{m.Title(), "/gear/model/" + url.PathEscape(m.ID), summary(m), m.Source})
	}
	v := gearView{Unread: found.Unread, Archived: archived}
	for i, f := range faults {
		if i == mostFaults {
			v.Faults = append(v.Faults, "And "+strconv.Itoa(len(faults)-mostFaults)+" more.")
			break
		}
		v.Faults = append(v.Faults, strings.TrimPrefix(f.Field+": ", ": ")+f.Say)
	}
	for _, k := range gear.Kinds {
		if typed == "" && !archived || len(byKind[k]) > 0 {
			v.Kinds = append(v.Kinds, gearKind{k, kindPlural(k), byKind[k]})
		}
	}
	p := s.gearPage(c, "Gear", gearVerdict(typed, archived, found.All, len(found.Models)+len(found.Unread)))
	v.Search = p.Field("gear", "q", "Search", typed, "maker, name or kind")
	if len(faults) > 0 {
		p.Problem = "Nothing was imported."
	}
	p.Here, p.Body = "/gear", v
	s.render(c, status, "gear", p)
}

// mostListed is how many models the library shows at once.
const mostListed = 200

func gearVerdict(typed string, archived bool, all, shown int) string {
	in := " in the library."
	if archived {
		in = " in the archive."
	}
	if typed != "" {
		in = fmt.Sprintf(" with %q.", typed)
	}
	if shown < all {
		in += fmt.Sprintf(" The first %d are shown; type more to narrow it.", shown)
	}
	return words.Spell(all, "model", "models") + in
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
	s.showModel(c, http.StatusOK, store.Kept{Model: m}, true, nil)
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

// modelRefused is what was wrong with the form of a model.
type modelRefused struct {
	refused
	differs []exchange.CellChange
}

func (s *Server) showModel(c *gin.Context, status int, k store.Kept, isNew bool, wrong *modelRefused) {
	m := k.Model
	verdict := m.Title() + ", " + string(m.Kind)
	switch {
	case isNew:
		verdict = "A new " + string(m.Kind) + ". Leave empty whatever its sheet does not say."
	case k.Archived:
		verdict += ", in the archive."
	}
	p := s.gearPage(c, "Gear", verdict)
	v := modelView{Kind: m.Kind, New: isNew, Action: c.Request.URL.Path, Base: k.Head, CanUndo: k.CanUndo, CanRedo: k.CanRedo, Archived: k.Archived}
	if wrong != nil {
		p.refused, p.typed, p.Problem, p.Again = &wrong.refused, c.Request.PostForm, wrong.problem, wrong.again
		p.Act = actOf(p.Command, k.Head)
		v.Differs = wrong.differs
	}
	v.Sections = p.modelSections(m)
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
		if err := s.fillKept(c, &v, m.ID); err != nil {
			s.fail(c, err)
			return
		}
		p.Here = "/gear/model/" + url.PathEscape(m.ID)
		v.Action = p.Here
	}
	for _, port := range m.Ports() {
		v.Ports = append(v.Ports, port.Name+" ("+string(port.Signal)+" "+string(port.Dir)+")")
	}
	p.Body = v
	s.render(c, status, "model", p)
}

// mostLines is how many lines of a model's or the stock's history are shown.
const mostLines = 20

// fillKept fills what is known of a model beside its figures.
func (s *Server) fillKept(c *gin.Context, v *modelView, id string) (err error) {
	if v.Held, err = s.store.Held(c, id); err != nil {
		return err
	}
	v.History, err = s.store.ModelHistory(c, id, mostLines)
	return err
}

// actOf are the hidden fields of a form that edits a model.
func actOf(command string, base int) template.HTML {
	var act pen
	act.put(`<input type="hidden" name="command" value="`, said(command), `"><input type="hidden" name="base" value="`, strconv.Itoa(base), `">`)
	return template.HTML(act.String())
}

// base is the revision that a form of a model shows, 0 for a new one.
func (f *form) base() int {
	n, err := strconv.Atoi(f.c.PostForm("base"))
	if err != nil || n < 1 || n > mostRevision {
		f.fault("", "The page does not say which revision of the model it shows. Load it again.")
	}
	return n
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
	blank, ok := gear.Blank(gear.Kind(c.Param("kind")))
	old, base := store.Kept{Model: blank}, 0
	if !isNew {
		if old, err = s.store.Model(c, c.Param("id")); err != nil {
			s.fail(c, err)
			return
		}
		base = f.base()
	} else if !ok {
		s.fail(c, store.ErrNotFound)
		return
	}
	m := f.readModel(old.Model)
	if isNew {
		m.ID = gear.IDOf(m.Maker, m.Name)
		if _, err := s.store.Model(c, m.ID); err == nil {
			f.fault("name", "The library already has %s.", m.Title())
		} else if !errors.Is(err, store.ErrNotFound) && !errors.Is(err, store.ErrUnreadable) {
			s.fail(c, err)
			return
		}
	}
	if err := m.Check(); err != nil { // whatever could not be read counts as unknown here
		f.refuse(atFields(err))
	}
	by := f.act()
	if len(f.faults) > 0 {
		s.showModel(c, http.StatusUnprocessableEntity, old, isNew, &modelRefused{refused: refused{form: "model", faults: f.faults, problem: f.problem()}})
		return
	}
	saying := "Changed"
	if isNew {
		saying = "Entered"
	}
	s.answerModel(c, old, m, isNew, s.store.SaveModels(c, by, saying, store.ModelChange{Model: m, Base: base}))
}

// answerModel shows what became of an edit of a model.
func (s *Server) answerModel(c *gin.Context, old store.Kept, m gear.Model, isNew bool, err error) {
	switch {
	case errors.Is(err, store.ErrConflict):
		s.showModelConflict(c, old, m, isNew)
	case err != nil:
		s.fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/gear/model/"+url.PathEscape(m.ID))
	}
}

// showModelConflict shows the model as somebody else left it, how what was
// typed differs from that, and the edit, to be made on top of theirs or left.
func (s *Server) showModelConflict(c *gin.Context, old store.Kept, typed gear.Model, isNew bool) {
	wrong := &modelRefused{refused: refused{form: "model", problem: "Somebody else has changed this model since you opened it. Nothing was kept; the form holds what you typed, and below stands how it differs from what they left."}}
	if !isNew {
		wrong.again = &again{Action: c.Request.URL.Path}
		for name, values := range c.Request.PostForm {
			if name == "base" || name == "command" {
				continue
			}
			for _, v := range values {
				wrong.again.Fields = append(wrong.again.Fields, choice{Label: name, Value: v})
			}
		}
		slices.SortStableFunc(wrong.again.Fields, func(a, b choice) int { return strings.Compare(a.Label, b.Label) })
		wrong.differs = exchange.DiffGear(&old.Model, &typed)
	}
	s.showModel(c, http.StatusConflict, old, isNew, wrong)
}

func (s *Server) undoModel(c *gin.Context) { s.travelModel(c, s.store.UndoModel) }
func (s *Server) redoModel(c *gin.Context) { s.travelModel(c, s.store.RedoModel) }

// travelModel moves through the history of a model.
func (s *Server) travelModel(c *gin.Context, move func(ctx context.Context, id string, base int, by store.Command) error) {
	f, err := readForm(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	id, base, by := c.Param("id"), f.base(), f.act()
	if len(f.faults) > 0 {
		s.fail(c, f.faults)
		return
	}
	if err := move(c, id, base, by); err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/gear/model/"+url.PathEscape(id))
}

// archiveModel puts a model into the archive, or takes it back.
func (s *Server) archiveModel(c *gin.Context) {
	f, err := readForm(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	by, away := f.act(), f.text("to") != "library"
	if len(f.faults) > 0 {
		s.fail(c, f.faults)
		return
	}
	if err := s.store.ArchiveModel(c, c.Param("id"), away, by); err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/gear/model/"+url.PathEscape(c.Param("id")))
}

func sameModel(a, b gear.Model) bool { return reflect.DeepEqual(a, b) }
