package kit

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/finding"
	"largo/core/rig"
	"largo/core/survey"
	"largo/store"
)

// mend makes the edit that a finding offers.
func (s *Server) mend(c *gin.Context) {
	at := finding.Stage(c.PostForm("stage"))
	if _, ok := s.room(at); !ok {
		at = finding.Match
	}
	s.Edit(c, at, "mend", func(r rig.Rig, f *Form) rig.Edit {
		_, way, ok := findMend(survey.Survey(r), c.PostForm("finding"), c.PostForm("n"))
		if !ok {
			f.Fault("", "That finding is no longer there; the rig has changed.")
			return nil
		}
		return rig.Batch{Saying: way.Edit.Say(), Edits: []rig.Edit{way.Edit}}
	})
}

// Edit is the one way in which a job is changed: read the form, make the
// edit, keep it, and show the stage with what it changed.
func (s *Server) Edit(c *gin.Context, at finding.Stage, name string, build func(rig.Rig, *Form) rig.Edit) {
	f, j, err := s.begin(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	base := f.revision()
	change := store.Change{Base: base, Command: f.edit(), Page: c.PostForm("command"), Author: Author(c)}
	for range mostTries {
		s.rebase(c, &change, f, j, build)
		if len(f.Faults) > 0 {
			s.showStage(c, http.StatusUnprocessableEntity, at, j, nil,
				&Refused{Form: name, Faults: f.Faults, Problem: f.Problem()})
			return
		}
		if err = s.keep(c, j.Slug, change); !errors.Is(err, store.ErrConflict) {
			break
		}
		now, gone := s.Store.Job(c, j.Slug)
		if gone != nil || !s.madeBySamePage(c, now) {
			break
		}
		j = now
	}
	s.answerEdit(c, at, name, j, base, err)
}

// keep judges a change and keeps it. What the rules cannot judge is not kept;
// what is kept is remembered with what follows from it.
func (s *Server) keep(c *gin.Context, slug string, change store.Change) error {
	report := survey.Survey(change.Rig)
	change.Verdict = VerdictOf(report)
	done, err := s.Store.Keep(c, slug, change)
	if err != nil {
		return err
	}
	c.Set(keptKey, fmt.Sprintf("Your edit was kept, as revision %d.", done.Number))
	if done.Stamp != "" {
		s.recall.reports.Add(revision{slug, done.Stamp}, report)
	}
	return nil
}

// mostTries bounds how often an edit is made anew on what other edits of its
// own page have left meanwhile.
const mostTries = 4

// rebase makes an edit on a job as it stands, where nobody else's work lies
// between that and what the page showed.
func (s *Server) rebase(c *gin.Context, change *store.Change, f *Form, j store.Job,
	build func(rig.Rig, *Form) rig.Edit) {
	if s.madeBySamePage(c, j) { // the page has had no answer to its last edit yet
		change.Base = j.Number
	}
	change.Rig = j.Rig
	if change.Base != j.Number || len(f.Faults) > 0 {
		return
	}
	e := build(j.Rig, f)
	if len(f.Faults) > 0 {
		return
	}
	var err error
	change.Said = e.Say()
	if change.Rig, err = rig.Apply(j.Rig, e); err != nil {
		f.Refuse(err)
		return
	}
	if change.Edit, err = rig.MarshalEdit(e); err != nil {
		f.Refuse(err)
	}
}

// madeBySamePage tells whether the state in force was made by the page that
// sends an edit, on whichever server, so that nobody else's work lies between
// the two.
func (s *Server) madeBySamePage(c *gin.Context, j store.Job) bool {
	return j.Page != "" && j.Page == c.PostForm("command")
}

// begin reads the form of a change and the job that it is about.
func (s *Server) begin(c *gin.Context) (*Form, store.Job, error) {
	f, err := ReadForm(c)
	if err != nil {
		return nil, store.Job{}, err
	}
	j, err := s.Store.Job(c, c.Param("job"))
	return f, j, err
}

// answerEdit shows what became of an edit.
func (s *Server) answerEdit(c *gin.Context, at finding.Stage, form string, j store.Job, base int, err error) {
	q := url.Values{"since": {strconv.Itoa(base)}}
	room, _ := s.room(at)
	for _, name := range room.Carries {
		if v := c.PostForm(name); v != "" {
			q.Set(name, v)
		}
	}
	switch {
	case errors.Is(err, store.ErrConflict):
		s.showConflict(c, at, form, j, base)
	case err != nil:
		s.Fail(c, err)
	case c.GetHeader("X-Alpine-Request") != "": // the page takes the answer in place, so spare it a second question
		now, err := s.Store.Job(c, j.Slug)
		if err != nil {
			s.Fail(c, err)
			return
		}
		if known, have := s.recall.shown.Get(c.PostForm("command")); have {
			c.Set(knownKey, known)
		}
		s.showStage(c, http.StatusOK, at, now, q, nil)
	default:
		if list := c.PostForm("list"); list != "" {
			q.Set("list", list)
		}
		c.Redirect(http.StatusSeeOther, "/jobs/"+j.Slug+"/"+string(at)+"?"+q.Encode())
	}
}

// knownKey is where a request that answers an edit keeps what the page that
// sent it shows.
const knownKey = "known"

func knownTo(c *gin.Context) map[string]bool {
	known, _ := c.Value(knownKey).(map[string]bool)
	return known
}

// Again is an edit that met another one, ready to be made on top of it.
type Again struct {
	Action string
	Fields []Choice // name and value of each
}

// showConflict shows the rig as somebody else left it, what they changed, and
// the edit that was not kept, to be made on top of theirs or left.
func (s *Server) showConflict(c *gin.Context, at finding.Stage, form string, j store.Job, base int) {
	wrong := &Refused{Form: form,
		Problem: "Somebody else has changed this rig since you opened it. Your edit was not kept; here is the rig as it " +
			"stands now."}
	if form != "" {
		wrong.Again = &Again{Action: c.Request.URL.Path}
		for name, values := range c.Request.PostForm {
			if name == "rev" || name == "command" || name == "stage" {
				continue
			}
			for _, v := range values {
				wrong.Again.Fields = append(wrong.Again.Fields, Choice{Label: name, Value: v})
			}
		}
		slices.SortStableFunc(wrong.Again.Fields, func(a, b Choice) int { return strings.Compare(a.Label, b.Label) })
	}
	s.showStage(c, http.StatusConflict, at, j, url.Values{"since": {strconv.Itoa(base)}}, wrong)
}

func (s *Server) undo(c *gin.Context) { s.travel(c, s.Store.Undo) }

func (s *Server) redo(c *gin.Context) { s.travel(c, s.Store.Redo) }

// travel moves through the history of a job. It reads no rig before it has
// moved, so that a state that cannot be read can be left.
func (s *Server) travel(c *gin.Context, move func(ctx context.Context, slug string, base int, by store.Command) error) {
	f, err := ReadForm(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	slug, base, by := c.Param("job"), f.revision(), f.Act()
	at := finding.Stage(c.PostForm("stage"))
	if _, ok := s.room(at); !ok {
		at = finding.Brief
	}
	if len(f.Faults) == 0 {
		err = move(c, slug, base, by)
	}
	switch {
	case len(f.Faults) > 0 || errors.Is(err, store.ErrConflict):
		j, gone := s.Store.Job(c, slug)
		if gone != nil {
			s.Fail(c, gone)
			return
		}
		if err != nil {
			s.showConflict(c, at, "", j, base)
			return
		}
		s.showStage(c, http.StatusUnprocessableEntity, at, j, nil, &Refused{Faults: f.Faults, Problem: f.Problem()})
		return
	case err == nil:
		c.Set(keptKey, "It was done, and is in the history.")
	}
	s.answerEdit(c, at, "", store.Job{Slug: slug}, base, err)
}

// Author is who made an edit: the name given at this machine, which alone is
// served.
func Author(c *gin.Context) string {
	if name := GivenName(c); name != "" {
		return name
	}
	return "at this machine"
}

// GivenName is the name that whoever sits here gave, "" when nobody did.
func GivenName(c *gin.Context) string {
	value, err := c.Cookie("name")
	if err != nil {
		return ""
	}
	var l fault.List
	l.CheckName("name", "The name", value, MostName, true)
	if len(l) > 0 {
		return ""
	}
	return value
}

// MostName is how many characters the name of an author may have.
const MostName = 40
