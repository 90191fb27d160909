package kick

import (
	"fmt"
	"slices"

	"largo/core/drive"
	"largo/core/order"
	"largo/core/rig"
	"largo/core/words"
)

// Reason is why a switch stands where it does in an order.
type Reason struct {
	Text  string
	Waits []int // the places in the order of those that hold it up until then
}

// Reasons are those of all steps of an order, in its sequence: of a power-up, or of a shutdown.
func Reasons(x *rig.Index, outs []drive.Output, o *order.Order, plan order.Plan, edge Edge) []Reason {
	in := &way{x, outs, o, plan, edge}
	list := make([]Reason, 0, len(plan.Sequence))
	for _, n := range plan.Sequence {
		list = append(list, in.reason(n))
	}
	return list
}

// strength orders reasons: what hurts goes before what is usual.
var strength = []order.Why{order.Kicks, order.Feeds, order.Boots, order.Usually}

// way is an order whose reasons are told.
type way struct {
	x    *rig.Index
	outs []drive.Output
	*order.Order
	plan order.Plan
	edge Edge
}

func (y *way) reason(n int) (r Reason) {
	plan := y.plan
	var best *order.Wait
	binding := false
	for i := range plan.Waits {
		w := &plan.Waits[i]
		if w.Then != n {
			continue
		}
		now := plan.At[w.First]+w.After >= plan.At[n]-0.5
		if at := slices.Index(plan.Sequence, w.First); now && at >= 0 {
			r.Waits = append(r.Waits, at)
		}
		if best == nil || now && !binding || now == binding && y.rather(w, best) {
			best, binding = w, now
		}
	}
	if r.Text = "Nothing has to go before it."; best != nil {
		r.Text = y.because(best, n)
	}
	return r
}

// rather tells whether one wait says more than another: what hurts more, then what took longer.
func (y *way) rather(a, b *order.Wait) bool {
	if x, z := slices.Index(strength, a.Why), slices.Index(strength, b.Why); x != z {
		return x < z
	}
	return y.plan.At[a.First]+a.After > y.plan.At[b.First]+b.After
}

// because puts a wait into words.
func (y *way) because(w *order.Wait, n int) string {
	first := y.Nodes[w.First].Switch
	if y.edge == Dies {
		return y.dies(w)
	}
	switch w.Why {
	case order.Kicks:
		return fmt.Sprintf("%s has settled first: %s.", first, Worst(y.x, y.outs, w.Of, y.Nodes[n].Devices, Wakes))
	case order.Feeds:
		return fmt.Sprintf("%s feeds it: its mains stands first.", first)
	case order.Boots:
		return fmt.Sprintf("It boots over %s, which stands first.", first)
	}
	return fmt.Sprintf("Behind %s, as is usual: sources, mixer, processing, then what makes sound.", first)
}

func (y *way) dies(w *order.Wait) string {
	first := y.Nodes[w.First].Switch
	switch w.Why {
	case order.Kicks:
		return fmt.Sprintf("%s is dead first: %s.", first, Worst(y.x, y.outs, w.Of, y.Nodes[w.First].Devices, Dies))
	case order.Feeds:
		return fmt.Sprintf("%s, which it feeds, is dead first.", first)
	case order.Boots:
		return fmt.Sprintf("%s, which works over it, is down first.", first)
	}
	return fmt.Sprintf("Behind %s: backwards through the chain.", first)
}

// Worst is the worst that devices send to others at an edge, in words.
func Worst(x *rig.Index, outs []drive.Output, from, to []int, edge Edge) string {
	said := ""
	for _, d := range from {
		for _, a := range Reaches(x, outs, d, edge) {
			if !slices.Contains(to, x.At(a.Out.Device)) {
				continue
			}
			if said == "" || a.Over() {
				said = a.Says()
			}
			if a.Over() {
				return said
			}
			break
		}
	}
	if said != "" {
		return said
	}
	tags := make([]string, len(from))
	for i, d := range from {
		tags[i] = x.Rig.Devices[d].Tag
	}
	return "what " + words.List(tags) + " sends then reaches it"
}
