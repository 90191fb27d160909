package signal_test

import (
	"math"
	"testing"

	"largo/core/signal"
	"largo/core/unit"
)

func near(t *testing.T, what string, got, want unit.Decibel, within float64) {
	t.Helper()
	if math.Abs(float64(got-want)) > within {
		t.Errorf("%s: %s, want %s", what, got, want)
	}
}

// power is the mean power of a signal at one frequency (G. Goertzel, American
// Mathematical Monthly 65, 1958; from memory).
func power(x []float64, f float64) float64 {
	turn := 2 * math.Cos(2*math.Pi*f/signal.Rate)
	var s1, s2 float64
	for _, v := range x {
		s1, s2 = v+turn*s1-s2, s1
	}
	return (s1*s1 + s2*s2 - turn*s1*s2) / float64(len(x))
}

// A sine's peak is 3.01 dB over its rms, and by AES17 its rms at full scale is 0 dBFS.
func TestASineIsTheMeasureOfFullScale(t *testing.T) {
	l := signal.Measure(signal.Sine(1000, 1))
	near(t, "rms", l.RMS, 0, 1e-6)
	near(t, "crest", l.Crest, 3.0103, 1e-4)
	x, err := signal.At(signal.Sine(1000, 1), -20)
	if err != nil {
		t.Fatal(err)
	}
	near(t, "at −20 dBFS", signal.Measure(x).RMS, -20, 1e-9)
	near(t, "its peak", signal.Measure(x).Peak, -20, 1e-4)
}

// Pink noise has the same power in each octave: white would rise 3.01 dB from one to the
// next.
func TestPinkNoiseIsPink(t *testing.T) {
	x := signal.Pink(1, 4)
	var octaves []float64
	for low := 62.5; low < 8000; low *= 2 {
		sum, n := 0.0, 0
		for f := low; f < 2*low; f *= 1.003 {
			sum, n = sum+power(x, f), n+1
		}
		octaves = append(octaves, 10*math.Log10(sum/float64(n)*low)) // density times width
	}
	for i, db := range octaves {
		if math.Abs(db-octaves[3]) > 1 {
			t.Errorf("the octave above %g Hz lies at %.2f dB, the fourth at %.2f", 62.5*math.Pow(2, float64(i)), db, octaves[3])
		}
	}
	again := signal.Pink(1, 1)
	for i := range again {
		if again[i] != x[i] {
			t.Fatal("one seed gives two noises")
		}
	}
}

// Noise for ratings has 6 dB of crest (AES2-1984; from memory), and a second-order band
// is 3 dB down at its ends and some 12 dB an octave below.
func TestNoiseOfABandAndACrest(t *testing.T) {
	x := signal.Crest(signal.Pink(2, 10), 6)
	near(t, "crest", signal.Measure(x).Crest, 6, 0.01)
	sine := func(f unit.Hertz) unit.Decibel {
		y := signal.Band(signal.Sine(f, 2), 100, 1000)
		return signal.Measure(y[len(y)/2:]).RMS
	}
	near(t, "at its foot", sine(100), -3.01, 0.02)
	near(t, "at its top", sine(1000), -3.01, 0.02)
	near(t, "an octave below", sine(50), -12.3, 0.1) // 10 lg(1 + 2⁴)
	near(t, "within", sine(316), -0.09, 0.05)        // 2 × 10 lg(1 + 10⁻²)
}

// A sweep spends the same time in each octave, and begins and ends where it was told.
func TestASweepRisesByOctaves(t *testing.T) {
	x := signal.Sweep(100, 1600, 4)
	crossings := func(from, to float64) (n int) {
		for i := int(from * signal.Rate); i < int(to*signal.Rate)-1; i++ {
			if x[i] < 0 && x[i+1] >= 0 {
				n++
			}
		}
		return n
	}
	// In its second second it goes from 200 to 400 Hz: 200/ln 2 = 288.5 periods.
	if n := crossings(1, 2); n < 287 || n > 290 {
		t.Errorf("%d periods between 200 and 400 Hz in a second", n)
	}
}

// What does not fit under full scale is refused with what does; a fade begins at nothing.
func TestLevelsThatDoNotFit(t *testing.T) {
	noise := signal.Crest(signal.Pink(3, 2), 12)
	if _, err := signal.At(noise, -3); err == nil {
		t.Error("peaks 12 dB over −3 dBFS were let through")
	}
	if x, err := signal.At(noise, -9.2); err != nil || signal.Measure(x).Peak > 0 {
		t.Errorf("%v", err)
	}
	if _, err := signal.At(make([]float64, 100), -20); err == nil {
		t.Error("silence was given a level")
	}
	if x := signal.Fade(signal.Sine(1000, 1), 0.2); x[0] != 0 || math.Abs(x[len(x)-1]) > 1e-6 {
		t.Errorf("it begins at %g", x[0])
	}
}

// Programme has the crest that was asked for, 6 to 20 dB, and is loud and soft: its
// loudness within tenths of a second varies the more, the more crest.
func TestProgramme(t *testing.T) {
	last := 0.0
	for _, crest := range []unit.Decibel{6, 9, 12, 15, 20} {
		x := signal.Programme(1, 4, crest)
		if got := signal.Measure(x).Crest; math.Abs(float64(got-crest)) > 0.1 {
			t.Errorf("a crest of %s, asked for %s", got, crest)
		}
		least, most := math.Inf(1), 0.0
		for i := 0; i+4800 <= len(x); i += 4800 {
			l := float64(signal.Measure(x[i : i+4800]).RMS)
			least, most = min(least, l), max(most, -60, l+100)
		}
		if swing := most - 100 - least; crest >= 12 {
			if swing < last-1 {
				t.Errorf("%s: swings by %.1f dB, less than one of less crest, %.1f", crest, swing, last)
			}
			last = swing
		}
	}
	if x := signal.Programme(7, 1, 12); signal.Measure(x) != signal.Measure(signal.Programme(7, 1, 12)) {
		t.Error("one seed gives two noises")
	}
}
