package run

import (
	"errors"
	"sync"

	"largo/core/fault"
	"largo/store"
)

// latest is how runs stand, so that three hundred phones that hear of one event read it once.
var latest = shared{runs: map[which]store.Ran{}}

// mostKept is how many runs are remembered.
const mostKept = 64

type shared struct {
	mu   sync.Mutex
	runs map[which]store.Ran
}

// which is a run of a database.
type which struct {
	in  *store.Store
	key string
}

// of gives a run that has so many events, read where what is remembered has fewer; 0 asks for it
// as it is now.
func (s *shared) of(key which, events int, read func() (store.Ran, error)) (store.Ran, error) {
	s.mu.Lock()
	defer s.mu.Unlock() // one reads, the others wait for it
	if r, have := s.runs[key]; have && events > 0 && len(r.Events) >= events {
		return r, nil
	}
	r, err := read()
	if err != nil {
		return r, err
	}
	if len(s.runs) >= mostKept {
		clear(s.runs)
	}
	s.runs[key] = r
	return r, nil
}

// asFaults tells whether an error is what the core refuses.
func asFaults(err error) (l fault.List, refused bool) { return l, errors.As(err, &l) }
