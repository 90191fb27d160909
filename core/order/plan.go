package order

import (
	"slices"

	"largo/core/gear"
	"largo/core/schedule"
	"largo/core/unit"
)

// Why is why one switch waits for another one.
type Why string

// The reasons.
const (
	Feeds   Why = "mains"   // it is fed by it
	Boots   Why = "network" // it boots over it
	Kicks   Why = "kick"    // what it sends when it wakes or goes off reaches what is live
	Usually Why = "usual"   // sources, mixer, processing, amplifiers: common practice
)

// Wait is one switch that goes after another one.
type Wait struct {
	First, Then int         // nodes
	After       unit.Second // from the first switch on, at the least
	Why         Why
	Of          []int // devices of First that it is for
}

// Plan is the shortest order of the switches, by one pair of hands.
type Plan struct {
	Sequence []int
	At       []unit.Second // by node
	Total    unit.Second
	Proved   bool  // no safe order is shorter
	Walks    int   // from a place to another one
	Free     []int // nodes that nothing waits for and that wait for nothing
	Waits    []Wait
}

// Up is the shortest safe power-up. Nothing that makes sound goes on before all that can kick
// through it has settled, nothing before its mains and its network stand; what feeds something
// quiet goes on before it, and that may boot beside it.
func (o *Order) Up() Plan {
	waits := o.waits(func(d int) unit.Second { return o.settles(d) })
	return o.plan(waits, o.settle)
}

// Down is the shortest safe shutdown: each waits until what it could kick, feed or boot is dead.
func (o *Order) Down() Plan {
	drain := func(n int) (most unit.Second) {
		for _, d := range o.Nodes[n].Devices {
			t, _ := Drain(o.x.ModelAt(d))
			turn, _ := o.turn(d)
			most = max(most, turn+t)
		}
		return most
	}
	up := o.waits(func(int) unit.Second { return 0 })
	down := make([]Wait, len(up))
	for i, w := range up {
		down[i] = Wait{First: w.Then, Then: w.First, Why: w.Why, After: Hand, Of: w.Of}
		if w.Why != Usually {
			down[i].After = max(Hand, drain(w.Then))
		}
	}
	return o.plan(down, drain)
}

// settle is when all of a switch has settled, from it on.
func (o *Order) settle(n int) (most unit.Second) {
	for _, d := range o.Nodes[n].Devices {
		most = max(most, o.settles(d))
	}
	return most
}

// settles is when a device has settled, from its switch on: behind a sequencer that wakes it in
// turn, later.
func (o *Order) settles(d int) unit.Second {
	s, _ := Settle(o.x.ModelAt(d))
	turn, _ := o.turn(d)
	return turn + s
}

// waits are who waits for whom on waking, as far as no ring stands against it; settles is from
// when on a device that others wait for is quiet.
func (o *Order) waits(settles func(device int) unit.Second) (list []Wait) {
	position := make([]int, len(o.Nodes))
	for p, n := range o.derived {
		position[n] = p
	}
	for i := range o.Nodes {
		for j := range o.Nodes {
			if position[i] >= position[j] || !o.before[i].Has(j) {
				continue
			}
			w := Wait{First: i, Then: j, Why: Usually, After: Hand}
			for _, d := range o.Nodes[i].Devices {
				why := o.why(d, j)
				if why == Usually || why == "" {
					continue
				}
				if s := settles(d); s > w.After {
					w.After = s
				}
				if w.Why == Usually || why == Kicks {
					w.Why = why
				}
				w.Of = append(w.Of, d)
			}
			list = append(list, w)
		}
	}
	return list
}

// why is why the devices of a node wait for a device; "" where they do not.
func (o *Order) why(d, node int) (why Why) {
	m := o.x.ModelAt(d)
	for _, to := range o.Nodes[node].Devices {
		if !o.reach[d].Has(to) {
			continue
		}
		switch {
		case m.Kind.Supplies():
			return Feeds
		case m.Kind == gear.KindSwitch:
			return Boots
		case !m.MakesSound() && o.x.ModelAt(to).MakesSound():
			return Kicks
		}
		why = Usually
	}
	return why
}

// plan finds the shortest order under waits.
func (o *Order) plan(waits []Wait, takes func(node int) unit.Second) Plan {
	out := Plan{Waits: waits, At: make([]unit.Second, len(o.Nodes))}
	bound := make([]bool, len(o.Nodes))
	for _, w := range waits {
		bound[w.First], bound[w.Then] = true, true
	}
	job := make([]int, len(o.Nodes))
	var p schedule.Problem
	var nodes []int
	places := map[string]int{}
	free := func(n int) bool { return !bound[n] && !o.Nodes[n].Loud && len(waits) > 0 }
	for _, n := range o.derived { // so that what is alike stays in the usual order
		if free(n) {
			out.Free = append(out.Free, n)
			continue
		}
		place, known := places[o.Nodes[n].place]
		if !known {
			place = len(places)
			places[o.Nodes[n].place] = place
		}
		job[n] = len(nodes)
		nodes = append(nodes, n)
		p.Jobs = append(p.Jobs, schedule.Job{Hands: float64(Hand), Done: float64(takes(n)), Place: place})
	}
	for _, w := range waits {
		p.Waits = append(p.Waits, schedule.Wait{First: job[w.First], Then: job[w.Then], Lag: float64(w.After)})
	}
	got, err := schedule.Solve(p)
	if err != nil { // waits follow the derived order: there is no ring
		panic(err)
	}
	for _, j := range got.Order {
		out.Sequence = append(out.Sequence, nodes[j])
		out.At[nodes[j]] = unit.Second(got.Begin[j])
	}
	for _, n := range nodes {
		out.Total = max(out.Total, out.At[n]+takes(n))
	}
	out.Proved, out.Walks = got.Proved, got.Walks
	return out
}

// Own is the order of the crew with whatever it leaves out behind it, timed by the waits of the
// derived one as far as it keeps them.
func (o *Order) Own(plan Plan) Plan {
	out := plan
	out.Sequence = slices.DeleteFunc(o.Sequence(), func(n int) bool { return slices.Contains(plan.Free, n) })
	out.At, out.Total, out.Proved = make([]unit.Second, len(o.Nodes)), 0, false
	begun := map[int]bool{}
	now := -Hand
	for _, n := range out.Sequence {
		at := now + Hand
		for _, w := range plan.Waits {
			if w.Then == n && begun[w.First] {
				at = max(at, out.At[w.First]+w.After)
			}
		}
		out.At[n], begun[n], now = at, true, at
		out.Total = max(out.Total, at+o.settle(n))
	}
	return out
}
