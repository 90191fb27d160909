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
	p.Body = body{p.Order(of), casesOf(p)}
	return nil
}

// body is the power-up with what to do when it does not go by the book.
type body struct {
	kit.Order
	Cases cases
}

// cases are an emergency, a late arrival and a supply that failed.
type cases struct {
	Emergency string
	Failure   []string
	Late      kit.Field
	LateSays  []string
}

func casesOf(p *kit.Page) cases {
	in := p.Report.Input()
	v := cases{Emergency: start.EmergencyOf(in).Says(), Failure: start.Failure(in)}
	if len(p.Stops()) > 0 { // nobody is told to power up then
		v.Failure = nil
	}
	late := p.Ask.Get("late")
	list := []kit.Choice{{Label: "choose"}}
	for i := range p.Rig().Devices {
		if m := p.Report.Index.ModelAt(i); !m.MakesSound() && len(m.Ports()) > 0 && m.Supply == nil {
			list = append(list, kit.Choice{Value: p.Rig().Devices[i].Tag, Label: p.Rig().Devices[i].Tag})
		}
	}
	v.Late = p.Choose("late", "late", "Plugged in late", late, list...)
	if late != "" && len(p.Stops()) == 0 { // nobody is told to switch anything on at stop
		v.LateSays = start.Late(in, late)
	}
	return v
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
