package milp_test

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"largo/core/milp"
)

func solve(p milp.Program) milp.Result {
	return milp.Solve(context.Background(), p, milp.Search{})
}

// A worked example of the textbooks: 5x + 4y with 6x + 4y ≤ 24, x + 2y ≤ 6,
// y ≤ x + 1, y ≤ 2 is at most 21, at x = 3, y = 1.5; in whole numbers 20, at
// x = 4, y = 0 (H. A. Taha, Operations Research, the paint example; from
// memory).
func TestWorkedExample(t *testing.T) {
	for whole, want := range map[bool]float64{false: -21, true: -20} {
		p := milp.Program{
			Columns: []milp.Column{{Name: "x", Cost: -5, High: 10, Whole: whole}, {Name: "y", Cost: -4, High: 2, Whole: whole}},
			Rows: []milp.Row{
				{Name: "a", Sense: milp.AtMost, Right: 24, Entries: []milp.Entry{{Column: 0, Value: 6}, {Column: 1, Value: 4}}},
				{Name: "b", Sense: milp.AtMost, Right: 6, Entries: []milp.Entry{{Column: 0, Value: 1}, {Column: 1, Value: 2}}},
				{Name: "c", Sense: milp.AtMost, Right: 1, Entries: []milp.Entry{{Column: 0, Value: -1}, {Column: 1, Value: 1}}},
			},
		}
		if r := solve(p); !r.Proved || math.Abs(r.Value-want) > 1e-6 {
			t.Errorf("whole %v: %+v, want %g", whole, r, want)
		}
	}
}

// random is a small programme of every kind of row.
func random(r *rand.Rand) milp.Program {
	n, m := 2+r.IntN(4), 1+r.IntN(4)
	var p milp.Program
	for range n {
		c := milp.Column{Low: float64(r.IntN(3)), Cost: float64(r.IntN(13) - 4), Whole: true, First: r.IntN(3) == 0}
		c.High = c.Low + float64(r.IntN(4))
		p.Columns = append(p.Columns, c)
	}
	for range m {
		row := milp.Row{Sense: []milp.Sense{milp.AtMost, milp.AtLeast, milp.Exactly}[r.IntN(3)],
			Right: float64(r.IntN(21) - 4)}
		for j := range n {
			if v := r.IntN(9) - 3; v != 0 {
				row.Entries = append(row.Entries, milp.Entry{Column: j, Value: float64(v)})
			}
		}
		p.Rows = append(p.Rows, row)
	}
	return p
}

// every tries all whole points.
func every(p milp.Program) (best float64) {
	best = math.Inf(1)
	x := make([]float64, len(p.Columns))
	var try func(int)
	try = func(j int) {
		if j == len(x) {
			if p.Feasible(x) {
				best = min(best, p.Value(x))
			}
			return
		}
		for v := p.Columns[j].Low; v <= p.Columns[j].High; v++ {
			x[j] = v
			try(j + 1)
		}
	}
	try(0)
	return best
}

// The best of all points, tried one by one, is what is found.
func TestAgainstTryingEverything(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	impossible := 0
	for i := range 3000 {
		p := random(r)
		want, got := every(p), solve(p)
		switch {
		case !got.Proved:
			t.Fatalf("%d: not proved: %+v", i, p)
		case math.IsInf(want, 1):
			impossible++
			if got.X != nil {
				t.Fatalf("%d: %v keeps all conditions, yet nothing does: %+v", i, got.X, p)
			}
		case got.X == nil || math.Abs(got.Value-want) > 1e-6:
			t.Fatalf("%d: %+v, want %g in %+v", i, got, want, p)
		case !p.Feasible(got.X):
			t.Fatalf("%d: %v keeps not all conditions of %+v", i, got.X, p)
		}
	}
	if impossible < 100 || impossible > 2900 {
		t.Errorf("%d of 3000 were impossible; the generator says nothing", impossible)
	}
}

// Stopped, it gives the best so far with a bound that holds.
func TestStopped(t *testing.T) {
	ctx, stop := context.WithCancel(context.Background())
	stop()
	p := milp.Program{Columns: []milp.Column{{Cost: 1, High: 9, Whole: true}},
		Rows: []milp.Row{{Sense: milp.AtLeast, Right: 2.5, Entries: []milp.Entry{{Column: 0, Value: 1}}}}}
	r := milp.Solve(ctx, p, milp.Search{Known: []float64{5}})
	if r.Proved || r.Value != 5 || r.Bound > 3 {
		t.Errorf("%+v", r)
	}
	if r = milp.Solve(context.Background(), p, milp.Search{Known: []float64{5}}); !r.Proved || r.Value != 3 ||
		r.Gap() != 0 {
		t.Errorf("%+v", r)
	}
}

func TestProgrammesThatCannotBe(t *testing.T) {
	for what, p := range map[string]milp.Program{
		"crossed bounds":   {Columns: []milp.Column{{Low: 2, High: 1}}},
		"a bottomless one": {Columns: []milp.Column{{Cost: -1, High: math.Inf(1)}}},
		"a strange column": {Rows: []milp.Row{{Entries: []milp.Entry{{Column: 3}}}}},
		"no number":        {Columns: []milp.Column{{Cost: math.NaN()}}},
	} {
		if p.Check() == nil {
			t.Errorf("%s is taken", what)
		}
	}
}
