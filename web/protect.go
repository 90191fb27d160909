package web

import (
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/protect"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/unit"
)

type protectView struct {
	Outputs []limitView
}

type limitView struct {
	ID, Name, Tag, Port, Arrives, Boxes    string
	Governs, RatedOn                       string
	LongRuler, PeakRuler                   ruler
	Long, Peak, LongIn, PeakIn, Gain, Clip sum
	Form                                   string
	RMSField, PeakField, KnobField         field
	Channel                                int
	Loose                                  []string
}

func (s *Server) viewProtect(p *page) error {
	var v protectView
	for _, l := range survey.Of[protect.Verdict](p.report).Outputs {
		v.Outputs = append(v.Outputs, p.limitView(l))
	}
	p.Body = v
	return nil
}

func (p *page) limitView(l protect.Output) limitView {
	name := l.At.String()
	form := "limiter " + name
	v := limitView{ID: ident(name), Name: name, Tag: l.At.Device, Port: l.At.Port, Arrives: l.Arrives, Governs: l.Governs, RatedOn: l.RatedOn(),
		Long: p.sum(name, l.Long), Peak: p.sum(name, l.Peak), LongIn: p.sum(name, l.LongIn), PeakIn: p.sum(name, l.PeakIn), Gain: p.sum(name, l.Gain), Clip: p.sum(name, l.Clip),
		Form: form, Channel: l.Channel}
	v.Boxes = strings.Join(load.Tags(l.Boxes), ", ")
	v.RMSField = p.Field(form, "rms", "V rms", typed(l.Set.RMS), "")
	v.PeakField = p.Field(form, "peak", "V peak", typed(l.Set.Peak), "")
	v.Loose = p.Loose(form, "rms", "peak")
	down := ""
	if d := l.Device.KnobDown(l.Channel); d != 0 {
		down = typed(unit.Of(d))
	}
	v.KnobField = p.Field("knob "+name, "down", "Knob "+gear.ChannelName(l.Channel)+", dB down", down, "")
	set := func(g unit.Given[unit.Volt]) float64 { return float64(g.Or(0)) }
	v.LongRuler = voltRuler(v.ID+"-long", valueOf(l.Long), set(l.Set.RMS), valueOf(l.Clip), 120, "V rms")
	v.PeakRuler = voltRuler(v.ID+"-peak", valueOf(l.Peak), set(l.Set.Peak), 0, 200, "V peak")
	return v
}

func (s *Server) editLimiter(c *gin.Context) {
	s.edit(c, finding.Protect, "limiter "+c.PostForm("tag")+" "+c.PostForm("port"), func(r rig.Rig, f *form) rig.Edit {
		return rig.SetLimiter{Tag: f.text("tag"), Set: rig.Limiter{Port: f.text("port"),
			RMS: given(f, "rms", unit.ParseVolt), Peak: given(f, "peak", unit.ParseVolt)}}
	})
}

func (s *Server) editKnob(c *gin.Context) {
	s.edit(c, finding.Protect, "knob "+c.PostForm("tag")+" "+c.PostForm("port"), func(r rig.Rig, f *form) rig.Edit {
		down := given(f, "down", unit.ParseDecibel)
		return rig.SetKnob{Tag: f.text("tag"), Set: rig.Knob{Channel: f.number("channel", "channels"), Down: down.Or(0)}}
	})
}
