package brief

import (
	"strconv"

	"largo/core/unit"
	"largo/web/kit"
)

// levelRuler shows what is wanted and what the rig gives, 70 to 120 dB.
func levelRuler(wanted, average float64) kit.Ruler {
	a := kit.Axis{Low: 70, High: 120, Width: 720}
	r := kit.Ruler{ID: "level", Width: a.Width, Height: 76, Forbidden: a.Span(100, 120),
		Limits: []kit.Tick{a.Tick(100, "advised ceiling for venues")}}
	for v := 70; v <= 120; v += 10 {
		r.Ticks = append(r.Ticks, a.Tick(float64(v), strconv.Itoa(v)))
	}
	if wanted > 0 {
		r.Marks = append(r.Marks, a.Tick(wanted, "wanted "+unit.Decibel(wanted).String()))
	}
	if average > 0 {
		r.Band = a.Span(70, average)
		r.Marks = append(r.Marks, a.Tick(average, "rig gives "+unit.Decibel(average).String()))
	}
	return r
}
