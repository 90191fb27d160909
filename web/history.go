package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/finding"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/words"
	"largo/store"
)

type historyView struct {
	Lines    []historyLine
	Pages    pager
	Compared *comparedView
	Who      field // the name that edits are signed with
}

type historyLine struct {
	store.Line
	InForce bool
	Compare string // where to see what is different now
	Field   field  // its name
}

// comparedView is what differs between a revision and the one in force.
type comparedView struct {
	From, To string
	Changes  changes
	Close    string
}

// history lists what was done to a job, when and by whom, and compares any
// state of it with the one in force.
func (s *Server) history(c *gin.Context) { s.showHistory(c, http.StatusOK, nil) }

func (s *Server) showHistory(c *gin.Context, status int, wrong *refused) {
	p, err := s.aside(c, "History")
	if err != nil {
		s.fail(c, err)
		return
	}
	p.Here = "/jobs/" + p.Job.Slug + "/history"
	if wrong != nil {
		p.refused, p.typed, p.Problem = wrong, c.Request.PostForm, wrong.problem
	}
	at := pageAsked(c)
	list, all, err := s.store.History(c, p.Job.Slug, at*mostOnPage, mostOnPage)
	if err != nil {
		s.fail(c, err)
		return
	}
	v := historyView{Who: p.Field("who", "who", "Your name, for the history", givenName(c), "")}
	v.Pages = historyPager(p.Here, at, len(list))
	for _, r := range list {
		line := historyLine{Line: r}
		if !r.Move {
			line.InForce, line.Compare = r.Number == p.Job.Number, p.Here+"?"+url.Values{"from": {strconv.Itoa(r.Number)}}.Encode()
			line.Field = p.Field(fmt.Sprintf("name %d", r.Number), "name", fmt.Sprintf("Name of revision %d", r.Number), r.Name, "")
		}
		v.Lines = append(v.Lines, line)
	}
	p.Verdict = words.Spell(all, "revision", "revisions") + " kept; undo takes nothing away."
	if from, err := strconv.Atoi(c.Query("from")); err == nil {
		if v.Compared, err = s.compare(c, p, from); err != nil {
			s.fail(c, err)
			return
		}
		p.Verdict = comparedVerdict(v.Compared)
	}
	p.Body = v
	s.render(c, status, "history", p)
}

// historyPager leads through the lines of a history, of which nobody needs the
// number.
func historyPager(path string, at, shown int) pager {
	var p pager
	to := func(n int) string {
		if n == 0 {
			return path
		}
		return path + "?page=" + strconv.Itoa(n+1)
	}
	if at > 0 {
		p.Newer = to(at - 1)
	}
	if shown == mostOnPage {
		p.Older = to(at + 1)
	}
	if at > 0 || shown == mostOnPage {
		p.Said = fmt.Sprintf("Lines %d to %d", at*mostOnPage+1, at*mostOnPage+shown)
	}
	return p
}

// compare tells what is different now from an earlier revision.
func (s *Server) compare(c *gin.Context, p *page, from int) (*comparedView, error) {
	before, err := s.store.RevisionRig(c, p.Job.Slug, from)
	if err != nil {
		return nil, err
	}
	return &comparedView{From: strconv.Itoa(from), To: strconv.Itoa(p.Job.Number), Close: p.Here,
		Changes: changed(survey.Compare(survey.Survey(before), p.report), "", 400)}, nil
}

func comparedVerdict(v *comparedView) string {
	n := len(v.Changes.Figures) + v.Changes.More
	if n+len(v.Changes.Gone)+len(v.Changes.New) == 0 {
		return fmt.Sprintf("No figure and no finding differs between revision %s and now.", v.From)
	}
	return fmt.Sprintf("Since revision %s: %s gone, %s new, %s changed.", v.From,
		words.Small(words.Spell(len(v.Changes.Gone), "finding", "findings")), words.Small(words.Spell(len(v.Changes.New), "finding", "findings")), words.Small(words.Spell(n, "figure", "figures")))
}

// nameRevision gives a state of a job a name to find it by.
func (s *Server) nameRevision(c *gin.Context) {
	f, err := readForm(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	number := f.number("number", "revisions")
	var l fault.List
	l.CheckName("name", "The name", f.text("name"), 60, false)
	by := f.act()
	if f.faults = append(f.faults, l...); len(f.faults) > 0 {
		s.showHistory(c, http.StatusUnprocessableEntity, &refused{form: fmt.Sprintf("name %d", number), faults: f.faults, problem: f.problem()})
		return
	}
	if err := s.store.NameRevision(c, c.Param("job"), number, f.text("name"), by); err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/jobs/"+c.Param("job")+"/history")
}

// restore goes back to an earlier state, as one edit more.
func (s *Server) restore(c *gin.Context) {
	number, _ := strconv.Atoi(c.PostForm("number"))
	earlier, err := s.store.RevisionRig(c, c.Param("job"), number)
	if err != nil && !errors.Is(err, store.ErrNotFound) && !errors.Is(err, store.ErrUnreadable) {
		s.fail(c, err)
		return
	}
	s.edit(c, finding.Wire, "restore", func(_ rig.Rig, f *form) rig.Edit {
		if err != nil {
			f.fault("", "There is no revision %d, or it cannot be read.", number)
		}
		return rig.Restore{Rig: earlier, Of: fmt.Sprintf("revision %d", number)}
	})
}
