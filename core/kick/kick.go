// Package kick works out what arrives at the boxes of what a device sends when it wakes or goes
// off: its volts times the gains on the way, against what each box stands.
package kick

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"largo/core/drive"
	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// Edge is when a device sends a kick.
type Edge int

// The edges.
const (
	Wakes Edge = iota
	Dies
)

// Arrival is a kick at an output and what hangs on it.
type Arrival struct {
	From   string  // the device that sends it
	Out    rig.Ref // of the amplifier
	Box    string  // the one that stands least
	Volts  reckon.Figure
	Stands reckon.Figure // V peak
}

// Over tells whether more arrives than the box stands, as far as both are known.
func (a Arrival) Over() bool {
	return a.Volts.Known() && a.Stands.Known() && a.Volts.Value > a.Stands.Value
}

// Says is one in words: "17.4 V peak of DESK is 252 V at TOP L1, which stands 80 V".
func (a Arrival) Says() string {
	switch {
	case !a.Volts.Known():
		return fmt.Sprintf("how much of the kick of %s reaches %s is not known: %s", a.From, a.Box, a.Volts.Lacks)
	case !a.Stands.Known():
		return fmt.Sprintf("the kick of %s is up to %s at %s, and what that stands is not known", a.From, peak(a.Volts),
			a.Box)
	case a.Over():
		return fmt.Sprintf("the kick of %s is up to %s at %s, which stands %s", a.From, peak(a.Volts), a.Box, peak(a.Stands))
	}
	return fmt.Sprintf("the kick of %s is up to %s at %s, which stands %s: a thump, and no damage", a.From, peak(a.Volts),
		a.Box, peak(a.Stands))
}

func peak(f reckon.Figure) string {
	return unit.Number(math.Round(f.Value)) + " V peak"
}

// Sends is what the outputs of a model send at an edge, V peak; nothing with a relay that mutes
// them on waking. What its sheet does not say is taken as the largest sine that they can send.
func Sends(m *gear.Model, e Edge) reckon.Figure {
	const key, symbol, name = "kick", "Uk", "kick at its outputs, peak"
	v, known := m.Wake.Kick.Get()
	if e == Dies {
		v, known = m.Wake.KickOff.Get()
	}
	switch {
	case e == Dies && m.Wake.Roars == gear.Yes && !known:
		// the noise of a receiver without its transmitter is as large as its output
	case e == Wakes && m.Wake.Mutes == gear.Yes:
		return reckon.Of(key, symbol, name, unit.Volt(0),
			"").Because("its sheet: a relay mutes its outputs until it has settled")
	case known:
		return reckon.Of(key, symbol, name, v, "").Because("gear")
	}
	most, has := m.LargestLine().Get()
	if !has {
		return reckon.Unknown(key, symbol, name, "neither its kick nor its largest level is on record")
	}
	return reckon.Of(key, symbol, name, most.Volt()*math.Sqrt2, "√2 × {Lmost}",
		reckon.In("Lmost", "its largest level", most, "gear")).Noting("Its kick is not on record: as much as it can send.")
}

// Reaches is what arrives at every output that a device can reach, the worst first: through
// mixers and processors as loud as it came, through leads with their pads, and no more than the
// amplifier gives.
func Reaches(x *rig.Index, outs []drive.Output, device int, e Edge) (list []Arrival) {
	m := x.ModelAt(device)
	sent, reach := Sends(m, e), x.Reach()[device]
	for i := range outs {
		o := &outs[i]
		if !o.Live || len(o.Boxes) == 0 {
			continue
		}
		if !reach.Has(x.At(o.At.Device)) {
			continue
		}
		a := Arrival{From: x.Rig.Devices[device].Tag, Out: o.At, Volts: arrives(o, sent)}
		a.Box, a.Stands = least(o)
		list = append(list, a)
	}
	slices.SortStableFunc(list, func(a, b Arrival) int { return cmp.Compare(severity(b), severity(a)) })
	return list
}

// severity is how much more arrives than the box stands; what is not known stands last.
func severity(a Arrival) float64 {
	if !a.Volts.Known() || !a.Stands.Known() || a.Stands.Value == 0 {
		return -1
	}
	return a.Volts.Value / a.Stands.Value
}

// arrives is a kick at an output of an amplifier.
func arrives(o *drive.Output, sent reckon.Figure) reckon.Figure {
	const key, symbol, name = "kickAt", "Ubox", "kick at the output, peak"
	gain, known := o.GainDB()
	clip, clips := o.ClipVolts()
	switch {
	case !sent.Known():
		return reckon.Unknown(key, symbol, name, sent.Lacks)
	case !known:
		return reckon.Unknown(key, symbol, name, "the gain of "+o.At.Device+" is not on record")
	}
	v := unit.Volt(sent.Value * math.Pow(10, float64(gain-o.Padded())/20))
	if clips && v > clip*math.Sqrt2 {
		return reckon.Of(key, symbol, name, clip*math.Sqrt2, "√2 × {Uclip}", reckon.In("Uclip", "where it clips", clip, "")).
			Noting("All that the amplifier gives.")
	}
	return reckon.Of(key, symbol, name, v, "{Uk} × 10^({G} / 20 dB)", sent.As("Uk"),
		reckon.In("G", "gain, less pads", gain-o.Padded(), "")).Noting("Through mixers and processors as loud as it came.")
}

// least is the box of an output that stands least, by the peaks of its rating test.
func least(o *drive.Output) (tag string, stands reckon.Figure) {
	for _, b := range o.Hung() {
		_, p := drive.RatedLimits(b)
		if tag == "" || !p.Known() || stands.Known() && p.Value < stands.Value {
			tag, stands = b.Name(), p
		}
	}
	return tag, stands
}
