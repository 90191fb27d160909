package thermal_test

import (
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"largo/core/thermal"
)

// woofer is the driver of the worked example (a reference integration by a program of its
// own, in one-second steps of fourth order).
var woofer = thermal.Body{R20: 5.3, Alpha: thermal.Copper, C1: 110, R1: 0.22, C2: 5200, R2: 0.55}

const wooferVolts = 56.3915

func near(t *testing.T, what string, got, want, within float64) {
	t.Helper()
	if !(math.Abs(got-want) <= within) {
		t.Errorf("%s is %.4f, want %.4f ± %g", what, got, want, within)
	}
}

func from20(volts float64) *thermal.Course {
	return &thermal.Course{Begin: thermal.State{Coil: 20, Frame: 20}, Steps: []thermal.Stretch{{Volts: volts}},
		Air: thermal.Air{{Degrees: 20}}}
}

func TestTheWorkedExample(t *testing.T) {
	end := woofer.Settled(wooferVolts, 20)
	near(t, "coil at the end", end.Coil, 258.48, 0.005)
	near(t, "frame at the end", end.Frame, 190.35, 0.005)
	near(t, "its ohms", woofer.Resistance(end.Coil), 10.267, 0.0005)
	near(t, "its watts", woofer.Power(wooferVolts, end.Coil), 309.72, 0.005)
	at := []float64{60, 300, 900, 3600, 10800}
	for i, s := range woofer.Run(from20(wooferVolts), at, nil) {
		near(t, "coil", s.Coil, []float64{113.77, 131.94, 162.16, 230.08, 257.36}[i], 0.005)
	}
	near(t, "coil at twice its ohms", woofer.CoilAt(2, 20)-20, 254.45, 0.005)
	near(t, "coil at 3 dB of level", woofer.CoilAt(math.Pow(10, 3.0/20), 20)-20, 104.97, 0.01)
}

// A coil whose ohms do not rise is a linear network: the closed form of one lump where the
// coil weighs nothing, T = Ta + P R (1 − exp(−t/RC)).
func TestOneLump(t *testing.T) {
	b := thermal.Body{R20: 8, Alpha: 1e-12, C1: 1e-6, R1: 1e-6, C2: 1000, R2: 0.5}
	for _, at := range []float64{1, 100, 500, 3000} {
		s := b.Run(from20(20), []float64{at}, nil)[0] // 50 W
		near(t, "frame", s.Frame, 20+25*(1-math.Exp(-at/500)), 1e-3)
	}
}

// Steps, warm air and sun: halving what the integrator may step changes nothing that a
// probe could read, for every cut lies between its steps.
func TestACourseIsFollowedThroughItsCuts(t *testing.T) {
	c := &thermal.Course{Begin: thermal.State{Coil: 24, Frame: 23}, Steps: []thermal.Stretch{{Volts: 20}, {From: 1801,
		Volts: 40}, {From: 3700}}, Air: thermal.Air{{0, 18}, {2000, 25}}, Sun: 6, Sunny: []float64{601, 2500}}
	var ends, every []float64
	for s := 50.0; s <= 6000; s += 50 {
		ends = append(ends, s)
		for x := s - 49; x <= s; x++ {
			every = append(every, x)
		}
	}
	coarse, fine := woofer.Run(c, ends, nil), woofer.Run(c, every, nil)
	for i, s := range coarse {
		f := fine[50*i+49]
		if math.Abs(s.Coil-f.Coil) > 0.03 || math.Abs(s.Frame-f.Frame) > 0.005 {
			t.Errorf("at %g s: %+v, in seconds %+v", ends[i], s, f)
		}
	}
	last := woofer.Run(c, []float64{200000}, nil)[0]
	near(t, "cold again in the shade", last.Frame, 25, 1e-6)
}

// ngspice runs the same network as an electrical one: heat is current, temperature is
// voltage, and the coil's power a source that depends on its own node.
func TestNgspiceHeatsItAlike(t *testing.T) {
	dir := t.TempDir()
	file := filepath.Join(dir, "driver.cir")
	deck := fmt.Sprintf(`a driver that heats
Va air 0 20
Bp 0 coil I=%g*%g/(%g*(1+%g*(V(coil)-20)))
C1 coil 0 %g ic=20
R1 coil frame %g
C2 frame 0 %g ic=20
R2 frame air %g
.tran 2 3600 0 2 uic
.control
run
wrdata %s/out v(coil) v(frame)
quit 0
.endc
.end
`, wooferVolts, wooferVolts, woofer.R20, woofer.Alpha, woofer.C1, woofer.R1, woofer.C2, woofer.R2, dir)
	if err := os.WriteFile(file, []byte(deck), 0o600); err != nil {
		t.Fatal(err)
	}
	if text, err := exec.Command("ngspice", "-b", file).CombinedOutput(); err != nil {
		t.Fatalf("ngspice: %v\n%s", err, text)
	}
	files, err := filepath.Glob(filepath.Join(dir, "out*"))
	if err != nil || len(files) != 1 {
		t.Fatalf("ngspice wrote %q, %v", files, err)
	}
	text, err := os.ReadFile(files[0])
	if err != nil {
		t.Fatal(err)
	}
	var at, coil, frame []float64
	for line := range strings.Lines(string(text)) {
		var s, c, s2, f float64
		if _, err := fmt.Sscan(line, &s, &c, &s2, &f); err == nil && s > 0 {
			at, coil, frame = append(at, s), append(coil, c), append(frame, f)
		}
	}
	if len(at) < 1000 {
		t.Fatalf("ngspice gave %d points", len(at))
	}
	for i, s := range woofer.Run(from20(wooferVolts), at, nil) {
		if math.Abs(s.Coil-coil[i]) > 0.1 || math.Abs(s.Frame-frame[i]) > 0.05 {
			t.Fatalf("at %g s: %+v, ngspice %g and %g", at[i], s, coil[i], frame[i])
		}
	}
}

func TestABodyThatCannotBe(t *testing.T) {
	for _, b := range []thermal.Body{{}, {R20: 5, Alpha: 0.004, C1: 1, R1: 1, C2: 100, R2: math.NaN()}} {
		if b.Check() == nil {
			t.Errorf("%+v passes", b)
		}
	}
	if err := woofer.Check(); err != nil {
		t.Error(err)
	}
}
