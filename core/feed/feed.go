// Package feed is the mains: what every circuit carries at rest, with ordinary programme,
// with dense music and in a burst, against what it may; earth, residual current, leads, and
// what is not known of them.
package feed

import (
	"math"

	"largo/core/finding"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/stage"
	"largo/core/supply"
	"largo/core/unit"
	"largo/core/words"
)

// Verdict is the supply of a rig with what it carries.
type Verdict struct {
	*supply.Tree
	Circuits []Circuit // what carries something and has a limit, from the source down
	Rule     float64   // the part of a breaker's rating that this show may take, 0.8 or 1
	Long     bool      // it plays three hours or more, or nobody said
}

// Circuit is a node that has a limit.
type Circuit struct {
	*supply.Node
	Index int
}

// Stage is this stage of the day.
var Stage = stage.Stage{Name: finding.Feed, Stopped: finding.Mend, Says: says, Judge: outcome}

func outcome(in *stage.Input) stage.Outcome {
	r := in.Rig()
	if len(r.Supplies) == 0 && !in.Index.PassesMains() { // nobody drew it: what devices take is shown, nothing is judged
		return stage.Outcome{Result: Verdict{Rule: 1}, Findings: damp(r.Brief), Empty: true}
	}
	v := Judge(in.Index, in.Supply())
	return stage.Outcome{Result: v, Findings: v.findings(in.Index), Empty: len(v.Circuits) == 0 && len(v.Nodes) == 0,
		Places: func() []stage.Place {
			places := make([]stage.Place, 0, len(v.Circuits))
			for _, c := range v.Circuits {
				places = append(places, stage.Place{Name: PlaceOf(c.Node), Figures: v.Figures(c)})
			}
			for _, s := range append(v.Sets(), v.Backed()...) {
				places = append(places, stage.Place{Name: PlaceOf(s.Node) + ", as a set", Figures: SetFigures(s)})
			}
			return places
		}}
}

// continuousFrom is from where on a load is a continuous one (NEC article 100).
const continuousFrom unit.Second = 3 * 3600

// Judge is the supply with its circuits.
func Judge(x *rig.Index, t *supply.Tree) Verdict {
	v := Verdict{Tree: t, Rule: 1}
	lasts, said := x.Rig.Brief.Lasts.Get()
	v.Long = !said || lasts >= continuousFrom
	if m, known := x.Rig.Brief.Region.Mains(); known && v.Long {
		v.Rule = m.Continuous
	}
	for _, root := range t.Roots() {
		for _, i := range t.Below(root) {
			if n := &t.Nodes[i]; n.Limit > 0 {
				v.Circuits = append(v.Circuits, Circuit{n, i})
			}
		}
	}
	return v
}

// Figures are what a circuit carries in each state, and its limit.
func (v Verdict) Figures(c Circuit) []reckon.Figure {
	fs := make([]reckon.Figure, 0, 6)
	for _, s := range supply.States {
		fs = append(fs, v.Carried(c, s))
	}
	return append(fs, v.May(c), v.Under(c.Index, supply.Dense), reckon.Of("leaks", "IΔ",
		"leakage to earth, as far as it is known", c.Leaks, ""))
}

// SetFigures are what a generator or battery gives, and how long it lasts.
func SetFigures(s supply.Set) (fs []reckon.Figure) {
	for _, f := range []reckon.Figure{s.Gives, s.Apparent, s.Lasts, s.Fuel} {
		if f.Key != "" {
			fs = append(fs, f)
		}
	}
	return fs
}

// keys are those of the figures by state.
var keys = [...]struct{ key, symbol string }{{"carriesIdle", "I0"}, {"carries", "I"}, {"carriesDense", "Id"},
	{"carriesBurst", "Ib"}}

// Carried is the current of a circuit in a state, A.
func (v Verdict) Carried(c Circuit, s supply.State) reckon.Figure {
	name := "current, " + s.String()
	if c.Three {
		name += ", of the fullest phase"
	}
	f := reckon.Of(keys[s].key, keys[s].symbol, name, c.Carries(s), "")
	if c.Part != nil && c.Part.Carries.Known() {
		f = f.Noting("With the " + c.Part.Carries.String() + " that the house takes there already.")
	}
	return f.Because("what each device takes, added up")
}

// May is what a circuit may carry for as long as this show lasts, A.
func (v Verdict) May(c Circuit) reckon.Figure {
	if v.Rule == 1 || c.Part == nil || c.Part.Sort != rig.Breaker {
		return reckon.Of("may", "Imay", "what it may carry", c.Limit, "")
	}
	return reckon.Of("may", "Imay", "what it may carry for three hours or more", unit.Ampere(float64(c.Limit)*v.Rule),
		"{r} × {In}", reckon.Count("r", "part of its rating", v.Rule), reckon.In("In", "its rating", c.Limit, "rig")).
		Because("NEC 210.20: continuous loads count 125 %")
}

// undrawn says what a rig takes whose supply nobody drew.
func undrawn(t *supply.Tree) string {
	var w unit.Watt
	for i := range t.Taken {
		w += t.Taken[i].Watts[supply.Dense]
	}
	if w == 0 {
		return "Nothing takes mains yet."
	}
	return "What feeds the rig is not drawn yet; on dense music it takes " +
		unit.Watt(math.Round(float64(w)/10)*10).String() +
		"."
}

// says is the answer in one line.
func says(j stage.Judged) string {
	v, _ := j.Result.(Verdict)
	switch {
	case v.Tree == nil || len(v.Nodes) == 0:
		return undrawn(j.Supply())
	case j.Stopped() && finding.Worst(j.Findings) == finding.Stop:
		return j.Findings[0].What
	case j.Stopped():
		return "Something of the rig is at stop: nothing is plugged in before that is mended."
	case j.Count("feed.over") > 0:
		n := j.Count("feed.over")
		return words.Spell(n, "circuit carries more than it holds", "circuits carry more than they hold") +
			" with ordinary programme."
	case j.Count("feed.dense") > 0:
		return words.Spell(j.Count("feed.dense"), "circuit holds", "circuits hold") +
			" with ordinary programme, and not on dense music."
	case len(v.Circuits) == 0:
		return "What the circuits carry at most is not on record, so nobody can say if they hold."
	case j.Count("feed.rating") > 0:
		return "What is known of holds; of " + words.Small(words.Spell(j.Count("feed.rating"), "circuit", "circuits")) +
			" it is not known what they are for."
	case j.Count("feed.unknown") > 0:
		return "What is plugged in holds; " + words.Small(words.Spell(len(v.Loose), "device is", "devices are")) +
			" on no outlet that is known."
	case len(j.Findings) > 0 && j.Findings[0].Gravity >= finding.Mend:
		return j.Findings[0].What
	}
	fullest, part := v.Circuits[0], 0.0
	for _, c := range v.Circuits {
		if p := float64(c.Carries(supply.Dense) / c.Limit); p > part {
			fullest, part = c, p
		}
	}
	return "All circuits hold on dense music; " + fullest.Name + " is the fullest, " +
		fullest.Carries(supply.Dense).String() + " of " + fullest.Limit.String() + "."
}
