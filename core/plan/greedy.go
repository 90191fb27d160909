package plan

import (
	"math"

	"largo/core/milp"
)

// A first plan, found at once by giving each group one model of amplifier and
// changing one group at a time while that helps. It need not be the best, but
// whatever costs more need not be looked at any more.

// drivenBy is the cheapest way to drive all boxes of a group with one model:
// the channels that it takes, and how often each option is used.
type drivenBy struct {
	channels int
	options  []int // one entry an output
	pairs    int   // bridged ones among them
}

// ways lists the cheapest ways by group and model, nil where there is none.
func (p Problem) ways() [][]*drivenBy {
	all := make([][]*drivenBy, len(p.Groups))
	for g := range p.Groups {
		all[g] = make([]*drivenBy, len(p.Amps))
		for m := range p.Amps {
			all[g][m] = p.cheapest(g, m)
		}
	}
	return all
}

// cheapest is the coin problem: n boxes from outputs of given sizes with the
// fewest channels.
func (p Problem) cheapest(g, m int) *drivenBy {
	n := len(p.Groups[g].Boxes)
	best := make([]int, n+1)
	by := make([]int, n+1)
	for boxes := 1; boxes <= n; boxes++ {
		best[boxes] = math.MaxInt32
		for j, o := range p.Options {
			if o.Group != g || o.Amp != m || o.Boxes > boxes || best[boxes-o.Boxes] == math.MaxInt32 {
				continue
			}
			if c := best[boxes-o.Boxes] + o.channels(); c < best[boxes] {
				best[boxes], by[boxes] = c, j
			}
		}
	}
	if best[n] == math.MaxInt32 {
		return nil
	}
	w := &drivenBy{channels: best[n] * p.Groups[g].sides()}
	for left := n; left > 0; left -= p.Options[by[left]].Boxes {
		w.options = append(w.options, by[left])
		if p.Options[by[left]].channels() == 2 {
			w.pairs += p.Groups[g].sides()
		}
	}
	return w
}

// first is a point that keeps all conditions of the problem, nil where none was
// found.
func (p Problem) first(prog milp.Program, cost []float64) []float64 {
	ways := p.ways()
	chosen := make([]int, len(p.Groups))
	for g := range p.Groups {
		chosen[g] = -1
		least := math.Inf(1)
		for m, w := range ways[g] {
			if w == nil {
				continue
			}
			// a part of an amplifier, and little for one that is scarce
			part := float64(w.channels) / float64(p.Amps[m].Model.Amplifier.Channels)
			if part < least {
				chosen[g], least = m, part
			}
		}
		if chosen[g] < 0 {
			return nil
		}
	}
	best := p.worthOf(ways, chosen, cost)
	for improved := true; improved; {
		improved = false
		for g := range p.Groups {
			for m, w := range ways[g] {
				if w == nil || m == chosen[g] {
					continue
				}
				before := chosen[g]
				chosen[g] = m
				if now := p.worthOf(ways, chosen, cost); now < best-1e-9 {
					best, improved = now, true
				} else {
					chosen[g] = before
				}
			}
		}
	}
	if x := p.point(ways, chosen); prog.Feasible(x) {
		return x
	}
	return nil
}

// worthOf is the cost of a choice, with a heavy price on each amplifier that
// there is not.
func (p Problem) worthOf(ways [][]*drivenBy, chosen []int, cost []float64) float64 {
	x := p.point(ways, chosen)
	var sum float64
	for j, c := range cost {
		sum += c * x[j]
	}
	for m := range p.Amps {
		n := x[p.ampColumn(m)]
		sum += 1e-6 * n // of equal costs the fewer amplifiers
		if over := n - float64(max(p.Amps[m].Fixed, p.Amps[m].Count()-p.Wishes.Spare)); over > 0 {
			sum += 1e6 * over
		}
	}
	return sum
}

// point writes a choice in the columns of the programme.
func (p Problem) point(ways [][]*drivenBy, chosen []int) []float64 {
	x := make([]float64, len(p.Options)+len(p.Amps))
	channels, pairs := make([]int, len(p.Amps)), make([]int, len(p.Amps))
	needs := make([]float64, len(p.Amps))
	for g, m := range chosen {
		w := ways[g][m]
		channels[m], pairs[m] = channels[m]+w.channels, pairs[m]+w.pairs
		for _, j := range w.options {
			x[j]++
			needs[m] += float64(p.Options[j].Needs) * float64(p.Groups[g].sides())
		}
	}
	for m := range p.Amps {
		s := &p.Amps[m]
		a := s.Model.Amplifier
		n := math.Ceil(float64(channels[m]+s.Taken) / float64(a.Channels))
		if pairs[m] > 0 {
			n = max(n, math.Ceil(float64(pairs[m]+s.Cut)/float64(max(1, bridgeable(a)))))
		}
		if most, shared := p.together(m); shared {
			n = max(n, math.Ceil(needs[m]/float64(most)-1e-9))
		}
		x[p.ampColumn(m)] = max(n, float64(s.Fixed))
	}
	return x
}
