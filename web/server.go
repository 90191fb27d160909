// Package web is the interface: one file a stage, each thin. It reads a rig,
// asks the core what follows from it, and shows that; every change goes
// through an edit of the core and is answered when it is durable.
package web

import (
	"context"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"runtime/debug"
	"strings"
	"sync"
	"time"

	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/finding"
	"largo/core/survey"
	"largo/store"
)

// Server serves the interface from a store.
type Server struct {
	store    *store.Store
	log      *slog.Logger
	handler  http.Handler
	pages    pages
	paths    map[finding.Stage]stage
	static   staticFiles
	recall   recall
	watch    watch         // who looks at which job
	looking  searches      // plans that are looked for
	unjudged chan struct{} // asks for jobs to be judged
	ending   chan struct{} // closed when open streams have to end
	end      sync.Once
	// database says what is known of a database that does not answer, "" for
	// nothing; it may be nil.
	database func() string
}

// Option is a setting of a Server.
type Option func(*Server)

// WithDatabase lets pages say what happens to a database that does not answer.
func WithDatabase(state func() string) Option { return func(s *Server) { s.database = state } }

// stage is how a stage of the day is shown.
type stage struct {
	view func(*Server, *page) error
}

// mostForm bounds the body of an ordinary form, in bytes.
const mostForm = 256 << 10

// New makes the whole interface. Run has to run beside it.
func New(st *store.Store, log *slog.Logger, options ...Option) (*Server, error) {
	static, err := newStaticFiles()
	if err != nil {
		return nil, err
	}
	parsed, err := parsePages(static)
	if err != nil {
		return nil, err
	}
	s := &Server{store: st, log: log, pages: parsed, static: static, recall: newRecall(), ending: make(chan struct{}), unjudged: make(chan struct{}, 1)}
	for _, o := range options {
		o(s)
	}
	s.paths = map[finding.Stage]stage{
		finding.Brief:   {(*Server).viewBrief},
		finding.Match:   {(*Server).viewMatch},
		finding.Wire:    {(*Server).viewWire},
		finding.Protect: {(*Server).viewProtect},
		finding.Start:   {(*Server).viewStart},
		finding.Strike:  {(*Server).viewStrike},
	}
	for _, stage := range survey.Stages {
		if _, shown := s.paths[stage.Name]; !shown {
			return nil, fmt.Errorf("the stage %s has no view", stage.Name)
		}
	}
	gin.SetMode(gin.ReleaseMode)
	e := gin.New()
	e.HandleMethodNotAllowed = true
	e.ContextWithFallback = true // without it whoever goes away cancels nothing
	e.Use(s.logged, s.recovered, headers, s.local, pageGzip, bounded, s.proper)
	s.static.serve(e)
	s.routes(e)
	s.handler = http.NewCrossOriginProtection().Handler(e)
	return s, nil
}

// ServeHTTP answers a request.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

// Run hears what other servers of the database keep, and judges the jobs that
// today's rules have not judged yet, until the context ends.
func (s *Server) Run(ctx context.Context) {
	var all sync.WaitGroup
	all.Go(func() { s.store.Listen(ctx, s.log, s.watch.tell, func() { s.watch.missed(ctx, s.store) }) })
	all.Go(func() { s.judgeAll(ctx) })
	all.Wait()
}

// EndStreams ends the open streams of events, so that they do not hold up a
// shutdown; all other requests are answered.
func (s *Server) EndStreams() { s.end.Do(func() { close(s.ending) }) }

// pageGzip packs pages quickly, for they are made anew for each request; what
// is static is packed better, and a stream of events not at all.
var pageGzip = gzip.Gzip(gzip.BestSpeed, gzip.WithExcludedPathsRegexs([]string{"^/static/", "/plan/progress$", "/events$"}))

func (s *Server) routes(e *gin.Engine) {
	get := func(g gin.IRoutes, path string, h gin.HandlerFunc) {
		g.GET(path, h)
		g.HEAD(path, h)
	}
	get(e, "/healthz", s.health)
	get(e, "/", s.jobs)
	e.POST("/jobs", s.createJob)
	e.POST("/jobs/import", s.importJob)
	e.POST("/scheme", s.setScheme)
	get(e, "/gear", s.gear)
	get(e, "/gear.csv", s.exportGear)
	get(e, "/gear.json", s.exportGear)
	get(e, "/gear.xlsx", s.exportGear)
	get(e, "/advise", s.advise)
	get(e, "/stock", s.stock)
	get(e, "/stock.csv", s.exportStock)
	get(e, "/stock.xlsx", s.exportStock)
	e.POST("/stock", s.setStock)
	e.POST("/stock/undo", s.undoStock)
	e.POST("/stock/import", s.importStock)
	e.POST("/stock/import/take", s.takeStock)
	e.POST("/gear/import", s.importGear)
	e.POST("/gear/import/take", s.takeGear)
	get(e, "/gear/new/:kind", s.newModel)
	e.POST("/gear/new/:kind", s.saveModel)
	get(e, "/gear/model/:id", s.editModel)
	e.POST("/gear/model/:id", s.saveModel)
	e.POST("/gear/model/:id/undo", s.undoModel)
	e.POST("/gear/model/:id/redo", s.redoModel)
	e.POST("/gear/model/:id/archive", s.archiveModel)
	get(e, "/gear/model/:id/curve/:curve", s.exportCurve)
	e.POST("/gear/model/:id/curve/:curve", s.importCurve)

	j := e.Group("/jobs/:job")
	get(j, "", func(c *gin.Context) { c.Redirect(http.StatusSeeOther, c.Request.URL.Path+"/brief") })
	get(j, "/:stage", s.stagePage)
	j.POST("/undo", s.undo)
	j.POST("/redo", s.redo)
	j.POST("/shelf", s.moveJob)
	j.POST("/mend", s.mend)
	j.POST("/history/name", s.nameRevision)
	j.POST("/history/who", s.setName)
	j.POST("/history/restore", s.restore)
	j.POST("/brief", s.editBrief)
	j.POST("/match/wishes", s.editWishes)
	get(j, "/match/plan", s.plan)
	j.POST("/match/plan", s.takePlan)
	get(j, "/match/plan/progress", s.planProgress)
	get(j, "/match/output", s.output)
	get(j, "/match/whatif", s.whatIf)
	get(j, "/wire/hookup", s.hookUp)
	for _, page := range []string{"match/plan", "match/plan/progress", "match/output", "match/whatif", "wire/hookup"} {
		_, old, _ := strings.Cut(page, "/")
		movedTo(j, old, page)
	}
	j.POST("/match/pair", s.editPair)
	j.POST("/match/adopt", s.adoptPair)
	j.POST("/wire/add", s.addDevices)
	j.POST("/wire/device", s.changeDevice)
	j.POST("/wire/remove", s.removeDevice)
	j.POST("/wire/connect", s.connect)
	j.POST("/wire/disconnect", s.disconnect)
	j.POST("/wire/refresh", s.refreshModel)
	j.POST("/wire/hang", s.hang)
	j.POST("/wire/mirror", s.mirror)
	j.POST("/wire/lead", s.changeLead)
	j.POST("/wire/take", s.takeLeads)
	j.POST("/wire/phantom", s.setPhantom)
	j.POST("/wire/pair", s.throwSwitch)
	j.POST("/wire/place", s.placeDevice)
	j.POST("/wire/tidy", s.tidyDrawing)
	j.POST("/wire/reading", s.recordReading)
	j.POST("/protect/limiter", s.editLimiter)
	j.POST("/protect/knob", s.editKnob)
	j.POST("/start/order", s.editOrder)

	e.NoRoute(func(c *gin.Context) { s.fail(c, store.ErrNotFound) })
}

// movedTo sends whoever asks for the old address of a page of a job on to where
// it lies now, under its stage, with all that was asked or sent.
func movedTo(j *gin.RouterGroup, old, now string) {
	j.Any("/"+old, func(c *gin.Context) {
		to := url.URL{Path: "/jobs/" + c.Param("job") + "/" + now, RawQuery: c.Request.URL.RawQuery}
		c.Redirect(http.StatusPermanentRedirect, to.String())
	})
}

// logged writes one line a request.
func (s *Server) logged(c *gin.Context) {
	begun := time.Now()
	c.Next()
	s.log.LogAttrs(c, slog.LevelInfo, "request", slog.String("method", c.Request.Method), slog.String("path", c.Request.URL.Path),
		slog.Int("status", c.Writer.Status()), slog.Duration("took", time.Since(begun)))
}

// recovered turns a panic into a page, and a line with its stack for us.
func (s *Server) recovered(c *gin.Context) {
	defer func() {
		p := recover()
		switch {
		case p == nil:
		case p == http.ErrAbortHandler: //nolint:errorlint // it is compared as net/http does
			panic(p)
		default:
			s.log.ErrorContext(c, "panic", "path", c.Request.URL.Path, "panic", fmt.Sprint(p), "stack", string(debug.Stack()))
			s.fail(c, fmt.Errorf("panic: %v", p))
		}
	}()
	c.Next()
}

// headers: no page loads anything from another host or runs inline script.
func headers(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", "default-src 'self'; img-src 'self' data:; form-action 'self'; base-uri 'none'; frame-ancestors 'none'")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	c.Next()
}

// local refuses requests for any other name than this machine's own. Without
// it a page elsewhere could point its own name at 127.0.0.1 and pass for us.
func (s *Server) local(c *gin.Context) {
	host := c.Request.Host
	if name, _, err := net.SplitHostPort(host); err == nil {
		host = name
	}
	ip := net.ParseIP(strings.Trim(host, "[]"))
	if host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		c.String(http.StatusMisdirectedRequest, "Largo serves this machine alone, as 127.0.0.1 or localhost.\n")
		c.Abort()
		return
	}
	c.Next()
}

// bounded limits every body, so that nothing is read without end.
func bounded(c *gin.Context) {
	most := int64(mostForm)
	switch c.FullPath() {
	case "/jobs/import", "/gear/import", "/stock/import", "/stock/import/take", "/gear/model/:id/curve/:curve":
		most = mostUpload
	}
	if c.Request.Body != nil {
		c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, most)
	}
	c.Next()
}

func (s *Server) health(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c, 2*time.Second)
	defer cancel()
	if err := s.store.Ping(ctx); err != nil {
		c.String(http.StatusServiceUnavailable, "database: no answer\n")
		return
	}
	c.String(http.StatusOK, "ok\n")
}

// stagePage shows a stage of a job, or one of the pages beside the strip.
func (s *Server) stagePage(c *gin.Context) {
	switch c.Param("stage") {
	case "sheet":
		s.sheet(c)
		return
	case "history":
		s.history(c)
		return
	case "rig.json":
		s.exportRig(c)
		return
	case "events":
		s.events(c)
		return
	}
	at := finding.Stage(c.Param("stage"))
	if _, ok := s.paths[at]; !ok {
		s.fail(c, store.ErrNotFound)
		return
	}
	j, err := s.store.Job(c, c.Param("job"))
	if err != nil {
		s.fail(c, err)
		return
	}
	s.showStage(c, http.StatusOK, at, j, c.Request.URL.Query(), nil)
}

// refused is what was wrong with a form, to be shown where it was typed.
type refused struct {
	form    string // which form of the page
	faults  fault.List
	problem string
	again   *again // the edit, where it can be made all the same
}

// showStage shows a stage of a job. What is asked of it, as the sum of a
// figure or the effect of a mend, stands in ask.
func (s *Server) showStage(c *gin.Context, status int, at finding.Stage, j store.Job, ask url.Values, wrong *refused) {
	p, err := s.newPage(c, at, j, ask, wrong)
	if err == nil {
		err = s.paths[at].view(s, p)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	s.render(c, status, string(at), p)
}
