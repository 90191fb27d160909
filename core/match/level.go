package match

import (
	"fmt"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/sound"
	"largo/core/unit"
)

// levelAt is the level of a box at its listeners with the highest peaks that
// reach it, L = S + 10 lg P − 20 lg r, and what the room adds. Without a limiter
// on record it is taken as held to twice its continuous rating, the peak of a
// rating with 6 dB crest.
func levelAt(x *rig.Index, b *drive.Box, rating reckon.Figure) reckon.Figure {
	const key, symbol, name = "level", "L", "level at full power"
	s := b.Speaker.OneWattSensitivity()
	top, lacks := b.TopW()
	r, known := drive.ListeningDistance(x, b.Device).Get()
	switch {
	case lacks != "":
		return reckon.Unknown(key, symbol, name, lacks)
	case !s.Known():
		return reckon.Unknown(key, symbol, name, s.Lacks)
	case !known:
		return reckon.Unknown(key, symbol, name, drive.NoDistance(b.Device))
	}
	p, note := float64(top), ""
	if most := 2 * rating.Value; rating.Known() && p > most {
		p, note = most, "Taken as held to twice the continuous rating, for more burns it."
	}
	room, terms := drive.RoomGain(x.Rig.Brief, r)
	f := reckon.Of(key, symbol, name, sound.Direct(unit.Decibel(s.Value), unit.Watt(p), r)+room,
		"{S} + 10 lg({P} / 1 W) − 20 lg({r} / 1 m)", s.As("S"), reckon.In("P", "power at the box", unit.Watt(p), ""),
		reckon.In("r", "distance", r, distanceFrom(b.Device))).Noting(note)
	return inRoom(f, terms)
}

// activeLevel is the level of an active box at its listeners. The sheet's
// largest level is taken as a peak, 3 dB over a full sine.
func activeLevel(x *rig.Index, d *rig.Device, s *gear.Loudspeaker) reckon.Figure {
	const key, symbol, name = "level", "L", "level at full power"
	most, known := s.MaxSPL.Get()
	r, placed := drive.ListeningDistance(x, d).Get()
	switch {
	case !known:
		return reckon.Unknown(key, symbol, name, "the sheet of the active box gives no largest level")
	case !placed:
		return reckon.Unknown(key, symbol, name, drive.NoDistance(d))
	}
	room, terms := drive.RoomGain(x.Rig.Brief, r)
	f := reckon.Of(key, symbol, name, most-3.01-unit.OfVolts(float64(r))+room, "{Lmax} − 3.01 dB − 20 lg({r} / 1 m)",
		reckon.In("Lmax", "largest level, taken as peak, 1 m", most, s.MaxSPL.Origin()),
		reckon.In("r", "distance", r, distanceFrom(d)))
	return inRoom(f, terms)
}

// inRoom says of a level what of the room is in it.
func inRoom(f reckon.Figure, terms []reckon.Term) reckon.Figure {
	if terms == nil {
		return f.Because("inverse square law, direct sound, without air or room")
	}
	f.Formula += " + 10 lg(1 + ({r} / {rc})²)"
	f.Terms = append(f.Terms, terms...)
	return f.Noting("With the room's part; a directivity of 5 is assumed.").
		Because("inverse square law; reverberant field by Hopkins and Stryker")
}

func distanceFrom(d *rig.Device) string {
	if d.Distance().Known() {
		return "noted of the box"
	}
	return "brief"
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

// hears is what arrives at an active box at line level, "" when nothing does.
func hears(x *rig.Index, d *rig.Device) string {
	in := rig.Ref{Device: d.Tag, Port: "in"}
	up, fed := x.Into(in)
	if p, _ := x.Port(up.From); !fed || p.Signal != gear.Line {
		return ""
	}
	return x.Arrives(in)
}

// outputLevel is the level of the boxes of one output at their listeners.
func outputLevel(boxes []Box) reckon.Figure {
	var l sum
	for i := range boxes {
		b := &boxes[i]
		l.add(heard{Device: b.Device, sub: b.Speaker.Sub, level: &b.Level})
	}
	return l.figure("outputLevel", "L", "level of this output's boxes at full power", "nothing hangs on this output")
}

// AverageOf is the average of ordinary programme whose peaks reach a level on
// full power.
func AverageOf(level reckon.Figure) reckon.Figure {
	return reckon.Of("average", "Leq", "average of ordinary programme", unit.Decibel(level.Value)-ProgrammeRoom,
		"{L} − 9.03 dB", level.As("L")).
		Noting("Ordinary programme averages 1/8 of a full sine.").Because("IEC 62368-1 (from memory)")
}

// spare compares the programme of an area with the wanted level. While one of its
// boxes is silent or not known nothing is to spare, and nothing short.
func spare(b rig.Brief, a Area) (average, over reckon.Figure) {
	const key, symbol, name = "spare", "ΔL", "spare over the wanted level"
	if !a.Level.Known() {
		average = reckon.Unknown("average", "Leq", "average of programme", a.Level.Lacks)
		return average, reckon.Unknown(key, symbol, name, a.Level.Lacks)
	}
	average = AverageOf(a.Level)
	wanted, known := b.Wanted.Get()
	switch {
	case !known:
		return average, reckon.Unknown(key, symbol, name, "the brief names no wanted level")
	case a.Partial():
		return average, reckon.Unknown(key, symbol, name, a.lacks())
	}
	return average, reckon.Of(key, symbol, name, unit.Decibel(average.Value)-wanted, "{Leq} − {Lw}",
		average.As("Leq"), reckon.In("Lw", "wanted "+b.Weighting.Leq(), wanted, b.WantedBy))
}

// levelFindings tells what areas are too quiet. While the level of some box is
// unknown the sum is a lower bound, and the unknown is a finding of its own.
func (v Verdict) levelFindings(x *rig.Index) []finding.Finding {
	var fs []finding.Finding
	wanted, known := x.Rig.Brief.Wanted.Get()
	if decides := v.Decides(); known && v.Poorest >= 0 && !decides.Spare.Known() {
		fs = append(fs, finding.Finding{
			Code: "brief.level-unknown", Stage: finding.Brief, Danger: finding.Sound, Gravity: finding.Mind,
			What:   fmt.Sprintf("Whether the rig gives the wanted %s is not known: %s.", wanted, decides.Spare.Lacks),
			Why:    "Nothing is promised to listeners on half of the figures.",
			Advice: "Mend what is silent, and look up what is not known; the sum follows.",
		})
	}
	for _, a := range v.Areas {
		if a.Name == rig.OnStage || !a.Spare.Known() || a.Spare.Value >= 0 {
			continue
		}
		short := unit.Decibel(-a.Spare.Value)
		what := fmt.Sprintf("The rig falls %s short of the wanted %s.", short, x.Rig.Brief.Wanted)
		if a.Name != rig.Audience {
			what = fmt.Sprintf("The rig falls %s short of the wanted %s for %s.", short, x.Rig.Brief.Wanted, a.Whom())
		}
		fs = append(fs, finding.Finding{
			Code: "match.level-short", Stage: finding.Match, Danger: finding.Sound, Gravity: finding.Mend, What: what,
			Why: "Pushed for the rest it would clip all evening.", Figures: []reckon.Figure{a.Spare, a.Average, a.Level},
			Advice: fmt.Sprintf("%s more is %s times the power. Ask first for more sensitive boxes, more of them, or a "+
				"shorter distance.", short, unit.Number(short.Ratio())),
		})
	}
	return fs
}
