package match

import (
	"strconv"

	"largo/core/gear"
	"largo/core/match"
	"largo/core/unit"
	"largo/web/kit"
)

// loadRuler shows a load against the least that is allowed, 1 to 32 Ω.
func loadRuler(id string, load, limit float64) kit.Ruler {
	a := kit.Axis{Low: 1, High: 32, Width: 150, Log: true}
	r := kit.Ruler{ID: id, Width: a.Width, Height: 44}
	for _, v := range []float64{1, 2, 4, 8, 16, 32} {
		r.Ticks = append(r.Ticks, a.Tick(v, unit.Number(v)))
	}
	if limit > 0 {
		r.Forbidden = a.Span(1, limit)
		r.Limits = []kit.Tick{a.Tick(limit, "")}
	}
	if load > 0 {
		r.Marks = []kit.Tick{a.Tick(load, unit.Ohm(load).String())}
		r.Wrong = limit > 0 && gear.Below(load, limit)
	} else {
		r.Text = "unknown"
	}
	return r
}

// ratioRuler shows power over rating against the band of the policy, 0 to 3.
func ratioRuler(id string, ratio float64, label string, low, high float64) kit.Ruler {
	a := kit.Axis{Low: 0, High: 3, Width: 150}
	r := kit.Ruler{ID: id, Width: a.Width, Height: 44, Band: a.Span(low, high), Forbidden: a.Span(high, 3),
		Limits: []kit.Tick{a.Tick(high, "")}}
	for _, v := range []float64{0, 1, 2, 3} {
		r.Ticks = append(r.Ticks, a.Tick(v, strconv.Itoa(int(v))+"×"))
	}
	if ratio > 0 {
		r.Marks = []kit.Tick{a.Tick(ratio, label)}
		r.Wrong = match.TooStrong(ratio, high)
	} else {
		r.Text = label
	}
	return r
}
