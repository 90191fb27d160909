// Package survey runs every stage of the day over a rig and gathers what they
// say. A stage is added by one line in its list.
package survey

import (
	"fmt"
	"runtime/debug"
	"slices"
	"sync"

	"largo/core/brief"
	"largo/core/feed"
	"largo/core/finding"
	"largo/core/level"
	"largo/core/match"
	"largo/core/protect"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/stage"
	"largo/core/start"
	"largo/core/strike"
	"largo/core/wire"
)

// Stages are the stages that work, in the order of the day. Whatever lists
// stages lists these.
var Stages = []stage.Stage{brief.Stage, match.Stage, wire.Stage, feed.Stage, level.Stage, protect.Stage, start.Stage,
	strike.Stage}

// Report is everything that follows from a rig.
type Report struct {
	Index    *rig.Index
	Findings []finding.Finding // the gravest first
	// Broken says why a stage could not judge the rig, with its stack, by stage:
	// a fault in Largo, for the log.
	Broken map[finding.Stage]string

	stages   []stage.Stage
	outcomes []stage.Outcome // as in stages
	input    *stage.Input
	places   func() []stage.Place
}

// Input is the rig with what all stages derive from it.
func (p *Report) Input() *stage.Input { return p.input }

// Survey derives everything from a rig that has passed its Check. The stages
// know nothing of each other, so they run beside each other; one that fails says
// so by a finding and leaves the others alone.
func Survey(r rig.Rig) *Report { return run(r, Stages) }

func run(r rig.Rig, stages []stage.Stage) *Report {
	in := stage.NewInput(r)
	p := &Report{Index: in.Index, stages: stages, input: in, outcomes: make([]stage.Outcome, len(stages))}
	broken := make([]string, len(stages))
	var all sync.WaitGroup
	for i, s := range stages {
		all.Go(func() { p.outcomes[i], broken[i] = judge(s, in) })
	}
	all.Wait()
	for i, s := range stages {
		if broken[i] != "" {
			if p.Broken == nil {
				p.Broken = map[finding.Stage]string{}
			}
			p.Broken[s.Name] = broken[i]
		}
		p.Findings = append(p.Findings, p.outcomes[i].Findings...)
	}
	finding.Sort(p.Findings)
	p.places = sync.OnceValue(p.listPlaces)
	return p
}

// judge runs one stage. A panic of it becomes a finding at stop: nobody knows
// what the stage would have said.
func judge(s stage.Stage, in *stage.Input) (o stage.Outcome, broken string) {
	defer func() {
		if p := recover(); p != nil {
			broken = fmt.Sprintf("%v\n%s", p, debug.Stack())
			o = stage.Outcome{Findings: []finding.Finding{{
				Code: "survey.stage-failed", Stage: s.Name, Danger: finding.Gear, Gravity: finding.Stop,
				What:   s.Name.Title() + " cannot be judged: a fault in Largo.",
				Why:    "Nobody knows what this stage would say of the rig, so do not rely on it.",
				Advice: "Undo the last edit, and keep the rig file for whoever mends Largo.",
			}}}
		}
	}()
	return s.Judge(in), ""
}

// Of gives the result of a stage by its type, its zero value where no stage has
// one or the stage has failed.
func Of[T any](p *Report) (result T) {
	for _, o := range p.outcomes {
		if r, ok := o.Result.(T); ok {
			return r
		}
	}
	return result
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

// Worst is how grave a stage stands, 0 when it is fine: by its gravest finding, and
// by what it is while another is at stop.
func (p *Report) Worst(name finding.Stage) finding.Gravity {
	worst := finding.Worst(p.At(name))
	if finding.Worst(p.Findings) < finding.Stop {
		return worst
	}
	for _, s := range p.stages {
		if s.Name == name {
			worst = max(worst, s.Stopped)
		}
	}
	return worst
}

// Empty tells whether a stage has nothing to judge yet.
func (p *Report) Empty(name finding.Stage) bool {
	for i, s := range p.stages {
		if s.Name == name {
			return p.outcomes[i].Empty
		}
	}
	return false
}

// Says is a stage's answer in one line. That of a stage that failed is that it
// failed.
func (p *Report) Says(name finding.Stage) string {
	fs := p.At(name)
	if p.Broken[name] != "" {
		return fs[0].What
	}
	for i, s := range p.stages {
		if s.Name == name && s.Says != nil {
			return s.Says(stage.Judged{Input: p.input, Result: p.outcomes[i].Result, Findings: fs, All: p.Findings,
				Figure: p.figureOf})
		}
	}
	return ""
}

// Answer is what a stage says of a rig in one line.
type Answer struct {
	Stage finding.Stage   `json:"stage"`
	Worst finding.Gravity `json:"worst"`
	Says  string          `json:"says"`
}

// Answers are the answers of all stages, in the order of the day.
func (p *Report) Answers() []Answer {
	list := make([]Answer, len(p.stages))
	for i, s := range p.stages {
		list[i] = Answer{s.Name, p.Worst(s.Name), p.Says(s.Name)}
	}
	return list
}

// figureOf finds a figure, unknown where no stage gives it.
func (p *Report) figureOf(place, key string) reckon.Figure {
	if f, known := p.Figure(place, key); known {
		return f
	}
	return reckon.Unknown(key, key, key, "nothing says it")
}

// Gravest is the gravest finding of all, where something has to be done about
// it.
func (p *Report) Gravest() (finding.Finding, bool) {
	if len(p.Findings) == 0 || p.Findings[0].Gravity <= finding.Mind {
		return finding.Finding{}, false
	}
	return p.Findings[0], true
}

// WorstAt is the gravest finding of a stage at one place, 0 when it is fine.
func (p *Report) WorstAt(s finding.Stage, at rig.Ref) finding.Gravity {
	var worst finding.Gravity
	for _, f := range p.Findings {
		if f.Stage == s && f.At == at {
			worst = max(worst, f.Gravity)
		}
	}
	return worst
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

// Places lists all figures of a rig by what they are of, the whole job first.
// The list is shared: whoever gets it only reads.
func (p *Report) Places() []stage.Place { return p.places() }

// listPlaces puts the figures of all stages together: what several say of one
// place stands there in their order.
func (p *Report) listPlaces() []stage.Place {
	type key struct {
		whole bool
		name  string
	}
	var whole, parts []stage.Place
	at := map[key]int{}
	for _, o := range p.outcomes {
		if o.Places == nil {
			continue
		}
		for _, place := range o.Places() {
			list := &parts
			if place.Whole {
				list = &whole
			}
			k := key{place.Whole, place.Name}
			if i, known := at[k]; known {
				(*list)[i].Figures = slices.Concat((*list)[i].Figures, place.Figures)
				continue
			}
			at[k] = len(*list)
			*list = append(*list, place)
		}
	}
	return append(whole, parts...)
}

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
