// Package sheet is the paper for the crew's hands: what each stage puts on it.
package sheet

import (
	"embed"
	"html/template"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/finding"
	"largo/web/kit"
)

//go:embed *.html *.css
var files embed.FS

// Room is this room.
var Room = kit.Room{
	Name: "sheet", Files: files,
	Routes: func(r *kit.Routes) { r.Get("/jobs/:job/sheet", show) },
	Finds:  []kit.FindItem{{Label: "Sheet to print", Note: "paper", Href: "/sheet"}},
}

// body is the sheet.
type body struct {
	Title, Facts, Mains, Wanted string
	Revision                    int
	Stops, Mends                []finding.Line
	Parts                       []template.HTML // what the stages put on it
}

func show(s *kit.Server, c *gin.Context) {
	p, err := s.Aside(c, "Sheet")
	if err != nil {
		s.Fail(c, err)
		return
	}
	b := p.Rig().Brief
	v := body{Title: b.Title, Facts: strings.Join(nonEmpty(b.Place, kit.Facts(b)), " · "), Mains: b.Mains,
		Revision: p.Job.Number}
	if b.Wanted.Known() {
		v.Wanted = b.Wanted.String() + " " + b.Weighting.Leq() + " at " + b.Distance.String()
	}
	var mends []finding.Finding
	for _, f := range p.Report.Findings {
		if f.Gravity == finding.Mend {
			mends = append(mends, f)
		}
	}
	v.Stops, v.Mends = finding.Lines(p.Stops()), finding.Lines(mends)
	if v.Parts, err = s.SheetParts(p); err != nil {
		s.Fail(c, err)
		return
	}
	p.Body = v
	s.Render(c, http.StatusOK, "sheet", p)
}

func nonEmpty(parts ...string) []string {
	var out []string
	for _, s := range parts {
		if s != "" {
			out = append(out, s)
		}
	}
	return out
}
