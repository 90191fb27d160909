package strike

import (
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"largo/core/strike"
	"largo/store"
	"largo/web/kit"
)

// backView is what has to come back.
type backView struct {
	Rows []backRow
	Back string
}

// backRow is a model of it.
type backRow struct {
	ID, Name, Kind, How, By string
	Out                     int
	Missing                 int
	Counted                 bool
	Fields                  []kit.Field
	Loose                   []string
}

func showBack(s *kit.Server, c *gin.Context) { counted(s, c, http.StatusOK, nil) }

// counted answers with the list, and what was wrong with a count.
func counted(s *kit.Server, c *gin.Context, status int, wrong *kit.Refused) {
	p, err := s.Aside(c, "Counted back")
	if err != nil {
		s.Fail(c, err)
		return
	}
	if p.Refused = wrong; wrong != nil {
		p.Typed, p.Problem = c.Request.PostForm, wrong.Problem
	}
	came, err := s.Store.CountedBack(c, p.Job.Slug)
	if err != nil {
		s.Fail(c, err)
		return
	}
	list := strike.CountBack(p.Report.Index)
	v := backView{Back: "/jobs/" + p.Job.Slug + "/strike"}
	for _, b := range list {
		n, is := came[b.Model.ID]
		row := backRow{ID: b.Model.ID, Name: b.Model.Title(), Kind: string(b.Model.Kind), How: b.How, Out: b.Out, Counted: is}
		back, faulty := strconv.Itoa(b.Out), "0"
		if is {
			back, faulty, row.By = strconv.Itoa(n.Back), strconv.Itoa(n.Faulty), n.Author+", "+n.At.Format("15:04")
			row.Missing = max(0, b.Out-n.Back)
		}
		form := "count " + b.Model.ID
		row.Fields = []kit.Field{p.Field(form, "back", "Back", back, ""), p.Field(form, "faulty", "of them faulty", faulty,
			"")}
		row.Loose = p.Loose(form, "back", "faulty")
		v.Rows = append(v.Rows, row)
	}
	p.Verdict = strike.Missing(list, func(id string) (int, int, bool) {
		n, is := came[id]
		return n.Back, n.Faulty, is
	})
	p.Here, p.Body = v.Back+"/back", v
	s.Render(c, status, "back", p)
}

// mostCounted bounds what is counted of one model.
const mostCounted = 10_000

func count(s *kit.Server, c *gin.Context, f *kit.Form) {
	n := store.Counted{Model: f.Text("model"), Back: f.Number("back", "pieces"), Faulty: f.Number("faulty", "pieces")}
	switch {
	case len(f.Faults) > 0:
	case n.Back < 0 || n.Back > mostCounted:
		f.Fault("back", "%d cannot be right: give 0 to %d.", n.Back, mostCounted)
	case n.Faulty < 0 || n.Faulty > n.Back:
		f.Fault("faulty", "Of %d that came back no %d are faulty.", n.Back, n.Faulty)
	}
	j, err := s.Store.Job(c, c.Param("job"))
	if err == nil && len(f.Faults) == 0 {
		if _, there := j.Rig.Model(n.Model); !there {
			f.Fault("", "This rig has no %.60q any more.", n.Model)
		}
	}
	if len(f.Faults) > 0 {
		counted(s, c, http.StatusUnprocessableEntity, &kit.Refused{Form: "count " + n.Model, Faults: f.Faults,
			Problem: f.Problem()})
		return
	}
	if err := s.Store.CountBack(c, f.Act(), c.Param("job"), n); err != nil {
		s.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/jobs/"+c.Param("job")+"/strike/back")
}
