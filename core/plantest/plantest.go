// Package plantest makes problems of matching for the tests and benchmarks:
// the same ones every time, of any size.
package plantest

import (
	"fmt"
	"math"
	"math/rand/v2"

	"largo/core/gear"
	"largo/core/plan"
	"largo/core/rig"
	"largo/core/unit"
)

// Problem is a random problem of so many boxes over so many models of
// amplifier. Nothing in it is a real product.
func Problem(seed uint64, boxes, models int) plan.Problem {
	r := rand.New(rand.NewPCG(seed, 20))
	w := plan.Wishes{Policy: []rig.Policy{rig.Headroom, rig.Headroom, rig.Within}[r.IntN(3)],
		School: []rig.School{rig.AsRated, rig.Never, rig.Freely}[r.IntN(3)]}
	var amps []plan.Stocked
	for i := range models {
		amps = append(amps, plan.Stocked{Model: amplifier(r, i), Owned: 2 + r.IntN(2+boxes/3)})
	}
	var groups []plan.Group
	for left := boxes; left > 0; {
		n := min(left, 1+r.IntN(max(2, boxes/3)))
		g := group(r, len(groups), n)
		for range 40 { // boxes that nothing suits make a dull problem
			if len(plan.NewProblem([]plan.Group{g}, amps, w).Options) > 1 {
				break
			}
			g = group(r, len(groups), n)
		}
		groups = append(groups, g)
		left -= n
	}
	return plan.NewProblem(groups, amps, w)
}

func group(r *rand.Rand, i, n int) plan.Group {
	z := []unit.Ohm{4, 8, 8, 8, 16}[r.IntN(5)]
	p := unit.Watt(50 * (2 + r.IntN(14)))
	g := plan.Group{Name: fmt.Sprintf("G%d", i+1), Z: z, Rating: p, Poles: 1,
		Speaker: &gear.Loudspeaker{Link: true, Drive: gear.Drive{Nominal: unit.Of(z), Continuous: unit.Of(p)}}}
	for j := range n {
		g.Boxes = append(g.Boxes, fmt.Sprintf("%s.%d", g.Name, j+1))
	}
	if n%2 == 0 && r.IntN(3) == 0 {
		g.Boxes, g.Mirror = g.Boxes[:n/2], g.Boxes[n/2:]
	}
	return g
}

func amplifier(r *rand.Rand, i int) gear.Model {
	p := float64(50 * (4 + r.IntN(24)))
	a := &gear.Amplifier{Channels: []int{2, 2, 2, 4, 4, 8}[r.IntN(6)]}
	stiff := 1.5 + 0.45*r.Float64() // power into half the load
	for z := 8.0; z >= 2; z /= 2 {
		a.Ratings = append(a.Ratings, gear.Rating{Mode: gear.Separate, Load: unit.Ohm(z), Power: unit.Watt(math.Round(p))})
		if p *= stiff; z == 4 && r.IntN(2) == 0 {
			break
		}
	}
	if r.IntN(3) > 0 {
		last := a.Ratings[len(a.Ratings)-1]
		a.Ratings = append(a.Ratings, gear.Rating{Mode: gear.Bridged, Load: 2 * last.Load, Power: 2 * last.Power})
		a.Bridging = gear.Bridging{Switch: gear.Yes, Manual: gear.ManualAllows, Common: gear.Yes}
	}
	m := gear.Model{ID: fmt.Sprintf("amp-%d", i+1), Kind: gear.KindAmplifier, Maker: "Test", Name: fmt.Sprint(i + 1),
		Amplifier: a}
	m.Body.Weight = unit.Of(unit.Kilogram(float64(40+r.IntN(260)) / 10))
	return m
}

// Extended is such a problem with the wishes of the whole planner: groups under
// policies of their own, and models whose channels share a supply.
func Extended(seed uint64, boxes, models int) plan.Problem {
	p := Problem(seed, boxes, models)
	r := rand.New(rand.NewPCG(seed, 21))
	for g := range p.Groups {
		p.Groups[g].Policy = []rig.Policy{"", rig.Headroom, rig.Within, rig.TenthOver}[r.IntN(4)]
	}
	for m := range p.Amps {
		if a := p.Amps[m].Model.Amplifier; r.IntN(2) == 0 {
			most := 0.0
			for _, rating := range a.Ratings {
				most = max(most, float64(rating.Power))
			}
			a.Together = unit.Of(unit.Watt(most * float64(a.Channels) * (0.3 + 0.5*r.Float64())))
		}
	}
	return plan.NewProblem(p.Groups, p.Amps, p.Wishes)
}
