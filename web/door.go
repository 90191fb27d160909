package web

import (
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"runtime/debug"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/store"
	"largo/web/kit"
)

// What every request passes on its way in.

// logged writes one line a request.
func (s *Server) logged(c *gin.Context) {
	begun := time.Now()
	c.Next()
	s.Log.LogAttrs(c, slog.LevelInfo, "request", slog.String("method", c.Request.Method),
		slog.String("path", c.Request.URL.Path),
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
			s.Log.ErrorContext(c, "panic", "path", c.Request.URL.Path, "panic", fmt.Sprint(p), "stack", string(debug.Stack()))
			s.Fail(c, fmt.Errorf("panic: %v", p))
		}
	}()
	c.Next()
}

// headers: no page loads anything from another host or runs inline script. The
// sums that run in the browser are compiled Go, which has to be allowed by name.
func headers(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy",
		"default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; img-src 'self' data:; form-action 'self'; "+
			"base-uri 'none'; frame-ancestors 'none'")
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

// proper refuses an address that is no text, or far longer than any of ours.
func (s *Server) proper(c *gin.Context) {
	u := c.Request.URL
	if fault.Improper(u.Path) != "" || len(u.Path) > kit.MostQuery {
		s.Fail(c, store.ErrNotFound)
		return
	}
	if len(u.RawQuery) > kit.MostQuery {
		s.Fail(c, fault.At("", "The address is too long."))
		return
	}
	for _, values := range u.Query() {
		for _, v := range values {
			if why := fault.Improper(v); why != "" {
				s.Fail(c, fault.At("", "What was asked for %s.", why))
				return
			}
		}
	}
	c.Next()
}
