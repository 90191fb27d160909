// Package strike derives the shutdown: amplifiers and active boxes first,
// then, when they are dead, everything else backwards through the chain, each
// by its own way of being shut down.
package strike

import (
	"fmt"
	"slices"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/order"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/stage"
	"largo/core/unit"
	"largo/core/words"
)

// Verdict is the shutdown.
type Verdict struct {
	Steps []order.Step
	Total reckon.Figure // from the first switch until all is dead, s
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
	loud := 0
	for _, s := range v.Steps {
		if s.Loud {
			loud++
		}
	}
	return fmt.Sprintf("%s off first; the rest once they are dead. %s in all.",
		words.Spell(loud, "amplifier or active box", "amplifiers and active boxes"), v.Total.Text())
}

// Judge gives the shutdown: the derived power-up backwards. The crew's own
// power-up order does not bear on it.
func Judge(x *rig.Index, o *order.Order) (Verdict, []finding.Finding) {
	sequence := o.Derived()
	slices.Reverse(sequence)
	var p Verdict
	for i, n := range sequence {
		p.Steps = append(p.Steps, o.Step(n, i+1, order.Drain, look))
	}
	p.time()
	return p, nil
}

func look(m *gear.Model) string {
	switch {
	case m.Wake.Shutdown != "":
		return m.Wake.Shutdown
	case m.Kind == gear.KindGenerator:
		return "Nothing is on behind it; let it run on unloaded as its maker asks, then stop it"
	case m.MakesSound():
		return "Lamps out, and its boxes silent when a fader upstream is moved"
	case m.Kind == gear.KindMixer || m.Kind == gear.KindProcessor:
		return "Shut it down by its own menu where it has one, and wait until it says so"
	}
	return "Switch off or unplug"
}

// time: whatever feeds live boxes waits until they are dead; after that each
// waits for the one before.
func (p *Verdict) time() {
	var dead unit.Second
	for i := range p.Steps {
		s := &p.Steps[i]
		if i > 0 {
			s.At = p.Steps[i-1].At + order.Hand
			if !s.Loud {
				s.At = max(s.At, dead)
			}
		}
		s.Done = s.At + s.Takes()
		dead = max(dead, s.Done)
	}
	if len(p.Steps) == 0 {
		p.Total = reckon.Unknown("total", "T", "shutdown", "nothing in the rig has a switch")
		return
	}
	p.Total = reckon.Of("total", "T", "shutdown, from the first switch until all is dead", dead,
		"max(s + drain) over {n} steps",
		reckon.Count("n", "steps", float64(len(p.Steps)))).Because("power-up reversed")
}
