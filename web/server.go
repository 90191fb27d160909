// Package web is the interface: one file a stage, each thin. It reads a rig,
// asks the core what follows from it, and shows that; every change goes
// through an edit of the core and is answered when it is durable.
package web

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/finding"
	"largo/store"
)

// Server serves the interface from a store.
type Server struct {
	store  *store.Store
	log    *slog.Logger
	pages  pages
	paths  map[finding.Stage]stage
	recall recall
}

// stage is how a stage of the day is shown.
type stage struct {
	view func(*Server, *page) error
}

// mostForm bounds the body of an ordinary form, in bytes.
const mostForm = 256 << 10

// New makes the handler of the whole interface.
func New(st *store.Store, log *slog.Logger) (http.Handler, error) {
	parsed, err := parsePages()
	if err != nil {
		return nil, err
	}
	s := &Server{store: st, log: log, pages: parsed, recall: newRecall()}
	s.paths = map[finding.Stage]stage{
		finding.Brief:   {(*Server).viewBrief},
		finding.Match:   {(*Server).viewMatch},
		finding.Wire:    {(*Server).viewWire},
		finding.Protect: {(*Server).viewProtect},
		finding.Start:   {(*Server).viewStart},
		finding.Strike:  {(*Server).viewStrike},
	}
	gin.SetMode(gin.ReleaseMode)
	e := gin.New()
	e.HandleMethodNotAllowed = true
	e.Use(s.logged, s.recovered, headers, s.local, pageGzip, bounded)
	if err := serveStatic(e); err != nil {
		return nil, err
	}
	s.routes(e)
	return http.NewCrossOriginProtection().Handler(e), nil
}

// pageGzip packs pages quickly, for they are made anew for each request; what
// is static is packed better, and a stream of events not at all.
var pageGzip = gzip.Gzip(gzip.BestSpeed, gzip.WithExcludedPathsRegexs([]string{"^/static/", "/plan/progress$"}))

func (s *Server) routes(e *gin.Engine) {
	e.GET("/healthz", s.health)
	e.GET("/", s.jobs)
	e.POST("/jobs", s.createJob)
	e.POST("/jobs/import", s.importJob)
	e.POST("/scheme", s.setScheme)
	e.GET("/gear", s.gear)
	e.GET("/gear.csv", s.exportGear)
	e.GET("/gear.json", s.exportGear)
	e.GET("/gear.xlsx", s.exportGear)
	e.GET("/advise", s.advise)
	e.GET("/stock", s.stock)
	e.GET("/stock.csv", s.exportStock)
	e.GET("/stock.xlsx", s.exportStock)
	e.POST("/stock", s.setStock)
	e.POST("/stock/import", s.importStock)
	e.POST("/stock/import/take", s.takeStock)
	e.POST("/gear/import", s.importGear)
	e.POST("/gear/import/take", s.takeGear)
	e.GET("/gear/new/:kind", s.newModel)
	e.POST("/gear/new/:kind", s.saveModel)
	e.GET("/gear/model/:id", s.editModel)
	e.POST("/gear/model/:id", s.saveModel)
	e.GET("/gear/model/:id/curve/:curve", s.exportCurve)
	e.POST("/gear/model/:id/curve/:curve", s.importCurve)

	j := e.Group("/jobs/:job")
	j.GET("", func(c *gin.Context) { c.Redirect(http.StatusSeeOther, c.Request.URL.Path+"/brief") })
	j.GET("/:stage", s.stagePage)
	j.POST("/undo", s.undo)
	j.POST("/redo", s.redo)
	j.POST("/mend", s.mend)
	j.POST("/history/name", s.nameRevision)
	j.POST("/history/who", s.setName)
	j.POST("/history/restore", s.restore)
	j.POST("/brief", s.editBrief)
	j.POST("/match/wishes", s.editWishes)
	j.POST("/plan", s.takePlan)
	j.GET("/plan/progress", s.planProgress)
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

// logged writes one line a request.
func (s *Server) logged(c *gin.Context) {
	begun := time.Now()
	c.Next()
	s.log.LogAttrs(c, slog.LevelInfo, "request", slog.String("method", c.Request.Method), slog.String("path", c.Request.URL.Path),
		slog.Int("status", c.Writer.Status()), slog.Duration("took", time.Since(begun)))
}

// recovered turns a panic into a page, and a line for us.
func (s *Server) recovered(c *gin.Context) {
	defer func() {
		if p := recover(); p != nil {
			s.log.ErrorContext(c, "panic", "path", c.Request.URL.Path, "panic", fmt.Sprint(p))
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

// problem is an error as a person should read it.
type problem struct {
	Status int
	Title  string
	Say    string
}

func explain(err error, changing bool) problem {
	var tooBig *http.MaxBytesError
	var faults fault.List
	kept := ""
	if changing {
		kept = "The edit was not kept. "
	}
	switch {
	case errors.Is(err, store.ErrNotFound):
		return problem{http.StatusNotFound, "Not here", "There is no such page. It may have been renamed or taken away."}
	case errors.Is(err, store.ErrDown):
		return problem{http.StatusServiceUnavailable, "The database does not answer", kept + "The database does not answer; what stands on this page is still yours. Try again in a moment."}
	case errors.As(err, &faults):
		return problem{http.StatusUnprocessableEntity, "Not understood", kept + faults[0].Say}
	case errors.As(err, &tooBig):
		return problem{http.StatusRequestEntityTooLarge, "Too large", kept + "What was sent is larger than Largo takes."}
	}
	return problem{http.StatusInternalServerError, "A fault in Largo", kept + "Something went wrong inside Largo; the log says what."}
}

// fail answers an error that has no page of its own.
func (s *Server) fail(c *gin.Context, err error) {
	p := explain(err, c.Request.Method != http.MethodGet)
	if p.Status >= 500 {
		s.log.ErrorContext(c, "failed", "path", c.Request.URL.Path, "error", err)
	}
	c.Abort()
	s.render(c, p.Status, "problem", &page{Title: p.Title, Verdict: p.Title, Problem: p.Say, Scheme: scheme(c)})
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
	case "output":
		s.output(c)
		return
	case "whatif":
		s.whatIf(c)
		return
	case "plan":
		s.plan(c)
		return
	case "hookup":
		s.hookUp(c)
		return
	case "rig.json":
		s.exportRig(c)
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

// newCommand is an id for the next edit of a page.
func newCommand() string {
	var b [16]byte
	_, _ = rand.Read(b[:]) // never fails, by its documentation
	return uuidOf(b)
}

// uuidOf writes 122 of 128 bits as a UUID of version 4.
func uuidOf(b [16]byte) string {
	b[6], b[8] = b[6]&0x0f|0x40, b[8]&0x3f|0x80
	return fmt.Sprintf("%x-%x-%x-%x-%x", b[:4], b[4:6], b[6:8], b[8:10], b[10:])
}
