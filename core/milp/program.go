package milp

import (
	"fmt"
	"math"
)

// Sense is how the sum of a row compares with its right side.
type Sense string

// The senses.
const (
	AtMost  Sense = "at most"
	Exactly Sense = "exactly"
	AtLeast Sense = "at least"
)

// Column is one variable. Its bounds are finite unless High is +Inf.
type Column struct {
	Name      string
	Cost      float64 // of one unit; the sum of all costs is made least
	Low, High float64
	Whole     bool // takes whole numbers alone
	First     bool // is decided before the others
}

// Entry is one coefficient of a row.
type Entry struct {
	Column int
	Value  float64
}

// Row is one condition.
type Row struct {
	Name    string
	Sense   Sense
	Right   float64
	Entries []Entry
}

// Program is a linear programme, to be made least.
type Program struct {
	Name    string
	Columns []Column
	Rows    []Row
}

// Check gives an error for a programme that cannot be set up: names of columns
// that are not there, bounds that cross, figures that are no numbers, or a
// negative cost on a variable without an upper bound.
func (p Program) Check() error {
	for _, c := range p.Columns {
		switch {
		case math.IsNaN(c.Cost) || math.IsInf(c.Cost, 0) || math.IsNaN(c.Low) || math.IsInf(c.Low, 0) || math.IsNaN(c.High):
			return fmt.Errorf("column %q: its cost and bounds must be numbers", c.Name)
		case c.High < c.Low:
			return fmt.Errorf("column %q: its bounds %g and %g cross", c.Name, c.Low, c.High)
		case c.Cost < 0 && math.IsInf(c.High, 1):
			return fmt.Errorf("column %q is unbounded and costs less than nothing", c.Name)
		}
	}
	for _, r := range p.Rows {
		if math.IsNaN(r.Right) || math.IsInf(r.Right, 0) {
			return fmt.Errorf("row %q: its right side must be a number", r.Name)
		}
		for _, e := range r.Entries {
			if e.Column < 0 || e.Column >= len(p.Columns) || math.IsNaN(e.Value) || math.IsInf(e.Value, 0) {
				return fmt.Errorf("row %q names a column that is not there, or a coefficient that is no number", r.Name)
			}
		}
	}
	return nil
}

// Value is the cost of a point.
func (p Program) Value(x []float64) float64 {
	var sum float64
	for j, c := range p.Columns {
		sum += c.Cost * x[j]
	}
	return sum
}

// Feasible tells whether a point keeps all conditions, to a millionth.
func (p Program) Feasible(x []float64) bool {
	const slack = 1e-6
	if len(x) != len(p.Columns) {
		return false
	}
	for j, c := range p.Columns {
		if x[j] < c.Low-slack || x[j] > c.High+slack || c.Whole && math.Abs(x[j]-math.Round(x[j])) > slack {
			return false
		}
	}
	for _, r := range p.Rows {
		var sum float64
		for _, e := range r.Entries {
			sum += e.Value * x[e.Column]
		}
		if r.Sense != AtLeast && sum > r.Right+slack || r.Sense != AtMost && sum < r.Right-slack {
			return false
		}
	}
	return true
}
