package plan

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"largo/core/drive"
	"largo/core/gear"
	"largo/core/unit"
	"largo/core/words"
)

// byNeed deals outputs out to amplifiers that share a supply, so that what each
// amplifier's outputs need together is least on the one that needs most: the one in
// need of most goes to where most is left and a channel is free (a greedy rule; the
// largest first, R. L. Graham, 1969; from memory). The lists are by amplifier; needs
// begins with what its kept outputs need.
func byNeed(outs []PlannedOutput, free, pairs []int, needs []unit.Watt) [][]PlannedOutput {
	order := slices.Clone(outs)
	slices.SortStableFunc(order, func(a, b PlannedOutput) int {
		return cmp.Or(cmp.Compare(b.channels(), a.channels()), cmp.Compare(b.Needs, a.Needs))
	})
	lists := make([][]PlannedOutput, len(free))
	for _, o := range order {
		best := -1
		for i := range free {
			if free[i] < o.channels() || o.Mode == gear.Bridged && pairs[i] == 0 {
				continue
			}
			if best < 0 || needs[i] < needs[best] {
				best = i
			}
		}
		if best < 0 {
			continue // the problem's rows promise that there is room
		}
		lists[best] = append(lists[best], o)
		needs[best] += o.Needs
		if free[best] -= o.channels(); o.Mode == gear.Bridged {
			pairs[best]--
		}
	}
	return lists
}

// limit works out what the outputs of an amplifier give that share its supply, and
// which of them have to be limited so that the others have what they need; held is
// what its kept outputs need.
func (a *PlannedAmp) limit(most, held unit.Watt) {
	asked, needed := held, held
	for _, o := range a.Outputs {
		asked, needed = asked+o.Power, needed+o.Needs
	}
	if asked <= most {
		return
	}
	if needed > most*(1+1e-9) {
		a.Short = fmt.Sprintf("%s cannot give all its outputs what they need at once: %s of %s.", a.Tag, needed, most)
		return
	}
	order := make([]int, len(a.Outputs)) // whose limiting saves most, first
	for i := range order {
		order[i] = i
	}
	saves := func(i int) unit.Watt { return a.Outputs[i].Power - a.Outputs[i].Needs }
	slices.SortStableFunc(order, func(i, j int) int { return cmp.Compare(saves(j), saves(i)) })
	if needed == held { // no policy asks for a least: the supply shares itself out
		demands := make([]drive.Demand, len(a.Outputs))
		for i, o := range a.Outputs {
			demands[i] = drive.Demand{Power: o.Power}
		}
		part := drive.Shared(demands, most-held)
		for i := range a.Outputs {
			a.Outputs[i].Ratio *= part
		}
		return
	}
	var names []string
	var volts unit.Volt
	for _, i := range order {
		if asked <= most {
			break
		}
		o := &a.Outputs[i]
		asked -= saves(i)
		o.Ratio *= float64(o.Needs / o.Power)
		v := unit.Volt(math.Ceil(float64(o.Needs.Across(o.Load))*10) / 10)
		o.Limit = unit.Of(v)
		names, volts = append(names, o.Port), max(volts, v)
	}
	a.Only = fmt.Sprintf("%s: only while %s %s limited to %s: %s of %s.", a.Tag, strings.Join(names, ", "),
		map[bool]string{true: "is", false: "are"}[len(names) == 1], volts, asked, most)
}

// Says tells what a plan depends on and where it falls short of the policies: which
// group keeps to which policy, the boxes that get less, and the limiters that shared
// supplies depend on.
func (p Plan) Says() []string {
	var said []string
	for g := range p.Problem.Groups {
		group := &p.Problem.Groups[g]
		least, weak := math.Inf(1), 0
		for _, a := range p.Amps {
			for _, o := range a.Outputs {
				if o.Option.Group == g {
					least = min(least, o.Ratio)
				}
				if o.Option.Group == g && o.Weak {
					weak += o.Boxes
				}
			}
		}
		policy := p.Problem.Wishes.policyOf(group)
		switch {
		case math.IsInf(least, 1):
		case weak > 0:
			said = append(said, fmt.Sprintf("%s: %s get less than the policy %q asks, %s times their rating at the least. It "+
				"works, and distorts when pushed.", group.Name, words.Count(weak, "box", "boxes"), policy, unit.Fixed(least, 2)))
		default:
			said = append(said, fmt.Sprintf("%s: as the policy %q asks, %s times the rating at the least.", group.Name, policy,
				unit.Fixed(least, 2)))
		}
	}
	for _, a := range p.Amps {
		for _, s := range []string{a.Only, a.Short} {
			if s != "" {
				said = append(said, s)
			}
		}
	}
	return append(said, p.Dealt.says()...)
}
