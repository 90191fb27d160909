package advise

import (
	"math"

	"largo/core/match"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// WhatIf is a level by the honest sum, for figures that are tried out.
type WhatIf struct {
	Sensitivity unit.Decibel // 1 W, 1 m
	Power       unit.Watt    // at each box
	Boxes       int
	Together    bool // they add in step, as subwoofers side by side do
	Distance    unit.Metre
	Compression unit.Decibel // what hot coils take
	Celsius     float64
	Humidity    float64 // relative, %
}

// AirLoss is what the air takes from a tone on its way, in dB a metre: the
// absorption of ISO 9613-1:1993, equations (3) to (5), at 101.325 kPa.
func AirLoss(f unit.Hertz, celsius, humidity float64) float64 {
	const t0, t01 = 293.15, 273.16
	t := celsius + 273.15
	h := humidity * math.Pow(10, -6.8346*math.Pow(t01/t, 1.261)+4.6151) // molar concentration of water vapour, %
	oxygen := 24 + 4.04e4*h*(0.02+h)/(0.391+h)
	nitrogen := math.Pow(t/t0, -0.5) * (9 + 280*h*math.Exp(-4.170*(math.Pow(t/t0, -1.0/3)-1)))
	ff := float64(f) * float64(f)
	return 8.686 * ff * (1.84e-11*math.Sqrt(t/t0) + math.Pow(t/t0, -2.5)*
		(0.01275*math.Exp(-2239.1/t)/(oxygen+ff/oxygen)+0.1068*math.Exp(-3352.0/t)/(nitrogen+ff/nitrogen)))
}

// airTone is the frequency at which the air's part of a level is taken: the
// middle of what an A-weighted reading hears, Hz (common practice, no source).
const airTone unit.Hertz = 2000

// Level is L = S + 10 lg P − 20 lg r, with what several boxes add, and what
// the air and hot coils take.
func (w WhatIf) Level() reckon.Figure {
	n := float64(max(w.Boxes, 1))
	more := unit.OfPower(n)
	add := "10 lg {n}"
	if w.Together {
		more, add = 2*more, "20 lg {n}"
	}
	air := unit.Decibel(AirLoss(airTone, w.Celsius, w.Humidity) * float64(w.Distance))
	level := w.Sensitivity + unit.OfPower(float64(w.Power)) +
		more - unit.OfVolts(float64(w.Distance)) - air - w.Compression
	return reckon.Of("whatif", "L", "level at full power", level, "{S} + 10 lg({P} / 1 W) + "+add+
		" − 20 lg({r} / 1 m) − {air} − {hot}",
		reckon.In("S", "sensitivity", w.Sensitivity, ""), reckon.In("P", "power at each box", w.Power, ""),
		reckon.Count("n", "boxes", n), reckon.In("r", "distance", w.Distance, ""),
		reckon.In("air", "air at 2 kHz", air, "ISO 9613-1"),
		reckon.In("hot", "power compression", w.Compression, "")).Because("inverse square law, free field")
}

// Now is the rig as it is in the figures that can be tried out: its full-range
// boxes for the audience, as many as there are, with the mean of what they get.
// Where the rig names none, known is false and the figures are ones to begin
// with.
func Now(r rig.Rig, v match.Verdict) (w WhatIf, known bool) {
	w = WhatIf{Sensitivity: 97, Power: 300, Boxes: 2, Distance: r.Brief.Distance.Or(10), Celsius: 20, Humidity: 50}
	n, watts, keen := 0, 0.0, 0.0
	for _, b := range v.Heard() {
		if s, p := b.Speaker.OneWattSensitivity(), b.Top(); p.Known() && s.Known() {
			n++
			watts += p.Value
			keen += s.Value
		}
	}
	if n == 0 {
		return w, false
	}
	w.Boxes, w.Power, w.Sensitivity = n, unit.Watt(watts/float64(n)), unit.Decibel(keen/float64(n))
	return w, true
}

// HonestSum is what all amplifiers together have to give for ordinary
// programme at a wanted level, with these boxes at this distance.
func (w WhatIf) HonestSum(wanted unit.Decibel) unit.Watt {
	over := unit.Decibel(match.AverageOf(w.Level()).Value) - wanted
	return unit.Watt(float64(w.Power) * float64(w.Boxes) / over.Ratio())
}
