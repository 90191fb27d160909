package load

import (
	"slices"

	"largo/core/gear"
	"largo/core/unit"
)

// number is a resistance or a complex impedance.
type number interface{ ~float64 | ~complex128 }

// network solves what hangs on an output for 1 V at it: every box and every
// piece of lead by its number.
type network[N number] struct {
	box, lead func(i int) N
	behind    []N // at the end of each box's lead: the box with all that is linked on
	volts     []N // at each box
}

// solve gives what the output sees, leads and all.
func solve[N number](o *Output, box, lead func(i int) N) (seen N, n network[N]) {
	n = network[N]{box, lead, make([]N, len(o.Boxes)), make([]N, len(o.Boxes))}
	seen = 1 / n.takes(o.hung)
	n.spread(o.hung, 1)
	return seen, n
}

// takes is the current into groups side by side for 1 V.
func (n network[N]) takes(groups []group) (y N) {
	for _, g := range groups {
		var z N
		for _, member := range g {
			own := 1 / n.box(member.box)
			if len(member.kids) > 0 {
				own += n.takes(member.kids)
			}
			n.behind[member.box] = 1 / own
			z += n.lead(member.box) + 1/own
		}
		y += 1 / z
	}
	return y
}

// spread carries the volts out to the boxes.
func (n network[N]) spread(groups []group, volts N) {
	for _, g := range groups {
		var z N
		for _, member := range g {
			z += n.lead(member.box) + n.behind[member.box]
		}
		current := volts / z
		for _, member := range g {
			n.volts[member.box] = current * n.behind[member.box]
			n.spread(member.kids, n.volts[member.box])
		}
	}
}

// Arrival is what of an output's open volts arrives at its boxes, each taken at
// one resistance.
type Arrival struct {
	Seen  unit.Ohm  // by the output, leads and all
	Share []float64 // of the open volts at each box
}

// Nominally is what arrives with every box at its nominal impedance, through leads of
// the resistance that lead tells for each box. The nominal load has to be known.
func (o *Output) Nominally(lead func(box int) unit.Ohm) Arrival {
	return o.At1V(func(i int) unit.Ohm { return o.Boxes[i].Speaker.Nominal.Or(0) }, lead)
}

// At1V is what arrives of 1 V with boxes and leads of given resistances.
func (o *Output) At1V(box, lead func(i int) unit.Ohm) Arrival {
	seen, n := solve(o, func(i int) float64 { return float64(box(i)) }, func(i int) float64 { return float64(lead(i)) })
	return Arrival{unit.Ohm(seen), n.volts}
}

// LeadsAt tells the resistance of each box's lead at a temperature in °C; one
// that is not known has none.
func (o *Output) LeadsAt(celsius float64) func(box int) unit.Ohm {
	return func(i int) unit.Ohm { return o.Boxes[i].Lead.Ohms(celsius) }
}

// On lists the pieces of lead from the output to a box, by the box that each
// ends at, the nearest to the output first.
func (o *Output) On(box int) []int {
	var way []int
	for i := box; i >= 0; i = o.Boxes[i].Lead.Before {
		way = append(way, i)
	}
	slices.Reverse(way)
	return way
}

// Sides tells, for each piece of lead, which boxes fall silent when it is pulled:
// what is linked on behind it, and the rest of a series string.
func (o *Output) Sides() [][]int {
	silent := make([][]int, len(o.Boxes))
	var visit func(groups []group) []int
	visit = func(groups []group) (all []int) {
		for _, g := range groups {
			var branch []int
			for _, n := range g {
				branch = append(branch, n.box)
				branch = append(branch, visit(n.kids)...)
			}
			for _, n := range g {
				silent[n.box] = branch
			}
			all = append(all, branch...)
		}
		return all
	}
	visit(o.hung)
	return silent
}

// drives lists what each box is over frequency.
func (o *Output) drives() []*gear.Drive {
	all := make([]*gear.Drive, len(o.Boxes))
	for i := range o.Boxes {
		all[i] = &o.Boxes[i].Speaker.Drive
	}
	return all
}
