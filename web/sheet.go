package web

import (
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/match"
	"largo/core/order"
	"largo/core/protect"
	"largo/core/rig"
	"largo/core/start"
	"largo/core/strike"
	"largo/core/survey"
)

// sheetView is the page for the crew's hands.
type sheetView struct {
	Title, Facts, Mains, Wanted string
	Revision                    int
	Amps                        []sheetAmp
	Limits                      []sheetLimit
	Up, Down                    []order.Step
	UpTotal, DownTotal          string
	Stops                       []finding.Finding
	Mends                       int
}

type sheetAmp struct{ Tag, Title, Place, Setting, Knobs, Drives string }

type sheetLimit struct {
	Name, Boxes, Long, Peak, LongIn, PeakIn, RatedOn, Set string
}

func (s *Server) sheet(c *gin.Context) {
	p, err := s.aside(c, "Sheet")
	if err != nil {
		s.fail(c, err)
		return
	}
	j := p.job
	b := j.Rig.Brief
	v := sheetView{Title: b.Title, Facts: strings.Join(nonEmpty(b.Place, facts(b)), " · "), Mains: b.Mains, Revision: j.Number,
		Up: survey.Of[start.Verdict](p.report).Steps, Down: survey.Of[strike.Verdict](p.report).Steps, UpTotal: survey.Of[start.Verdict](p.report).Total.Text(), DownTotal: survey.Of[strike.Verdict](p.report).Total.Text()}
	if b.Wanted.Known() {
		v.Wanted = b.Wanted.String() + " LAeq at " + b.Distance.String()
	}
	for i, d := range j.Rig.Devices {
		if m := p.report.Index.ModelAt(i); m.Kind == gear.KindAmplifier {
			v.Amps = append(v.Amps, p.sheetAmp(d, m))
		}
	}
	for _, l := range survey.Of[protect.Verdict](p.report).Outputs {
		v.Limits = append(v.Limits, sheetLimitOf(l))
	}
	for _, f := range p.report.Findings {
		switch f.Gravity {
		case finding.Stop:
			v.Stops = append(v.Stops, f)
		case finding.Mend:
			v.Mends++
		}
	}
	p.Body = v
	s.render(c, http.StatusOK, "sheet", p)
}

func nonEmpty(parts ...string) []string {
	var out []string
	for _, s := range parts {
		if s != "" {
			out = append(out, s)
		}
	}
	return out
}

func (p *page) sheetAmp(d rig.Device, m *gear.Model) sheetAmp {
	a := sheetAmp{Tag: d.Tag, Title: m.Title(), Place: d.Place, Knobs: "fully up"}
	var settings, knobs, drives []string
	for pair := range m.Amplifier.Pairs() {
		settings = append(settings, gear.ChannelName(2*pair)+gear.ChannelName(2*pair+1)+": "+pairText(d.PairSetting(pair)))
	}
	for ch := range m.Amplifier.Channels {
		if down := d.KnobDown(ch); down != 0 {
			knobs = append(knobs, gear.ChannelName(ch)+" −"+down.String())
		}
	}
	if len(knobs) > 0 {
		a.Knobs = strings.Join(knobs, ", ")
		if len(knobs) < m.Amplifier.Channels {
			a.Knobs += "; others fully up"
		}
	}
	for _, o := range survey.Of[match.Verdict](p.report).Outputs {
		if o.At.Device == d.Tag && len(o.Boxes) > 0 {
			drives = append(drives, strings.TrimPrefix(o.At.Port, "out ")+": "+strings.Join(load.Tags(o.Output.Boxes), ", ")+" ("+o.Nominal.Text()+")")
		}
	}
	a.Setting, a.Drives = strings.Join(settings, "; "), strings.Join(drives, "; ")
	return a
}

func sheetLimitOf(l protect.Output) sheetLimit {
	set := "not set"
	if l.IsSet {
		set = l.Set.RMS.String() + " rms, " + l.Set.Peak.String() + " peak"
	}
	return sheetLimit{l.At.String(), strings.Join(load.Tags(l.Boxes), ", "), l.Long.Text(), l.Peak.Text(), l.LongIn.Text(), l.PeakIn.Text(), l.RatedOn(), set}
}
