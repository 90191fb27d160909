package feed

import (
	"fmt"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/rig"
	"largo/core/supply"
)

// move finds one device under a node that, plugged in elsewhere, mends it: of those for which
// enough tells so the one that takes least. Where it goes everything has to hold, on dense
// music, with its leakage and its earth.
func (v Verdict) move(i int, enough func(t *supply.Taken) bool) (finding.Way, bool) {
	below := map[int]bool{}
	for _, b := range v.Below(i) {
		below[b] = true
	}
	var best *supply.Taken
	var to string
	for b := range v.Nodes {
		if !below[b] || v.Nodes[b].Part == nil {
			continue
		}
		for _, l := range v.Nodes[b].Loads {
			t := &v.Taken[l]
			if t.Model.Supply != nil || !enough(t) || best != nil && t.Amps(supply.Dense) >= best.Amps(supply.Dense) {
				continue
			}
			if outlet, can := v.takes(t, b, below); can {
				best, to = t, outlet
			}
		}
	}
	if best == nil {
		return finding.Way{}, false
	}
	return finding.Way{Label: fmt.Sprintf("Plug %s into %s", best.Tag, to),
		Edit: rig.PlugMains{Tag: best.Tag, Outlet: to}}, true
}

// takes is an outlet, under none of some nodes, at which a device may stand.
func (v Verdict) takes(t *supply.Taken, from int, but map[int]bool) (outlet string, can bool) {
	shared := map[int]bool{}
	for at := from; at >= 0; at = v.Nodes[at].Up {
		shared[at] = true
	}
	for b := range v.Nodes {
		p := v.Nodes[b].Part
		if p == nil || p.Sort != rig.Outlet || but[b] || p.Lamps != "" && p.Lamps != Sound || p.Button == gear.No {
			continue
		}
		if v.holdsMore(b, t, shared) {
			return p.Name, true
		}
	}
	return "", false
}

// holdsMore tells whether all that feeds an outlet holds one device more, as far as it did not
// feed it already.
func (v Verdict) holdsMore(b int, t *supply.Taken, shared map[int]bool) bool {
	earth, phase := gear.Answer(""), v.Nodes[b].Phase
	limited := false
	for at := b; at >= 0; at = v.Nodes[at].Up {
		n := &v.Nodes[at]
		if n.Part != nil && earth == "" {
			earth = n.Part.Earth
		}
		carries := n.Carries(supply.Dense)
		if n.Three && phase > 0 {
			carries = n.Each[phase-1][supply.Dense]
		} else if shared[at] {
			continue
		}
		if n.Limit > 0 {
			limited = true
			if float64(carries+t.Amps(supply.Dense)) > float64(n.Limit)*v.Rule {
				return false
			}
		}
		if n.Part == nil || shared[at] {
			continue
		}
		if trip, has := n.Part.Residual.Get(); has {
			leaks := float64(n.Leaks + t.Model.Intake.Leakage.Or(0))
			if leaks > leaksMind*float64(trip) || n.Part.Type == rig.GFCI && leaks > gfciHolds {
				return false
			}
		}
	}
	return limited && !(earth == gear.No && t.Model.Intake.Earthed == gear.Yes)
}
