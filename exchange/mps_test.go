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
	"testing"
	"time"

	"largo/core/match"
	"largo/core/matchtest"
	"largo/core/milp"
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
	if bytes.Contains(out, []byte("NO PRIMAL FEASIBLE")) || bytes.Contains(out, []byte("NO INTEGER FEASIBLE")) || bytes.Contains(out, []byte("HAS NO FEASIBLE")) {
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
		p := matchtest.Problem(uint64(i+1), boxes, 4+i%9)
		judged := p.Judged(match.Fewest)
		want, none, _ := glpsol(t, mpsFile(t, judged))
		a := p.Solve(context.Background(), match.Fewest, nil)
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

// BenchmarkPlan prints what a plan takes here beside GLPK on the same MPS
// file, its start and reading included, each as the median of its runs; the
// aim is less than GLPK on every problem of more than 20 boxes, and 120 boxes
// over 12 models in 100 ms.
func BenchmarkPlan(b *testing.B) {
	for _, boxes := range []int{21, 24, 30, 36, 48, 60, 72, 84, 96, 108, 120} {
		b.Run(fmt.Sprintf("%d boxes, 12 models", boxes), func(b *testing.B) {
			p := matchtest.Problem(uint64(100+boxes), boxes, 12)
			file := mpsFile(b, p.Judged(match.Fewest))
			var ours, theirs []time.Duration
			var a match.Answer
			for b.Loop() {
				begun := time.Now()
				a = p.Solve(context.Background(), match.Fewest, nil)
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
