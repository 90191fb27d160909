// Package web is the interface: a frame and a room for each stage of the day and
// for what stands beside them. It reads a rig, asks the core what follows from it,
// and shows that; every change goes through an edit of the core and is answered
// when it is durable.
package web

import (
	"context"
	"log/slog"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"

	"largo/store"
	"largo/web/bench"
	"largo/web/brief"
	"largo/web/feed"
	"largo/web/gear"
	"largo/web/history"
	"largo/web/jobs"
	"largo/web/kit"
	"largo/web/level"
	"largo/web/match"
	"largo/web/protect"
	"largo/web/run"
	"largo/web/sheet"
	"largo/web/signals"
	"largo/web/start"
	"largo/web/strike"
	"largo/web/sums"
	"largo/web/wire"
)

// rooms are all rooms of the interface: the stages in the order of the day, then
// what stands beside them.
func rooms() []kit.Room {
	return []kit.Room{
		brief.Room, match.Room(), wire.Room, feed.Room, level.Room, protect.Room, start.Room, strike.Room, run.Room,
		sheet.Room, history.Room, jobs.Room, gear.Room, bench.Room, signals.Room, sums.Room,
	}
}

// Server serves the interface from a store.
type Server struct {
	*kit.Server
	handler http.Handler
}

// Option is a setting of a Server.
type Option = kit.Option

// WithDatabase lets pages say what happens to a database that does not answer.
func WithDatabase(state func() string) Option { return kit.WithDatabase(state) }

// New makes the whole interface. Run has to run beside it.
func New(st *store.Store, log *slog.Logger, options ...Option) (*Server, error) {
	return newServer(st, log, rooms(), options...)
}

func newServer(st *store.Store, log *slog.Logger, rooms []kit.Room, options ...Option) (*Server, error) {
	all, err := kit.NewServer(st, log, rooms, options...)
	if err != nil {
		return nil, err
	}
	s := &Server{Server: all}
	gin.SetMode(gin.ReleaseMode)
	e := gin.New()
	e.HandleMethodNotAllowed = true
	e.ContextWithFallback = true // without it whoever goes away cancels nothing
	e.Use(s.logged, s.recovered, headers, s.local, pageGzip, s.proper)
	e.GET("/healthz", s.health)
	e.HEAD("/healthz", s.health)
	all.Serve(e)
	moved(e)
	s.handler = http.NewCrossOriginProtection().Handler(e)
	return s, nil
}

// ServeHTTP answers a request.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

// pageGzip packs pages quickly, for they are made anew for each request; what
// is static is packed better, and a stream of events not at all.
var pageGzip = gzip.Gzip(gzip.BestSpeed,
	gzip.WithExcludedPathsRegexs([]string{"^/static/", "/plan/progress$", "/events$"}))

// moved sends whoever asks for the old address of a page of a job on to where it
// lies now, under its stage, with all that was asked or sent.
func moved(e *gin.Engine) {
	for _, page := range []string{"match/plan", "match/plan/progress", "match/output", "match/whatif", "wire/hookup"} {
		_, old, _ := strings.Cut(page, "/")
		e.Any("/jobs/:job/"+old, func(c *gin.Context) {
			to := url.URL{Path: "/jobs/" + c.Param("job") + "/" + page, RawQuery: c.Request.URL.RawQuery}
			c.Redirect(http.StatusPermanentRedirect, to.String())
		})
	}
}

func (s *Server) health(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c, 2*time.Second)
	defer cancel()
	if err := s.Store.Ping(ctx); err != nil {
		c.String(http.StatusServiceUnavailable, "database: no answer\n")
		return
	}
	c.String(http.StatusOK, "ok\n")
}
