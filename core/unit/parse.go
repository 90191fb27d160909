package unit

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// scale tells what one of a written unit is in the base unit.
type scale map[string]float64

var (
	wattScale   = scale{"": 1, "w": 1, "kw": 1e3, "watt": 1, "watts": 1, "mw": 1e-3}
	ohmScale    = scale{"": 1, "ω": 1, "ohm": 1, "ohms": 1, "kω": 1e3, "kohm": 1e3, "k": 1e3, "mω": 1e-3, "mohm": 1e-3, "megaω": 1e6, "megaohm": 1e6, "mega": 1e6}
	voltScale   = scale{"": 1, "v": 1, "mv": 1e-3, "kv": 1e3, "volt": 1, "volts": 1}
	metreScale  = scale{"": 1, "m": 1, "cm": 0.01, "km": 1000, "ft": 0.3048, "feet": 0.3048, "'": 0.3048}
	secondScale = scale{"": 1, "s": 1, "sec": 1, "ms": 1e-3, "min": 60, "h": 3600}
	dbScale     = scale{"": 1, "db": 1, "dbspl": 1, "db(a)": 1, "dba": 1}
	hertzScale  = scale{"": 1, "hz": 1, "khz": 1e3}
	dbuScale    = scale{"": 1, "dbu": 1}
	ampereScale = scale{"": 1, "a": 1, "ma": 1e-3, "amp": 1, "amps": 1}
	massScale   = scale{"": 1, "kg": 1, "g": 1e-3, "lb": 0.45359237, "lbs": 0.45359237}
	ratioScale  = scale{"": 1, "%": 0.01}
)

// ParseWatt reads "650", "650 W" or "1,2 kW".
func ParseWatt(s string) (Watt, error) { return parse[Watt](s, wattScale, "W or kW") }

// ParseOhm reads "8", "8 Ω", "8 ohm", "2,7 ohm", "20 kohm", "40 mΩ" or
// "10 MΩ": of all units it is the one where M and m are both usual.
func ParseOhm(s string) (Ohm, error) {
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

// ParseMoney reads "35" or "35.50".
func ParseMoney(s string) (Money, error) { return parse[Money](s, scale{"": 1}, "none") }

// ParseRatio reads "0.9" or "90 %".
func ParseRatio(s string) (Ratio, error) { return parse[Ratio](s, ratioScale, "none, or %") }

// ParseArea reads a conductor: "2.5", "2,5 mm2", "12 AWG" or "AWG 12".
// AWG diameters are those of ASTM B258: 0.127 mm × 92^((36−n)/39).
func ParseArea(s string) (SquareMillimetre, error) {
	t := strings.ToLower(strings.ReplaceAll(strings.TrimSpace(s), "²", "2"))
	if strings.Contains(t, "awg") {
		n, err := strconv.Atoi(strings.TrimSpace(strings.ReplaceAll(t, "awg", "")))
		if err != nil || n < 0 || n > 40 {
			return 0, fmt.Errorf("%q is not a gauge: write it as 12 AWG", s)
		}
		return AWG(n), nil
	}
	return parse[SquareMillimetre](t, scale{"": 1, "mm2": 1}, "mm² or AWG")
}

// AWG gives the cross-section of a solid gauge 0 to 40 (ASTM B258).
func AWG(n int) SquareMillimetre {
	d := 0.127 * math.Pow(92, float64(36-n)/39)
	return SquareMillimetre(math.Pi / 4 * d * d)
}

// parse reads a number with a decimal point or comma and an optional unit.
func parse[T ~float64](s string, units scale, wanted string) (T, error) {
	t := strings.TrimSpace(strings.ReplaceAll(s, "−", "-"))
	cut := len(t)
	for i, r := range t {
		if !strings.ContainsRune("+-0123456789.,", r) {
			cut = i
			break
		}
	}
	number, name := t[:cut], strings.ToLower(strings.ReplaceAll(t[cut:], " ", ""))
	factor, ok := units[name]
	if !ok {
		return 0, fmt.Errorf("%q: the unit should be %s", s, wanted)
	}
	if strings.Count(number, ",") == 1 && !strings.Contains(number, ".") {
		number = strings.Replace(number, ",", ".", 1)
	}
	v, err := strconv.ParseFloat(number, 64)
	if err != nil || math.IsInf(v, 0) || math.IsNaN(v) {
		return 0, fmt.Errorf("%q is not a number with a unit; write it like 12.5 %s", s, strings.Fields(wanted)[0])
	}
	return T(v * factor), nil
}
