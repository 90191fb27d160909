// Package unit holds the quantities of the trade as named types, so that a
// watt is never added to an ohm, and knows how they are read and written.
//
// Every type is a float64 in its base SI unit (decibels excepted). An unknown
// quantity is not a number at all: it is a zero [Given].
package unit

import "math"

type (
	// Watt is average ("RMS") power in W.
	Watt float64
	// VoltAmpere is apparent power in VA.
	VoltAmpere float64
	// Ohm is the magnitude of an impedance in Ω.
	Ohm float64
	// Volt is a voltage in V; whether rms or peak is said where it is used.
	Volt float64
	// Ampere is a current in A.
	Ampere float64
	// Decibel is a level difference or a sound pressure level in dB.
	Decibel float64
	// DBu is a voltage level in dB above sqrt(0.6) V rms.
	DBu float64
	// Metre is a length in m.
	Metre float64
	// SquareMillimetre is a conductor's cross-section in mm².
	SquareMillimetre float64
	// CubicMetre is a volume of a room in m³.
	CubicMetre float64
	// Litre is a volume of fuel in L.
	Litre float64
	// WattHour is what a battery holds in Wh.
	WattHour float64
	// Hertz is a frequency in Hz.
	Hertz float64
	// Second is a duration in s.
	Second float64
	// Kilogram is a mass in kg.
	Kilogram float64
	// Celsius is a temperature in °C; a difference of two is in K.
	Celsius float64
	// Money is a cost in the company's own currency.
	Money float64
	// Ratio is a plain number, as an efficiency or a power factor.
	Ratio float64
)

// ZeroDBu is the voltage of 0 dBu in V rms: 1 mW in 600 Ω, sqrt(0.6) V
// (IEC 60268-17 and ITU-T practice).
var ZeroDBu = Volt(math.Sqrt(0.6))

// DBu gives the level of an rms voltage above 0.
func (v Volt) DBu() DBu { return DBu(20 * math.Log10(float64(v/ZeroDBu))) }

// Volt gives the rms voltage of a level.
func (l DBu) Volt() Volt { return ZeroDBu * Volt(math.Pow(10, float64(l)/20)) }

// Ratio gives the power ratio of a level difference.
func (d Decibel) Ratio() float64 { return math.Pow(10, float64(d)/10) }

// OfPower gives the level difference of a power ratio above 0.
func OfPower(ratio float64) Decibel { return Decibel(10 * math.Log10(ratio)) }

// OfVolts gives the level difference of a voltage ratio above 0.
func OfVolts(ratio float64) Decibel { return Decibel(20 * math.Log10(ratio)) }

// Across gives the rms voltage that puts p into z: sqrt(P Z).
func (p Watt) Across(z Ohm) Volt { return Volt(math.Sqrt(float64(p) * float64(z))) }

// Into gives the power that an rms voltage puts into z: V²/Z.
func (v Volt) Into(z Ohm) Watt { return Watt(float64(v) * float64(v) / float64(z)) }

// Parallel gives the load of impedances side by side, 1/Z = Σ 1/Zi, taken as
// pure resistances: the honest sum when only magnitudes are known. No
// impedance at all gives +Inf, an open circuit.
func Parallel(zs ...Ohm) Ohm {
	var y float64
	for _, z := range zs {
		y += 1 / float64(z)
	}
	return Ohm(1 / y)
}

// Series gives the load of impedances one after another.
func Series(zs ...Ohm) Ohm {
	var sum Ohm
	for _, z := range zs {
		sum += z
	}
	return sum
}
