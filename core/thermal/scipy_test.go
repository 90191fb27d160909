package thermal_test

import (
	"bytes"
	"encoding/json"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"testing"
	"time"

	"largo/core/thermal"
)

// scipy's least squares over its own integrator find the same driver. Debian's
// python3-scipy is large, so `make judges` runs this, and prints how long each took.
func TestScipyFindsTheSame(t *testing.T) {
	if os.Getenv("LARGO_JUDGES") == "" {
		t.Skip("make judges runs it")
	}
	s := drawn(rand.New(rand.NewPCG(1, 2)), anyBox(), 7200.0/499)
	s.course.Steps, s.truth.Steps, s.course.Sunny, s.truth.Sunny = s.course.Steps[:1], s.truth.Steps[:1], nil, nil
	rnd := rand.New(rand.NewPCG(3, 4))
	for i, x := range s.body.Run(&s.truth, times(s.rs), nil) {
		s.rs[i].Degrees = x.Frame + 0.1*rnd.NormFloat64()
	}
	begun := time.Now()
	l, err := s.known.Fit(s.course, s.rs)
	took := time.Since(begun)
	if err != nil {
		t.Fatal(err)
	}
	k := s.known.Body
	task := map[string]any{"at": times(s.rs), "volts": s.course.Steps[0].Volts, "r20": k.R20, "alpha": k.Alpha,
		"noise": thermal.ProbeDoubt, "doubt": append(s.known.Doubt[:], 2),
		"prior": []float64{math.Log(k.C1), math.Log(k.R1), math.Log(k.C2), math.Log(k.R2), s.course.Begin.Frame}}
	var degrees, air, airAt []float64
	for _, r := range s.rs {
		degrees = append(degrees, r.Degrees)
	}
	for _, a := range s.course.Air {
		airAt, air = append(airAt, a.At), append(air, a.Degrees)
	}
	task["degrees"], task["air_at"], task["air"] = degrees, airAt, air
	in, _ := json.Marshal(task)
	cmd := exec.Command("/usr/bin/python3", "testdata/fit.py")
	cmd.Stdin, cmd.Stderr = bytes.NewReader(in), os.Stderr
	out, err := cmd.Output()
	if err != nil {
		t.Fatal(err)
	}
	var judge struct {
		P    []float64
		Took float64
	}
	if err := json.Unmarshal(out, &judge); err != nil {
		t.Fatal(err)
	}
	for i, p := range []float64{l.Body.C1, l.Body.R1, l.Body.C2, l.Body.R2} {
		near(t, "logarithm of C1, R1, C2 or R2", math.Log(p), judge.P[i], 0.01)
	}
	t.Logf("500 readings: %s here, %.0f ms by scipy, %.0f times", took, 1000*judge.Took, judge.Took/took.Seconds())
}
