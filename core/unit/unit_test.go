package unit

import (
	"encoding/json"
	"math"
	"strings"
	"testing"
	"testing/quick"
)

func near(t *testing.T, what string, got, want, tolerance float64) {
	t.Helper()
	if got != want && !(math.Abs(got-want) <= tolerance) { // infinities are equal and have no difference
		t.Errorf("%s = %.6f, want %.6f", what, got, want)
	}
}

func TestLevels(t *testing.T) {
	// 0 dBu = sqrt(0.6) V: defining formula; +4 dBu = 1.2277 V and -10 dBV =
	// -7.78 dBu are the studio and domestic nominal levels of every handbook.
	near(t, "+4 dBu", float64(DBu(4).Volt()), 1.227653, 1e-6)
	near(t, "-10 dBV", float64(Volt(math.Pow(10, -0.5)).DBu()), -7.7815, 1e-4)
	near(t, "+10 dB as power", Decibel(10).Ratio(), 10, 1e-12)
	near(t, "double power", float64(OfPower(2)), 3.0103, 1e-4)
	near(t, "double volts", float64(OfVolts(2)), 6.0206, 1e-4)
	near(t, "1000 W in 8 ohm", float64(Watt(1000).Across(8)), 89.4427, 1e-4)
	near(t, "2.83 V in 8 ohm", float64(Volt(2.83).Into(8)), 1.0011, 1e-4)
}

func TestAWG(t *testing.T) {
	// ASTM B258: 12 AWG is 3.3088 mm², 14 AWG 2.0809 mm².
	near(t, "12 AWG", float64(AWG(12)), 3.3088, 1e-4)
	near(t, "14 AWG", float64(AWG(14)), 2.0809, 1e-4)
}

func TestParallelIsNeverMoreThanTheLeast(t *testing.T) {
	law := func(a, b uint16) bool {
		za, zb := Ohm(a)/100+0.01, Ohm(b)/100+0.01
		z := Parallel(za, zb)
		return z <= min(za, zb) && z > 0 && Series(za, zb) >= max(za, zb)
	}
	if err := quick.Check(law, nil); err != nil {
		t.Error(err)
	}
	if !math.IsInf(float64(Parallel()), 1) {
		t.Error("no load at all should be an open circuit")
	}
}

func TestWattsVoltsAndOhmsAgree(t *testing.T) {
	law := func(p, z uint16) bool {
		w, o := Watt(p)+1, Ohm(z)/100+0.5
		return math.Abs(float64(w.Across(o).Into(o)-w)) < 1e-6*float64(w)
	}
	if err := quick.Check(law, nil); err != nil {
		t.Error(err)
	}
}

func TestParse(t *testing.T) {
	for _, c := range []struct {
		in   string
		read func(string) (float64, error)
		want float64
	}{
		{"650", reads(ParseWatt), 650},
		{"8 kW", reads(ParseWatt), 8000},
		{"2,7 ohm", reads(ParseOhm), 2.7},
		{"8 Ω", reads(ParseOhm), 8},
		{"40 mΩ", reads(ParseOhm), 0.04},
		{"51,5 °C", reads(ParseCelsius), 51.5},
		{"125 °F", reads(ParseCelsius), 51.6667},
		{"320 K", reads(ParseCelsius), 46.85},
		{"10 Mohm", reads(ParseOhm), 10e6},
		{"8 OHM", reads(ParseOhm), 8},
		{"10 MOHM", reads(ParseOhm), 10e6},
		{"20k", reads(ParseReading), 20e3},
		{"OL", reads(ParseReading), math.Inf(1)},
		{"775 mV", reads(ParseVolt), 0.775},
		{"30 ft", reads(ParseMetre), 9.144},
		{"1:30", reads(ParseSecond), 90},
		{"2 min", reads(ParseSecond), 120},
		{"−6 dB", reads(ParseDecibel), -6},
		{"-10 dBV", reads(ParseDBu), -7.7815},
		{"12 AWG", reads(ParseArea), 3.3088},
		{"2,5 mm²", reads(ParseArea), 2.5},
		{"1.2 kHz", reads(ParseHertz), 1200},
		{"1.2\u00a0k Hz", reads(ParseHertz), 1200},
		{"4R", reads(ParseOhm), 4},
		{"2R7", reads(ParseOhm), 2.7},
		{"5R6", reads(ParseReading), 5.6},
		{"12 ga", reads(ParseArea), 3.3088},
		{"AWG 12", reads(ParseArea), 3.3088},
		{"1/0 AWG", reads(ParseArea), 53.4751}, // ASTM B258: 8.2515 mm
		{"0 AWG", reads(ParseArea), 53.4751},
		{"4/0 AWG", reads(ParseArea), 107.2193}, // ASTM B258: 11.684 mm
		{"2x2.5", reads(ParseArea), 2.5},
		{"4 × 4 mm²", reads(ParseArea), 4},
		{"2.5 mm^2", reads(ParseArea), 2.5},
		{"12 metres", reads(ParseMetre), 12},
		{"1 foot", reads(ParseMetre), 0.3048},
		{"3 minutes", reads(ParseSecond), 180},
		{"1.4 Vrms", reads(ParseVolt), 1.4},
		{"102 dB(C)", reads(ParseDecibel), 102},
		{"0,775", reads(ParseVolt), 0.775},
		{"1.200", reads(ParseVolt), 1.2}, // a single point is a decimal point
		{"1,200.5 W", reads(ParseWatt), 1200.5},
		{"1.200,5 W", reads(ParseWatt), 1200.5},
		{"1,200,000", reads(ParseWatt), 1200000},
		{"3.5", reads(InUnit(ParseAmpere, "mA")), 0.0035},
		{"3.5 A", reads(InUnit(ParseAmpere, "mA")), 3.5},
		{"10", reads(InUnit(ParseSecond, "ms")), 0.01},
		{"25", reads(InUnit(ParseRatio, "%")), 0.25},
	} {
		got, err := c.read(c.in)
		if err != nil {
			t.Errorf("%q: %v", c.in, err)
			continue
		}
		near(t, c.in, got, c.want, 1e-4)
	}
	for _, bad := range []string{"", "W", "eight", "8 bananas", "1e999", "1,2,3", "--4", "NaN", "Inf", "12,5.3", "٨",
		"８", "1 200", "1,2.3,4"} {
		if v, err := ParseWatt(bad); err == nil {
			t.Errorf("%q was read as %v", bad, v)
		}
	}
	for _, bad := range []string{"5/0 AWG", "00000 AWG", "41 AWG", "-3 AWG", "9x2.5", "twelve gauge"} {
		if v, err := ParseArea(bad); err == nil {
			t.Errorf("%q was read as %v", bad, v)
		}
	}
	for _, two := range []string{"1,200 W", "12,000", "-1,500"} {
		if v, err := ParseWatt(two); err == nil || !strings.Contains(err.Error(), "can be read as") {
			t.Errorf("%q was read as %v, %v; it should be asked about", two, v, err)
		}
	}
}

func reads[T ~float64](f func(string) (T, error)) func(string) (float64, error) {
	return func(s string) (float64, error) { v, err := f(s); return float64(v), err }
}

func TestText(t *testing.T) {
	for got, want := range map[string]string{
		Watt(650).String():           "650 W",
		Watt(12500).String():         "12.5 kW",
		Ohm(2.6667).String():         "2.67 Ω",
		Ohm(8).String():              "8 Ω",
		DBu(-3.25).String():          "−3.2 dBu",
		Decibel(2.14).Signed():       "+2.1 dB",
		Decibel(-0.04).Signed():      "+0.0 dB",
		Second(150).String():         "2 min 30 s",
		Given[Ohm]{}.String():        "unknown",
		Of(Ohm(4)).String():          "4 Ω",
		Ohm(math.Inf(1)).String():    "∞ Ω",
		Watt(99.97).String():         "100 W",
		Ratio(1.1666).String():       "1.17",
		Ratio(44.96).String():        "45.0",
		Ratio(123.4).String():        "123",
		Money(1250).String():         "1250.00",
		SquareMillimetre(4).String(): "4 mm²",
	} {
		if got != want {
			t.Errorf("got %q, want %q", got, want)
		}
	}
}

// A reading survives the rig file, an open line too.
func TestReadingSurvivesJSON(t *testing.T) {
	for _, r := range []DC{0, 5.8, Open} {
		b, err := json.Marshal(r)
		if err != nil {
			t.Fatal(err)
		}
		var back DC
		if err := json.Unmarshal(b, &back); err != nil || back != r {
			t.Errorf("%s came back as %s, %v", r, back, err)
		}
	}
	var r DC
	if json.Unmarshal([]byte(`"shut"`), &r) == nil {
		t.Error("a word that no meter shows was read")
	}
}

func TestGivenSurvivesJSON(t *testing.T) {
	type sheet struct {
		A Given[Ohm]  `json:"a,omitzero"`
		B Given[Watt] `json:"b,omitzero"`
		C Given[Volt] `json:"c,omitzero"`
	}
	in := sheet{A: Of(Ohm(0)), B: From(Watt(350), "measured")}
	b, err := json.Marshal(in)
	if err != nil || string(b) != `{"a":0,"b":{"value":350,"from":"measured"}}` {
		t.Fatalf("%s, %v", b, err)
	}
	var out sheet
	if err := json.Unmarshal(b, &out); err != nil || out != in {
		t.Errorf("read back %+v, %v", out, err)
	}
	if out.C.Known() {
		t.Error("what was never written must stay unknown")
	}
	if _, zero := out.A.Get(); !zero {
		t.Error("a given zero is known")
	}
}
