package drive

import (
	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// Nominal is the mains of a region in V, 0 where none is named.
func Nominal(r rig.Region) unit.Volt {
	m, _ := r.Mains()
	return m.Volts
}

// mainsFigure is the voltage at an inlet.
func mainsFigure(v unit.Volt, from string) reckon.Figure {
	return reckon.Of("supply", "U", "mains at its inlet", v, "").Because(from)
}

// noMains is a voltage that nothing tells.
func noMains(lacks string) reckon.Figure {
	return reckon.Unknown("supply", "U", "mains at its inlet", lacks)
}

// AtPlace is the mains of the place: as read at the source on record, else what
// the region has.
func AtPlace(r rig.Rig) reckon.Figure {
	for i := range r.Supplies {
		s := &r.Supplies[i]
		if v, known := s.Volts.Get(); known && s.Sort == rig.Source {
			return mainsFigure(v, "read at "+s.Name)
		}
	}
	if v := Nominal(r.Brief.Region); v != 0 {
		return mainsFigure(v, "the brief")
	}
	return noMains("the brief does not say what mains the place has")
}

// AtInlet is the mains at the inlet of a device: as read at the outlet it is on
// or further up, through what it is plugged into, else that of the place.
func AtInlet(x *rig.Index, d *rig.Device) reckon.Figure {
	return atInlet(x, d, len(x.Rig.Devices))
}

func atInlet(x *rig.Index, d *rig.Device, budget int) reckon.Figure {
	if outlet := x.OutletOf(d); outlet != "" {
		return AtOutlet(x.Rig, outlet)
	}
	k, fed := x.Inlet(d)
	if !fed || budget == 0 {
		return AtPlace(x.Rig)
	}
	up, m := x.Device(k.From.Device)
	if m.Supply == nil {
		return AtPlace(x.Rig)
	}
	if v, known := m.Supply.Gives.Get(); known {
		return mainsFigure(v, up.Tag)
	}
	switch {
	case m.Kind.Generates():
		return noMains("the sheet of " + up.Tag + " does not say what voltage it gives")
	case m.Kind == gear.KindTransformer && !m.Supply.Ratio.Known():
		return noMains("neither ratio nor voltage of the transformer " + up.Tag + " is on record")
	}
	in := atInlet(x, up, budget-1)
	if ratio, known := m.Supply.Ratio.Get(); known && in.Known() {
		return reckon.Of(in.Key, in.Symbol, in.Name, unit.Volt(in.Value)*unit.Volt(ratio), "{U1} × {n}", in.As("U1"),
			reckon.Count("n", "ratio of "+up.Tag, float64(ratio))).Because(in.Source)
	}
	return in
}

// AtOutlet is what was read at a part of the supply, or nearest above it, else what the
// place has.
func AtOutlet(r rig.Rig, name string) reckon.Figure {
	for range r.Supplies {
		i := 0
		for i < len(r.Supplies) && r.Supplies[i].Name != name {
			i++
		}
		if i == len(r.Supplies) {
			break
		}
		at := &r.Supplies[i]
		if v, known := at.Volts.Get(); known {
			return mainsFigure(v, "read at "+at.Name)
		}
		if name = at.From; name == "" {
			break
		}
	}
	return AtPlace(r)
}

// Amp is an amplifier model on a mains voltage.
type Amp struct {
	Model  *gear.Model
	Supply reckon.Figure
}

// PowerInto is the continuous power in W that one channel, or one bridged pair,
// gives into a load on these mains, its supply its own.
func (a Amp) PowerInto(mode gear.Mode, z unit.Ohm) reckon.Figure {
	return a.at(a.Model.Amplifier.PowerInto(mode, z))
}

// BurstInto is the burst power in W on these mains.
func (a Amp) BurstInto(mode gear.Mode, z unit.Ohm) reckon.Figure {
	return a.at(a.Model.Amplifier.BurstInto(mode, z))
}

// Together is what all channels give together where they share a supply.
func (a Amp) Together() reckon.Figure {
	const key, symbol, name = "together", "Pall", "all channels together"
	w, known := a.Model.Amplifier.Together.Get()
	if !known {
		return reckon.Unknown(key, symbol, name, "the sheet names no power of all channels together")
	}
	return a.at(reckon.Of(key, symbol, name, w, "").Because("sheet"))
}

func (a Amp) at(power reckon.Figure) reckon.Figure {
	if !a.Supply.Known() {
		return power.Noting("What mains it is on is not known; its rated power is taken.")
	}
	return a.Model.AtSupply(power, unit.Volt(a.Supply.Value))
}

// Refuses says why the amplifier must not be on these mains; "" where nothing is
// known against it.
func (a Amp) Refuses() string {
	if !a.Supply.Known() {
		return ""
	}
	return a.Model.RefusesSupply(unit.Volt(a.Supply.Value))
}

// Demand is what one output asks of a supply that several share.
type Demand struct {
	Power unit.Watt             // that it would give alone
	Most  unit.Given[unit.Watt] // that its limiter lets it give for long
}

// takes is what an output takes where the supply lets each have a share.
func (d Demand) takes(share float64) float64 {
	return min(share*float64(d.Power), float64(d.Most.Or(d.Power)))
}

// Shared is the part of its own power that each output still gives when all are
// driven at once and the supply gives no more than most together, 0 to 1. The
// rails sag for all alike, so an output held by a limiter keeps its power until
// they sag below that.
func Shared(demands []Demand, most unit.Watt) float64 {
	sum := func(share float64) (all float64) {
		for _, d := range demands {
			all += d.takes(share)
		}
		return all
	}
	if sum(1) <= float64(most)*(1+1e-9) {
		return 1
	}
	low, high := 0.0, 1.0
	for range 60 {
		if mid := (low + high) / 2; sum(mid) > float64(most) {
			high = mid
		} else {
			low = mid
		}
	}
	return low
}
