// Package thermal heats a loudspeaker driver: a coil in a magnet system in air, with the
// power that it takes falling as the coil heats; and learns from readings what the driver
// is, so that it can say where the heating will end before it does.
//
// Temperatures are °C, their differences K, times s, volts V rms, powers W, resistances of
// the coil Ω. "Frame" is what a probe on magnet, frame or basket reads; the coil is far
// hotter, and is read from its ohms alone.
package thermal

import (
	"fmt"
	"math"
)

// Resistance of a coil per K over what it has at 20 °C.
const (
	Copper    = 0.00393 // IEC 60028, annealed
	Aluminium = 0.0040
)

// reference is the temperature at which a coil has its R20, °C.
const reference = 20

// Body is a driver in its box: two lumps, each with its heat capacity and the way out of it.
type Body struct {
	R20   float64 // of the coil at 20 °C, Ω
	Alpha float64 // rise of its resistance per K over R20
	C1    float64 // heat capacity of the coil, J/K
	R1    float64 // coil to magnet, K/W
	C2    float64 // of magnet and frame, J/K
	R2    float64 // magnet to the air around the box, K/W
}

// Check says what of a body cannot be.
func (b Body) Check() error {
	for _, p := range []struct {
		name     string
		v        float64
		low, top float64
	}{{"the coil's resistance", b.R20, 0.1, 1000}, {"the coil's rise of resistance", b.Alpha, 0.001, 0.01},
		{"the coil's heat capacity", b.C1, 0.01, 1e5}, {"coil to magnet", b.R1, 1e-3, 1000},
		{"the magnet's heat capacity", b.C2, 1, 1e7}, {"magnet to air", b.R2, 1e-3, 1000}} {
		if !(p.v >= p.low && p.v <= p.top) {
			return fmt.Errorf("%s of %g cannot be", p.name, p.v)
		}
	}
	return nil
}

// Resistance is that of the coil at a temperature, Ω.
func (b Body) Resistance(coil float64) float64 { return b.R20 * (1 + b.Alpha*(coil-reference)) }

// CoilAt is the temperature at which the coil has so many times the resistance it has
// at another, °C.
func (b Body) CoilAt(times, cold float64) float64 {
	return reference + (times*(1+b.Alpha*(cold-reference))-1)/b.Alpha
}

// Power is what the coil takes of so many volts at its temperature, W.
func (b Body) Power(volts, coil float64) float64 { return volts * volts / b.Resistance(coil) }

// State is how hot it is.
type State struct{ Coil, Frame float64 }

// Settled is where it ends under constant volts in constant air: the root of the quadratic
// that power falling with the coil's resistance makes of T1 = Ta + P(T1) (R1 + R2).
func (b Body) Settled(volts, air float64) State {
	// x = T1 − Ta: x (g + αx) = P20 (R1 + R2), with g the coil's resistance at Ta over R20
	g := 1 + b.Alpha*(air-reference)
	p20 := volts * volts / b.R20
	drive := p20 * (b.R1 + b.R2)
	x := 2 * drive / (g + math.Sqrt(g*g+4*b.Alpha*drive))
	return State{Coil: air + x, Frame: air + x*b.R2/(b.R1+b.R2)}
}

// Slow is the slow constant, s: that of the magnet, while the coil follows it at once.
func (b Body) Slow() float64 { n := b.network(0); return -1 / n.slow }

// Fast is the fast one, s: that of the coil.
func (b Body) Fast() float64 { n := b.network(0); return -1 / n.fast }

// network is the linear network of the two lumps: its matrix and its eigenvalues, 1/s.
type network struct{ a11, a12, a21, a22, slow, fast float64 }

// network is that with a power that falls by so many W for each K of the coil. Its
// eigenvalues are real and below 0, as those of every such network are.
func (b Body) network(falls float64) network {
	n := network{a12: 1 / (b.C1 * b.R1), a21: 1 / (b.C2 * b.R1)}
	n.a11, n.a22 = -n.a12-falls/b.C1, -n.a21-1/(b.C2*b.R2)
	n.fast = (n.a11 + n.a22 - math.Sqrt((n.a11-n.a22)*(n.a11-n.a22)+4*n.a12*n.a21)) / 2
	// as a product of the roots: their difference would cancel
	n.slow = (n.a11*n.a22 - n.a12*n.a21) / n.fast
	return n
}
