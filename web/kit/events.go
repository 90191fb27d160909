package kit

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"

	"largo/store"
)

// watch is who looks at which job, and hears when it changes.
type watch struct {
	mu  sync.Mutex
	who map[string]map[chan store.Event]bool // by the job's slug
}

// look begins to hear of a job; done ends it.
func (w *watch) look(slug string) (heard chan store.Event, done func()) {
	heard = make(chan store.Event, 1)
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.who == nil {
		w.who = map[string]map[chan store.Event]bool{}
	}
	if w.who[slug] == nil {
		w.who[slug] = map[chan store.Event]bool{}
	}
	w.who[slug][heard] = true
	return heard, func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		if delete(w.who[slug], heard); len(w.who[slug]) == 0 {
			delete(w.who, slug)
		}
	}
}

// tell passes an event on. Whoever has not read the last one gets the newer
// one in its place: only the state in force matters.
func (w *watch) tell(e store.Event) {
	w.mu.Lock()
	defer w.mu.Unlock()
	for heard := range w.who[e.Job] {
		select {
		case <-heard:
		default:
		}
		heard <- e
	}
}

// missed asks anew for every job that is looked at, for events may have been
// lost.
func (w *watch) missed(ctx context.Context, st *store.Store) {
	w.mu.Lock()
	slugs := make([]string, 0, len(w.who))
	for slug := range w.who {
		slugs = append(slugs, slug)
	}
	w.mu.Unlock()
	for _, slug := range slugs {
		if strings.Contains(slug, "#") { // a run: whoever looks reads it anew
			w.tell(store.Event{Job: slug})
		} else if e, err := st.Head(ctx, slug); err == nil {
			w.tell(e)
		}
	}
}

// heartbeat is how often a stream says that it is still there.
const heartbeat = 20 * time.Second

// Stream tells a page of a thing, by its key, how it stands, at once and at each change, made on
// this server or another; state gives it as of an event, and false for what is gone.
func (s *Server) Stream(c *gin.Context, key, name string, state func(at int) (any, bool)) {
	heard, done := s.watch.look(key)
	defer done()
	first, there := state(0)
	if !there {
		s.Fail(c, store.ErrNotFound)
		return
	}
	out := s.BeginStream(c)
	if c.Request.Method == http.MethodHead {
		return
	}
	out.Send(name, first)
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	for out.Err == nil {
		select {
		case e := <-heard:
			if now, there := state(e.Head); there {
				out.Send(name, now)
			}
		case <-beat.C:
			out.Send("beat", nil)
		case <-s.Ending:
			return
		case <-c.Request.Context().Done():
			return
		}
	}
}

// events tells a page which revision of its job is in force, at once and at
// each change, made on this server or another.
func (s *Server) events(c *gin.Context) {
	slug := c.Param("job")
	heard, done := s.watch.look(slug)
	defer done()
	head, err := s.Store.Head(c, slug)
	if err != nil {
		s.Fail(c, err)
		return
	}
	out := s.BeginStream(c)
	if c.Request.Method == http.MethodHead {
		return
	}
	out.Send("head", head)
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	for out.Err == nil {
		select {
		case e := <-heard:
			out.Send("head", e)
		case <-beat.C:
			out.Send("beat", nil)
		case <-s.Ending:
			return
		case <-c.Request.Context().Done():
			return
		}
	}
}

// stream is an answer of events.
type stream struct {
	w       io.Writer
	flush   func()
	control *http.ResponseController
	Err     error // the first
}

// BeginStream begins an answer that goes on for as long as both sides wish.
func (s *Server) BeginStream(c *gin.Context) *stream {
	c.Header("Content-Type", "text/event-stream")
	c.Header("Cache-Control", "no-store")
	c.Status(http.StatusOK)
	return &stream{w: c.Writer, flush: c.Writer.Flush, control: http.NewResponseController(c.Writer)}
}

// slowest is how long one event may take to be sent: whoever reads nothing any
// more holds up no shutdown.
const slowest = 10 * time.Second

// Send sends one event. The first fault ends the stream and stays in Err.
func (s *stream) Send(event string, data any) {
	b, err := json.Marshal(data)
	_ = s.control.SetWriteDeadline(time.Now().Add(slowest))
	if err == nil {
		_, err = fmt.Fprintf(s.w, "event: %s\ndata: %s\n\n", event, b)
	}
	if err == nil {
		s.flush()
	}
	if s.Err == nil {
		s.Err = err
	}
}
