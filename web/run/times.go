package run

import (
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"largo/core/finding"
	"largo/core/rig"
	"largo/core/run"
	"largo/core/unit"
	"largo/core/words"
	"largo/store"
	"largo/web/kit"
)

// timesView is a run against its plan.
type timesView struct {
	Rows       []timeLine
	Says, Back string
	Here       string
}

// timeLine is a step with its times; Offer is what noting it would change.
type timeLine struct {
	Switch, Planned, Took, By, Note string
	Offer, Tag                      string
}

func times(s *kit.Server, c *gin.Context) {
	r, ok := ranOf(s, c)
	if !ok {
		return
	}
	p, err := s.Aside(c, "Times of a run")
	if err != nil {
		s.Fail(c, err)
		return
	}
	v := timesView{Says: r.Says(r.At.UnixMilli()), Back: "/jobs/" + p.Job.Slug + "/run", Here: href(p.Job.Slug, r.ID)}
	for _, t := range r.Times() {
		v.Rows = append(v.Rows, timeRow(p.Rig(), &r, t))
	}
	p.Verdict, p.Body = titles[r.Sort]+" of "+r.At.Format("2 January, 15:04")+": "+words.Small(v.Says), v
	p.Stage, p.Here = "", v.Here+"/times"
	s.Render(c, http.StatusOK, "times", p)
}

func timeRow(now rig.Rig, r *store.Ran, t run.Time) timeLine {
	step := &r.Steps[t.Step]
	row := timeLine{Switch: step.Switch, Planned: t.Planned.String(), Took: t.Took.String(), By: t.By}
	if t.Left {
		row.Took, row.Note = "", "left off"
		return row
	}
	if t.Tries > 1 {
		row.Note = fmt.Sprintf("thrown %d times", t.Tries)
	}
	if _, m, can := timed(now, r, t.Step); can {
		row.Tag = step.Items[0].Tag
		row.Offer = fmt.Sprintf("Note %s for %s", t.Took, m.Model.Title())
	}
	return row
}

// timed is the model whose time a step tells: of a step of one device whose time is on no record.
func timed(now rig.Rig, r *store.Ran, step int) (rig.Device, rig.ReplaceModel, bool) {
	items := r.Steps[step].Items
	if len(items) != 1 {
		return rig.Device{}, rig.ReplaceModel{}, false
	}
	d, there := now.Device(items[0].Tag)
	m, known := now.Model(d.Model)
	if !there || !known {
		return d, rig.ReplaceModel{}, false
	}
	next := rig.ReplaceModel{Model: *m}
	if r.Sort == run.Strike {
		return d, next, !m.Wake.Drain.Known()
	}
	return d, next, !m.Wake.Settle.Known()
}

// note takes the time of a step over as that of its model, in the rig of this job: by whoever
// says so.
func note(s *kit.Server, c *gin.Context) {
	r, ok := ranOf(s, c)
	if !ok {
		return
	}
	s.Edit(c, finding.Start, "note", func(now rig.Rig, f *kit.Form) rig.Edit {
		tag := f.Text("tag")
		for _, t := range r.Times() {
			step := &r.Steps[t.Step]
			if t.Left || len(step.Items) != 1 || step.Items[0].Tag != tag {
				continue
			}
			_, edit, can := timed(now, &r, t.Step)
			if !can {
				continue
			}
			took := unit.From(t.Took, "timed in the run of "+r.At.Format("2 January 2006"))
			if r.Sort == run.Strike {
				edit.Model.Wake.Drain = took
			} else {
				edit.Model.Wake.Settle = took
			}
			return edit
		}
		f.Fault("", "This run tells no time of %.40q that is not on record already.", tag)
		return nil
	})
}
