// Package level is gain structure: what of the way from the desk to each output clips
// first, how far the rest is from its clip then, and where the level control has to
// stand so that both clip together.
//
// All levels are those of a sine at the amplifier's input, in dBu, with the level
// control as it is noted, fully up where it is not.
package level

import (
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

// Verdict is the lines of a rig.
type Verdict struct{ Lines []Line }

// Stage is this stage of the day.
var Stage = stage.Stage{Name: finding.Level, Stopped: finding.Mend, Says: says, Judge: outcome}

func outcome(in *stage.Input) stage.Outcome {
	v, fs := Judge(in.Index, in.Driven())
	return stage.Outcome{Result: v, Findings: fs, Empty: v.known() == 0, Places: func() []stage.Place {
		places := make([]stage.Place, len(v.Lines))
		for i, l := range v.Lines {
			places[i] = stage.Place{Name: l.At.String(), Figures: []reckon.Figure{l.Sent(), l.ClipIn(), l.Spare()}}
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

// Judge lines up all outputs that are fed and drive something.
func Judge(x *rig.Index, outs []drive.Output) (Verdict, []finding.Finding) {
	v := Verdict{make([]Line, 0, len(outs))}
	for i := range outs {
		o := &outs[i]
		if len(o.Boxes) == 0 || !o.Live || o.FedBy() == "" {
			continue
		}
		_, noted := o.Device.Knob(o.Channel)
		over, known := o.SentOver()
		v.Lines = append(v.Lines, Line{o, known, over, noted})
	}
	return v, append(v.findings(), unlike(x, v.Lines)...)
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
