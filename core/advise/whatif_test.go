package advise_test

import (
	"math"
	"testing"

	"largo/core/advise"
	"largo/core/drive"
	"largo/core/load"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/sound"
	"largo/core/unit"
)

// ISO 9613-1:1993, table 1 (from memory for the others; 8 kHz at 20 °C and
// 70 % is 76.6 dB/km there).
func TestAirLoss(t *testing.T) {
	for _, c := range []struct{ hz, celsius, humidity, want float64 }{{8000, 20, 70, 76.6}, {1000, 20, 70, 4.98},
		{4000, 20, 70, 22.9}, {1000, 10, 70, 3.66}} {
		if got := 1000 * advise.AirLoss(unit.Hertz(c.hz), c.celsius, c.humidity); math.Abs(got/c.want-1) > 0.02 {
			t.Errorf("%g Hz, %g °C, %g %%: %.2f dB/km, want %.2f", c.hz, c.celsius, c.humidity, got, c.want)
		}
	}
}

// By hand: 97 dB at 1 W, 400 W, 10 m, no air and no heat: 97 + 26.02 − 20 =
// 103.02 dB; four boxes bring 6.02 dB as powers and 12.04 dB in step.
func TestWhatIfByHand(t *testing.T) {
	w := advise.WhatIf{Sensitivity: 97, Power: 400, Boxes: 1, Distance: 10, Celsius: 20, Humidity: 50}
	air := 10 * advise.AirLoss(2000, 20, 50)
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

// By hand: 95 dB wanted of programme 9.03 dB under full power, boxes of 97 dB at
// 10 m: 95 + 9.03 − 97 + 20 = 27.03 dB, 504.7 W; what two boxes were given before
// does not matter, only that two add as powers.
func TestTheHonestSum(t *testing.T) {
	for _, w := range []advise.WhatIf{{Power: 400, Boxes: 1}, {Power: 50, Boxes: 1}, {Power: 300, Boxes: 2}} {
		w.Sensitivity, w.Distance, w.Celsius, w.Humidity = 97, 10, 20, 50
		air := 10 * advise.AirLoss(2000, 20, 50)
		rigtest.Near(t, "honest sum", float64(w.HonestSum(95)), math.Pow(10, (27.03+air)/10), 0.01)
	}
}

// Ten decibels are called twice as loud (sone; ISO 532 practice, from memory).
func TestLouder(t *testing.T) {
	for gain, want := range map[unit.Decibel]float64{0: 1, 10: 2, 20: 4, -10: 0.5, 3: 1.2311} {
		rigtest.Near(t, gain.Signed(), float64(sound.Louder(gain)), want, 1e-4)
	}
}

// The rig as it is: two boxes of 97 dB, each with 350 W, at 10 m; a rig without
// any says that it names none.
func TestTheRigAsItIs(t *testing.T) {
	r := rigtest.Hung(t, rigtest.Amp("amp"), rigtest.Box("box"), 2).Rig
	x := rig.NewIndex(r)
	v, _ := match.Judge(x, drive.Outputs(x, load.Outputs(x)))
	w, known := advise.Now(r, v)
	if !known || w.Boxes != 2 || w.Sensitivity != 97 || math.Abs(float64(w.Power)-350) > 0.01 {
		t.Errorf("%v %+v", known, w)
	}
	empty := rigtest.New(t).Rig
	if _, known := advise.Now(empty, match.Verdict{}); known {
		t.Error("an empty rig names figures")
	}
}
