// Package start derives the power-up: which switch when, what to wait for,
// and what to see before going on. Amplifiers and active boxes come last, when
// everything that can reach them has settled.
package start

import (
	"fmt"
	"slices"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/kick"
	"largo/core/order"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/run"
	"largo/core/stage"
	"largo/core/supply"
	"largo/core/unit"
	"largo/core/words"
)

// Verdict is the power-up in force.
type Verdict struct {
	Steps  []order.Step
	Free   []order.Step  // that may be switched on at any time
	Total  reckon.Figure // from the first switch until all has settled, s
	Own    bool          // the crew's own order, not the derived one
	Proved bool          // no safe order is shorter
	Plan   order.Plan
	Inrush []Inrush
}

// Stage is this stage of the day.
var Stage = stage.Stage{Name: finding.Start, Stopped: finding.Stop, Says: says, Judge: judge}

func judge(in *stage.Input) stage.Outcome {
	p, fs := Judge(in.Index, in.Order())
	if len(in.Rig().Supplies) > 0 {
		p.Inrush = inrushes(in)
	}
	return stage.Outcome{Result: p, Findings: fs, Empty: len(p.Steps) == 0, Places: func() []stage.Place {
		return []stage.Place{{Name: "start", Figures: []reckon.Figure{p.Total}, Whole: true}}
	}}
}

// says how long it takes, or what is wrong with the order.
func says(j stage.Judged) string {
	v, _ := j.Result.(Verdict)
	switch {
	case len(v.Steps) == 0:
		return "Nothing in the rig has a switch yet."
	case finding.Worst(j.Findings) == finding.Stop:
		return "Do not energise: " + words.Small(j.Findings[0].What)
	case j.Stopped():
		return "Do not energise: " + words.Small(j.All[0].What)
	}
	says := fmt.Sprintf("%s, %s, amplifiers last", words.Spell(len(v.Steps), "switch", "switches"), v.Total.Text())
	if v.Proved {
		says += "; no safe order is shorter"
	}
	return says + "."
}

// Judge gives the power-up in force, and findings where it breaks the rules.
func Judge(x *rig.Index, o *order.Order) (Verdict, []finding.Finding) {
	plan := o.Up()
	p := Verdict{Own: len(x.Rig.Order) > 0, Steps: make([]order.Step, 0, len(o.Nodes))}
	if p.Own {
		plan = o.Own(plan)
	}
	p.Plan, p.Proved = plan, plan.Proved
	for i, n := range plan.Sequence {
		p.Steps = append(p.Steps, o.Step(n, i+1, order.Settle, how, look).Begin(plan.At[n]))
	}
	for _, n := range plan.Free {
		p.Free = append(p.Free, o.Step(n, 0, order.Settle, how, look))
	}
	p.Total = total(plan, len(p.Steps))
	return p, slices.Concat(early(x, o, plan.Sequence), masters(x, o), unknown(x))
}

// how a device is switched on, where its switch alone is not all.
func how(m *gear.Model) string {
	if m.Kind.Supplies() && !m.Kind.Generates() {
		return "everything on it off by its own switch before"
	}
	return ""
}

// look is what to see before going on.
func look(m *gear.Model) string {
	if m.Wake.Proof != "" {
		return m.Wake.Proof
	}
	switch {
	case m.MakesSound():
		return "Its power lamp is steady, its protect lamp out, and the boxes do not hum"
	case m.Kind == gear.KindGenerator:
		return "It is warm, its volts and hertz are steady at their rated values, nothing is on behind it yet"
	case m.Kind.Supplies():
		return "Its lamp is lit, and nothing behind it has woken"
	case m.Kind == gear.KindSwitch:
		return "Its lamps of data flicker and show no fault"
	case m.Kind == gear.KindMixer:
		return "Its screen and meters are up, no fault is shown, and the master faders are down"
	}
	return "Its lamp is steady and it shows no fault"
}

// total is how long the power-up takes.
func total(plan order.Plan, steps int) reckon.Figure {
	if steps == 0 {
		return reckon.Unknown("total", "T", "power-up", "nothing in the rig has a switch")
	}
	note := "At least 5 s between two switches."
	if plan.Proved {
		note += " No safe order is shorter: proved."
	}
	return reckon.Of("total", "T", "power-up, from the first switch until all has settled", plan.Total,
		"max(s + settle) over {n} steps", reckon.Count("n", "steps", float64(steps))).Noting(note).
		Because("partial order of who feeds whom")
}

func early(x *rig.Index, o *order.Order, sequence []int) []finding.Finding {
	var fs []finding.Finding
	for _, v := range o.Violations(sequence) {
		d, upper := x.Rig.Devices[v.Early], tags(x, v.Upper)
		f := finding.Finding{Stage: finding.Start, Danger: finding.Gear, Gravity: finding.Stop, At: rig.Ref{Device: d.Tag},
			Why: "Whatever wakes sends a transient of volts; a live amplifier throws it at the boxes and at whoever stands " +
				"before them."}
		if v.Shared {
			f.Code = "start.shared-switch"
			f.What = fmt.Sprintf("%s wakes together with %s, on the one switch %q.", d.Tag, upper, d.Switch)
			f.Mends = []finding.Way{{Label: "Give " + d.Tag + " a switch of its own", Edit: d.OwnSwitch()}}
		} else {
			f.Code = "start.too-early"
			f.What = fmt.Sprintf("%s goes on before all that feeds it has settled: %s.", d.Tag, upper)
			f.Mends = []finding.Way{{Label: "Take the derived order", Edit: rig.SetOrder{}}}
		}
		fs = append(fs, f)
	}
	return fs
}

// masters finds what wakes amplifiers together with what feeds them when it is
// switched on with everything behind it left on.
func masters(x *rig.Index, o *order.Order) []finding.Finding {
	var fs []finding.Finding
	for _, m := range o.Masters() {
		tag := x.Rig.Devices[m.Device].Tag
		fs = append(fs, finding.Finding{Code: "start.master-switch", Stage: finding.Start, Danger: finding.Gear,
			Gravity: finding.Mind, At: rig.Ref{Device: tag},
			What: fmt.Sprintf("%s feeds %s as well as %s: who wakes it wakes them at once.", tag, tags(x, m.Loud),
				tags(x, m.Upper)),
			Why:    "Whatever was left on by its own switch starts with it, and thumps through what is live already.",
			Advice: "Have each of them off by its own switch before, and switch them on in this order."})
	}
	return fs
}

func tags(x *rig.Index, devices []int) string {
	names := make([]string, len(devices))
	for i, d := range devices {
		names[i] = x.Rig.Devices[d].Tag
	}
	return words.List(names)
}

func unknown(x *rig.Index) []finding.Finding {
	var fs []finding.Finding
	for _, u := range order.UntimedOf(x, order.Settle, (*gear.Model).Switched) {
		f := finding.Finding{Code: "start.unknown-settle", Stage: finding.Start, Danger: finding.Gear,
			Gravity: finding.Mind, At: u.At,
			What:   fmt.Sprintf("How long a %s takes to settle is unknown; %s are allowed for.", u.Model.Title(), u.Takes),
			Why:    "Too short a wait lets its thump through.",
			Advice: "Time it once, from the switch to quiet outputs, and note it with the model."}
		if u.Model.Kind == gear.KindGenerator {
			f.Why, f.Advice = "Volts that still wander upset whatever starts on them.",
				"Time it once, from its start to steady volts, and note it with the model."
		}
		fs = append(fs, f)
	}
	return fs
}

// Reasons are why each step stands where it does.
func (v Verdict) Reasons(in *stage.Input) []kick.Reason {
	return kick.Reasons(in.Index, in.Driven(), in.Order(), v.Plan, kick.Wakes)
}

// Inrush is what a switch takes for an instant, and what its breaker surely holds.
type Inrush struct {
	Switch, Circuit string
	Peak, Holds     unit.Ampere
	Unknown         int // devices of it whose inrush is not known
}

// Says puts it into words.
func (i Inrush) Says() string {
	says := fmt.Sprintf("It takes %s for an instant on %s, which surely holds %s.", i.Peak, i.Circuit, i.Holds)
	if i.Unknown > 0 {
		says = words.Capital(words.Small(words.Spell(i.Unknown, "device", "devices"))) +
			" of it says nothing of inrush; as far as is known: " + words.Small(says)
	}
	return says
}

// inrushes are what the switches take for an instant, by the breakers of the supply: two hands
// throw no two of one breaker at once that it does not hold together.
func inrushes(in *stage.Input) (list []Inrush) {
	t := in.Supply()
	for i := range t.Nodes {
		n := &t.Nodes[i]
		if n.Part == nil || n.Part.Sort != rig.Breaker || n.Limit == 0 {
			continue
		}
		for _, w := range t.Wakings(i) {
			if w.Peak > 0 {
				list = append(list, Inrush{w.Switch, n.Name, w.Peak, supply.HoldsPeak(n.Limit, n.Part.Curve), w.Unknown})
			}
		}
	}
	return list
}

// Run is the power-up to be run, step by step.
func (v Verdict) Run(in *stage.Input) run.Setup {
	var why []string
	for _, r := range v.Reasons(in) {
		why = append(why, r.Text)
	}
	s := run.New(run.Start, in.Rig().Brief.Title, v.Plan, v.Steps, v.Free, why)
	for i := range s.Steps {
		for _, inrush := range v.Inrush {
			if inrush.Switch == s.Steps[i].Switch {
				s.Steps[i].Circuit, s.Steps[i].Peak = inrush.Circuit, inrush.Peak
			}
		}
	}
	return s
}
