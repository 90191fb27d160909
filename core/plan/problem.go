package plan

import (
	"context"
	"crypto/sha256"
	"fmt"
	"math"
	"slices"

	"largo/core/drive"
	"largo/core/gear"
	"largo/core/match"
	"largo/core/milp"
	"largo/core/unit"
)

// Problem is what a plan has to solve: boxes to drive, amplifiers to drive
// them with, and every way that the rules allow.
type Problem struct {
	Groups  []Group
	Amps    []Stocked
	Options []Option
	Wishes  Wishes
	Leads   []gear.Holding // speaker leads of stock that nothing uses
	forced  int            // an option that has to be used, counted from 1; 0: none
}

// NewProblem lists every way in which an output of an amplifier may drive
// boxes of a group.
func NewProblem(groups []Group, amps []Stocked, w Wishes) Problem {
	p := Problem{Groups: groups, Amps: amps, Wishes: w}
	for m := range amps {
		if amps[m].Count() <= 0 {
			continue
		}
		for g := range groups {
			for _, mode := range []gear.Mode{gear.Separate, gear.Bridged} {
				for k := 1; k <= len(groups[g].Boxes); k++ {
					o, why := refusal(&amps[m], &groups[g], mode, k, w)
					if why == "" {
						o.Amp, o.Group = m, g
						p.Options = append(p.Options, o)
					}
				}
			}
		}
	}
	return p
}

// The columns of a problem's programme: how often each option is used, then
// how many of each amplifier.
func (p Problem) ampColumn(m int) int { return len(p.Options) + m }

// Program is the problem as a linear programme in whole numbers without a
// cost: every box is driven, channels and stock suffice, mirrors agree (a
// mirrored group is driven once and costs two outputs).
func (p Problem) Program() milp.Program {
	prog := milp.Program{Name: "amplifiers", Columns: make([]milp.Column, 0, len(p.Options)+len(p.Amps))}
	for j, o := range p.Options {
		most := math.Floor(float64(len(p.Groups[o.Group].Boxes)) / float64(o.Boxes))
		least := 0.0
		if p.forced == j+1 {
			least = 1
		}
		prog.Columns = append(prog.Columns, milp.Column{Name: p.optionName(o), Low: least, High: most, Whole: true})
	}
	for m := range p.Amps {
		s := &p.Amps[m]
		most := max(s.Fixed, s.Count()-p.Wishes.Spare)
		prog.Columns = append(prog.Columns,
			milp.Column{Name: fmt.Sprintf("amplifiers %s", s.Model.ID), Low: float64(s.Fixed), High: float64(most),
				Whole: true, First: true})
	}
	for g := range p.Groups {
		row := milp.Row{Name: "boxes " + p.Groups[g].Name, Sense: milp.Exactly, Right: float64(len(p.Groups[g].Boxes))}
		for j, o := range p.Options {
			if o.Group == g {
				row.Entries = append(row.Entries, milp.Entry{Column: j, Value: float64(o.Boxes)})
			}
		}
		prog.Rows = append(prog.Rows, row)
	}
	for m := range p.Amps {
		prog.Rows = append(prog.Rows, p.channelRows(m)...)
	}
	for m := range p.Amps {
		if row, shared := p.supplyRow(m); shared {
			prog.Rows = append(prog.Rows, row)
		}
	}
	if len(p.Wishes.Circuits) > 0 {
		prog.Rows = append(prog.Rows, p.circuitRow())
	}
	return prog
}

// together is what all channels of a model give together at the supply of the
// place, false where each has its own.
func (p Problem) together(m int) (unit.Watt, bool) {
	most := drive.Amp{Model: &p.Amps[m].Model, Supply: p.Wishes.Supply}.Together()
	return unit.Watt(most.Value), most.Known()
}

// supplyRow: what the outputs of a model need at the least, those that are kept among
// them, is no more than its shared supplies give.
func (p Problem) supplyRow(m int) (milp.Row, bool) {
	most, shared := p.together(m)
	if !shared {
		return milp.Row{}, false
	}
	row := milp.Row{Name: "supply " + p.Amps[m].Model.ID, Sense: milp.AtMost}
	for _, held := range p.Amps[m].Held {
		row.Right -= float64(held)
	}
	for j, o := range p.Options {
		if o.Amp == m && o.Needs > 0 {
			row.Entries = append(row.Entries, milp.Entry{Column: j,
				Value: float64(o.Needs) * float64(p.Groups[o.Group].sides())})
		}
	}
	if len(row.Entries) == 0 {
		return milp.Row{}, false
	}
	row.Entries = append(row.Entries, milp.Entry{Column: p.ampColumn(m), Value: -float64(most)})
	return row, true
}

// Weaker is the problem with amplifiers allowed that give less than the policies
// ask: too weak is a price, and no ban. As few boxes as can be get less.
func (p Problem) Weaker() Problem {
	w := p.Wishes
	w.Weak = true
	weaker := NewProblem(p.Groups, p.Amps, w)
	weaker.Leads = p.Leads
	return weaker
}

// Best solves by an aim; where no choice gives all boxes what their policies ask, it
// solves the problem in which some get less, and gives that.
func (p Problem) Best(ctx context.Context, aim Aim, tell func(Progress)) (Problem, Answer) {
	a := p.Solve(ctx, aim, tell)
	if a.X != nil || !a.Proved || p.Wishes.Weak {
		return p, a
	}
	weaker := p.Weaker()
	if b := weaker.Solve(ctx, aim, tell); b.X != nil {
		return weaker, b
	}
	return p, a
}

// weakBoxes is the cost of an output for the boxes that it gives less than their
// policy asks.
func (p Problem) weakBoxes() []float64 {
	cost := make([]float64, len(p.Options)+len(p.Amps))
	for j, o := range p.Options {
		if o.Weak {
			cost[j] = float64(o.Boxes * p.Groups[o.Group].sides())
		}
	}
	return cost
}

func (p Problem) optionName(o Option) string {
	return fmt.Sprintf("%s %s %d on %s", p.Groups[o.Group].Name, o.Mode, o.Boxes, p.Amps[o.Amp].Model.ID)
}

// channelRows: what is used of a model's channels and pairs is there.
func (p Problem) channelRows(m int) []milp.Row {
	s := &p.Amps[m]
	a := s.Model.Amplifier
	channels := milp.Row{Name: "channels " + s.Model.ID, Sense: milp.AtMost, Right: -float64(s.Taken)}
	pairs := milp.Row{Name: "pairs " + s.Model.ID, Sense: milp.AtMost, Right: -float64(s.Cut)}
	for j, o := range p.Options {
		if o.Amp != m {
			continue
		}
		sides := float64(p.Groups[o.Group].sides())
		channels.Entries = append(channels.Entries, milp.Entry{Column: j, Value: sides * float64(o.channels())})
		if o.Mode == gear.Bridged {
			pairs.Entries = append(pairs.Entries, milp.Entry{Column: j, Value: sides})
		}
	}
	channels.Entries = append(channels.Entries, milp.Entry{Column: p.ampColumn(m), Value: -float64(a.Channels)})
	rows := []milp.Row{channels}
	// else it follows from the channels
	if bridges := bridgeable(a); len(pairs.Entries) > 0 && (2*bridges < a.Channels || s.Cut > 0) {
		pairs.Entries = append(pairs.Entries, milp.Entry{Column: p.ampColumn(m), Value: -float64(bridges)})
		rows = append(rows, pairs)
	}
	return rows
}

// circuitRow: all amplifiers together draw no more than all circuits carry.
func (p Problem) circuitRow() milp.Row {
	row := milp.Row{Name: "circuits", Sense: milp.AtMost}
	for _, a := range p.Wishes.Circuits {
		row.Right += float64(a)
	}
	for j, cost := range p.draws() {
		if cost != 0 {
			row.Entries = append(row.Entries, milp.Entry{Column: j, Value: cost})
		}
	}
	return row
}

// draws is the current of each column in A on ordinary music: the idle draw of
// an amplifier, and what each output adds.
func (p Problem) draws() []float64 {
	cost := make([]float64, len(p.Options)+len(p.Amps))
	for j, o := range p.Options {
		t := p.Amps[o.Amp].Model.Draw()
		out := o.Power * match.ProgrammePart * unit.Watt(p.Groups[o.Group].sides())
		cost[j] = float64(t.Current(t.Above(out), p.volts()))
	}
	for m := range p.Amps {
		t := p.Amps[m].Model.Draw()
		cost[p.ampColumn(m)] = float64(t.Current(t.Idle, p.volts()))
	}
	return cost
}

func (p Problem) volts() unit.Volt { return p.Wishes.Volts() }

// unknownWeight is taken for an amplifier whose weight is not known: a heavy
// one's, so that it never seems light (common practice, no source).
const unknownWeight unit.Kilogram = 35

func (s *Stocked) weight() unit.Kilogram { return s.Model.Body.Weight.Or(unknownWeight) }

// perAmp makes costs that only the amplifiers have.
func (p Problem) perAmp(of func(*Stocked) float64) []float64 {
	cost := make([]float64, len(p.Options)+len(p.Amps))
	for m := range p.Amps {
		cost[p.ampColumn(m)] = of(&p.Amps[m])
	}
	return cost
}

func (p Problem) counts() []float64 { return p.perAmp(func(*Stocked) float64 { return 1 }) }
func (p Problem) weights() []float64 {
	return p.perAmp(func(s *Stocked) float64 { return float64(s.weight()) })
}

// hires is the price of each amplifier beyond those owned, as if every one of
// a model cost the same: those owned are free, so a model is split in two
// where both are.
func (p Problem) hires() []float64 {
	return p.perAmp(func(s *Stocked) float64 {
		if s.Owned > 0 {
			return 0
		}
		return float64(s.Price.Or(0))
	})
}

// goal is one cost that is made least, before the next is looked at.
type goal struct {
	cost []float64
	step float64 // all its values are multiples of it; 0: not known
}

// goals are the costs of an aim in their order; where weaker amplifiers are allowed
// the boxes that get less come first.
func (p Problem) goals(aim Aim) []goal {
	if p.Wishes.Weak {
		return append([]goal{{p.weakBoxes(), 1}}, p.goalsOf(aim)...)
	}
	return p.goalsOf(aim)
}

// goalsOf are the costs of an aim alone.
func (p Problem) goalsOf(aim Aim) []goal {
	count := goal{p.counts(), 1}
	weight := goal{p.weights(), stepOf(p.weights())}
	switch aim {
	case Lightest:
		return []goal{weight, count}
	case LeastDraw:
		return []goal{{p.draws(), 0}, count}
	case LeastHire:
		return []goal{{p.hires(), stepOf(p.hires())}, count, weight}
	}
	return []goal{count, weight}
}

// stepOf is the largest hundredth-multiple that divides all costs, 0 when they
// are finer than a hundredth.
func stepOf(costs []float64) float64 {
	var all int64
	for _, c := range costs {
		h := math.Round(c * 100)
		if math.Abs(h/100-c) > 1e-9 {
			return 0
		}
		for a := int64(h); a != 0; {
			all, a = a, all%a
		}
	}
	return float64(all) / 100
}

// Progress is how far the search for one aim has come.
type Progress struct {
	Aim   Aim
	Best  int     // amplifiers of the best plan so far, 0 when there is none
	Nodes int     // branches looked at
	Gap   float64 // how far the best may be off, as a share of its cost
}

// Answer is the best choice for one aim, or word that there is none.
type Answer struct {
	Aim    Aim
	X      []float64 // by column; nil: none
	Proved bool
	Gap    float64 // how far it may be off where it is not proved
	Nodes  int
	Full   bool // the search ended because its memory was spent
	Spent  bool // or because the time that one search may take was
}

// Off says how far an answer may be from the best.
func (a Answer) Off() string {
	switch {
	case a.Proved:
		return "proved best"
	case a.Full:
		return "not proved: the search has spent its memory and ends here; ask for fewer models, or keep some outputs " +
			"as they are"
	case a.Spent && !math.IsInf(a.Gap, 1):
		return fmt.Sprintf("not proved: the longest search there is has ended, and it may be off by up to %.1f %%", 100*a.Gap)
	case a.Spent:
		return "not proved: the longest search there is has ended, and how far it may be off is not known"
	case math.IsInf(a.Gap, 1):
		return "not proved; how far it may be off is not known yet"
	}
	return fmt.Sprintf("not proved; it may be off by up to %.1f %%", 100*a.Gap)
}

// Key tells one problem and aim from every other: a digest of all that the
// search reads, so that an answer can be remembered by it.
func (p Problem) Key(aim Aim) [sha256.Size]byte {
	sum := sha256.New()
	put := func(values ...any) {
		for _, v := range values {
			fmt.Fprintf(sum, "%#v;", v)
		}
	}
	put(aim, p.forced)
	for _, o := range p.Options {
		put(o)
	}
	prog := p.Program()
	for _, c := range prog.Columns {
		put(c)
	}
	for _, r := range prog.Rows {
		put(r)
	}
	for _, s := range p.goals(aim) {
		put(s)
	}
	for _, g := range p.Groups {
		put(len(g.Boxes), len(g.Mirror))
	}
	return [sha256.Size]byte(sum.Sum(nil))
}

// Solve makes a plan best by an aim, exactly as far as the context lets it.
func (p Problem) Solve(ctx context.Context, aim Aim, tell func(Progress)) Answer {
	switch aim {
	case NoneBridged:
		return p.without(func(o Option) bool { return o.Mode == gear.Bridged }).solve(ctx, aim, tell).over(p)
	case MostHeadroom:
		return p.most(ctx, tell)
	}
	return p.solve(ctx, aim, tell).Answer
}

// partial is the answer to a problem with some options left out.
type partial struct {
	Answer
	kept Problem
}

// over writes the answer in the columns of the whole problem.
func (a partial) over(whole Problem) Answer {
	if a.X == nil {
		return a.Answer
	}
	x := make([]float64, len(whole.Options)+len(whole.Amps))
	for j, o := range a.kept.Options {
		x[slices.Index(whole.Options, o)] = a.X[j]
	}
	copy(x[len(whole.Options):], a.X[len(a.kept.Options):])
	a.Answer.X = x
	return a.Answer
}

// without leaves options out.
func (p Problem) without(out func(Option) bool) Problem {
	p.Options = slices.DeleteFunc(slices.Clone(p.Options), out)
	return p
}

// roundings are conditions that follow from the others for whole numbers alone:
// seven boxes at most two on an output take four outputs, not three and a half.
// Each row of boxes, Σ k y = n, is divided by a number d and rounded up, Σ ⌈k/d⌉ y
// ≥ ⌈n/d⌉ (V. Chvátal, Discrete Mathematics 4, 1973; from memory).
func (p Problem) roundings() []milp.Row {
	var rows []milp.Row
	for g := range p.Groups {
		n, most := len(p.Groups[g].Boxes), 0
		for _, o := range p.Options {
			if o.Group == g {
				most = max(most, o.Boxes)
			}
		}
		for d := 2; d <= most; d++ {
			if n%d == 0 {
				continue
			}
			up := milp.Row{Name: "whole outputs", Sense: milp.AtLeast, Right: float64((n + d - 1) / d)}
			for j, o := range p.Options {
				if o.Group != g {
					continue
				}
				up.Entries = append(up.Entries, milp.Entry{Column: j, Value: float64((o.Boxes + d - 1) / d)})
			}
			rows = append(rows, up)
		}
	}
	return rows
}

func (p Problem) solve(ctx context.Context, aim Aim, tell func(Progress)) partial {
	prog := p.Program()
	prog.Rows = append(prog.Rows, p.roundings()...)
	a := Answer{Aim: aim, Proved: true}
	for _, s := range p.goals(aim) {
		for j := range prog.Columns {
			prog.Columns[j].Cost = s.cost[j]
		}
		search := milp.Search{Known: a.X, Step: s.step}
		if a.X == nil {
			search.Known = p.first(prog, s.cost)
		}
		if tell != nil {
			search.Progress = func(r milp.Result) { tell(Progress{aim, p.amplifiers(r.X), a.Nodes + r.Nodes, r.Gap()}) }
		}
		r := milp.Solve(ctx, prog, search)
		a.Nodes += r.Nodes
		a.Full = a.Full || r.Full
		if r.X == nil {
			a.X, a.Proved, a.Gap = nil, r.Proved, r.Gap()
			break
		}
		a.X = r.X
		if a.Proved = a.Proved && r.Proved; !r.Proved {
			a.Gap = max(a.Gap, r.Gap())
			break
		}
		prog.Rows = append(prog.Rows, keepAt(s, r.Value, len(prog.Rows)))
	}
	return partial{a, p}
}

// keepAt is the condition that a later goal loses nothing of an earlier one.
func keepAt(s goal, value float64, n int) milp.Row {
	row := milp.Row{Name: fmt.Sprintf("no worse in aim %d", n), Sense: milp.AtMost, Right: value}
	if s.step == 0 { // a cost of uneven figures is kept to a rounding
		row.Right += 1e-7 * math.Max(1, math.Abs(value))
	}
	for j, c := range s.cost {
		if c != 0 {
			row.Entries = append(row.Entries, milp.Entry{Column: j, Value: c})
		}
	}
	return row
}

func (p Problem) amplifiers(x []float64) (n int) {
	if x == nil {
		return 0
	}
	for _, v := range x[len(p.Options):] {
		n += int(math.Round(v))
	}
	return n
}

// most makes the least power over rating of any box as large as it can be:
// the options below a floor are left out, and the floor is raised while all
// boxes are still driven.
func (p Problem) most(ctx context.Context, tell func(Progress)) Answer {
	var floors []float64
	for _, o := range p.Options {
		floors = append(floors, o.Ratio)
	}
	slices.Sort(floors)
	floors = slices.Compact(floors)
	best := p.solve(ctx, MostHeadroom, tell)
	nodes := best.Nodes
	low, high := 0, len(floors)
	for best.X != nil && low+1 < high && ctx.Err() == nil {
		mid := (low + high) / 2
		a := p.without(func(o Option) bool { return o.Ratio < floors[mid] }).solve(ctx, MostHeadroom, tell)
		nodes += a.Nodes
		switch {
		case a.X != nil:
			best, low = a, mid
		case a.Proved:
			high = mid
		default:
			best.Proved, best.Gap = false, math.Inf(1)
			high = low + 1
		}
	}
	best.Nodes = nodes
	return best.over(p)
}

// Judged is the programme with one cost that stands for an aim's first two,
// for any solver to check: the second is scaled so that all of it weighs less
// than one step of the first.
func (p Problem) Judged(aim Aim) milp.Program {
	prog := p.Program()
	goals := p.goals(aim)
	second := 0.0
	for j, c := range prog.Columns {
		second += goals[1].cost[j] * c.High
	}
	scale := 1 / (second + 1)
	if goals[0].step > 0 {
		scale *= goals[0].step
	}
	for j := range prog.Columns {
		prog.Columns[j].Cost = goals[0].cost[j] + scale*goals[1].cost[j]
	}
	return prog
}
