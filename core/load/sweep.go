package load

import (
	"math"
	"math/cmplx"
	"slices"

	"largo/core/gear"
	"largo/core/unit"
)

// Sweep is an output with its leads and boxes as a complex network over
// frequency.
type Sweep struct {
	Hz    []float64
	Z     []complex128 // what the amplifier sees, leads and all
	Boxes []SweptBox
	From  []gear.ImpedanceFrom // what the boxes' impedances rest on, each once
	Lacks string               // why there is no sweep

	Least   unit.Ohm // |Z| in the band of the sweep, refined between its frequencies
	LeastAt unit.Hertz
}

// SweptBox is one box of a sweep.
type SweptBox struct {
	Box   Box
	Volts []complex128 // at the box for 1 V at the amplifier's terminals
}

// Ripple is how much the level at a box rises and falls over a band because of
// the leads, in dB from its least to its most.
func (b SweptBox) Ripple(hz []float64, low, high float64) unit.Decibel {
	least, most := math.Inf(1), 0.0
	for i, f := range hz {
		if f >= low && f <= high {
			v := cmplx.Abs(b.Volts[i])
			least, most = min(least, v), max(most, v)
		}
	}
	if most == 0 || math.IsInf(least, 1) {
		return 0
	}
	return unit.OfVolts(most / least)
}

// Thirds are frequencies from 20 Hz to 20 kHz, so many a decade.
func Thirds(perDecade int) []float64 {
	var hz []float64
	for i := range 3*perDecade + 1 {
		hz = append(hz, 20*math.Pow(10, float64(i)/float64(perDecade)))
	}
	return hz
}

// SweepOutput works an output out over frequency, its leads at a temperature
// in °C. A lead whose length or conductor is not known has no resistance here.
func SweepOutput(o *Output, hz []float64, celsius float64) Sweep {
	s := Sweep{Hz: hz, Boxes: make([]SweptBox, len(o.Boxes))}
	if len(o.Boxes) == 0 {
		s.Lacks = "nothing hangs on this output"
	}
	for i, b := range o.Boxes {
		s.Boxes[i] = SweptBox{Box: b, Volts: make([]complex128, len(hz))}
		s.rests(b)
	}
	if s.Lacks != "" {
		return s
	}
	at := o.over(celsius)
	s.Z = make([]complex128, len(hz))
	for i, f := range hz {
		seen, n := at(f)
		s.Z[i] = seen
		for b, volts := range n.volts {
			s.Boxes[b].Volts[i] = volts
		}
	}
	s.refine(o, func(f float64) float64 {
		seen, _ := at(f)
		return cmplx.Abs(seen)
	})
	return s
}

// over solves an output at any frequency.
func (o *Output) over(celsius float64) func(hz float64) (complex128, network[complex128]) {
	drives, leads := o.drives(), o.LeadsAt(celsius)
	return func(hz float64) (complex128, network[complex128]) {
		return solve(o, func(i int) complex128 { return drives[i].ImpedanceAt(unit.Hertz(hz)) },
			func(i int) complex128 { return complex(float64(leads(i)), 0) })
	}
}

// rests notes what the impedance of a box rests on, or that there is none.
func (s *Sweep) rests(b Box) {
	from := b.Speaker.ImpedanceFrom()
	if b.Speaker.Transformer {
		s.Lacks = b.Name() + ": " + planned
	} else if from == gear.FromNothing {
		s.Lacks = b.Name() + ": " + b.Speaker.NominalZ().Lacks
	}
	if !slices.Contains(s.From, from) {
		s.From = append(s.From, from)
	}
}

// refine finds the least |Z|: at the frequencies of the sweep, at every point of
// the measured curves in its band, and between the neighbours of the least.
func (s *Sweep) refine(o *Output, size func(hz float64) float64) {
	points := slices.Clone(s.Hz)
	seen := map[*gear.Drive]bool{}
	for _, d := range o.drives() {
		for _, p := range d.Impedance {
			if !seen[d] && p.Hz >= s.Hz[0] && p.Hz <= s.Hz[len(s.Hz)-1] {
				points = append(points, p.Hz)
			}
		}
		seen[d] = true
	}
	slices.Sort(points)
	least, at := math.Inf(1), 0
	for i, hz := range points {
		if z := size(hz); z < least {
			least, at = z, i
		}
	}
	hz := gear.Refine(size, points[max(0, at-1)], points[min(len(points)-1, at+1)])
	if z := size(hz); z < least {
		s.Least, s.LeastAt = unit.Ohm(z), unit.Hertz(hz)
		return
	}
	s.Least, s.LeastAt = unit.Ohm(least), unit.Hertz(points[at])
}
