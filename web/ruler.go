package web

import (
	"math"
	"strconv"

	"largo/core/gear"
	"largo/core/match"
	"largo/core/unit"
)

// ruler is a scale drawn like a ruler: the limit as a line, the forbidden
// part hatched, the wanted part a band, the figure a marker.
type ruler struct {
	ID            string
	Width, Height float64
	Label         string // for those who cannot see it
	Ticks         []tick
	Forbidden     *span
	Band          *span
	Limits        []tick // drawn lines with a name
	Marks         []tick
	Text          string // what stands there when there is no figure
	Wrong         bool   // the mark is where it must not be
}

type tick struct {
	X     float64
	Label string
}

type span struct{ From, Width float64 }

// axis carries a value to a place on the ruler.
type axis struct {
	low, high, width float64
	log              bool
}

func (a axis) x(v float64) float64 {
	t := (v - a.low) / (a.high - a.low)
	if a.log {
		t = math.Log(v/a.low) / math.Log(a.high/a.low)
	}
	return 8 + (a.width-16)*min(max(t, 0), 1)
}

func (a axis) span(from, to float64) *span {
	x := a.x(from)
	return &span{x, a.x(to) - x}
}

// loadRuler shows a load against the least that is allowed, 1 to 32 Ω.
func loadRuler(id string, load, limit float64) ruler {
	a := axis{1, 32, 150, true}
	r := ruler{ID: id, Width: a.width, Height: 44}
	for _, v := range []float64{1, 2, 4, 8, 16, 32} {
		r.Ticks = append(r.Ticks, tick{a.x(v), unit.Number(v)})
	}
	if limit > 0 {
		r.Forbidden = a.span(1, limit)
		r.Limits = []tick{{a.x(limit), ""}}
	}
	if load > 0 {
		r.Marks = []tick{{a.x(load), unit.Ohm(load).String()}}
		r.Wrong = limit > 0 && gear.Below(load, limit)
	} else {
		r.Text = "unknown"
	}
	return r
}

// ratioRuler shows power over rating against the band of the policy, 0 to 3.
func ratioRuler(id string, ratio float64, label string, low, high float64) ruler {
	a := axis{0, 3, 150, false}
	r := ruler{ID: id, Width: a.width, Height: 44, Band: a.span(low, high), Forbidden: a.span(high, 3), Limits: []tick{{a.x(high), ""}}}
	for _, v := range []float64{0, 1, 2, 3} {
		r.Ticks = append(r.Ticks, tick{a.x(v), strconv.Itoa(int(v)) + "×"})
	}
	if ratio > 0 {
		r.Marks = []tick{{a.x(ratio), label}}
		r.Wrong = match.TooStrong(ratio, high)
	} else {
		r.Text = label
	}
	return r
}

// levelRuler shows what is wanted and what the rig gives, 70 to 120 dB.
func levelRuler(wanted, average float64) ruler {
	a := axis{70, 120, 720, false}
	r := ruler{ID: "level", Width: a.width, Height: 76, Forbidden: a.span(100, 120), Limits: []tick{{a.x(100), "advised ceiling for venues"}}}
	for v := 70; v <= 120; v += 10 {
		r.Ticks = append(r.Ticks, tick{a.x(float64(v)), strconv.Itoa(v)})
	}
	if wanted > 0 {
		r.Marks = append(r.Marks, tick{a.x(wanted), "wanted " + unit.Decibel(wanted).String()})
	}
	if average > 0 {
		r.Band = a.span(70, average)
		r.Marks = append(r.Marks, tick{a.x(average), "rig gives " + unit.Decibel(average).String()})
	}
	return r
}

// voltRuler shows where a limiter may stand and where it stands.
func voltRuler(id string, limit, set, clip, most float64, unitLabel string) ruler {
	a := axis{0, most, 300, false}
	r := ruler{ID: id, Width: a.width, Height: 44, Label: unitLabel}
	step := 20.0
	if most > 200 {
		step = 50
	}
	for v := 0.0; v <= most; v += step {
		r.Ticks = append(r.Ticks, tick{a.x(v), unit.Number(v)})
	}
	if limit > 0 {
		r.Forbidden = a.span(limit, most)
		r.Limits = []tick{{a.x(limit), ""}}
	} else {
		r.Text = "no limit can be given"
	}
	if clip > 0 && clip <= most {
		r.Band = a.span(0, min(clip, most))
	}
	if set > 0 {
		r.Marks = []tick{{a.x(set), unit.Volt(set).String() + " set"}}
		r.Wrong = limit > 0 && set > 1.01*limit
	}
	return r
}
