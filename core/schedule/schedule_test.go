package schedule_test

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"largo/core/schedule"
)

// J. Carlier's example of heads, hands and tails (The one-machine sequencing problem, 1982, from
// memory): 50, where the longest tail first gives 53.
func carlier() (p schedule.Problem) {
	for _, j := range [][3]float64{{10, 5, 7}, {13, 6, 26}, {11, 7, 24}, {20, 4, 21}, {30, 3, 8}, {0, 6, 17}, {30, 2, 0}} {
		p.Jobs = append(p.Jobs, schedule.Job{Release: j[0], Hands: j[1], Done: j[1] + j[2]})
	}
	return p
}

func solve(t *testing.T, p schedule.Problem) schedule.Plan {
	t.Helper()
	got, err := schedule.Solve(p)
	if err != nil {
		t.Fatal(err)
	}
	if wrong := broken(p, got); wrong != "" {
		t.Fatalf("%s: %+v", wrong, got)
	}
	return got
}

// broken tells what a plan does wrong.
func broken(p schedule.Problem, got schedule.Plan) string {
	free, most := 0.0, 0.0
	for _, i := range got.Order {
		j := p.Jobs[i]
		if got.Begin[i] < free-1e-9 || got.Begin[i] < j.Release {
			return fmt.Sprintf("job %d begins at %g, and the hands are free at %g", i, got.Begin[i], free)
		}
		free = got.Begin[i] + j.Hands
		most = max(most, got.Begin[i]+max(j.Done, j.Hands))
	}
	for _, w := range p.Waits {
		if got.Begin[w.Then] < got.Begin[w.First]+w.Lag-1e-9 {
			return fmt.Sprintf("%d does not wait for %d", w.Then, w.First)
		}
	}
	if len(got.Order) != len(p.Jobs) || math.Abs(most-got.Total) > 1e-9 {
		return fmt.Sprintf("%d of %d jobs, %g of %g", len(got.Order), len(p.Jobs), most, got.Total)
	}
	return ""
}

func TestCarlier(t *testing.T) {
	if got := solve(t, carlier()); got.Total != 50 || !got.Proved {
		t.Errorf("%+v", got)
	}
}

// Two sources of 60 s, an amplifier that waits for both, a hand of 5 s: 5 + 60 + 15. A ring is an
// error; nothing to do takes no time; a job that nobody waits for goes in between.
func TestWaits(t *testing.T) {
	p := schedule.Problem{Jobs: []schedule.Job{{Hands: 5, Done: 15}, {Hands: 5, Done: 60}, {Hands: 5, Done: 60},
		{Hands: 5, Done: 10}}, Waits: []schedule.Wait{{First: 1, Then: 0, Lag: 60}, {First: 2, Then: 0, Lag: 60}}}
	if got := solve(t, p); got.Total != 80 || !got.Proved || got.Begin[3] != 10 {
		t.Errorf("%+v", got)
	}
	p.Waits = append(p.Waits, schedule.Wait{First: 0, Then: 1, Lag: 5})
	if _, err := schedule.Solve(p); !errors.Is(err, schedule.ErrRound) {
		t.Errorf("a ring: %v", err)
	}
	if got, err := schedule.Solve(schedule.Problem{}); err != nil || !got.Proved || got.Total != 0 {
		t.Errorf("nothing: %+v, %v", got, err)
	}
}

// Of orders that are as short, one that walks little: six at two places in turns need one walk.
func TestLittleWalking(t *testing.T) {
	var p schedule.Problem
	for i := range 6 {
		p.Jobs = append(p.Jobs, schedule.Job{Hands: 5, Done: 5, Place: i % 2})
	}
	if got := solve(t, p); got.Walks != 1 || got.Total != 30 {
		t.Errorf("%+v", got)
	}
}

// seeded is a rig's order as it might be: sources, a desk, processors, then what makes sound.
func seeded(seed uint64, n int) (p schedule.Problem) {
	r := rand.New(rand.NewPCG(seed, 3))
	for i := range n {
		p.Jobs = append(p.Jobs, schedule.Job{Hands: float64(1 + r.IntN(3)), Done: float64(3 + r.IntN(12)),
			Release: float64(r.IntN(4)), Place: r.IntN(3)})
		for j := range i {
			if r.IntN(3) == 0 {
				p.Waits = append(p.Waits, schedule.Wait{First: j, Then: i, Lag: float64(1 + r.IntN(10))})
			}
		}
	}
	return p
}

// On small problems it finds what trying all orders finds.
func TestAgainstAllOrders(t *testing.T) {
	for seed := range uint64(120) {
		p := seeded(seed, 2+int(seed%6))
		best := math.Inf(1)
		each(len(p.Jobs), func(order []int) { best = min(best, lasts(p, order)) })
		if got := solve(t, p); !got.Proved || math.Abs(got.Total-best) > 1e-9 {
			t.Errorf("seed %d: %g, want %g, proved %t", seed, got.Total, best, got.Proved)
		}
	}
}

// each calls for every order of so many.
func each(n int, do func([]int)) {
	order := make([]int, n)
	for i := range order {
		order[i] = i
	}
	var swap func(k int)
	swap = func(k int) {
		if k == n {
			do(order)
			return
		}
		for i := k; i < n; i++ {
			order[k], order[i] = order[i], order[k]
			swap(k + 1)
			order[k], order[i] = order[i], order[k]
		}
	}
	swap(0)
}

// lasts is how long an order takes, infinite where one goes before what it waits for.
func lasts(p schedule.Problem, order []int) float64 {
	begin := make([]float64, len(p.Jobs))
	done := make([]bool, len(p.Jobs))
	now, most := 0.0, 0.0
	for _, i := range order {
		at := max(now, p.Jobs[i].Release)
		for _, w := range p.Waits {
			if w.Then != i {
				continue
			}
			if !done[w.First] {
				return math.Inf(1)
			}
			at = max(at, begin[w.First]+w.Lag)
		}
		begin[i], done[i], now = at, true, at+p.Jobs[i].Hands
		most = max(most, at+max(p.Jobs[i].Done, p.Jobs[i].Hands))
	}
	return most
}

// GLPK on a time-indexed model finds orders as short, on 20 seeded problems.
func TestAgainstGLPK(t *testing.T) {
	if _, err := exec.LookPath("glpsol"); err != nil {
		t.Fatal("glpsol is not there: scripts/install.sh test installs it")
	}
	if testing.Short() {
		t.Skip("one goroutine, and minutes under the race detector")
	}
	for seed := range uint64(20) {
		p := seeded(100+seed, 6+int(seed%3))
		got := solve(t, p)
		if want := glpsol(t, p, int(got.Total)+4); !got.Proved || math.Abs(got.Total-want) > 1e-6 {
			t.Errorf("seed %d: %g, GLPK %g, proved %t", seed, got.Total, want, got.Proved)
		}
	}
}

// glpsol solves it with a variable for each job and second.
func glpsol(t *testing.T, p schedule.Problem, horizon int) float64 {
	t.Helper()
	var m strings.Builder
	m.WriteString("minimize\n total: T\nsubject to\n")
	at := func(i, s int) string { return fmt.Sprintf("x%d_%d", i, s) }
	sum := func(i int, weigh bool) string {
		var terms []string
		for s := range horizon {
			if !weigh {
				terms = append(terms, at(i, s))
			} else if s > 0 {
				terms = append(terms, fmt.Sprintf("%d %s", s, at(i, s)))
			}
		}
		return strings.Join(terms, " + ")
	}
	for i, j := range p.Jobs {
		fmt.Fprintf(&m, " once%d: %s = 1\n", i, sum(i, false))
		fmt.Fprintf(&m, " end%d: T - %s >= %g\n", i, strings.ReplaceAll(sum(i, true), "+", "-"), max(j.Done, j.Hands))
		fmt.Fprintf(&m, " from%d: %s >= %g\n", i, sum(i, true), j.Release)
	}
	for k, w := range p.Waits {
		fmt.Fprintf(&m, " wait%d: %s - %s >= %g\n", k, sum(w.Then, true), strings.ReplaceAll(sum(w.First, true), "+", "-"),
			w.Lag)
	}
	for s := range horizon { // one pair of hands
		var busy []string
		for i, j := range p.Jobs {
			for from := max(0, s-int(j.Hands)+1); from <= s; from++ {
				busy = append(busy, at(i, from))
			}
		}
		fmt.Fprintf(&m, " hands%d: %s <= 1\n", s, strings.Join(busy, " + "))
	}
	m.WriteString("binary\n")
	for i := range p.Jobs {
		for s := range horizon {
			fmt.Fprintf(&m, " %s\n", at(i, s))
		}
	}
	m.WriteString("end\n")
	dir := t.TempDir()
	model, answer := filepath.Join(dir, "m.lp"), filepath.Join(dir, "out")
	if err := os.WriteFile(model, []byte(m.String()), 0o600); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("glpsol", "--lp", model, "-o", answer, "--cuts").CombinedOutput(); err != nil {
		t.Fatalf("glpsol: %v\n%s", err, out)
	}
	text, err := os.ReadFile(answer)
	if err != nil {
		t.Fatal(err)
	}
	_, rest, found := strings.Cut(string(text), "Objective:  total = ")
	value, err := strconv.ParseFloat(strings.Fields(rest + " x")[0], 64)
	if !found || err != nil {
		t.Fatalf("glpsol said no total:\n%.400s", text)
	}
	return value
}

// big is sixty switches: sources and receivers, two desks, processors, forty amplifiers and
// boxes at six places.
func big(n int) (p schedule.Problem) {
	r := rand.New(rand.NewPCG(60, 1))
	upper := n / 3
	for i := range n {
		j := schedule.Job{Hands: 5, Done: float64(5 + 5*r.IntN(4)), Place: r.IntN(6)}
		if i < upper {
			j.Done = float64(10 + 10*r.IntN(12))
		}
		p.Jobs = append(p.Jobs, j)
		for u := range min(i, upper) {
			if i >= upper || r.IntN(3) == 0 {
				p.Waits = append(p.Waits, schedule.Wait{First: u, Then: i, Lag: map[bool]float64{true: p.Jobs[u].Done,
					false: 5}[i >= upper]})
			}
		}
	}
	return p
}

func TestSixtySwitches(t *testing.T) {
	if testing.Short() {
		t.Skip("one goroutine, and long under the race detector")
	}
	if got := solve(t, big(60)); !got.Proved {
		t.Errorf("%g, not less than %g, %d nodes", got.Total, got.Least, got.Nodes)
	}
	if got := solve(t, big(500)); got.Total == 0 {
		t.Error("500 switches")
	}
}

// Where the search does not come to its end nothing is said to be proved.
func TestUnproved(t *testing.T) {
	if testing.Short() {
		t.Skip("one goroutine, and long under the race detector")
	}
	if got := solve(t, seeded(1, 100)); got.Proved || got.Least >= got.Total {
		t.Errorf("%g, not less than %g, proved %t", got.Total, got.Least, got.Proved)
	}
}

func BenchmarkSixtySwitches(b *testing.B) {
	p := big(60)
	for b.Loop() {
		if _, err := schedule.Solve(p); err != nil {
			b.Fatal(err)
		}
	}
}
