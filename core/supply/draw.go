// Package supply is what feeds a rig, derived once for all who need it: what every device
// takes from the mains, at rest and at work, and the tree from the source down to each of
// them with what flows where.
package supply

import (
	"math"
	"slices"

	"largo/core/drive"
	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
)

// State is how hard the rig works.
type State int

// The states: at rest; ordinary programme, an eighth of the rated sine power into the real
// load, music that clips now and then (IEC 62368-1); dense compressed music, a third; a burst
// at full sine.
const (
	Idle State = iota
	Ordinary
	Dense
	Burst
	states
)

// States are all of them.
var States = []State{Idle, Ordinary, Dense, Burst}

func (s State) String() string {
	return [...]string{"at rest", "ordinary programme", "dense music", "burst"}[s]
}

// Parts of the rated sine power that the states stand for.
const ordinaryPart, densePart = 1.0 / 8, 1.0 / 3

// PartOf is the part of the rated sine power that programme of a crest averages: a sine has
// 3.01 dB of it, and an eighth is 12.04.
func PartOf(crest unit.Decibel) float64 { return math.Pow(10, (3.0103-float64(crest))/10) }

// Taken is what one device takes.
type Taken struct {
	Device  int // index in the rig
	Tag     string
	Watts   [states]unit.Watt
	Factor  unit.Ratio // power factor
	Volts   unit.Volt  // at its inlet
	Assumed []string   // what its sheet does not say, and what was taken instead
	Out     unit.Watt  // what of Ordinary goes out to the boxes
	OutHard unit.Watt  // the same of Dense
	Model   *gear.Model
	Outputs []Output // of an amplifier, that drive something

	draw gear.Draw
	full unit.Watt // of all its outputs, a full sine
}

// Output is what one output of an amplifier gives on dense music, into its load.
type Output struct {
	Port  string
	Dense unit.Watt
	Ohms  unit.Ohm
}

// At is what it takes while its outputs give a part of what they do on dense music, 0 to 1.
func (t *Taken) At(part float64) unit.Watt {
	if t.Model.Amplifier == nil || t.full == 0 {
		return t.Watts[Dense]
	}
	out := t.OutHard * unit.Watt(part)
	return t.draw.Idle + out/unit.Watt(t.draw.At(float64(out/t.full)))
}

// AmpsAt is its current then.
func (t *Taken) AmpsAt(part float64) unit.Ampere { return t.current(t.At(part)) }

func (t *Taken) current(w unit.Watt) unit.Ampere {
	return unit.Ampere(float64(w) / (float64(t.Volts) * float64(t.Factor)))
}

// Held is the long-term limiter volts that hold an output to a part of dense music's power,
// rounded down to a tenth.
func Held(part float64, o Output) unit.Volt {
	return unit.Volt(math.Floor(math.Sqrt(part*float64(o.Dense)*float64(o.Ohms))*10) / 10)
}

// Amps is its current.
func (t *Taken) Amps(s State) unit.Ampere { return t.current(t.Watts[s]) }

// Heat is what stays behind as warmth.
func (t *Taken) Heat(s State) unit.Watt {
	switch s {
	case Ordinary:
		return t.Watts[s] - t.Out
	case Dense:
		return t.Watts[s] - t.OutHard
	}
	return t.Watts[s]
}

// usualVolts is the mains where nobody says what the place has, V.
const usualVolts = 230

// usualFactor is the power factor of what its sheet does not tell: a rectifier that charges
// a capacitor (common practice, no source).
const usualFactor = 0.65

// usualTake is what a device of a kind is taken to draw where its sheet does not say, W: the
// careful side of common practice, no source.
var usualTake = map[gear.Kind]unit.Watt{gear.KindMixer: 120, gear.KindProcessor: 40, gear.KindSource: 60,
	gear.KindReceiver: 30, gear.KindSwitch: 40, gear.KindLoudspeaker: 400, gear.KindAppliance: 500}

// TakenBy is what every powered device of a rig takes, in the order of the rig.
func TakenBy(x *rig.Index, outs []drive.Output) []Taken {
	part := ordinaryPart
	if crest, known := x.Rig.Brief.Crest.Get(); known {
		part = PartOf(crest)
	}
	var list []Taken
	for i := range x.Rig.Devices {
		m := x.ModelAt(i)
		if !m.Powered() && !m.Kind.Supplies() || m.Kind.Generates() {
			continue
		}
		d := &x.Rig.Devices[i]
		t := Taken{Device: i, Tag: d.Tag, Model: m, Volts: usualVolts}
		if at := drive.AtInlet(x, d); at.Known() {
			t.Volts = unit.Volt(at.Value)
		} else {
			t.Assumed = append(t.Assumed, "mains of 230 V")
		}
		if m.Amplifier != nil {
			t.amplifier(part, outs)
		} else {
			t.other()
		}
		list = append(list, t)
	}
	return list
}

// amplifier takes idle draw plus output over efficiency.
func (t *Taken) amplifier(part float64, outs []drive.Output) {
	draw := t.Model.Draw()
	t.Factor = draw.Factor
	if draw.Assumed != "" {
		t.Assumed = append(t.Assumed, draw.Assumed)
	}
	var full, ordinary, dense unit.Watt
	for i := range outs {
		o := &outs[i]
		if o.At.Device != t.Tag || !o.Live || len(o.Boxes) == 0 {
			continue
		}
		p := unit.Watt(o.Power.Value)
		if !o.Power.Known() {
			p = draw.Rated / unit.Watt(max(1, t.Model.Amplifier.Channels))
			t.Assumed = append(t.Assumed, "what "+o.At.Port+" gives: all that it is rated for")
		}
		most := p
		if v, set := o.Limiter.RMS.Get(); set && o.Nominal.Known() {
			most = min(p, v.Into(unit.Ohm(o.Nominal.Value)))
		}
		if o.Power.Known() {
			t.Outputs = append(t.Outputs, Output{o.At.Port, min(densePart*p, most), unit.Ohm(o.Nominal.Value)})
		}
		full += p
		ordinary += min(unit.Watt(part)*p, most)
		dense += min(densePart*p, most)
	}
	above := func(out unit.Watt) unit.Watt {
		if full == 0 {
			return 0
		}
		return out / unit.Watt(draw.At(float64(out/full)))
	}
	t.Out, t.OutHard, t.draw, t.full = ordinary, dense, draw, full
	t.Watts = [states]unit.Watt{draw.Idle, draw.Idle + above(ordinary), draw.Idle + above(dense), draw.Idle + above(full)}
}

// other takes what its sheet says: idle to the largest on its plate.
func (t *Taken) other() {
	m := &t.Model.Intake
	factor, known := m.Factor.Get()
	if !known {
		factor = usualFactor
		if m.Corrected == gear.Yes {
			factor = 0.95
		}
		t.Assumed = append(t.Assumed, "power factor "+factor.String())
	}
	t.Factor = factor
	idle, known1 := m.Idle.Get()
	most, known2 := m.Most.Get()
	switch usual, has := usualTake[t.Model.Kind]; {
	case known1 && known2:
	case known2:
		idle = most
	case known1 && !(t.Model.Loudspeaker != nil): // a desk takes the same whatever it plays
		most = idle
	case known1:
		most = max(idle, usual)
		t.Assumed = append(t.Assumed, "a largest draw of "+most.String())
	case has:
		idle, most = usual, usual
		t.Assumed = append(t.Assumed, "a draw of "+usual.String())
	}
	// what a plate says at most is taken in a burst, and in dense music too: of a box that
	// is no amplifier of ours nobody knows how it goes between
	middle := idle + (most-idle)/2
	if t.Model.Loudspeaker == nil {
		middle = most
	}
	t.Watts = [states]unit.Watt{idle, middle, most, most}
	for s, part := range map[State]string{Idle: gear.Idling, Ordinary: gear.Eighth, Dense: gear.Third, Burst: gear.Whole} {
		if w, listed := t.Model.Listed(part, t.Volts, t.Factor); listed {
			t.Watts[s] = w
		}
	}
}

// Of finds what a device takes.
func Of(all []Taken, tag string) (*Taken, bool) {
	i := slices.IndexFunc(all, func(t Taken) bool { return t.Tag == tag })
	if i < 0 {
		return nil, false
	}
	return &all[i], true
}
