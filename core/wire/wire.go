// Package wire judges the connections: level against level, what is fed and
// what is not, and what the speaker leads lose.
package wire

import (
	"fmt"
	"slices"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/stage"
	"largo/core/words"
)

// Lead is one speaker lead with what it loses.
type Lead struct {
	load.Lead
	Box        string        // that it ends at
	Resistance reckon.Figure // loop, Ω
	Loss       reckon.Figure // at that box, over all pieces on the way to it, dB
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
	v.Leads, fs = Judge(in.Index, in.Driven())
	v.Lines, more = LineTests(in.Outputs())
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
	devices := words.Count(len(r.Devices), "device", "devices")
	leads := slices.DeleteFunc(slices.Clone(r.Links), j.Index.Inside)
	switch open := unchosen(j.Index); {
	case len(leads) == 0:
		return words.Capital(devices) + ", and nothing is plugged yet."
	case open > 0:
		return fmt.Sprintf("%s, %s, of which %d %s not chosen yet.", words.Capital(devices),
			words.Count(len(leads), "lead", "leads"), open, words.Is(open))
	}
	return fmt.Sprintf("%s, %s, and every lead fits.", words.Capital(devices), words.Count(len(leads), "lead", "leads"))
}

// unchosen counts the leads, those inside a case apart, of which neither a made-up lead nor a length is known.
func unchosen(x *rig.Index) (n int) {
	for _, k := range x.Rig.Links {
		if !x.Inside(k) && len(k.Cables) == 0 && !k.Length.Known() && k.Rides == (rig.Ref{}) {
			n++
		}
	}
	return n
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
func Judge(x *rig.Index, outs []drive.Output) ([]Lead, []finding.Finding) {
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
	fs = append(fs, fewPoles(x)...)
	fs = append(fs, otherPoles(x)...)
	fs = append(fs, mixedWays(outs)...)
	fs = append(fs, joinedMinus(x, outs)...)
	fs = append(fs, unsplit(x, outs)...)
	fs = append(fs, inlets(x)...)
	fs = append(fs, loops(x)...)
	fs = append(fs, oneSided(x)...)
	fs = append(fs, withoutMains(x)...)
	fs = append(fs, fullMulticores(x)...)
	return speakerLeads(outs), append(fs, thinLeads(outs)...)
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
	for pair := 1; pair <= s.PolePairs(); pair++ {
		if _, fed := x.Into(rig.Ref{Device: tag, Port: gear.PoleIn(pair)}); fed {
			return true
		}
	}
	return false
}

// unfed reports boxes that nothing feeds and outputs that no programme reaches.
func unfed(x *rig.Index, outs []drive.Output) []finding.Finding {
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
func parallelIn(x *rig.Index, o drive.Output) []finding.Way {
	if o.Pair < 0 || o.Channel%2 == 0 {
		return nil
	}
	if _, fed := x.Into(rig.Ref{Device: o.At.Device, Port: gear.InputPort(2 * o.Pair)}); !fed {
		return nil
	}
	return []finding.Way{{Label: "Set the inputs parallel",
		Edit: rig.SetPair{Tag: o.At.Device, Pair: o.Pair, Set: rig.Pair{Output: gear.Separate, Input: rig.ParallelIn}}}}
}

// speakerLeads works out all pieces of lead behind amplifiers, where their figures
// are known.
func speakerLeads(outs []drive.Output) []Lead {
	var leads []Lead
	for i := range outs {
		for j := range outs[i].Boxes {
			b := &outs[i].Boxes[j]
			if !b.Lead.Known() {
				continue
			}
			length, area := b.Lead.Length.Or(0), b.Lead.Area.Or(0)
			r := reckon.Of("loop", "R", "resistance of the lead, there and back", gear.LoopResistance(length, area, 20),
				"2 × ρ × {l} / {A}", reckon.In("l", "length", length, ""), reckon.In("A", "conductor", area, "")).
				Noting("ρ = 1/58 Ω mm²/m at 20 °C; stranded lead may be 11 to 16 % worse.").Because("IEC 60028")
			leads = append(leads, Lead{b.Lead, b.Name(), r, b.Loss()})
		}
	}
	return leads
}

// thinLeads finds the pieces of lead that cost boxes more than is wanted. One
// piece may be to blame for several boxes: it has one finding, of the worst.
func thinLeads(outs []drive.Output) []finding.Finding {
	var fs []finding.Finding
	for i := range outs {
		o := &outs[i]
		blamed := map[int]*drive.Box{} // by piece, the box that loses most
		for j := range o.Boxes {
			b := &o.Boxes[j]
			if !b.Loses(drive.WantedLoss) {
				continue
			}
			piece := b.Blame()
			if worst := blamed[piece]; worst == nil || worst.Loss().Value < b.Loss().Value {
				blamed[piece] = b
			}
		}
		for j := range o.Boxes {
			if worst := blamed[j]; worst != nil {
				fs = append(fs, thin(o, j, worst))
			}
		}
	}
	return fs
}

func thin(o *drive.Output, piece int, b *drive.Box) finding.Finding {
	lead, loss := o.Boxes[piece].Lead, b.Loss()
	need := b.Conductor(drive.WantedLoss, 20)
	f := at(lead.Link.To, "wire.lead-thin", finding.Sound, finding.Mind)
	f.What = fmt.Sprintf("The lead from %s to %s loses %s.", lead.Link.From, lead.Link.To.Device, loss.Text())
	if len(o.On(b.Number())) > 1 {
		f.What = fmt.Sprintf("On the way to %s %s are lost, most of it in the lead from %s to %s.", b.Name(), loss.Text(),
			lead.Link.From, lead.Link.To.Device)
	}
	f.Why = "That is power turned into warm cable, and damping lost."
	switch {
	case !need.Need.Known():
		f.Advice = fmt.Sprintf("%s at most is usual: take a shorter lead than %s, or fewer boxes on this output.",
			drive.WantedLoss, lead.Length)
	case need.Alone:
		f.Advice = fmt.Sprintf("%s at most is usual: that takes a lead of %s in place of %s, or a shorter one than %s.",
			drive.WantedLoss, need.Need.Text(), lead.Area, lead.Length)
	default:
		f.Advice = fmt.Sprintf("%s at most is usual: that takes %s in every lead on the way, or shorter ones.",
			drive.WantedLoss, need.Need.Text())
	}
	f.Figures = []reckon.Figure{loss, b.Path(20), need.Need}
	return f
}
