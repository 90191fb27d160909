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
		d, there := v.Device(at.At.Device)
		if !there || at.Volts.Value < 1 {
			return finding.Way{}, false
		}
		set, _ := d.Limiter(at.At.Port)
		set.Port, set.RMS = at.At.Port, unit.Of(unit.Volt(at.Volts.Value))
		if peak, known := set.Peak.Get(); known && float64(peak) < at.Volts.Value {
			return finding.Way{}, false
		}
		all.Edits = append(all.Edits, rig.SetLimiter{Tag: at.At.Device, Set: set, Why: "what " + c.Name + " holds"})
	}
	return finding.Way{Label: fmt.Sprintf("Set the long-term limiters of %s %s lower, as %s holds: the first to %s",
		words.Small(words.Spell(len(ceilings), "output", "outputs")), unit.OfPower(1/part), c.Name,
		ceilings[0].Volts.Text()), Edit: all}, true
}
