package advise

import (
	"fmt"
	"math"
	"math/cmplx"

	"largo/core/gear"
	"largo/core/load"
	"largo/core/match"
	"largo/core/plan"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// Line is the whole truth about one output: its load over frequency, and what
// of it arrives at each box.
type Line struct {
	Output match.Output
	Sweep  load.Sweep
	Dip    reckon.Figure // least |Z| in the band, leads and all, Ω
	DipAt  unit.Hertz
	Inside reckon.Figure // output impedance of the amplifier, Ω
	Burst  reckon.Figure // W
	Supply reckon.Figure // power at the supply of the place, W
	Wall   reckon.Figure // what one circuit sustains, W
	Stiff  reckon.Figure // power into half the load over power into the load
	Boxes  []LineBox
}

// LineBox is what arrives at one box.
type LineBox struct {
	Box     load.Box
	Path    reckon.Figure // resistance of the leads to it, Ω
	Loss    reckon.Figure // level lost on the way, dB
	Volts   reckon.Figure // at full power, V rms
	Power   reckon.Figure // at full power, W
	Ripple  reckon.Figure // over the band, because of the leads, dB
	Damping reckon.Figure // at the box
	Need    reckon.Figure // conductor for the wanted loss, mm²
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
// circuit that is common where the supply is.
func UsualAsk(r rig.Rig) Asked {
	a := Asked{Loss: 0.5, Celsius: 20, Circuit: 16, Volts: plan.WishesOf(r).Volts}
	if a.Volts < 200 {
		a.Circuit = 15
	}
	return a
}

// The band over which ripple is judged, and the least |Z| sought, in Hz.
const bandLow, bandHigh = 20, 20000

// LineOf works an output out.
func LineOf(x *rig.Index, o match.Output, ask Asked) Line {
	l := Line{Output: o, Sweep: load.SweepOutput(x, *o.Output, load.Thirds(48), ask.Celsius)}
	l.dip()
	l.amplifier(x, ask)
	if l.Sweep.Lacks == "" {
		flat := load.SweepNominal(x, *o.Output, ask.Celsius)
		for i := range l.Sweep.Boxes {
			l.Boxes = append(l.Boxes, l.box(x, i, flat, ask))
		}
	}
	return l
}

func (l *Line) dip() {
	if l.Sweep.Lacks != "" {
		l.Dip = reckon.Unknown("dip", "Zdip", "least impedance in the band", l.Sweep.Lacks)
		return
	}
	z, at := l.Sweep.LeastZ(bandLow, bandHigh)
	l.DipAt = at
	l.Dip = reckon.Of("dip", "Zdip", "least impedance in the band", z, "least |Z(f)| from 20 Hz to 20 kHz, at {f}",
		reckon.In("f", "frequency", at, "")).
		Noting("With its leads. A lead never excuses a load that is too low: the amplifier's least is compared with the " +
			"nominal load.").Because("complex network")
}

func (l *Line) amplifier(x *rig.Index, ask Asked) {
	o := l.Output
	_, m := x.Device(o.At.Device)
	if z, known := o.Amp.OutputImpedance(o.Mode); known {
		l.Inside = reckon.Of("inside", "Zo", "output impedance", z, "")
		if o.Mode == gear.Bridged {
			l.Inside = l.Inside.Noting("Twice that of one channel, in bridge.")
		}
	} else {
		l.Inside = reckon.Unknown("inside", "Zo", "output impedance",
			"the sheet gives neither output impedance nor a damping factor with its load")
	}
	if !o.Nominal.Known() {
		l.Burst = reckon.Unknown("burst", "Pburst", "burst power", o.Nominal.Lacks)
		l.Stiff = reckon.Unknown("stiff", "s", "stiffness", o.Nominal.Lacks)
	} else {
		z := unit.Ohm(o.Nominal.Value)
		l.Burst = o.Amp.BurstInto(o.Mode, z)
		l.Stiff = stiffness(o.Amp, z)
	}
	l.Supply = m.AtSupply(o.Power, ask.Volts)
	l.Wall = m.Draw().WallGives(ask.Circuit, ask.Volts)
}

// stiffness is how much more a channel gives into half the load: near 2 its
// rails hold, near 1 its current or its supply gives in. Where half the load is
// not rated, the load itself is taken as the half of twice.
func stiffness(a *gear.Amplifier, z unit.Ohm) reckon.Figure {
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

func (l *Line) box(x *rig.Index, i int, flat load.Sweep, ask Asked) LineBox {
	s := l.Sweep.Boxes[i]
	b := LineBox{Box: s.Box}
	share := cmplx.Abs(flat.Boxes[i].Volts[0])
	path, length := pathTo(x, l.Output.At, s.Box, ask.Celsius)
	b.Path, b.Length = path, length
	z := s.Box.Speaker.NominalZ()
	if lacks := firstLack(path, l.Output.Nominal); lacks != "" {
		b.Loss, b.Ripple = reckon.Unknown("lineLoss", "ΔL", "level lost on the way", lacks),
			reckon.Unknown("ripple", "r", "ripple from the leads", lacks)
		b.Damping, b.Need = reckon.Unknown("boxDamping", "D", "damping at the box", lacks),
			reckon.Unknown("need", "A", "conductor for the wanted loss", lacks)
	} else {
		b.Loss = reckon.Of("lineLoss", "ΔL", "level lost on the way", unit.Decibel(-20*math.Log10(share)), "−20 lg {k}",
			reckon.Count("k", "share of the amplifier's volts that arrives", share)).
			Because("voltage divider of leads and nominal loads, with all boxes on the line")
		b.Ripple = reckon.Of("ripple", "r", "ripple from the leads", s.Ripple(l.Sweep.Hz, bandLow, bandHigh),
			"most over least of |U(f)| at the box, 20 Hz to 20 kHz").
			Noting("From the " + joinFrom(l.Sweep.From) + ".").Because("complex network")
		b.Damping = damping(l.Inside, path, z)
		b.Need = need(x, length, l.Output, z, ask)
	}
	b.Volts, b.Power = atFull(l.Output, share, z)
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

// pathTo adds up the leads from an output to a box.
func pathTo(x *rig.Index, from rig.Ref, b load.Box, celsius float64) (reckon.Figure, unit.Given[unit.Metre]) {
	const key, symbol, name = "path", "R", "leads to the box, there and back"
	var r unit.Ohm
	var whole unit.Metre
	in := b.In()
	for range x.Rig.Links {
		k, fed := x.Into(in)
		if !fed {
			break
		}
		length, known1 := x.LeadLength(k).Get()
		area, known2 := x.LeadArea(k).Get()
		if !known1 || !known2 {
			return reckon.Unknown(key, symbol, name, "the length or the conductor of the lead to "+k.To.Device+
				" is not on record"), unit.Given[unit.Metre]{}
		}
		r, whole = r+gear.LoopResistance(length, area, celsius), whole+length
		if k.From == from {
			break
		}
		in = rig.Ref{Device: k.From.Device, Port: gear.PoleIn(max(1, gear.PairOf(k.From.Port)))}
	}
	return reckon.Of(key, symbol, name, r,
		"Σ 2 ρ l / A").Noting("ρ = 1/58 Ω mm²/m at 20 °C, 0.393 % more for each kelvin; flexible lead may be 11 to " +
		"16 % worse.").Because("IEC 60028"), unit.Of(whole)
}

func damping(inside, path, z reckon.Figure) reckon.Figure {
	const key, symbol, name = "boxDamping", "D", "damping at the box"
	switch {
	case !z.Known():
		return reckon.Unknown(key, symbol, name, z.Lacks)
	case !inside.Known():
		return reckon.Unknown(key, symbol, name, inside.Lacks)
	}
	return reckon.Ratio(key, symbol, name, z.Value/(inside.Value+path.Value), "{Z} / ({Zo} + {R})", z.As("Z"),
		inside.As("Zo"), path.As("R")).
		Noting("Above about 20 nothing changes that is heard (common practice, no source).").
		Because("definition of the damping factor, at the box")
}

// need is the conductor that the whole run takes for the wanted loss: behind it
// the whole load where all hangs on one lead, else this box.
func need(x *rig.Index, length unit.Given[unit.Metre], o match.Output, z reckon.Figure, ask Asked) reckon.Figure {
	const key, symbol, name = "need", "A", "conductor for the wanted loss"
	m, known := length.Get()
	if !known || !z.Known() {
		return reckon.Unknown(key, symbol, name, "the length of the run or the nominal impedance is not known")
	}
	behind := unit.Ohm(z.Value)
	if len(x.From(o.At)) == 1 {
		behind = unit.Ohm(o.Nominal.Value)
	}
	most := behind * unit.Ohm(math.Pow(10, float64(ask.Loss)/20)-1)
	return reckon.Of(key, symbol, name, gear.AreaFor(m, most, ask.Celsius), "2 × ρ × {l} / ({Z} × (10^({ΔL}/20) − 1))",
		reckon.In("l", "length of the run", m, ""), reckon.In("Z", "load behind it", behind, ""),
		reckon.In("ΔL", "wanted loss", ask.Loss, "")).Because("IEC 60028, voltage divider")
}

func atFull(o match.Output, share float64, z reckon.Figure) (volts, power reckon.Figure) {
	if !o.Power.Known() || !z.Known() {
		lacks := o.Power.Lacks
		if lacks == "" {
			lacks = z.Lacks
		}
		return reckon.Unknown("boxVolts", "U", "volts at the box at full power", lacks),
			reckon.Unknown("boxWatts", "P", "power at the box at full power", lacks)
	}
	at := unit.Watt(o.Power.Value).Across(unit.Ohm(o.Nominal.Value))
	u := at * unit.Volt(share)
	volts = reckon.Of("boxVolts", "U", "volts at the box at full power", u, "{k} × sqrt({P} × {Zload})",
		reckon.Count("k", "share that arrives", share), o.Power.As("P"), o.Nominal.As("Zload")).Because("Ohm's law")
	power = reckon.Of("boxWatts", "P", "power at the box at full power", u.Into(unit.Ohm(z.Value)), "{U}² / {Z}",
		volts.As("U"), z.As("Z")).Because("Ohm's law")
	return volts, power
}
