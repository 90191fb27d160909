package supply

import (
	"math"
	"slices"

	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// Set is a generator or a battery of the rig with what is asked of it.
type Set struct {
	*Node
	Index    int
	Gives    reckon.Figure // W that it gives here, after height and heat
	Apparent reckon.Figure // VA that it gives here
	Asked    [states]unit.Watt
	VA       [states]float64
	Lasts    reckon.Figure // s on ordinary programme: of a tank, of a battery
	Fuel     reckon.Figure // L for the show
	Step     unit.Watt     // that dense music out of silence throws onto it
	Wakes    Waking        // the switch that asks most of it for an instant
}

// What is taken of a set whose plate says less.
const (
	ratedFactor  = 0.8  // kW of kVA (ISO 8528-1: three-phase sets are rated at it)
	unfedPart    = 0.3  // of the fuel at full power is burnt at none (common practice, no source)
	usualReserve = 0.2  // of a battery, left in it (common practice, no source)
	inverts      = 0.85 // of what a battery holds comes out as mains (common practice, no source)
)

// Sets are the generators and batteries of a rig.
func (t *Tree) Sets() (list []Set) {
	for i := range t.Nodes {
		if n := &t.Nodes[i]; n.Model != nil && n.Model.Kind.Generates() {
			list = append(list, t.set(i))
		}
	}
	return list
}

func (t *Tree) set(i int) Set {
	n := &t.Nodes[i]
	s := Set{Node: n, Index: i, Asked: n.Watts, VA: n.VA, Step: n.Watts[Dense] - n.Watts[Idle]}
	derate := Derated(t.x.Rig.Brief)
	if n.Model.Kind == gear.KindBattery {
		derate = reckon.Ratio("derate", "α", "of its power that is left here", 1, "")
	}
	s.Gives, s.Apparent = gives(n.Model, derate)
	for _, w := range t.Wakings(i) {
		if w.Peak > s.Wakes.Peak {
			s.Wakes = w
		}
	}
	if n.Model.Kind == gear.KindBattery {
		s.Lasts = runs(n)
		return s
	}
	s.Lasts, s.Fuel = fuel(n, t.x.Rig.Brief)
	return s
}

// gives is what a set gives here, in W and VA.
func gives(m *gear.Model, derate reckon.Figure) (watts, va reckon.Figure) {
	const asW, asVA = "power that it gives here", "apparent power that it gives here"
	rated, known := m.Supply.Apparent.Get()
	va = reckon.Unknown("setVA", "S", asVA, "the VA of its plate are not on record")
	if known {
		va = reckon.Of("setVA", "S", asVA, unit.VoltAmpere(float64(rated)*derate.Value), "{S0} × {α}",
			reckon.In("S0", "on its plate", unit.VoltAmpere(rated), "gear"), derate.As("α"))
	}
	real, said := m.Supply.Real.Get()
	switch {
	case said:
		return reckon.Of("setW", "P", asW, real*unit.Watt(derate.Value), "{P0} × {α}",
			reckon.In("P0", "on its plate", real, "gear"), derate.As("α")), va
	case known && m.Kind == gear.KindBattery:
		return reckon.Of("setW", "P", asW, rated, ""), va
	case known:
		return reckon.Of("setW", "P", asW, rated*unit.Watt(ratedFactor*derate.Value), "{S0} × {λ} × {α}",
			reckon.In("S0", "on its plate", unit.VoltAmpere(rated), "gear"), reckon.Count("λ",
				"power factor that sets are rated at",
				ratedFactor), derate.As("α")).Because("ISO 8528-1"), va
	}
	return reckon.Unknown("setW", "P", asW, "neither its kW nor its kVA are on record"), va
}

// Reference conditions of a set, and what is lost besides: of a diesel without turbocharger,
// ISO 8528-1 and ISO 3046-1 (from memory): 100 kPa, 25 °C, mechanical efficiency 80 %.
const (
	refPressure, refKelvin = 100.0, 298.0
	heatPower              = 0.75
	mechanical             = 0.8
)

// Derated is the part of its rated power that an engine has at the height and in the air of
// the place: α = k − 0.7 (1 − k) (1/ηm − 1), k = p/100 kPa × (298 K / T)^0.75, the pressure of
// the standard atmosphere. What its maker says goes before it.
func Derated(b rig.Brief) reckon.Figure {
	const key, symbol, name = "derate", "α", "of its power that is left here"
	height, k1 := b.Altitude.Get()
	air, k2 := b.Air.Get()
	if !k1 && !k2 {
		return reckon.Ratio(key, symbol, name, 1, "").
			Noting("Neither height nor air of the place are in the brief: taken as low and mild.")
	}
	kelvin := refKelvin
	if k2 {
		kelvin = float64(air) + 273
	}
	p := 101.325 * math.Pow(1-2.25577e-5*float64(height), 5.25588)
	k := p / refPressure * math.Pow(refKelvin/kelvin, heatPower)
	return reckon.Ratio(key, symbol, name, min(1, k-0.7*(1-k)*(1/mechanical-1)), "{k} − 0.7 × (1 − {k}) × (1/{ηm} − 1)",
		reckon.Count("k", "of the air's weight", k), reckon.Count("ηm", "mechanical efficiency", mechanical)).
		Because("ISO 3046-1, without turbocharger, from memory; its maker's table goes before it")
}

// fuel is how long a tank lasts on ordinary programme, and what the show burns.
func fuel(n *Node, b rig.Brief) (lasts, burns reckon.Figure) {
	const key, symbol, name = "tank", "tf", "a tank lasts, ordinary programme"
	lasts = reckon.Unknown(key, symbol, name, "how long a tank lasts is not on its sheet")
	burns = reckon.Unknown("fuel", "V", "fuel for the show",
		"how long a tank lasts, the tank, or the show, is not on record")
	full, k1 := n.Model.Supply.RunsFull.Get()
	quarter, k2 := n.Model.Supply.RunsQuarter.Get()
	rated, k3 := n.Model.Supply.Real.Get()
	if !k3 {
		va, known := n.Model.Supply.Apparent.Get()
		rated, k3 = va*ratedFactor, known
	}
	if !k1 && !k2 || !k3 {
		return lasts, burns
	}
	part := float64(n.Watts[Ordinary] / rated)
	atFull, atQuarter := 1/float64(full), 1/float64(quarter) // tanks a second
	switch {
	case !k1:
		atFull = atQuarter / (unfedPart + (1-unfedPart)/4)
	case !k2:
		atQuarter = atFull * (unfedPart + (1-unfedPart)/4)
	}
	rate := max(atQuarter+(atFull-atQuarter)*(part-0.25)/0.75, 0.1*atFull)
	lasts = reckon.Of(key, symbol, name, unit.Second(1/rate), "").
		Because("its sheet at full and at a quarter, on a straight line between")
	if tank, k4 := n.Model.Supply.Tank.Get(); k4 && b.Lasts.Known() {
		burns = reckon.Of("fuel", "V", "fuel for the show", unit.Litre(float64(tank)*float64(b.Lasts.Or(0))*rate),
			"{V0} × {T} / {tf}", reckon.In("V0", "tank", tank, "gear"), reckon.In("T", "show", b.Lasts.Or(0), "brief"),
			lasts.As("tf"))
	}
	return lasts, burns
}

// runs is how long a battery lasts on ordinary programme.
func runs(n *Node) reckon.Figure {
	const key, symbol, name = "battery", "tb", "its battery lasts, ordinary programme"
	stored, known := n.Model.Supply.Stored.Get()
	if !known {
		return reckon.Unknown(key, symbol, name, "what its battery holds is not on record")
	}
	if n.Watts[Ordinary] == 0 {
		return reckon.Unknown(key, symbol, name, "nothing hangs on it")
	}
	reserve, out := n.Model.Supply.Reserve.Or(usualReserve), n.Model.Intake.Efficiency.Or(inverts)
	seconds := float64(stored) * (1 - float64(reserve)) * float64(out) / float64(n.Watts[Ordinary]) * 3600
	return reckon.Of(key, symbol, name, unit.Second(seconds), "{E} × (1 − {r}) × {η} / {P}",
		reckon.In("E", "that it holds", stored, "gear"), reckon.Count("r", "reserve", float64(reserve)),
		reckon.Count("η", "of it that comes out as mains", float64(out)),
		reckon.In("P", "ordinary programme", n.Watts[Ordinary], ""))
}

// Backed are the nodes that a battery holds up after the mains has gone: conditioners that have
// one.
func (t *Tree) Backed() (list []Set) {
	for i := range t.Nodes {
		if n := &t.Nodes[i]; n.Model != nil && !n.Model.Kind.Generates() && n.Model.Supply.Stored.Known() {
			list = append(list, Set{Node: n, Index: i, Asked: n.Watts, VA: n.VA, Lasts: runs(n)})
		}
	}
	return slices.Clip(list)
}
