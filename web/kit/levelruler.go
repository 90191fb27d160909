package kit

import (
	"strconv"

	"largo/core/unit"
)

// LevelRuler shows what is wanted and what the rig, or who else is named, gives, 70
// to 120 dB; 0 is not known.
func LevelRuler(wanted, average float64, who string) Ruler {
	a := Axis{Low: 70, High: 120, Width: 720}
	r := Ruler{ID: "level", Width: a.Width, Height: 76, Forbidden: a.Span(100, 120),
		Limits: []Tick{a.Tick(100, "advised ceiling for venues")}}
	for v := 70; v <= 120; v += 10 {
		r.Ticks = append(r.Ticks, a.Tick(float64(v), strconv.Itoa(v)))
	}
	if wanted > 0 {
		r.Marks = append(r.Marks, a.Tick(wanted, "wanted "+unit.Decibel(wanted).String()))
	}
	if average > 0 {
		r.Band = a.Span(70, average)
		r.Marks = append(r.Marks, a.Tick(average, who+" gives "+unit.Decibel(average).String()))
	}
	return r
}
