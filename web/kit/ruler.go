package kit

import (
	"math"

	"largo/core/reckon"
)

// ValueOf gives a figure's value for drawing; 0 draws nothing.
func ValueOf(f reckon.Figure) float64 {
	if !f.Known() {
		return 0
	}
	return f.Value
}

// Ruler is a scale drawn like a ruler: the limit as a line, the forbidden
// part hatched, the wanted part a band, the figure a marker.
type Ruler struct {
	ID            string
	Width, Height float64
	Label         string // for those who cannot see it
	Ticks         []Tick
	Forbidden     *span
	Band          *span
	Limits        []Tick // drawn lines with a name
	Marks         []Tick
	Text          string // what stands there when there is no figure
	Wrong         bool   // the mark is where it must not be
}

// Tick is a place on a ruler or an axis, with its label.
type Tick struct {
	X     float64
	Label string
}

type span struct{ From, Width float64 }

// Axis carries a value to a place on the ruler.
type Axis struct {
	Low, High float64
	Width     float64 // of the whole ruler, in pixels
	Log       bool
}

// X is where a value stands.
func (a Axis) X(v float64) float64 {
	t := (v - a.Low) / (a.High - a.Low)
	if a.Log {
		t = math.Log(v/a.Low) / math.Log(a.High/a.Low)
	}
	return 8 + (a.Width-16)*min(max(t, 0), 1)
}

// Tick is a value with its label, where it stands.
func (a Axis) Tick(v float64, label string) Tick { return Tick{a.X(v), label} }

// Span is a stretch between two values.
func (a Axis) Span(from, to float64) *span {
	x := a.X(from)
	return &span{x, a.X(to) - x}
}
