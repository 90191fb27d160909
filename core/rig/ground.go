package rig

import (
	"math"
	"sync"

	"largo/core/gear"
	"largo/core/unit"
)

// Ground is how far it is from one spot of a rig to another, as the leads that lie
// there show. A spot is a place by its name; a device without a place is a spot of its
// own.
type Ground struct {
	x      *Index
	number map[string]int
	next   []map[int]lain       // what lies between two spots
	from   map[int][]unit.Metre // the ways from a spot, worked out when asked for
	asking sync.Mutex           // of from
}

// Apart is how long a way between two places is taken to be where nothing tells, m
// (common practice, no source).
const Apart unit.Metre = 10

// lain is the longest lead between two spots: that reaches for certain, wherever in
// them its ends stand.
type lain struct {
	length unit.Metre
	alike  bool // it carries the signal that is asked for
}

// Ground reads the leads of a rig; those that carry a signal say more of where leads
// of that signal lie than others, which only count where there are none.
func (x *Index) Ground(of gear.Signal) *Ground {
	if g, known := x.ground.Load(of); known {
		return g.(*Ground)
	}
	g := &Ground{x: x, number: map[string]int{}, from: map[int][]unit.Metre{}}
	for _, k := range x.Rig.Links {
		length, known := x.LeadLength(k).Get()
		if !known || k.Via != "" || x.Inside(k) {
			continue // a line in a multicore is as long as the multicore
		}
		p, _ := x.port(k.From)
		g.lay(g.spot(x.Spot(k.From.Device)), g.spot(x.Spot(k.To.Device)), lain{length, p.Signal == of})
	}
	known, _ := x.ground.LoadOrStore(of, g)
	return known.(*Ground)
}

// Spot names the spot that a device stands at: its place, else its tag.
func (x *Index) Spot(tag string) string {
	d, _ := x.Device(tag)
	if d == nil || d.Place == "" {
		return "at " + tag
	}
	return d.Place
}

func (g *Ground) spot(name string) int {
	n, known := g.number[name]
	if !known {
		n = len(g.next)
		g.number[name] = n
		g.next = append(g.next, map[int]lain{})
	}
	return n
}

func (g *Ground) lay(a, b int, l lain) {
	if a == b {
		return
	}
	if was, lies := g.next[a][b]; lies && (was.alike && !l.alike || was.alike == l.alike && was.length >= l.length) {
		return
	}
	g.next[a][b], g.next[b][a] = l, l
}

// Way is how far it is from one spot to another in m: 0 within one; what lies between
// the two; else by way of others, which a lead may always take. False where no leads
// tell.
func (g *Ground) Way(from, to string) (unit.Metre, bool) {
	a, known1 := g.number[from]
	b, known2 := g.number[to]
	switch {
	case from == to:
		return 0, true
	case !known1 || !known2:
		return 0, false
	}
	if l, lies := g.next[a][b]; lies {
		return l.length, true
	}
	g.asking.Lock()
	defer g.asking.Unlock()
	if g.from[a] == nil {
		g.from[a] = g.ways(a)
	}
	way := g.from[a][b]
	return way, !math.IsInf(float64(way), 1)
}

// Between is the way between two devices.
func (g *Ground) Between(a, b string) (unit.Metre, bool) { return g.Way(g.x.Spot(a), g.x.Spot(b)) }

// ways works out the shortest ways from a spot (E. W. Dijkstra, Numerische Mathematik
// 1, 1959; from memory).
func (g *Ground) ways(start int) []unit.Metre {
	ways, done := make([]unit.Metre, len(g.next)), make([]bool, len(g.next))
	for i := range ways {
		ways[i] = unit.Metre(math.Inf(1))
	}
	ways[start] = 0
	for {
		near := -1
		for i := range ways {
			if !done[i] && !math.IsInf(float64(ways[i]), 1) && (near < 0 || ways[i] < ways[near]) {
				near = i
			}
		}
		if near < 0 {
			return ways
		}
		done[near] = true
		for i, l := range g.next[near] {
			ways[i] = min(ways[i], ways[near]+l.length)
		}
	}
}

// Alike tells whether two spots are as far from every other: one and the same, or each
// joined to the rest by nothing but an equal lead to the same spot.
func (g *Ground) Alike(a, b string) bool {
	if a == b {
		return true
	}
	i, known1 := g.number[a]
	j, known2 := g.number[b]
	if !known1 || !known2 || len(g.next[i]) != 1 || len(g.next[j]) != 1 {
		return !known1 && !known2
	}
	for n, l := range g.next[i] {
		return g.next[j][n].length == l.length && n != j
	}
	return false
}
