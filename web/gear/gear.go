// Package gear is the library of models, with their forms, curves and files, and the
// stock: how many of each are owned, and where they lie.
package gear

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/words"
	"largo/exchange"
	"largo/store"
	"largo/web/kit"
)

//go:embed *.html *.css
var files embed.FS

// Room is this room.
var Room = kit.Room{
	Name: "gear", Files: files,
	Routes: func(r *kit.Routes) {
		r.Get("/gear", list)
		for ending := range gearFiles {
			r.Get("/gear"+ending, exportGear)
		}
		r.Upload("/gear/import", importGear)
		r.Post("/gear/import/take", kit.WithForm(takeGear))
		r.Get("/gear/new/:kind", newModel)
		r.Post("/gear/new/:kind", kit.WithForm(saveModel))
		r.Get("/gear/model/:id", editModel)
		r.Post("/gear/model/:id", kit.WithForm(saveModel))
		r.Post("/gear/model/:id/undo", undoModel)
		r.Post("/gear/model/:id/redo", redoModel)
		r.Post("/gear/model/:id/archive", kit.WithForm(archiveModel))
		r.Get("/gear/model/:id/curve/:curve", exportCurve)
		r.Upload("/gear/model/:id/curve/:curve", importCurve)
		r.Get("/stock", listStock)
		for ending := range stockFiles {
			r.Get("/stock"+ending, exportStock)
		}
		r.Post("/stock", kit.WithForm(setStock))
		r.Post("/stock/undo", kit.WithForm(undoStock))
		r.Upload("/stock/import", importStock)
		r.Upload("/stock/import/take", takeStock)
	},
}

type gearView struct {
	Kinds    []gearKind
	Faults   []string // of a file that was refused
	Search   kit.Field
	Unread   []string  // ids of models that cannot be read
	Archived bool      // the archive is shown
	Only     gear.Kind // the kind that is shown alone
	Filters  []gearFilter
	All      []gear.Kind
}

// gearFilter shows one kind alone, or all.
type gearFilter struct {
	Plural, Href string
	Count        int
	Here         bool
}

type gearKind struct {
	Kind    gear.Kind
	Plural  string
	Columns []string
	Models  []gearLine
}

type gearLine struct {
	Title, Href, Says string
	Figures           []string // by column, "" where it is not on record
}

// modelView is the form of one model.
type modelView struct {
	ID       string
	Kind     gear.Kind
	New      bool
	Heats    bool // it is a passive box
	Action   string
	Sections []section
	Loose    []string
	Ports    []string
	Plate    *kit.Plate
	Curves   []curveSlot
	Held     []gear.Holding
	Base     int // the revision of the model that the form shows
	CanUndo  bool
	CanRedo  bool
	Archived bool
	History  []store.ModelLine
	Differs  []exchange.CellChange // the library's model against what was typed, where somebody else was first
}

type section struct {
	Title, Note string
	Known       []kit.Choice // what is on record of it, by its name
	Only        string       // for which boxes it makes sense
	Open        bool
	Steps       []string
	Fields      []kit.Field
}

func list(s *kit.Server, c *gin.Context) { showGear(s, c, http.StatusOK, nil) }

// mostFaults is how many faults of a file are shown.
const mostFaults = 12

func showGear(s *kit.Server, c *gin.Context, status int, faults fault.List) {
	typed := c.Query("q")
	archived := c.Query("archived") == "yes"
	only := gear.Kind(c.Query("kind"))
	found, err := s.Store.SearchModels(c, store.Wanted{Typed: typed, Kind: only, Archived: archived}, mostListed)
	if err != nil {
		s.Fail(c, err)
		return
	}
	byKind := map[gear.Kind][]gear.Model{}
	for _, m := range found.Models {
		byKind[m.Kind] = append(byKind[m.Kind], m)
	}
	v := gearView{Unread: found.Unread, Archived: archived, Only: only, All: gear.Kinds,
		Filters: gearFilters(typed, archived, only, found.Kinds)}
	for i, f := range faults {
		if i == mostFaults {
			v.Faults = append(v.Faults, "And "+strconv.Itoa(len(faults)-mostFaults)+" more.")
			break
		}
		v.Faults = append(v.Faults, strings.TrimPrefix(f.Field+": ", ": ")+f.Say)
	}
	for _, k := range gear.Kinds {
		if len(byKind[k]) > 0 || k == only {
			v.Kinds = append(v.Kinds, table(k, byKind[k]))
		}
	}
	p := s.Plain(c, "Gear", gearVerdict(typed, archived, only, found.All, len(found.Models)+len(found.Unread)))
	v.Search = p.Field("gear", "q", "Search", typed, "maker, name or kind")
	if len(faults) > 0 {
		p.Problem = "Nothing was imported."
	}
	p.Here, p.Body = "/gear", v
	s.Render(c, status, "gear", p)
}

// mostListed is how many models the library shows at once.
const mostListed = 200

// gearFilters offers each kind that the search finds, and all.
func gearFilters(typed string, archived bool, only gear.Kind, of map[gear.Kind]int) []gearFilter {
	href := func(k gear.Kind) string {
		q := url.Values{}
		for name, value := range map[string]string{"q": typed, "kind": string(k)} {
			if value != "" {
				q.Set(name, value)
			}
		}
		if archived {
			q.Set("archived", "yes")
		}
		return strings.TrimSuffix("/gear?"+q.Encode(), "?")
	}
	all := gearFilter{Plural: "all", Href: href(""), Here: only == ""}
	list := []gearFilter{all}
	for _, k := range gear.Kinds {
		if n := of[k]; n > 0 || k == only {
			list[0].Count += n
			list = append(list, gearFilter{kindPlural(k), href(k), n, k == only})
		}
	}
	return list
}

func gearVerdict(typed string, archived bool, only gear.Kind, all, shown int) string {
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
	one, many := "model", "models"
	if only != "" {
		one, many = string(only), kindPlural(only)
	}
	return words.Spell(all, one, many) + in
}

func newModel(s *kit.Server, c *gin.Context) {
	k := gear.Kind(c.Param("kind"))
	m, ok := gear.Blank(k)
	if !ok {
		s.Fail(c, store.ErrNotFound)
		return
	}
	suggest(&m)
	showModel(s, c, http.StatusOK, store.Kept{Model: m}, true, nil)
}

// suggest fills a new form with what most such gear has.
func suggest(m *gear.Model) {
	switch m.Kind {
	case gear.KindLoudspeaker:
		m.Loudspeaker.Link = true
	case gear.KindMixer:
		m.Mixer.Inputs, m.Mixer.Outputs = 16,
			[]gear.Outlet{{Name: "main L", Signal: gear.Line}, {Name: "main R", Signal: gear.Line}}
	case gear.KindProcessor:
		m.Processor.Inputs, m.Processor.Outputs = 2, []string{"out 1", "out 2"}
	case gear.KindSource:
		m.Feed.Outputs = []gear.Outlet{{Name: "out", Signal: gear.Mic}}
	}
}

func editModel(s *kit.Server, c *gin.Context) {
	m, err := s.Store.Model(c, c.Param("id"))
	if err != nil {
		s.Fail(c, err)
		return
	}
	showModel(s, c, http.StatusOK, m, false, nil)
}

// modelRefused is what was wrong with the form of a model.
type modelRefused struct {
	kit.Refused
	differs []exchange.CellChange
}

func showModel(s *kit.Server, c *gin.Context, status int, k store.Kept, isNew bool, wrong *modelRefused) {
	m := k.Model
	verdict := m.Title() + ", " + string(m.Kind)
	switch {
	case isNew:
		verdict = "A new " + string(m.Kind) + ". Leave empty whatever its sheet does not say."
	case k.Archived:
		verdict += ", in the archive."
	}
	p := s.Plain(c, "Gear", verdict)
	v := modelView{ID: m.ID, Kind: m.Kind, New: isNew, Action: c.Request.URL.Path, Base: k.Head, CanUndo: k.CanUndo,
		CanRedo: k.CanRedo, Archived: k.Archived}
	v.Heats = m.Kind == gear.KindLoudspeaker && !m.Loudspeaker.Active
	if wrong != nil {
		p.Refused, p.Typed, p.Problem, p.Again = &wrong.Refused, c.Request.PostForm, wrong.Problem, wrong.Again
		p.Act = kit.HiddenAct(p.Command, k.Head)
		v.Differs = wrong.differs
	}
	v.Sections = modelSections(p, m, isNew)
	var names []string
	for _, sec := range v.Sections {
		for _, f := range sec.Fields {
			names = append(names, f.Name)
		}
	}
	v.Loose = p.Loose("model", names...)
	if drawn, ok := kit.ModelPlate(m); ok && !isNew {
		v.Plate = &drawn
	}
	v.Curves = curveSlots(m)
	if !isNew {
		if err := fillKept(s, c, &v, m.ID); err != nil {
			s.Fail(c, err)
			return
		}
		p.Here = "/gear/model/" + url.PathEscape(m.ID)
		v.Action = p.Here
	}
	for _, port := range m.Ports() {
		v.Ports = append(v.Ports, port.Name+" ("+string(port.Signal)+" "+string(port.Dir)+")")
	}
	p.Body = v
	s.Render(c, status, "model", p)
}

// mostLines is how many lines of a model's or the stock's history are shown.
const mostLines = 20

// fillKept fills what is known of a model beside its figures.
func fillKept(s *kit.Server, c *gin.Context, v *modelView, id string) (err error) {
	if v.Held, err = s.Store.Held(c, id); err != nil {
		return err
	}
	v.History, err = s.Store.ModelHistory(c, id, mostLines)
	return err
}

// baseOf is the revision that a form of a model shows, 0 for a new one.
func baseOf(f *kit.Form) int {
	n, err := strconv.Atoi(f.Gin.PostForm("base"))
	if err != nil || n < 1 || n > kit.MostRevision {
		f.Fault("", "The page does not say which revision of the model it shows. Load it again.")
	}
	return n
}

// saveModel keeps a model of the library. Rigs that hold it keep the figures
// of the day it was added, until they are told to take the new ones.
func saveModel(s *kit.Server, c *gin.Context, f *kit.Form) {
	var err error
	isNew := c.Param("id") == ""
	blank, ok := gear.Blank(gear.Kind(c.Param("kind")))
	old, base := store.Kept{Model: blank}, 0
	if !isNew {
		if old, err = s.Store.Model(c, c.Param("id")); err != nil {
			s.Fail(c, err)
			return
		}
		base = baseOf(f)
	} else if !ok {
		s.Fail(c, store.ErrNotFound)
		return
	}
	m := readModel(f, old.Model)
	if isNew {
		m.ID = gear.IDOf(m.Maker, m.Name)
		if _, err := s.Store.Model(c, m.ID); err == nil {
			f.Fault("name", "The library already has %s.", m.Title())
		} else if !errors.Is(err, store.ErrNotFound) && !errors.Is(err, store.ErrUnreadable) {
			s.Fail(c, err)
			return
		}
	}
	if err := m.Check(); err != nil { // whatever could not be read counts as unknown here
		f.Refuse(atFields(err))
	}
	by := f.Act()
	if len(f.Faults) > 0 {
		showModel(s, c, http.StatusUnprocessableEntity, old, isNew,
			&modelRefused{Refused: kit.Refused{Form: "model", Faults: f.Faults, Problem: f.Problem()}})
		return
	}
	saying := "Changed"
	if isNew {
		saying = "Entered"
	}
	answerModel(s, c, old, m, isNew, s.Store.SaveModels(c, by, saying, store.ModelChange{Model: m, Base: base}))
}

// answerModel shows what became of an edit of a model.
func answerModel(s *kit.Server, c *gin.Context, old store.Kept, m gear.Model, isNew bool, err error) {
	switch {
	case errors.Is(err, store.ErrConflict):
		showModelConflict(s, c, old, m, isNew)
	case err != nil:
		s.Fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/gear/model/"+url.PathEscape(m.ID))
	}
}

// showModelConflict shows the model as somebody else left it, how what was
// typed differs from that, and the edit, to be made on top of theirs or left.
func showModelConflict(s *kit.Server, c *gin.Context, old store.Kept, typed gear.Model, isNew bool) {
	wrong := &modelRefused{Refused: kit.Refused{Form: "model",
		Problem: "Somebody else has changed this model since you opened it. Nothing was kept; the form holds what you " +
			"typed, and below stands how it differs from what they left."}}
	if !isNew {
		wrong.Again = &kit.Again{Action: c.Request.URL.Path}
		for name, values := range c.Request.PostForm {
			if name == "base" || name == "command" {
				continue
			}
			for _, v := range values {
				wrong.Again.Fields = append(wrong.Again.Fields, kit.Choice{Label: name, Value: v})
			}
		}
		slices.SortStableFunc(wrong.Again.Fields, func(a, b kit.Choice) int { return strings.Compare(a.Label, b.Label) })
		wrong.differs = exchange.DiffGear(&old.Model, &typed)
	}
	showModel(s, c, http.StatusConflict, old, isNew, wrong)
}

func undoModel(s *kit.Server, c *gin.Context) { travelModel(s, c, s.Store.UndoModel) }

func redoModel(s *kit.Server, c *gin.Context) { travelModel(s, c, s.Store.RedoModel) }

// travelModel moves through the history of a model.
func travelModel(s *kit.Server, c *gin.Context,
	move func(ctx context.Context, id string, base int, by store.Command) error) {
	f, err := kit.ReadForm(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	id, base, by := c.Param("id"), baseOf(f), f.Act()
	if len(f.Faults) > 0 {
		s.Fail(c, f.Faults)
		return
	}
	if err := move(c, id, base, by); err != nil {
		s.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/gear/model/"+url.PathEscape(id))
}

// archiveModel puts a model into the archive, or takes it back.
func archiveModel(s *kit.Server, c *gin.Context, f *kit.Form) {
	by, away := f.Act(), f.Text("to") != "library"
	if len(f.Faults) > 0 {
		s.Fail(c, f.Faults)
		return
	}
	if err := s.Store.ArchiveModel(c, c.Param("id"), away, by); err != nil {
		s.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/gear/model/"+url.PathEscape(c.Param("id")))
}

// kindPlural names several devices of a kind.
func kindPlural(k gear.Kind) string {
	switch k {
	case gear.KindSwitch:
		return "network switches"
	case gear.KindStageBox:
		return "stage boxes and multicores"
	case gear.KindCable:
		return "leads"
	}
	return string(k) + "s"
}
