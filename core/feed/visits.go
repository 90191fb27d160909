package feed

import (
	"fmt"
	"math"
	"slices"

	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/supply"
	"largo/core/unit"
)

// Visit is what was read of a part of the supply at one visit to a place.
type Visit struct {
	When string
	rig.Supply
}

// Compared is a visit beside the others.
type Compared struct {
	When, Lamps string
	Volts       unit.Given[unit.Volt]
	Behind      reckon.Figure // the impedance behind it
	Odd         string        // what is unlike the others; "" for nothing
}

// Bounds from which on a reading is unlike the others (common practice, no source): volts wander
// by some per cent in the course of a day, a joint that goes bad does not stop at that.
const (
	oddVolts = 0.04
	oddOhms  = 0.5
	fewest   = 3 // readings of which one can be told from the others
)

// Compare puts the visits to a part beside each other and names the odd one: against the middle
// of all of them.
func Compare(visits []Visit) []Compared {
	var volts, ohms []float64
	list := make([]Compared, len(visits))
	for i, v := range visits {
		z, _ := supply.SourceOhms(&v.Supply)
		list[i] = Compared{When: v.When, Lamps: string(v.Lamps), Volts: v.Volts, Behind: z}
		if at, known := v.Volts.Get(); known {
			volts = append(volts, float64(at))
		}
		if z.Known() {
			ohms = append(ohms, z.Value)
		}
	}
	usualVolts, usualOhms := middle(volts), middle(ohms)
	for i := range list {
		c := &list[i]
		at, known := c.Volts.Get()
		_, give := supply.SourceOhms(&visits[i].Supply)
		switch {
		case c.Lamps != "" && rig.Lamps(c.Lamps) != Sound:
			c.Odd = "the tester showed a fault"
		case known && len(volts) >= fewest && math.Abs(float64(at)-usualVolts) > oddVolts*usualVolts:
			c.Odd = fmt.Sprintf("%s where it usually has %s", at, unit.Volt(usualVolts))
		case c.Behind.Known() && len(ohms) >= fewest &&
			c.Behind.Value-usualOhms > max(oddOhms*usualOhms, give.Value):
			c.Odd = fmt.Sprintf("%s behind it where it usually has %s: a joint goes bad", c.Behind.Text(), unit.Ohm(usualOhms))
		}
	}
	return list
}

// middle is the median of some numbers, 0 of none.
func middle(list []float64) float64 {
	if len(list) == 0 {
		return 0
	}
	list = slices.Sorted(slices.Values(list))
	n := len(list)
	return (list[(n-1)/2] + list[n/2]) / 2
}
