package protect

import (
	"strings"

	"largo/core/load"
	"largo/core/protect"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/unit"
	"largo/web/kit"
)

// sheetLimit is what one output is held to.
type sheetLimit struct {
	Name, Boxes, Long, Peak, RatedOn, HighPass, Set string
}

// like tells whether two rows say the same of their outputs: they are one row then.
func (l sheetLimit) like(of sheetLimit) bool {
	l.Name, l.Boxes = of.Name, of.Boxes
	return l == of
}

// onSheet puts the limiters on the sheet.
func onSheet(p *kit.Page) any {
	var limits []sheetLimit
	for _, l := range survey.Of[protect.Verdict](p.Report).Outputs {
		set := "not recorded"
		if l.Limited {
			set = recorded(l.Limiter)
		}
		row := sheetLimit{l.At.String(), strings.Join(load.Tags(l.Hung()), ", "),
			atBoth(l.Long, l.LongIn()), atBoth(l.Peak, l.PeakIn()), l.RatedOn(), highPass(l), set}
		if n := len(limits); n > 0 && limits[n-1].like(row) {
			limits[n-1].Name += "; " + row.Name
			limits[n-1].Boxes += "; " + row.Boxes
			continue
		}
		limits = append(limits, row)
	}
	return limits
}

// highPass is what the boxes of an output ask for below their band.
func highPass(l protect.Output) string {
	text := ""
	for i := range l.Boxes {
		want, asks := protect.HighPassOf(&l.Boxes[i])
		if !asks {
			continue
		}
		one := "asked for, not known where"
		if want.Known() {
			one = want.String()
		}
		if !strings.Contains(text, one) {
			text = strings.TrimPrefix(text+"; "+one, "; ")
		}
	}
	return text
}

// atBoth is a limit in volts at the output, and in dBu at the input where that is
// known.
func atBoth(volts, input reckon.Figure) string {
	switch {
	case !volts.Known():
		return "not known"
	case !input.Known():
		return volts.Text()
	}
	return volts.Text() + ", " + input.Text()
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
