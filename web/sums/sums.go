// Package sums is the room of sums without a job: a question, its answer and its
// working, with each figure to be varied.
package sums

import (
	"embed"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/sum"
	"largo/web/kit"
)

//go:embed *.html *.css *.js
var files embed.FS

// Room is this room.
var Room = kit.Room{
	Name: "sums", Files: files,
	Routes: func(r *kit.Routes) {
		r.Get("/sums", show)
		r.Get("/sums/answer", answer)
	},
}

// body is the page of sums.
type body struct {
	Question string
	Answer   sum.Shown
	Vary     []varied
	Kinds    []sum.Kind
}

// varied is a figure of the question that can be changed.
type varied struct{ Name, Text, Label string }

func show(s *kit.Server, c *gin.Context) {
	q := change(c.Query("q"), c.Request.URL.Query())
	v := body{Question: q, Kinds: sum.Kinds}
	verdict := "Sums without a job."
	if q != "" {
		v.Answer = sum.Show(q)
		verdict = v.Answer.Says
	}
	for i, n := range v.Answer.Numbers {
		v.Vary = append(v.Vary, varied{"n" + strconv.Itoa(i), n.Text, behind(q, n)})
	}
	p := s.Plain(c, "Sums", verdict)
	p.Body = v
	s.Render(c, http.StatusOK, "sums", p)
}

// behind is what a number of a question is followed by, its unit as it was typed.
func behind(q string, n sum.Number) string {
	if n.At+len(n.Text) > len(q) {
		return ""
	}
	rest := strings.Fields(q[n.At+len(n.Text):])
	if len(rest) == 0 {
		return ""
	}
	return rest[0]
}

// change puts the figures n0, n1 ... in the places of those of a question.
func change(q string, typed url.Values) string {
	numbers := sum.Show(q).Numbers
	for i := len(numbers) - 1; i >= 0; i-- { // from behind, for the places before stay
		n, to := numbers[i], strings.TrimSpace(typed.Get("n"+strconv.Itoa(i)))
		if to == "" || n.At+len(n.Text) > len(q) {
			continue
		}
		q = q[:n.At] + to + q[n.At+len(n.Text):]
	}
	return q
}

// answer gives the answer alone, for the find line.
func answer(_ *kit.Server, c *gin.Context) {
	c.Header("Cache-Control", "no-store")
	c.JSON(http.StatusOK, sum.Show(c.Query("q")))
}
