package exchange_test

import (
	"context"
	"fmt"
	"math"
	"os/exec"
	"runtime"
	"strconv"
	"strings"
	"testing"
	"time"

	"largo/core/plan"
	"largo/core/plantest"
)

// highs solves a free MPS file with the HiGHS of Debian's python3-scipy and prints its
// value and the seconds of the search alone.
const highs = `
import sys, time
import numpy as np
from scipy.optimize import milp, LinearConstraint, Bounds
rows, sense, cols, obj = {}, [], {}, None
entries, cost, rhs, low, high, whole = [], {}, {}, {}, {}, set()
part, integer = "", False
for line in open(sys.argv[1]):
    if line.startswith("*"): continue
    w = line.split()
    if not w: continue
    if not line.startswith(" "):
        part = w[0]
        continue
    if part == "ROWS":
        if w[0] == "N": obj = w[1]
        else:
            rows[w[1]] = len(sense); sense.append(w[0])
    elif part == "COLUMNS":
        if "'MARKER'" in w: integer = "'INTORG'" in w; continue
        c = cols.setdefault(w[0], len(cols))
        if integer: whole.add(c)
        for r, v in zip(w[1::2], w[2::2]):
            if r == obj: cost[c] = float(v)
            else: entries.append((rows[r], c, float(v)))
    elif part == "RHS":
        for r, v in zip(w[1::2], w[2::2]): rhs[rows[r]] = float(v)
    elif part == "BOUNDS":
        c = cols[w[2]]
        if w[0] in ("UP", "UI"): high[c] = float(w[3])
        elif w[0] in ("LO", "LI"): low[c] = float(w[3])
        elif w[0] == "FX": low[c] = high[c] = float(w[3])
        elif w[0] == "MI": low[c] = -np.inf
        elif w[0] == "PL": high[c] = np.inf
n, m = len(cols), len(sense)
A = np.zeros((m, n))
for r, c, v in entries: A[r, c] += v
b = np.array([rhs.get(i, 0.0) for i in range(m)])
lo = np.where(np.array([s == "L" for s in sense]), -np.inf, b)
hi = np.where(np.array([s == "G" for s in sense]), np.inf, b)
kind = np.array([1 if i in whole else 0 for i in range(n)])
bounds = Bounds([low.get(i, 0.0) for i in range(n)], [high.get(i, np.inf) for i in range(n)])
t = time.perf_counter()
r = milp([cost.get(i, 0.0) for i in range(n)], constraints=LinearConstraint(A, lo, hi), integrality=kind, bounds=bounds,
    options={"time_limit": 60, "mip_rel_gap": 1e-9})
print(r.fun if r.fun is not None else "none", time.perf_counter() - t)
`

// BenchmarkPlanBesideHiGHS prints what the whole planner takes beside HiGHS on the same
// MPS file, the search alone, and the memory of 300 boxes over 30 models.
func BenchmarkPlanBesideHiGHS(b *testing.B) {
	if exec.Command("/usr/bin/python3", "-c", "import scipy.optimize").Run() != nil {
		b.Skip("python3-scipy is not installed")
	}
	for _, boxes := range []int{60, 84, 120} {
		b.Run(fmt.Sprintf("%d boxes, 12 models", boxes), func(b *testing.B) {
			strict := plantest.Extended(uint64(100+boxes), boxes, 12)
			p, a := strict.Best(context.Background(), plan.Fewest, nil)
			judged := p.Judged(plan.Fewest)
			file := mpsFile(b, judged)
			var ours, theirs []time.Duration
			for b.Loop() {
				begun := time.Now()
				a = p.Solve(context.Background(), plan.Fewest, nil)
				ours = append(ours, time.Since(begun))
			}
			for range 3 {
				out, err := exec.Command("/usr/bin/python3", "-c", highs, file).CombinedOutput()
				words := strings.Fields(string(out))
				if err != nil || len(words) != 2 {
					b.Fatalf("%v\n%s", err, out)
				}
				seconds, _ := strconv.ParseFloat(words[1], 64)
				theirs = append(theirs, time.Duration(seconds*float64(time.Second)))
				if want, err := strconv.ParseFloat(words[0], 64); a.X != nil && (err != nil ||
					math.Abs(judged.Value(a.X)-want) > 1e-6*math.Max(1, want)) {
					b.Fatalf("%g here, HiGHS says %s", judged.Value(a.X), words[0])
				}
			}
			if !a.Proved {
				b.Fatal("not proved")
			}
			b.ReportMetric(median(ours), "ms-median")
			b.ReportMetric(median(theirs), "ms-highs")
		})
	}
	b.Run("300 boxes, 30 models", func(b *testing.B) {
		p := plantest.Extended(7, 300, 30)
		var proved bool
		for b.Loop() {
			ctx, stop := context.WithTimeout(context.Background(), 20*time.Second)
			_, a := p.Best(ctx, plan.Fewest, nil)
			proved = a.Proved
			stop()
		}
		var mem runtime.MemStats
		runtime.ReadMemStats(&mem)
		b.ReportMetric(float64(mem.Sys)/1e6, "MB-of-process")
		b.ReportMetric(map[bool]float64{true: 1}[proved], "proved")
	})
}
