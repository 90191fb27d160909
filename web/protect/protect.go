// Package protect is the room of protect: where limiters have to stand.
package protect

import (
	"embed"
	"errors"
	"net/url"
	"strings"

	"largo/core/fault"
	"largo/core/finding"
	"largo/core/load"
	"largo/core/protect"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/unit"
	"largo/web/kit"
)

//go:embed *.html *.css
var files embed.FS

// Room is the room of this stage.
var Room = kit.Room{
	Name: string(finding.Protect), Files: files, View: view, Sheet: onSheet,
	Routes: func(r *kit.Routes) {
		r.Edit("/jobs/:job/protect/limiter", readLimiter, "limiter", "tag", "port")
		r.Get("/jobs/:job/protect/run", showRun)
		r.Recording("/jobs/:job/protect/run", showRun)
		r.Edit("/jobs/:job/protect/limits", readLimits, "limits")
		r.Edit("/jobs/:job/protect/knob", kit.ReadKnob, "knob", "tag", "port")
	},
}

type body struct {
	Outputs []output
	HowLow  kit.Field
}

// readLimits reads how low the limiters of the rig are to stand.
func readLimits(_ rig.Rig, f *kit.Form) rig.Edit {
	return rig.SetLimits{Limits: rig.LimitPolicy(f.Text("limits"))}
}

// howLow are the policies as they are chosen from.
func howLow() []kit.Choice {
	list := kit.Choices(rig.LimitPolicies)
	list[0].Label = "the whole rating, or what was tested"
	return list
}

type output struct {
	ID, Name, Tag, Port, Arrives, Boxes           string
	Governs, RatedOn, Heat, Run                   string
	LongRuler, PeakRuler                          kit.Ruler
	Mains, Long, Peak, LongIn, PeakIn, Gain, Clip kit.Sum
	Form                                          string
	RMSField, PeakField, WhyField                 kit.Field
	KnobField                                     kit.Field
	Channel                                       int
	Loose                                         []string
	Steps                                         []step
	FedBy                                         string
	Attack, Release                               kit.Sum
	Timed                                         bool
	SaysField                                     kit.Field
	Meaning                                       *meaning
}

// meaning is what a setting means that was asked about.
type meaning struct {
	Says, Volts, Watts string
	Wrong              bool
}

// step is a limit at a part of the rating, in the units in which it may be set.
type step struct {
	Name                          string
	Volts, Watts, In, Full, Under kit.Sum
}

func view(s *kit.Server, p *kit.Page) error {
	var v body
	for _, l := range survey.Of[protect.Verdict](p.Report).Outputs {
		v.Outputs = append(v.Outputs, outputOf(p, l))
	}
	v.HowLow = p.Choose("limits", "limits", "How low limiters stand", string(p.Rig().Limits), howLow()...)
	p.Body = v
	return nil
}

func outputOf(p *kit.Page, l protect.Output) output {
	name := l.At.String()
	form := "limiter " + name
	v := output{ID: kit.Ident(name), Name: name, Tag: l.At.Device, Port: l.At.Port, Arrives: l.Arrives,
		Governs: l.Governs, RatedOn: l.RatedOn(),
		Long: p.Sum(name, l.Long), Peak: p.Sum(name, l.Peak), LongIn: p.Sum(name, l.LongIn()),
		PeakIn: p.Sum(name, l.PeakIn()),
		Gain:   p.Sum(name, l.Gain()), Clip: p.Sum(name, l.Clip()),
		Form: form, Channel: l.Channel}
	if l.Mains.Key != "" {
		v.Mains = p.Sum(name, l.Mains)
	}
	v.Boxes = strings.Join(load.Tags(l.Hung()), ", ")
	for _, b := range l.Boxes {
		if b.Name() == l.Governs {
			v.Heat = "/bench/new?" + url.Values{"model": {b.Device.Model}}.Encode()
		}
	}
	v.Run = runAt(p.Job.Slug, &l)
	v.WhyField = p.Field(form, "why", "why", "", "")
	v.RMSField = p.Field(form, "rms", "V rms", l.Limiter.RMS.Typed(), "")
	v.PeakField = p.Field(form, "peak", "V peak", l.Limiter.Peak.Typed(), "")
	v.Loose = p.Loose(form, "rms", "peak", "why")
	v.KnobField = p.KnobField("knob "+name, l.Device, l.Channel)
	set := func(g unit.Given[unit.Volt]) float64 { return float64(g.Or(0)) }
	v.FedBy, v.Attack, v.Release = l.FedBy(), p.Sum(name, l.Attack()), p.Sum(name, l.Release())
	v.Timed = l.Attack().Known()
	for _, s := range l.Steps() {
		v.Steps = append(v.Steps, step{s.Name, p.Sum(name, s.Volts), p.Sum(name, s.Watts), p.Sum(name, s.In),
			p.Sum(name, s.Full), p.Sum(name, s.Under)})
	}
	v.askedOf(p, l)
	v.LongRuler = voltRuler(v.ID+"-long", kit.ValueOf(l.Long), set(l.Limiter.RMS), kit.ValueOf(l.Clip()), 120, "V rms")
	v.PeakRuler = voltRuler(v.ID+"-peak", kit.ValueOf(l.Peak), set(l.Limiter.Peak), 0, 200, "V peak")
	return v
}

// askedOf answers what a setting of this output means, where that is asked.
func (v *output) askedOf(p *kit.Page, l protect.Output) {
	asked := p.Gin.Query("says")
	v.SaysField = p.Field("says "+v.Name, "says", "A limiter that says", "", "as 48 V, 97 V peak, +3 dBu, −19 dBFS, 300 W")
	if p.Gin.Query("of") != kit.RefValue(l.At) || strings.TrimSpace(asked) == "" {
		return
	}
	v.SaysField.Value = asked
	m, err := l.Means(asked)
	if err != nil {
		var faults fault.List
		if errors.As(err, &faults) {
			v.SaysField.Fault = faults[0].Say
		}
		return
	}
	v.Meaning = &meaning{Says: m.Says, Wrong: m.Wrong}
	if m.Volts.Known() {
		v.Meaning.Volts, v.Meaning.Watts = m.Volts.Text(), m.Watts.Text()
	}
}

func readLimiter(r rig.Rig, f *kit.Form) rig.Edit {
	return rig.SetLimiter{Tag: f.Text("tag"), Set: rig.Limiter{Port: f.Text("port"),
		RMS: kit.Given(f, "rms", unit.ParseVolt), Peak: kit.Given(f, "peak", unit.ParseVolt)}, Why: f.Text("why")}
}
