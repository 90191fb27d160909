// Package match is the room of match: which amplifier drives which boxes, how
// hard, and what else would do. Beside it lie the plan of the best amplifiers, one
// output in full, what if, and the adviser for any amplifier and any boxes.
package match

import (
	"embed"
	"fmt"
	"strings"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/words"
	"largo/web/kit"
)

//go:embed *.html *.css *.js
var files embed.FS

// Room is the room of this stage, with a planner of its own.
func Room() kit.Room {
	plans := newPlanner()
	return kit.Room{
		Name: string(finding.Match), Files: files, View: view, Sheet: onSheet,
		Routes: func(r *kit.Routes) {
			r.Edit("/jobs/:job/match/wishes", readWishes, "wishes")
			r.Edit("/jobs/:job/match/policies", readPolicies, "policies")
			r.Edit("/jobs/:job/match/pair", kit.ReadPair, "pair", "tag", "pair")
			r.Edit("/jobs/:job/match/adopt", adoptPair, "adopt")
			r.Get("/jobs/:job/match/plan", plans.show)
			r.Post("/jobs/:job/match/plan", plans.take)
			r.Get("/jobs/:job/match/plan/progress", plans.progress)
			r.Get("/jobs/:job/match/output", showOutput)
			r.Get("/jobs/:job/match/whatif", showWhatIf)
			r.Get("/advise", showAdvice)
		},
		Finds: []kit.FindItem{
			{Label: "Change the power policy or bridging", Note: "act", Href: "/match#wishes-policy"},
			{Label: "Plan the best amplifiers", Note: "act", Href: "/match/plan"},
			{Label: "What if: distance, boxes, power", Note: "act", Href: "/match/whatif"},
		},
	}
}

type body struct {
	Asks   string
	Wishes []kit.Field
	Amps   []ampView
	Active []activeView
	// policies of parts of the rig
	Policies    []kit.Field
	OwnPolicies bool
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
	LoadRuler, PowerRuler    kit.Ruler
	Load, Least, Limit       kit.Sum
	Power, Ratio, Level      kit.Sum
	Boxes                    []boxView
}

type activeView struct {
	Tag, Title, Fed string
	Level           kit.Sum
}

type boxView struct {
	Tag                             string
	Continuous, Power, Ratio, Level kit.Sum
}

// pairView is the setting of a pair of channels, and the advice on it.
type pairView struct {
	Form, Tag, Name, Set, Reason, Proposal string
	Output, Input                          kit.Field
	Pair                                   int
	May, Because                           string
	Buys, Bridged, Now                     kit.Sum
	Costs, Try                             string
	Adopt                                  bool
	Advice                                 bool // something hangs on it
}

// readPolicies reads which parts of the rig have a power policy of their own.
func readPolicies(_ rig.Rig, f *kit.Form) rig.Edit {
	e := rig.SetPolicies{Policies: map[rig.Part]rig.Policy{}}
	for _, part := range rig.Parts {
		if own := f.Text(string(part)); own != "" {
			e.Policies[part] = rig.Policy(own)
		}
	}
	return e
}

func view(s *kit.Server, p *kit.Page) error {
	r := p.Rig()
	view := body{Asks: words.Capital(match.Asks(r.Policy))}
	view.Wishes = []kit.Field{
		p.Choose("wishes", "policy", "Power policy", string(r.Policy), kit.Choices(rig.Policies)...),
		p.Choose("wishes", "bridging", "Bridging", string(r.Bridging), kit.Choices(rig.Schools)...),
	}
	for _, part := range rig.Parts {
		view.Policies = append(view.Policies, p.Choose("policies", string(part), words.Capital(string(part)),
			string(r.Policies[part]), append([]kit.Choice{{Value: "", Label: "as the rig"}}, kit.Choices(rig.Policies)...)...))
	}
	view.OwnPolicies = len(r.Policies) > 0
	for i := range r.Devices {
		if m := p.Report.Index.ModelAt(i); m.Kind == gear.KindAmplifier {
			view.Amps = append(view.Amps, ampOf(p, &r.Devices[i], m))
		}
	}
	for _, a := range survey.Of[match.Verdict](p.Report).Active {
		fed := "not fed at line level"
		if a.Arrives != "" {
			fed = a.Arrives
		}
		m, _ := r.Model(a.Device.Model)
		view.Active = append(view.Active, activeView{a.Tag, m.Title(), fed, p.Sum(a.Tag, a.Level)})
	}
	p.Body = view
	return nil
}

func ampOf(p *kit.Page, d *rig.Device, m *gear.Model) ampView {
	v := ampView{Tag: d.Tag, Title: m.Title(), Place: d.Place}
	for _, o := range survey.Of[match.Verdict](p.Report).Outputs {
		if o.At.Device == d.Tag {
			v.Outputs = append(v.Outputs, outputOf(p, o))
		}
	}
	for pair := range m.Amplifier.Pairs() {
		v.Pairs = append(v.Pairs, pairOf(p, d, pair))
	}
	return v
}

func outputOf(p *kit.Page, o match.Output) outputView {
	name := o.Name()
	v := outputView{ID: kit.Ident(name), Name: name, Full: outputHref(p.Job.Slug, o.At),
		Port: strings.TrimPrefix(o.At.Port, "out "), Arrives: o.Arrives, Live: o.Live, State: "fine",
		Load: p.Sum(name, o.Nominal), Least: p.Sum(name, o.Least()), Limit: p.Sum(name, o.Limit), Power: p.Sum(name, o.Power),
		Ratio: p.Sum(name, o.Ratio), Level: p.Sum(name, o.Level)}
	if len(o.Boxes) == 0 {
		v.State = "empty"
		return v
	}
	if worst := p.Report.WorstAt(finding.Match, o.At); worst > finding.Mind {
		v.State = worst.String()
	}
	low, high := match.Band(match.PolicyAt(p.Rig(), o.Hung()[0]))
	powerText := "not rated"
	if o.Power.Known() {
		powerText = o.Power.Text()
	}
	v.LoadRuler = loadRuler(v.ID+"-load", kit.ValueOf(o.Nominal), kit.ValueOf(o.Limit))
	v.PowerRuler = ratioRuler(v.ID+"-power", kit.ValueOf(o.Ratio), powerText, low, high)
	for i := range o.Boxes {
		b := &o.Boxes[i]
		v.Boxes = append(v.Boxes, boxView{b.Name(), p.Sum(b.Name(), b.Continuous()), p.Sum(b.Name(), b.Offer()),
			p.Sum(b.Name(), b.Ratio), p.Sum(b.Name(), b.Level)})
	}
	return v
}

func pairOf(p *kit.Page, d *rig.Device, pair int) pairView {
	set := d.PairSetting(pair)
	form := fmt.Sprintf("pair %s %d", d.Tag, pair)
	v := pairView{Form: form, Tag: d.Tag, Name: gear.ChannelName(2*pair) + " " + gear.ChannelName(2*pair+1), Pair: pair,
		Set: pairText(set),
		Output: p.Choose(form, "output", "Outputs", string(set.Output),
			kit.Choice{Value: string(gear.Separate), Label: "separate"},
			kit.Choice{Value: string(gear.Bridged), Label: "bridged"}),
		Input: p.Choose(form, "input", "Inputs", string(set.Input),
			kit.Choice{Value: string(rig.SeparateIn), Label: "separate"},
			kit.Choice{Value: string(rig.ParallelIn), Label: "parallel"})}
	for _, a := range survey.Of[match.Verdict](p.Report).Pairs() {
		if a.Tag != d.Tag || a.Pair != pair {
			continue
		}
		place := a.Name()
		v.Advice, v.Reason, v.Proposal, v.Adopt = true, a.Reason, pairText(a.Proposed), a.Proposed != a.Set
		v.May, v.Because = string(a.May), a.Because
		v.Buys, v.Bridged, v.Now = p.Sum(place, a.Buys), p.Sum(place, a.Bridged), p.Sum(place, a.Now)
		v.Costs, v.Try = strings.Join(a.Costs(), "; "), adviseHref(p.Rig(), d, a.Boxes)
	}
	return v
}

func readWishes(r rig.Rig, f *kit.Form) rig.Edit {
	return rig.SetWishes{Policy: rig.Policy(f.Text("policy")), Bridging: rig.School(f.Text("bridging"))}
}

func adoptPair(r rig.Rig, f *kit.Form) rig.Edit {
	report := survey.Survey(r)
	for _, a := range survey.Of[match.Verdict](report).Pairs() {
		if a.Tag == f.Text("tag") && a.Pair == f.Number("pair", "pairs") {
			if e := a.Adopt(report.Index); e != nil {
				return e
			}
		}
	}
	f.Fault("", "There is nothing to adopt; the pair is set as proposed.")
	return nil
}

// pairText says how a pair of channels is set.
func pairText(s rig.Pair) string {
	switch {
	case s.Output == gear.Bridged:
		return "bridged"
	case s.Input == rig.ParallelIn:
		return "separate out, parallel in"
	}
	return "separate out, separate in"
}
