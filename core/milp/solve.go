package milp

import (
	"context"
	"math"
	"math/rand/v2"
	"slices"
)

// Result is the best point that was found, and what is proved about it.
type Result struct {
	X      []float64 // nil: none was found
	Value  float64
	Bound  float64 // no point costs less
	Proved bool    // X is the best there is or, where X is nil, there is none
	Nodes  int     // nodes looked at
	Full   bool    // the search ended because its memory was spent
}

// Gap is how far the best point may be off, as a share of its cost.
func (r Result) Gap() float64 {
	switch {
	case r.Proved:
		return 0
	case r.X == nil || math.IsInf(r.Bound, -1):
		return math.Inf(1)
	}
	return (r.Value - r.Bound) / math.Max(math.Abs(r.Value), 1e-9)
}

// Search says how to look.
type Search struct {
	Known    []float64    // a point that keeps all conditions, if one is known
	Step     float64      // all costs of whole points are multiples of it; 0: not known
	Progress func(Result) // called now and then, and whenever a better point is found
	Most     int          // bytes that the open nodes may take; 0: DefaultMost
}

// DefaultMost is how many bytes the open nodes of one search may take.
const DefaultMost = 256 << 20

// node is a part of the programme still to be looked at.
type node struct {
	t      *table
	bound  float64
	column int // that is bounded anew
	low    float64
	high   float64
}

type solver struct {
	p     Program
	s     Search
	slop  float64 // how much the nudges may add to a bound
	doubt bool    // a node could be neither solved nor parted
	best  Result
	open  []node
	spent []*table // whose memory is taken for the next ones
}

// Solve finds the best point. It ends when that is proved, when the context
// ends, or when its memory is spent, with the best so far.
func Solve(ctx context.Context, p Program, s Search) Result {
	v := &solver{p: p, s: s, best: Result{Value: math.Inf(1), Bound: math.Inf(-1)}}
	if s.Known != nil && p.Feasible(s.Known) {
		v.take(s.Known)
	}
	nudge := v.nudges()
	root := newTable(p, nudge)
	v.open = append(v.open, node{t: root, bound: math.Inf(-1), column: -1})
	most := s.Most
	if most == 0 {
		most = DefaultMost
	}
	diving := false
	for len(v.open) > 0 {
		v.best.Full = len(v.open)*root.bytes() > most
		if ctx.Err() != nil || v.best.Full {
			v.best.Bound = min(v.lowerBound(), v.best.Value)
			return v.best
		}
		b := v.next(diving)
		v.best.Nodes++
		if diving = v.solveNode(b); !diving {
			v.spent = append(v.spent, b.t)
		}
		if v.s.Progress != nil && v.best.Nodes%200 == 0 {
			v.best.Bound = min(v.lowerBound(), v.best.Value)
			v.s.Progress(v.best)
		}
	}
	if v.best.Proved = !v.doubt; v.best.Proved {
		v.best.Bound = v.best.Value
	}
	return v.best
}

// next takes the node to look at: down from the last one while that leads
// on, else the one with the most promise, the latest of equals.
func (v *solver) next(diving bool) node {
	at := len(v.open) - 1
	if !diving {
		for i := at - 1; i >= 0; i-- {
			if v.open[i].bound < v.open[at].bound-1e-9 {
				at = i
			}
		}
	}
	b := v.open[at]
	v.open = slices.Delete(v.open, at, at+1)
	return b
}

// nudges add a little to each cost, another to each, so that the simplex
// method has no ties to go round in. They are too small to change which whole
// point is best, and are taken off again in every bound.
func (v *solver) nudges() []float64 {
	size := 1e-7
	if v.s.Step > 0 {
		size = min(size, v.s.Step*1e-5)
	}
	r := rand.New(rand.NewPCG(1, 2)) // the same every time
	nudge := make([]float64, len(v.p.Columns))
	for j, c := range v.p.Columns {
		nudge[j] = size * (0.5 + r.Float64())
		if c.Cost < 0 {
			nudge[j] = -nudge[j]
		}
		if reach := max(math.Abs(c.Low), math.Abs(c.High)); !math.IsInf(reach, 0) {
			v.slop += math.Abs(nudge[j]) * min(reach, 200)
		}
	}
	return nudge
}

// lowerBound is the least bound of all that is still open.
func (v *solver) lowerBound() float64 {
	least := math.Inf(1)
	for _, b := range v.open {
		least = min(least, b.bound)
	}
	return least
}

// cutoff is the cost from which on a node cannot hold anything better.
func (v *solver) cutoff() float64 {
	if v.s.Step > 0 {
		return v.best.Value - v.s.Step*0.999
	}
	return v.best.Value - 1e-9*math.Max(1, math.Abs(v.best.Value))
}

func (v *solver) take(x []float64) {
	value := v.p.Value(x)
	if value >= v.best.Value {
		return
	}
	v.best.X, v.best.Value = append([]float64(nil), x...), value
	if v.s.Progress != nil {
		v.best.Bound = min(v.lowerBound(), v.best.Value)
		v.s.Progress(v.best)
	}
}

// solveNode solves a node without regard to whole numbers and parts it where its
// best point is not whole. It tells whether the table goes on in a part.
func (v *solver) solveNode(b node) bool {
	if b.bound >= v.cutoff() {
		return false
	}
	if b.column >= 0 {
		b.t.bound(b.column, b.low, b.high)
	}
	switch b.t.solve(40 * (b.t.m + 10)) {
	case impossible:
		return false
	case gaveUp:
		return v.split(b.t, b.bound)
	}
	if b.column < 0 { // the root
		var end outcome
		if b.t, end = v.tighten(b.t); end != solved {
			v.doubt = v.doubt || end == gaveUp
			return false
		}
	}
	bound := max(v.bound(b.t), b.bound)
	if bound >= v.cutoff() {
		return false
	}
	v.fix(b.t, bound)
	return v.split(b.t, bound)
}

// bound is what every whole point of a solved table costs at the least.
func (v *solver) bound(t *table) float64 {
	bound := v.value(t) - v.slop
	if v.s.Step > 0 { // whole points cost whole steps
		bound = v.s.Step * math.Ceil(bound/v.s.Step-1e-3)
	}
	return bound
}

func (v *solver) value(t *table) float64 {
	var sum float64
	for j, c := range v.p.Columns {
		sum += c.Cost * t.x[j]
	}
	return sum
}

// fix narrows the bounds of variables whose every step away from where they
// stand would already cost too much.
func (v *solver) fix(t *table, bound float64) {
	room := v.cutoff() - bound
	if math.IsInf(room, 1) {
		return
	}
	for j, c := range v.p.Columns {
		if !c.Whole || t.in[j] >= 0 || t.low[j] == t.high[j] || math.Abs(t.d[j]) < 1e-9 {
			continue
		}
		steps := math.Floor(room/math.Abs(t.d[j]) + 1e-6)
		if t.d[j] > 0 && t.low[j]+steps < t.high[j] {
			t.high[j] = t.low[j] + steps
		} else if t.d[j] < 0 && t.high[j]-steps > t.low[j] {
			t.low[j] = t.high[j] - steps
		}
	}
}

// split parts a node at the variable that is furthest from whole, those to
// be decided first before the others; a whole point is taken. It tells whether
// the table goes on in a part.
func (v *solver) split(t *table, bound float64) bool {
	at, worst, first := -1, 1e-6, false
	for j, c := range v.p.Columns {
		if !c.Whole || t.low[j] == t.high[j] {
			continue
		}
		off := math.Abs(t.x[j] - math.Round(t.x[j]))
		if off > 1e-6 && (c.First && !first || c.First == first && off > worst) {
			at, worst, first = j, off, c.First
		}
	}
	if at < 0 {
		v.doubt = v.doubt || !v.whole(t)
		return false
	}
	var old *table
	if n := len(v.spent); n > 0 {
		old, v.spent = v.spent[n-1], v.spent[:n-1]
	}
	down := node{t: t.clone(old), bound: bound, column: at, low: t.low[at], high: math.Floor(t.x[at])}
	up := node{t: t, bound: bound, column: at, low: math.Ceil(t.x[at]), high: t.high[at]}
	if t.x[at]-math.Floor(t.x[at]) > 0.5 { // the nearer one is looked at first
		v.open = append(v.open, down, up)
	} else {
		v.open = append(v.open, up, down)
	}
	return true
}

// whole takes the point of a table whose whole variables are whole, and tells
// whether it keeps all conditions.
func (v *solver) whole(t *table) bool {
	x := append([]float64(nil), t.x[:t.n]...)
	for j, c := range v.p.Columns {
		if c.Whole {
			x[j] = math.Round(x[j])
		}
	}
	if !v.p.Feasible(x) {
		return false
	}
	v.take(x)
	return true
}
