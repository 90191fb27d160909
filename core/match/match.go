package match

import (
	"slices"
	"sync"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/stage"
)

// Verdict is what match says of a whole rig.
type Verdict struct {
	Outputs []Output
	Active  []ActiveBox
	Areas   []Area // of listeners, that of the main audience first where it has boxes
	Poorest int    // the area that decides; -1 where no box plays for an audience
	Driven  int    // passive boxes with a live, rated output within its least load
	Passive int    // passive boxes in the rig
	pairs   func() []Bridge
}

// Pairs weighs bridging for each pair of channels that drives boxes; worked out when it
// is first asked for.
func (v Verdict) Pairs() []Bridge {
	if v.pairs == nil {
		return nil
	}
	return v.pairs()
}

// Output is one output with its judgement.
type Output struct {
	*drive.Output
	Boxes []Box
	Ratio reckon.Figure // worst of the boxes
	Level reckon.Figure // of its boxes together where their listeners are, dB SPL
}

// Box is one box of an output with its judgement.
type Box struct {
	*drive.Box
	Ratio reckon.Figure // amplifier power at it over its continuous rating
	Level reckon.Figure // at full power where its listeners are, dB SPL
}

// Continuous is the rating of the box, W.
func (b *Box) Continuous() reckon.Figure { return b.Speaker.ContinuousW() }

// ActiveBox is a box with its amplifiers inside.
type ActiveBox struct {
	Tag     string
	Device  *rig.Device
	Box     *gear.Loudspeaker
	Arrives string        // at line level; "" when nothing does
	Level   reckon.Figure // at full power where its listeners are, dB SPL
}

// Stage is this stage of the day.
var Stage = stage.Stage{Name: finding.Match, Says: says, Judge: func(in *stage.Input) stage.Outcome {
	v, fs := Judge(in.Index, in.Driven())
	return stage.Outcome{Result: v, Findings: fs, Places: v.places, Empty: v.Passive == 0 && len(v.Active) == 0}
}}

// places are all that has figures here.
func (v Verdict) places() []stage.Place {
	decides := v.Decides()
	places := []stage.Place{{Name: "job", Figures: decides.Figures(), Whole: true}}
	for _, a := range v.Areas {
		if a.Name != decides.Name {
			places = append(places, stage.Place{Name: a.Title(), Figures: a.Figures()})
		}
	}
	for _, o := range v.Outputs {
		places = append(places, stage.Place{Name: o.Name(), Figures: o.Figures()})
		for i := range o.Boxes {
			places = append(places, stage.Place{Name: o.Boxes[i].Name(), Figures: o.Boxes[i].Figures()})
		}
	}
	for _, a := range v.Active {
		places = append(places, stage.Place{Name: a.Tag, Figures: []reckon.Figure{a.Level}})
	}
	for _, p := range v.Pairs() {
		places = append(places, stage.Place{Name: p.Name(), Figures: p.Figures()})
	}
	return places
}

// Name names a pair of channels where its figures are asked for.
func (p Bridge) Name() string {
	return rig.Ref{Device: p.Tag, Port: "pair"}.String() + " " + string(rune('1'+p.Pair))
}

// Judge judges all outputs. The findings are in the order of the rig.
func Judge(x *rig.Index, outs []drive.Output) (Verdict, []finding.Finding) {
	v := Verdict{Outputs: make([]Output, 0, len(outs))}
	var fs []finding.Finding
	for i := range outs {
		j := judge(x, &outs[i])
		v.Outputs = append(v.Outputs, j)
	}
	for _, o := range v.Outputs {
		fs = append(fs, outputFindings(x, o, v.Outputs)...)
	}
	v.Active = activeBoxes(x)
	for _, p := range adviseAll(x, v.Outputs, true) {
		fs = append(fs, p.findings(x)...)
	}
	of := v.Outputs
	v.pairs = sync.OnceValue(func() []Bridge { return adviseAll(x, of, false) })
	v.count(x)
	v.hear(x)
	return v, slices.Concat(fs, doubts(x, v.Outputs), v.levelFindings(x))
}

func judge(x *rig.Index, o *drive.Output) Output {
	j := Output{Output: o, Boxes: make([]Box, len(o.Boxes))}
	for i := range o.Boxes {
		if b := &o.Boxes[i]; i > 0 && b.Speaker == o.Boxes[i-1].Speaker && b.Share == o.Boxes[i-1].Share {
			j.Boxes[i] = judgeBox(x, b, j.Boxes[i-1].Ratio) // it is given what the one before it is
		} else {
			j.Boxes[i] = judgeBox(x, b, RatioOf(b.OfferW(), b.Speaker.ContinuousW()))
		}
		if r := j.Boxes[i].Ratio; i == 0 || !r.Known() || j.Ratio.Known() && r.Value > j.Ratio.Value {
			j.Ratio = r
		}
	}
	if len(o.Boxes) > 0 {
		j.Level = outputLevel(j.Boxes)
	}
	return j
}

func judgeBox(x *rig.Index, b *drive.Box, ratio reckon.Figure) Box {
	return Box{Box: b, Ratio: ratio, Level: levelAt(x, b, b.Speaker.ContinuousW())}
}

// RatioOf is the amplifier power at a box over its continuous rating.
func RatioOf(power, rating reckon.Figure) reckon.Figure {
	const key, symbol, name = "ratio", "m", "amplifier over continuous rating"
	switch {
	case !power.Known():
		return reckon.Unknown(key, symbol, name, power.Lacks)
	case !rating.Known():
		return reckon.Unknown(key, symbol, name, rating.Lacks)
	}
	return reckon.Ratio(key, symbol, name, power.Value/rating.Value, "{Pbox} / {Pc}", power.As("Pbox"),
		rating.As("Pc")).Noting(rating.Note)
}

// count counts whole boxes: one of several ways is driven when all of them
// are.
func (v *Verdict) count(x *rig.Index) {
	ways := map[string]int{} // that are driven, of boxes with several
	for i := range v.Outputs {
		o := &v.Outputs[i]
		if !o.Live || o.Arrives == "" || !o.Power.Known() {
			continue
		}
		for j := range o.Boxes {
			if b := &o.Boxes[j]; b.Way == "" {
				v.Driven++
			} else if ways[b.Tag]++; ways[b.Tag] == waysOf(x, b.Tag) {
				v.Driven++
			}
		}
	}
	for i := range x.Rig.Devices {
		if m := x.ModelAt(i); m.Kind == gear.KindLoudspeaker && !m.Loudspeaker.Active {
			v.Passive++
		}
	}
}

// waysOf is how many ways a box has.
func waysOf(x *rig.Index, tag string) int {
	_, m := x.Device(tag)
	return m.Loudspeaker.Pairs()
}

// Figures lists the figures of an output by their keys, for its working.
func (o Output) Figures() []reckon.Figure {
	fs := []reckon.Figure{o.Nominal, o.Least(), o.Limit, o.Power, o.Ratio, o.Level}
	if o.Held != drive.Ratings {
		fs = append(fs, o.Gives())
	}
	return fs
}

// Figures lists the figures of a box by their keys.
func (b *Box) Figures() []reckon.Figure {
	return []reckon.Figure{b.Continuous(), b.Offer(), b.Ratio, b.Power(), b.Volts(), b.Loss(), b.Damping(), b.Level}
}

// Name says which output it is, as "A1 out A".
func (o Output) Name() string { return o.At.String() }
