package feed

import (
	"fmt"
	"math"

	"largo/core/finding"
	"largo/core/rig"
	"largo/core/unit"
	"largo/core/words"
)

// Ceiling is the long-term limiter volts with which a circuit holds on dense music, of one
// output that it feeds.
type Ceiling struct {
	Tag, Port string
	Volts     unit.Volt // rms
}

// Ceilings are those of all outputs on a circuit that does not hold without: the part of dense
// music's power that fits in, the same for all of them. False where it holds, or where even
// silence does not fit in.
func (v Verdict) Ceilings(c Circuit) (list []Ceiling, part float64, can bool) {
	amps := func(part float64) (sum float64) {
		if c.Part != nil {
			sum = float64(c.Part.Carries.Or(0))
		}
		for _, i := range v.Below(c.Index) {
			for _, l := range v.Nodes[i].Loads {
				t := &v.Taken[l]
				volts := float64(t.Volts)
				if c.Volts.Known() {
					volts = c.Volts.Value
				}
				sum += float64(t.At(part)) / (volts * float64(t.Factor))
			}
		}
		return sum
	}
	may := float64(c.Limit)
	if c.Three || amps(1) <= may || amps(0) > may {
		return nil, 0, false
	}
	low, high := 0.0, 1.0
	for range 50 {
		if mid := (low + high) / 2; amps(mid) <= may {
			low = mid
		} else {
			high = mid
		}
	}
	for _, i := range v.Below(c.Index) {
		for _, l := range v.Nodes[i].Loads {
			t := &v.Taken[l]
			for _, o := range t.Outputs {
				volts := unit.Volt(math.Sqrt(low * float64(o.Dense) * float64(o.Ohms)))
				list = append(list, Ceiling{t.Tag, o.Port, unit.Volt(math.Floor(float64(volts)*10) / 10)})
			}
		}
	}
	return list, low, len(list) > 0
}

// holdBack sets the limiters of all outputs of a circuit to what it holds.
func (v Verdict) holdBack(x *rig.Index, c Circuit) (finding.Way, bool) {
	ceilings, part, can := v.Ceilings(c)
	if !can {
		return finding.Way{}, false
	}
	all := rig.Batch{Saying: "Limiters to what " + c.Name + " holds"}
	for _, at := range ceilings {
		if at.Volts < 1 {
			return finding.Way{}, false
		}
		d, _ := x.Device(at.Tag)
		set, _ := d.Limiter(at.Port)
		set.Port, set.RMS = at.Port, unit.Of(at.Volts)
		all.Edits = append(all.Edits, rig.SetLimiter{Tag: at.Tag, Set: set, Why: "what " + c.Name + " holds"})
	}
	return finding.Way{Label: fmt.Sprintf("Set the long-term limiters of %s %s lower, as %s holds: the first to %s",
		words.Small(words.Spell(len(ceilings), "output", "outputs")), unit.OfPower(1/part), c.Name, ceilings[0].Volts),
		Edit: all}, true
}
