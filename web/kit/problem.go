package kit

import (
	"context"
	"errors"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/survey"
	"largo/store"
)

// problem is an error as a person should read it.
type problem struct {
	Status int
	Title  string
	Say    string
}

// problemView is what a page that cannot be drawn offers instead.
type problemView struct {
	Job       string // its slug, "" where the page is of no job
	Head      int    // the revision in force
	Kept      bool   // something was kept before the page failed
	Elsewhere []Choice
}

// keptKey is where a request notes, in a sentence, that its edit was kept.
const keptKey = "kept"

// explain says what an error means. Unkept tells whether something was asked
// for that was not kept.
func (s *Server) explain(err error, unkept bool) problem {
	var tooBig *http.MaxBytesError
	var faults fault.List
	kept := ""
	if unkept {
		kept = "The edit was not kept. "
	}
	switch {
	case errors.Is(err, store.ErrNotFound):
		return problem{http.StatusNotFound, "Not here", "There is no such page. It may have been renamed or taken away."}
	case errors.Is(err, store.ErrUnreadable):
		return problem{http.StatusInternalServerError, "It cannot be read", "What is kept here cannot be read: " +
			reason(err) + ". Nothing of it was changed; a backup may hold it whole."}
	case errors.Is(err, store.ErrUnsure) && unkept:
		return problem{http.StatusServiceUnavailable, "Perhaps kept",
			"The database went away just then, so it is not known whether the edit was kept. Send it again in a moment: it " +
				"is kept once, however often it is sent."}
	case errors.Is(err, store.ErrFull):
		return problem{http.StatusServiceUnavailable, "The disk is full",
			kept + "The disk that the database lies on is full. Make room on it; what stands on this page is still yours, " +
				"and can be sent again then."}
	case errors.Is(err, store.ErrDown):
		say := "The database does not answer; what stands on this page is still yours. Try again in a moment."
		if s.database != nil && s.database() != "" {
			say = s.database() + " What stands on this page is still yours."
		}
		return problem{http.StatusServiceUnavailable, "The database does not answer", kept + say}
	case errors.Is(err, store.ErrReused):
		return problem{http.StatusConflict, "Sent before",
			kept + "This page was sent before with something else in it. Load it again."}
	case errors.Is(err, store.ErrConflict):
		return problem{http.StatusConflict, "Changed meanwhile",
			kept + "Somebody else has changed it meanwhile. Load the page again and look at it first."}
	case errors.As(err, &faults):
		return problem{http.StatusUnprocessableEntity, "Not understood", kept + faults[0].Say}
	case errors.As(err, &tooBig):
		return problem{http.StatusRequestEntityTooLarge, "Too large", kept + "What was sent is larger than Largo takes."}
	}
	return problem{http.StatusInternalServerError, "A fault in Largo",
		kept + "Something went wrong inside Largo; the log says what."}
}

// reason is why a stored document cannot be read, in a few words.
func reason(err error) string {
	var faults fault.List
	if errors.As(err, &faults) && len(faults) > 0 {
		return fmt.Sprintf("%s: %.200s", faults[0].Field, faults[0].Say)
	}
	return fmt.Sprintf("%.200s", err)
}

// Fail answers an error that has no page of its own. After an edit that was
// kept it never says otherwise.
func (s *Server) Fail(c *gin.Context, err error) {
	if errors.Is(c.Request.Context().Err(), context.Canceled) {
		c.Abort() // whoever asked has gone away
		return
	}
	kept := c.GetString(keptKey)
	p := s.explain(err, c.Request.Method == http.MethodPost && kept == "")
	if p.Status >= 500 {
		s.Log.ErrorContext(c, "failed", "path", c.Request.URL.Path, "error", err)
	}
	if c.IsAborted() && c.Writer.Written() {
		return // the answer was under way
	}
	c.Abort()
	page := &Page{Title: p.Title, Verdict: p.Title, Problem: p.Say, Scheme: Scheme(c), Command: NewCommand(), Gin: c}
	v := problemView{}
	if kept != "" {
		p.Status = max(p.Status, http.StatusInternalServerError)
		page.Title, page.Verdict = "Kept, and not drawn", kept+" The page that shows it cannot be drawn."
		v.Kept = true
	}
	if p.Status >= 500 && p.Status != http.StatusServiceUnavailable {
		s.offerWaysOut(c, &v)
	}
	page.Body = v
	s.Render(c, p.Status, "problem", page)
}

// offerWaysOut fills what a page of a job that cannot be drawn offers: undo,
// and the pages that may be drawn all the same.
func (s *Server) offerWaysOut(c *gin.Context, v *problemView) {
	slug := c.Param("job")
	if slug == "" {
		return
	}
	head, err := s.Store.Head(c, slug)
	if err != nil {
		return
	}
	v.Job, v.Head = slug, head.Head
	for _, stage := range survey.Stages {
		at := stage.Name
		v.Elsewhere = append(v.Elsewhere, Choice{Label: at.Title(), Value: "/jobs/" + slug + "/" + string(at)})
	}
	v.Elsewhere = append(v.Elsewhere, Choice{Label: "History", Value: "/jobs/" + slug + "/history"})
}
