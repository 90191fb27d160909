// Package survey runs every stage over a rig and gathers what they say.
package survey

import (
	"slices"
	"sync"

	"largo/core/brief"
	"largo/core/finding"
	"largo/core/load"
	"largo/core/match"
	"largo/core/order"
	"largo/core/protect"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/start"
	"largo/core/strike"
	"largo/core/wire"
)

// Report is everything that follows from a rig.
type Report struct {
	Index    *rig.Index
	Brief    brief.Verdict
	Match    match.Verdict
	Leads    []wire.Lead
	Lines    []wire.LineTest
	Protect  []protect.Output
	Start    start.Plan
	Strike   strike.Plan
	Findings []finding.Finding // the gravest first

	places func() []Place // asked for often, listed once
}

// Survey derives everything from a rig that has passed its Check. The stages
// know nothing of each other, so the heaviest runs beside the rest.
func Survey(r rig.Rig) *Report {
	x := rig.NewIndex(r)
	outs := load.Outputs(x)
	p := &Report{Index: x}
	var found [7][]finding.Finding
	var beside sync.WaitGroup
	beside.Go(func() { p.Match, found[1] = match.Judge(x, outs) })

	p.Brief, found[0] = brief.Judge(r)
	p.Leads, found[2] = wire.Judge(x, outs)
	p.Lines, found[3] = wire.LineTests(x, outs)
	p.Protect, found[4] = protect.Judge(x, outs)
	o := order.New(x)
	p.Start, found[5] = start.Judge(x, o)
	p.Strike, found[6] = strike.Judge(x, o)
	beside.Wait()
	p.Findings = slices.Concat(found[:]...)
	finding.Sort(p.Findings)
	p.places = sync.OnceValue(p.listPlaces)
	return p
}

// Rig is the rig that was surveyed.
func (p *Report) Rig() rig.Rig { return p.Index.Rig }

// At lists the findings of one stage.
func (p *Report) At(s finding.Stage) []finding.Finding {
	var fs []finding.Finding
	for _, f := range p.Findings {
		if f.Stage == s {
			fs = append(fs, f)
		}
	}
	return fs
}

// Worst is the gravest finding of a stage, 0 when it is fine.
func (p *Report) Worst(s finding.Stage) finding.Gravity { return finding.Worst(p.At(s)) }

// Empty tells whether a stage has nothing to judge yet.
func (p *Report) Empty(s finding.Stage) bool {
	switch s {
	case finding.Match:
		return p.Match.Passive == 0 && len(p.Match.Active) == 0
	case finding.Wire:
		return len(p.Rig().Devices) == 0
	case finding.Protect:
		return len(p.Protect) == 0
	case finding.Start, finding.Strike:
		return len(p.Start.Steps) == 0
	}
	return false
}

// Finding finds one by its ID.
func (p *Report) Finding(id string) (finding.Finding, bool) {
	for _, f := range p.Findings {
		if f.ID() == id {
			return f, true
		}
	}
	return finding.Finding{}, false
}

// Place is one thing that has figures: an output, a box, a pair, a lead, or
// the whole job.
type Place struct {
	Name    string          `json:"name"`
	Figures []reckon.Figure `json:"figures"`
}

// Places lists all figures of a rig by what they are of. The list is shared:
// whoever gets it only reads.
func (p *Report) Places() []Place { return p.places() }

func (p *Report) listPlaces() []Place {
	places := []Place{{"job", append(p.Brief.Figures(), p.Match.Level, p.Match.Average, p.Match.Spare, p.Match.Subs)},
		{"start", []reckon.Figure{p.Start.Total}}, {"strike", []reckon.Figure{p.Strike.Total}}}
	limits := make(map[rig.Ref]protect.Output, len(p.Protect))
	for _, l := range p.Protect {
		limits[l.At] = l
	}
	lines := make(map[rig.Ref]wire.LineTest, len(p.Lines))
	for _, t := range p.Lines {
		lines[t.At] = t
	}
	for _, o := range p.Match.Outputs {
		fs := o.Figures()
		if t, ok := lines[o.At]; ok {
			fs = append(fs, t.Low, t.High)
		}
		if l, ok := limits[o.At]; ok {
			fs = append(fs, l.Figures()...)
		}
		places = append(places, Place{o.Name(), fs})
		for _, b := range o.Boxes {
			places = append(places, Place{b.Name(), b.Figures()})
		}
	}
	for _, a := range p.Match.Active {
		places = append(places, Place{a.Tag, []reckon.Figure{a.Level}})
	}
	for _, pair := range p.Match.Pairs {
		places = append(places, Place{PairName(pair), pair.Figures()})
	}
	for _, l := range p.Leads {
		places = append(places, Place{LeadName(l), []reckon.Figure{l.Resistance, l.Loss}})
	}
	return places
}

// PairName names the figures of a pair of channels.
func PairName(p match.Pair) string {
	return rig.Ref{Device: p.Tag, Port: "pair"}.String() + " " + string(rune('1'+p.Pair))
}

// LeadName names the figures of a speaker lead by where it ends.
func LeadName(l wire.Lead) string { return "lead to " + l.Link.To.String() }

// Figure finds one figure by the name of its place and its key.
func (p *Report) Figure(place, key string) (reckon.Figure, bool) {
	for _, at := range p.Places() {
		if at.Name != place {
			continue
		}
		for _, f := range at.Figures {
			if f.Key == key && key != "" {
				return f, true
			}
		}
	}
	return reckon.Figure{}, false
}
