package exchange_test

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"largo/core/milp"
	"largo/core/plan"
	"largo/core/plantest"
	"largo/exchange"
)

// glpsol solves a programme with GLPK's stand-alone solver (Debian's
// glpk-utils), a general-purpose reference: the value of the best point, or
// word that there is none.
func glpsol(t testing.TB, file string) (value float64, none bool, took time.Duration) {
	t.Helper()
	report := filepath.Join(t.TempDir(), "report")
	begun := time.Now()
	out, err := exec.Command("glpsol", "--freemps", file, "--min", "--tmlim", "60", "-o", report).CombinedOutput()
	took = time.Since(begun)
	if err != nil {
		t.Fatalf("glpsol: %v\n%s", err, out)
	}
	if bytes.Contains(out, []byte("NO PRIMAL FEASIBLE")) || bytes.Contains(out, []byte("NO INTEGER FEASIBLE")) ||
		bytes.Contains(out, []byte("HAS NO FEASIBLE")) {
		return 0, true, took
	}
	if !bytes.Contains(out, []byte("INTEGER OPTIMAL")) {
		t.Fatalf("glpsol did not finish:\n%s", out)
	}
	text, err := os.ReadFile(report)
	if err != nil {
		t.Fatal(err)
	}
	m := regexp.MustCompile(`Objective:\s+cost = (\S+)`).FindSubmatch(text)
	if m == nil {
		t.Fatalf("no objective in\n%s", text)
	}
	value, err = strconv.ParseFloat(string(m[1]), 64)
	if err != nil {
		t.Fatal(err)
	}
	return value, false, took
}

// cbc solves a programme with COIN-OR's branch and cut (Debian's coinor-cbc), a
// second general-purpose reference that reads MPS in its own way.
func cbc(t testing.TB, file string) (value float64, none bool) {
	t.Helper()
	out, err := exec.Command("cbc", file, "-seconds", "60", "-solve", "-quit").CombinedOutput()
	if err != nil || !bytes.Contains(out, []byte("read with 0 errors")) {
		t.Fatalf("cbc: %v\n%s", err, out)
	}
	if regexp.MustCompile(`(?i)problem (?:is|proven) infeasible|relaxation infeasible`).Match(out) {
		return 0, true
	}
	m := regexp.MustCompile(`Result - Optimal solution found(?s:.*?)Objective value:\s+(\S+)`).FindSubmatch(out)
	if m == nil {
		t.Fatalf("cbc did not finish:\n%s", out)
	}
	if value, err = strconv.ParseFloat(string(m[1]), 64); err != nil {
		t.Fatal(err)
	}
	return value, false
}

func mpsFile(t testing.TB, p milp.Program) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "problem.mps")
	f, err := os.Create(file)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	if err := exchange.WriteMPS(f, p, "a test"); err != nil {
		t.Fatal(err)
	}
	return file
}

var sizes = []int{2, 3, 4, 6, 8, 9, 10, 12, 14, 16, 18, 20, 24, 28, 32, 36, 40, 48, 56, 64, 72, 80, 96, 108, 120}

// The best plan of 25 seeded problems from 2 to 120 boxes is the one that
// GLPK finds in the same MPS file: the same number of amplifiers, the same
// weight.
func TestPlansAgreeWithGLPK(t *testing.T) {
	if _, err := exec.LookPath("glpsol"); err != nil {
		t.Fatal("glpsol is not installed; make test installs it")
	}
	solvable := 0
	for i, boxes := range sizes {
		p := plantest.Problem(uint64(i+1), boxes, 4+i%9)
		judged := p.Judged(plan.Fewest)
		want, none, _ := glpsol(t, mpsFile(t, judged))
		a := p.Solve(context.Background(), plan.Fewest, nil)
		switch {
		case !a.Proved:
			t.Errorf("%d boxes: not proved", boxes)
		case none != (a.X == nil):
			t.Errorf("%d boxes: GLPK finds none: %v; we find none: %v", boxes, none, a.X == nil)
		case none:
		case math.Abs(judged.Value(a.X)-want) > 1e-6 || !judged.Feasible(a.X):
			t.Errorf("%d boxes: %.6f, GLPK finds %.6f", boxes, judged.Value(a.X), want)
		default:
			solvable++
		}
	}
	if solvable < 20 {
		t.Errorf("only %d problems have a plan at all", solvable)
	}
}

// So it is with the whole planner: groups under policies of their own, supplies that
// channels share, and, where no choice gives all boxes what they are asked to have,
// as few as can be that get less. GLPK and CBC find the same in the same files.
func TestExtendedPlansAgreeWithGLPKAndCBC(t *testing.T) {
	weak, shared := 0, 0
	for i, boxes := range sizes[:18] {
		strict := plantest.Extended(uint64(i+1), boxes, 3+i%5)
		p, a := strict.Best(context.Background(), plan.Fewest, nil)
		if p.Wishes.Weak {
			weak++
		}
		judged := p.Judged(plan.Fewest)
		for _, row := range judged.Rows {
			if strings.HasPrefix(row.Name, "supply ") {
				shared++
			}
		}
		file := mpsFile(t, judged)
		want, none, _ := glpsol(t, file)
		also, alsoNone := cbc(t, file)
		switch {
		case !a.Proved || none != alsoNone || none != (a.X == nil):
			t.Errorf("%d boxes: proved %v; none here %v, by GLPK %v, by CBC %v", boxes, a.Proved, a.X == nil, none, alsoNone)
		case none:
		case math.Abs(judged.Value(a.X)-want) > 1e-6 || math.Abs(want-also) > 1e-6*math.Max(1, want):
			t.Errorf("%d boxes: %.6f, GLPK finds %.6f, CBC %.6f", boxes, judged.Value(a.X), want, also)
		}
	}
	if weak < 3 || shared < 10 {
		t.Errorf("%d problems are too weak, %d supplies are shared: they test nothing", weak, shared)
	}
}

// The same file reads the same to a second solver: plans, and a programme with
// everything that the form has (each sense, a fraction, a bound below 0, none
// above, no right side).
func TestMPSReadsTheSameToCBC(t *testing.T) {
	all := milp.Program{Name: "all", Columns: []milp.Column{{Name: "a", Cost: 1, Low: -3, High: math.Inf(1)},
		{Name: "b", Cost: 2.5, High: 9, Whole: true}, {Name: "c", Cost: -0.1, Low: 1, High: 4.25}},
		Rows: []milp.Row{{Name: "r", Sense: milp.AtLeast, Right: 1.0 / 3,
			Entries: []milp.Entry{{Column: 0, Value: 1}, {Column: 1, Value: 0.7}}},
			{Name: "s", Sense: milp.Exactly, Right: 2.5, Entries: []milp.Entry{{Column: 1, Value: 1}, {Column: 2, Value: 0.5}}},
			{Name: "t", Sense: milp.AtMost, Entries: []milp.Entry{{Column: 0, Value: 1}, {Column: 2, Value: -1}}}}}
	programmes := []milp.Program{all}
	for i, boxes := range sizes[:12] {
		programmes = append(programmes, plantest.Problem(uint64(i+1), boxes, 4+i%9).Judged(plan.Fewest))
	}
	for i, p := range programmes {
		file := mpsFile(t, p)
		want, none := cbc(t, file)
		also, alsoNone, _ := glpsol(t, file)
		ours := milp.Solve(context.Background(), p, milp.Search{})
		if none != alsoNone || !none && math.Abs(want-also) > 1e-6*math.Max(1, math.Abs(want)) {
			t.Errorf("programme %d: cbc finds %g (none: %v), GLPK %g (none: %v)", i, want, none, also, alsoNone)
		}
		if !ours.Proved || none != (ours.X == nil) || !none && math.Abs(ours.Value-want) > 1e-6*math.Max(1, math.Abs(want)) {
			t.Errorf("programme %d: cbc finds %g, we find %+v", i, want, ours)
		}
	}
}

// BenchmarkPlan prints what a plan takes here beside GLPK on the same MPS
// file, its start and reading included, each as the median of its runs; the
// aim is less than GLPK on every problem of more than 20 boxes, and 120 boxes
// over 12 models in 100 ms.
func BenchmarkPlan(b *testing.B) {
	for _, boxes := range []int{21, 24, 30, 36, 48, 60, 72, 84, 96, 108, 120} {
		b.Run(fmt.Sprintf("%d boxes, 12 models", boxes), func(b *testing.B) {
			p := plantest.Problem(uint64(100+boxes), boxes, 12)
			file := mpsFile(b, p.Judged(plan.Fewest))
			var ours, theirs []time.Duration
			var a plan.Answer
			for b.Loop() {
				begun := time.Now()
				a = p.Solve(context.Background(), plan.Fewest, nil)
				ours = append(ours, time.Since(begun))
			}
			for range 9 {
				_, _, took := glpsol(b, file)
				theirs = append(theirs, took)
			}
			if !a.Proved {
				b.Fatal("not proved")
			}
			b.ReportMetric(median(ours), "ms-median")
			b.ReportMetric(median(theirs), "ms-glpsol")
			b.ReportMetric(float64(a.Nodes), "nodes")
			b.ReportMetric(float64(len(p.Options)), "options")
		})
	}
}

func median(took []time.Duration) float64 {
	slices.Sort(took)
	return float64(took[len(took)/2].Microseconds()) / 1000
}
