package match

import (
	"fmt"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
	"largo/core/words"
)

// May tells whether two channels may be bridged.
type May string

// The answers, from evidence and not from one clue.
const (
	MayNot     May = "no"
	MayAsRated May = "yes"
	MayByHand  May = "only home-made"
	Unproved   May = "not shown"
)

// Bridge is the advice for two channels of an amplifier that drive something.
type Bridge struct {
	Tag      string
	Pair     int
	Set      rig.Pair
	Boxes    []load.Box
	May      May
	Because  string
	Allowed  bool          // under the school of the rig
	Bridged  reckon.Figure // power of the pair bridged into all its boxes, W
	Now      reckon.Figure // power of the pair as it would be separate, W
	Buys     reckon.Figure // dB of the one over the other
	Costs    []string
	Proposed rig.Pair
	Reason   string
}

// MayBridge weighs the evidence on an amplifier. A forbidding manual or
// separate minus terminals end it; a maker's rating decides it; a common
// return is needed for a home-made bridge but is not enough on its own
// (common practice, no source).
func MayBridge(a *gear.Amplifier, pair int) (May, string) {
	b := a.Bridging
	rated := false
	for _, r := range a.Ratings {
		rated = rated || r.Mode == gear.Bridged
	}
	switch {
	case !b.PairBridges(pair):
		return MayNot, "its maker lets other pairs bridge, and not " + gear.PairName(pair)
	case b.Manual == gear.ManualForbids:
		return MayNot, "the manual forbids it"
	case b.Joined() == gear.No && !rated:
		return MayNot, "the minus terminals are not joined inside, so there is no common return"
	case rated && b.Switch == gear.Yes:
		return MayAsRated, "the maker rates it bridged and gives it a switch"
	case rated:
		return MayAsRated, "the maker rates it bridged; without a switch the second input needs a lead with 2 and 3 exchanged"
	case b.Joined() == gear.Yes && b.Manual == gear.ManualAllows:
		return MayByHand, "the minus terminals are joined and the manual allows it, but the maker gives no bridged rating"
	case b.Joined() == gear.Yes:
		return Unproved, "the minus terminals are joined, but neither a rating nor the manual says that it may be bridged"
	}
	return Unproved, "no bridged rating, no word of the manual and no ohmmeter check between the minus terminals " +
		"(amplifier off, mains out) are on record"
}

// Under tells whether a school of bridging allows it.
func (may May) Under(s rig.School) bool {
	switch s {
	case rig.AsRated:
		return may == MayAsRated
	case rig.Freely:
		return may == MayAsRated || may == MayByHand
	}
	return false
}

func adviseAll(x *rig.Index, outs []Output) []Bridge {
	pairs := make([]Bridge, 0, len(outs)/2)
	for i := 0; i < len(outs); {
		j := i + 1
		for j < len(outs) && outs[j].At.Device == outs[i].At.Device && outs[j].Pair == outs[i].Pair {
			j++
		}
		if outs[i].Pair >= 0 {
			if p, ok := advise(x, outs[i:j]); ok {
				pairs = append(pairs, p)
			}
		}
		i = j
	}
	return pairs
}

// advise weighs bridging for the outputs of one pair.
func advise(x *rig.Index, outs []Output) (Bridge, bool) {
	o := outs[0]
	p := Bridge{Tag: o.At.Device, Pair: o.Pair, Set: o.Device.PairSetting(o.Pair)}
	var boxes [2][]load.Box
	n := 0
	for _, out := range outs {
		n += len(out.Output.Boxes)
	}
	if n == 0 {
		return p, false
	}
	p.Boxes = make([]load.Box, 0, n)
	for _, out := range outs {
		side := 0
		if out.Mode == gear.Separate {
			side = out.Channel % 2
		}
		boxes[side] = append(boxes[side], out.Output.Boxes...)
		p.Boxes = append(p.Boxes, out.Output.Boxes...)
	}
	if p.Set.Output == gear.Bridged {
		boxes[0], boxes[1] = halves(p.Boxes)
	}
	p.May, p.Because = MayBridge(o.Amp, o.Pair)
	p.Allowed = p.May.Under(x.Rig.Bridging)
	p.weigh(o.Amp, boxes)
	p.propose(x, o, outs, boxes)
	return p, true
}

// weigh works out what bridging buys and costs against separate channels.
func (p *Bridge) weigh(a *gear.Amplifier, boxes [2][]load.Box) {
	p.Bridged = powerOf(a, gear.Bridged, p.Boxes).Called("bridged", "Pb", "both channels bridged")
	sides := []reckon.Term{}
	var sum unit.Watt
	p.Now = reckon.Figure{}
	for i, side := range boxes {
		if len(side) == 0 {
			continue
		}
		f := powerOf(a, gear.Separate, side)
		if !f.Known() {
			p.Now = reckon.Unknown("separate", "Ps", "the channels separate", f.Lacks)
		}
		sum += unit.Watt(f.Value)
		sides = append(sides, f.As("P"+gear.ChannelName(i)))
	}
	if p.Now.Lacks == "" {
		formula := "{" + sides[0].Symbol + "}"
		if len(sides) == 2 {
			formula += " + {" + sides[1].Symbol + "}"
		}
		p.Now = reckon.Of("separate", "Ps", "the channels separate", sum, formula, sides...).Because("ratings table")
	}
	switch {
	case !p.Bridged.Known():
		p.Buys = reckon.Unknown("buys", "ΔL", "what bridging buys", p.Bridged.Lacks)
	case !p.Now.Known():
		p.Buys = reckon.Unknown("buys", "ΔL", "what bridging buys", p.Now.Lacks)
	default:
		p.Buys = reckon.Of("buys", "ΔL", "what bridging buys", unit.OfPower(p.Bridged.Value/p.Now.Value),
			"10 lg({Pb} / {Ps})", p.Bridged.As("Pb"), p.Now.As("Ps")).
			Because("level follows power; at most 6 dB on one load, commonly 3 to 4.5 (common practice, no source)")
	}
	p.Costs = []string{
		"damping halves", "noise rises 3 dB", "each side sees half the load",
		"one fault silences all " + words.Count(len(p.Boxes), "box", "boxes"),
	}
	if z := parallel(p.Boxes); p.Bridged.Known() && unit.Watt(p.Bridged.Value).Across(unit.Ohm(z)) > touchVolts {
		p.Costs = append(p.Costs, fmt.Sprintf("terminals at %s, no longer safe to touch",
			unit.Watt(p.Bridged.Value).Across(unit.Ohm(z))))
	}
}

func powerOf(a *gear.Amplifier, mode gear.Mode, boxes []load.Box) reckon.Figure {
	for _, b := range boxes {
		if z := b.Speaker.NominalZ(); !z.Known() {
			return reckon.Unknown("power", "P", "amplifier power", b.Name()+": "+z.Lacks)
		}
	}
	z := parallel(boxes)
	if limit := a.LeastLoad(mode); limit.Known() && gear.Below(z, limit.Value) {
		return reckon.Unknown("power", "P", "amplifier power",
			fmt.Sprintf("%s is below the least of %s", unit.Ohm(z), limit.Text()))
	}
	return a.PowerInto(mode, unit.Ohm(z))
}

// propose chooses the mode: separate unless only a bridge drives the boxes as
// the policy asks, and the school and the evidence allow it.
func (p *Bridge) propose(x *rig.Index, o Output, outs []Output, boxes [2][]load.Box) {
	p.Proposed = rig.Pair{Output: gear.Separate, Input: p.separateInput(x, o, boxes)}
	two := len(boxes[1]) > 0 && p.Set.Output != gear.Bridged
	low, high := Band(x.Rig.Policy)
	sep, br := p.ratioOf(p.Now, boxes), ratioOver(p.Bridged, p.Boxes)
	bridgeFits := p.Bridged.Known() && br.known && !TooStrong(br.most, high)
	switch {
	case two && !p.oneProgramme(outs):
		p.Reason = "Each channel carries a programme of its own, so they stay separate."
	case !p.Now.Known() && bridgeFits && p.Allowed:
		p.Proposed = rig.Pair{Output: gear.Bridged, Input: rig.ParallelIn}
		p.Reason = fmt.Sprintf("Separate, %s; bridged it drives them with %s.", p.Now.Lacks, p.Bridged.Text())
	case !p.Now.Known():
		p.Reason = fmt.Sprintf("Separate would be safer, yet %s. Bridging does not help: %s.", p.Now.Lacks,
			p.against(br, high))
	case sep.known && TooWeak(sep.least, low) && bridgeFits && p.Allowed:
		p.Proposed = rig.Pair{Output: gear.Bridged, Input: rig.ParallelIn}
		p.Reason = fmt.Sprintf("Separate, the boxes get %s times their rating; bridged %s times, %s more.",
			unit.Fixed(sep.least, 2), unit.Fixed(br.least, 2), unit.Decibel(p.Buys.Value))
	case sep.known && TooWeak(sep.least, low):
		p.Reason = fmt.Sprintf(
			"Separate gives the boxes %s times their rating, less than wished; bridging is no way out: %s.",
			unit.Fixed(sep.least, 2), p.against(br, high))
	case p.Proposed.Input == rig.ParallelIn:
		p.Reason = "Separate outputs give the boxes what they need; parallel inputs save a Y-lead, for both carry the " +
			"same programme."
	default:
		p.Reason = "Separate outputs give the boxes what they need; a bridge would buy nothing that is missing."
	}
}

// separateInput is parallel when one programme goes to both channels.
func (p *Bridge) separateInput(x *rig.Index, o Output, boxes [2][]load.Box) rig.InputMode {
	second := rig.Ref{Device: p.Tag, Port: gear.InputPort(2*p.Pair + 1)}
	if _, fed := x.Into(second); !fed && len(boxes[1]) > 0 {
		return rig.ParallelIn
	}
	return rig.SeparateIn
}

func (p *Bridge) oneProgramme(outs []Output) bool {
	for _, o := range outs {
		if len(o.Output.Boxes) > 0 && o.Arrives != outs[0].Arrives {
			return false
		}
	}
	return true
}

// against says why a bridge is not proposed.
func (p *Bridge) against(br spread, high float64) string {
	switch {
	case !p.Allowed && p.May == MayAsRated:
		return "the school chosen is never to bridge"
	case !p.Allowed:
		return p.Because
	case !p.Bridged.Known():
		return p.Bridged.Lacks
	case br.known && TooStrong(br.most, high):
		return fmt.Sprintf("it would give them %s times their rating", unit.Fixed(br.most, 2))
	}
	return "what the boxes stand is unknown"
}

// spread is the least and most that any box gets of its rating.
type spread struct {
	least, most float64
	known       bool
}

func (p *Bridge) ratioOf(total reckon.Figure, boxes [2][]load.Box) spread {
	out := spread{known: total.Known()}
	i := 0
	for _, side := range boxes {
		if len(side) == 0 {
			continue
		}
		if !out.known {
			return spread{}
		}
		f := reckon.Figure{Value: total.Terms[i].Value}
		i++
		s := ratioOver(f, side)
		if i == 1 {
			out = s
			continue
		}
		out = spread{min(out.least, s.least), max(out.most, s.most), out.known && s.known}
	}
	return out
}

func ratioOver(power reckon.Figure, boxes []load.Box) spread {
	s := spread{known: power.Known()}
	z := parallel(boxes)
	for i, b := range boxes {
		rating := b.Speaker.ContinuousW()
		if !rating.Known() || !s.known {
			return spread{}
		}
		r := power.Value * z / b.Speaker.NominalZ().Value / rating.Value
		if i == 0 {
			s.least, s.most = r, r
		}
		s.least, s.most = min(s.least, r), max(s.most, r)
	}
	return s
}

func (p Bridge) findings(x *rig.Index) []finding.Finding {
	if p.Set.Output != gear.Bridged || p.Allowed {
		return nil
	}
	at := rig.Ref{Device: p.Tag, Port: gear.BridgePort(p.Pair)}
	f := finding.Finding{Stage: finding.Match, Danger: finding.Gear, Gravity: finding.Stop, At: at, Mends: p.apart(x)}
	switch {
	case p.May == MayNot:
		f.Code = "match.bridge-forbidden"
		f.What = fmt.Sprintf("%s is bridged, and must not be: %s.", p.Tag, p.Because)
		f.Why = "One output stage would drive straight into the other and both may burn."
	case p.May == Unproved:
		f.Code = "match.bridge-unproved"
		f.What = fmt.Sprintf("Nothing shows that %s may be bridged: %s.", p.Tag, p.Because)
		f.Why = "A bridge across outputs that are not made for it destroys them."
		f.Advice = "Look in the manual. The ohmmeter check: amplifier off, mains out, meter on ohms between the two minus " +
			"terminals; near 0 Ω shows a common return, which is needed but not enough."
	default:
		f.Code, f.Gravity, f.Danger = "match.bridge-school", finding.Mend, finding.Sound
		f.What = fmt.Sprintf("%s is bridged; the school chosen says: %s.", p.Tag, x.Rig.Bridging)
		f.Why = "A more sensitive box or one more channel gives the same level without halving the damping."
	}
	return []finding.Finding{f}
}

// apart takes a bridged pair apart, with its boxes spread over both channels.
func (p Bridge) apart(x *rig.Index) []finding.Way {
	o := Output{Output: &load.Output{At: rig.Ref{Device: p.Tag, Port: gear.BridgePort(p.Pair)}, Boxes: p.Boxes,
		Pair: p.Pair}}
	keep, move := halves(p.Boxes)
	edits := []rig.Edit{rig.SetPair{Tag: p.Tag, Pair: p.Pair, Set: rig.Pair{Output: gear.Separate, Input: rig.ParallelIn}}}
	edits = append(edits, rehang(x, o, keep, gear.ChannelPort(2*p.Pair), move, gear.ChannelPort(2*p.Pair+1))...)
	return []finding.Way{{Label: "Take " + p.Tag + " out of bridge",
		Edit: rig.Batch{Saying: "Took " + p.Tag + " out of bridge", Edits: edits}}}
}

// Adopt is the edit that makes the proposal so, nil when it is so already.
func (p Bridge) Adopt(x *rig.Index) rig.Edit {
	if p.Proposed == p.Set {
		return nil
	}
	set := rig.SetPair{Tag: p.Tag, Pair: p.Pair, Set: p.Proposed}
	switch {
	case p.Proposed.Output == p.Set.Output:
		return set
	case p.Proposed.Output == gear.Separate:
		return p.apart(x)[0].Edit
	}
	o := Output{Output: &load.Output{At: rig.Ref{Device: p.Tag}, Boxes: p.Boxes}}
	return rig.Batch{Saying: "Bridged " + p.Tag,
		Edits: append([]rig.Edit{set}, rehang(x, o, p.Boxes, gear.BridgePort(p.Pair), nil, "")...)}
}

// Figures lists the figures of the advice by their keys.
func (p Bridge) Figures() []reckon.Figure { return []reckon.Figure{p.Bridged, p.Now, p.Buys} }
