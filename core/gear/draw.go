package gear

import (
	"strings"

	"largo/core/reckon"
	"largo/core/unit"
)

// Draw is what an amplifier model takes from the mains, worked out as idle
// draw plus output over efficiency, with what had to be assumed.
type Draw struct {
	Idle       unit.Watt
	Efficiency unit.Ratio // of output over what is taken above idle
	Factor     unit.Ratio // power factor
	Assumed    string     // what the sheet does not say; "" when it says all
}

// Draw gives the mains figures of an amplifier. Where the sheet is silent the
// careful side of common practice is taken (no source): an idle draw of 5 % of
// what all channels give, an efficiency above idle of 60 % for the linear
// classes and 85 % for class D, and a power factor of 0.7.
func (m Model) Draw() Draw {
	var t Draw
	var missing []string
	idle, known := m.Intake.Idle.Get()
	if !known {
		missing = append(missing, "idle draw 5 % of its rated power")
		idle = 0.05 * m.Amplifier.allChannels()
	}
	efficiency, known := m.Intake.Efficiency.Get()
	if !known {
		efficiency = 0.6
		if strings.EqualFold(m.Amplifier.Class, "D") {
			efficiency = 0.85
		}
		missing = append(missing, "efficiency "+efficiency.String())
	}
	factor, known := m.Intake.Factor.Get()
	if !known {
		factor = 0.7
		missing = append(missing, "power factor 0.70")
	}
	t.Idle, t.Efficiency, t.Factor = idle, efficiency, factor
	if len(missing) > 0 {
		t.Assumed = "assumed: " + strings.Join(missing, ", ")
	}
	return t
}

// allChannels is what all channels give together into the least rated load.
func (a *Amplifier) allChannels() unit.Watt {
	if w, known := a.Together.Get(); known {
		return w
	}
	most := unit.Watt(0)
	var buf [usualRatings]Rating
	rows, _ := a.table(Separate, buf[:])
	for _, r := range rows {
		most = max(most, r.Power)
	}
	return most * unit.Watt(a.Channels)
}

// For is the power taken from the mains while so much is given out.
func (t Draw) For(out unit.Watt) unit.Watt { return t.Idle + out/unit.Watt(t.Efficiency) }

// Current is the current of a power taken at a supply voltage.
func (t Draw) Current(taken unit.Watt, volts unit.Volt) unit.Ampere {
	return unit.Ampere(float64(taken) / (float64(volts) * float64(t.Factor)))
}

// WallGives is the most an amplifier can put out for long on one circuit: what
// the circuit carries times its efficiency, idle draw left out. Average output never
// exceeds average input.
func (t Draw) WallGives(circuit unit.Ampere, volts unit.Volt) reckon.Figure {
	return reckon.Of("wall", "Pwall", "most that one circuit sustains",
		unit.Watt(float64(circuit)*float64(volts)*float64(t.Efficiency)), "{U} × {I} × {η}",
		reckon.In("U", "supply", volts, ""), reckon.In("I", "circuit", circuit, ""),
		reckon.Count("η", "efficiency", float64(t.Efficiency))).
		Noting(t.Assumed).Because("average output never exceeds average input")
}
