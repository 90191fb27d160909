package feed

import (
	"fmt"

	"largo/core/finding"
	"largo/core/rig"
	"largo/core/unit"
	"largo/core/words"
)

// holdBack sets the limiters of all outputs of a circuit to what it holds.
func (v Verdict) holdBack(c Circuit) (finding.Way, bool) {
	ceilings, part := v.Ceilings(c.Index)
	if len(ceilings) == 0 {
		return finding.Way{}, false
	}
	all := rig.Batch{Saying: "Limiters to what " + c.Name + " holds"}
	for _, at := range ceilings {
		set, fits := limiterAt(v.Index(), at.At, unit.Volt(at.Volts.Value))
		if !fits {
			return finding.Way{}, false
		}
		set.Why = "what " + c.Name + " holds"
		all.Edits = append(all.Edits, set)
	}
	return finding.Way{Label: fmt.Sprintf("Set the long-term limiters of %s %s lower, as %s holds: the first to %s",
		words.Small(words.Spell(len(ceilings), "output", "outputs")), unit.OfPower(1/part), c.Name,
		ceilings[0].Volts.Text()), Edit: all}, true
}

// limiterAt sets the long-term limiter of an output to what the mains holds; false where that
// cannot be: nothing would be heard, or its peak limiter is set below.
func limiterAt(x *rig.Index, at rig.Ref, volts unit.Volt) (rig.SetLimiter, bool) {
	d, _ := x.Device(at.Device)
	if d == nil || volts < 1 {
		return rig.SetLimiter{}, false
	}
	set, _ := d.Limiter(at.Port)
	set.Port, set.RMS = at.Port, unit.Of(volts)
	peak, known := set.Peak.Get()
	return rig.SetLimiter{Tag: at.Device, Set: set, Why: "what the circuits hold"}, !known || peak >= volts
}
