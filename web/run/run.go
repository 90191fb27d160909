// Package run is the room in which a power-up or a shutdown is done: step by step on phones in
// the hand, watched and held at the desk.
package run

import (
	"embed"
	"encoding/json"
	"fmt"
	"html/template"
	"net/http"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/finding"
	"largo/core/run"
	"largo/core/start"
	"largo/core/strike"
	"largo/core/survey"
	"largo/store"
	"largo/web/kit"
)

//go:embed *.html *.css *.js *.mjs
var files embed.FS

// Room is where orders are run.
var Room = kit.Room{
	Name: "run", Files: files,
	Routes: func(r *kit.Routes) {
		r.Get("/jobs/:job/run", list)
		r.Post("/jobs/:job/run", kit.WithForm(begin))
		r.Get("/jobs/:job/run/:id", show)
		r.Get("/jobs/:job/run/:id/state", state)
		r.Get("/jobs/:job/run/:id/events", stream)
		r.Post("/jobs/:job/run/:id/event", kit.WithForm(happened))
		r.Get("/jobs/:job/run/:id/times", times)
		r.Post("/jobs/:job/run/:id/note", note)
		r.Get("/run-worker.js", worker)
		r.Get("/jobs/:job/card", card)
	},
	Finds: []kit.FindItem{{Label: "Run the power-up or the shutdown", Note: "step by step on phones", Href: "/run"},
		{Label: "Card for the lid", Note: "to print", Href: "/card"}},
}

// mostShown is how many runs the list shows.
const mostShown = 20

type listView struct {
	Runs    []line
	Stopped bool // something of the rig is at stop: nothing is powered up
	Steps   int  // that there would be
	Back    string
}

type line struct {
	Href, Title, When, By, Says, State string
	Times                              int // steps that are through
}

func list(s *kit.Server, c *gin.Context) { listed(s, c, http.StatusOK, nil) }

// listed answers with the runs of a job, and what was wrong with a wish to begin one.
func listed(s *kit.Server, c *gin.Context, status int, wrong fault.List) {
	p, err := s.Aside(c, "Run")
	if err != nil {
		s.Fail(c, err)
		return
	}
	ran, err := s.Store.Runs(c, p.Job.Slug, mostShown)
	if err != nil {
		s.Fail(c, err)
		return
	}
	v := listView{Stopped: len(p.Stops()) > 0, Steps: len(survey.Of[start.Verdict](p.Report).Steps),
		Back: "/jobs/" + p.Job.Slug}
	now := time.Now()
	p.Verdict = "Nothing is being run."
	underWay := false
	for i := range ran {
		r := &ran[i]
		l := line{Href: href(p.Job.Slug, r.ID), Times: len(r.Times()), Title: titles[r.Sort], When: kit.Ago(now.Sub(r.At)),
			By:   r.Author,
			Says: r.Says(now.UnixMilli()), State: "fine"}
		if ended, stopped := r.Ended(); stopped {
			l.State = "stop"
		} else if !ended {
			if l.State = "mind"; !underWay {
				p.Verdict, underWay = l.Title+" is under way: "+l.Says, true
			}
		}
		v.Runs = append(v.Runs, l)
	}
	if len(wrong) > 0 {
		p.Problem = wrong[0].Say
	}
	p.Body = v
	s.Render(c, status, "run", p)
}

var titles = map[run.Sort]string{run.Start: "Power-up", run.Strike: "Shutdown"}

func href(slug string, id int64) string { return fmt.Sprintf("/jobs/%s/run/%d", slug, id) }

// begin begins a run of the order as it is in force. Nothing is powered up while anything of the
// rig is at stop; it may always be shut down.
func begin(s *kit.Server, c *gin.Context, f *kit.Form) {
	j, err := s.Store.Job(c, c.Param("job"))
	if err != nil {
		s.Fail(c, err)
		return
	}
	report := survey.Survey(j.Rig)
	var setup run.Setup
	switch sort := run.Sort(f.Text("sort")); sort {
	case run.Start:
		if finding.Worst(report.Findings) == finding.Stop {
			f.Fault("", "Do not energise: something of the rig is at stop. Mend that first.")
		}
		setup = survey.Of[start.Verdict](report).Run(report.Input())
	case run.Strike:
		setup = survey.Of[strike.Verdict](report).Run(report.Input())
	default:
		f.Fault("", "A run is a start or a strike, not %.20q.", sort)
	}
	setup.Revision, setup.Emergency = j.Number, start.EmergencyOf(report.Input()).Says()
	for _, p := range j.Rig.People {
		setup.Ring = append(setup.Ring, run.Contact{Name: p.Name, Role: p.Role, Number: p.Number})
	}
	if len(f.Faults) == 0 {
		if err := setup.Check(); err != nil {
			f.Refuse(err)
		}
	}
	if len(f.Faults) > 0 {
		listed(s, c, http.StatusUnprocessableEntity, f.Faults)
		return
	}
	id, err := s.Store.BeginRun(c, f.Act(), j.Slug, setup)
	if err != nil {
		s.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, href(j.Slug, id))
}

// ranOf finds the run that the address names, or answers that there is none.
func ranOf(s *kit.Server, c *gin.Context) (store.Ran, bool) {
	id, err := strconv.ParseInt(c.Param("id"), 10, 64)
	if err != nil {
		s.Fail(c, store.ErrNotFound)
		return store.Ran{}, false
	}
	r, err := s.Store.Run(c, c.Param("job"), id)
	if err != nil {
		s.Fail(c, err)
		return r, false
	}
	return r, true
}

// phoneView is the page of a run.
type phoneView struct {
	Title, Job, Here, Scheme string
	Plan, State              template.JS // as JSON
	Wrongs                   []run.Wrong
	Emergency                string
	Ring                     []run.Contact
	Steps                    []run.Step
}

// show is the page on the phone: all that it needs is in it, so that it goes on without the
// network.
func show(s *kit.Server, c *gin.Context) {
	r, ok := ranOf(s, c)
	if !ok {
		return
	}
	v := phoneView{Title: titles[r.Sort], Job: r.Title, Here: href(c.Param("job"), r.ID), Scheme: kit.Scheme(c),
		Plan: inPage(planOf(&r)), State: inPage(stateOf(&r, time.Now())), Wrongs: run.Wrongs, Steps: r.Steps,
		Emergency: r.Emergency, Ring: r.Ring}
	s.RenderBare(c, "phone", v)
}

// inPage is data as a page holds it in a script that is none: encoding/json escapes what would
// end it.
func inPage(v any) template.JS {
	b, err := json.Marshal(v)
	if err != nil {
		return "null"
	}
	return template.JS(b)
}

// planJSON is what a phone knows of a run for good.
type planJSON struct {
	ID    int64      `json:"id"`
	Sort  run.Sort   `json:"sort"`
	Steps []stepJSON `json:"steps"`
	Waits []waitJSON `json:"waits"`
	// what to do about what is wrong with a step
	Advice map[run.Wrong]string `json:"advice"`
}

type stepJSON struct {
	Switch  string     `json:"switch"`
	Items   []itemJSON `json:"items"`
	Loud    bool       `json:"loud"`
	Free    bool       `json:"free"`
	Takes   int64      `json:"takes"` // ms
	Why     string     `json:"why"`
	Without string     `json:"without"` // what goes on without it
}

type itemJSON struct {
	Tag   string `json:"tag"`
	Place string `json:"place"`
	Where string `json:"where"`
	How   string `json:"how"`
	Look  string `json:"look"`
}

type waitJSON struct {
	First int   `json:"first"`
	Then  int   `json:"then"`
	After int64 `json:"after"` // ms
	Seen  bool  `json:"seen"`
	Kicks bool  `json:"kicks"`
}

// stateJSON is how it stands: what happened, and what the server's clock says.
type stateJSON struct {
	Now    int64       `json:"now"`
	Seq    int         `json:"seq"`
	Events []run.Event `json:"events"`
}

func planOf(r *store.Ran) planJSON {
	p := planJSON{ID: r.ID, Sort: r.Sort, Advice: map[run.Wrong]string{}}
	for _, w := range run.Wrongs {
		p.Advice[w] = r.Advice(w)
	}
	for i, st := range r.Steps {
		j := stepJSON{Switch: st.Switch, Loud: st.Loud, Free: st.Free, Takes: int64(st.Takes() * 1000), Why: st.Why,
			Without: r.Without(i)}
		for _, it := range st.Items {
			j.Items = append(j.Items, itemJSON{it.Tag, it.Place, it.Where, it.How, it.Look})
		}
		p.Steps = append(p.Steps, j)
	}
	for _, w := range r.Waits {
		p.Waits = append(p.Waits, waitJSON{w.First, w.Then, int64(w.After * 1000), w.Seen(), w.Why == "kick"})
	}
	return p
}

func stateOf(r *store.Ran, now time.Time) stateJSON {
	events := r.Events
	if events == nil {
		events = []run.Event{}
	}
	return stateJSON{now.UnixMilli(), len(r.Events), events}
}

func state(s *kit.Server, c *gin.Context) {
	if r, ok := ranOf(s, c); ok {
		c.Header("Cache-Control", "no-store")
		c.JSON(http.StatusOK, stateOf(&r, time.Now()))
	}
}

// happened keeps what happened. A phone says how long ago, by a clock of its own that is never
// compared with another: what its wall clock says is not asked.
func happened(s *kit.Server, c *gin.Context, f *kit.Form) {
	id, err := strconv.ParseInt(c.Param("id"), 10, 64)
	if err != nil {
		s.Fail(c, store.ErrNotFound)
		return
	}
	e := run.Event{Kind: run.Kind(f.Text("kind")), Wrong: run.Wrong(f.Text("wrong")), Step: f.Number("step", "step"),
		By: f.Text("by")}
	if len([]rune(e.By)) > kit.MostName {
		f.Fault("by", "The name is too long: %d characters at most.", kit.MostName)
	}
	ago := int64(max(0, f.Number("ago", "ms")))
	if e.Kind == run.Throw && ago < justNow && stoppedSince(s, c, id) {
		f.Fault("",
			"Something of the rig is at stop since this run began: nothing more is switched on before that is mended.")
	}
	// sent again it says another time ago, and is the same act
	act := store.Command{ID: f.Command(), Author: kit.Author(c)}
	if len(f.Faults) == 0 {
		err = s.Store.RunEvent(c, act, c.Param("job"), id, e, ago, func() int64 { return time.Now().UnixMilli() })
		if l, refused := asFaults(err); refused {
			f.Faults = l
		}
	}
	c.Header("Cache-Control", "no-store")
	if len(f.Faults) > 0 {
		c.JSON(http.StatusUnprocessableEntity, gin.H{"says": f.Faults[0].Say})
		return
	}
	if err != nil {
		s.Fail(c, err)
		return
	}
	if r, ok := ranOf(s, c); ok {
		c.JSON(http.StatusOK, stateOf(&r, time.Now()))
	}
}

// justNow is up to when a tap counts as being made now, ms: what a phone without a network did
// before cannot be refused, it happened.
const justNow = 5000

// stoppedSince tells whether the rig of a power-up is at stop by now.
func stoppedSince(s *kit.Server, c *gin.Context, id int64) bool {
	r, err := s.Store.Run(c, c.Param("job"), id)
	if err != nil || r.Sort != run.Start {
		return false
	}
	j, err := s.Store.Job(c, c.Param("job"))
	return err == nil && j.Number != r.Revision && finding.Worst(survey.Survey(j.Rig).Findings) == finding.Stop
}

// stream tells everybody who looks at a run what happens in it.
func stream(s *kit.Server, c *gin.Context) {
	id, err := strconv.ParseInt(c.Param("id"), 10, 64)
	if err != nil {
		s.Fail(c, store.ErrNotFound)
		return
	}
	key := store.RunKey(c.Param("job"), id)
	s.Stream(c, key, "state", func(at int) (any, bool) {
		r, err := latest.of(which{s.Store, key}, at, func() (store.Ran, error) { return s.Store.Run(c, c.Param("job"), id) })
		return stateOf(&r, time.Now()), err == nil
	})
}

// worker is the script that keeps the page on the phone.
func worker(_ *kit.Server, c *gin.Context) {
	b, err := files.ReadFile("worker.mjs")
	if err != nil {
		c.Status(http.StatusNotFound)
		return
	}
	c.Header("Cache-Control", "no-cache")
	c.Header("Service-Worker-Allowed", "/jobs/")
	c.Data(http.StatusOK, "text/javascript; charset=utf-8", b)
}
