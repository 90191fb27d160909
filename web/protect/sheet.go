package protect

import (
	"strings"

	"largo/core/load"
	"largo/core/protect"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/unit"
	"largo/web/kit"
)

// sheetLimit is what one output is held to.
type sheetLimit struct {
	Name, Boxes, Long, Peak, LongIn, PeakIn, RatedOn, Set string
}

// onSheet puts the limiters on the sheet.
func onSheet(p *kit.Page) any {
	var limits []sheetLimit
	for _, l := range survey.Of[protect.Verdict](p.Report).Outputs {
		set := "not recorded"
		if l.Limited {
			set = recorded(l.Limiter)
		}
		limits = append(limits, sheetLimit{l.At.String(), strings.Join(load.Tags(l.Hung()), ", "),
			l.Long.Text(), l.Peak.Text(), l.LongIn().Text(), l.PeakIn().Text(), l.RatedOn(), set})
	}
	return limits
}

// recorded says what a limiter was set to; a half that nobody recorded is said.
func recorded(l rig.Limiter) string {
	half := func(v unit.Given[unit.Volt], of string) string {
		if !v.Known() {
			return of + " not recorded"
		}
		return v.String() + " " + of
	}
	return half(l.RMS, "rms") + ", " + half(l.Peak, "peak")
}
