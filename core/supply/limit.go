package supply

import (
	"largo/core/reckon"
	"largo/core/rig"
)

// Ceiling is the long-term limiter volts of one output with which a circuit that feeds it
// holds on dense music.
type Ceiling struct {
	At      rig.Ref
	Circuit string
	Volts   reckon.Figure // V rms
}

// Ceilings are those of all outputs on a circuit that does not hold without: the part of
// dense music's power that fits in, the same for all of them. None where it holds, or where
// even silence does not fit in.
func (t *Tree) Ceilings(i int) (list []Ceiling, part float64) {
	n := &t.Nodes[i]
	may := float64(n.Limit)
	if n.Limit == 0 || n.Three || t.ampsAt(i, 1) <= may || t.ampsAt(i, 0) > may {
		return nil, 0
	}
	low, high := 0.0, 1.0
	for range 50 {
		if mid := (low + high) / 2; t.ampsAt(i, mid) <= may {
			low = mid
		} else {
			high = mid
		}
	}
	for _, below := range t.Below(i) {
		for _, l := range t.Nodes[below].Loads {
			for _, o := range t.Taken[l].Outputs {
				list = append(list, Ceiling{rig.Ref{Device: t.Taken[l].Tag, Port: o.Port}, n.Name,
					reckon.Of("mainsLong", "Vmains", "long-term limit with which "+n.Name+" holds on dense music",
						Held(low, o), "sqrt({p} × {Pd} × {Z})",
						reckon.Count("p", "part of dense music's power that fits in", low),
						reckon.In("Pd", "a third of its power", o.Dense, ""), reckon.In("Z", "load", o.Ohms, "")).
						Noting("Rounded down to a tenth.").Because("idle draw and output over efficiency of all that hangs on it")})
			}
		}
	}
	return list, low
}

// ampsAt is what a node carries while all outputs give a part of dense music's power, A.
func (t *Tree) ampsAt(i int, part float64) (sum float64) {
	n := &t.Nodes[i]
	if n.Part != nil {
		sum = float64(n.Part.Carries.Or(0))
	}
	for _, below := range t.Below(i) {
		for _, l := range t.Nodes[below].Loads {
			took := &t.Taken[l]
			sum += float64(took.At(part)) / (float64(t.voltsOr(n, took.Volts)) * float64(took.Factor))
		}
	}
	return sum
}

// Lowest are the ceilings of every output that has one, the lowest of its circuits.
func (t *Tree) Lowest() map[rig.Ref]Ceiling {
	all := map[rig.Ref]Ceiling{}
	for i := range t.Nodes {
		list, _ := t.Ceilings(i)
		for _, c := range list {
			if had, is := all[c.At]; !is || c.Volts.Value < had.Volts.Value {
				all[c.At] = c
			}
		}
	}
	return all
}
