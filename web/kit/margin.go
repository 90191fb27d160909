package kit

import (
	"cmp"
	"errors"
	"net/url"
	"slices"
	"strconv"
	"strings"

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
	Changed  *Changes
	Findings []findingGroup
	Count    int    // of all findings
	Quiet    string // what to say when there are none
}

// findingGroup are findings that say the same of different places.
type findingGroup struct {
	finding.Finding // the first of them
	All             []findingView
	Together        *mendView // all of them at one stroke
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
	Figures []Sum
}

type mendView struct {
	Label string
	Look  string // where to see its effect first
	Shown bool   // its effect is shown now
}

// preview is the effect of a mend before it is made.
type preview struct {
	Label, Finding, N string
	Effect            Changes
	Close             string
}

// Changes are what an edit does to the findings and figures, as the margin shows it.
type Changes struct {
	Gone, New []finding.Finding
	Figures   []changeView
	Count     int // of figures that changed, shown or not
	Close     string
}

// changeView is one figure before and after, "" where it is not there; its place is
// named on the first of a run alone.
type changeView struct{ Place, Name, Before, After string }

// MostChanges is how many changed figures the margin lists.
const MostChanges = 8

// telling are the figures by which somebody decides, by their keys: what an output is
// loaded with and gives, what arrives, how loud it is, what it takes. The rest follows
// from them, and is asked for where it stands.
var telling = []string{"load", "power", "gives", "ratio", "boxPower", "loss", "damping", "level", "average", "spare",
	"long", "peak", "total", "draw"}

func (s *Server) fillMargin(p *Page) error {
	q := p.Ask
	shown := q.Get("mend")
	found := p.Report.At(p.Stage)
	p.Margin.Count = len(found)
	for _, alike := range finding.Alike(found) {
		group := findingGroup{Finding: alike[0]}
		for _, f := range alike {
			group.All = append(group.All, p.findingView(f, shown, q.Get("n")))
		}
		if way, ok := finding.Together(alike); ok {
			m := p.mendView(alike[0].ID(), together, way, shown, q.Get("n"))
			group.Together = &m
		}
		p.Margin.Findings = append(p.Margin.Findings, group)
	}
	p.Margin.Quiet = "Nothing to mend at this stage."
	if place := q.Get("sum"); place != "" {
		if f, ok := p.Report.Figure(place, q.Get("figure")); ok {
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

func (p *Page) findingView(f finding.Finding, shown, n string) findingView {
	v := findingView{Finding: f, ID: f.ID()}
	place := f.At.String()
	if f.At.Port == "" {
		place = f.At.Device
	}
	for _, fig := range f.Figures {
		if _, ok := p.Report.Figure(place, fig.Key); ok {
			v.Figures = append(v.Figures, p.Sum(place, fig))
		}
	}
	for i, m := range f.Mends {
		v.Mends = append(v.Mends, p.mendView(v.ID, strconv.Itoa(i), m, shown, n))
	}
	return v
}

func (p *Page) mendView(id, n string, way finding.Way, shownID, shownN string) mendView {
	q := url.Values{"mend": {id}, "n": {n}}
	return mendView{Label: way.Label, Look: p.Here + "?" + q.Encode(), Shown: shownID == id && shownN == n}
}

// together stands for the number of a mend where all findings that are alike
// are mended at one stroke.
const together = "all"

func (p *Page) preview(id, n string) *preview {
	f, m, ok := findMend(p.Report, id, n)
	if !ok {
		return nil
	}
	v := &preview{Label: m.Label, Finding: f.ID(), N: n, Close: p.Here}
	if next, err := rig.Apply(p.Rig(), m.Edit); err == nil {
		v.Effect = Changed(survey.Compare(p.Report, survey.Survey(next)), f.At.Device, MostChanges)
	}
	return v
}

func findMend(report *survey.Report, id, n string) (finding.Finding, finding.Way, bool) {
	f, ok := report.Finding(id)
	if ok && n == together {
		for _, alike := range finding.Alike(report.Findings) {
			if alike[0].ID() == id {
				way, ok := finding.Together(alike)
				return f, way, ok
			}
		}
	}
	i, err := strconv.Atoi(n)
	if !ok || err != nil || i < 0 || i >= len(f.Mends) {
		return f, finding.Way{}, false
	}
	return f, f.Mends[i], true
}

// fillChanged tells what the last edit did, as before and after.
func (s *Server) fillChanged(p *Page, since int) error {
	stamp, err := s.Store.RevisionStamp(p.Gin, p.Job.Slug, since)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	} else if err != nil {
		return err
	}
	if report, have := s.recall.reports.Get(revision{p.Job.Slug, stamp}); have {
		p.setChanged(report)
		return nil
	}
	before, err := s.Store.RevisionRig(p.Gin, p.Job.Slug, since)
	switch {
	case errors.Is(err, store.ErrNotFound), errors.Is(err, store.ErrUnreadable):
		return nil // what it was before cannot be said
	case err != nil:
		return err
	}
	p.setChanged(survey.Survey(before))
	return nil
}

func (p *Page) setChanged(before *survey.Report) {
	c := Changed(survey.Compare(before, p.Report), "", MostChanges)
	c.Close = p.Here
	p.Margin.Changed = &c
}

// Changed words a comparison: findings, then figures, at most so many; those of the device
// that it is about come first. Where they are few, it is those by which somebody decides.
func Changed(c survey.Changes, about string, most int) Changes {
	v := Changes{Gone: c.Gone, New: c.New, Count: len(c.Figures)}
	slices.SortStableFunc(c.Figures, func(a, b survey.Change) int {
		return nearness(a, about) - nearness(b, about)
	})
	place := ""
	for _, f := range c.Figures {
		key := cmp.Or(f.After.Key, f.Before.Key)
		if len(v.Figures) == most || most <= MostChanges && !slices.Contains(telling, key) ||
			!says(f.Before) && !says(f.After) {
			continue
		}
		view := changeView{Place: f.Place, Name: cmp.Or(f.After.Name, f.Before.Name), Before: figureText(f.Before),
			After: figureText(f.After)}
		if f.Place == place {
			view.Place = ""
		}
		place = f.Place
		v.Figures = append(v.Figures, view)
	}
	return v
}

// says tells whether a figure of a comparison is there and known.
func says(f reckon.Figure) bool { return f.Key != "" && f.Known() }

// figureText is a figure of a comparison, "" where it is not there.
func figureText(f reckon.Figure) string {
	switch {
	case f.Key == "":
		return ""
	case !f.Known():
		return "not known"
	}
	return f.Text()
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
