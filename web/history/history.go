// Package history shows what was done to a job, and goes back to any of it.
package history

import (
	"embed"
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
	"largo/web/kit"
)

//go:embed *.html *.css
var files embed.FS

// Room is this room.
var Room = kit.Room{
	Name: "history", Files: files,
	Routes: func(r *kit.Routes) {
		r.Get("/jobs/:job/history", list)
		r.Post("/jobs/:job/history/name", kit.WithForm(nameRevision))
		r.Post("/jobs/:job/history/who", kit.WithForm(setName))
		r.Post("/jobs/:job/history/restore", restore)
	},
	Finds: []kit.FindItem{{Label: "History", Note: "revisions", Href: "/history"}},
}

// setName keeps the name that edits are signed with.
func setName(s *kit.Server, c *gin.Context, f *kit.Form) {
	var l fault.List
	l.CheckName("who", "The name", f.Text("who"), kit.MostName, false)
	if l = append(f.Faults, l...); len(l) > 0 {
		show(s, c, http.StatusUnprocessableEntity, &kit.Refused{Form: "who", Faults: l, Problem: "Not kept: " + l[0].Say})
		return
	}
	http.SetCookie(c.Writer, &http.Cookie{Name: "name", Value: url.QueryEscape(f.Text("who")), Path: "/",
		MaxAge: 365 * 24 * 3600, HttpOnly: true, SameSite: http.SameSiteStrictMode})
	c.Redirect(http.StatusSeeOther, "/jobs/"+c.Param("job")+"/history")
}

type historyView struct {
	Lines    []historyLine
	Pages    kit.Pager
	Compared *comparedView
	Who      kit.Field // the name that edits are signed with
}

type historyLine struct {
	store.Line
	InForce bool
	Compare string    // where to see what is different now
	Field   kit.Field // its name
}

// comparedView is what differs between a revision and the one in force.
type comparedView struct {
	From, To string
	Changes  kit.Changes
	Close    string
}

// list lists what was done to a job, when and by whom, and compares any
// state of it with the one in force.
func list(s *kit.Server, c *gin.Context) { show(s, c, http.StatusOK, nil) }

func show(s *kit.Server, c *gin.Context, status int, wrong *kit.Refused) {
	p, err := s.Aside(c, "History")
	if err != nil {
		s.Fail(c, err)
		return
	}
	p.Here = "/jobs/" + p.Job.Slug + "/history"
	if wrong != nil {
		p.Refused, p.Typed, p.Problem = wrong, c.Request.PostForm, wrong.Problem
	}
	at := kit.PageAsked(c)
	list, all, err := s.Store.History(c, p.Job.Slug, at*kit.MostOnPage, kit.MostOnPage)
	if err != nil {
		s.Fail(c, err)
		return
	}
	v := historyView{Who: p.Field("who", "who", "Your name, for the history", kit.GivenName(c), "")}
	v.Pages = historyPager(p.Here, at, len(list))
	for _, r := range list {
		line := historyLine{Line: r}
		if !r.Move {
			line.InForce, line.Compare = r.Number == p.Job.Number,
				p.Here+"?"+url.Values{"from": {strconv.Itoa(r.Number)}}.Encode()
			line.Field = p.Field(fmt.Sprintf("name %d", r.Number), "name",
				fmt.Sprintf("Name of revision %d", r.Number), r.Name, "")
		}
		v.Lines = append(v.Lines, line)
	}
	p.Verdict = words.Spell(all, "revision", "revisions") + " kept; undo takes nothing away."
	if from, err := strconv.Atoi(c.Query("from")); err == nil {
		if v.Compared, err = compare(s, c, p, from); err != nil {
			s.Fail(c, err)
			return
		}
		p.Verdict = comparedVerdict(v.Compared)
	}
	p.Body = v
	s.Render(c, status, "history", p)
}

// historyPager leads through the lines of a history, of which nobody needs the
// number.
func historyPager(path string, at, shown int) kit.Pager {
	var p kit.Pager
	to := func(n int) string {
		if n == 0 {
			return path
		}
		return path + "?page=" + strconv.Itoa(n+1)
	}
	if at > 0 {
		p.Newer = to(at - 1)
	}
	if shown == kit.MostOnPage {
		p.Older = to(at + 1)
	}
	if at > 0 || shown == kit.MostOnPage {
		p.Said = fmt.Sprintf("Lines %d to %d", at*kit.MostOnPage+1, at*kit.MostOnPage+shown)
	}
	return p
}

// compare tells what is different now from an earlier revision.
func compare(s *kit.Server, c *gin.Context, p *kit.Page, from int) (*comparedView, error) {
	before, err := s.Store.RevisionRig(c, p.Job.Slug, from)
	if err != nil {
		return nil, err
	}
	return &comparedView{From: strconv.Itoa(from), To: strconv.Itoa(p.Job.Number), Close: p.Here,
		Changes: kit.Changed(survey.Compare(survey.Survey(before), p.Report), "", 400)}, nil
}

func comparedVerdict(v *comparedView) string {
	n := v.Changes.Count
	if n+len(v.Changes.Gone)+len(v.Changes.New) == 0 {
		return fmt.Sprintf("No figure and no finding differs between revision %s and now.", v.From)
	}
	return fmt.Sprintf("Since revision %s: %s gone, %s new, %s changed.", v.From,
		words.Small(words.Spell(len(v.Changes.Gone), "finding", "findings")),
		words.Small(words.Spell(len(v.Changes.New), "finding", "findings")), words.Small(words.Spell(n, "figure", "figures")))
}

// nameRevision gives a state of a job a name to find it by.
func nameRevision(s *kit.Server, c *gin.Context, f *kit.Form) {
	number := f.Number("number", "revisions")
	var l fault.List
	l.CheckName("name", "The name", f.Text("name"), 60, false)
	by := f.Act()
	if f.Faults = append(f.Faults, l...); len(f.Faults) > 0 {
		show(s, c, http.StatusUnprocessableEntity, &kit.Refused{Form: fmt.Sprintf("name %d", number), Faults: f.Faults,
			Problem: f.Problem()})
		return
	}
	if err := s.Store.NameRevision(c, c.Param("job"), number, f.Text("name"), by); err != nil {
		s.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/jobs/"+c.Param("job")+"/history")
}

// restore goes back to an earlier state, as one edit more.
func restore(s *kit.Server, c *gin.Context) {
	number, _ := strconv.Atoi(c.PostForm("number"))
	earlier, err := s.Store.RevisionRig(c, c.Param("job"), number)
	if err != nil && !errors.Is(err, store.ErrNotFound) && !errors.Is(err, store.ErrUnreadable) {
		s.Fail(c, err)
		return
	}
	s.Edit(c, finding.Wire, "restore", func(_ rig.Rig, f *kit.Form) rig.Edit {
		if err != nil {
			f.Fault("", "There is no revision %d, or it cannot be read.", number)
		}
		return rig.Restore{Rig: earlier, Of: fmt.Sprintf("revision %d", number)}
	})
}
