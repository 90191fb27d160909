// Package wire judges the connections: level against level, what is fed and
// what is not, and what the speaker leads lose.
package wire

import (
	"fmt"
	"math"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/stage"
	"largo/core/unit"
	"largo/core/words"
)

// Lead is one speaker lead with what it loses.
type Lead struct {
	Link       rig.Link
	Length     unit.Given[unit.Metre]
	Area       unit.Given[unit.SquareMillimetre]
	Resistance reckon.Figure // loop, Ω
	Loss       reckon.Figure // at the load behind it, dB
}

// Verdict is what the connections come to.
type Verdict struct {
	Leads []Lead     // of speakers
	Lines []LineTest // what an ohmmeter should read
}

// Stage is this stage of the day.
var Stage = stage.Stage{Name: finding.Wire, Says: says, Judge: func(in *stage.Input) stage.Outcome {
	var v Verdict
	var fs, more []finding.Finding
	v.Leads, fs = Judge(in.Index, in.Outputs())
	v.Lines, more = LineTests(in.Outputs(), v.Leads)
	return stage.Outcome{Result: v, Findings: append(fs, more...), Places: v.places, Empty: len(in.Rig().Devices) == 0}
}}

// says whether every lead fits.
func says(j stage.Judged) string {
	r := j.Rig()
	switch worst := finding.Worst(j.Findings); {
	case len(r.Devices) == 0:
		return "The rig is empty. Add its devices, then plug them together."
	case worst == finding.Stop:
		return j.Findings[0].What
	case worst == finding.Mend:
		n := 0
		for _, f := range j.Findings {
			if f.Gravity == finding.Mend {
				n++
			}
		}
		return words.Spell(n, "connection", "connections") + " to mend before the show."
	}
	return fmt.Sprintf("%d devices, %d leads, and every lead fits.", len(r.Devices), len(r.Links))
}

// places are all that has figures here.
func (v Verdict) places() []stage.Place {
	var places []stage.Place
	for _, t := range v.Lines {
		places = append(places, stage.Place{Name: t.At.String(), Figures: []reckon.Figure{t.Low(), t.High()}})
	}
	for _, l := range v.Leads {
		places = append(places, stage.Place{Name: l.Name(), Figures: []reckon.Figure{l.Resistance, l.Loss}})
	}
	return places
}

// Name names a speaker lead by where it ends.
func (l Lead) Name() string { return "lead to " + l.Link.To.String() }

// Judge judges all links.
func Judge(x *rig.Index, outs []load.Output) ([]Lead, []finding.Finding) {
	var fs []finding.Finding
	for _, k := range x.Rig.Links {
		if f, wrong := levels(x, k); wrong {
			fs = append(fs, f)
		}
	}
	fs = append(fs, unfed(x, outs)...)
	fs = append(fs, polarity(x, outs)...)
	fs = append(fs, plugs(x)...)
	fs = append(fs, phantom(x)...)
	fs = append(fs, silentWays(x)...)
	fs = append(fs, mixedWays(outs)...)
	fs = append(fs, joinedMinus(x, outs)...)
	fs = append(fs, loops(x)...)
	fs = append(fs, oneSided(x)...)
	fs = append(fs, withoutMains(x)...)
	fs = append(fs, fullMulticores(x)...)
	leads := speakerLeads(x, outs)
	for _, l := range leads {
		if l.Loss.Known() && l.Loss.Value > wantedLoss {
			fs = append(fs, thin(l))
		}
	}
	return leads, fs
}

func at(where rig.Ref, code string, danger finding.Danger, gravity finding.Gravity) finding.Finding {
	return finding.Finding{Code: code, Stage: finding.Wire, Danger: danger, Gravity: gravity, At: where}
}

// levels compares what an output sends with what the input takes.
func levels(x *rig.Index, k rig.Link) (finding.Finding, bool) {
	from, _ := x.Port(k.From)
	to, _ := x.Port(k.To)
	unplug := func() []finding.Way { // only where something is wrong, for every lead is looked at
		return []finding.Way{{Label: "Unplug " + k.To.Device, Edit: rig.Disconnect{To: k.To}}}
	}
	_, source := x.Device(k.From.Device)
	_, target := x.Device(k.To.Device)
	switch {
	case from.Signal == gear.Speaker && to.Signal != gear.Speaker:
		f := at(k.To, "wire.speaker-into-line", finding.Gear, finding.Stop)
		what := "a line input"
		if target.Kind == gear.KindLoudspeaker {
			what = "an active box"
		}
		f.What = fmt.Sprintf("%s is %s, fed from the speaker output %s.", k.To.Device, what, k.From)
		f.Why = "Tens of volts go into an input made for one; its electronics burn."
		f.Mends, f.Advice = unplug(), "Feed it from the mixer or the processor at line level."
		return f, true
	case from.Signal != gear.Speaker && to.Signal == gear.Speaker:
		f := at(k.To, "wire.line-into-passive", finding.Sound, finding.Mend)
		f.What = fmt.Sprintf("%s is a passive box on the %s output %s.", k.To.Device, from.Signal, k.From)
		f.Why = "It stays silent: a line output cannot drive a loudspeaker."
		f.Mends, f.Advice = unplug(), "Put an amplifier between the two."
		return f, true
	case from.Signal == gear.Speaker && to.Signal == gear.Speaker && source.Kind != gear.KindAmplifier &&
		source.Kind != gear.KindLoudspeaker:
		f := at(k.To, "wire.amplifier-inside", finding.Gear, finding.Mend)
		f.What = fmt.Sprintf("%s hangs on the speaker output %s, whose amplifier is not in the library.", k.To.Device, k.From)
		f.Why = "Neither its load nor its power nor a limiter can be judged here."
		f.Advice = "Judge it by the manual: the least load first, then the power. Or enter the amplifier inside as a " +
			"model of its own."
		return f, true
	case from.Signal == gear.Mic && to.Signal == gear.Line && target.Kind != gear.KindDI:
		f := at(k.To, "wire.mic-into-line", finding.Sound, finding.Mend)
		f.What = fmt.Sprintf("%s takes line level, and %s sends microphone level.", k.To, k.From)
		f.Why = "It would be some 50 dB too quiet."
		f.Mends, f.Advice = unplug(), "Go through the mixer first."
		return f, true
	}
	return finding.Finding{}, false
}

// fedAnywhere tells whether any way of a box is fed.
func fedAnywhere(x *rig.Index, tag string, s *gear.Loudspeaker) bool {
	for pair := 1; pair <= s.Pairs(); pair++ {
		if _, fed := x.Into(rig.Ref{Device: tag, Port: gear.PoleIn(pair)}); fed {
			return true
		}
	}
	return false
}

// unfed reports boxes that nothing feeds and outputs that no programme reaches.
func unfed(x *rig.Index, outs []load.Output) []finding.Finding {
	var fs []finding.Finding
	for i := range x.Rig.Devices {
		d, m := &x.Rig.Devices[i], x.ModelAt(i)
		if m.Kind != gear.KindLoudspeaker {
			continue
		}
		if !fedAnywhere(x, d.Tag, m.Loudspeaker) {
			f := at(rig.Ref{Device: d.Tag, Port: "in"}, "wire.box-unfed", finding.Sound, finding.Mend)
			f.What = fmt.Sprintf("Nothing feeds %s.", d.Tag)
			f.Why = "It stays silent."
			fs = append(fs, f)
		} else if m.Loudspeaker.Active && x.Arrives(rig.Ref{Device: d.Tag, Port: "in"}) == "" {
			f := at(rig.Ref{Device: d.Tag, Port: "in"}, "wire.chain-unfed", finding.Sound, finding.Mend)
			f.What = fmt.Sprintf("%s hangs on a chain that nothing feeds.", d.Tag)
			f.Why = "The whole chain stays silent."
			fs = append(fs, f)
		}
	}
	for _, o := range outs {
		if o.Live && len(o.Boxes) > 0 && o.Arrives == "" {
			f := at(o.At, "wire.output-unfed", finding.Sound, finding.Mend)
			f.What = fmt.Sprintf("%s drives boxes, but nothing arrives at %s.", o.At, o.Input)
			f.Why = "Its boxes stay silent."
			f.Mends = parallelIn(x, o)
			fs = append(fs, f)
		}
	}
	return fs
}

// parallelIn offers the pair's other input where that one is fed.
func parallelIn(x *rig.Index, o load.Output) []finding.Way {
	if o.Pair < 0 || o.Channel%2 == 0 {
		return nil
	}
	if _, fed := x.Into(rig.Ref{Device: o.At.Device, Port: gear.InputPort(2 * o.Pair)}); !fed {
		return nil
	}
	return []finding.Way{{Label: "Set the inputs parallel",
		Edit: rig.SetPair{Tag: o.At.Device, Pair: o.Pair, Set: rig.Pair{Output: gear.Separate, Input: rig.ParallelIn}}}}
}

// wantedLoss is what a speaker lead may lose, dB (common practice, no source).
const wantedLoss = 0.5

// speakerLeads works out the leads from amplifiers, where their figures are known.
func speakerLeads(x *rig.Index, outs []load.Output) []Lead {
	var leads []Lead
	for _, o := range outs {
		for _, k := range x.From(o.At) {
			length, known1 := x.LeadLength(*k).Get()
			area, known2 := x.LeadArea(*k).Get()
			if !known1 || !known2 || k.Series != "" {
				continue
			}
			leads = append(leads, loss(*k, length, area, behind(x, o, *k)))
		}
	}
	return leads
}

// behind is the load behind one of an output's leads: the box it ends at with
// all that is linked through from there.
func behind(x *rig.Index, o load.Output, k rig.Link) reckon.Figure {
	if len(x.From(o.At)) == 1 {
		return o.Nominal
	}
	zs := []unit.Ohm{}
	for tag, pair, budget := k.To.Device, gear.PairOf(k.To.Port), len(x.Rig.Links); budget > 0 && pair > 0; budget-- {
		_, m := x.Device(tag)
		if m.Kind != gear.KindLoudspeaker || m.Loudspeaker.Active {
			break
		}
		way, _ := m.Loudspeaker.WayAt(pair)
		z := way.NominalZ()
		if !z.Known() {
			return z
		}
		zs = append(zs, unit.Ohm(z.Value))
		next := x.From(rig.Ref{Device: tag, Port: gear.PoleLink(pair)})
		if len(next) == 0 {
			break
		}
		tag, pair = next[0].To.Device, gear.PairOf(next[0].To.Port)
	}
	if len(zs) == 0 {
		return reckon.Unknown("load", "Z", "load behind the lead", "no passive box hangs behind this lead")
	}
	return reckon.Of("load", "Z", "load behind the lead", unit.Parallel(zs...), "")
}

func loss(k rig.Link, length unit.Metre, area unit.SquareMillimetre, z reckon.Figure) Lead {
	r := reckon.Of("loop", "R", "resistance of the lead, there and back", gear.LoopResistance(length, area, 20),
		"2 × ρ × {l} / {A}",
		reckon.In("l", "length", length, ""), reckon.In("A", "conductor", area, "")).
		Noting("ρ = 1/58 Ω mm²/m at 20 °C; stranded lead may be 11 to 16 % worse.").Because("IEC 60028")
	if !z.Known() {
		return Lead{k, unit.Of(length), unit.Of(area), r, reckon.Unknown("loss", "ΔL", "level lost in the lead", z.Lacks)}
	}
	return Lead{k, unit.Of(length), unit.Of(area), r,
		reckon.Of("loss", "ΔL", "level lost in the lead", unit.Decibel(20*math.Log10(1+r.Value/z.Value)),
			"20 lg(1 + {R} / {Z})", r.As("R"), z.As("Z")).
			Because("voltage divider")}
}

func thin(l Lead) finding.Finding {
	f := at(l.Link.To, "wire.lead-thin", finding.Sound, finding.Mind)
	f.What = fmt.Sprintf("The lead from %s to %s loses %s.", l.Link.From, l.Link.To.Device, l.Loss.Text())
	f.Why = "That is power turned into warm cable, and damping lost."
	f.Advice = fmt.Sprintf("Half a decibel is usual: take a shorter or a thicker lead than %s of %s.", l.Length, l.Area)
	f.Figures = []reckon.Figure{l.Loss, l.Resistance}
	return f
}
