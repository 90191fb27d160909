// Package signal makes test signals: sines, sweeps, pink noise, and noise of a band and
// a crest as ratings of loudspeakers are tested with. It knows nothing of rigs.
//
// A signal is its samples, full scale from −1 to 1, [Rate] of them a second. Levels are
// dBFS by AES17: the rms of a sine of full scale is 0 dBFS (from memory), so that a
// square wave of full scale reads +3.01.
package signal

import (
	"fmt"
	"math"
	"math/rand/v2"

	"largo/core/unit"
)

// Rate is samples a second.
const Rate = 48000

// Longest bounds a signal: an hour.
const Longest unit.Second = 3600

func samples(length unit.Second) int { return int(math.Round(float64(length) * Rate)) }

// Sine is a sine of full scale.
func Sine(f unit.Hertz, length unit.Second) []float64 {
	x := make([]float64, samples(length))
	for i := range x {
		x[i] = math.Sin(2 * math.Pi * float64(f) * float64(i) / Rate)
	}
	return x
}

// Sweep is a sine of full scale that rises from one frequency to another, each octave in
// the same time (A. Farina, AES preprint 5093, 2000; from memory).
func Sweep(from, to unit.Hertz, length unit.Second) []float64 {
	x := make([]float64, samples(length))
	k := math.Log(float64(to / from))
	for i := range x {
		t := float64(i) / float64(len(x))
		x[i] = math.Sin(2 * math.Pi * float64(from) * float64(length) / k * (math.Exp(t*k) - 1))
	}
	return x
}

// The poles and weights of a filter that makes white noise pink within 0.05 dB above 10
// Hz at 44 to 48 kHz (P. Kellet, 1999; from memory).
var pinking = []struct{ pole, weight float64 }{{0.99886, 0.0555179}, {0.99332, 0.0750759}, {0.96900, 0.1538520},
	{0.86650, 0.3104856}, {0.55000, 0.5329522}, {-0.7616, -0.0168980}}

// Pink is Gaussian noise of equal power in each octave; a seed gives the same noise each
// time.
func Pink(seed uint64, length unit.Second) []float64 {
	r := rand.New(rand.NewPCG(seed, 11))
	x := make([]float64, samples(length))
	var state [6]float64
	var late float64
	for i := range x {
		white := r.NormFloat64()
		sum := late + 0.5362*white
		for j, p := range pinking {
			state[j] = p.pole*state[j] + p.weight*white
			sum += state[j]
		}
		late = 0.115926 * white
		x[i] = sum / 20
	}
	return x
}

// Band keeps what lies between two frequencies, 12 dB an octave at either end
// (Butterworth, second order; the bilinear transform as in R. Bristow-Johnson's
// cookbook; from memory).
func Band(x []float64, low, high unit.Hertz) []float64 {
	return filter(filter(x, low, true), high, false)
}

func filter(x []float64, f unit.Hertz, highPass bool) []float64 {
	w := 2 * math.Pi * float64(f) / Rate
	cos, alpha := math.Cos(w), math.Sin(w)/math.Sqrt2
	b0, b1 := (1-cos)/2, 1-cos
	if highPass {
		b0, b1 = (1+cos)/2, -(1 + cos)
	}
	a0, a1, a2 := 1+alpha, -2*cos, 1-alpha
	y := make([]float64, len(x))
	var x1, x2, y1, y2 float64
	for i, in := range x {
		out := (b0*in + b1*x1 + b0*x2 - a1*y1 - a2*y2) / a0
		x2, x1, y2, y1 = x1, in, y1, out
		y[i] = out
	}
	return y
}

// Crest cuts the peaks of a signal until they stand so far over its rms. A crest under
// 0.1 dB is that of a square wave.
func Crest(x []float64, most unit.Decibel) []float64 {
	y := append([]float64(nil), x...)
	over := math.Pow(10, float64(max(most, 0.1))/20)
	for range 100 {
		rms, peak := rmsAndPeak(y)
		if rms == 0 || peak <= over*rms*1.0005 {
			break
		}
		for i, v := range y {
			y[i] = min(max(v, -over*rms), over*rms)
		}
	}
	return y
}

// Programme is noise that goes loud and soft as programme does, of a chosen crest: pink
// noise under an envelope that moves within a tenth of a second, as deep as the crest
// asks; where noise alone has more crest than that, its peaks are cut. A crest under 3 dB
// is none of noise and is taken as 3, one over 24 as 24. It comes again every 20 s.
func Programme(seed uint64, length unit.Second, crest unit.Decibel) []float64 {
	if length > programmePiece {
		piece, x := Programme(seed, programmePiece, crest), make([]float64, samples(length))
		for at := 0; at < len(x); at += len(piece) {
			copy(x[at:], piece)
		}
		return x
	}
	crest = min(max(crest, 3), 24)
	x := Pink(seed, length)
	if now := Measure(x).Crest; now >= crest {
		return Crest(x, crest)
	}
	r := rand.New(rand.NewPCG(seed, 13))
	swing := make([]float64, len(x))
	slow, slower := 0.0, 0.0
	pole := math.Exp(-1 / (envelope * Rate))
	for i := range swing {
		slow = r.NormFloat64() + pole*slow
		slower = slow*(1-pole) + pole*slower
		swing[i] = slower
	}
	rms, _ := rmsAndPeak(swing)
	y := make([]float64, len(x))
	low, high := 0.0, 3.0
	for range 24 {
		depth := (low + high) / 2
		for i, v := range x {
			y[i] = v * math.Exp(depth*swing[i]/rms)
		}
		if Measure(y).Crest < crest {
			low = depth
		} else {
			high = depth
		}
	}
	return Crest(y, crest)
}

// envelope is the time constant of the programme's loudness, s: a syllable or a beat.
const envelope = 0.1

// programmePiece is after how long programme comes again.
const programmePiece unit.Second = 20

func rmsAndPeak(x []float64) (rms, peak float64) {
	for _, v := range x {
		rms += v * v
		peak = max(peak, math.Abs(v))
	}
	if len(x) == 0 {
		return 0, 0
	}
	return math.Sqrt(rms / float64(len(x))), peak
}

// Levels are the rms level in dBFS, the peak in dB of full scale, and the crest in dB.
type Levels struct{ RMS, Peak, Crest unit.Decibel }

// Measure reads a signal's levels; those of silence are −∞.
func Measure(x []float64) Levels {
	rms, peak := rmsAndPeak(x)
	return Levels{unit.OfVolts(rms * math.Sqrt2), unit.OfVolts(peak), unit.OfVolts(peak / rms)}
}

// At brings a signal to an rms level in dBFS. It is refused where its peaks would not fit
// under full scale, with the level that does.
func At(x []float64, level unit.Decibel) ([]float64, error) {
	now := Measure(x)
	if math.IsInf(float64(now.RMS), 0) {
		return nil, fmt.Errorf("silence has no level")
	}
	if level > 0 || now.Peak+level-now.RMS > 0.001 {
		return nil, fmt.Errorf("at %s rms its peaks, %s above, would not fit under full scale; take %s at most",
			fs(level), now.Peak-now.RMS, fs(unit.Decibel(math.Floor(10*float64(now.RMS-now.Peak))/10)))
	}
	k := math.Pow(10, float64(level-now.RMS)/20)
	y := make([]float64, len(x))
	for i, v := range x {
		y[i] = k * v
	}
	return y, nil
}

func fs(d unit.Decibel) string { return d.String() + "FS" }

// Fade lets a signal rise from silence and fall back to it in a time, so that it begins
// with no click and nobody is startled.
func Fade(x []float64, in unit.Second) []float64 {
	n := min(samples(in), len(x)/2)
	y := append([]float64(nil), x...)
	for i := range n {
		k := 0.5 - 0.5*math.Cos(math.Pi*float64(i)/float64(n))
		y[i] *= k
		y[len(y)-1-i] *= k
	}
	return y
}
