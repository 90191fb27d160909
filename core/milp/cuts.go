package milp

import (
	"cmp"
	"math"
	"slices"
)

// Gomory's mixed-integer cuts at the root: conditions that every whole point
// keeps and the present best one does not (R. E. Gomory, RAND memorandum
// RM-2597, 1960; from memory). They raise the bound, so that fewer nodes
// have to be looked at.

const (
	mostRounds = 5
	mostCuts   = 8 // of a round
)

// cut is one condition: the sum of its coefficients is at least right.
type cut struct {
	coefficients []float64 // by column of the table, logicals too
	right        float64
	depth        float64 // how far the present point breaks it
}

// wholeRows tells which logicals take whole numbers alone: those of rows of
// whole variables with whole coefficients.
func wholeRows(p Program) []bool {
	is := func(v float64) bool { return v == math.Round(v) }
	whole := make([]bool, len(p.Rows))
	for i, r := range p.Rows {
		whole[i] = is(r.Right)
		for _, e := range r.Entries {
			whole[i] = whole[i] && is(e.Value) && p.Columns[e.Column].Whole
		}
	}
	return whole
}

// tighten adds cuts to a solved table, round by round while they raise the
// bound, and takes away the ones that do not hold it. The table that it gives
// is solved, or the outcome says that there is no whole point.
func (v *solver) tighten(t *table) (*table, outcome) {
	whole := wholeRows(v.p)
	rows := t.m
	for range mostRounds {
		if v.bound(t) >= v.cutoff() { // nothing better is left
			break
		}
		before := v.value(t)
		cuts := v.cuts(t, whole)
		if len(cuts) == 0 {
			break
		}
		t = t.with(cuts)
		if end := t.solve(40 * (t.m + 10)); end != solved {
			return t, end
		}
		t = t.without(rows)
		if v.value(t) < before+1e-6*math.Max(1, math.Abs(before)) {
			break
		}
	}
	return t, solved
}

// cuts finds the deepest cuts of a table.
func (v *solver) cuts(t *table, whole []bool) []cut {
	var found []cut
	for i, p := range t.base {
		if p >= t.n || !v.p.Columns[p].Whole {
			continue
		}
		if f := t.x[p] - math.Floor(t.x[p]); f > 0.02 && f < 0.98 {
			if c, ok := v.cutOf(t, i, f, whole); ok {
				found = append(found, c)
			}
		}
	}
	slices.SortFunc(found, func(a, b cut) int { return cmp.Compare(b.depth, a.depth) })
	return found[:min(len(found), mostCuts)]
}

// cutOf makes the cut of a row whose variable is off whole by f: written with
// the distance of each other variable from its bound, the whole ones count by
// their fractions, the others by themselves.
func (v *solver) cutOf(t *table, i int, f float64, whole []bool) (cut, bool) {
	w := t.n + t.m
	c := cut{coefficients: make([]float64, w), right: f - 1e-7}
	var square, largest, smallest float64
	smallest = math.Inf(1)
	for j, alpha := range t.a[i*w : (i+1)*w] {
		if t.in[j] >= 0 || alpha == 0 || t.low[j] == t.high[j] {
			continue
		}
		atHigh := t.x[j] == t.high[j]
		if atHigh {
			alpha = -alpha
		}
		isWhole := j < t.n && v.p.Columns[j].Whole || j >= t.n && j-t.n < len(whole) && whole[j-t.n]
		g := share(alpha, f, isWhole)
		if g < 1e-9 {
			if reach := t.high[j] - t.low[j]; g > 0 && math.IsInf(reach, 1) {
				return c, false
			} else if g > 0 {
				c.right -= g * reach
			}
			continue
		}
		square, largest, smallest = square+g*g, max(largest, g), min(smallest, g)
		if atHigh {
			c.coefficients[j], c.right = -g, c.right-g*t.high[j]
		} else {
			c.coefficients[j], c.right = g, c.right+g*t.low[j]
		}
	}
	if square == 0 || largest > 1e5*smallest {
		return c, false
	}
	c.depth = f / math.Sqrt(square)
	return c, true
}

// share is the coefficient of a cut for one coefficient of its row.
func share(alpha, f float64, whole bool) float64 {
	if !whole {
		if alpha >= 0 {
			return alpha
		}
		return -alpha * f / (1 - f)
	}
	part := alpha - math.Floor(alpha)
	if part < 1e-9 || part > 1-1e-9 {
		return 0
	}
	if part <= f {
		return part
	}
	return f * (1 - part) / (1 - f)
}

// with is a table with more rows.
func (t *table) with(cuts []cut) *table {
	k := len(cuts)
	old, w := t.n+t.m, t.n+t.m+k
	grown := &table{m: t.m + k, n: t.n, a: make([]float64, (t.m+k)*w), d: widen(t.d, k), x: widen(t.x, k),
		low: widen(t.low, k), high: widen(t.high, k),
		base: append(slices.Clone(t.base), make([]int, k)...), in: append(slices.Clone(t.in), make([]int, k)...)}
	for i := range t.m {
		copy(grown.a[i*w:], t.a[i*old:(i+1)*old])
	}
	for c, cut := range cuts {
		i, s := t.m+c, old+c
		row := grown.a[i*w : (i+1)*w]
		copy(row, cut.coefficients)
		row[s], grown.base[i], grown.in[s] = 1, s, i
		grown.low[s] = math.Inf(-1)
		grown.x[s] = cut.right
		for j, g := range cut.coefficients {
			grown.x[s] -= g * t.x[j]
		}
	}
	return grown
}

func widen(a []float64, k int) []float64 { return append(slices.Clone(a), make([]float64, k)...) }

// without is a table less the cuts that do not bind: those whose own column,
// from one on, stands in the basis. The row that is solved for it only tells
// how much room the cut leaves.
func (t *table) without(from int) *table {
	var keep, columns []int
	gone := make([]bool, t.n+t.m)
	for i, s := range t.base {
		if gone[s] = s >= t.n+from; !gone[s] {
			keep = append(keep, i)
		}
	}
	place := make([]int, t.n+t.m)
	for j := range t.n + t.m {
		if place[j] = len(columns); !gone[j] {
			columns = append(columns, j)
		}
	}
	small := &table{m: len(keep), n: t.n, a: make([]float64, len(keep)*len(columns)), base: make([]int, len(keep)),
		in: make([]int, len(columns))}
	for c, j := range columns {
		small.d, small.x = append(small.d, t.d[j]), append(small.x, t.x[j])
		small.low, small.high = append(small.low, t.low[j]), append(small.high, t.high[j])
		small.in[c] = -1
	}
	for r, i := range keep {
		for c, j := range columns {
			small.a[r*len(columns)+c] = t.a[i*(t.n+t.m)+j]
		}
		small.base[r] = place[t.base[i]]
		small.in[small.base[r]] = r
	}
	return small
}
