package feed

import (
	"largo/core/feed"
	"largo/core/rig"
	"largo/core/survey"
	"largo/web/kit"
)

// planView is a plan of who is plugged in where.
type planView struct {
	feed.Planned
	All  bool // of all devices anew
	Says string
}

// planAll is what is asked for where all devices are planned anew, planRest where what is
// plugged in stays.
const planAll, planRest = "all", "rest"

// planOf is the plan that the address asks for; nil where it asks for none.
func planOf(p *kit.Page, v feed.Verdict) *planView {
	asked := p.Ask.Get("plan")
	if v.Tree == nil || asked != planAll && asked != planRest {
		return nil
	}
	out := planView{Planned: v.PlanPlugs(p.Report.Index, asked == planAll), All: asked == planAll}
	out.Says = out.Planned.Says()
	return &out
}

// readPlan plugs the devices as the plan of this rig has them.
func readPlan(r rig.Rig, f *kit.Form) rig.Edit {
	report := survey.Survey(r)
	plan := survey.Of[feed.Verdict](report).PlanPlugs(report.Index, f.Text("plan") == planAll)
	if plan.Way.Edit == nil {
		f.Fault("", "Nothing to plug in otherwise: %s", plan.Says())
		return nil
	}
	return plan.Way.Edit
}
