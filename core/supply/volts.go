package supply

import (
	"fmt"
	"math"

	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// HotLead is the copper of a lead that carries what it may, °C.
const HotLead = 70

// readTo is how far a voltmeter in the hand may be off, V: a tenth, of either reading (common
// practice, no source).
const readTo = 0.1

// SourceOhms is the impedance behind a part by its volts at rest and under a load, Ω, with how
// far the readings leave it open; unknown where they are not on record.
func SourceOhms(s *rig.Supply) (z, give reckon.Figure) {
	const key, symbol, name = "sourceZ", "Zs", "impedance behind it"
	rest, k1 := s.Volts.Get()
	under, k2 := s.Loaded.Get()
	amps, k3 := s.LoadedBy.Get()
	if !k1 || !k2 || !k3 || amps <= 0 {
		why := "volts at rest and under a load are not both read"
		return reckon.Unknown(key, symbol, name, why), reckon.Unknown("sourceGive", "ΔZs", "and may be off by", why)
	}
	z = reckon.Of(key, symbol, name, unit.Ohm(max(0, float64(rest-under)/float64(amps))), "({U0} − {U1}) / {I1}",
		reckon.In("U0", "at rest", rest, "read"), reckon.In("U1", "under the test load", under, "read"),
		reckon.In("I1", "test load", amps, "read"))
	return z, reckon.Of("sourceGive", "ΔZs", "and may be off by", unit.Ohm(2*readTo/float64(amps)), "2 × {u} / {I1}",
		reckon.In("u", "what a voltmeter is off by", unit.Volt(readTo), "common practice, no source"),
		reckon.In("I1", "test load", amps, "read"))
}

// LeadOhms is the resistance of a lead, there and back, its copper warm, Ω; unknown where it is
// no lead, or its length or conductor are not on record.
func LeadOhms(n *Node) unit.Given[unit.Ohm] {
	if n.Part == nil {
		return unit.Given[unit.Ohm]{}
	}
	length, k1 := n.Part.Length.Get()
	area, k2 := n.Part.Area.Get()
	if !k1 || !k2 {
		return unit.Given[unit.Ohm]{}
	}
	return unit.Of(gear.LoopResistance(length, area, HotLead))
}

// Under is what is left of the volts at a node while the rig works: those at rest, less what
// the impedance read behind the nearest part above takes, less what the leads after it take.
// What lies behind a source that nobody loaded is not in it, and it says so.
func (t *Tree) Under(i int, s State) reckon.Figure {
	key, symbol, name := "under", "Ul", "mains left, "+s.String()
	n := &t.Nodes[i]
	if !n.Volts.Known() {
		return reckon.Unknown(key, symbol, name, n.Volts.Lacks)
	}
	lost, note := 0.0, "What lies behind the source is not in it: nobody read its volts under a load."
	for at := i; at >= 0; at = t.Nodes[at].Up {
		up := &t.Nodes[at]
		ratio := 1.0 // amperes and volts behind a transformer are others
		if up.Volts.Known() {
			ratio = n.Volts.Value / up.Volts.Value
		}
		if up.Model != nil && up.Model.Supply.Gives.Known() && up.Model.Supply.Regulates == gear.Yes {
			note = fmt.Sprintf("%s holds it.", up.Name)
			break
		}
		if up.Part == nil {
			continue
		}
		if z, _ := SourceOhms(up.Part); z.Known() {
			lost += ratio * z.Value * float64(t.circuitOf(at).Carries(s))
			note = fmt.Sprintf("By the impedance read at %s.", up.Name)
			break
		}
		if r, known := LeadOhms(up).Get(); known {
			lost += ratio * float64(r) * float64(up.Carries(s))
		}
	}
	return reckon.Of(key, symbol, name, unit.Volt(max(0, n.Volts.Value-lost)), "{U0} − {ΔU}", n.Volts.As("U0"),
		reckon.In("ΔU", "lost on the way", unit.Volt(lost), "")).Noting(note)
}

// circuitOf is the breaker above a node, whose current flows through all that was read behind
// it; the node itself where there is none.
func (t *Tree) circuitOf(i int) *Node {
	for at := i; at >= 0; at = t.Nodes[at].Up {
		if p := t.Nodes[at].Part; p != nil && p.Sort == rig.Breaker {
			return &t.Nodes[at]
		}
	}
	return &t.Nodes[i]
}

// UnderAt is what is left at the inlet of something that takes; unknown for what hangs on no
// outlet.
func (t *Tree) UnderAt(load int, s State) reckon.Figure {
	if at := t.hung[load]; at >= 0 {
		return t.Under(at, s)
	}
	return reckon.Unknown("under", "Ul", "mains left, "+s.String(), "its outlet is not on record")
}

// Loses is how much less an amplifier without power-factor correction gives of it, whose rails
// follow the mains; false for one that has it, and for what is no amplifier.
func (t *Tree) Loses(load int, s State) (unit.Decibel, bool) {
	took := &t.Taken[load]
	left := t.UnderAt(load, s)
	if took.Model.Amplifier == nil || took.Model.Intake.Corrected == gear.Yes || !left.Known() || left.Value == 0 {
		return 0, false
	}
	return unit.Decibel(-20 * math.Log10(left.Value/float64(took.Volts))), true
}
