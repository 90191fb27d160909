package match

import (
	"fmt"
	"math"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// programmeRoom is how far the average of ordinary programme lies under a
// full sine: its average power is 1/8 of it, 9 dB, a crest factor of 12 dB
// with occasional clipping (IEC 62368-1, annex on audio amplifiers; from memory).
const programmeRoom unit.Decibel = 9.03

// levelAt is the level of a box at its listeners with all the power that it
// gets, held by its limiter to twice its continuous rating (the peak of a
// rating with 6 dB crest): L = S + 10 lg P − 20 lg r.
func levelAt(x *rig.Index, b Box) reckon.Figure {
	const key, symbol, name = "level", "L", "level at full power"
	s := b.Speaker.OneWattSensitivity()
	r, known := listeningDistance(x, b.Device).Get()
	switch {
	case !b.Power.Known():
		return reckon.Unknown(key, symbol, name, b.Power.Lacks)
	case !s.Known():
		return reckon.Unknown(key, symbol, name, s.Lacks)
	case !known:
		return reckon.Unknown(key, symbol, name, "the brief gives no distance to the listening point")
	}
	p, note := b.Power.Value, ""
	if most := 2 * b.Continuous.Value; b.Continuous.Known() && p > most {
		p, note = most, "Held by the limiter to twice the continuous rating."
	}
	return reckon.Of(key, symbol, name, unit.Decibel(s.Value+10*math.Log10(p)-20*math.Log10(float64(r))),
		"{S} + 10 lg({P} / 1 W) − 20 lg({r} / 1 m)", s.As("S"), reckon.In("P", "power at the box", unit.Watt(p), ""), reckon.In("r", "distance", r, "brief")).
		Noting(note).Because("inverse square law, free field, without air or room")
}

// activeLevel is the level of an active box at its listeners. The sheet's
// largest level is taken as a peak, 3 dB over a full sine.
func activeLevel(x *rig.Index, d *rig.Device, s *gear.Loudspeaker) reckon.Figure {
	const key, symbol, name = "level", "L", "level at full power"
	most, known := s.MaxSPL.Get()
	r, placed := listeningDistance(x, d).Get()
	switch {
	case !known:
		return reckon.Unknown(key, symbol, name, "the sheet of the active box gives no largest level")
	case !placed:
		return reckon.Unknown(key, symbol, name, "the brief gives no distance to the listening point")
	}
	return reckon.Of(key, symbol, name, most-3.01-unit.OfVolts(float64(r)), "{Lmax} − 3.01 dB − 20 lg({r} / 1 m)",
		reckon.In("Lmax", "largest level, taken as peak, 1 m", most, s.MaxSPL.Origin()), reckon.In("r", "distance", r, "brief")).
		Because("inverse square law, free field, without air or room")
}

func listeningDistance(x *rig.Index, d *rig.Device) unit.Given[unit.Metre] {
	if d.Distance.Known() || d.Aim == rig.Stage {
		return d.Distance
	}
	return x.Rig.Brief.Distance
}

// sumLevels adds the levels of all full-range boxes for the audience as
// powers. Subwoofers are left out: an A-weighted reading hardly sees them.
func (v *Verdict) sumLevels(x *rig.Index) {
	var energy float64
	var boxes, unknown int
	add := func(d *rig.Device, s *gear.Loudspeaker, level reckon.Figure) {
		if d.Aim != rig.Audience || s.Sub {
			return
		}
		boxes++
		if !level.Known() {
			unknown++
			return
		}
		energy += math.Pow(10, level.Value/10)
	}
	for _, o := range v.Outputs {
		for _, b := range o.Boxes {
			if o.Live && o.Programme != "" {
				add(b.Device, b.Speaker, b.Level)
			}
		}
	}
	for i := range x.Rig.Devices {
		d, m := &x.Rig.Devices[i], x.ModelAt(i)
		if m.Kind == gear.KindLoudspeaker && m.Loudspeaker.Active && hears(x, d) {
			add(d, m.Loudspeaker, activeLevel(x, d, m.Loudspeaker))
		}
	}
	v.Level = together(energy, boxes, unknown)
	v.Average, v.Spare = spare(x.Rig.Brief, v.Level)
}

// hears tells whether an active box is fed at line level.
func hears(x *rig.Index, d *rig.Device) bool {
	in := rig.Ref{Device: d.Tag, Port: "in"}
	up, fed := x.Into(in)
	p, _ := x.Port(up.From)
	return fed && p.Signal == gear.Line && x.Programme(in) != ""
}

func together(energy float64, boxes, unknown int) reckon.Figure {
	const key, symbol, name = "together", "L", "level of all boxes at full power"
	switch {
	case boxes == 0:
		return reckon.Unknown(key, symbol, name, "no box for the audience is driven")
	case energy == 0:
		return reckon.Unknown(key, symbol, name, "the level of no box is known")
	}
	f := reckon.Of(key, symbol, name, unit.Decibel(10*math.Log10(energy)), "10 lg Σ 10^(Li/10) over {n}", reckon.Count("n", "boxes", float64(boxes-unknown))).
		Because("power sum: the boxes carry signal that does not add in step")
	if unknown > 0 {
		f = f.Noting(fmt.Sprintf("%s left out, because the level is unknown.", times(unknown, "box")))
	}
	return f
}

func spare(b rig.Brief, level reckon.Figure) (average, over reckon.Figure) {
	if !level.Known() {
		average = reckon.Unknown("average", "Leq", "average of programme", level.Lacks)
		return average, reckon.Unknown("spare", "ΔL", "spare over the wanted level", level.Lacks)
	}
	average = reckon.Of("average", "Leq", "average of ordinary programme", unit.Decibel(level.Value)-programmeRoom, "{L} − 9.03 dB", level.As("L")).
		Noting("Ordinary programme averages 1/8 of a full sine.").Because("IEC 62368-1 (from memory)")
	wanted, known := b.Wanted.Get()
	if !known {
		return average, reckon.Unknown("spare", "ΔL", "spare over the wanted level", "the brief names no wanted level")
	}
	return average, reckon.Of("spare", "ΔL", "spare over the wanted level", unit.Decibel(average.Value)-wanted, "{Leq} − {Lw}",
		average.As("Leq"), reckon.In("Lw", "wanted level", wanted, b.WantedBy))
}

// levelFindings keeps silent while the level of some box is unknown: the sum
// is then a lower bound, and the unknown is a finding of its own.
func (v Verdict) levelFindings(x *rig.Index) []finding.Finding {
	if !v.Spare.Known() || v.Spare.Value >= 0 || v.Level.Note != "" {
		return nil
	}
	short := unit.Decibel(-v.Spare.Value)
	return []finding.Finding{{
		Code: "match.level-short", Stage: finding.Match, Danger: finding.Sound, Gravity: finding.Mend,
		What:    fmt.Sprintf("The rig falls %s short of the wanted %s.", short, x.Rig.Brief.Wanted),
		Why:     "Pushed for the rest it would clip all evening.",
		Figures: []reckon.Figure{v.Spare, v.Average, v.Level},
		Advice:  fmt.Sprintf("%s more is %s times the power. Ask first for more sensitive boxes, more of them, or a shorter distance.", short, unit.Number(short.Ratio())),
	}}
}
