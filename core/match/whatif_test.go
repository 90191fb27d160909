package match_test

import (
	"math"
	"testing"

	"largo/core/match"
	"largo/core/unit"
)

// ISO 9613-1:1993, table 1 (from memory for the others; 8 kHz at 20 °C and
// 70 % is 76.6 dB/km there).
func TestAirLoss(t *testing.T) {
	for _, c := range []struct{ hz, celsius, humidity, want float64 }{{8000, 20, 70, 76.6}, {1000, 20, 70, 4.98}, {4000, 20, 70, 22.9}, {1000, 10, 70, 3.66}} {
		if got := 1000 * match.AirLoss(unit.Hertz(c.hz), c.celsius, c.humidity); math.Abs(got/c.want-1) > 0.02 {
			t.Errorf("%g Hz, %g °C, %g %%: %.2f dB/km, want %.2f", c.hz, c.celsius, c.humidity, got, c.want)
		}
	}
}

// By hand: 97 dB at 1 W, 400 W, 10 m, no air and no heat: 97 + 26.02 − 20 =
// 103.02 dB; four boxes bring 6.02 dB as powers and 12.04 dB in step.
func TestWhatIfByHand(t *testing.T) {
	w := match.WhatIf{Sensitivity: 97, Power: 400, Boxes: 1, Distance: 10, Celsius: 20, Humidity: 50}
	air := 10 * match.AirLoss(2000, 20, 50)
	if got := w.Level().Value + air; math.Abs(got-103.0206) > 1e-3 {
		t.Errorf("%.4f dB", got)
	}
	one := w.Level().Value
	w.Boxes = 4
	if got := w.Level().Value - one; math.Abs(got-6.0206) > 1e-3 {
		t.Errorf("four boxes bring %.4f dB", got)
	}
	w.Together, w.Compression = true, 2
	if got := w.Level().Value - one; math.Abs(got-10.0412) > 1e-3 {
		t.Errorf("in step and 2 dB hot %.4f dB", got)
	}
}
