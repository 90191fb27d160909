package supply

import (
	"math"
	"slices"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
)

// Waking is what one switch wakes at once on one circuit.
type Waking struct {
	Switch  string
	Devices []int       // of Tree.Taken
	Peak    unit.Ampere // of all of them together, as far as it is known
	Unknown int         // of Devices whose inrush is not known
}

// Wakings are the switches that wake something under a node, in the order of the tree.
func (t *Tree) Wakings(i int) (list []Waking) {
	at := map[string]int{}
	for _, below := range t.Below(i) {
		for _, l := range t.Nodes[below].Loads {
			name := t.x.Rig.Devices[t.Taken[l].Device].SwitchName()
			n, known := at[name]
			if !known {
				n = len(list)
				at[name] = n
				list = append(list, Waking{Switch: name})
			}
			w := &list[n]
			w.Devices = append(w.Devices, l)
			if peak, said := t.Taken[l].Model.Intake.Inrush.Get(); said {
				w.Peak += peak
			} else {
				w.Unknown++
			}
		}
	}
	return list
}

// HoldsPeak is the peak that a breaker surely holds for an instant, A.
func HoldsPeak(rating unit.Ampere, c rig.Curve) unit.Ampere {
	return unit.Ampere(float64(rating) * AtOnce(c).Holds * math.Sqrt2)
}

// Breaker is the nearest one above a device that trips by current, with what it holds for an
// instant; false where none is on record.
func (t *Tree) Breaker(device int) (n *Node, holds unit.Ampere, found bool) {
	i := slices.IndexFunc(t.Taken, func(l Taken) bool { return l.Device == device })
	if i < 0 {
		return nil, 0, false
	}
	for up := t.hung[i]; up >= 0; up = t.Nodes[up].Up {
		if n = &t.Nodes[up]; n.Part != nil && n.Part.Sort == rig.Breaker && n.Limit > 0 {
			return n, HoldsPeak(n.Limit, n.Part.Curve), true
		}
	}
	return nil, 0, false
}

// Motor tells whether a device starts with several times its current.
func (t *Taken) Motor() bool { return t.Model.Appliance != nil && t.Model.Appliance.Motor == gear.Yes }
