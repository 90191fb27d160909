package kit

import (
	"math"
	"strconv"
	"strings"

	"largo/core/gear"
	"largo/core/unit"
)

// Plot is a curve over frequency, with a limit drawn as a line and what lies
// below it hatched.
type Plot struct {
	ID, Label     string
	Width, Height float64
	Path          string
	Across        []Tick // frequencies
	Up            []Tick // values; X is the height on the drawing
	Limit         float64
	LimitLabel    string
	Forbidden     float64 // height of the hatched part, from the limit down
	Foot          float64 // the drawing's lower edge
}

// curveAxes carries frequency and value to the drawing; both are logarithmic
// for an impedance, the value is straight for a response in dB.
type curveAxes struct {
	lowHz, highHz, low, high float64
	straight                 bool
}

const plotWidth, plotHeight = 560.0, 190.0

func (a curveAxes) x(hz float64) float64 {
	return 42 + (plotWidth-52)*math.Log(hz/a.lowHz)/math.Log(a.highHz/a.lowHz)
}

func (a curveAxes) y(v float64) float64 {
	t := math.Log(v/a.low) / math.Log(a.high/a.low)
	if a.straight {
		t = (v - a.low) / (a.high - a.low)
	}
	return 8 + (plotHeight-32)*(1-min(max(t, 0), 1))
}

// ImpedancePlot draws an impedance from 20 Hz to 20 kHz, with the least load
// of an amplifier on it where one is given.
func ImpedancePlot(id, label string, c gear.Curve, limit unit.Given[unit.Ohm]) Plot {
	least, most := math.Inf(1), 1.0
	for _, p := range c {
		least, most = min(least, p.Value), max(most, p.Value)
	}
	if z, known := limit.Get(); known {
		least = min(least, float64(z))
	}
	a := curveAxes{lowHz: 20, highHz: 20000, low: math.Pow(2, math.Floor(math.Log2(least*0.8))),
		high: math.Pow(2, math.Ceil(math.Log2(most)))}
	p := a.draw(id, label, c)
	for v := a.low; v <= a.high*1.001; v *= 2 {
		p.Up = append(p.Up, Tick{a.y(v), unit.Number(v)})
	}
	if z, known := limit.Get(); known {
		p.Limit, p.LimitLabel = a.y(float64(z)), "least "+z.String()
		p.Forbidden = p.Foot - p.Limit
	}
	return p
}

// ResponsePlot draws a response in dB.
func ResponsePlot(id, label string, c gear.Curve) Plot {
	low, high := math.Inf(1), math.Inf(-1)
	for _, p := range c {
		low, high = min(low, p.Value), max(high, p.Value)
	}
	a := curveAxes{lowHz: 20, highHz: 20000, low: 10 * math.Floor(max(low, high-50)/10), high: 10 * math.Ceil(high/10),
		straight: true}
	p := a.draw(id, label, c)
	for v := a.low; v <= a.high; v += 10 {
		p.Up = append(p.Up, Tick{a.y(v), unit.Number(v)})
	}
	return p
}

func (a curveAxes) draw(id, label string, c gear.Curve) Plot {
	p := Plot{ID: id, Label: label, Width: plotWidth, Height: plotHeight, Foot: plotHeight - 24}
	for _, hz := range []float64{20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000} {
		text := unit.Number(hz)
		if hz >= 1000 {
			text = unit.Number(hz/1000) + "k"
		}
		p.Across = append(p.Across, Tick{a.x(hz), text})
	}
	var b strings.Builder
	for _, at := range c {
		if at.Hz < a.lowHz || at.Hz > a.highHz {
			continue
		}
		if b.Len() == 0 {
			b.WriteByte('M')
		} else {
			b.WriteByte('L')
		}
		b.WriteString(strconv.FormatFloat(a.x(at.Hz), 'f', 1, 64) + " " + strconv.FormatFloat(a.y(at.Value), 'f', 1, 64))
	}
	p.Path = b.String()
	return p
}
