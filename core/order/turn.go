package order

import (
	"strconv"
	"strings"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
)

// turn is how long after its one switch a device wakes that hangs on a sequencer and shares that
// switch with it: outlet after outlet. False for what is not woken so, or where the sequencer's
// steps are not on record.
func (o *Order) turn(d int) (unit.Second, bool) {
	dev := &o.x.Rig.Devices[d]
	k, fed := o.x.Inlet(dev)
	if !fed {
		return 0, false
	}
	by, m := o.x.Device(k.From.Device)
	if m.Kind != gear.KindSequencer || m.Supply.Sequences != gear.Yes || by.SwitchName() != dev.SwitchName() {
		return 0, false
	}
	step, known := m.Supply.StepsBy.Get()
	if !known {
		return 0, false
	}
	return unit.Second(outletNumber(k.From)-1) * step, true
}

// outletNumber is the number of an outlet of gear, from 1.
func outletNumber(r rig.Ref) int {
	n, err := strconv.Atoi(strings.TrimPrefix(r.Port, "outlet "))
	if err != nil {
		return 1
	}
	return n
}

// inTurn tells whether a sequencer wakes one device so long after another that this one has
// settled; or whether it is that sequencer.
func (o *Order) inTurn(up, d int) bool {
	then, known := o.turn(d)
	if !known || o.x.Rig.Devices[up].SwitchName() != o.x.Rig.Devices[d].SwitchName() {
		return false
	}
	if k, _ := o.x.Inlet(&o.x.Rig.Devices[d]); k.From.Device == o.x.Rig.Devices[up].Tag {
		return true
	}
	_, known = o.turn(up)
	return known && o.settles(up) <= then
}
