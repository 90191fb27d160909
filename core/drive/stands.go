package drive

import (
	"math"

	"largo/core/load"
	"largo/core/reckon"
	"largo/core/unit"
)

// RatedLimits are what a box stands at its output by its rating: V_rms = sqrt(P_cont Z_ref),
// with Z_ref the impedance that the rating was figured on; the peak is a crest factor above
// it, twice at 6 dB.
func RatedLimits(b load.Box) (long, peak reckon.Figure) {
	p, z := b.Speaker.ContinuousW(), b.Speaker.RatedOn()
	lacks := ""
	switch {
	case !p.Known():
		lacks = b.Name() + ": " + p.Lacks
	case !z.Known():
		lacks = b.Name() + ": " + z.Lacks
	case b.Share == 0:
		lacks = b.Name() + ": it shares a line with a box whose impedance is not on record"
	}
	if lacks != "" {
		return reckon.Unknown("long", "Vrms", "long-term limit", lacks), reckon.Unknown("peak", "Vpk", "peak limit", lacks)
	}
	v := unit.Watt(p.Value).Across(unit.Ohm(z.Value)) / unit.Volt(b.Share)
	formula, terms := "sqrt({Pc} × {Z})", []reckon.Term{p.As("Pc"), z.As("Z")}
	if b.Share != 1 {
		formula += " / {k}"
		terms = append(terms, reckon.Count("k", "share of the volts that reaches "+b.Name(), b.Share))
	}
	long = reckon.Of("long", "Vrms", "long-term limit", v, formula, terms...).
		Noting(p.Note).Noting(z.Note).Because("P = U²/Z on the impedance the rating was figured on")
	crest := b.Speaker.CrestOr6()
	peak = reckon.Of("peak", "Vpk", "peak limit", v*unit.Volt(math.Pow(10, float64(crest)/20)),
		"{Vrms} × 10^({C} / 20 dB)",
		long.As("Vrms"), reckon.In("C", "crest factor of the rating's test signal", crest, b.Speaker.Crest.Origin())).
		Because("the peaks the box has withstood in its rating test; 6 dB crest in AES2-1984 and IEC 60268-5 (from memory)")
	return long, peak
}
