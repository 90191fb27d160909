package web

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/store"
)

// Whatever people and machines send is judged once, before anything is made of
// it: that it is text, of some length. What it means is the forms' matter.

// Bounds on what one request may ask with.
const (
	mostQuery  = 8 << 10 // bytes of an address
	mostTyped  = 8_000   // characters in one field
	mostFields = 2_000   // of one form
)

// proper refuses an address that is no text, or far longer than any of ours.
func (s *Server) proper(c *gin.Context) {
	u := c.Request.URL
	if fault.Improper(u.Path) != "" || len(u.Path) > mostQuery {
		s.fail(c, store.ErrNotFound)
		return
	}
	if len(u.RawQuery) > mostQuery {
		s.fail(c, fault.At("", "The address is too long."))
		return
	}
	for _, values := range u.Query() {
		for _, v := range values {
			if why := fault.Improper(v); why != "" {
				s.fail(c, fault.At("", "What was asked for %s.", why))
				return
			}
		}
	}
	c.Next()
}

// lists are fields that hold a whole file, which its reader judges.
var lists = map[string]bool{"list": true}

// checkTexts faults, at its field, what is no text or longer than any field
// takes; such a value is taken out, so that nothing is made of it or shown.
func (f *form) checkTexts() {
	posted := f.c.Request.PostForm
	fields := 0
	for name, values := range posted {
		if fields += len(values); fields > mostFields || fault.Improper(name) != "" {
			f.fault("", "The form has more fields, or others, than any page of Largo. Load it again.")
			clear(posted)
			return
		}
		for i, v := range values {
			why := fault.Improper(v)
			if n := utf8.RuneCountInString(v); why == "" && n > mostTyped && !lists[name] {
				why = fmt.Sprintf("has %d characters; keep it to %d", n, mostTyped)
			}
			if why != "" {
				f.fault(name, "This %s.", why)
				values[i] = cleaned(v)
			}
		}
	}
}

// cleaned is what of a text can be shown again where it was typed.
func cleaned(v string) string {
	v = strings.Map(func(r rune) rune {
		if fault.Improper(string(r)) != "" {
			return -1
		}
		return r
	}, strings.ToValidUTF8(v, ""))
	if r := []rune(v); len(r) > mostTyped {
		v = string(r[:mostTyped])
	}
	return v
}

// ownPage is a path that leads to a page of ours, or "/".
func ownPage(path string) string {
	if !strings.HasPrefix(path, "/") || strings.HasPrefix(path, "//") || strings.ContainsAny(path, "\\\t\r\n") || fault.Improper(path) != "" || len(path) > mostQuery {
		return "/"
	}
	first, _, _ := strings.Cut(strings.TrimPrefix(path, "/"), "/")
	first, _, _ = strings.Cut(first, "?")
	switch first {
	case "", "jobs", "gear", "stock", "advise":
		return path
	}
	return "/"
}

// mostRevision is the largest number that a revision can have.
const mostRevision = 1<<31 - 1
