package drive

import (
	"largo/core/reckon"
	"largo/core/unit"
)

// QesIn is the electrical Q of the box's driver with all that stands between it and a stiff
// voltage: Qes (Re + Rs)/Re. It is what leads and amplifier do to the bass, and all of it.
func (b *Box) QesIn() reckon.Figure {
	const key, symbol, name = "qesIn", "Qes'", "electrical Q with leads and amplifier"
	d := b.Speaker.Driver
	if d == nil || !d.Qes.Known() || !d.Re.Known() {
		return reckon.Unknown(key, symbol, name, "the driver's Qes and its resistance are not on record")
	}
	damping := b.Damping()
	if !damping.Known() {
		return reckon.Unknown(key, symbol, name, damping.Lacks)
	}
	rs := unit.Ohm(b.Speaker.NominalZ().Value / damping.Value)
	re, qes := d.Re.Or(0), d.Qes.Or(0)
	return reckon.Ratio(key, symbol, name, float64(qes)*float64((re+rs)/re), "{Qes} × ({Re} + {Rs}) / {Re}",
		reckon.In("Qes", "of the driver in its box", qes, d.Qes.Origin()), reckon.In("Re", "of its coil", re, d.Re.Origin()),
		reckon.In("Rs", "leads and amplifier, boxes in step", rs, "")).Because("R. H. Small, 1972")
}
