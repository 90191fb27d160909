package plan

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"largo/core/unit"
	"largo/core/words"
)

// Margin is how far another plan may cost more than the best by its aim to stand
// beside it: one amplifier more, or a quarter of what is made least.
const Margin = 0.25

// Others are the next plans by an aim that take other amplifiers, within the margin of
// the best: each other choice takes fewer of some model than the best does, so the
// best without one of each of its models are looked at. They are in the order of
// their cost, at most so many.
func (p Problem) Others(ctx context.Context, best Answer, most int) []Answer {
	if best.X == nil {
		return nil
	}
	cost := func(a Answer) float64 { return p.worth(a, best.Aim) }
	var found []Answer
	for m := range p.Amps {
		have := int(math.Round(best.X[p.ampColumn(m)]))
		if have == 0 || ctx.Err() != nil {
			continue
		}
		a := p.atMost(m, have-1).Solve(ctx, best.Aim, nil)
		if a.X == nil || !p.near(a, best) || slices.ContainsFunc(found, func(o Answer) bool { return p.sameAmps(o, a) }) {
			continue
		}
		found = append(found, a)
	}
	slices.SortStableFunc(found, func(a, b Answer) int {
		switch {
		case cost(a) < cost(b):
			return -1
		case cost(a) > cost(b):
			return 1
		}
		return 0
	})
	return found[:min(most, len(found))]
}

// atMost is the problem with so many of a model at most.
func (p Problem) atMost(m, most int) Problem {
	p.Amps = slices.Clone(p.Amps)
	s := &p.Amps[m]
	s.Owned, s.Hire = min(s.Owned, most+p.Wishes.Spare), max(0, min(s.Hire, most+p.Wishes.Spare-s.Owned))
	return p
}

func (p Problem) near(a, best Answer) bool {
	if weak := p.weakBoxes(); p.Wishes.Weak && p.costOf(a, weak) > p.costOf(best, weak) {
		return false
	}
	if p.amplifiers(a.X) <= p.amplifiers(best.X)+1 {
		return true
	}
	goals := p.goalsOf(best.Aim)
	return p.costOf(a, goals[0].cost) <= p.costOf(best, goals[0].cost)*(1+Margin)
}

func (p Problem) sameAmps(a, b Answer) bool {
	return slices.Equal(a.X[len(p.Options):], b.X[len(p.Options):])
}

// Covers tells which amplifier that a plan leaves in the truck could take the place of
// which that it uses: one of the same model; else of another that drives each of the
// outputs as the wishes ask.
func (p Plan) Covers() []string {
	var said []string
	for m := range p.Problem.Amps {
		s := &p.Problem.Amps[m]
		left := s.Owned - int(math.Round(p.X[p.Problem.ampColumn(m)]))
		if s.Owned == 0 || left <= 0 {
			continue
		}
		var tags []string
		for i := range p.Amps {
			if p.replaces(m, &p.Amps[i]) {
				tags = append(tags, p.Amps[i].Tag)
			}
		}
		if len(tags) > 0 {
			said = append(said, fmt.Sprintf("%d %s left: %s for %s.", left, s.Model.Title(),
				map[bool]string{true: "a spare", false: "spares"}[left == 1], words.List(tags)))
		}
	}
	return said
}

// replaces tells whether a model drives all that an amplifier of the plan does.
func (p Plan) replaces(m int, a *PlannedAmp) bool {
	channels := 0
	for _, o := range a.Outputs {
		if _, why := refusal(&p.Problem.Amps[m], &p.Problem.Groups[o.Option.Group], o.Mode, o.Boxes,
			p.Problem.Wishes); why != "" {
			return false
		}
		channels += o.channels()
	}
	return len(a.Outputs) > 0 && channels <= p.Problem.Amps[m].Model.Amplifier.Channels
}

// Text is a plan in one line: its amplifiers, and what they come to.
func (p Plan) Text() string {
	count := map[string]int{}
	var order []string
	for _, a := range p.Amps {
		if title := a.Model.Title(); count[title] == 0 {
			order = append(order, title)
			count[title]++
		} else {
			count[title]++
		}
	}
	parts := make([]string, len(order))
	for i, title := range order {
		parts[i] = fmt.Sprintf("%d × %s", count[title], title)
	}
	t := p.Totals
	return fmt.Sprintf("%s: %s, %s on music, least power %s times the rating", strings.Join(parts, ", "), t.Weight, t.Draw,
		unit.Fixed(t.Ratio, 2))
}
