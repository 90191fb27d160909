package sum_test

import (
	"math"
	"os"
	"strings"
	"testing"

	"largo/core/sum"
)

// What each question comes to, by closed form or the table named: dBu of sqrt(0.6) V;
// ASTM B258 for gauges; IEC 60028 for copper; ISO 9613-1's speed of sound; NIOSH
// 98-126 and 29 CFR 1910.95 for the dose of 97 dBA for 1.5 h and 103 dBA for 0.5 h;
// the level of a hot coil of twice its resistance; the conductor of 20 m.
func TestAnswers(t *testing.T) {
	for _, c := range []struct {
		ask, kind, key string
		want, within   float64
	}{
		{"3 x 8 ohm", "load", "parallel", 8.0 / 3, 1e-9},
		{"8 ohm 4 ohm", "load", "parallel", 8.0 / 3, 1e-9},
		{"8 || 4 ohm", "load", "parallel", 8.0 / 3, 1e-9},
		{"8 + 4 ohm", "load", "series", 12, 1e-9},
		{"8+8 ohm", "load", "series", 16, 1e-9},
		{"2 × 8 Ω and 4 Ω", "load", "parallel", 2, 1e-9},
		{"500 W 8 ohm", "power to volts", "volts", 63.2456, 1e-4},
		{"1000 W into 8 ohm", "power to volts", "dBu", 41.249, 1e-3},
		{"0,5 kW 8 ohm", "power to volts", "amps", 7.90569, 1e-5},
		{"63.2456 V 8 ohm", "volts to power", "power", 500, 1e-3},
		{"bridge 400 W 4 ohm", "bridge", "power", 800, 1e-9},
		{"+4 dBu", "line level", "volts", 1.227653, 1e-6},
		{"-10 dBV", "line level", "volts", 0.316228, 1e-6},
		{"+4 dBu -10 dBV", "line level", "difference", 11.7815, 1e-4},
		{"1.2277 V", "volts to dBu", "dBu", 4.0003, 1e-3},
		{"2.83 V 4 ohm 97 dB", "sensitivity", "sensitivity", 93.985, 1e-3},
		{"500 W 8 ohm 32 dB", "limiter", "input", 38.2391 - 32, 1e-3},
		{"700 W 4 ohm 1 V", "gain", "gain", 34.4716, 1e-3},
		{"20 m 2.5 mm2 8 ohm", "speaker lead", "loss", 0.2945, 1e-4},
		{"20 m 2.5 mm² 2 ohm", "speaker lead", "loss", 1.1223, 1e-4},
		{"20 m 2.5 mm2 2 ohm 100 W", "speaker lead", "heat", 12.1212, 1e-3},
		{"25 m 12 AWG 4 ohm", "speaker lead", "loop", 2.0 / 58 * 25 / 3.3088, 1e-5},
		{"700 W 99 dB 22 m", "level at a distance", "level", 99 + 28.45098 - 26.84845, 1e-4},
		{"99 dB 22 m 91.573 dBA", "power for a level", "power", 700, 0.2},
		{"350 W 700 W", "two powers", "difference", 3.0103, 1e-4},
		{"+10 dB", "decibels", "power", 10, 1e-9},
		{"+10 dB", "decibels", "louder", 2, 1e-9},
		{"2 x 95 dB", "levels together", "level", 98.0103, 1e-4},
		{"95 + 92 dB", "levels together", "level", 96.7643, 1e-4},
		{"97 dBA 1.5 h 103 dBA 0.5 h", "a day's dose", "niosh", 7, 1e-9},
		{"97 dBA 1.5 h 103 dBA 0.5 h", "a day's dose", "osha", 0.874, 1e-3},
		{"94 dBA", "a day's dose", "stay", 3600, 1e-6},
		{"16 A 50 m 2.5 mm2 230 V", "mains drop", "drop", 13.203, 1e-3},
		{"120 V 15 A D", "what a circuit sustains", "wall", 1620, 1e-6},
		{"230 V 16 A", "what a circuit sustains", "wall", 2392, 1e-6},
		{"1200 W 230 V", "mains current", "amps", 5.21739, 1e-5},
		{"12 AWG", "conductor", "perKm", 5.2108, 2e-4},
		{"3.3088 mm2", "conductor", "awg", 12, 1e-3},
		{"34 m 15 C", "delay", "delay", 0.099923, 1e-6},
		{"99.923 ms 15 C", "delay to distance", "distance", 34, 1e-3},
		{"80 Hz", "wavelength", "late", 0.003125, 1e-9},
		{"5 ohm 10 ohm 20 C", "hot coil", "temperature", 274.453, 1e-2},
		{"5 ohm 10 ohm 20 C", "hot coil", "level", 6.0206, 1e-4},
		{"46 lb", "mass", "kilograms", 20.8652, 1e-3},
	} {
		a := sum.Of(c.ask)
		if a.Kind != c.kind {
			t.Errorf("%q is %q (%s), want %q", c.ask, a.Kind, a.Says, c.kind)
			continue
		}
		found := false
		for _, f := range a.Figures {
			if f.Key != c.key {
				continue
			}
			found = true
			if math.IsNaN(f.Value) || math.Abs(f.Value-c.want) > c.within {
				t.Errorf("%q: %s = %v, want %v", c.ask, c.key, f.Value, c.want)
			}
		}
		if !found {
			t.Errorf("%q has no %s", c.ask, c.key)
		}
		if len(a.Ignored) > 0 {
			t.Errorf("%q: %q was not understood", c.ask, a.Ignored)
		}
	}
}

// What is not understood is said, and nothing is made of nothing.
func TestWhatIsNotUnderstood(t *testing.T) {
	for ask, want := range map[string]string{"": "Ask with figures", "hello": "Ask with figures",
		"500 W 0 ohm": "With a figure of 0", "8 ohm 3 kg": "No sum here takes just this: 1 × impedance, 1 × mass."} {
		if a := sum.Of(ask); a.Understood() || !strings.Contains(a.Says, want) {
			t.Errorf("%q: %q", ask, a.Says)
		}
	}
	if a := sum.Of("500 W 8 ohm bananas"); !a.Understood() || len(a.Ignored) != 1 || a.Ignored[0] != "bananas" {
		t.Errorf("bananas: %+v", a.Ignored)
	}
	if a := sum.Of(strings.Repeat("8 ohm ", 20)); !a.Understood() {
		t.Error("a long question of one kind is none")
	}
}

// Every kind answers its own example, by itself and with what it says; the page that
// explains them names each with that example.
func TestEveryKindAnswersItsExample(t *testing.T) {
	doc, err := os.ReadFile("../../docs/sums.md")
	if err != nil {
		t.Fatal(err)
	}
	if len(sum.Kinds) < 12 {
		t.Errorf("%d kinds of sums", len(sum.Kinds))
	}
	for _, k := range sum.Kinds {
		a := sum.Of(k.Example)
		if a.Kind != k.Name || a.Says == "" || len(a.Figures) == 0 || len(a.Ignored) > 0 {
			t.Errorf("%q: %+v", k.Example, a)
		}
		for _, f := range a.Figures {
			if math.IsNaN(f.Value) || math.IsInf(f.Value, 0) || strings.Contains(f.Numeric(), "{") {
				t.Errorf("%q: %s", k.Example, f.Working())
			}
		}
		if !strings.Contains(string(doc), "`"+k.Example+"`") || !strings.Contains(string(doc), k.Takes) {
			t.Errorf("docs/sums.md does not explain %q", k.Name)
		}
	}
}

// No question makes it panic, or answer with what is no number.
func FuzzSums(f *testing.F) {
	for _, k := range sum.Kinds {
		f.Add(k.Example)
	}
	f.Fuzz(func(t *testing.T, ask string) {
		for _, one := range sum.Of(ask).Figures {
			if math.IsNaN(one.Value) {
				t.Errorf("%q: %s is no number", ask, one.Key)
			}
		}
	})
}
