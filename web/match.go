package web

import (
	"fmt"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/match"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/words"
)

type matchView struct {
	Asks   string
	Wishes []field
	Amps   []ampView
	Active []activeView
}

// ampView is the back of an amplifier with what hangs on it.
type ampView struct {
	Tag, Title, Place string
	Outputs           []outputView
	Pairs             []pairView
}

type outputView struct {
	ID, Port, Arrives, State string
	Name, Full               string // where all of it stands
	Live                     bool
	LoadRuler, PowerRuler    ruler
	Load, Least, Limit       sum
	Power, Ratio, Level      sum
	Boxes                    []boxView
}

type activeView struct {
	Tag, Title, Fed string
	Level           sum
}

type boxView struct {
	Tag                             string
	Continuous, Power, Ratio, Level sum
}

// pairView is the setting of a pair of channels, and the advice on it.
type pairView struct {
	Form, Tag, Name, Set, Reason, Proposal string
	Output, Input                          field
	Pair                                   int
	May, Because                           string
	Buys, Bridged, Now                     sum
	Costs                                  string
	Adopt                                  bool
	Advice                                 bool // something hangs on it
}

func (s *Server) viewMatch(p *page) error {
	r := p.job.Rig
	view := matchView{Asks: words.Capital(match.Asks(r.Policy))}
	view.Wishes = []field{
		p.Choose("wishes", "policy", "Power policy", string(r.Policy), choices(rig.Policies)...),
		p.Choose("wishes", "bridging", "Bridging", string(r.Bridging), choices(rig.Schools)...),
	}
	for i := range r.Devices {
		if m := p.report.Index.ModelAt(i); m.Kind == gear.KindAmplifier {
			view.Amps = append(view.Amps, p.ampView(&r.Devices[i], m))
		}
	}
	for _, a := range survey.Of[match.Verdict](p.report).Active {
		fed := "not fed at line level"
		if a.Fed {
			fed = p.report.Index.Arrives(rig.Ref{Device: a.Tag, Port: "in"})
		}
		m, _ := r.Model(a.Device.Model)
		view.Active = append(view.Active, activeView{a.Tag, m.Title(), fed, p.sum(a.Tag, a.Level)})
	}
	p.Body = view
	return nil
}

func (p *page) ampView(d *rig.Device, m *gear.Model) ampView {
	v := ampView{Tag: d.Tag, Title: m.Title(), Place: d.Place}
	for _, o := range survey.Of[match.Verdict](p.report).Outputs {
		if o.At.Device == d.Tag {
			v.Outputs = append(v.Outputs, p.outputView(o))
		}
	}
	for pair := range m.Amplifier.Pairs() {
		v.Pairs = append(v.Pairs, p.pairView(d, pair))
	}
	return v
}

func (p *page) outputView(o match.Output) outputView {
	name := o.Name()
	v := outputView{ID: ident(name), Name: name, Full: outputHref(p.Job.Slug, o.At), Port: strings.TrimPrefix(o.At.Port, "out "), Arrives: o.Arrives, Live: o.Live, State: "fine",
		Load: p.sum(name, o.Nominal), Least: p.sum(name, o.Least), Limit: p.sum(name, o.Limit), Power: p.sum(name, o.Power), Ratio: p.sum(name, o.Ratio), Level: p.sum(name, o.Level)}
	if len(o.Boxes) == 0 {
		v.State = "empty"
		return v
	}
	if worst := p.report.WorstAt(finding.Match, o.At); worst > finding.Mind {
		v.State = worst.String()
	}
	low, high := match.Band(p.job.Rig.Policy)
	powerText := "not rated"
	if o.Power.Known() {
		powerText = o.Power.Text()
	}
	v.LoadRuler = loadRuler(v.ID+"-load", valueOf(o.Nominal), valueOf(o.Limit))
	v.PowerRuler = ratioRuler(v.ID+"-power", valueOf(o.Ratio), powerText, low, high)
	for _, b := range o.Boxes {
		v.Boxes = append(v.Boxes, boxView{b.Name(), p.sum(b.Name(), b.Continuous), p.sum(b.Name(), b.Power), p.sum(b.Name(), b.Ratio), p.sum(b.Name(), b.Level)})
	}
	return v
}

// valueOf gives a figure's value for drawing; 0 draws nothing.
func valueOf(f reckon.Figure) float64 {
	if !f.Known() {
		return 0
	}
	return f.Value
}

func (p *page) pairView(d *rig.Device, pair int) pairView {
	set := d.PairSetting(pair)
	form := fmt.Sprintf("pair %s %d", d.Tag, pair)
	v := pairView{Form: form, Tag: d.Tag, Name: gear.ChannelName(2*pair) + " " + gear.ChannelName(2*pair+1), Pair: pair, Set: pairText(set),
		Output: p.Choose(form, "output", "Outputs", string(set.Output), choice{Value: string(gear.Separate), Label: "separate"}, choice{Value: string(gear.Bridged), Label: "bridged"}),
		Input:  p.Choose(form, "input", "Inputs", string(set.Input), choice{Value: string(rig.SeparateIn), Label: "separate"}, choice{Value: string(rig.ParallelIn), Label: "parallel"})}
	for _, a := range survey.Of[match.Verdict](p.report).Pairs {
		if a.Tag != d.Tag || a.Pair != pair {
			continue
		}
		place := a.Name()
		v.Advice, v.Reason, v.Proposal, v.Adopt = true, a.Reason, pairText(a.Proposed), a.Proposed != a.Set
		v.May, v.Because = string(a.May), a.Because
		v.Buys, v.Bridged, v.Now = p.sum(place, a.Buys), p.sum(place, a.Bridged), p.sum(place, a.Now)
		v.Costs = strings.Join(a.Costs, "; ")
	}
	return v
}

func pairText(s rig.Pair) string {
	switch {
	case s.Output == gear.Bridged:
		return "bridged"
	case s.Input == rig.ParallelIn:
		return "separate out, parallel in"
	}
	return "separate out, separate in"
}

func (s *Server) editWishes(c *gin.Context) {
	s.edit(c, finding.Match, "wishes", func(r rig.Rig, f *form) rig.Edit {
		return rig.SetWishes{Policy: rig.Policy(f.text("policy")), Bridging: rig.School(f.text("bridging"))}
	})
}

func (s *Server) editPair(c *gin.Context) { s.setPair(c, finding.Match) }

// setPair sets a pair of channels from any stage that shows it.
func (s *Server) setPair(c *gin.Context, at finding.Stage) {
	s.edit(c, at, fmt.Sprintf("pair %s %s", c.PostForm("tag"), c.PostForm("pair")), func(r rig.Rig, f *form) rig.Edit {
		return rig.SetPair{Tag: f.text("tag"), Pair: f.number("pair", "pairs"),
			Set: rig.Pair{Output: gear.Mode(f.text("output")), Input: rig.InputMode(f.text("input"))}}
	})
}

func (s *Server) adoptPair(c *gin.Context) {
	s.edit(c, finding.Match, "adopt", func(r rig.Rig, f *form) rig.Edit {
		report := survey.Survey(r)
		for _, a := range survey.Of[match.Verdict](report).Pairs {
			if a.Tag == f.text("tag") && a.Pair == f.number("pair", "pairs") {
				if e := a.Adopt(report.Index); e != nil {
					return e
				}
			}
		}
		f.fault("", "There is nothing to adopt; the pair is set as proposed.")
		return nil
	})
}
