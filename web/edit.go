package web

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"strconv"

	"github.com/gin-gonic/gin"

	"largo/core/finding"
	"largo/core/rig"
	"largo/core/survey"
	"largo/store"
)

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
	f, j, err := s.begin(c)
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

// begin reads the form of a change and the job that it is about.
func (s *Server) begin(c *gin.Context) (*form, store.Job, error) {
	f, err := readForm(c)
	if err != nil {
		return nil, store.Job{}, err
	}
	j, err := s.store.Job(c, c.Param("job"))
	return f, j, err
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
	f, j, err := s.begin(c)
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
