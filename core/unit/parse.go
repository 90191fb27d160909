package unit

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// scale tells what one of a written unit is in the base unit.
type scale map[string]float64

var (
	wattScale = scale{"": 1, "w": 1, "kw": 1e3, "watt": 1, "watts": 1, "mw": 1e-3, "wrms": 1}
	ohmScale  = scale{"": 1, "ω": 1, "ohm": 1, "ohms": 1, "kω": 1e3, "kohm": 1e3, "k": 1e3, "mω": 1e-3, "mohm": 1e-3,
		"megaω": 1e6, "megaohm": 1e6, "mega": 1e6}
	voltScale = scale{"": 1, "v": 1, "mv": 1e-3, "kv": 1e3, "volt": 1, "volts": 1, "vrms": 1, "mvrms": 1e-3,
		"voltrms": 1, "voltsrms": 1}
	metreScale = scale{"": 1, "m": 1, "metre": 1, "metres": 1, "meter": 1, "meters": 1, "cm": 0.01, "mm": 1e-3,
		"km": 1000, "ft": 0.3048, "foot": 0.3048, "feet": 0.3048, "'": 0.3048}
	secondScale = scale{"": 1, "s": 1, "sec": 1, "secs": 1, "second": 1, "seconds": 1, "ms": 1e-3, "min": 60, "mins": 60,
		"minute": 60, "minutes": 60, "h": 3600, "hour": 3600, "hours": 3600}
	dbScale     = scale{"": 1, "db": 1, "dbspl": 1, "db(a)": 1, "dba": 1, "db(c)": 1, "dbc": 1, "db(z)": 1, "dbz": 1}
	volumeScale = scale{"": 1, "m3": 1, "m³": 1, "cbm": 1, "ft3": 0.028316846592, "ft³": 0.028316846592}
	litreScale  = scale{"": 1, "l": 1, "litre": 1, "litres": 1, "liter": 1, "liters": 1, "gal": 3.785411784}
	energyScale = scale{"": 1, "wh": 1, "kwh": 1e3}
	hertzScale  = scale{"": 1, "hz": 1, "khz": 1e3}
	dbuScale    = scale{"": 1, "dbu": 1}
	ampereScale = scale{"": 1, "a": 1, "ma": 1e-3, "amp": 1, "amps": 1, "ampere": 1, "amperes": 1, "arms": 1}
	massScale   = scale{"": 1, "kg": 1, "g": 1e-3, "lb": 0.45359237, "lbs": 0.45359237}
	ratioScale  = scale{"": 1, "%": 0.01}
)

// ParseWatt reads "650", "650 W" or "1,2 kW".
func ParseWatt(s string) (Watt, error) { return parse[Watt](s, wattScale, "W or kW") }

// resistorForm is an impedance as parts are marked, "4R" or "2R7".
var resistorForm = regexp.MustCompile(`^\s*(\d{1,3})[rR](\d{0,2})\s*$`)

// ParseOhm reads "8", "8 Ω", "8 ohm", "2,7 ohm", "20 kohm", "40 mΩ" or
// "10 MΩ": of all units it is the one where M and m are both usual.
func ParseOhm(s string) (Ohm, error) {
	if m := resistorForm.FindStringSubmatch(s); m != nil {
		return parse[Ohm](m[1]+"."+m[2]+"0", ohmScale, "Ω")
	}
	if name := strings.TrimLeft(s, " +-−0123456789.,"); strings.HasPrefix(name, "M") {
		s = strings.Replace(s, "M", "mega", 1)
	}
	return parse[Ohm](s, ohmScale, "Ω")
}

// ParseVolt reads "1.4 V" or "775 mV".
func ParseVolt(s string) (Volt, error) { return parse[Volt](s, voltScale, "V or mV") }

// ParseMetre reads "20 m" or "30 ft".
func ParseMetre(s string) (Metre, error) { return parse[Metre](s, metreScale, "m or ft") }

// ParseSecond reads "90 s", "2 min" or "1:30".
func ParseSecond(s string) (Second, error) {
	if m, sec, ok := strings.Cut(strings.TrimSpace(s), ":"); ok {
		minutes, err1 := strconv.Atoi(m)
		seconds, err2 := strconv.Atoi(sec)
		if err1 == nil && err2 == nil && minutes >= 0 && seconds >= 0 && seconds < 60 {
			return Second(60*minutes + seconds), nil
		}
	}
	return parse[Second](s, secondScale, "s or min")
}

// ParseDecibel reads "97" or "-6 dB".
func ParseDecibel(s string) (Decibel, error) { return parse[Decibel](s, dbScale, "dB") }

// ParseVolume reads "1200 m3" or "42000 ft3".
func ParseVolume(s string) (CubicMetre, error) {
	return parse[CubicMetre](s, volumeScale, "m³ or ft³")
}

// ParseLitre reads "15 L", or "4 gal" of the United States.
func ParseLitre(s string) (Litre, error) { return parse[Litre](s, litreScale, "L or gal") }

// ParseWattHour reads "1500 Wh" or "1.5 kWh".
func ParseWattHour(s string) (WattHour, error) { return parse[WattHour](s, energyScale, "Wh or kWh") }

// ParseHertz reads "45 Hz" or "1.2 kHz".
func ParseHertz(s string) (Hertz, error) { return parse[Hertz](s, hertzScale, "Hz") }

// ParseDBu reads "+4 dBu"; "dBV" is converted: 0 dBV is 2.2185 dBu.
func ParseDBu(s string) (DBu, error) {
	if lower := strings.ToLower(strings.TrimSpace(s)); strings.HasSuffix(lower, "dbv") {
		v, err := parse[DBu](strings.TrimSuffix(lower, "dbv"), dbuScale, "dBu or dBV")
		return v + Volt(1).DBu(), err
	}
	return parse[DBu](s, dbuScale, "dBu or dBV")
}

// ParseAmpere reads "16 A" or "0.5 mA".
func ParseAmpere(s string) (Ampere, error) { return parse[Ampere](s, ampereScale, "A or mA") }

// ParseKilogram reads "21 kg" or "46 lb".
func ParseKilogram(s string) (Kilogram, error) { return parse[Kilogram](s, massScale, "kg or lb") }

// ParseCelsius reads "51.5", "51.5 °C", "125 F" or "320 K": degrees alone are Celsius.
func ParseCelsius(s string) (Celsius, error) {
	t := strings.ToLower(strings.TrimSpace(s))
	for _, sign := range []string{"°", "deg", "º"} {
		t = strings.ReplaceAll(t, sign, "")
	}
	for _, name := range []struct {
		ends string
		to   func(Celsius) Celsius
	}{{"fahrenheit", fromFahrenheit}, {"f", fromFahrenheit}, {"kelvin", fromKelvin}, {"k", fromKelvin},
		{"celsius", nil}, {"c", nil}} {
		if number, ends := strings.CutSuffix(t, name.ends); ends {
			v, err := parse[Celsius](number, scale{"": 1}, "°C, °F or K")
			if err == nil && name.to != nil {
				v = name.to(v)
			}
			return v, err
		}
	}
	return parse[Celsius](t, scale{"": 1}, "°C, °F or K")
}

func fromFahrenheit(f Celsius) Celsius { return (f - 32) / 1.8 }
func fromKelvin(k Celsius) Celsius     { return k - 273.15 }

// ParseMoney reads "35" or "35.50".
func ParseMoney(s string) (Money, error) { return parse[Money](s, scale{"": 1}, "none") }

// ParseRatio reads "0.9" or "90 %".
func ParseRatio(s string) (Ratio, error) { return parse[Ratio](s, ratioScale, "none, or %") }

// ParseArea reads a conductor: "2.5", "2,5 mm2", "2x2.5", "12 AWG", "12 ga" or
// "2/0 AWG".
func ParseArea(s string) (SquareMillimetre, error) {
	t := strings.ToLower(strings.TrimSpace(s))
	for _, same := range []string{"²", "^2"} {
		t = strings.ReplaceAll(t, same, "2")
	}
	if m := gaugeForm.FindStringSubmatch(t); m != nil {
		n, ok := gaugeNumber(m[1] + m[2])
		if !ok {
			return 0, fmt.Errorf("%q is not a gauge: write it as 12 AWG or 2/0 AWG", s)
		}
		return AWG(n), nil
	}
	if m := conductorsForm.FindStringSubmatch(t); m != nil { // "2x2.5" is two conductors of 2.5 mm² each
		t = m[1]
	}
	return parse[SquareMillimetre](t, areaScale, "mm² or AWG")
}

var (
	areaScale      = scale{"": 1, "mm2": 1, "sqmm": 1, "qmm": 1}
	gaugeForm      = regexp.MustCompile(`^(?:awg)?\s*([0-9/]+)\s*(?:awg|ga|gauge)\.?$|^awg\s*([0-9/]+)$`)
	conductorsForm = regexp.MustCompile(`^[2-8]\s*[x×]\s*(.+)$`)
)

// gaugeNumber reads the number of a gauge: "12", and above the largest whole
// one "1/0" to "4/0" or "0" to "0000", which are 0 to −3.
func gaugeNumber(s string) (int, bool) {
	if noughts, ok := strings.CutSuffix(s, "/0"); ok {
		n, err := strconv.Atoi(noughts)
		return 1 - n, err == nil && n >= 1 && n <= 4
	}
	if strings.Trim(s, "0") == "" {
		return 1 - len(s), len(s) >= 1 && len(s) <= 4
	}
	n, err := strconv.Atoi(s)
	return n, err == nil && n >= 0 && n <= 40
}

// AWG gives the cross-section of a solid gauge, −3 (written 4/0) to 40: its
// diameter is 0.127 mm × 92^((36−n)/39) (ASTM B258).
func AWG(n int) SquareMillimetre {
	d := 0.127 * math.Pow(92, float64(36-n)/39)
	return SquareMillimetre(math.Pi / 4 * d * d)
}

// InUnit reads a bare number in the unit that its field shows, where that is
// not the one of the quantity: "3.5" at a leakage shown in mA is 3.5 mA.
func InUnit[T Quantity](parse func(string) (T, error), symbol string) func(string) (T, error) {
	return func(s string) (T, error) {
		if s = strings.TrimSpace(s); s != "" && strings.Trim(s, numberRunes) == "" {
			s += " " + symbol
		}
		return parse(s)
	}
}

// numberRunes are what a number is written with.
const numberRunes = "+-−0123456789.,"

// parse reads a number with a unit of the scale, which may be left out.
func parse[T ~float64](s string, units scale, wanted string) (T, error) {
	t := strings.TrimSpace(strings.ReplaceAll(s, "−", "-"))
	cut := len(t)
	for i, r := range t {
		if !strings.ContainsRune(numberRunes, r) {
			cut = i
			break
		}
	}
	name := strings.ToLower(strings.Join(strings.Fields(t[cut:]), ""))
	factor, ok := units[name]
	if !ok {
		return 0, fmt.Errorf("%.60q: the unit should be %s", s, wanted)
	}
	v, err := Decimal(t[:cut])
	var two TwoWays
	if errors.As(err, &two) {
		return 0, err
	}
	if err != nil {
		return 0, fmt.Errorf("%.60q is not a number with a unit; write it like 12.5 %s", s, strings.Fields(wanted)[0])
	}
	return T(v * factor), nil
}
