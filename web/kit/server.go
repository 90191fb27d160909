// Package kit is what the rooms of the interface have in common: the frame
// around a page, forms and what is wrong with them, the one way in which a job
// is edited, sums, rulers and drawings. It knows no room; each says what it is by
// a Room.
package kit

import (
	"context"
	"fmt"
	"log/slog"
	"net/http"
	"net/url"
	"sync"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/finding"
	"largo/core/survey"
	"largo/store"
)

// Server serves the rooms from a store.
type Server struct {
	Store    *store.Store
	Log      *slog.Logger
	Ending   chan struct{} // closed when open streams have to end
	rooms    []Room
	pages    pages
	static   staticFiles
	recall   recall
	watch    watch         // who looks at which job
	unjudged chan struct{} // asks for jobs to be judged
	end      sync.Once
	// database says what is known of a database that does not answer, "" for
	// nothing; it may be nil.
	database func() string
}

// Option is a setting of a Server.
type Option func(*Server)

// WithDatabase lets pages say what happens to a database that does not answer.
func WithDatabase(state func() string) Option { return func(s *Server) { s.database = state } }

// NewServer makes a server of rooms. Every stage of the day has to have one.
func NewServer(st *store.Store, log *slog.Logger, rooms []Room, options ...Option) (*Server, error) {
	static, err := newStaticFiles(rooms)
	if err != nil {
		return nil, err
	}
	parsed, err := parsePages(static, rooms)
	if err != nil {
		return nil, err
	}
	s := &Server{Store: st, Log: log, rooms: rooms, pages: parsed, static: static, recall: newRecall(),
		Ending: make(chan struct{}), unjudged: make(chan struct{}, 1)}
	for _, o := range options {
		o(s)
	}
	return s, s.whole()
}

// whole tells what is missing: the room of a stage, its main page, or what a room
// puts on the sheet.
func (s *Server) whole() error {
	for _, stage := range survey.Stages {
		switch _, shown := s.room(stage.Name); {
		case !shown:
			return fmt.Errorf("the stage %s has no room in the web", stage.Name)
		case s.pages[string(stage.Name)] == nil:
			return fmt.Errorf("the room %s has no page %s.html", stage.Name, stage.Name)
		}
	}
	for _, room := range s.rooms {
		if room.Sheet != nil && s.pages[onSheet+" "+room.Name] == nil {
			return fmt.Errorf("the room %s puts something on the sheet and has no %s.html", room.Name, onSheet)
		}
	}
	return nil
}

// Serve adds all addresses: the frame's own and those of the rooms.
func (s *Server) Serve(e *gin.Engine) {
	s.static.serve(e)
	s.frameRoutes(&Routes{server: s, to: e})
	for _, room := range s.rooms {
		r := &Routes{s, room.Name, e}
		if room.View != nil {
			r.Get("/jobs/:job/"+room.Name, stagePage(finding.Stage(room.Name)))
		}
		if room.Routes != nil {
			room.Routes(r)
		}
	}
	e.NoRoute(func(c *gin.Context) { s.Fail(c, store.ErrNotFound) })
}

// frameRoutes are the acts of the frame, which every page of a job has.
func (s *Server) frameRoutes(r *Routes) {
	r.Post("/scheme", (*Server).setScheme)
	r.Get("/jobs/:job", func(_ *Server, c *gin.Context) { c.Redirect(http.StatusSeeOther, c.Request.URL.Path+"/brief") })
	r.Get("/jobs/:job/events", (*Server).events)
	r.Post("/jobs/:job/undo", (*Server).undo)
	r.Post("/jobs/:job/redo", (*Server).redo)
	r.Post("/jobs/:job/mend", (*Server).mend)
}

// Run hears what other servers of the database keep, and judges the jobs that
// today's rules have not judged yet, until the context ends.
func (s *Server) Run(ctx context.Context) {
	var all sync.WaitGroup
	all.Go(func() { s.Store.Listen(ctx, s.Log, s.watch.tell, func() { s.watch.missed(ctx, s.Store) }) })
	all.Go(func() { s.judgeAll(ctx) })
	for _, room := range s.rooms {
		if room.Beside != nil {
			all.Go(func() { room.Beside(ctx, s) })
		}
	}
	all.Wait()
}

// EndStreams ends the open streams of events, so that they do not hold up a
// shutdown; all other requests are answered.
func (s *Server) EndStreams() { s.end.Do(func() { close(s.Ending) }) }

// Refused is what was wrong with a form, to be shown where it was typed.
type Refused struct {
	Form    string // which form of the page
	Faults  fault.List
	Problem string
	Again   *Again // the edit, where it can be made all the same
}

// stagePage shows a stage of a job.
func stagePage(at finding.Stage) Handler {
	return func(s *Server, c *gin.Context) {
		j, err := s.Store.Job(c, c.Param("job"))
		if err != nil {
			s.Fail(c, err)
			return
		}
		s.showStage(c, http.StatusOK, at, j, c.Request.URL.Query(), nil)
	}
}

// showStage shows a stage of a job. What is asked of it, as the sum of a
// figure or the effect of a mend, stands in ask.
func (s *Server) showStage(c *gin.Context, status int, at finding.Stage, j store.Job, ask url.Values, wrong *Refused) {
	p, err := s.newPage(c, at, j, ask, wrong)
	if err == nil {
		room, _ := s.room(at)
		err = room.View(s, p)
	}
	if err != nil {
		s.Fail(c, err)
		return
	}
	s.Render(c, status, string(at), p)
}
