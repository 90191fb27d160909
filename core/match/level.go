package match

import (
	"fmt"
	"math"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
	"largo/core/words"
)

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
		"{S} + 10 lg({P} / 1 W) − 20 lg({r} / 1 m)", s.As("S"), reckon.In("P", "power at the box", unit.Watt(p), ""),
		reckon.In("r", "distance", r, "brief")).
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
		reckon.In("Lmax", "largest level, taken as peak, 1 m", most, s.MaxSPL.Origin()),
		reckon.In("r", "distance", r, "brief")).
		Because("inverse square law, free field, without air or room")
}

func listeningDistance(x *rig.Index, d *rig.Device) unit.Given[unit.Metre] {
	if d.Distance().Known() || d.Aim() == rig.OnStage {
		return d.Distance()
	}
	return x.Rig.Brief.Distance
}

// activeBoxes judges the boxes that bring their own amplifiers.
func activeBoxes(x *rig.Index) []ActiveBox {
	var boxes []ActiveBox
	for i := range x.Rig.Devices {
		d, m := &x.Rig.Devices[i], x.ModelAt(i)
		if m.Kind == gear.KindLoudspeaker && m.Loudspeaker.Active {
			boxes = append(boxes, ActiveBox{d.Tag, d, m.Loudspeaker, hears(x, d), activeLevel(x, d, m.Loudspeaker)})
		}
	}
	return boxes
}

// hears tells whether an active box is fed at line level.
func hears(x *rig.Index, d *rig.Device) bool {
	in := rig.Ref{Device: d.Tag, Port: "in"}
	up, fed := x.Into(in)
	p, _ := x.Port(up.From)
	return fed && p.Signal == gear.Line && x.Arrives(in) != ""
}

// levels adds levels as powers, and counts those that are not known.
type levels struct {
	energy         float64
	boxes, unknown int
}

func (l *levels) add(level reckon.Figure) {
	l.boxes++
	if !level.Known() {
		l.unknown++
		return
	}
	l.energy += math.Pow(10, level.Value/10)
}

// sum gives the levels together; lacks says what is so when there is no box.
func (l levels) sum(key, name, lacks string) reckon.Figure {
	const symbol = "L"
	switch {
	case l.boxes == 0:
		return reckon.Unknown(key, symbol, name, lacks)
	case l.energy == 0:
		return reckon.Unknown(key, symbol, name, "the level of no box is known")
	}
	f := reckon.Of(key, symbol, name, unit.Decibel(10*math.Log10(l.energy)), "10 lg Σ 10^(Li/10) over {n}",
		reckon.Count("n", "boxes", float64(l.boxes-l.unknown))).
		Because("power sum: the boxes carry signal that does not add in step")
	if l.unknown > 0 {
		f = f.Noting(fmt.Sprintf("%s left out, because the level is unknown.", words.Count(l.unknown, "box", "boxes")))
	}
	return f
}

// outputLevel is the level of the boxes of one output at their listeners.
func outputLevel(boxes []Box) reckon.Figure {
	var l levels
	for _, b := range boxes {
		l.add(b.Level)
	}
	return l.sum("outputLevel", "level of this output's boxes at full power", "nothing hangs on this output")
}

// Heard lists the full-range passive boxes that play for the audience. A box
// of several ways is heard as its weakest: each carries a band of its own, and
// the processor turns the stronger down to it (common practice, no source).
func (v *Verdict) Heard() []*Box {
	var heard []*Box
	at := map[string]int{}
	for _, o := range v.Outputs {
		for i := range o.Boxes {
			b := &o.Boxes[i]
			if !o.Live || o.Arrives == "" || b.Device.Aim() != rig.Audience || b.Speaker.Sub {
				continue
			}
			i, known := at[b.Tag]
			switch {
			case !known:
				at[b.Tag] = len(heard)
				heard = append(heard, b)
			case heard[i].Level.Known() && (!b.Level.Known() || b.Level.Value < heard[i].Level.Value):
				heard[i] = b
			}
		}
	}
	return heard
}

// sumLevels adds the levels of all full-range boxes for the audience as
// powers. Subwoofers are left out: an A-weighted reading hardly sees them.
func (v *Verdict) sumLevels(x *rig.Index) {
	var l levels
	for _, b := range v.Heard() {
		l.add(b.Level)
	}
	for _, a := range v.Active {
		if a.Fed && a.Device.Aim() == rig.Audience && !a.Box.Sub {
			l.add(a.Level)
		}
	}
	v.Subs = v.subs()
	v.Level = l.sum("together", "level of all boxes at full power", "no box for the audience is driven")
	v.Partial = l.unknown > 0
	v.Average, v.Spare = spare(x.Rig.Brief, v.Level)
}

// subs adds the subwoofers for the audience in step, as they add where they
// stand within a quarter of a wave of each other: at 80 Hz about a metre.
func (v *Verdict) subs() reckon.Figure {
	var pressure float64
	n, unknown := 0, 0
	for _, o := range v.Outputs {
		for _, b := range o.Boxes {
			if !o.Live || o.Arrives == "" || b.Device.Aim() != rig.Audience || !b.Speaker.Sub {
				continue
			}
			if n++; !b.Level.Known() {
				unknown++
				continue
			}
			pressure += math.Pow(10, b.Level.Value/20)
		}
	}
	const key, symbol, name = "subs", "Lsub", "level of the subwoofers at full power"
	switch {
	case n == 0:
		return reckon.Unknown(key, symbol, name, "no subwoofer for the audience is driven")
	case pressure == 0:
		return reckon.Unknown(key, symbol, name, "the level of no subwoofer is known")
	}
	return reckon.Of(key, symbol, name, unit.Decibel(20*math.Log10(pressure)), "20 lg Σ 10^(Li/20) over {n}",
		reckon.Count("n", "subwoofers", float64(n-unknown))).
		Noting("They add in step while they stand close together; spread out they add as powers, up to half of that.").
		Because("pressures in step")
}

// AverageOf is the average of ordinary programme whose peaks reach a level on
// full power.
func AverageOf(level reckon.Figure) reckon.Figure {
	return reckon.Of("average", "Leq", "average of ordinary programme", unit.Decibel(level.Value)-ProgrammeRoom,
		"{L} − 9.03 dB", level.As("L")).
		Noting("Ordinary programme averages 1/8 of a full sine.").Because("IEC 62368-1 (from memory)")
}

func spare(b rig.Brief, level reckon.Figure) (average, over reckon.Figure) {
	if !level.Known() {
		average = reckon.Unknown("average", "Leq", "average of programme", level.Lacks)
		return average, reckon.Unknown("spare", "ΔL", "spare over the wanted level", level.Lacks)
	}
	average = AverageOf(level)
	wanted, known := b.Wanted.Get()
	if !known {
		return average, reckon.Unknown("spare", "ΔL", "spare over the wanted level", "the brief names no wanted level")
	}
	return average, reckon.Of("spare", "ΔL", "spare over the wanted level", unit.Decibel(average.Value)-wanted,
		"{Leq} − {Lw}",
		average.As("Leq"), reckon.In("Lw", "wanted level", wanted, b.WantedBy))
}

// levelFindings keeps silent while the level of some box is unknown: the sum
// is then a lower bound, and the unknown is a finding of its own.
func (v Verdict) levelFindings(x *rig.Index) []finding.Finding {
	if !v.Spare.Known() || v.Spare.Value >= 0 || v.Partial {
		return nil
	}
	short := unit.Decibel(-v.Spare.Value)
	return []finding.Finding{{
		Code: "match.level-short", Stage: finding.Match, Danger: finding.Sound, Gravity: finding.Mend,
		What:    fmt.Sprintf("The rig falls %s short of the wanted %s.", short, x.Rig.Brief.Wanted),
		Why:     "Pushed for the rest it would clip all evening.",
		Figures: []reckon.Figure{v.Spare, v.Average, v.Level},
		Advice: fmt.Sprintf("%s more is %s times the power. Ask first for more sensitive boxes, more of them, or a "+
			"shorter distance.", short, unit.Number(short.Ratio())),
	}}
}
