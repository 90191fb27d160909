package kit

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"largo/core/fault"
)

// Whatever people and machines send is judged once, before anything is made of
// it: that it is text, of some length. What it means is the forms' matter.

// Bounds on what one request may ask with.
const (
	MostQuery  = 8 << 10   // bytes of an address
	mostForm   = 256 << 10 // bytes of an ordinary form
	mostTyped  = 8_000     // characters in one field
	mostFields = 2_000     // of one form
)

// lists are fields that hold a whole file, which its reader judges.
var lists = map[string]bool{"list": true}

// checkTexts faults, at its field, what is no text or longer than any field
// takes; such a value is taken out, so that nothing is made of it or shown.
func (f *Form) checkTexts() {
	posted := f.Gin.Request.PostForm
	fields := 0
	for name, values := range posted {
		if fields += len(values); fields > mostFields || fault.Improper(name) != "" {
			f.Fault("", "The form has more fields, or others, than any page of Largo. Load it again.")
			clear(posted)
			return
		}
		for i, v := range values {
			why := fault.Improper(v)
			if n := utf8.RuneCountInString(v); why == "" && n > mostTyped && !lists[name] {
				why = fmt.Sprintf("has %d characters; keep it to %d", n, mostTyped)
			}
			if why != "" {
				f.Fault(name, "This %s.", why)
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
	if !strings.HasPrefix(path, "/") || strings.HasPrefix(path, "//") || strings.ContainsAny(path, "\\\t\r\n") ||
		fault.Improper(path) != "" || len(path) > MostQuery {
		return "/"
	}
	first, _, _ := strings.Cut(strings.TrimPrefix(path, "/"), "/")
	first, _, _ = strings.Cut(first, "?")
	switch first {
	case "", "jobs", "gear", "stock", "advise", "bench", "signals":
		return path
	}
	return "/"
}

// MostRevision is the largest number that a revision can have.
const MostRevision = 1<<31 - 1
