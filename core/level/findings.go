package level

import (
	"fmt"
	"math"

	"largo/core/finding"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
	"largo/core/words"
)

// hotFrom is how far what feeds an amplifier may clip above it before its level control
// is worth turning down, dB: a desk wants some 6 to 10 dB over the amplifier for peaks
// that its limiter takes (common practice, no source).
const hotFrom unit.Decibel = 10

// matched is how far two gains may differ and count as one, dB.
const matched unit.Decibel = 0.5

func (v Verdict) findings() []finding.Finding {
	var fs []finding.Finding
	known := v.known()
	for _, l := range v.Lines {
		switch {
		case !l.Known && known > 0:
			f := l.finding("level.unknown", finding.Mind)
			f.What = fmt.Sprintf("What clips first on the way to %s is not known: %s.", l.At, l.Spare().Lacks)
			f.Why = "Nobody can say how far the desk may be driven."
			f.Advice = "Read it off the sheet, and note it with the model."
			fs = append(fs, f)
		case !l.Known:
		case l.Over < 0:
			fs = append(fs, l.short())
		case l.Over > hotFrom:
			fs = append(fs, l.hot())
		}
	}
	return fs
}

func (l Line) finding(code string, gravity finding.Gravity) finding.Finding {
	return finding.Finding{Code: code, Stage: finding.Level, Danger: finding.Sound, Gravity: gravity, At: l.At}
}

// short: what feeds the amplifier clips first.
func (l Line) short() finding.Finding {
	f := l.finding("level.source-short", finding.Mind)
	lacks := -l.Over
	f.What = fmt.Sprintf("%s clips %s before %s does.", l.FedBy(), lacks, l.At)
	f.Why = fmt.Sprintf("Undistorted it gives at most %s of %s there.", l.Reach().Text(), l.Power.Text())
	f.Figures = []reckon.Figure{l.Spare(), l.Sent(), l.ClipIn()}
	if up := min(lacks, l.Down()); up > 0 {
		f.Mends = []finding.Way{l.turn(l.Down() - up)}
	}
	f.Advice = "Fully up it is as it is: take an amplifier with more gain, or a desk that sends more."
	return f
}

// hot: the level control could stand lower.
func (l Line) hot() finding.Finding {
	f := l.finding("level.source-hot", finding.Mind)
	to := l.Down() + unit.Decibel(math.Floor(float64(l.Over)))
	f.What = fmt.Sprintf("%s could send %s more than clips %s.", l.FedBy(), l.Over, l.At)
	if !l.Noted {
		f.What = fmt.Sprintf("With %s fully up, %s could send %s more than clips it.", l.Knob(), l.FedBy(),
			l.Over)
	}
	f.Why = fmt.Sprintf("The faders work near their foot, and the hiss of %s is lifted as far; at −%s both clip together.",
		l.FedBy(), to)
	f.Figures = []reckon.Figure{l.Spare(), l.Sent(), l.ClipIn()}
	f.Mends = []finding.Way{l.turn(to)}
	return f
}

// turn records the level control at so far below fully up.
func (l Line) turn(down unit.Decibel) finding.Way {
	at := "fully up"
	if down > 0 {
		at = "to −" + down.String()
	}
	return finding.Way{Label: words.Capital("turn " + l.Knob() + " " + at + ", then record it"),
		Edit: rig.SetKnob{Tag: l.At.Device, Set: rig.Knob{Channel: l.Channel, Down: down}}}
}

// trims finds active boxes that get far more than they take.
func trims(boxes []Active) (fs []finding.Finding) {
	for _, a := range boxes {
		over, known := a.Over.Get()
		if !known || over <= hotFrom {
			continue
		}
		box := a.Chain.Steps[len(a.Chain.Steps)-1]
		down := unit.Decibel(math.Floor(float64(over)))
		f := finding.Finding{Code: "level.trim", Stage: finding.Level, Danger: finding.Sound, Gravity: finding.Mind,
			At: rig.Ref{Device: a.Tag, Port: box.Port}}
		f.What = fmt.Sprintf("%s could send %s more than %s takes.", a.By, over, a.Tag)
		f.Why = fmt.Sprintf("The faders work near their foot; at −%s of trim both clip together.", down)
		if set := box.Move.Now - down; set >= -40 {
			f.Mends = []finding.Way{{Label: fmt.Sprintf("Turn the trim of %s to %s, then record it", a.Tag, set.Signed()),
				Edit: rig.SetPort{Tag: a.Tag, Set: rig.PortSetting{Port: box.Port, Gain: unit.Of(set)}}}}
		}
		if pad := padFor(over); pad > 0 && !box.Pad.Set {
			f.Mends = append(f.Mends, finding.Way{Label: fmt.Sprintf("Put a pad of %s before %s", pad, a.Tag),
				Edit: rig.SetPad{To: box.Pad.At.Ref, Pad: unit.Of(pad)}})
		}
		fs = append(fs, f)
	}
	return fs
}

// Pads are what pads there are, dB (common practice, no source).
var Pads = []unit.Decibel{10, 15, 20, 30}

// padFor is the largest pad that leaves what feeds a box enough to clip it, and not far
// too much; 0 for none.
func padFor(over unit.Decibel) (pad unit.Decibel) {
	for _, p := range Pads {
		if p <= over && over-p <= hotFrom {
			pad = p
		}
	}
	return pad
}

// quietBy is how far hiss should lie under the room's own noise, dB (common practice, no
// source).
const quietBy unit.Decibel = 10

// hisses finds the box that hisses most, where the room's noise is on record.
func (v Verdict) hisses(x *rig.Index) []finding.Finding {
	room, known := x.Rig.Brief.Noise.Get()
	if !known {
		return nil
	}
	worst, at := unit.Decibel(math.Inf(-1)), rig.Ref{}
	var chain Chain
	for i := range v.Lines {
		c := OfOutput(x, v.Lines[i].Output, "", nil)
		if hiss, known := c.Hiss.Get(); known && hiss > worst {
			worst, at, chain = hiss, v.Lines[i].At, c
		}
	}
	if worst <= room-quietBy {
		return nil
	}
	f := finding.Finding{Code: "level.hiss", Stage: finding.Level, Danger: finding.Sound, Gravity: finding.Mind, At: at}
	f.What = fmt.Sprintf("The hiss of %s is %s at its listeners, %s under the room's %s.", chain.Box, worst, room-worst,
		room)
	if worst > room {
		f.What = fmt.Sprintf("The hiss of %s is %s at its listeners, %s over the room's %s.", chain.Box, worst, worst-room,
			room)
	}
	f.Why = fmt.Sprintf("Ten decibels under it, nobody hears it; %s.", words.Small(words.Spell(chain.Open,
		"microphone is open", "microphones are open")))
	f.Advice = "Turn the level controls of the amplifiers down and the desk up, and shut what nobody uses."
	return []finding.Finding{f}
}

// unlike finds boxes of one model for the same listeners that are driven with different
// gains: those whose level controls are on record.
func unlike(x *rig.Index, lines []Line) []finding.Finding {
	type kind struct {
		model, way string
		aim        rig.Aim
		fedBy      string
	}
	quietest := map[kind]int{}
	gainOf := func(l *Line) (unit.Decibel, bool) {
		g, known := l.GainDB()
		return g, known && l.Noted
	}
	of := func(l *Line) kind {
		b := l.Boxes[0]
		return kind{b.Device.Model, b.Way, b.Device.Aim(), l.FedBy()}
	}
	for i := range lines {
		l := &lines[i]
		if g, known := gainOf(l); known {
			if at, there := quietest[of(l)]; !there {
				quietest[of(l)] = i
			} else if other, _ := gainOf(&lines[at]); g < other {
				quietest[of(l)] = i
			}
		}
	}
	var fs []finding.Finding
	for i := range lines {
		l := &lines[i]
		g, known := gainOf(l)
		if !known {
			continue
		}
		like := &lines[quietest[of(l)]]
		other, _ := gainOf(like)
		if g-other <= matched {
			continue
		}
		more := unit.Decibel(math.Round(10*float64(g-other)) / 10)
		f := l.finding("level.unlike", finding.Mend)
		f.What = fmt.Sprintf("%s drives its boxes %s louder than %s drives the same ones.", l.At, more, like.At)
		f.Why = "One side or one row stands out, and the image leans there."
		f.Figures = []reckon.Figure{l.Gain(), like.Gain()}
		f.Mends = []finding.Way{l.turn(l.Down() + more)}
		f.Advice = "Where that is meant, as for boxes nearer to their listeners, give them an area of their own."
		fs = append(fs, f)
	}
	return fs
}
