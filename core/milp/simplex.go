package milp

import "math"

// table is a basis of the programme with every column written in it: the
// working table of the simplex method. Columns 0 to n−1 are the programme's,
// the m after them one for each row: the row's sum plus its column is the
// right side.
type table struct {
	m, n      int
	a         []float64 // m rows of n+m
	d         []float64 // reduced costs; 0 for those in the basis
	x         []float64 // values of all columns
	low, high []float64
	base      []int // the column that each row is solved for
	in        []int // the row that a column is solved in, −1 for none
	filled    []int // the columns in which the last pivot row has a figure
}

const (
	feasible = 1e-7 // how far a value may lie outside its bounds
	pivotal  = 1e-8 // smallest coefficient to pivot on
)

// newTable sets up a programme with every variable at the bound that its cost
// prefers, so that the dual simplex method can begin.
func newTable(p Program, nudge []float64) *table {
	m, n := len(p.Rows), len(p.Columns)
	w := n + m
	t := &table{m: m, n: n, a: make([]float64, m*w), d: make([]float64, w), x: make([]float64, w),
		low: make([]float64, w), high: make([]float64, w),
		base: make([]int, m), in: make([]int, w)}
	for j, c := range p.Columns {
		t.low[j], t.high[j], t.d[j], t.in[j] = c.Low, c.High, c.Cost+nudge[j], -1
		if t.x[j] = c.Low; t.d[j] < 0 {
			t.x[j] = c.High
		}
	}
	for i, r := range p.Rows {
		s := n + i
		row := t.a[i*w : (i+1)*w]
		row[s], t.base[i], t.in[s] = 1, s, i
		t.x[s] = r.Right
		for _, e := range r.Entries {
			row[e.Column] += e.Value
			t.x[s] -= e.Value * t.x[e.Column]
		}
		t.low[s], t.high[s] = 0, 0
		if r.Sense == AtMost {
			t.high[s] = math.Inf(1)
		} else if r.Sense == AtLeast {
			t.low[s] = math.Inf(-1)
		}
	}
	return t
}

// bytes is about what a table takes in memory.
func (t *table) bytes() int { return 8 * (t.m + 6) * (t.n + t.m) }

// clone copies a table into one that is no longer needed, or a new one.
func (t *table) clone(old *table) *table {
	if old == nil {
		w := t.n + t.m
		old = &table{a: make([]float64, len(t.a)), d: make([]float64, w), x: make([]float64, w), low: make([]float64, w),
			high: make([]float64, w), base: make([]int, t.m), in: make([]int, w)}
	}
	old.m, old.n = t.m, t.n
	copy(old.a, t.a)
	copy(old.d, t.d)
	copy(old.x, t.x)
	copy(old.low, t.low)
	copy(old.high, t.high)
	copy(old.base, t.base)
	copy(old.in, t.in)
	return old
}

// bound narrows the bounds of a column; a value outside them is brought back
// at once where the column is free to move, and by solve where it is not.
func (t *table) bound(j int, low, high float64) {
	t.low[j], t.high[j] = low, high
	if t.in[j] >= 0 {
		return
	}
	to := min(max(t.x[j], low), high)
	if by := to - t.x[j]; by != 0 {
		w := t.n + t.m
		for i := range t.m {
			t.x[t.base[i]] -= t.a[i*w+j] * by
		}
		t.x[j] = to
	}
}

// outcome is how the search for the least value ended.
type outcome int

const (
	solved outcome = iota
	impossible
	gaveUp // too many steps: nothing is known
)

// solve makes the cost least by the dual simplex method: while some variable
// of the basis lies outside its bounds it leaves for the bound, and the one
// enters that keeps all reduced costs on their side.
func (t *table) solve(most int) outcome {
	for range most {
		r, to := t.leaving()
		if r < 0 {
			return solved
		}
		q := t.entering(r, to > t.x[t.base[r]])
		if q < 0 {
			return impossible
		}
		t.pivot(r, q, to)
	}
	return gaveUp
}

// leaving finds the variable furthest outside its bounds.
func (t *table) leaving() (r int, to float64) {
	r, worst := -1, feasible
	for i, p := range t.base {
		if off := t.low[p] - t.x[p]; off > worst {
			r, to, worst = i, t.low[p], off
		}
		if off := t.x[p] - t.high[p]; off > worst {
			r, to, worst = i, t.high[p], off
		}
	}
	return r, to
}

// entering finds the column by which the variable of a row rises, or falls, at
// the least loss; of equals the one with the largest coefficient.
func (t *table) entering(r int, rise bool) int {
	w := t.n + t.m
	row := t.a[r*w : (r+1)*w]
	best, least, size := -1, math.Inf(1), 0.0
	for j, alpha := range row {
		if t.in[j] >= 0 || alpha < pivotal && alpha > -pivotal || t.low[j] == t.high[j] {
			continue
		}
		atHigh := t.x[j] > t.low[j] && t.x[j] == t.high[j]
		if !rise {
			alpha = -alpha
		}
		// at its low it can only grow, at its high only shrink
		if !atHigh && alpha > 0 || atHigh && alpha < 0 {
			continue
		}
		alpha = math.Abs(alpha)
		ratio := math.Abs(t.d[j]) / alpha
		if ratio < least-1e-12 || ratio <= least+1e-12 && alpha > size {
			best, size = j, alpha
			least = min(least, ratio)
		}
	}
	return best
}

func (t *table) pivot(r, q int, to float64) {
	w := t.n + t.m
	row := t.a[r*w : (r+1)*w]
	p := t.base[r]
	alpha := row[q]
	by := (t.x[p] - to) / alpha
	for i := range t.m {
		if i != r {
			t.x[t.base[i]] -= t.a[i*w+q] * by
		}
	}
	t.x[q] += by
	t.x[p] = to
	t.filled = t.filled[:0]
	for j, v := range row {
		if v > 1e-12 || v < -1e-12 {
			row[j] = v / alpha
			t.filled = append(t.filled, j)
		} else {
			row[j] = 0
		}
	}
	for i := range t.m {
		if f := t.a[i*w+q]; i != r && f != 0 {
			t.subtract(t.a[i*w:(i+1)*w], row, f)
			t.a[i*w+q] = 0
		}
	}
	if f := t.d[q]; f != 0 {
		t.subtract(t.d, row, f)
	}
	t.d[q], row[q] = 0, 1
	t.base[r], t.in[q], t.in[p] = q, r, -1
}

// subtract takes f times the pivot row from another, where it has figures.
func (t *table) subtract(from, row []float64, f float64) {
	for _, j := range t.filled {
		from[j] -= f * row[j]
	}
}
