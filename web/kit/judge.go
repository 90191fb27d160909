package kit

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"runtime/debug"
	"strings"
	"sync"
	"time"

	"largo/core/finding"
	"largo/core/rig"
	"largo/core/survey"
	"largo/store"
)

// RulesID tells the rules of one build from those of another: it is a digest of
// the program itself, so that no verdict of other rules is ever shown as
// today's.
var RulesID = sync.OnceValue(func() string {
	path, err := os.Executable()
	if err == nil {
		var f *os.File
		if f, err = os.Open(path); err == nil {
			defer f.Close()
			sum := sha256.New()
			if _, err = io.Copy(sum, f); err == nil {
				return hex.EncodeToString(sum.Sum(nil))[:32]
			}
		}
	}
	return "unknown build " + time.Now().UTC().Format(time.RFC3339Nano) // judged anew at each start
})

// VerdictOf is what the list of jobs says of a rig.
func VerdictOf(report *survey.Report) store.Verdict {
	v := store.Verdict{Rules: RulesID(), Says: "Nothing to mend.", Devices: len(report.Rig().Devices)}
	if f, grave := report.Gravest(); grave {
		v.Stage, v.Says = string(f.Stage), f.What
	}
	v.Worst, v.Who = int(finding.Worst(report.Findings)), whoGoes(report.Rig().People)
	return v
}

// whoGoes names people with what they do.
func whoGoes(people []rig.Person) string {
	names := make([]string, len(people))
	for i, p := range people {
		names[i] = p.Name
		if p.Role != "" {
			names[i] += " (" + p.Role + ")"
		}
	}
	return strings.Join(names, ", ")
}

// Judge works out what today's rules say of a listed job, and keeps it.
func (s *Server) Judge(ctx context.Context, l *store.Listed) error {
	r, err := s.Store.ListedRig(ctx, *l)
	switch {
	case errors.Is(err, store.ErrUnreadable):
		l.Verdict = store.Verdict{Rules: RulesID(), Worst: store.Unread, Says: "This job cannot be read: " + reason(err)}
	case err != nil:
		return err
	default:
		l.Verdict = s.survive(l, func() store.Verdict { return VerdictOf(survey.Survey(r)) })
	}
	l.Judged = true
	return s.Store.SetVerdict(ctx, *l, l.Verdict)
}

// survive turns a panic of the rules into a verdict that says so.
func (s *Server) survive(l *store.Listed, of func() store.Verdict) (v store.Verdict) {
	defer func() {
		if p := recover(); p != nil {
			s.Log.Error("a rig that cannot be judged", "job", l.Slug, "revision", l.Number, "panic", fmt.Sprint(p), "stack",
				string(debug.Stack()))
			v = store.Verdict{Rules: RulesID(), Worst: store.Unread,
				Says: "This job cannot be judged: a fault in Largo. The log says what."}
		}
	}()
	return of()
}

// JudgeMore asks for what is not judged yet to be judged, soon.
func (s *Server) JudgeMore() {
	select {
	case s.unjudged <- struct{}{}:
	default: // it is asked for already
	}
}

// judgeAll judges, one after the other, what today's rules have not judged
// yet: after an update that is every job, after a restore perhaps some.
func (s *Server) judgeAll(ctx context.Context) {
	const some, pause = 20, 5 * time.Second
	for ctx.Err() == nil {
		jobs, err := s.Store.Unjudged(ctx, RulesID(), some)
		for i := range jobs {
			if err == nil {
				err = s.Judge(ctx, &jobs[i])
			}
		}
		switch {
		case err == nil && len(jobs) < some:
			select { // the rest is judged as it is kept
			case <-ctx.Done():
			case <-s.unjudged:
			}
		case err != nil && !errors.Is(err, store.ErrNotFound):
			select {
			case <-ctx.Done():
			case <-time.After(pause):
			}
		}
	}
}
