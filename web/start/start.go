// Package start is the room of the power-up: which switch when.
package start

import (
	"embed"
	"strings"

	"largo/core/finding"
	"largo/core/rig"
	"largo/core/start"
	"largo/core/survey"
	"largo/web/kit"
)

//go:embed *.html *.css
var files embed.FS

// Room is the room of this stage.
var Room = kit.Room{
	Name: string(finding.Start), Files: files, View: view, Sheet: onSheet,
	Routes: func(r *kit.Routes) { r.Edit("/jobs/:job/start/order", readOrder, "order") },
}

func view(s *kit.Server, p *kit.Page) error {
	plan := survey.Of[start.Verdict](p.Report)
	wrong := map[string]bool{}
	for _, f := range p.Report.At(finding.Start) {
		if f.Gravity == finding.Stop {
			wrong[f.At.Device] = true
		}
	}
	of := kit.OrderOf{Steps: plan.Steps, Free: plan.Free, Total: plan.Total, Verb: "Switch on", Place: "start",
		Own: plan.Own, Wrong: wrong, Inrush: map[string]string{}}
	for _, why := range plan.Reasons(p.Report.Input()) {
		of.Why, of.Waits = append(of.Why, why.Text), append(of.Waits, why.Waits)
	}
	for _, s := range plan.Inrush {
		of.Inrush[s.Switch] = s.Says()
	}
	p.Body = p.Order(of)
	return nil
}

func readOrder(r rig.Rig, f *kit.Form) rig.Edit {
	var names []string
	for line := range strings.SplitSeq(f.Gin.PostForm("order"), "\n") {
		if line = strings.TrimSpace(line); line != "" {
			names = append(names, line)
		}
	}
	if why := start.Forbidden(r, names); len(names) > 0 && why != "" {
		f.Fault("", "That is not done: %s", why)
	}
	return rig.SetOrder{Order: names}
}

// onSheet puts the power-up on the sheet.
func onSheet(p *kit.Page) any { return survey.Of[start.Verdict](p.Report) }
