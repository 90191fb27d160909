package bench

import (
	"math"

	"largo/core/fault"
	"largo/core/unit"
)

// Heard is the volts rms at the box that make a level in dB SPL so far from it in the open:
// L = S + 10 lg(V²/Z) − 20 lg r, less what the heat of the coil takes by now. A room, and
// boxes that play beside it, add to the level, so the volts come out high and the coil hot.
func (st *Study) Heard(level unit.Decibel, far unit.Metre) (unit.Volt, error) {
	s, known := st.Setup.Sensitivity.Get()
	z, known2 := st.Setup.Nominal.Get()
	switch {
	case !known || !known2:
		return 0, fault.At("level", "Sensitivity and impedance of the box are not in the set-up: type the volts.")
	case !(level >= 20 && level <= 170):
		return 0, fault.At("level", "%s cannot be a show: 20 to 170 dB.", level)
	case !(far >= 0.5 && far <= 500):
		return 0, fault.At("far", "%s cannot be where it is read: 0.5 to 500 m.", far)
	}
	var hot unit.Decibel
	if st.Known {
		_, hot, _ = st.Level(st.NowCoil.Mid)
	}
	w := unit.Watt((level - s + unit.OfVolts(float64(far)) + max(hot, 0)).Ratio())
	return unit.Volt(math.Round(float64(w.Across(z))*10) / 10), nil
}
