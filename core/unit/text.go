package unit

import (
	"math"
	"strconv"
	"strings"
)

// Number writes a bare number with as many digits as the trade reads: three
// significant ones under 100, whole above, no trailing zeros.
func Number(v float64) string {
	switch a := math.Abs(v); {
	case math.IsInf(v, 0):
		return "∞"
	case a == 0:
		return "0"
	case a >= 99.95:
		return strconv.FormatFloat(v, 'f', 0, 64)
	case a >= 9.995:
		return trim(strconv.FormatFloat(v, 'f', 1, 64))
	case a >= 0.01:
		return trim(strconv.FormatFloat(v, 'f', 2, 64))
	default:
		return strconv.FormatFloat(v, 'g', 2, 64)
	}
}

// Fixed writes a number with exactly n decimals and a true minus sign.
func Fixed(v float64, n int) string {
	s := strconv.FormatFloat(v, 'f', n, 64)
	if strings.HasPrefix(s, "-") {
		if strings.Trim(s, "-0.") == "" {
			return s[1:]
		}
		return "−" + s[1:]
	}
	return s
}

// Signed writes a level difference with its sign, one decimal and the unit.
func (d Decibel) Signed() string {
	if s := Fixed(float64(d), 1); strings.HasPrefix(s, "−") {
		return s + " dB"
	}
	return "+" + Fixed(float64(d), 1) + " dB"
}

func trim(s string) string {
	if !strings.Contains(s, ".") {
		return s
	}
	return strings.TrimSuffix(strings.TrimRight(s, "0"), ".")
}

// Quantity is any of the named types: a number that knows its unit.
type Quantity interface {
	~float64
	Symbol() string
	String() string
}

// Symbol gives the unit as it is written behind the number.
func (Watt) Symbol() string             { return "W" }
func (VoltAmpere) Symbol() string       { return "VA" }
func (Ohm) Symbol() string              { return "Ω" }
func (Volt) Symbol() string             { return "V" }
func (Ampere) Symbol() string           { return "A" }
func (Decibel) Symbol() string          { return "dB" }
func (DBu) Symbol() string              { return "dBu" }
func (Metre) Symbol() string            { return "m" }
func (SquareMillimetre) Symbol() string { return "mm²" }
func (CubicMetre) Symbol() string       { return "m³" }
func (Litre) Symbol() string            { return "L" }
func (WattHour) Symbol() string         { return "Wh" }
func (Hertz) Symbol() string            { return "Hz" }
func (Second) Symbol() string           { return "s" }
func (Kilogram) Symbol() string         { return "kg" }
func (Celsius) Symbol() string          { return "°C" }
func (Money) Symbol() string            { return "" }
func (Ratio) Symbol() string            { return "" }

// Write writes a number with the unit of that symbol. Volts and decibels keep
// one decimal, since limiters are set and meters read to a tenth (volts under
// ten, as sensitivities are, keep three); an empty symbol is a ratio and keeps
// three figures, two decimals at most.
func Write(v float64, symbol string) string {
	switch symbol {
	case "":
		switch {
		case math.Abs(v) >= 100:
			return Fixed(v, 0)
		case math.Abs(v) >= 10:
			return Fixed(v, 1)
		}
		return Fixed(v, 2)
	case "V":
		if math.Abs(v) < 10 {
			return trim(Fixed(v, 3)) + " V"
		}
		return Fixed(v, 1) + " V"
	case "dB", "dBu", "°C":
		return Fixed(v, 1) + " " + symbol
	case "s":
		return Second(v).String()
	case "A":
		if v != 0 && math.Abs(v) < 0.1 { // as leakages are said
			return Number(v*1000) + " mA"
		}
	case "W":
		if v >= 10000 {
			return Number(v/1000) + " kW"
		}
	}
	return Number(v) + " " + symbol
}

func (w Watt) String() string             { return Write(float64(w), "W") }
func (s VoltAmpere) String() string       { return Write(float64(s), "VA") }
func (z Ohm) String() string              { return Write(float64(z), "Ω") }
func (v Volt) String() string             { return Write(float64(v), "V") }
func (a Ampere) String() string           { return Write(float64(a), "A") }
func (d Decibel) String() string          { return Write(float64(d), "dB") }
func (l DBu) String() string              { return Write(float64(l), "dBu") }
func (m Metre) String() string            { return Write(float64(m), "m") }
func (a SquareMillimetre) String() string { return Write(float64(a), "mm²") }
func (v CubicMetre) String() string       { return Write(float64(v), "m³") }
func (l Litre) String() string            { return Write(float64(l), "L") }
func (e WattHour) String() string         { return Write(float64(e), "Wh") }
func (f Hertz) String() string            { return Write(float64(f), "Hz") }
func (k Kilogram) String() string         { return Write(float64(k), "kg") }
func (t Celsius) String() string          { return Write(float64(t), "°C") }
func (m Money) String() string            { return Fixed(float64(m), 2) }
func (r Ratio) String() string            { return Write(float64(r), "") }

// String writes seconds below two minutes, minutes and seconds below a quarter of
// an hour, minutes below two hours, hours and minutes above.
func (s Second) String() string {
	switch {
	case s < 120:
		return Number(float64(s)) + " s"
	case s >= 7200:
		minutes := math.Round(float64(s) / 60)
		return Fixed(math.Floor(minutes/60), 0) + " h " + Fixed(math.Mod(minutes, 60), 0) + " min"
	}
	if s >= 900 {
		return Number(math.Round(float64(s)/60)) + " min"
	}
	m := math.Floor(float64(s) / 60)
	rest := math.Round(float64(s) - 60*m)
	if rest == 0 {
		return Number(m) + " min"
	}
	return Number(m) + " min " + Number(rest) + " s"
}
