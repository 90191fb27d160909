package level

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"time"

	"github.com/gin-gonic/gin"

	"largo/core/level"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/unit"
	"largo/store"
	"largo/web/kit"
)

// byEarView is the field method at one output, for a phone in the hand.
type byEarView struct {
	Name, Of, Back string
	Tag, Port      string
	Channel        int
	Steps          []byEarStep
	Knob           kit.Field
	Drift          string
	Visit          string // against the last visit to this place
	Others         []kit.Choice
	Done           bool
}

type byEarStep struct {
	level.ByEar
	Who string // that ticked it off, and when
	Now bool   // it is the next to do
}

func listOf(at rig.Ref) string { return "by ear " + at.String() }

// lineAt finds the output that an address names, or the first.
func lineAt(p *kit.Page, of string) (*level.Line, bool) {
	lines := survey.Of[level.Verdict](p.Report).Lines
	for i := range lines {
		if of == "" || lines[i].At == kit.ReadRef(of) {
			return &lines[i], true
		}
	}
	return nil, false
}

func showByEar(s *kit.Server, c *gin.Context) {
	p, err := s.Aside(c, "By ear")
	if err != nil {
		s.Fail(c, err)
		return
	}
	l, found := lineAt(p, c.Query("of"))
	if !found {
		s.Fail(c, store.ErrNotFound)
		return
	}
	ticks, err := s.Store.Ticks(c, p.Job.Slug, listOf(l.At))
	if err != nil {
		s.Fail(c, err)
		return
	}
	v := byEarView{Name: l.At.String(), Of: kit.RefValue(l.At), Back: "/jobs/" + p.Job.Slug + "/level", Tag: l.At.Device,
		Port: l.At.Port, Channel: l.Channel}
	v.Done = true
	steps := level.FieldMethod(rig.NewIndex(p.Rig()), l)
	if len(p.Stops()) > 0 { // nobody is told to raise anything then
		steps = nil
	}
	for _, step := range steps {
		row := byEarStep{ByEar: step}
		if t, ticked := ticks[step.Key]; ticked {
			row.Who = t.Author + ", " + t.At.Format("2 Jan 15:04")
		} else if v.Done {
			row.Now, v.Done = true, false
		}
		v.Steps = append(v.Steps, row)
	}
	v.Knob = p.KnobField("knob "+v.Name, l.Device, l.Channel)
	if v.Drift, err = driftOf(s, c, p.Job.Slug, l); err != nil {
		s.Fail(c, err)
		return
	}
	if v.Visit, err = visitOf(s, c, p.Job.Slug, l); err != nil {
		s.Fail(c, err)
		return
	}
	for _, o := range survey.Of[level.Verdict](p.Report).Lines {
		v.Others = append(v.Others, kit.Choice{Label: o.At.String(), Chosen: o.At == l.At,
			Value: "/jobs/" + p.Job.Slug + "/level/byear?" + url.Values{"of": {kit.RefValue(o.At)}}.Encode()})
	}
	p.Here = "/jobs/" + p.Job.Slug + "/level/byear"
	p.Verdict = "Lining up " + v.Name + " by ear."
	if v.Done {
		p.Verdict = v.Name + " is lined up."
	}
	if len(p.Stops()) > 0 {
		p.Verdict = "Not yet: something of the rig is at stop. Mend that before anything is energised."
	}
	p.Body = v
	s.Render(c, http.StatusOK, "byear", p)
}

// driftOf compares where a level control stands with where it was recorded before.
func driftOf(s *kit.Server, c *gin.Context, slug string, l *level.Line) (string, error) {
	lines, err := s.Store.EditsOf(c, slug, "set knob", l.At.Device, 50)
	if err != nil {
		return "", err
	}
	first := true
	for _, e := range lines {
		edit, err := rig.UnmarshalEdit(e.Edit)
		set, is := edit.(rig.SetKnob)
		if err != nil || !is || set.Set.Channel != l.Channel || set.Forget {
			continue
		}
		if first { // it is the one in force
			first = false
			continue
		}
		d, drifted := level.Drifted(set.Set.Down, l.Down())
		if !drifted {
			return fmt.Sprintf("As it was left on %s.", e.At.Format("2 January")), nil
		}
		return fmt.Sprintf("On %s %s left it at −%s: it stands %s now. Find out why before the limiters are trusted.",
			e.At.Format("2 January"), e.Author, set.Set.Down, further(d)), nil
	}
	return "", nil
}

func further(d unit.Decibel) string {
	if d < 0 {
		return (-d).String() + " further down"
	}
	return d.String() + " further up"
}

// visitOf compares where a level control stands with where it stood at the last visit to this
// place, in whatever job that was: that of the same tag, where it is of the same model.
func visitOf(s *kit.Server, c *gin.Context, slug string, l *level.Line) (string, error) {
	visits, err := s.Store.Visits(c, slug, 1)
	if err != nil || len(visits) == 0 {
		return "", err
	}
	before := visits[0]
	was, there := before.Rig.Device(l.At.Device)
	down, noted := was.Knob(l.Channel)
	if !there || !noted || was.Model != l.Device.Model {
		return "", nil
	}
	day := before.Rig.Brief.Date
	if t, err := time.Parse(time.DateOnly, day); err == nil {
		day = t.Format("2 January 2006")
	}
	said := fmt.Sprintf("At the last visit here, %s of %s, it stood at −%s", before.Rig.Brief.Title,
		day, down)
	if _, noted := l.Device.Knob(l.Channel); !noted {
		return said + "; where it stands now is not on record.", nil
	}
	if d, drifted := level.Drifted(down, l.Down()); drifted {
		return fmt.Sprintf("%s: it stands %s now.", said, further(d)), nil
	}
	return said + ", as it does now.", nil
}

// tick ticks a step off, or takes that back.
func tick(s *kit.Server, c *gin.Context, f *kit.Form) {
	p, err := s.Aside(c, "By ear")
	if err != nil {
		s.Fail(c, err)
		return
	}
	l, found := lineAt(p, f.Text("of"))
	item := f.Text("item")
	if !found || !slices.ContainsFunc(level.FieldMethod(rig.NewIndex(p.Rig()), l),
		func(b level.ByEar) bool { return b.Key == item }) {
		s.Fail(c, store.ErrNotFound)
		return
	}
	if len(f.Faults) > 0 {
		s.Fail(c, f.Faults)
		return
	}
	if err := s.Store.SetTick(c, f.Act(), p.Job.Slug, listOf(l.At), item, f.Text("on") == "yes"); err != nil {
		s.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/jobs/"+p.Job.Slug+"/level/byear?"+url.Values{"of": {kit.RefValue(l.At)}}.Encode())
}
