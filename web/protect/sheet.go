package protect

import (
	"strings"

	"largo/core/load"
	"largo/core/protect"
	"largo/core/survey"
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
		set := "not set"
		if l.IsSet {
			set = l.Set.RMS.String() + " rms, " + l.Set.Peak.String() + " peak"
		}
		limits = append(limits, sheetLimit{l.At.String(), strings.Join(load.Tags(l.Boxes), ", "),
			l.Long.Text(), l.Peak.Text(), l.LongIn().Text(), l.PeakIn().Text(), l.RatedOn(), set})
	}
	return limits
}
