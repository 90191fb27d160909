package load

import (
	"math"
	"math/cmplx"

	"largo/core/gear"
	"largo/core/rig"
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
}

// SweptBox is one box of a sweep.
type SweptBox struct {
	Box   Box
	Volts []complex128 // at the box for 1 V at the amplifier's terminals
}

// LeastZ is the least |Z| between two frequencies and where it lies.
func (s Sweep) LeastZ(low, high float64) (z unit.Ohm, at unit.Hertz) {
	z = unit.Ohm(math.Inf(1))
	for i, hz := range s.Hz {
		if v := unit.Ohm(cmplx.Abs(s.Z[i])); hz >= low && hz <= high && v < z {
			z, at = v, unit.Hertz(hz)
		}
	}
	return z, at
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

// swept is a node with the resistance of the lead to it.
type swept struct {
	drive *gear.Drive
	lead  float64
	kids  []sweptGroup
	box   int // its place in the list of boxes
}

// sweptGroup hangs side by side with others: one box, or several in series.
type sweptGroup []swept

// SweepOutput works an output out over frequency, its leads at a temperature
// in °C. A lead whose length or conductor is not known has no resistance here.
func SweepOutput(x *rig.Index, o Output, hz []float64, celsius float64) Sweep {
	s := Sweep{Hz: hz}
	b := sweeping{x: x, celsius: celsius, sweep: &s}
	groups := b.read(o.At)
	switch {
	case len(s.Boxes) == 0:
		s.Lacks = "nothing hangs on this output"
	case s.Lacks != "":
	default:
		for i := range s.Boxes {
			s.Boxes[i].Volts = make([]complex128, len(hz))
		}
		s.Z = make([]complex128, len(hz))
		for i, f := range hz {
			s.Z[i] = 1 / admittance(groups, f)
			s.spread(groups, i, f, 1)
		}
	}
	return s
}

// SweepNominal works an output out with every box at its nominal impedance, as
// a resistance: one frequency says it all. It is for figures that are compared
// with nominal ones.
func SweepNominal(x *rig.Index, o Output, celsius float64) Sweep {
	s := Sweep{Hz: []float64{1000}}
	b := sweeping{x: x, celsius: celsius, sweep: &s, nominal: true}
	groups := b.read(o.At)
	s.Z = []complex128{1 / admittance(groups, 1000)}
	for i := range s.Boxes {
		s.Boxes[i].Volts = make([]complex128, 1)
	}
	s.spread(groups, 0, 1000, 1)
	return s
}

type sweeping struct {
	x       *rig.Index
	nominal bool
	celsius float64
	sweep   *Sweep
}

// read reads what is plugged into an output or link-through.
func (b *sweeping) read(at rig.Ref) []sweptGroup {
	var groups []sweptGroup
	series := map[string]int{}
	for _, k := range b.x.From(at) {
		d, m := b.x.Device(k.To.Device)
		pair := gear.PairOf(k.To.Port)
		if m == nil || m.Kind != gear.KindLoudspeaker || m.Loudspeaker.Active || pair == 0 {
			continue
		}
		speaker, way := m.Loudspeaker.WayAt(pair)
		box := Box{Tag: d.Tag, Device: d, Poles: pair, Way: way, Speaker: speaker}
		from := speaker.ImpedanceFrom()
		if speaker.Transformer {
			b.sweep.Lacks = box.Name() + ": " + planned
		} else if from == gear.FromNothing {
			b.sweep.Lacks = box.Name() + ": " + speaker.NominalZ().Lacks
		}
		b.note(from)
		drive := &speaker.Drive
		if b.nominal {
			drive = &gear.Drive{Nominal: speaker.Nominal}
		}
		n := swept{drive: drive, lead: b.lead(*k), box: len(b.sweep.Boxes)}
		b.sweep.Boxes = append(b.sweep.Boxes, SweptBox{Box: box})
		n.kids = b.read(box.Through())
		if g, known := series[k.Series]; known && k.Series != "" {
			groups[g] = append(groups[g], n)
			continue
		}
		series[k.Series] = len(groups)
		groups = append(groups, sweptGroup{n})
	}
	return groups
}

func (b *sweeping) note(from gear.ImpedanceFrom) {
	for _, have := range b.sweep.From {
		if have == from {
			return
		}
	}
	b.sweep.From = append(b.sweep.From, from)
}

func (b *sweeping) lead(k rig.Link) float64 {
	length, known1 := b.x.LeadLength(k).Get()
	area, known2 := b.x.LeadArea(k).Get()
	if !known1 || !known2 {
		return 0
	}
	return float64(gear.LoopResistance(length, area, b.celsius))
}

// admittance is what groups side by side take for 1 V.
func admittance(groups []sweptGroup, f float64) (y complex128) {
	for _, g := range groups {
		y += 1 / g.impedance(f)
	}
	return y
}

func (g sweptGroup) impedance(f float64) (z complex128) {
	for _, n := range g {
		z += complex(n.lead, 0) + n.behind(f)
	}
	return z
}

// behind is the impedance at the end of a box's lead: the box itself with all
// that is linked through from it.
func (n swept) behind(f float64) complex128 {
	return 1 / (1/n.drive.ImpedanceAt(unit.Hertz(f)) + admittance(n.kids, f))
}

// spread carries the voltage out to the boxes.
func (s *Sweep) spread(groups []sweptGroup, i int, f float64, volts complex128) {
	for _, g := range groups {
		current := volts / g.impedance(f)
		for _, n := range g {
			at := current * n.behind(f)
			s.Boxes[n.box].Volts[i] = at
			s.spread(n.kids, i, f, at)
		}
	}
}
