package unit

import (
	"math"
	"testing"
)

// Whatever is typed: a quantity is read as a finite number, and what is written
// of it is read as the same; or it is refused with a sentence.
func FuzzUnits(f *testing.F) {
	for _, seed := range []string{"8", "8 ohm", "2R7", "1,200 W", "1.200,5", "1e999", "NaN", "−6 dB", "12 AWG",
		"4/0 AWG", "2x2.5 mm²", "1:30", "OL", "10 Mohm", "", "٣", "0x10", "+", "--1", "1..2", ",", "9999999999999999999999",
		"1 k Hz", "3.5\u00a0mA"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, s string) {
		same(t, s, ParseWatt)
		same(t, s, ParseOhm)
		same(t, s, ParseVolt)
		same(t, s, ParseMetre)
		same(t, s, ParseSecond)
		same(t, s, ParseDecibel)
		same(t, s, ParseHertz)
		same(t, s, ParseDBu)
		same(t, s, ParseAmpere)
		same(t, s, ParseArea)
		same(t, s, ParseCelsius)
		same(t, s, ParseRatio)
		same(t, s, InUnit(ParseAmpere, "mA"))
		if r, err := ParseReading(s); err == nil && (math.IsNaN(float64(r)) || math.IsInf(float64(r), -1)) {
			t.Errorf("%q reads %v", s, r)
		}
	})
}

func same[T Quantity](t *testing.T, s string, parse func(string) (T, error)) {
	t.Helper()
	v, err := parse(s)
	if err != nil {
		if err.Error() == "" || len(err.Error()) > 400 {
			t.Errorf("%q is refused with %q", s, err)
		}
		return
	}
	if math.IsNaN(float64(v)) || math.IsInf(float64(v), 0) {
		t.Errorf("%q reads %v", s, v)
	}
}
