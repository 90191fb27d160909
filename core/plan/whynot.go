package plan

import (
	"context"
	"fmt"
	"math"
	"strings"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
	"largo/core/words"
)

// Why tells in sentences why a plan does not use a model of amplifier, or not
// in a mode: what the rules say against it, or what the best plan with it would
// cost more. It is empty for what the plan uses.
func (p Problem) Why(ctx context.Context, a Answer, m int, mode gear.Mode) []string {
	s := &p.Amps[m]
	name := s.Model.Title()
	if p.uses(a, m, mode) {
		return nil
	}
	if s.Count()-p.Wishes.Spare <= 0 {
		if s.Count() == 0 {
			return []string{name + " is neither owned nor for hire."}
		}
		return []string{fmt.Sprintf("%s: all %d are wanted as spares.", name, s.Count())}
	}
	var said []string
	allowed := false
	for g := range p.Groups {
		if why := p.whyGroup(s, &p.Groups[g], mode); why != "" {
			said = append(said, fmt.Sprintf("%s for %s: %s.", name, p.Groups[g].Name, why))
		} else {
			allowed = true
		}
	}
	if !allowed || a.X == nil {
		return said
	}
	return append([]string{p.whyCostlier(ctx, a, m, mode)}, said...)
}

func (p Problem) uses(a Answer, m int, mode gear.Mode) bool {
	if a.X == nil {
		return false
	}
	for j, o := range p.Options {
		if o.Amp == m && o.Mode == mode && a.X[j] > 0.5 {
			return true
		}
	}
	return false
}

// whyGroup says why no number of boxes of a group suits a model in a mode; ""
// when some does. Of many reasons it gives the one of the number that comes
// nearest to what the policy asks.
func (p Problem) whyGroup(s *Stocked, g *Group, mode gear.Mode) string {
	nearest, why := math.Inf(1), ""
	low, high := p.Wishes.band(g)
	for k := 1; k <= len(g.Boxes); k++ {
		o, no := refusal(s, g, mode, k, p.Wishes)
		if no == "" {
			return ""
		}
		off := math.Inf(1)
		if o.Ratio > 0 {
			off = max(low/o.Ratio, o.Ratio/high)
		}
		if why == "" || off < nearest {
			nearest, why = off, no
		}
	}
	return why
}

// whyCostlier compares the best plan with the best one that uses the model in
// the mode at least once.
func (p Problem) whyCostlier(ctx context.Context, a Answer, m int, mode gear.Mode) string {
	name := p.Amps[m].Model.Title()
	if mode == gear.Bridged {
		name += " bridged"
	}
	best := Answer{}
	for j, o := range p.Options {
		if o.Amp != m || o.Mode != mode {
			continue
		}
		b := p.solveWith(ctx, a.Aim, j)
		if b.X != nil && (best.X == nil || p.worth(b, a.Aim) < p.worth(best, a.Aim)) {
			best = b
		}
	}
	if best.X == nil {
		return name + " may be used, but then the rest of the boxes cannot all be driven."
	}
	with, without := p.amplifiers(best.X), p.amplifiers(a.X)
	heavier := p.costOf(best, p.weights()) - p.costOf(a, p.weights())
	switch {
	case with > without:
		return fmt.Sprintf("%s may be used, but the best plan with it takes %d amplifiers, %d more.", name, with,
			with-without)
	case with < without:
		return fmt.Sprintf("%s may be used, and saves %d amplifiers; it loses by the aim of %s.", name, without-with, a.Aim)
	case heavier > 0.05:
		return fmt.Sprintf("%s may be used by as many amplifiers, which are %s heavier together.", name,
			unit.Kilogram(heavier))
	case heavier < -0.05:
		return fmt.Sprintf("%s may be used, and saves %s; it loses by the aim of %s.", name, unit.Kilogram(-heavier), a.Aim)
	}
	return name + " may be used just as well: the plan with it is as good."
}

// solveWith solves with one option used at least once.
func (p Problem) solveWith(ctx context.Context, aim Aim, option int) Answer {
	p.forced = option + 1
	return p.Solve(ctx, aim, nil)
}

func (p Problem) costOf(a Answer, cost []float64) (sum float64) {
	for j, c := range cost {
		sum += c * a.X[j]
	}
	return sum
}

// worth is an answer's cost at the aim, its second cost behind the first.
func (p Problem) worth(a Answer, aim Aim) float64 {
	goals := p.goals(aim)
	return p.costOf(a, goals[0].cost)*1e6 + p.costOf(a, goals[1].cost)
}

// Relaxed is a wish that could be given up.
type Relaxed struct {
	Name  string
	apply func(*Wishes, *[]Stocked)
}

// relaxations are the wishes in force, each with what giving it up means.
func relaxations(w Wishes) []Relaxed {
	var list []Relaxed
	add := func(inForce bool, name string, apply func(*Wishes, *[]Stocked)) {
		if inForce {
			list = append(list, Relaxed{name, apply})
		}
	}
	add(w.Spare > 0, "spare amplifiers in the truck", func(w *Wishes, _ *[]Stocked) { w.Spare = 0 })
	add(w.Margin > 0, "the margin over the least load", func(w *Wishes, _ *[]Stocked) { w.Margin = 0 })
	add(w.Mirrors, "left driven like right", func(w *Wishes, _ *[]Stocked) { w.Mirrors = false })
	add(len(w.Keep) > 0, "the outputs that are kept", func(w *Wishes, _ *[]Stocked) { w.Keep = nil })
	add(len(w.Circuits) > 0, "what the circuits carry", func(w *Wishes, _ *[]Stocked) { w.Circuits = nil })
	add(w.School != rig.Freely, "the bridging school, for bridging freely where the evidence allows",
		func(w *Wishes, _ *[]Stocked) { w.School = rig.Freely })
	add(!w.Weak, "enough power: amplifiers weaker than the policy asks",
		func(w *Wishes, _ *[]Stocked) { w.Weak = true })
	add(!w.Loud, "the limit on power: up to twice the rating, with limiters set",
		func(w *Wishes, _ *[]Stocked) { w.Loud = true })
	add(true, "the stock: more of the same amplifiers", func(_ *Wishes, amps *[]Stocked) {
		for i := range *amps {
			(*amps)[i].Owned += mostHired
		}
	})
	return list
}

// GiveUp finds the smallest sets of wishes without which there is a plan, by
// their names; none where nothing helps. Build makes the problem anew for
// other wishes and stock.
func GiveUp(ctx context.Context, w Wishes, amps []Stocked, build func(Wishes, []Stocked) Problem) [][]string {
	list := relaxations(w)
	for size := 1; size <= min(3, len(list)); size++ {
		var found [][]string
		for set := range 1 << len(list) {
			if ones(set) != size || ctx.Err() != nil {
				continue
			}
			other, stock := w, append([]Stocked(nil), amps...)
			var names []string
			for i, r := range list {
				if set&(1<<i) != 0 {
					r.apply(&other, &stock)
					names = append(names, r.Name)
				}
			}
			if build(other, stock).Solve(ctx, Fewest, nil).X != nil {
				found = append(found, names)
			}
		}
		if len(found) > 0 {
			return found
		}
	}
	return nil
}

func ones(set int) (n int) {
	for ; set > 0; set >>= 1 {
		n += set & 1
	}
	return n
}

// GivesUp says what a plan for one aim loses against the best of the others.
func GivesUp(p Plan, all []Plan) string {
	var lost []string
	add := func(worse bool, format string, args ...any) {
		if worse {
			lost = append(lost, fmt.Sprintf(format, args...))
		}
	}
	best := p.Totals
	for _, o := range all {
		if o.X == nil {
			continue
		}
		t := o.Totals
		best.Amplifiers, best.Weight, best.Draw = min(best.Amplifiers, t.Amplifiers), min(best.Weight, t.Weight),
			min(best.Draw, t.Draw)
		best.Hire, best.Ratio, best.Bridged = min(best.Hire, t.Hire), max(best.Ratio, t.Ratio), min(best.Bridged, t.Bridged)
	}
	t := p.Totals
	add(t.Amplifiers > best.Amplifiers, "%s",
		words.Count(t.Amplifiers-best.Amplifiers, "more amplifier", "more amplifiers"))
	add(t.Weight > best.Weight+0.05, "%s more to carry", t.Weight-best.Weight)
	add(t.Draw > best.Draw+0.05, "%s more current", t.Draw-best.Draw)
	add(t.Hire > best.Hire, "%s more hire", t.Hire-best.Hire)
	add(t.Ratio < best.Ratio-0.005, "%s of headroom", unit.OfPower(best.Ratio/t.Ratio))
	add(t.Bridged > best.Bridged, "%s bridged", words.Count(t.Bridged-best.Bridged, "more output", "more outputs"))
	if len(lost) == 0 {
		return "nothing: no other plan is better in anything"
	}
	return strings.Join(lost, ", ")
}

// Unsuited tells of each group that no amplifier may drive at all, and why not
// each of them.
func (p Problem) Unsuited() []string {
	var said []string
	for g := range p.Groups {
		suits := false
		for _, o := range p.Options {
			suits = suits || o.Group == g
		}
		if suits {
			continue
		}
		whys := []string{}
		for m := range p.Amps {
			if why := p.whyGroup(&p.Amps[m], &p.Groups[g], gear.Separate); why != "" {
				whys = append(whys, p.Amps[m].Model.Title()+": "+why)
			}
		}
		if len(whys) == 0 {
			whys = []string{"there is no amplifier to plan with"}
		}
		said = append(said, fmt.Sprintf("Nothing here suits %s. %s.", p.Groups[g].Name, strings.Join(whys, "; ")))
	}
	return said
}
