package match

import (
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/stage"
	"largo/core/unit"
)

// Verdict is what match says of a whole rig.
type Verdict struct {
	Outputs []Output
	Active  []ActiveBox
	Pairs   []Bridge
	Level   reckon.Figure // all audience boxes together at the listening point
	Subs    reckon.Figure // all subwoofers for the audience together, in step
	Partial bool          // the level of some box is unknown and left out of it
	Average reckon.Figure // of ordinary programme, where the level is read
	Spare   reckon.Figure // average over the wanted level
	Driven  int           // passive boxes with a live, rated output within its least load
	Passive int           // passive boxes in the rig
}

// Output is one output with its judgement.
type Output struct {
	*load.Output               // everybody's: who wants to change it takes a copy
	Limit        reckon.Figure // least load of this mode, Ω
	Power        reckon.Figure // into the nominal load, W
	Boxes        []Box
	Ratio        reckon.Figure // worst of the boxes
	Level        reckon.Figure // of its boxes together where their listeners are, dB SPL
	Under        bool          // the load is below the limit
}

// Box is one box with its share of an output.
type Box struct {
	load.Box
	Continuous reckon.Figure // rating, W
	Power      reckon.Figure // that reaches it, W
	Ratio      reckon.Figure // power over rating
	Level      reckon.Figure // at full power where its listeners are, dB SPL
}

// ActiveBox is a box with its amplifiers inside.
type ActiveBox struct {
	Tag    string
	Device *rig.Device
	Box    *gear.Loudspeaker
	Fed    bool          // at line level, by something
	Level  reckon.Figure // at full power where its listeners are, dB SPL
}

// Stage is this stage of the day.
var Stage = stage.Stage{Name: finding.Match, Says: says, Judge: func(in *stage.Input) stage.Outcome {
	v, fs := Judge(in.Index, in.Outputs())
	return stage.Outcome{Result: v, Findings: fs, Places: v.places, Empty: v.Passive == 0 && len(v.Active) == 0}
}}

// places are all that has figures here.
func (v Verdict) places() []stage.Place {
	places := []stage.Place{{Name: "job", Figures: []reckon.Figure{v.Level, v.Average, v.Spare, v.Subs}, Whole: true}}
	for _, o := range v.Outputs {
		places = append(places, stage.Place{Name: o.Name(), Figures: o.Figures()})
		for _, b := range o.Boxes {
			places = append(places, stage.Place{Name: b.Name(), Figures: b.Figures()})
		}
	}
	for _, a := range v.Active {
		places = append(places, stage.Place{Name: a.Tag, Figures: []reckon.Figure{a.Level}})
	}
	for _, p := range v.Pairs {
		places = append(places, stage.Place{Name: p.Name(), Figures: p.Figures()})
	}
	return places
}

// Name names a pair of channels where its figures are asked for.
func (p Bridge) Name() string {
	return rig.Ref{Device: p.Tag, Port: "pair"}.String() + " " + string(rune('1'+p.Pair))
}

// Judge judges all outputs. The findings are in the order of the rig.
func Judge(x *rig.Index, outs []load.Output) (Verdict, []finding.Finding) {
	v := Verdict{Outputs: make([]Output, 0, len(outs))}
	var fs []finding.Finding
	for i := range outs {
		j := judge(x, &outs[i])
		v.Outputs = append(v.Outputs, j)
		fs = append(fs, outputFindings(x, j)...)
	}
	v.Active = activeBoxes(x)
	v.Pairs = adviseAll(x, v.Outputs)
	for _, p := range v.Pairs {
		fs = append(fs, p.findings(x)...)
	}
	v.count(x)
	v.sumLevels(x)
	return v, append(fs, v.levelFindings(x)...)
}

func judge(x *rig.Index, o *load.Output) Output {
	j := Output{Output: o, Limit: o.Amp.LeastLoad(o.Mode)}
	if len(o.Boxes) == 0 {
		j.Power = reckon.Unknown("power", "P", "amplifier power", "nothing hangs on this output")
		return j
	}
	switch {
	case !o.Nominal.Known():
		j.Power = reckon.Unknown("power", "P", "amplifier power", o.Nominal.Lacks)
	default:
		j.Power = o.Amp.PowerInto(o.Mode, unit.Ohm(o.Nominal.Value))
		j.Under = j.Limit.Known() && gear.Below(o.Nominal.Value, j.Limit.Value)
		if j.Under && j.Power.Known() {
			j.Power = reckon.Unknown("power", "P", "amplifier power", "the load is below the least that the maker allows")
		}
	}
	j.Boxes = make([]Box, len(o.Boxes))
	for i, b := range o.Boxes {
		j.Boxes[i] = judgeBox(x, j, b)
		if r := j.Boxes[i].Ratio; i == 0 || !r.Known() || j.Ratio.Known() && r.Value > j.Ratio.Value {
			j.Ratio = r
		}
	}
	j.Level = outputLevel(j.Boxes)
	return j
}

func judgeBox(x *rig.Index, j Output, b load.Box) Box {
	box := Box{Box: b, Continuous: b.Speaker.ContinuousW(), Power: powerAt(j, b)}
	box.Ratio = RatioOf(box.Power, box.Continuous)
	box.Level = levelAt(x, box)
	return box
}

// powerAt is what of an output's power reaches a box: the voltage across it
// squared over its impedance.
func powerAt(j Output, b load.Box) reckon.Figure {
	const key, symbol, name = "boxPower", "Pbox", "power that reaches the box"
	if !j.Power.Known() {
		return reckon.Unknown(key, symbol, name, j.Power.Lacks)
	}
	n := len(j.Output.Boxes)
	share := b.Share * b.Share * j.Nominal.Value / b.Speaker.NominalZ().Value
	if n == 1 {
		return j.Power.Called(key, symbol, name)
	}
	p := unit.Watt(j.Power.Value * share)
	if b.Share == 1 {
		return reckon.Of(key, symbol, name, p, "{P} × {Zload} / {Zbox}", j.Power.As("P"),
			j.Nominal.As("Zload"), b.Speaker.NominalZ().As("Zbox")).Because("side by side, power divides as 1/Z")
	}
	return reckon.Of(key, symbol, name, p, "{P} × {k}² × {Zload} / {Zbox}", j.Power.As("P"),
		reckon.Count("k", "share of the volts", b.Share),
		j.Nominal.As("Zload"), b.Speaker.NominalZ().As("Zbox")).Because("P = U²/Z at each box")
}

// RatioOf is the power that reaches a box over its continuous rating.
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
	fed := map[string]int{} // pairs of poles that are driven, by box
	for _, o := range v.Outputs {
		if o.Live && o.Arrives != "" && o.Power.Known() {
			for _, b := range o.Boxes {
				fed[b.Tag]++
			}
		}
	}
	for i, d := range x.Rig.Devices {
		if m := x.ModelAt(i); m.Kind == gear.KindLoudspeaker && !m.Loudspeaker.Active {
			v.Passive++
			if fed[d.Tag] >= m.Loudspeaker.Pairs() {
				v.Driven++
			}
		}
	}
}

// Figures lists the figures of an output by their keys, for its working.
func (o Output) Figures() []reckon.Figure {
	return []reckon.Figure{o.Nominal, o.Least, o.Limit, o.Power, o.Ratio, o.Level}
}

// Figures lists the figures of a box by their keys.
func (b Box) Figures() []reckon.Figure {
	return []reckon.Figure{b.Continuous, b.Power, b.Ratio, b.Level}
}

// Name says which output it is, as "A1 out A".
func (o Output) Name() string { return o.At.String() }
