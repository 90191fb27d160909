// Package schedule finds the shortest order in which one pair of hands does a list of jobs, each
// not before what it waits for, and proves that none is shorter. It knows no rig: plain numbers
// in, plain numbers out.
package schedule

import (
	"cmp"
	"errors"
	"math"
	"slices"
)

// Job is something to be done by hand.
type Job struct {
	Hands   float64 // that it takes: nothing else is begun meanwhile
	Done    float64 // after its beginning, Hands or more: when it has settled
	Release float64 // it is not begun before
	Place   int     // where it is done, to walk little
}

// Wait has one job begin no sooner than a while after another one began.
type Wait struct {
	First, Then int
	Lag         float64
}

// Problem is what has to be done. Times are of any one unit.
type Problem struct {
	Jobs  []Job
	Waits []Wait
}

// Plan is in which order it is done.
type Plan struct {
	Order  []int
	Begin  []float64 // by job
	Total  float64   // until the last is done
	Walks  int       // from a place to another one
	Proved bool      // no order is shorter
	Least  float64   // what none is shorter than
	Nodes  int
}

// ErrRound is told of jobs that wait for each other in a ring.
var ErrRound = errors.New("jobs wait for each other in a ring")

// Bounds of the search, in jobs begun: for the shortest; of long lists, and for less walking, as
// many times their length.
const mostNodes, longList, mostTimes = 12_000, 150, 6

const slack = 1e-9

// Solve finds the shortest order; of those as short one with little walking.
func Solve(p Problem) (Plan, error) {
	s, err := begin(p)
	if err != nil {
		return Plan{}, err
	}
	if len(p.Jobs) == 0 {
		return Plan{Proved: true}, nil
	}
	s.budget = mostNodes
	if len(p.Jobs) > longList {
		s.budget = mostTimes * len(p.Jobs)
	}
	whole := s.next(0, 0, 0, -1)
	least := s.root
	if whole {
		least = s.best.Total
	}
	s.walking, s.budget = true, mostTimes*len(p.Jobs)
	s.next(0, 0, 0, -1)
	out := s.best
	out.Proved, out.Least, out.Nodes = whole || out.Total <= least+slack, least, s.nodes
	return out, nil
}

// search is a depth-first search over what is begun next.
type search struct {
	p       Problem
	topo    []int // each after all that it waits for
	after   [][]Wait
	waits   [][]Wait
	tail    []float64 // from the beginning of a job until all that waits for it is done
	order   []int
	begun   []float64
	done    []bool
	early   [][]float64 // by depth: not before
	best    Plan
	have    bool
	root    float64
	walking bool
	nodes   int
	budget  int
	queue   []int // of shared: jobs by when they may be begun
	ready   []int
	left    []float64 // hands that a job still takes
	byRest  []int     // jobs, the longest rest first
	before  [][]Wait  // by job: all that it waits for, over others too, the longest lag first
}

func begin(p Problem) (*search, error) {
	n := len(p.Jobs)
	s := &search{p: p, after: make([][]Wait, n), waits: make([][]Wait, n), tail: make([]float64, n),
		begun: make([]float64, n), left: make([]float64, n), done: make([]bool, n), early: make([][]float64, n+1),
		byRest: make([]int, n)}
	left := make([]int, n)
	for _, w := range p.Waits {
		s.after[w.First] = append(s.after[w.First], w)
		s.waits[w.Then] = append(s.waits[w.Then], w)
		left[w.Then]++
	}
	for i := range n {
		if left[i] == 0 {
			s.topo = append(s.topo, i)
		}
	}
	for k := 0; k < len(s.topo); k++ {
		for _, w := range s.after[s.topo[k]] {
			if left[w.Then]--; left[w.Then] == 0 {
				s.topo = append(s.topo, w.Then)
			}
		}
	}
	if len(s.topo) < n {
		return nil, ErrRound
	}
	for _, i := range slices.Backward(s.topo) {
		s.tail[i] = max(p.Jobs[i].Done, p.Jobs[i].Hands)
		for _, w := range s.after[i] {
			s.tail[i] = max(s.tail[i], max(w.Lag, p.Jobs[i].Hands)+s.tail[w.Then])
		}
	}
	for i := range s.byRest {
		s.byRest[i] = i
	}
	if n <= longList {
		s.before = s.closure()
	}
	slices.SortStableFunc(s.byRest, func(a, b int) int { return cmp.Compare(s.rest(b), s.rest(a)) })
	all := make([]float64, (n+1)*n)
	for d := range s.early {
		s.early[d] = all[d*n : (d+1)*n]
	}
	for i, j := range p.Jobs {
		s.early[0][i] = j.Release
	}
	s.root = s.bound(0, 0)
	return s, nil
}

// closure is all that each job waits for, over others too, with the longest lag of any way.
func (s *search) closure() [][]Wait {
	n := len(s.p.Jobs)
	before := make([][]Wait, n)
	lag := make([]float64, n)
	for _, from := range s.topo {
		for i := range lag {
			lag[i] = -1
		}
		lag[from] = 0
		for _, i := range s.topo {
			if lag[i] < 0 {
				continue
			}
			for _, w := range s.after[i] {
				lag[w.Then] = max(lag[w.Then], lag[i]+max(w.Lag, s.p.Jobs[i].Hands))
			}
		}
		for to, l := range lag {
			if to != from && l >= 0 {
				before[to] = append(before[to], Wait{from, to, l})
			}
		}
	}
	for i := range before {
		slices.SortStableFunc(before[i], func(a, b Wait) int {
			return cmp.Compare(b.Lag-s.p.Jobs[b.First].Hands, a.Lag-s.p.Jobs[a.First].Hands)
		})
	}
	return before
}

// handsBefore is what a job may begin at for all that it waits for being done by one pair of
// hands, one after the other.
func (s *search) handsBefore(i int, early []float64) float64 {
	least, first, hands := 0.0, math.Inf(1), 0.0
	for _, w := range s.before[i] {
		if s.done[w.First] {
			continue
		}
		h := s.p.Jobs[w.First].Hands
		first, hands = min(first, early[w.First]), hands+h
		least = max(least, first+hands+w.Lag-h)
	}
	return least
}

// rest is how long it takes after the hands have left a job until all that waits for it is done.
func (s *search) rest(i int) float64 { return s.tail[i] - s.p.Jobs[i].Hands }

// bound is what the rest takes at the least: by the longest way, and by what one pair of hands
// can do.
func (s *search) bound(depth int, now float64) float64 {
	return max(s.raise(depth, now), s.shared(s.early[depth]))
}

// raise raises what each job may begin at by what it waits for, and gives the longest way.
func (s *search) raise(depth int, now float64) (least float64) {
	early := s.early[depth]
	for _, i := range s.topo {
		if s.done[i] {
			continue
		}
		early[i] = max(early[i], now)
		for _, w := range s.waits[i] {
			if !s.done[w.First] {
				early[i] = max(early[i], early[w.First]+max(w.Lag, s.p.Jobs[w.First].Hands))
			}
		}
		if s.before != nil {
			early[i] = max(early[i], s.handsBefore(i, early))
		}
		least = max(least, early[i]+s.tail[i])
	}
	return least
}

// shared is what the rest takes at the least for being done by one pair of hands, if a job could
// be left for another one and taken up again: the job with the longest rest of those that may be
// begun goes on (J. R. Jackson's rule; no order without leaving is shorter).
func (s *search) shared(early []float64) float64 {
	s.queue, s.ready = s.queue[:0], s.ready[:0]
	for _, i := range s.topo {
		if !s.done[i] {
			s.queue = append(s.queue, i)
		}
	}
	slices.SortFunc(s.queue, func(a, b int) int { return cmp.Compare(early[a], early[b]) })
	now, least, k := 0.0, 0.0, 0
	for k < len(s.queue) || len(s.ready) > 0 {
		if len(s.ready) == 0 {
			now = max(now, early[s.queue[k]])
		}
		for ; k < len(s.queue) && early[s.queue[k]] <= now; k++ {
			s.ready = append(s.ready, s.queue[k])
			s.left[s.queue[k]] = s.p.Jobs[s.queue[k]].Hands
		}
		at := 0
		for i := range s.ready {
			if s.rest(s.ready[i]) > s.rest(s.ready[at]) {
				at = i
			}
		}
		i := s.ready[at]
		until := now + s.left[i]
		if k < len(s.queue) && early[s.queue[k]] < until { // something else may be begun meanwhile
			until = early[s.queue[k]]
		}
		if s.left[i] -= until - now; s.left[i] <= slack {
			least = max(least, until+s.rest(i))
			s.ready = slices.Delete(s.ready, at, at+1)
		}
		now = until
	}
	return least
}

// next begins one more job; false once the budget is spent.
func (s *search) next(depth int, now, total float64, place int) bool {
	if s.nodes++; s.budget == 0 {
		return false
	}
	s.budget--
	if depth == len(s.p.Jobs) {
		s.keep(total)
		return true
	}
	if !s.have { // straight down to a first order
		s.raise(depth, now)
	} else if least := max(total, s.bound(depth, now)); !s.promising(least, depth) {
		return true
	}
	for _, i := range s.candidates(depth, place) {
		whole := s.try(i, depth, total)
		if !whole {
			return false
		}
		if s.have && !s.walking && s.best.Total <= s.root+slack {
			return true // none is shorter
		}
	}
	return true
}

// try begins a job and goes on.
func (s *search) try(i, depth int, total float64) bool {
	at := s.early[depth][i]
	s.done[i], s.begun[i] = true, at
	s.order = append(s.order, i)
	copy(s.early[depth+1], s.early[depth])
	for _, w := range s.after[i] {
		s.early[depth+1][w.Then] = max(s.early[depth+1][w.Then], at+w.Lag)
	}
	job := s.p.Jobs[i]
	whole := s.next(depth+1, at+job.Hands, max(total, at+max(job.Done, job.Hands)), job.Place)
	s.order = s.order[:depth]
	s.done[i] = false
	return whole
}

// promising tells whether what is left may lead to something better.
func (s *search) promising(least float64, depth int) bool {
	switch {
	case !s.have:
		return true
	case s.walking:
		return least <= s.best.Total+slack && s.walked(depth) < s.best.Walks
	}
	return least < s.best.Total-slack
}

// walked is how often another place was gone to so far.
func (s *search) walked(depth int) (walks int) {
	for k := 1; k < depth; k++ {
		if s.p.Jobs[s.order[k]].Place != s.p.Jobs[s.order[k-1]].Place {
			walks++
		}
	}
	return walks
}

// candidates are the jobs that may be begun next: whatever can begin before some other one could
// be through. The one that holds up most comes first; where it is about walking, the one at hand.
func (s *search) candidates(depth, place int) []int {
	early := s.early[depth]
	through := math.Inf(1)
	var ready []int
	for _, i := range s.byRest {
		if s.done[i] || slices.ContainsFunc(s.waits[i], func(w Wait) bool { return !s.done[w.First] }) {
			continue
		}
		ready = append(ready, i)
		through = min(through, early[i]+s.p.Jobs[i].Hands)
	}
	list := slices.DeleteFunc(ready, func(i int) bool { return early[i] > through-slack && s.p.Jobs[i].Hands > 0 })
	if len(list) == 0 {
		list = ready
	}
	slices.SortStableFunc(list, func(a, b int) int {
		if s.walking {
			return cmp.Compare(away(s.p.Jobs[a].Place, place), away(s.p.Jobs[b].Place, place))
		}
		return cmp.Compare(early[a], early[b]) // what can begin now, before what would have the hands wait
	})
	return list
}

func away(a, b int) int {
	if a == b {
		return 0
	}
	return 1
}

// keep notes an order that is better than the best.
func (s *search) keep(total float64) {
	walks := s.walked(len(s.order))
	if s.have && total > s.best.Total-slack && (total > s.best.Total+slack || walks >= s.best.Walks) {
		return
	}
	s.have = true
	s.best = Plan{Order: slices.Clone(s.order), Begin: slices.Clone(s.begun), Total: total, Walks: walks}
}
