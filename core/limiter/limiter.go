// Package limiter runs a programme through limiters and an amplifier into a driver that
// heats: how far each limiter acts, what power comes out, how hot coil and magnet get. It
// knows nothing of rigs.
//
// A programme is volts at the amplifier's output as they would be without any limiter. A
// limiter is feed-forward: what it detects is its own input.
package limiter

import (
	"fmt"
	"math"
)

// Detector is what a limiter looks at.
type Detector string

// The detectors: one pole on the square of the signal, against a threshold in V rms; one
// pole on its magnitude, against a threshold in V of the peak.
const (
	RMS  Detector = "rms"
	Peak Detector = "peak"
)

// Limiter is one limiter. Attack and release are the time constants of its pole, s: what
// remains of a step falls to 1/e in them.
type Limiter struct {
	Detector        Detector
	Threshold       float64 // V
	Attack, Release float64 // s
	Ratio           float64 // dB in over dB out above the threshold; 0 lets nothing more out
	Knee            float64 // dB over which it begins; 0 at once
}

// Check says what of a limiter cannot be.
func (l Limiter) Check() error {
	switch {
	case l.Detector != RMS && l.Detector != Peak:
		return fmt.Errorf("a limiter detects rms or peak, not %.20q", string(l.Detector))
	case !(l.Threshold > 0 && l.Threshold <= 2000):
		return fmt.Errorf("a limiter at %g V cannot be: over 0 to 2000", l.Threshold)
	case !(l.Attack > 0 && l.Attack <= 600) || !(l.Release > 0 && l.Release <= 600):
		return fmt.Errorf("attack %g s and release %g s cannot be: over 0 to 600", l.Attack, l.Release)
	case l.Ratio != 0 && !(l.Ratio >= 1 && l.Ratio <= 1000):
		return fmt.Errorf("a ratio of %g cannot be: 1 to 1000, or 0 for one that lets nothing more out", l.Ratio)
	case !(l.Knee >= 0 && l.Knee <= 24):
		return fmt.Errorf("a knee of %g dB cannot be: 0 to 24", l.Knee)
	}
	return nil
}

// Reduction is by how much it turns down, dB, while what it detects stands so many dB over
// its threshold.
func (l Limiter) Reduction(over float64) float64 {
	slope := 1.0
	if l.Ratio > 0 {
		slope = 1 - 1/l.Ratio
	}
	half := l.Knee / 2
	switch {
	case over <= -half:
		return 0
	case over < half:
		return slope * (over + half) * (over + half) / (2 * l.Knee)
	}
	return slope * over
}

// Reaches is how long the pole takes, s, from so much of the threshold's square until it
// turns down by so many dB, under a steady input so many dB over the threshold: with the
// pole on the square, t = τ ln((x² − y0)/(x² − 10^(GR/10))). 0 where it stands there
// already, infinite where it never gets there.
func (l Limiter) Reaches(over, begin, reduction float64) float64 {
	x2 := math.Pow(10, over/10)
	y := math.Pow(10, reduction/10)
	switch {
	case begin >= y:
		return 0
	case y >= x2:
		return math.Inf(1)
	}
	return l.Attack * math.Log((x2-begin)/(x2-y))
}

// state is a limiter at work: the pole, in squares of the threshold for rms, in thresholds
// for peak.
type state struct {
	Limiter
	pole         float64
	rise, fall   float64 // what remains of a step after one taking
	inverse      float64 // 1/threshold, squared for rms
	gain, turned float64
	every, n     int     // blocks to one taking, and how many came
	sum, most    float64 // of them
	seen         float64 // the pole that the gain is of
}

// block is how many samples share one gain: a third of a millisecond at 48 kHz.
const block = 16

// An rms detector first averages the square over a part of its attack, s at the most: the
// ripple of a tone's square is no rise of its level, and with an attack faster than the
// release would count as one.
const (
	averagedPart = 0.05
	averagedMost = 0.05
)

func begin(l Limiter, rate float64) *state {
	s := &state{Limiter: l, gain: 1, inverse: 1 / l.Threshold, every: 1}
	if l.Detector == RMS {
		s.inverse *= s.inverse
		s.every = max(1, int(min(averagedPart*l.Attack, averagedMost)*rate/block))
	}
	apart := float64(s.every*block) / rate
	s.rise, s.fall = math.Exp(-apart/l.Attack), math.Exp(-apart/l.Release)
	return s
}

// unheard is by what part a pole may move before its gain is worked out anew: 0.004 dB of
// a square.
const unheard = 0.001

// take lets the limiter see a block of so much mean square and peak, and sets the gain.
func (s *state) take(square, peak float64) {
	s.sum, s.most = s.sum+square, max(s.most, peak)
	if s.n++; s.n < s.every {
		return
	}
	x := s.sum / float64(s.n) * s.inverse
	if s.Detector == Peak {
		x = s.most * s.inverse
	}
	s.sum, s.most, s.n = 0, 0, 0
	k := s.fall
	if x > s.pole {
		k = s.rise
	}
	s.pole = x + (s.pole-x)*k
	if math.Abs(s.pole-s.seen) < unheard*s.seen {
		return
	}
	if s.seen = s.pole; s.pole < 0.06 || s.Knee == 0 && s.pole <= 1 { // far under any knee
		s.gain, s.turned = 1, 0
		return
	}
	over := 10 * math.Log10(s.pole)
	if s.Detector == Peak {
		over *= 2
	}
	s.turned = s.Reduction(over)
	s.gain = math.Pow(10, -s.turned/20)
}
