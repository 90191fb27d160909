package gear

import (
	"math"
	"math/cmplx"
	"sort"

	"largo/core/unit"
)

// ImpedanceFrom is what an impedance over frequency is worked out from.
type ImpedanceFrom string

// The sources, the best first.
const (
	FromCurve   ImpedanceFrom = "measured curve"
	FromCone    ImpedanceFrom = "small-signal figures of its cone"
	FromNominal ImpedanceFrom = "nominal impedance, as a resistance"
	FromNothing ImpedanceFrom = ""
)

// ImpedanceFrom tells what the impedance over frequency rests on, FromNothing
// where not even the nominal one is known.
func (d *Drive) ImpedanceFrom() ImpedanceFrom {
	switch {
	case len(d.Impedance) > 1:
		return FromCurve
	case d.Driver != nil && d.Driver.complete():
		return FromCone
	case d.Nominal.Known():
		return FromNominal
	}
	return FromNothing
}

// ImpedanceAt is the complex impedance at a frequency: the measured curve,
// between its points on straight lines of ln|Z| and phase over ln f and beyond
// its ends at their value; else a cone in its box as a circuit; else the
// nominal impedance as a resistance.
func (d *Drive) ImpedanceAt(f unit.Hertz) complex128 {
	switch d.ImpedanceFrom() {
	case FromCurve:
		return d.Impedance.complexAt(float64(f))
	case FromCone:
		return d.Driver.impedanceAt(float64(f))
	case FromNominal:
		return complex(float64(d.Nominal.Or(0)), 0)
	}
	return cmplx.NaN()
}

func (c Curve) complexAt(hz float64) complex128 {
	i := sort.Search(len(c), func(i int) bool { return c[i].Hz >= hz })
	at := func(p Point) complex128 { return cmplx.Rect(p.Value, p.Phase*math.Pi/180) }
	switch {
	case i == 0:
		return at(c[0])
	case i == len(c):
		return at(c[len(c)-1])
	}
	a, b := c[i-1], c[i]
	t := math.Log(hz/a.Hz) / math.Log(b.Hz/a.Hz)
	return at(Point{Value: math.Exp(math.Log(a.Value)*(1-t) + math.Log(b.Value)*t), Phase: a.Phase*(1-t) + b.Phase*t})
}

func (d *Driver) complete() bool {
	return d.Re.Known() && d.Resonance.Known() && d.Qms.Known() && d.Qes.Known()
}

// impedanceAt is Re and Le in series with the motion as a circuit, Res, Cmes
// and Lces side by side: Res = Re Qms/Qes, Cmes = Qes/(ω0 Re), Lces =
// Re/(ω0 Qes), all of the cone in its box (R. H. Small, Direct-Radiator
// Loudspeaker System Analysis, JAES 1972; from memory). An unknown inductance
// is left out, which reads low at the top of the band.
func (d *Driver) impedanceAt(hz float64) complex128 {
	re, q := float64(d.Re.Or(0)), float64(d.Qes.Or(1))
	w, w0 := 2*math.Pi*hz, 2*math.Pi*float64(d.Resonance.Or(1))
	res, c, l := re*float64(d.Qms.Or(1))/q, q/(w0*re), re/(w0*q)
	motion := 1 / (complex(1/res, w*c) + 1/complex(0, w*l))
	return complex(re, w*float64(d.Inductance.Or(0))/1000) + motion
}

// least is where |Z| of the cone is least above its resonance, up to 20 kHz.
func (d *Driver) least() (unit.Hertz, unit.Ohm) {
	size := func(hz float64) float64 { return cmplx.Abs(d.impedanceAt(hz)) }
	low := float64(d.Resonance.Or(1))
	hz := LeastOf(size, low, max(20000, 2*low))
	return unit.Hertz(hz), unit.Ohm(size(hz))
}

// LeastOf is the frequency between two at which a size over frequency is least:
// the least of a grid of twelve an octave, refined between its neighbours by the
// golden section. Dips narrower than the grid are missed.
func LeastOf(size func(hz float64) float64, low, high float64) float64 {
	step := math.Pow(2, 1.0/12)
	at, least := low, size(low)
	for hz := low * step; hz < high*step; hz *= step {
		if z := size(min(hz, high)); z < least {
			at, least = min(hz, high), z
		}
	}
	return Refine(size, max(low, at/step), min(high, at*step))
}

// Refine is where a size is least between two frequencies, by the golden
// section: there has to be one dip between them.
func Refine(size func(hz float64) float64, low, high float64) float64 {
	const golden = 0.6180339887498949
	a, b := math.Log(low), math.Log(high)
	c, d := b-golden*(b-a), a+golden*(b-a)
	zc, zd := size(math.Exp(c)), size(math.Exp(d))
	for range 40 {
		if zc < zd {
			b, d, zd = d, c, zc
			c = b - golden*(b-a)
			zc = size(math.Exp(c))
		} else {
			a, c, zc = c, d, zd
			d = a + golden*(b-a)
			zd = size(math.Exp(d))
		}
	}
	return math.Exp((a + b) / 2)
}

// OutputImpedance is the resistance in Ω that an amplifier's output has inside,
// from the sheet or from its damping factor with the load that it is stated
// for; doubled in bridge. It says false where the sheet gives neither.
func (a *Amplifier) OutputImpedance(mode Mode) (unit.Ohm, bool) {
	z, known := a.OutputZ.Get()
	if !known {
		damping, known1 := a.Damping.Get()
		load, known2 := a.DampingLoad.Get()
		if !known1 || !known2 {
			return 0, false
		}
		z = load / unit.Ohm(damping)
	}
	if mode == Bridged {
		z *= 2
	}
	return z, true
}

// resistivity of annealed copper at 20 °C in Ω mm²/m, and how much of it is
// added a kelvin (IEC 60028).
const (
	resistivity     = 1.0 / 58
	perKelvin       = 0.00393
	referenceDegree = 20
)

// LoopResistance is the resistance in Ω of a two-conductor lead there and
// back, of solid copper of that section at a temperature in °C. Flexible lead
// may be 11 to 16 % above it (IEC 60228 class 5, from memory).
func LoopResistance(length unit.Metre, area unit.SquareMillimetre, celsius float64) unit.Ohm {
	return unit.Ohm(2 * resistivity * (1 + perKelvin*(celsius-referenceDegree)) * float64(length) / float64(area))
}
