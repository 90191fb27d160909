package signal

import (
	"fmt"
	"slices"
	"strings"

	"largo/core/fault"
	"largo/core/unit"
)

// Kinds are the signals that can be asked for.
var Kinds = []string{"sine", "sweep", "pink", "rating", "programme"}

// Wanted is a test signal as it is asked for.
type Wanted struct {
	Kind    string
	Level   float64 // rms, dBFS
	Seconds float64
	Fade    float64 // s, at either end
	Hz      float64 // of a sine
	Low     float64 // Hz, of a sweep or a band
	High    float64
	Crest   float64 // dB, of rating noise and programme
	Seed    uint64
}

// Usual is what is made where nobody asks for anything else: quiet, and not for long.
var Usual = Wanted{Kind: "pink", Level: -20, Seconds: 30, Fade: 0.5, Hz: 1000, Low: 40, High: 400, Crest: 6, Seed: 1}

// Check faults what no signal can be, by field.
func (w Wanted) Check() error {
	var l fault.List
	inBand := func(hz float64) bool { return hz >= 10 && hz <= 20000 }
	banded, crested := w.Kind == "sweep" || w.Kind == "rating", w.Kind == "rating" || w.Kind == "programme"
	if !slices.Contains(Kinds, w.Kind) {
		l.Add("kind", "%.30q is no signal; it is one of %s.", w.Kind, strings.Join(Kinds, ", "))
	}
	if !(w.Seconds >= 0.1 && w.Seconds <= float64(Longest)) {
		l.Add("seconds", "A signal of %g s cannot be made: 0.1 to %g s.", w.Seconds, float64(Longest))
	}
	if !(w.Level <= 0 && w.Level >= -120) {
		l.Add("level", "A level of %g dBFS cannot be right: -120 to 0.", w.Level)
	}
	if w.Kind == "sine" && !inBand(w.Hz) {
		l.Add("hz", "A sine of %g Hz cannot be played: 10 to 20000 Hz.", w.Hz)
	}
	if banded && !(inBand(w.Low) && inBand(w.High) && w.Low < w.High) {
		l.Add("high", "From %g to %g Hz is no band: it rises, within 10 to 20000 Hz.", w.Low, w.High)
	}
	if crested && !(w.Crest >= 3 && w.Crest <= 20) {
		l.Add("crest", "A crest of %g dB cannot be right: 3 to 20.", w.Crest)
	}
	if !(w.Fade >= 0 && w.Fade <= w.Seconds/2) {
		l.Add("fade", "A fade of %g s does not fit into %g s twice.", w.Fade, w.Seconds)
	}
	return l.Err()
}

// Make makes the signal at its level, with its levels before the fades; what cannot be is
// an error by field.
func (w Wanted) Make() ([]float64, Levels, error) {
	if err := w.Check(); err != nil {
		return nil, Levels{}, err
	}
	x, err := At(w.make(), unit.Decibel(w.Level))
	if err != nil {
		return nil, Levels{}, fault.At("level", "%s.", err)
	}
	levels := Measure(x)
	return Fade(x, unit.Second(w.Fade)), levels, nil
}

func (w Wanted) make() []float64 {
	length := unit.Second(w.Seconds)
	switch w.Kind {
	case "sine":
		return Sine(unit.Hertz(w.Hz), length)
	case "sweep":
		return Sweep(unit.Hertz(w.Low), unit.Hertz(w.High), length)
	case "pink":
		return Pink(w.Seed, length)
	case "programme":
		return Programme(w.Seed, length, unit.Decibel(w.Crest))
	}
	return Crest(Band(Pink(w.Seed, length), unit.Hertz(w.Low), unit.Hertz(w.High)), unit.Decibel(w.Crest))
}

// Says tells what the signal is, in a few words.
func (w Wanted) Says() string {
	switch w.Kind {
	case "sine":
		return fmt.Sprintf("sine of %s", unit.Hertz(w.Hz))
	case "sweep":
		return fmt.Sprintf("sweep from %s to %s", unit.Hertz(w.Low), unit.Hertz(w.High))
	case "pink":
		return "pink noise"
	case "programme":
		return fmt.Sprintf("programme-like noise of %s crest", unit.Decibel(w.Crest))
	}
	return fmt.Sprintf("noise of %s crest from %s to %s", unit.Decibel(w.Crest), unit.Hertz(w.Low), unit.Hertz(w.High))
}
