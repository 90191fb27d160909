// Package level is gain structure: what of the way from the desk to each output clips
// first, how far the rest is from its clip then, and where the level control has to
// stand so that both clip together.
//
// All levels are those of a sine at the amplifier's input, in dBu, with the level
// control as it is noted, fully up where it is not.
package level

import (
	"math"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/stage"
	"largo/core/unit"
	"largo/core/words"
)

// Line is the way to one output.
type Line struct {
	*drive.Output
	Known bool         // what clips first is known
	Over  unit.Decibel // of what feeds it over what clips it; below 0 the feeder clips first
	Noted bool         // where the level control stands is on record
}

// Active is an active box that something feeds at line level.
type Active struct {
	Tag   string
	Chain Chain
	Over  unit.Given[unit.Decibel] // of what feeds it over what clips its input, as its trim stands
	By    string                   // what feeds it
}

// Verdict is the lines of a rig, its active boxes, and the channels of its mixers.
type Verdict struct {
	Lines    []Line
	Active   []Active
	Channels []Channel
}

// Stage is this stage of the day.
var Stage = stage.Stage{Name: finding.Level, Stopped: finding.Mend, Says: says, Judge: outcome}

func outcome(in *stage.Input) stage.Outcome {
	v, fs := Judge(in.Index, in.Driven())
	return stage.Outcome{Result: v, Findings: fs, Empty: v.known() == 0 && len(v.Active) == 0,
		Places: func() []stage.Place {
			places := make([]stage.Place, len(v.Lines))
			for i, l := range v.Lines {
				places[i] = stage.Place{Name: l.At.String(), Figures: append([]reckon.Figure{l.Sent(), l.ClipIn(), l.Spare()},
					lineFigures(in.Index, l.Output)...)}
			}
			return places
		}}
}

// known counts the lines of which it is known what clips first.
func (v Verdict) known() (n int) {
	for _, l := range v.Lines {
		if l.Known {
			n++
		}
	}
	return n
}

// says what clips first.
func says(j stage.Judged) string {
	v, _ := j.Result.(Verdict)
	switch n := j.Count("level.source-short"); {
	case len(v.Lines) > 0 && j.Stopped():
		return "Something of the rig is at stop: mend that first, and line up levels after."
	case len(v.Lines) == 0 && len(v.Active) > 0:
		return saysActive(v.Active)
	case len(v.Lines) == 0:
		return "No amplifier is fed yet, so there is no level to line up."
	case v.known() == 0:
		l := v.Lines[0]
		return "Nobody knows what clips first: of " + l.At.String() + ", " + l.Spare().Lacks + "."
	case n > 0:
		return words.Spell(n, "output is", "outputs are") + " never driven to its clip: what feeds it clips before."
	case v.known() < len(v.Lines):
		return words.Spell(v.known(), "amplifier output clips", "amplifier outputs clip") + " before what feeds it; of " +
			words.Small(words.Spell(len(v.Lines)-v.known(), "output", "outputs")) + " it is not known."
	}
	least := v.Lines[0].Over
	for _, l := range v.Lines {
		least = min(least, l.Over)
	}
	return "The amplifiers clip first; what feeds them has " + least.String() + " to spare at the least."
}

// saysActive is the answer of a rig that has active boxes alone.
func saysActive(boxes []Active) string {
	least, known := math.Inf(1), 0
	for _, a := range boxes {
		if over, is := a.Over.Get(); is {
			least, known = min(least, float64(over)), known+1
		}
	}
	switch {
	case known < len(boxes):
		return "Of " + words.Small(words.Spell(len(boxes)-known, "active box", "active boxes")) +
			" it is not known what clips first."
	case least < 0:
		return "What feeds an active box clips " + unit.Decibel(-least).String() + " before the box does."
	}
	return "The active boxes clip first; what feeds them has " + unit.Decibel(least).String() + " to spare at the least."
}

// Judge lines up all outputs that are fed and drive something.
func Judge(x *rig.Index, outs []drive.Output) (Verdict, []finding.Finding) {
	v := Verdict{Lines: make([]Line, 0, len(outs)), Active: actives(x), Channels: Channels(x)}
	for i := range outs {
		o := &outs[i]
		if len(o.Boxes) == 0 || !o.Live || o.FedBy() == "" {
			continue
		}
		_, noted := o.Device.Knob(o.Channel)
		over, known := o.SentOver()
		v.Lines = append(v.Lines, Line{o, known, over, noted})
	}
	fs := append(v.findings(), unlike(x, v.Lines)...)
	fs = append(fs, trims(v.Active)...)
	fs = append(fs, lowCuts(v.Channels)...)
	return v, append(fs, v.hisses(x)...)
}

// actives are the ways to all active boxes that are fed.
func actives(x *rig.Index) (list []Active) {
	for i := range x.Rig.Devices {
		d, m := &x.Rig.Devices[i], x.ModelAt(i)
		if m.Loudspeaker == nil || !m.Loudspeaker.Active {
			continue
		}
		a := Active{Tag: d.Tag, Chain: OfActive(x, d, m.Loudspeaker, "", nil)}
		n := len(a.Chain.Steps)
		if n < 2 {
			continue
		}
		box, before := a.Chain.Steps[n-1], a.Chain.Steps[n-2]
		a.By = before.Name
		sent, known1 := before.Clip.Get()
		clip, known2 := box.Clip.Get()
		if trim, known3 := box.Gain.Get(); known1 && known2 && known3 {
			a.Over = unit.Of(unit.Decibel(sent) + trim - unit.Decibel(clip))
		}
		list = append(list, a)
	}
	return list
}

// Spare is how far what feeds the output could go over what clips it, dB, with its
// working.
func (l Line) Spare() reckon.Figure {
	const key, symbol, name = "sentOver", "H", "what feeds it over the amplifier's clip"
	sent, clip := l.Sent(), l.ClipIn()
	switch {
	case !sent.Known():
		return reckon.Unknown(key, symbol, name, sent.Lacks)
	case !clip.Known():
		return reckon.Unknown(key, symbol, name, clip.Lacks)
	}
	return reckon.Of(key, symbol, name, l.Over, "{Lmost} − {Lclip}", sent.As("Lmost"), clip.As("Lclip"))
}

// Down is how far the level control stands below fully up, dB.
func (l Line) Down() unit.Decibel {
	down, _ := l.Device.Knob(l.Channel)
	return down
}

// Knob names the level control.
func (l Line) Knob() string { return "knob " + gear.ChannelName(l.Channel) + " of " + l.At.Device }
