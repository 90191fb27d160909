// Package strike derives the shutdown: amplifiers and active boxes first,
// then, when they are dead, everything else backwards through the chain, each
// by its own way of being shut down.
package strike

import (
	"fmt"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/kick"
	"largo/core/order"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/run"
	"largo/core/stage"
	"largo/core/words"
)

// Verdict is the shutdown.
type Verdict struct {
	Steps []order.Step
	Free  []order.Step  // that may be switched off at any time
	Total reckon.Figure // from the first switch until all is dead, s
	Plan  order.Plan
}

// Stage is this stage of the day.
var Stage = stage.Stage{Name: finding.Strike, Says: says, Judge: func(in *stage.Input) stage.Outcome {
	p, fs := Judge(in.Index, in.Order())
	return stage.Outcome{Result: p, Findings: fs, Empty: len(p.Steps) == 0, Places: func() []stage.Place {
		return []stage.Place{{Name: "strike", Figures: []reckon.Figure{p.Total}, Whole: true}}
	}}
}}

// says what goes off first, and how long it takes.
func says(j stage.Judged) string {
	v, _ := j.Result.(Verdict)
	if len(v.Steps) == 0 {
		return "Nothing in the rig has a switch yet."
	}
	if shared := j.Count("strike.shared-switch"); shared > 0 {
		return words.Spell(shared, "switch kills", "switches kill") + " what feeds live boxes together with them. " +
			v.Total.Text() + " in all."
	}
	loud := 0
	for _, s := range v.Steps {
		if s.Loud {
			loud++
		}
	}
	if loud == 0 {
		return fmt.Sprintf("Nothing here makes sound; in any order, %s in all.", v.Total.Text())
	}
	return fmt.Sprintf("%s off first; the rest once they are dead. %s in all.",
		words.Spell(loud, "amplifier or active box", "amplifiers and active boxes"), v.Total.Text())
}

// Judge gives the shutdown: what makes sound first, and each only when what it could kick, feed
// or boot is dead. The crew's own power-up order does not bear on it.
func Judge(x *rig.Index, o *order.Order) (Verdict, []finding.Finding) {
	plan := o.Down()
	p := Verdict{Steps: make([]order.Step, 0, len(o.Nodes)), Plan: plan}
	for i, n := range plan.Sequence {
		p.Steps = append(p.Steps, o.Step(n, i+1, order.Drain, how, look).Begin(plan.At[n]))
	}
	for _, n := range plan.Free {
		p.Free = append(p.Free, o.Step(n, 0, order.Drain, how, look))
	}
	p.Total = reckon.Unknown("total", "T", "shutdown", "nothing in the rig has a switch")
	if n := len(p.Steps); n > 0 {
		p.Total = reckon.Of("total", "T", "shutdown, from the first switch until all is dead", plan.Total,
			"max(s + drain) over {n} steps", reckon.Count("n", "steps", float64(n))).
			Because("each waits until what it could kick, feed or boot is dead")
	}
	return p, append(shared(x, o), unknown(x)...)
}

// shared finds what makes sound and goes off by the same switch as what feeds it.
func shared(x *rig.Index, o *order.Order) []finding.Finding {
	var fs []finding.Finding
	for _, v := range o.Shared() {
		d := x.Rig.Devices[v.Early]
		names := make([]string, len(v.Upper))
		for i, up := range v.Upper {
			names[i] = x.Rig.Devices[up].Tag
		}
		f := finding.Finding{Code: "strike.shared-switch", Stage: finding.Strike, Danger: finding.Gear,
			Gravity: finding.Mend, At: rig.Ref{Device: d.Tag},
			What: fmt.Sprintf("%s goes off together with %s, by the one switch %q.", d.Tag, words.List(names), d.SwitchName()),
			Why:  "An amplifier lives on for seconds from what its supply has stored, and throws their dying kick at its boxes."}
		if d.Switch != "" {
			f.Mends = []finding.Way{{Label: "Give " + d.Tag + " a switch of its own", Edit: d.OwnSwitch()}}
		} else {
			f.Advice = "Level controls and master faders down before this switch is thrown."
		}
		fs = append(fs, f)
	}
	return fs
}

// unknown names models of which nobody knows how long they live on.
func unknown(x *rig.Index) []finding.Finding {
	var fs []finding.Finding
	for _, u := range order.UntimedOf(x, order.Drain, (*gear.Model).MakesSound) {
		fs = append(fs, finding.Finding{Code: "strike.unknown-drain", Stage: finding.Strike, Danger: finding.Gear,
			Gravity: finding.Mind, At: u.At,
			What: fmt.Sprintf("How long a %s lives on after its switch is not on record; %s are allowed for.",
				u.Model.Title(), u.Takes),
			Why:    "What goes off before it is dead thumps through it.",
			Advice: "Time it once, from the switch until its boxes are silent, and note it with the model."})
	}
	return fs
}

// how a device is switched off, where its switch alone is not all.
func how(m *gear.Model) string {
	switch {
	case m.Wake.Shutdown != "":
		return m.Wake.Shutdown
	case m.Kind == gear.KindGenerator:
		return "Let it run on unloaded as its maker asks, then stop it"
	case m.Kind == gear.KindMixer || m.Kind == gear.KindProcessor:
		return "By its own menu where it has one, until it says so"
	}
	return ""
}

// look is what to see before going on.
func look(m *gear.Model) string {
	switch {
	case m.Kind == gear.KindGenerator:
		return "It stands still"
	case m.MakesSound():
		return "Its lamps are out, its boxes silent"
	case m.Kind == gear.KindMixer:
		return "Its screen and lamps are out"
	}
	return "Its lamps are out"
}

// Reasons are why each step stands where it does.
func (v Verdict) Reasons(in *stage.Input) []kick.Reason {
	return kick.Reasons(in.Index, in.Driven(), in.Order(), v.Plan, kick.Dies)
}

// Run is the shutdown to be run, step by step.
func (v Verdict) Run(in *stage.Input) run.Setup {
	var why []string
	for _, r := range v.Reasons(in) {
		why = append(why, r.Text)
	}
	return run.New(run.Strike, in.Rig().Brief.Title, v.Plan, v.Steps, v.Free, why)
}
