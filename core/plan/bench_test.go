package plan_test

import (
	"fmt"
	"testing"

	"largo/core/gear"
	"largo/core/load"
	"largo/core/plan"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

// BenchmarkPlanWithLeads plans 120 boxes of three models at twelve places, from racks
// left and right, over six models of amplifier of which half share a supply, with the
// leads to all of them.
func BenchmarkPlanWithLeads(b *testing.B) {
	r := rigtest.New(b).Add(rigtest.Desk(), "DESK")
	var owned []gear.Holding
	for i := range 6 {
		owned = append(owned, gear.Holding{Count: 30, Model: rigtest.Amp(fmt.Sprintf("amp %d", i), func(a *gear.Amplifier) {
			a.Channels = 2 + 2*(i%2)
			for n := range a.Ratings {
				a.Ratings[n].Power *= unit.Watt(0.8 + 0.2*float64(i))
			}
			if i%2 == 1 {
				a.Together = unit.Of(unit.Watt(900 + 200*float64(i)))
			}
		})})
	}
	lead := func(from, to string, length float64) {
		r.Do(rig.Connect{Link: rig.Link{From: rigtest.Ref(from), To: rigtest.Ref(to), Length: unit.Of(unit.Metre(length)),
			Area: unit.Of(unit.SquareMillimetre(2.5))}})
	}
	for i := range 120 {
		side, amp, box := []string{"left", "right"}[i%2], fmt.Sprintf("A%d", i/2), fmt.Sprintf("B%d", i)
		if i%2 == 0 {
			r.Do(rig.AddDevices{Model: owned[0].Model, Tags: []string{amp}, Place: "rack " + []string{"left", "right"}[i/2%2]}).
				Plug("DESK/main L", amp+"/in 1").Plug("DESK/main R", amp+"/in 2")
		}
		rated := unit.Of(unit.Watt(250 + 50*(i%3)))
		m := rigtest.Box(fmt.Sprintf("box %d", i%3), func(s *gear.Loudspeaker) { s.Continuous = rated })
		r.Do(rig.AddDevices{Model: m, Tags: []string{box}, Place: fmt.Sprintf("%s %d", side, i%6)})
		lead(amp+"/out "+[]string{"A", "B"}[i%2], box+"/in", float64(5+7*(i%6)+3*(i/2%2)))
	}
	w := plan.WishesOf(r.Rig)
	for b.Loop() {
		x := rig.NewIndex(r.Rig)
		outs := load.Outputs(x)
		groups, _ := plan.GroupsOf(x, outs, w)
		p, a := plan.NewProblem(groups, plan.AmpsOf(x, outs, owned, nil, w), w).Best(b.Context(), plan.Fewest, nil)
		best := p.Plan(x, a)
		if !a.Proved || !best.Dealt.Proved || len(best.Edit(x).(rig.Batch).Edits) == 0 {
			b.Fatalf("proved %v, leads proved %v of %d groups", a.Proved, best.Dealt.Proved, len(groups))
		}
	}
}
