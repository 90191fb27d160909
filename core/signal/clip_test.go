package signal_test

import (
	"math"
	"testing"

	"largo/core/signal"
	"largo/core/unit"
)

// A clipped sine has the power of the closed form, and tends to a square: twice the power,
// no crest. Its third harmonic is that of the square's series, a third of the fundamental.
func TestAClippedSine(t *testing.T) {
	x := signal.Sine(105.46875, 1) // 36 periods in what is looked at
	for over, distortion := range map[unit.Decibel]float64{0: 0, 3: -1, 6: -1, 60: 1 - 8/math.Pow(math.Pi, 2)} {
		c := signal.Clip(x, over, 2000)
		if want := signal.SineClipped(over); math.Abs(c.Average-want) > 0.002 {
			t.Errorf("%s over: %.4f times the power, want %.4f", over, c.Average, want)
		}
		if want := unit.OfPower(2 / signal.SineClipped(over)); math.Abs(float64(c.Crest-want)) > 0.02 {
			t.Errorf("%s over: crest %s, want %s", over, c.Crest, want)
		}
		// what of a square is not its fundamental: 1 − 8/π² of its power
		if distortion >= 0 && math.Abs(c.Distortion-distortion) > 0.003 {
			t.Errorf("%s over: %.4f of it distortion, want %.4f", over, c.Distortion, distortion)
		}
	}
	square := signal.Clip(x, 60, 2000)
	line := func(hz float64) float64 {
		for _, l := range square.Spectrum {
			if hz > l.Hz*0.89 && hz < l.Hz*1.12 {
				return l.Out
			}
		}
		return math.NaN()
	}
	if got, want := line(316.40625)/line(105.46875), 1.0/9; math.Abs(got/want-1) > 0.03 {
		t.Errorf("third harmonic %.4f of the first, want %.4f", got, want)
	}
}

// Gaussian noise through a clipper at c times its rms: mean square 1 − 2 Q(c) − 2c φ(c) +
// 2c² Q(c), the closed form of its truncated moments.
func TestClippedNoise(t *testing.T) {
	x := signal.Pink(3, 1)[:1<<14]
	rms := math.Pow(10, float64(signal.Measure(x).RMS)/20) / math.Sqrt2
	_, peak := 0.0, 0.0
	for _, v := range x {
		peak = max(peak, math.Abs(v))
	}
	for _, over := range []unit.Decibel{6, 9} {
		c := peak / rms / math.Pow(10, float64(over)/20)
		q := 0.5 * math.Erfc(c/math.Sqrt2)
		want := 1 - 2*q - 2*c*math.Exp(-c*c/2)/math.Sqrt(2*math.Pi) + 2*c*c*q
		got := signal.Clip(x, over, 2000)
		if is := got.Average / got.Clean; math.Abs(is-want) > 0.03 {
			t.Errorf("%s over: %.4f of the power is left, want %.4f", over, is, want)
		}
	}
}

// What clipping does to the high way: behind one crossover its power rises, for the lows
// are held and the highs go on, and of pure lows harmonics are all it gets.
func TestWhatTheTweeterGets(t *testing.T) {
	x := signal.Pink(1, 1)
	clean, clipped := signal.Clip(x, 0, 2000), signal.Clip(x, 12, 2000)
	if clean.High <= 0 || math.Abs(clean.High/clean.HighClean-1) > 1e-9 {
		t.Errorf("not clipped: %.4g and %.4g", clean.High, clean.HighClean)
	}
	if rise := unit.OfPower(clipped.High / clean.High); rise < 6 || rise > 13 {
		t.Errorf("12 dB more of it brings the tweeter %s", rise)
	}
	low := signal.Clip(signal.Sine(105.46875, 1), 20, 2000)
	if low.HighClean > 1e-6 || low.High < 1e-4 || low.High > 0.02 {
		t.Errorf("of pure lows: %.4g, %.4g asked for", low.High, low.HighClean)
	}
}
