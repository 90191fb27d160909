// Package pack puts loads onto circuits and proves that nothing better is possible: as few
// circuits as hold them, then as even as can be, then with the least cost. It knows no rig:
// plain numbers in, plain numbers out.
package pack

import (
	"cmp"
	"math"
	"slices"
)

// Item is a load: how much it takes, what it leaks, on which bins it may stand and what it
// costs there.
type Item struct {
	Load, Leak float64
	Allowed    []bool // by bin; nil for all
	Cost       []int  // by bin; nil for none
	Kind       int    // loads of two kinds never share a bin; 0 shares with any
}

// Bin is a circuit. Base is what it carries whatever is done; a bin that carries something is
// used already.
type Bin struct {
	Cap, Leak      float64 // that it holds; Leak 0: it does not matter
	Base, BaseLeak float64
	Group          int // the phase that it is on, from 0
	Kind           int // of what it carries already; 0 for any
}

// Problem is what has to be packed. Groups are what each group holds, 0 for any; where there
// are several, even means that no group carries more than it has to; else that no bin is
// fuller, in parts of what it holds.
type Problem struct {
	Items  []Item
	Bins   []Bin
	Groups []float64
	// Grain is how far Largest may be off and count as the same: a breaker is read to a tenth
	// of an ampere, and to prove more than anybody reads takes for ever. 0: exact.
	Grain float64
	Any   bool // the first way that holds is enough
}

// Plan is how it is packed.
type Plan struct {
	At      []int   // the bin of each item
	Bins    int     // that are used
	Largest float64 // of groups their load, of one group the part of the fullest bin
	Cost    int
	Proved  bool    // nothing better is possible
	Least   float64 // what Largest can be at the least, where that is not proved
	Nodes   int
}

// slack is how far a sum of floating point may go over what a bin holds.
const slack = 1e-9

// mostNodes bounds each search.
const mostNodes = 200_000

// Solve packs a problem; false where no way of packing it holds.
func Solve(p Problem) (Plan, bool) {
	s := begin(p)
	if s == nil {
		return Plan{}, false
	}
	proved := true
	for s.most = s.leastBins(); ; s.most++ {
		if s.most > len(p.Bins) {
			return Plan{Nodes: s.nodes}, false
		}
		found, whole := s.run(math.Inf(1))
		if found {
			break
		}
		proved = proved && whole
	}
	best := s.best
	if !p.Any {
		least, even := s.even()
		best = s.best
		s.goal = cheap
		_, whole := s.run(best.Largest*(1+slack) + slack)
		best = s.best
		best.Proved, best.Least = proved && even && whole, least
	}
	best.Nodes = s.nodes
	at := make([]int, len(p.Items))
	for i, of := range s.order {
		at[of] = best.At[i]
	}
	best.At = at
	return best, true
}

// mostTries is how often a plan is sought that is more even, mostEven after how many nodes in
// all that ends.
const mostTries, mostEven = 60, 400_000

// even makes the best plan as even as can be: it asks for one that is as even as any could
// be, then for ever less. It gives what Largest is at the least, and whether that is proved to
// the grain.
func (s *search) even() (least float64, proved bool) {
	least = s.leastLargest()
	grain := max(s.p.Grain, slack)
	best := s.best
	limit, from := least+grain, s.nodes
	for range mostTries {
		if s.nodes-from > mostEven {
			break
		}
		if best.Largest <= least+grain {
			return least, true
		}
		found, whole := s.run(limit)
		switch {
		case found:
			best = s.best
		case whole && limit >= best.Largest-grain: // nothing is better by more than the grain
			s.best, s.have = best, true
			return least, true
		case whole:
			least = max(least, limit)
		case limit >= best.Largest-grain: // nobody knows
			s.best, s.have = best, true
			return least, false
		}
		if limit = (least + best.Largest) / 2; best.Largest-least <= 4*grain || !whole && !found {
			limit = best.Largest - grain
		}
	}
	s.best, s.have = best, true
	return least, best.Largest <= least+grain
}

// goal is what a search looks for.
type goal int

const (
	holds goal = iota // any way with so many bins, within the limit of Largest
	cheap             // that of the least cost
)

// search is a depth-first search over items, the largest first.
type search struct {
	p      Problem
	items  []Item // in the order in which they are tried
	order  []int
	same   []bool // item i is like the one before it
	left   []float64
	cost   []int // the least that items from i on cost
	load   []float64
	leak   []float64
	kinds  []map[int]int // by bin, how many items of each kind are in it
	group  []float64
	used   int
	at     []int
	class  []int // bins that are alike have one class
	wide   []int // bins, the widest first
	free   []float64
	most   int
	goal   goal
	limit  float64 // of Largest
	spent  int
	best   Plan
	have   bool
	nodes  int
	budget int
}

// begin checks a problem and sets up its search; nil where an item fits nowhere.
func begin(p Problem) *search {
	s := &search{p: p}
	s.order = make([]int, len(p.Items))
	for i := range s.order {
		s.order[i] = i
	}
	slices.SortStableFunc(s.order, func(a, b int) int { return cmp.Compare(p.Items[b].Load, p.Items[a].Load) })
	for _, i := range s.order {
		s.items = append(s.items, p.Items[i])
	}
	n, m := len(s.items), len(p.Bins)
	s.same, s.left, s.cost, s.at = make([]bool, n), make([]float64, n+1), make([]int, n+1), make([]int, n)
	for i := n - 1; i >= 0; i-- {
		s.left[i] = s.left[i+1] + s.items[i].Load
		least := math.MaxInt
		for b := range m {
			if s.may(i, b) {
				least = min(least, s.costOf(i, b))
			}
		}
		if least == math.MaxInt {
			return nil
		}
		s.cost[i] = s.cost[i+1] + least
		s.same[i] = i > 0 && s.alike(i, i-1)
	}
	s.load, s.leak, s.kinds = make([]float64, m), make([]float64, m), make([]map[int]int, m)
	s.group = make([]float64, max(1, len(p.Groups)))
	for b, bin := range p.Bins {
		s.load[b], s.leak[b], s.kinds[b] = bin.Base, bin.BaseLeak, map[int]int{}
		if bin.Kind != 0 {
			s.kinds[b][bin.Kind]++
		}
		s.group[bin.Group] += bin.Base
		if bin.Base > 0 {
			s.used++
		}
	}
	s.classes()
	s.free = make([]float64, len(s.group))
	s.wide = make([]int, m)
	for b := range s.wide {
		s.wide[b] = b
	}
	slices.SortStableFunc(s.wide, func(a, b int) int { return cmp.Compare(p.Bins[b].Cap, p.Bins[a].Cap) })
	return s
}

func (s *search) may(i, b int) bool {
	a := s.items[i].Allowed
	return (a == nil || a[b]) && s.items[i].Load+s.p.Bins[b].Base <= s.p.Bins[b].Cap+slack
}

func (s *search) costOf(i, b int) int {
	if c := s.items[i].Cost; c != nil {
		return c[b]
	}
	return 0
}

func (s *search) alike(i, j int) bool {
	a, b := s.items[i], s.items[j]
	return a.Load == b.Load && a.Leak == b.Leak && a.Kind == b.Kind && slices.Equal(a.Allowed, b.Allowed) &&
		slices.Equal(a.Cost, b.Cost)
}

// classes finds bins that are alike in all that counts: of empty ones only the first is tried.
func (s *search) classes() {
	m := len(s.p.Bins)
	s.class = make([]int, m)
	for b := range m {
		s.class[b] = b
		for c := range b {
			if s.p.Bins[b] == s.p.Bins[c] && s.columnsAlike(b, c) {
				s.class[b] = s.class[c]
				break
			}
		}
	}
}

func (s *search) columnsAlike(b, c int) bool {
	for _, it := range s.items {
		if it.Allowed != nil && it.Allowed[b] != it.Allowed[c] || it.Cost != nil && it.Cost[b] != it.Cost[c] {
			return false
		}
	}
	return true
}

// leastBins is how many bins are used at the least: as many as hold the sum, the largest
// first.
func (s *search) leastBins() int {
	room, caps := s.left[0], []float64{}
	for b, bin := range s.p.Bins {
		if bin.Base > 0 {
			room -= bin.Cap - s.load[b]
		} else {
			caps = append(caps, bin.Cap)
		}
	}
	slices.SortFunc(caps, func(a, b float64) int { return cmp.Compare(b, a) })
	k := s.used
	for _, c := range caps {
		if room <= slack {
			break
		}
		room -= c
		k++
	}
	return max(k, min(1, len(s.items)))
}

// leastLargest is what Largest is at the least with so many bins: the sum spread as evenly as
// the bins that may be used allow, and the largest item somewhere.
func (s *search) leastLargest() float64 {
	total := s.left[0]
	for _, bin := range s.p.Bins {
		total += bin.Base
	}
	if len(s.p.Groups) > 1 {
		least := s.spread(total)
		if len(s.items) > 0 {
			least = max(least, s.items[0].Load)
		}
		return least
	}
	var caps []float64
	most := 0.0
	for _, bin := range s.p.Bins {
		caps, most = append(caps, bin.Cap), max(most, bin.Base/bin.Cap)
	}
	slices.SortFunc(caps, func(a, b float64) int { return cmp.Compare(b, a) })
	sum := 0.0
	for _, c := range caps[:min(s.most, len(caps))] {
		sum += c
	}
	if sum > 0 {
		most = max(most, total/sum)
	}
	if len(s.items) > 0 && len(caps) > 0 {
		most = max(most, s.items[0].Load/caps[0])
	}
	return most
}

// spread is the least load of the fullest group, over all ways in which the bins that may be
// used lie in the groups.
func (s *search) spread(total float64) float64 {
	n := len(s.p.Groups)
	empty, room, base := make([][]float64, n), make([]float64, n), make([]float64, n)
	open := s.most
	for _, bin := range s.p.Bins {
		base[bin.Group] += bin.Base
		if bin.Base > 0 {
			room[bin.Group] += bin.Cap
			open--
		} else {
			empty[bin.Group] = append(empty[bin.Group], bin.Cap)
		}
	}
	for g := range empty {
		slices.SortFunc(empty[g], func(a, b float64) int { return cmp.Compare(b, a) })
	}
	least := math.Inf(1)
	var deal func(g, left int)
	deal = func(g, left int) {
		if g == n {
			least = min(least, level(room, total))
			return
		}
		had := room[g]
		for k := 0; k <= min(left, len(empty[g])); k++ {
			if k > 0 {
				room[g] += empty[g][k-1]
			}
			deal(g+1, left-k)
		}
		room[g] = had
	}
	deal(0, max(open, 0))
	return max(least, slices.Max(base))
}

// level is how high a sum stands in vessels of such room, at the least: infinite where they do
// not hold it.
func level(room []float64, total float64) float64 {
	sorted := slices.Clone(room)
	slices.Sort(sorted)
	for i, r := range sorted {
		if t := total / float64(len(sorted)-i); t <= r {
			return t
		}
		total -= r
	}
	if total <= slack {
		return sorted[len(sorted)-1]
	}
	return math.Inf(1)
}

// run searches for the goal with Largest within a limit; found tells whether a plan is at
// hand, whole whether the search went to its end.
func (s *search) run(limit float64) (found, whole bool) {
	s.budget, s.limit, s.spent = mostNodes, limit, 0
	if s.goal == cheap {
		s.best.Cost = s.priced()
	} else {
		s.have = false
	}
	whole = s.place(0)
	return s.have, whole
}

// priced is the cost of the best plan so far.
func (s *search) priced() (sum int) {
	for i, b := range s.best.At {
		sum += s.costOf(i, b)
	}
	return sum
}

// place tries all bins for an item; false once the budget is spent.
func (s *search) place(i int) bool {
	if s.nodes++; s.budget == 0 {
		return false
	}
	s.budget--
	if i == len(s.items) {
		s.keep()
		return true
	}
	if !s.promising(i) {
		return true
	}
	first := 0
	if s.same[i] {
		first = s.at[i-1]
	}
	for _, b := range s.tried(i, first) {
		if !s.fits(i, b) { // the best has become better since
			continue
		}
		s.put(i, b, 1)
		whole := s.place(i + 1)
		s.put(i, b, -1)
		if !whole {
			return false
		}
		if s.goal == holds && s.have {
			return true
		}
	}
	return true
}

// put places an item, or takes it away again.
func (s *search) put(i, b, sign int) {
	it := s.items[i]
	if sign > 0 {
		s.at[i] = b
		if s.load[b] == 0 {
			s.used++
		}
	}
	s.load[b] += float64(sign) * it.Load
	s.leak[b] += float64(sign) * it.Leak
	if it.Kind != 0 {
		s.kinds[b][it.Kind] += sign
	}
	s.group[s.p.Bins[b].Group] += float64(sign) * it.Load
	s.spent += sign * s.costOf(i, b)
	if sign < 0 {
		if math.Abs(s.load[b]) < slack/2 && s.p.Bins[b].Base == 0 {
			s.load[b] = 0
			s.used--
		}
	}
}

// tried are the bins that an item may go to, those that look best first.
func (s *search) tried(i, first int) []int {
	var list []int
	seen := map[int]bool{}
	for b := first; b < len(s.p.Bins); b++ {
		if !s.may(i, b) || !s.fits(i, b) {
			continue
		}
		if s.load[b] == 0 {
			if s.used >= s.most || seen[s.class[b]] {
				continue
			}
			seen[s.class[b]] = true
		}
		list = append(list, b)
	}
	slices.SortStableFunc(list, func(x, y int) int {
		if s.goal == cheap {
			return cmp.Compare(s.costOf(i, x), s.costOf(i, y))
		}
		return cmp.Compare(s.p.Bins[x].Cap-s.load[x], s.p.Bins[y].Cap-s.load[y]) // the fullest that holds it
	})
	return list
}

func (s *search) fits(i, b int) bool {
	bin, it := s.p.Bins[b], s.items[i]
	if s.load[b]+it.Load > bin.Cap+slack || bin.Leak > 0 && s.leak[b]+it.Leak > bin.Leak+slack/1e3 {
		return false
	}
	if !s.among(it.Kind, b) {
		return false
	}
	if len(s.p.Groups) > 0 {
		if most := s.p.Groups[bin.Group]; most > 0 && s.group[bin.Group]+it.Load > most+slack {
			return false
		}
	}
	return s.after(i, b) <= s.limit
}

// among tells whether a load of a kind may stand with what a bin carries.
func (s *search) among(kind, b int) bool {
	if kind == 0 {
		return true
	}
	for k, n := range s.kinds[b] {
		if k != kind && n > 0 {
			return false
		}
	}
	return true
}

// after is how large the group, or how full the bin, is with an item in it.
func (s *search) after(i, b int) float64 {
	if len(s.p.Groups) > 1 {
		return s.group[s.p.Bins[b].Group] + s.items[i].Load
	}
	return (s.load[b] + s.items[i].Load) / s.p.Bins[b].Cap
}

// promising tells whether what is left may still lead to something better.
func (s *search) promising(i int) bool {
	if s.goal == cheap && s.have && s.spent+s.cost[i] >= s.best.Cost {
		return false
	}
	return s.left[i] <= s.room()+slack
}

// room is what the bins still hold at the most: what is smaller than the smallest load is
// lost, and no group goes over the limit.
func (s *search) room() float64 {
	smallest := s.items[len(s.items)-1].Load
	several := len(s.p.Groups) > 1
	for g := range s.free {
		s.free[g] = 0
	}
	for b, bin := range s.p.Bins {
		if s.load[b] == 0 {
			continue
		}
		left := bin.Cap - s.load[b]
		if !several {
			left = min(bin.Cap, s.limit*bin.Cap) - s.load[b]
		}
		if left >= smallest-slack {
			s.free[bin.Group] += left
		}
	}
	open := s.most - s.used
	for _, b := range s.wide { // the widest first
		if open == 0 {
			break
		}
		if s.load[b] == 0 {
			s.free[s.p.Bins[b].Group] += s.p.Bins[b].Cap
			open--
		}
	}
	sum := 0.0
	for g, free := range s.free {
		if several {
			free = min(free, s.limit-s.group[g])
		}
		sum += free
	}
	if several && s.most > s.used { // an empty bin may lie in any group
		sum = 0
		for g := range s.free {
			sum += s.limit - s.group[g]
		}
		sum = min(sum, s.any())
	}
	return sum
}

// any is what the bins still hold, whatever the groups may carry.
func (s *search) any() (sum float64) {
	for _, free := range s.free {
		sum += free
	}
	return sum
}

// keep notes a plan that is better than the best.
func (s *search) keep() {
	largest := 0.0
	if len(s.p.Groups) > 1 {
		largest = slices.Max(s.group)
	} else {
		for b, bin := range s.p.Bins {
			if bin.Cap > 0 {
				largest = max(largest, s.load[b]/bin.Cap)
			}
		}
	}
	if s.have && s.goal == cheap && s.spent >= s.best.Cost {
		return
	}
	s.have = true
	s.best = Plan{At: slices.Clone(s.at), Bins: s.used, Largest: largest, Cost: s.spent}
}
