package rig

import (
	"maps"
	"slices"

	"largo/core/fault"
)

// Part is what boxes do in a rig, where that decides how much amplifier they are
// given.
type Part string

// The parts.
const (
	Tops     Part = "tops"
	Subs     Part = "subs"
	HighWays Part = "high ways" // every way but the lowest, of a box with a channel for each
	Fills    Part = "fills"     // for an area of its own
	Monitors Part = "monitors"  // for the stage
)

// Parts lists them.
var Parts = []Part{Tops, Subs, HighWays, Fills, Monitors}

// PartOf is the part of a box, or of a way of it on a pair of poles, from 1.
func PartOf(aim Aim, sub bool, poles int) Part {
	switch {
	case poles > 1:
		return HighWays
	case sub:
		return Subs
	case aim == OnStage:
		return Monitors
	case aim != Audience:
		return Fills
	}
	return Tops
}

// PolicyOf is the policy of a part: its own, else that of the rig.
func (r Rig) PolicyOf(p Part) Policy {
	if own, set := r.Policies[p]; set {
		return own
	}
	return r.Policy
}

// SetPolicies gives parts a policy of their own; those left out follow the rig's.
type SetPolicies struct {
	Policies map[Part]Policy `json:"policies,omitempty"`
}

// Say tells what the edit does.
func (e SetPolicies) Say() string {
	if len(e.Policies) == 0 {
		return "One power policy for all boxes"
	}
	return "Power policies of their own for some boxes"
}

func (e SetPolicies) change(r *Rig) error {
	r.Policies = maps.Clone(e.Policies)
	return nil
}

func (r Rig) checkPolicies(l *fault.List) {
	for _, p := range slices.Sorted(maps.Keys(r.Policies)) {
		if !slices.Contains(Parts, p) {
			l.Add("policies", "%.20q is no part of a rig; there are tops, subs, high ways, fills and monitors.", p)
			continue
		}
		oneOf(l, "policies", r.Policies[p], Policies)
	}
}
