package start

import (
	"fmt"
	"slices"

	"largo/core/kick"
	"largo/core/order"
	"largo/core/rig"
	"largo/core/stage"
)

// Forbidden tells what an order of switches would do that the one in force does not: "" where it
// may be taken.
func Forbidden(r rig.Rig, names []string) string {
	now := stage.NewInput(r)
	had := now.Order().Violations(now.Order().Sequence())
	r.Order = names
	next := stage.NewInput(r)
	o := next.Order()
	for _, v := range o.Violations(o.Sequence()) {
		if v.Shared || slices.ContainsFunc(had, func(h order.TooEarly) bool {
			return h.Early == v.Early && !slices.ContainsFunc(v.Upper, func(u int) bool { return !slices.Contains(h.Upper, u) })
		}) {
			continue
		}
		return fmt.Sprintf("%s would go on before %s has settled: %s.", r.Devices[v.Early].Tag,
			r.Devices[v.Upper[0]].Tag, kick.Worst(next.Index, next.Driven(), v.Upper, []int{v.Early}, kick.Wakes))
	}
	return ""
}
