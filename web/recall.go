package web

import (
	lru "github.com/hashicorp/golang-lru/v2"

	"largo/core/match"
	"largo/core/survey"
	"largo/store"
)

// recall is what need not be worked out again. It is no state that matters:
// whatever is gone from it is worked out anew, or sent whole.
type recall struct {
	// reports: a revision of a job never changes, so neither does what follows
	// from it, and the one before an edit was mostly the last one shown.
	reports *lru.Cache[revision, *survey.Report]
	// shown: the marks of the parts of a page, by the command that its next
	// edit would bear, so that the answer to that edit can leave them out.
	shown *lru.Cache[string, map[string]bool]
	// edits: the command of the page that made an edit, by the edit's id.
	edits *lru.Cache[string, string]
	// plans: what was found for a rig and wishes, so that a search that was
	// gone on with is not begun anew.
	plans *lru.Cache[string, match.Answer]
}

type revision struct {
	job    int64
	number int
}

func newRecall() recall {
	return recall{recent[revision, *survey.Report](16), recent[string, map[string]bool](64), recent[string, string](256), recent[string, match.Answer](200)}
}

// recent keeps the most recently used of something.
func recent[K comparable, V any](most int) *lru.Cache[K, V] {
	c, err := lru.New[K, V](most)
	if err != nil {
		panic(err) // most is not above 0
	}
	return c
}

// survey is what follows from a job as it stands. It is shared: whoever gets
// it only reads.
func (s *Server) survey(j store.Job) *survey.Report {
	at := revision{j.ID, j.Number}
	if report, have := s.recall.reports.Get(at); have {
		return report
	}
	report := survey.Survey(j.Rig)
	s.recall.reports.Add(at, report)
	return report
}

// keepShown remembers what a page shows.
func (s *Server) keepShown(p *page) {
	marks := make(map[string]bool, len(p.marks))
	for _, m := range p.marks {
		marks[m] = true
	}
	s.recall.shown.Add(p.Command, marks)
}
