package supply

import (
	"slices"

	"largo/core/rig"
	"largo/core/unit"
)

// Warm is what stays behind as warmth at a place of the rig.
type Warm struct {
	Place   string // "" for what stands at none that is known
	Watts   unit.Watt
	Standby unit.Watt // that it takes in standby, as far as that is known
	Unsaid  int       // devices whose standby is not known
}

// Air at a rise: its density in kg/m³ and its heat in J/(kg K), at some 20 °C.
const airDensity, airHeat = 1.2, 1005.0

// BTU is what a warmth is in BTU an hour.
func (w Warm) BTU() float64 { return float64(w.Watts) * 3.412142 }

// Air is what carries it away with a rise of so many kelvin, m³ an hour.
func (w Warm) Air(rise float64) float64 {
	return float64(w.Watts) / (airDensity * airHeat * rise) * 3600
}

// Warmth is what stays behind in a state, by place, the warmest first.
func Warmth(r rig.Rig, taken []Taken, s State) (list []Warm) {
	for i := range taken {
		t := &taken[i]
		place := r.Devices[t.Device].Place
		at := slices.IndexFunc(list, func(w Warm) bool { return w.Place == place })
		if at < 0 {
			at = len(list)
			list = append(list, Warm{Place: place})
		}
		list[at].Watts += t.Heat(s)
		if standby, known := t.Model.Intake.Standby.Get(); known {
			list[at].Standby += standby
		} else {
			list[at].Unsaid++
		}
	}
	slices.SortStableFunc(list, func(a, b Warm) int { return int(b.Watts - a.Watts) })
	return list
}
