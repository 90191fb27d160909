package web

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/finding"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/survey"
	"largo/store"
)

// margin is what stands beside the matter: a sum that was asked for, a mend
// looked at beforehand, what the last edit changed, and the findings.
type margin struct {
	Sum      *working
	Preview  *preview
	Changed  *changes
	Findings []findingView
	Quiet    string // what to say when there are none
}

// working is a figure with its sum.
type working struct {
	Place string
	reckon.Figure
	Close string
}

type findingView struct {
	finding.Finding
	ID      string
	Mends   []mendView
	Figures []sum
}

type mendView struct {
	Label string
	N     int
	Look  string // where to see its effect first
	Shown bool   // its effect is shown now
}

// preview is the effect of a mend before it is made.
type preview struct {
	Label, Finding string
	N              int
	Effect         changes
	Close          string
}

type changes struct {
	Gone, New []finding.Finding
	Figures   []changeView
	More      int
	Close     string
}

type changeView struct{ Place, Name, Before, After string }

// mostChanges is how many changed figures the margin lists.
const mostChanges = 8

func (s *Server) fillMargin(p *page) error {
	q := p.ask
	shown := q.Get("mend")
	for _, f := range p.report.At(p.Stage) {
		p.Margin.Findings = append(p.Margin.Findings, p.findingView(f, shown, q.Get("n")))
	}
	p.Margin.Quiet = "Nothing to mend at this stage."
	if place := q.Get("sum"); place != "" {
		if f, ok := p.report.Figure(place, q.Get("figure")); ok {
			p.Margin.Sum = &working{place, f, p.Here}
		}
	}
	if shown != "" {
		p.Margin.Preview = p.preview(shown, q.Get("n"))
	}
	if since, err := strconv.Atoi(q.Get("since")); err == nil && since != p.Job.Number {
		return s.fillChanged(p, since)
	}
	return nil
}

func (p *page) findingView(f finding.Finding, shown, n string) findingView {
	v := findingView{Finding: f, ID: f.ID()}
	place := f.At.String()
	if f.At.Port == "" {
		place = f.At.Device
	}
	for _, fig := range f.Figures {
		if _, ok := p.report.Figure(place, fig.Key); ok {
			v.Figures = append(v.Figures, p.sum(place, fig))
		}
	}
	for i, m := range f.Mends {
		q := url.Values{"mend": {v.ID}, "n": {strconv.Itoa(i)}}
		v.Mends = append(v.Mends, mendView{Label: m.Label, N: i, Look: p.Here + "?" + q.Encode(), Shown: shown == v.ID && n == strconv.Itoa(i)})
	}
	return v
}

func (p *page) preview(id, n string) *preview {
	f, m, ok := findMend(p.report, id, n)
	if !ok {
		return nil
	}
	i, _ := strconv.Atoi(n)
	v := &preview{Label: m.Label, Finding: f.ID(), N: i, Close: p.Here}
	if next, err := rig.Apply(p.job.Rig, m.Edit); err == nil {
		v.Effect = changed(survey.Compare(p.report, survey.Survey(next)), f.At.Device)
	}
	return v
}

func findMend(report *survey.Report, id, n string) (finding.Finding, finding.Way, bool) {
	f, ok := report.Finding(id)
	i, err := strconv.Atoi(n)
	if !ok || err != nil || i < 0 || i >= len(f.Mends) {
		return f, finding.Way{}, false
	}
	return f, f.Mends[i], true
}

// fillChanged tells what the last edit did, as before and after.
func (s *Server) fillChanged(p *page, since int) error {
	before, err := s.store.RevisionRig(p.gin, p.Job.Slug, since)
	switch {
	case errors.Is(err, store.ErrNotFound):
		return nil
	case err != nil:
		return err
	}
	c := changed(survey.Compare(survey.Survey(before), p.report), "")
	c.Close = p.Here
	p.Margin.Changed = &c
	return nil
}

// changed words a comparison; figures of the device that it is about come
// first.
func changed(c survey.Changes, about string) changes {
	v := changes{Gone: c.Gone, New: c.New}
	slices.SortStableFunc(c.Figures, func(a, b survey.Change) int {
		return nearness(a, about) - nearness(b, about)
	})
	for i, f := range c.Figures {
		if i == mostChanges {
			v.More = len(c.Figures) - mostChanges
			break
		}
		view := changeView{Place: f.Place, Name: f.After.Name, Before: "none", After: "none"}
		if f.Before.Key != "" {
			view.Before, view.Name = f.Before.Text(), f.Before.Name
		}
		if f.After.Key != "" {
			view.After = f.After.Text()
		}
		v.Figures = append(v.Figures, view)
	}
	return v
}

func nearness(c survey.Change, about string) int {
	switch {
	case about != "" && strings.HasPrefix(c.Place, about+" "):
		return 0
	case c.Place == "job":
		return 1
	}
	return 2
}

// mend makes the edit that a finding offers.
func (s *Server) mend(c *gin.Context) {
	at := finding.Stage(c.PostForm("stage"))
	if _, ok := s.paths[at]; !ok {
		at = finding.Match
	}
	s.edit(c, at, "mend", func(r rig.Rig, f *form) rig.Edit {
		_, way, ok := findMend(survey.Survey(r), c.PostForm("finding"), c.PostForm("n"))
		if !ok {
			f.fault("", "That finding is no longer there; the rig has changed.")
			return nil
		}
		return rig.Batch{Saying: way.Edit.Say(), Edits: []rig.Edit{way.Edit}}
	})
}

// edit is the one way in which a job is changed: read the form, make the
// edit, keep it, and show the stage with what it changed.
func (s *Server) edit(c *gin.Context, at finding.Stage, name string, build func(rig.Rig, *form) rig.Edit) {
	f, err := readForm(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	j, err := s.store.Job(c, c.Param("job"))
	if err != nil {
		s.fail(c, err)
		return
	}
	base := f.revision()
	change := store.Change{Base: base, Command: f.command(), Rig: j.Rig, Author: author(c)}
	if base == j.Number && len(f.faults) == 0 {
		if e := build(j.Rig, f); len(f.faults) == 0 {
			change.Said = e.Say()
			if change.Rig, err = rig.Apply(j.Rig, e); err != nil {
				f.refuse(err)
			}
		}
	}
	if len(f.faults) > 0 {
		s.showStage(c, http.StatusUnprocessableEntity, at, j, nil, &refused{form: name, faults: f.faults, problem: f.problem()})
		return
	}
	s.answerEdit(c, at, j, base, s.store.Keep(c, j.Slug, change))
}

// answerEdit shows what became of an edit.
func (s *Server) answerEdit(c *gin.Context, at finding.Stage, j store.Job, base int, err error) {
	switch {
	case errors.Is(err, store.ErrConflict):
		s.showStage(c, http.StatusConflict, at, j, nil, &refused{problem: "Somebody else has changed this rig since you opened it. Your edit was not kept; here is the rig as it stands now."})
	case err != nil:
		s.fail(c, err)
	case c.GetHeader("X-Alpine-Request") != "": // the page takes the answer in place, so spare it a second question
		now, err := s.store.Job(c, j.Slug)
		if err != nil {
			s.fail(c, err)
			return
		}
		s.showStage(c, http.StatusOK, at, now, url.Values{"since": {strconv.Itoa(base)}}, nil)
	default:
		c.Redirect(http.StatusSeeOther, "/jobs/"+j.Slug+"/"+string(at)+"?since="+strconv.Itoa(base))
	}
}

func (s *Server) undo(c *gin.Context) { s.travel(c, s.store.Undo) }
func (s *Server) redo(c *gin.Context) { s.travel(c, s.store.Redo) }

// travel moves through the history of a job.
func (s *Server) travel(c *gin.Context, move func(ctx context.Context, slug string, base int) error) {
	f, err := readForm(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	j, err := s.store.Job(c, c.Param("job"))
	if err != nil {
		s.fail(c, err)
		return
	}
	at := finding.Stage(c.PostForm("stage"))
	if _, ok := s.paths[at]; !ok {
		at = finding.Brief
	}
	base := f.revision()
	s.answerEdit(c, at, j, base, move(c, j.Slug, base))
}

// author is who made an edit. The server is open to this machine alone, so it
// is whoever sits at it.
func author(*gin.Context) string { return "at this machine" }
