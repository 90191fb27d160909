package kit

import (
	lru "github.com/hashicorp/golang-lru/v2"

	"largo/core/survey"
	"largo/store"
)

// recall is what need not be worked out again. It is no state that matters:
// whatever is gone from it is worked out anew, or sent whole.
type recall struct {
	// reports: what follows from a rig follows from it for good, and the state
	// before an edit was mostly the last one shown.
	reports *lru.Cache[revision, *survey.Report]
	// shown: the marks of the parts of a page, by the command that its next
	// edit would bear, so that the answer to that edit can leave them out.
	shown *lru.Cache[string, map[string]bool]
}

// revision tells the rig of a job by the stamp of its revision: numbers may mean
// others after a restore.
type revision struct {
	job   string
	stamp string
}

func newRecall() recall {
	return recall{Recent[revision, *survey.Report](32), Recent[string, map[string]bool](64)}
}

// Recent keeps the most recently used of something.
func Recent[K comparable, V any](most int) *lru.Cache[K, V] {
	c, err := lru.New[K, V](most)
	if err != nil {
		panic(err) // most is not above 0
	}
	return c
}

// survey is what follows from a job as it stands. It is shared: whoever gets
// it only reads.
func (s *Server) survey(j store.Job) *survey.Report {
	at := revision{j.Slug, j.Stamp}
	if report, have := s.recall.reports.Get(at); have {
		return report
	}
	report := survey.Survey(j.Rig)
	for at, why := range report.Broken {
		s.Log.Error("a stage cannot judge a rig", "stage", at, "job", j.Slug, "revision", j.Number, "why", why)
	}
	s.recall.reports.Add(at, report)
	return report
}

// keepShown remembers what a page shows.
func (s *Server) keepShown(p *Page) {
	marks := make(map[string]bool, len(p.marks))
	for _, m := range p.marks {
		marks[m] = true
	}
	s.recall.shown.Add(p.Command, marks)
}
