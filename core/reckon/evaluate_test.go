package reckon

import (
	"math"
	"testing"

	"largo/core/unit"
)

// The arithmetic of printed sums, by hand.
func TestEvaluate(t *testing.T) {
	values := map[string]float64{"P": 450, "Z": 8, "n": 3, "L": -6}
	for formula, want := range map[string]float64{
		"sqrt({P} × {Z})": 60, "{Z} / {n}": 8.0 / 3, "20 lg(1 + {n} / {Z})": 20 * math.Log10(1.375),
		"{P} × ({Z} / 16 Ω)²": 112.5, "10^({L} / 10 dB)": math.Pow(10, -0.6), "√2 × {Z}": 8 * math.Sqrt2,
		"1 / (1/{Z} + 1/{Z})": 4, "{P} − 50 W − 100 W": 300, "2^(({L} − 4 dB) / 10 dB)": 0.5,
		"−20 lg {n}": -20 * math.Log10(3),
		"8 h / 2^2":  7200, "{P} / 2 / 3": 75, "ln({n} / 1 m)": math.Log(3), "{n} × 1 mm²": 3, "{k}² × {P}": math.NaN(),
	} {
		v, ok := evaluate(formula, func(s string) (float64, bool) { v, known := values[s]; return v, known })
		if ok == math.IsNaN(want) || ok && math.Abs(v-want) > 1e-12 {
			t.Errorf("%s = %v (%v), want %v", formula, v, ok, want)
		}
	}
	for _, words := range []string{"as rated into {Z}", "10 lg Σ 10^(Li/10) over {n}", "({P}", "{P} +", "", "least |Z|"} {
		if v, ok := evaluate(words, func(s string) (float64, bool) { return values[s], true }); ok {
			t.Errorf("%q is worked out as %v", words, v)
		}
	}
}

// 20 lg(49.0 V / 0.7746 V) − 35.3 dB would come out as 0.7: a digit more is shown.
func TestSumsShowTheDigitsTheyNeed(t *testing.T) {
	v, g := 48.99, 35.266
	f := Of("longIn", "L", "limit", unit.DBu(20*math.Log10(v/0.7746)-g), "20 lg({V} / 0.7746 V) − {G}",
		In("V", "volts", unit.Volt(v), ""), In("G", "gain", unit.Decibel(g), ""))
	if got := f.Working(); got != "L = 20 lg(V / 0.7746 V) − G = 20 lg(48.99 V / 0.7746 V) − 35.27 dB = 0.8 dBu" {
		t.Error(got)
	}
	if came, can := WorkedAgain(f); !can || came != f.Text() {
		t.Errorf("it comes out as %s", came)
	}
}
