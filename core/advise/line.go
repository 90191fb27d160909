package advise

import (
	"fmt"

	"largo/core/drive"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/match"
	"largo/core/reckon"
	"largo/core/unit"
)

// Line is the whole truth about one output: its load over frequency, and what
// of it arrives at each box.
type Line struct {
	Output match.Output
	Sweep  load.Sweep
	Dip    reckon.Figure // least |Z| in the band, leads and all, Ω
	Burst  reckon.Figure // W
	Wall   reckon.Figure // what one circuit sustains, W
	Stiff  reckon.Figure // power into half the load over power into the load
	Boxes  []LineBox
}

// LineBox is what arrives at one box.
type LineBox struct {
	Box     match.Box
	Path    reckon.Figure // resistance of the leads to it, Ω
	Loss    reckon.Figure // level lost on the way, dB
	Volts   reckon.Figure // V rms
	Power   reckon.Figure // W
	Ripple  reckon.Figure // over the band, because of the leads, dB
	Damping reckon.Figure // at the box
	Need    reckon.Figure // conductor for the wanted loss, mm²
	Of      string        // the piece of lead that needs it
	Length  unit.Given[unit.Metre]
}

// Asked is what a line is worked out for.
type Asked struct {
	Loss    unit.Decibel // that the leads to a box may take
	Celsius float64      // of the leads' copper
	Circuit unit.Ampere  // of the mains that feeds the amplifier
	Volts   unit.Volt    // of it
}

// UsualAsk is half a decibel and 20 °C (common practice, no source), on the
// circuit that is common where the amplifier's mains are.
func UsualAsk(o match.Output) Asked {
	a := Asked{Loss: drive.WantedLoss, Celsius: 20, Circuit: 16, Volts: 230}
	if o.Fed.Supply.Known() {
		a.Volts = unit.Volt(o.Fed.Supply.Value)
	}
	if a.Volts < 200 {
		a.Circuit = 15
	}
	return a
}

// The band over which ripple is judged, and the least |Z| sought, in Hz.
const bandLow, bandHigh = 20, 20000

// LineOf works an output out.
func LineOf(o match.Output, ask Asked) Line {
	l := Line{Output: o, Sweep: load.SweepOutput(o.Output.Output, load.Thirds(48), ask.Celsius), Burst: o.Burst()}
	l.dip()
	l.Stiff = reckon.Unknown("stiff", "s", "stiffness", o.Nominal.Lacks)
	if o.Nominal.Known() {
		l.Stiff = stiffness(o.Fed, unit.Ohm(o.Nominal.Value))
	}
	l.Wall = o.Fed.Model.Draw().WallGives(ask.Circuit, ask.Volts)
	if l.Sweep.Lacks == "" {
		for i := range o.Boxes {
			l.Boxes = append(l.Boxes, l.box(i, ask))
		}
	}
	return l
}

func (l *Line) dip() {
	if l.Sweep.Lacks != "" {
		l.Dip = reckon.Unknown("dip", "Zdip", "least impedance in the band", l.Sweep.Lacks)
		return
	}
	l.Dip = reckon.Of("dip", "Zdip", "least impedance in the band", l.Sweep.Least,
		"least |Z(f)| from 20 Hz to 20 kHz, at {f}", reckon.In("f", "frequency", l.Sweep.LeastAt, "")).
		Noting("With its leads. A lead never excuses a load that is too low: the amplifier's least is compared with the " +
			"nominal load.").Because("complex network")
}

// stiffness is how much more a channel gives into half the load: near 2 its
// rails hold, near 1 its current or its supply gives in. Where half the load is
// not rated, the load itself is taken as the half of twice.
func stiffness(a drive.Amp, z unit.Ohm) reckon.Figure {
	if half := a.PowerInto(gear.Separate, z/2); !half.Known() {
		z *= 2
	}
	whole, half := a.PowerInto(gear.Separate, z), a.PowerInto(gear.Separate, z/2)
	if lacks := firstLack(whole, half); lacks != "" {
		return reckon.Unknown("stiff", "s", "stiffness", lacks)
	}
	return reckon.Ratio("stiff", "s", "stiffness", half.Value/whole.Value, "{Phalf} / {P}", half.As("Phalf"),
		whole.As("P")).
		Noting(fmt.Sprintf("From %s to %s. Near 2 it is stiff: a bridge then brings up to 6 dB. Near 1 it is out of "+
			"current, and a bridge brings 3 dB at most.", z, z/2)).Because("ratings table")
}

func (l *Line) box(i int, ask Asked) LineBox {
	of := l.Output.Boxes[i]
	need := of.Conductor(ask.Loss, ask.Celsius)
	b := LineBox{Box: of, Path: of.Path(ask.Celsius), Loss: of.LossAt(ask.Celsius), Volts: of.Volts(), Power: of.Power(),
		Damping: of.Damping(), Need: need.Need, Of: l.Output.Boxes[need.Box].Name(), Length: of.Length()}
	if !b.Path.Known() {
		b.Ripple = reckon.Unknown("ripple", "r", "ripple from the leads", b.Path.Lacks)
		return b
	}
	b.Ripple = reckon.Of("ripple", "r", "ripple from the leads",
		l.Sweep.Boxes[i].Ripple(l.Sweep.Hz, bandLow, bandHigh), "most over least of |U(f)| at the box, 20 Hz to 20 kHz").
		Noting("From the " + joinFrom(l.Sweep.From) + ".").Because("complex network")
	return b
}

// firstLack is what the first unknown of some figures lacks, "" when all are
// known.
func firstLack(fs ...reckon.Figure) string {
	for _, f := range fs {
		if !f.Known() {
			return f.Lacks
		}
	}
	return ""
}

func joinFrom(from []gear.ImpedanceFrom) string {
	text := ""
	for i, f := range from {
		if i > 0 {
			text += ", and the "
		}
		text += string(f)
	}
	return text
}
