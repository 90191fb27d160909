// Package stage says what a stage of the technician's day is: a name, and a
// judge of a rig that gives findings, places with figures and a result of its
// own. Stages know nothing of each other; package survey has the list of them.
package stage

import (
	"sync"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/load"
	"largo/core/order"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/supply"
)

// Stage is one stage of the day.
type Stage struct {
	Name  finding.Stage
	Judge func(*Input) Outcome
	// Stopped is how grave it stands, at the least, while anything of the rig is at
	// stop: nobody energises then, and no level is promised.
	Stopped finding.Gravity
	// Says is the answer in one line, once all stages have judged.
	Says func(Judged) string
}

// Judged is a rig that all stages have judged, as one of them looks at it to say
// its answer.
type Judged struct {
	*Input
	Result   any               // of this stage
	Findings []finding.Finding // of this stage, the gravest first
	All      []finding.Finding // of every stage, the gravest first
	// Figure finds a figure of any stage by its place and key; one that nobody
	// gives is unknown.
	Figure func(place, key string) reckon.Figure
}

// Stopped tells whether anything of the rig, at any stage, is at stop: then
// nothing is fine, and nobody is told to energise.
func (j Judged) Stopped() bool { return finding.Worst(j.All) == finding.Stop }

// Count is how many findings of this stage bear a code.
func (j Judged) Count(code string) int {
	n := 0
	for _, f := range j.Findings {
		if f.Code == code {
			n++
		}
	}
	return n
}

// Input is a rig with what several stages derive from it, each worked out once
// and only when it is asked for. It is shared: stages only read it, at once.
type Input struct {
	Index   *rig.Index
	outputs func() []load.Output
	driven  func() []drive.Output
	order   func() *order.Order
	supply  func() *supply.Tree
}

// NewInput is the input of a rig that has passed its Check.
func NewInput(r rig.Rig) *Input {
	x := rig.NewIndex(r)
	outputs := sync.OnceValue(func() []load.Output { return load.Outputs(x) })
	driven := sync.OnceValue(func() []drive.Output { return drive.Outputs(x, outputs()) })
	return &Input{
		Index:   x,
		outputs: outputs,
		driven:  driven,
		supply:  sync.OnceValue(func() *supply.Tree { return supply.New(x, driven()) }),
		order:   sync.OnceValue(func() *order.Order { return order.New(x) }),
	}
}

// Rig is the rig.
func (in *Input) Rig() rig.Rig { return in.Index.Rig }

// Outputs are the amplifier outputs with what hangs on them.
func (in *Input) Outputs() []load.Output { return in.outputs() }

// Driven are the outputs with what each really gives, as in Outputs.
func (in *Input) Driven() []drive.Output { return in.driven() }

// Supply is the tree that feeds the rig, with what each device takes.
func (in *Input) Supply() *supply.Tree { return in.supply() }

// Order is who waits for whom.
func (in *Input) Order() *order.Order { return in.order() }

// Outcome is what a stage makes of a rig.
type Outcome struct {
	Result   any // of the stage's own type; package survey gives it back by that type
	Findings []finding.Finding
	Places   func() []Place // nil: it has no figures
	Empty    bool           // there is nothing to judge yet
}

// Place is one thing that has figures: an output, a box, a pair, a lead, or
// the whole job. Stages may speak of one place; its figures stand together.
type Place struct {
	Name    string          `json:"name"`
	Figures []reckon.Figure `json:"figures"`
	Whole   bool            `json:"-"` // of the whole job, which stands before its parts
}
