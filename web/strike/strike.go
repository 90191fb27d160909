// Package strike is the room of the shutdown.
package strike

import (
	"embed"

	"largo/core/finding"
	"largo/core/strike"
	"largo/core/survey"
	"largo/web/kit"
)

//go:embed *.html
var files embed.FS

// Room is the room of this stage.
var Room = kit.Room{Name: string(finding.Strike), Files: files, View: view, Sheet: onSheet,
	Routes: func(r *kit.Routes) {
		r.Get("/jobs/:job/strike/back", showBack)
		r.Post("/jobs/:job/strike/back", kit.WithForm(count))
	},
	Finds: []kit.FindItem{{Label: "Count it back", Note: "what went out", Href: "/strike/back"}},
}

func view(s *kit.Server, p *kit.Page) error {
	plan := survey.Of[strike.Verdict](p.Report)
	of := kit.OrderOf{Steps: plan.Steps, Free: plan.Free, Total: plan.Total, Verb: "Switch off", Place: "strike"}
	for _, why := range plan.Reasons(p.Report.Input()) {
		of.Why, of.Waits = append(of.Why, why.Text), append(of.Waits, why.Waits)
	}
	p.Body = p.Order(of)
	return nil
}

// onSheet puts the shutdown on the sheet.
func onSheet(p *kit.Page) any { return survey.Of[strike.Verdict](p.Report) }
