package gear

import (
	"fmt"
	"math"
	"strings"

	"largo/core/reckon"
	"largo/core/unit"
)

// Draw is what an amplifier model takes from the mains, worked out as idle
// draw plus output over efficiency, with what had to be assumed.
type Draw struct {
	Idle       unit.Watt
	Efficiency unit.Ratio // of output over what is taken above idle, at full sine
	Programme  unit.Ratio // the same at an eighth of it, as ordinary programme
	Dense      unit.Ratio // and at a third, as dense music
	Factor     unit.Ratio // power factor
	Rated      unit.Watt  // what all channels give together
	Assumed    string     // what the sheet does not say; "" when it says all
}

// Draw gives the mains figures of an amplifier. The maker's own table of currents
// goes before any estimate; where the sheet is silent the careful side of common
// practice is taken (no source): an idle draw of 5 % of what all channels give, an
// efficiency above idle of 60 % for the linear classes and 85 % for class D, and a
// power factor of 0.7. What is taken by a linear class falls with the voltage and
// not with its square, so at an eighth of the power it is as sqrt(1/8) of that at
// full (class B into a resistance: physics).
func (m *Model) Draw() Draw {
	t := Draw{Rated: m.Amplifier.allChannels()}
	var missing []string
	factor, known := m.Intake.Factor.Get()
	if !known {
		factor = 0.7
		missing = append(missing, "power factor 0.70")
	}
	t.Factor = factor
	idle, known := m.Intake.Idle.Get()
	if row, listed := m.taken(Idling); !known && listed {
		idle, known = m.realPower(row, factor), true
	}
	if !known {
		missing = append(missing, "idle draw 5 % of its rated power")
		idle = 0.05 * m.Amplifier.allChannels()
	}
	t.Idle = idle
	efficiency, known := m.Intake.Efficiency.Get()
	t.Programme, t.Dense = efficiency, efficiency
	if !known {
		efficiency = 0.6
		if m.Amplifier.switching() {
			efficiency = 0.85
		}
		missing = append(missing, "efficiency "+efficiency.String())
		if t.Programme, t.Dense = efficiency, efficiency; !m.Amplifier.switching() {
			t.Programme, t.Dense = efficiency*unit.Ratio(math.Sqrt(1.0/8)), efficiency*unit.Ratio(math.Sqrt(1.0/3))
			missing[len(missing)-1] += " at full, " + t.Programme.String() + " at an eighth"
		}
	}
	t.Efficiency = efficiency
	if row, listed := m.taken(Third); listed {
		if out := m.allInto(row.Load) / 3; out > 0 {
			if above := m.realPower(row, factor) - t.Idle; above > 0 {
				t.Dense = unit.Ratio(out / above)
			}
		}
	}
	if row, listed := m.taken(Eighth); listed {
		if out := m.allInto(row.Load) / 8; out > 0 {
			if above := m.realPower(row, factor) - t.Idle; above > 0 {
				t.Programme = unit.Ratio(out / above)
				missing = append(missing, "programme as the maker's table of currents says")
			}
		}
	}
	if len(missing) > 0 {
		t.Assumed = "assumed: " + strings.Join(missing, ", ")
	}
	return t
}

func (a *Amplifier) switching() bool { return strings.HasPrefix(strings.ToUpper(a.Class), "D") }

// taken is the line of the maker's table for a part of the power; of several that
// at the least load, where most is taken.
func (m *Model) taken(part string) (best Taken, found bool) {
	for _, t := range m.Intake.Table {
		if t.Part == part && (!found || t.Load < best.Load) {
			best, found = t, true
		}
	}
	return best, found
}

// Listed is what the maker's own table says that a device takes at a part of its power, W: a
// current counts at the volts and the power factor that are given.
func (m *Model) Listed(part string, volts unit.Volt, factor unit.Ratio) (unit.Watt, bool) {
	row, listed := m.taken(part)
	if w, known := row.Real.Get(); listed && known {
		return w, true
	}
	return unit.Watt(float64(row.Amps.Or(0)) * float64(volts) * float64(factor)), listed
}

// realPower is what a line of the table takes in W: as listed, or its current at
// the supply of the ratings.
func (m *Model) realPower(t Taken, factor unit.Ratio) unit.Watt {
	if w, known := t.Real.Get(); known {
		return w
	}
	return unit.Watt(float64(t.Amps.Or(0)) * float64(m.Amplifier.Supply.Or(230)) * float64(factor))
}

// allInto is what all channels give together into a load each, into the least
// rated where none is named.
func (m *Model) allInto(z unit.Ohm) unit.Watt {
	if z == 0 {
		return m.Amplifier.allChannels()
	}
	each := m.Amplifier.PowerInto(Separate, z)
	if !each.Known() {
		return 0
	}
	all := unit.Watt(each.Value) * unit.Watt(m.Amplifier.Channels)
	return min(all, m.Amplifier.Together.Or(all))
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

// At is the efficiency above idle while the average output is a part of the rated sine, 0 to
// 1: on a straight line of its logarithm between the parts that are known.
func (t Draw) At(part float64) unit.Ratio {
	known := []struct {
		part float64
		is   unit.Ratio
	}{{1.0 / 8, t.Programme}, {1.0 / 3, t.Dense}, {1, t.Efficiency}}
	i := 0
	for i+2 < len(known) && part > known[i+1].part {
		i++
	}
	a, b := known[i], known[i+1]
	at := math.Log(max(part, 1e-3)/a.part) / math.Log(b.part/a.part)
	return min(unit.Ratio(float64(a.is)*math.Pow(float64(b.is/a.is), at)), 1)
}

// Above is what programme of an average power out takes above idle.
func (t Draw) Above(out unit.Watt) unit.Watt { return out / unit.Watt(t.Programme) }

// Current is the current of a power taken at a supply voltage.
func (t Draw) Current(taken unit.Watt, volts unit.Volt) unit.Ampere {
	return unit.Ampere(float64(taken) / (float64(volts) * float64(t.Factor)))
}

// WallGives is the most an amplifier can put out for long on one circuit: what
// the circuit carries, less its idle draw, times its efficiency. Average output
// never exceeds average input.
func (t Draw) WallGives(circuit unit.Ampere, volts unit.Volt) reckon.Figure {
	carried := unit.Watt(float64(circuit) * float64(volts) * float64(t.Factor))
	note := fmt.Sprintf("At full sine, efficiency %s.", t.Efficiency)
	if t.Assumed != "" {
		note = strings.ToUpper(t.Assumed[:1]) + t.Assumed[1:] + "."
	}
	return reckon.Of("wall", "Pwall", "most that one circuit sustains",
		max(0, carried-t.Idle)*unit.Watt(t.Efficiency), "({U} × {I} × {λ} − {P0}) × {η}",
		reckon.In("U", "supply", volts, ""), reckon.In("I", "circuit", circuit, ""),
		reckon.Count("λ", "power factor", float64(t.Factor)), reckon.In("P0", "idle draw", t.Idle, ""),
		reckon.Count("η", "efficiency at full", float64(t.Efficiency))).
		Noting(note).Because("average output never exceeds average input")
}
