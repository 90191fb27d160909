package protect

import (
	"largo/core/unit"
	"largo/web/kit"
)

// voltRuler shows where a limiter may stand and where it stands.
func voltRuler(id string, limit, set, clip, most float64, unitLabel string) kit.Ruler {
	a := kit.Axis{Low: 0, High: most, Width: 300}
	r := kit.Ruler{ID: id, Width: a.Width, Height: 44, Label: unitLabel}
	step := 20.0
	if most > 200 {
		step = 50
	}
	for v := 0.0; v <= most; v += step {
		r.Ticks = append(r.Ticks, a.Tick(v, unit.Number(v)))
	}
	if limit > 0 {
		r.Forbidden = a.Span(limit, most)
		r.Limits = []kit.Tick{a.Tick(limit, "")}
	} else {
		r.Text = "no limit can be given"
	}
	if clip > 0 && clip <= most {
		r.Band = a.Span(0, min(clip, most))
	}
	if set > 0 {
		r.Marks = []kit.Tick{a.Tick(set, unit.Volt(set).String()+" set")}
		r.Wrong = limit > 0 && set > 1.01*limit
	}
	return r
}
