// Package bench is the thermal bench as it is shown: the sessions, a new one, one under
// way with its chart, its verdict and its forms, and what it leaves.
package bench

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
	"time"

	"github.com/gin-gonic/gin"

	"largo/core/bench"
	"largo/core/fault"
	"largo/core/gear"
	"largo/core/unit"
	"largo/core/words"
	"largo/exchange"
	"largo/store"
	"largo/web/kit"
)

//go:embed *.html *.css *.js
var files embed.FS

// Room is this room.
var Room = kit.Room{
	Name: "bench", Files: files,
	Routes: func(r *kit.Routes) {
		r.Get("/bench", list)
		r.Get("/bench/new", newSession)
		r.Post("/bench", kit.WithForm(begin))
		r.Get("/bench/session/:id", show)
		r.Get("/bench/session/:id/readings.csv", export)
		r.Get("/bench/session/:id/head", head)
		r.Post("/bench/session/:id", kit.WithForm(happened))
		r.Photo("/bench/session/:id/photo", photograph)
		r.Get("/bench/session/:id/photo/:photo", photo)
		r.Post("/bench/session/:id/setup", kit.WithForm(setUp))
		r.Post("/bench/session/:id/limit", kit.WithForm(keepLimit))
	},
	Beside: follow,
}

const mostShown = 60 // sessions on the list

type line struct {
	Title, Href, Box, When, Says string
	State                        string
}

type listView struct {
	On, Over []line
	Unread   int
	Model    kit.Field
	Found    string
	Loose    []string
}

func now() int64 { return time.Now().Unix() }

func list(s *kit.Server, c *gin.Context) {
	sessions, unread, err := s.Store.HeatedSessions(c, "", mostShown)
	if err != nil {
		s.Fail(c, err)
		return
	}
	v := listView{Unread: unread}
	for i := range sessions {
		l, over := lineOf(&sessions[i])
		if over {
			v.Over = append(v.Over, l)
		} else {
			v.On = append(v.On, l)
		}
	}
	models, err := passive(s, c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	p := s.Plain(c, "Thermal bench", verdictOf(v))
	v.Model = p.Choose("bench", "model", "Which box", c.Query("model"), kit.ModelChoices(models)...)
	p.Here, p.Body = "/bench", v
	s.Render(c, http.StatusOK, "bench", p)
}

func verdictOf(v listView) string {
	if len(v.On) == 0 {
		return "Nothing is being heated."
	}
	return words.Spell(len(v.On), "box is", "boxes are") + " being heated."
}

func lineOf(h *store.Heated) (l line, over bool) {
	st := bench.Of(&h.Session, now())
	_, over = h.Ended()
	l = line{Title: name(&h.Setup), Href: href(h.ID), Box: h.Setup.Box, Says: st.Verdict.Says, State: "fine",
		When: time.Unix(startOf(h), 0).UTC().Add(time.Duration(h.Setup.Zone) * time.Second).Format("2 January 2006, 15:04")}
	switch {
	case st.Verdict.Grave > 0:
		l.State = st.Verdict.Grave.String()
	case !st.Known:
		l.State = "empty"
	case len(st.Troubles) > 0 && !over:
		l.State = "mend"
	}
	return l, over
}

func startOf(h *store.Heated) int64 {
	if len(h.Events) > 0 {
		return h.Events[0].At
	}
	return h.At.Unix()
}

// name is the box with its way.
func name(s *bench.Setup) string {
	if s.Way != "" {
		return s.Title + ", " + s.Way
	}
	return s.Title
}

func href(id int64) string { return "/bench/session/" + strconv.FormatInt(id, 10) }

// passive are the boxes of the library that can be heated.
func passive(s *kit.Server, ctx context.Context) ([]gear.Model, error) {
	models, err := s.Store.Models(ctx)
	return slices.DeleteFunc(models, func(m gear.Model) bool {
		return m.Kind != gear.KindLoudspeaker || m.Loudspeaker == nil || m.Loudspeaker.Active
	}), err
}

// beginView is the set-up of a new session.
type beginView struct {
	Setup    bench.Setup
	Name     string
	Facts    []kit.Choice
	From     string
	Ways     []kit.Choice // of a box with several, as links
	Fields   []kit.Field
	Cautions []caution
	Loose    []string
	Base     string
}

type caution struct {
	Key, Says string
	Ticked    bool
}

func cautions(ready []string) (list []caution) {
	for _, c := range bench.Cautions {
		list = append(list, caution{c.Key, c.Says, slices.Contains(ready, c.Key)})
	}
	return list
}

// setupFor is what a session of a box begins with: of the earlier sessions of its model the
// last that taught anything, else what its sheet says.
func setupFor(s *kit.Server, ctx context.Context, model string, way int) (bench.Setup, gear.Model, error) {
	m, err := s.Store.Model(ctx, model)
	if err != nil {
		return bench.Setup{}, m.Model, err
	}
	setup, err := bench.Begin(m.Model, way)
	if err != nil {
		return setup, m.Model, err
	}
	earlier, _, err := s.Store.HeatedSessions(ctx, model, mostShown)
	if err != nil {
		return setup, m.Model, err
	}
	for i := range earlier {
		h := &earlier[i]
		_, over := h.Ended()
		if st := bench.Of(&h.Session, now()); over && h.Setup.Way == setup.Way && st.Taught() {
			k := st.Learnt.Knowledge(bench.ApartUnits)
			setup.Known, setup.From = &k, fmt.Sprintf("the session of %s, %s", h.Setup.Box, when(&h.Session, startOf(h)))
			setup.Coil = h.Setup.Coil
			break
		}
	}
	return setup, m.Model, nil
}

// when is a day as the clock there shows it.
func when(s *bench.Session, at int64) string {
	return time.Unix(at+int64(s.Setup.Zone), 0).UTC().Format("2 January 2006")
}

func newSession(s *kit.Server, c *gin.Context) { showBegin(s, c, http.StatusOK, nil) }

func showBegin(s *kit.Server, c *gin.Context, status int, wrong *kit.Refused) {
	model, way := c.Query("model"), wayOf(c.Query("way"))
	if wrong != nil {
		model, way = c.PostForm("model"), wayOf(c.PostForm("way"))
	}
	if model == "" {
		c.Redirect(http.StatusSeeOther, "/bench")
		return
	}
	setup, m, err := setupFor(s, c, model, way)
	if err != nil {
		s.Fail(c, err)
		return
	}
	p := s.Plain(c, "Thermal bench", "Heat "+name(&setup)+" in its own box.")
	p.Here = "/bench"
	if p.Refused = wrong; wrong != nil {
		p.Typed, p.Problem = c.Request.PostForm, wrong.Problem
	}
	v := beginView{Setup: setup, Name: name(&setup), From: setup.From, Base: strconv.Itoa(way), Facts: factsOf(&setup)}
	if v.From == "" {
		v.From = "its rating alone, so the first half hour says little"
	}
	for i, w := range m.Loudspeaker.Ways {
		v.Ways = append(v.Ways, kit.Choice{Label: w.Name, Chosen: i == way,
			Value: "/bench/new?" + url.Values{"model": {m.ID}, "way": {strconv.Itoa(i)}}.Encode()})
	}
	v.Fields = setupFields(p, &setup)
	v.Cautions = cautions(c.PostFormArray("ready"))
	v.Loose = p.Loose("setup", "box", "place", "probe1", "probe2", "re", "cold", "onLine", "sensitivity", "low", "high",
		"into", "coil", "ask")
	p.Body = v
	s.Render(c, status, "heat", p)
}

func wayOf(s string) int {
	n, _ := strconv.Atoi(s)
	return n
}

// factsOf is what is known of the box, as its plate says it.
func factsOf(s *bench.Setup) []kit.Choice {
	facts := []kit.Choice{{Label: "rated", Value: s.Rating.String()}, {Label: "on", Value: s.On.String()}}
	if v, known := s.RatedVolts().Get(); known {
		facts = append(facts, kit.Choice{Label: "that is", Value: v.String() + " rms"})
	}
	if v, known := s.FirstVolts().Get(); known {
		facts = append(facts, kit.Choice{Label: "a quarter", Value: v.String() + " rms"})
	}
	return facts
}

// setupFields are the fields of a set-up.
func setupFields(p *kit.Page, s *bench.Setup) []kit.Field {
	none := []kit.Choice{{Label: "none"}}
	places := kit.Choices(bench.Places)
	return []kit.Field{
		p.Field("setup", "box", "Which of them", s.Box, "its number or tag"),
		p.Field("setup", "place", "Where", s.Place, ""),
		p.Choose("setup", "probe1", "First probe sits on the", s.Probes[0], places...),
		p.Choose("setup", "probe2", "Second probe", s.Probes[1], append(none, places...)...),
		p.Choose("setup", "coil", "Coil wound of", string(s.Coil), kit.Choices([]bench.Wire{bench.CopperWire,
			bench.AluminiumWire})...),
		p.Field("setup", "re", "Coil, cold, by ohmmeter", s.Re.Typed(), "5.6 ohm; of one driver"),
		p.Field("setup", "cold", "The cold box", s.Cold.Typed(), "20 °C"),
		p.Field("setup", "onLine", "Volts over amperes of the noise, cold", s.OnLine.Typed(),
			"7.1 ohm; at a whisper. Without it the coil cannot be read"),
		p.Field("setup", "sensitivity", "Sensitivity, 1 W at 1 m", s.Sensitivity.Typed(), "98 dB: volts by a level need it"),
		p.Field("setup", "low", "Noise from", s.Low.Typed(), "45 Hz: the high-pass as in use"),
		p.Field("setup", "high", "to", s.High.Typed(), "120 Hz: the crossover as in use"),
		p.Field("setup", "into", "Held into the limiter by", s.Into.Typed(), "5 dB"),
		p.Field("setup", "ask", "A probe to be asked", s.Ask,
			"osc://127.0.0.1:9030 or http://127.0.0.1:9031; empty: by hand"),
	}
}

// readSetup reads the fields of a set-up over it.
func readSetup(f *kit.Form, s *bench.Setup) {
	s.Box, s.Place, s.Ask = f.Text("box"), f.Text("place"), f.Text("ask")
	s.Probes = [2]string{f.Text("probe1"), f.Text("probe2")}
	s.Coil = bench.Wire(f.Text("coil"))
	s.Re = kit.KeepOrigin(s.Re, kit.Given(f, "re", unit.ParseOhm))
	s.Cold = kit.Given(f, "cold", unit.ParseCelsius)
	s.OnLine = kit.Given(f, "onLine", unit.ParseOhm)
	s.Sensitivity = kit.KeepOrigin(s.Sensitivity, kit.Given(f, "sensitivity", unit.ParseDecibel))
	s.Low = kit.KeepOrigin(s.Low, kit.Given(f, "low", unit.ParseHertz))
	s.High = kit.KeepOrigin(s.High, kit.Given(f, "high", unit.ParseHertz))
	s.Into = kit.Given(f, "into", unit.ParseDecibel)
	s.Ready, s.Show = f.Values("ready"), f.Text("show") == "yes"
	if _, err := exchange.ProbeAt(s.Ask); s.Ask != "" && err != nil {
		f.Fault("ask", "%s", err)
	}
	if zone, err := strconv.Atoi(f.Text("zone")); err == nil {
		s.Zone = zone
	}
	if err := s.Check(); err != nil {
		f.Refuse(err)
	}
}

func begin(s *kit.Server, c *gin.Context, f *kit.Form) {
	setup, _, err := setupFor(s, c, f.Text("model"), wayOf(f.Text("way")))
	if err != nil {
		s.Fail(c, err)
		return
	}
	readSetup(f, &setup)
	if len(f.Faults) > 0 {
		showBegin(s, c, http.StatusUnprocessableEntity, &kit.Refused{Form: "setup", Faults: f.Faults, Problem: f.Problem()})
		return
	}
	id, err := s.Store.BeginSession(c, f.Act(), setup)
	if err != nil {
		s.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, href(id))
}

// sessionOf reads the session that an address names; false after it answered.
func sessionOf(s *kit.Server, c *gin.Context) (h store.Heated, ok bool) {
	id, err := strconv.ParseInt(c.Param("id"), 10, 64)
	if err != nil {
		err = store.ErrNotFound
	} else {
		h, err = s.Store.HeatedSession(c, id)
	}
	if err != nil {
		s.Fail(c, err)
	}
	return h, err == nil
}

// head tells how much has happened, so that a page can see that it is behind.
func head(s *kit.Server, c *gin.Context) {
	if h, ok := sessionOf(s, c); ok {
		c.JSON(http.StatusOK, gin.H{"events": len(h.Events)})
	}
}

func export(s *kit.Server, c *gin.Context) {
	h, ok := sessionOf(s, c)
	if !ok {
		return
	}
	st := bench.Of(&h.Session, now())
	c.Header("Content-Type", "text/csv; charset=utf-8")
	c.Header("Content-Disposition", `attachment; filename="thermal-`+strconv.FormatInt(h.ID, 10)+`.csv"`)
	if err := exchange.WriteHeated(c.Writer, &st); err != nil {
		s.Log.ErrorContext(c, "readings as CSV", "error", err)
	}
}

// happened keeps one event.
func happened(s *kit.Server, c *gin.Context, f *kit.Form) {
	h, ok := sessionOf(s, c)
	if !ok {
		return
	}
	e := readEvent(f, &h)
	var err error
	if len(f.Faults) == 0 {
		err = s.Store.AddEvent(c, f.Act(), h.ID, e, now())
	}
	answered(s, c, h, f, f.Text("kind"), err)
}

// answered shows the session with what is wrong at a form of it, or as it is now.
func answered(s *kit.Server, c *gin.Context, h store.Heated, f *kit.Form, form string, err error) {
	var faults fault.List
	switch {
	case errors.As(err, &faults):
		f.Faults = append(f.Faults, faults...)
	case err != nil:
		s.Fail(c, err)
		return
	}
	if len(f.Faults) > 0 {
		showSession(s, c, http.StatusUnprocessableEntity, h, &kit.Refused{Form: form, Faults: f.Faults,
			Problem: f.Problem()})
		return
	}
	c.Redirect(http.StatusSeeOther, href(h.ID))
}

// readEvent reads what happened; "at" is seconds since 1970, or a time of the day there, or
// empty for now.
func readEvent(f *kit.Form, h *store.Heated) bench.Event {
	e := bench.Event{At: now(), By: kit.Author(f.Gin), Kind: bench.Kind(f.Text("kind")), Said: f.Text("said"),
		Seen: bench.Observed(f.Text("seen")), Of: f.Number("of", "events"), Sure: f.Text("sure") == "yes"}
	if at := f.Text("pressed"); at != "" {
		if v, err := strconv.ParseInt(at, 10, 64); err == nil && v > 0 {
			e.At = v
		}
	}
	if at := f.Text("at"); at != "" {
		e.At = clockTime(f, at, e.At, h.Setup.Zone)
	}
	e.Volts = kit.Given(f, "volts", unit.ParseVolt)
	switch e.Kind {
	case bench.Read:
		e.Amps = kit.Given(f, "amps", unit.ParseAmpere)
		e.Probe[0] = kit.Given(f, "probe1", unit.ParseCelsius)
		e.Probe[1] = kit.Given(f, "probe2", unit.ParseCelsius)
		e.Air = kit.Given(f, "air", unit.ParseCelsius)
		e.Into = kit.Given(f, "into", unit.ParseDecibel)
	case bench.Step:
		if level := kit.Given(f, "level", unit.ParseDecibel); h.Setup.Show && level.Known() {
			heard(f, h, &e, level.Or(0))
		}
	default:
		e.Volts = unit.Given[unit.Volt]{}
	}
	return e
}

// heard makes the volts of a step from a level that was read, if no volts were typed.
func heard(f *kit.Form, h *store.Heated, e *bench.Event, level unit.Decibel) {
	far := kit.Given(f, "far", unit.ParseMetre)
	switch {
	case e.Volts.Known():
		f.Fault("level", "Type volts, or a level, and leave the other empty.")
		return
	case !far.Known():
		f.Fault("far", "Say how far from the box it was read.")
		return
	}
	st := bench.Of(&h.Session, e.At)
	v, err := st.Heard(level, far.Or(0))
	if err != nil {
		f.Refuse(err)
		return
	}
	e.Volts, e.Said = unit.Of(v), fmt.Sprintf("by %s at %s, in the open", level, far)
}

// clockTime is the last time before one that a clock there showed so.
func clockTime(f *kit.Form, typed string, before int64, zone int) int64 {
	t, err := time.Parse("15:04", typed)
	if err != nil {
		f.Fault("at", "%.20q is no time of day; write it as 14:35, or leave it empty for now.", typed)
		return before
	}
	local := before + int64(zone)
	at := local - local%86400 + int64(t.Hour()*3600+t.Minute()*60) - int64(zone)
	if at > before+60 {
		at -= 86400
	}
	return at
}

// setUp changes the set-up: what is confirmed, what was measured cold, where probes sit.
func setUp(s *kit.Server, c *gin.Context, f *kit.Form) {
	h, ok := sessionOf(s, c)
	if !ok {
		return
	}
	setup := h.Setup
	readSetup(f, &setup)
	if len(f.Faults) > 0 {
		showSession(s, c, http.StatusUnprocessableEntity, h, &kit.Refused{Form: "setup", Faults: f.Faults,
			Problem: f.Problem()})
		return
	}
	if err := s.Store.SetUp(c, f.Act(), h.ID, func(h *store.Heated) error { h.Setup = setup; return nil }); err != nil {
		s.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, href(h.ID))
}

// keepLimit notes with the model what a finished session found.
func keepLimit(s *kit.Server, c *gin.Context, f *kit.Form) {
	h, ok := sessionOf(s, c)
	if !ok {
		return
	}
	st := bench.Of(&h.Session, now())
	m, err := s.Store.Model(c, h.Setup.Model)
	if err != nil {
		s.Fail(c, err)
		return
	}
	changed, err := st.Limit(m.Model)
	if err != nil {
		f.Refuse(err)
		showSession(s, c, http.StatusUnprocessableEntity, h, &kit.Refused{Form: "limit", Faults: f.Faults,
			Problem: f.Problem()})
		return
	}
	said := fmt.Sprintf("Tested on the bench: %s", strings.TrimSuffix(st.Verdict.Says, "."))
	if err := s.Store.SaveModels(c, f.Act(), said, store.ModelChange{Model: changed, Base: m.Head}); err != nil {
		s.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/gear/model/"+m.ID)
}
