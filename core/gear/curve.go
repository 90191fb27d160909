package gear

import (
	"math"
	"slices"

	"largo/core/fault"
	"largo/core/unit"
)

// Point is one measured frequency of a curve.
type Point struct {
	Hz    float64 `json:"hz"`
	Value float64 `json:"value"` // Ω of an impedance, dB SPL of a response
	Phase float64 `json:"phase"` // degrees
}

// Curve is a measured impedance or response, by rising frequency.
type Curve []Point

// MostPoints bounds one curve.
const MostPoints = 4000

// LeastIn is the point of least value between two frequencies, false when no
// point lies there.
func (c Curve) LeastIn(low, high unit.Hertz) (Point, bool) {
	least, found := Point{Value: math.Inf(1)}, false
	for _, p := range c {
		if p.Hz >= float64(low) && p.Hz <= float64(high) && p.Value < least.Value {
			least, found = p, true
		}
	}
	return least, found
}

func (c Curve) check(what string, low, high float64) fault.List {
	var l fault.List
	if len(c) == 1 || len(c) > MostPoints {
		l.Add("", "%s has %d points; give 2 to %d.", what, len(c), MostPoints)
		return l
	}
	for i, p := range c {
		switch {
		case !(p.Hz > 0 && p.Hz <= 200000):
			l.Add("", "%s, point %d: a frequency of %g Hz cannot be right.", what, i+1, p.Hz)
		case i > 0 && p.Hz <= c[i-1].Hz:
			l.Add("", "%s, point %d: the frequencies should rise, but %g Hz follows %g Hz.", what, i+1, p.Hz, c[i-1].Hz)
		case !(p.Value >= low && p.Value <= high):
			l.Add("", "%s, point %d: %g at %g Hz cannot be right; it should lie between %g and %g.", what, i+1, p.Value,
				p.Hz, low, high)
		case !(math.Abs(p.Phase) <= 3600):
			l.Add("", "%s, point %d: a phase of %g degrees cannot be right.", what, i+1, p.Phase)
		}
		if len(l) > 5 {
			break
		}
	}
	return l
}

// Sorted gives the curve by rising frequency, with the first of two points of
// one frequency.
func (c Curve) Sorted() Curve {
	c = slices.Clone(c)
	slices.SortStableFunc(c, func(a, b Point) int {
		switch {
		case a.Hz < b.Hz:
			return -1
		case a.Hz > b.Hz:
			return 1
		}
		return 0
	})
	return slices.CompactFunc(c, func(a, b Point) bool { return a.Hz == b.Hz })
}
