package signal

import (
	"math"

	"gonum.org/v1/gonum/dsp/fourier"

	"largo/core/unit"
)

// Clipped is what an amplifier makes of a signal that it is asked for more of than it has.
// Powers are over that of a sine that just does not clip.
type Clipped struct {
	Wave       []float64 // what comes out, 1 the clip
	Asked      []float64 // what was asked for
	Average    float64   // power of all
	Clean      float64   // power of all, were it not clipped
	Crest      unit.Decibel
	Distortion float64 // part of the power that is no part of what was asked for
	Part       float64 // part of the time at the clip
	High       float64 // power over the crossover, of the clipped signal
	HighClean  float64 // of the same, not clipped
	Spectrum   []Line  // by thirds of an octave
}

// Line is a third of an octave: its power, clipped and not, over that of the sine.
type Line struct {
	Hz          float64
	Out, Wanted float64
}

// drawn is how many samples are looked at: a third of a second at 48 kHz.
const drawn = 1 << 14

// Clip drives a signal so many dB over where its peaks just do not clip, and looks at what
// comes out over a crossover of 24 dB an octave.
func Clip(x []float64, over unit.Decibel, crossover unit.Hertz) Clipped {
	n := min(len(x), drawn)
	_, peak := rmsAndPeak(x[:n])
	k := math.Pow(10, float64(over)/20) / max(peak, 1e-12)
	c := Clipped{Wave: make([]float64, n), Asked: make([]float64, n)}
	var asked, out, both, top, at float64
	for i := range n {
		a := k * x[i]
		v := min(max(a, -1), 1)
		if v != a {
			at++
		}
		c.Asked[i], c.Wave[i] = a, v
		asked, out, both, top = asked+a*a, out+v*v, both+a*v, max(top, math.Abs(v))
	}
	m := float64(n)
	c.Average, c.Clean, c.Part = 2*out/m, 2*asked/m, at/m
	if out > 0 {
		c.Crest = unit.OfVolts(top / math.Sqrt(out/m))
		c.Distortion = max(0, 1-both*both/(asked*out))
	}
	c.spectrum(float64(crossover))
	return c
}

// spectrum is by thirds of an octave (IEC 61260-1, base ten; the bands' edges sharp), under
// a Hann window.
func (c *Clipped) spectrum(crossover float64) {
	n := len(c.Wave)
	if n < 1024 {
		return
	}
	out, wanted := powers(c.Wave), powers(c.Asked)
	step := float64(Rate) / float64(n)
	for band := -16; band <= 13; band++ {
		l := Line{Hz: 1000 * math.Pow(10, float64(band)/10)}
		low, high := l.Hz*math.Pow(10, -0.05), l.Hz*math.Pow(10, 0.05)
		for i := int(math.Ceil(low / step)); float64(i)*step < high && i < len(out); i++ {
			l.Out, l.Wanted = l.Out+out[i], l.Wanted+wanted[i]
		}
		c.Spectrum = append(c.Spectrum, l)
	}
	for i := 1; i < len(out); i++ {
		pass := 1 / (1 + math.Pow(crossover/(float64(i)*step), 8))
		c.High, c.HighClean = c.High+out[i]*pass, c.HighClean+wanted[i]*pass
	}
}

// powers are those of each line of the spectrum, over that of a sine of amplitude 1.
func powers(x []float64) []float64 {
	n := len(x)
	w := make([]float64, n)
	for i, v := range x {
		w[i] = v * (1 - math.Cos(2*math.Pi*float64(i)/float64(n)))
	}
	lines := fourier.NewFFT(n).Coefficients(nil, w)
	p := make([]float64, len(lines))
	for i, z := range lines {
		a := 2 * math.Hypot(real(z), imag(z)) / float64(n)
		p[i] = a * a / 1.5 // a window of Hann spreads a line over three
	}
	return p
}

// SineClipped is the power of a sine that is driven so many dB over its clip, over that of
// one just at it: the closed form, 2 at the most, that of a square.
func SineClipped(over unit.Decibel) float64 {
	a := math.Pow(10, float64(over)/20)
	if a <= 1 {
		return a * a
	}
	t := math.Asin(1 / a)
	return 2*a*a/math.Pi*(t-math.Sin(t)*math.Cos(t)) + 2*(1-2*t/math.Pi)
}
