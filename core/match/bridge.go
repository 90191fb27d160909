package match

import (
	"fmt"
	"slices"

	"largo/core/drive"
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
	Half     reckon.Figure // power of a channel into half of all its boxes, as each side of a bridge sees, W
	Now      reckon.Figure // power of the pair as it would be separate, W
	Buys     reckon.Figure // dB of the one over the other
	Proposed rig.Pair
	Reason   string

	load reckon.Figure // of all its boxes side by side, Ω
}

// MayBridge weighs the evidence on an amplifier. A forbidding manual or
// separate minus terminals end it; a maker's rating decides it. A home-made bridge
// takes all of this on record: a common return, both channels of one polarity,
// and a manual that is not against it (common practice, no source); that both are
// rated at half the load is judged where the load is known.
func MayBridge(a *gear.Amplifier, pair int) (May, string) {
	b := a.Bridging
	rated := slices.ContainsFunc(a.Ratings, func(r gear.Rating) bool { return r.Mode == gear.Bridged })
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
	}
	if missing := notShown(b); len(missing) > 0 {
		return Unproved, "no bridged rating is on record, and for a home-made bridge " + words.List(missing) + " " +
			words.Is(len(missing)) + " missing"
	}
	return MayByHand, "the minus terminals are joined, both channels are of one polarity and the manual is not against " +
		"it, but the maker gives no bridged rating"
}

// notShown is what a home-made bridge still lacks of its evidence.
func notShown(b gear.Bridging) (missing []string) {
	if b.Joined() != gear.Yes {
		missing = append(missing, "the ohmmeter check between the minus terminals (amplifier off, mains out)")
	}
	switch b.Inverted {
	case gear.Yes:
		missing = append(missing, "one polarity of both channels: the second is turned inside")
	case gear.No:
	default:
		missing = append(missing, "word that both channels are of one polarity")
	}
	return missing
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

// adviseAll weighs bridging for all pairs, or for those alone that are bridged.
func adviseAll(x *rig.Index, outs []Output, bridged bool) (pairs []Bridge) {
	for i := 0; i < len(outs); {
		j := i + 1
		for j < len(outs) && outs[j].At.Device == outs[i].At.Device && outs[j].Pair == outs[i].Pair {
			j++
		}
		if pair := outs[i].Pair; pair >= 0 && (!bridged || outs[i].Device.PairSetting(pair).Output == gear.Bridged) {
			if p, ok := advise(x, outs[i:j], outs); ok {
				pairs = append(pairs, p)
			}
		}
		i = j
	}
	return pairs
}

// side is what one channel of a pair would drive.
type side struct {
	name  string // of the channel
	boxes []load.Box
	load  reckon.Figure
}

// advise weighs bridging for the outputs of one pair.
func advise(x *rig.Index, outs, all []Output) (Bridge, bool) {
	o := outs[0]
	p := Bridge{Tag: o.At.Device, Pair: o.Pair, Set: o.Device.PairSetting(o.Pair)}
	n := 0
	for i := range outs {
		n += len(outs[i].Hung())
	}
	if n == 0 {
		return p, false
	}
	if p.Set.Output != gear.Bridged && slices.ContainsFunc(outs, func(o Output) bool { return !o.Live }) {
		return p, false // its bridge and its jacks are used at once, which is to be mended first
	}
	p.Boxes = make([]load.Box, 0, n)
	for i := range outs {
		p.Boxes = append(p.Boxes, outs[i].Hung()...)
	}
	p.May, p.Because = MayBridge(o.Amp, o.Pair)
	p.Allowed = p.May.Under(x.Rig.Bridging)
	sides := p.sides(outs)
	p.weigh(Beside(all, o, gear.Bridged), sides)
	p.propose(x, outs, sides)
	return p, true
}

// sides are what the channels drive, or would, were the bridge taken apart.
func (p *Bridge) sides(outs []Output) []side {
	var all []side
	if p.Set.Output == gear.Bridged && !hasStrings(p.Boxes) {
		a, b := halves(p.Boxes)
		for i, boxes := range [][]load.Box{a, b} {
			if len(boxes) > 0 {
				all = append(all, side{gear.ChannelName(2*p.Pair + i), boxes, flatLoad(boxes)})
			}
		}
		return all
	}
	for _, out := range outs {
		if len(out.Hung()) > 0 {
			all = append(all, side{gear.ChannelName(out.Channel), out.Hung(), out.Nominal})
		}
	}
	return all
}

// hasStrings tells whether any of the boxes hang in series.
func hasStrings(boxes []load.Box) bool {
	return slices.ContainsFunc(boxes, func(b load.Box) bool { return b.Lead.Link.Series != "" })
}

// flatLoad is the load of boxes all side by side.
func flatLoad(boxes []load.Box) reckon.Figure {
	for _, b := range boxes {
		if z := b.Speaker.NominalZ(); !z.Known() {
			return reckon.Unknown("load", "Z", "nominal load", b.Name()+": "+z.Lacks)
		}
	}
	return reckon.Of("load", "Z", "nominal load", unit.Ohm(parallel(boxes)), "")
}

// bridgedLoad is that of all that the pair drives, side by side.
func bridgedLoad(sides []side) reckon.Figure {
	admittance := 0.0
	for _, s := range sides {
		if !s.load.Known() {
			return s.load
		}
		admittance += 1 / s.load.Value
	}
	return reckon.Of("load", "Z", "nominal load", unit.Ohm(1/admittance), "")
}

// Tried is an amplifier on its mains with what its other outputs ask of a supply
// that they share: what a mode that is only tried out would give beside them.
type Tried struct {
	drive.Amp
	others []drive.Demand
	held   unit.Given[unit.Volt] // by the limiter on record of the output itself, where its mode stays
}

// Alone is a model of which nothing else is driven.
func Alone(m *gear.Model, supply reckon.Figure) Tried {
	return Tried{Amp: drive.Amp{Model: m, Supply: supply}}
}

// Beside is what a mode of an output, or of its pair, is tried on.
func Beside(all []Output, of Output, mode gear.Mode) Tried {
	t := Tried{Amp: of.Fed}
	if mode == of.Mode {
		t.held = of.Limiter.RMS
	}
	if !of.Amp.Together.Known() {
		return t // its channels ask nothing of each other
	}
	for _, o := range all {
		own := o.At == of.At || o.Pair >= 0 && o.Pair == of.Pair && (mode == gear.Bridged || of.Mode == gear.Bridged)
		if o.At.Device == of.At.Device && !own && o.Live {
			t.others = append(t.others, o.Demand())
		}
	}
	return t
}

// Twice is the same with one output more.
func (t Tried) Twice(mode gear.Mode, z unit.Ohm) Tried {
	if p := t.alone(mode, z); p.Known() {
		t.others = append(slices.Clip(t.others), t.demand(p, z))
	}
	return t
}

// Gives is what a mode would give into a load.
func (t Tried) Gives(mode gear.Mode, z unit.Ohm) reckon.Figure {
	return t.gives(mode, []reckon.Figure{reckon.Of("load", "Z", "nominal load", z, "")})[0]
}

// gives is what a mode would give into each of some loads at once.
func (t Tried) gives(mode gear.Mode, loads []reckon.Figure) []reckon.Figure {
	powers := make([]reckon.Figure, len(loads))
	demands := slices.Clip(t.others)
	for i, z := range loads {
		if !z.Known() {
			powers[i] = reckon.Unknown("power", "P", "amplifier power", z.Lacks)
		} else if powers[i] = t.alone(mode, unit.Ohm(z.Value)); powers[i].Known() {
			demands = append(demands, t.demand(powers[i], unit.Ohm(z.Value)))
		}
	}
	return drive.Share(t.Amp, demands, powers)
}

func (t Tried) demand(power reckon.Figure, z unit.Ohm) drive.Demand {
	d := drive.Demand{Power: unit.Watt(power.Value)}
	if v, held := t.held.Get(); held {
		d.Most = unit.Of(v.Into(z))
	}
	return d
}

func (t Tried) alone(mode gear.Mode, z unit.Ohm) reckon.Figure {
	if limit := t.Model.Amplifier.LeastLoad(mode); limit.Known() && gear.Below(float64(z), limit.Value) {
		return reckon.Unknown("power", "P", "amplifier power", fmt.Sprintf("%s is below its least of %s", z, limit.Text()))
	}
	return t.PowerInto(mode, z)
}

// weigh works out what bridging buys and costs against separate channels.
func (p *Bridge) weigh(t Tried, sides []side) {
	load := bridgedLoad(sides)
	t.held = unit.Given[unit.Volt]{} // what limiters are set to changes with the mode
	p.Bridged = t.gives(gear.Bridged, []reckon.Figure{load})[0].Called("bridged", "Pb", "both channels bridged")
	p.Half = reckon.Unknown("half", "Phalf", "a channel into half the load", load.Lacks)
	if load.Known() {
		p.Half = t.Model.Amplifier.PowerInto(gear.Separate, unit.Ohm(load.Value/2))
	}
	p.load = load
	loads := make([]reckon.Figure, len(sides))
	for i, s := range sides {
		loads[i] = s.load
	}
	var terms []reckon.Term
	var sum unit.Watt
	p.Now = reckon.Figure{}
	formula := ""
	for i, f := range t.gives(gear.Separate, loads) {
		if !f.Known() {
			p.Now = reckon.Unknown("separate", "Ps", "the channels separate", f.Lacks)
		}
		sum += unit.Watt(f.Value)
		terms = append(terms, f.As("P"+sides[i].name))
		if i > 0 {
			formula += " + "
		}
		formula += "{P" + sides[i].name + "}"
	}
	if p.Now.Lacks == "" {
		p.Now = reckon.Of("separate", "Ps", "the channels separate", sum, formula, terms...).Because("ratings table")
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
}

// Costs is what a bridge costs against separate channels.
func (p Bridge) Costs() []string {
	costs := []string{"damping halves", "noise rises 3 dB", "each side sees half the load"}
	if len(p.Boxes) > 1 {
		costs = append(costs, fmt.Sprintf("one fault silences all %d boxes", len(p.Boxes)))
	}
	if p.Bridged.Known() {
		if u := unit.Watt(p.Bridged.Value).Across(unit.Ohm(p.load.Value)); u > touchVolts {
			costs = append(costs, fmt.Sprintf("terminals at %s, no longer safe to touch", u))
		}
	}
	return costs
}

// propose chooses the mode: separate unless only a bridge drives the boxes as
// the policy asks, and the school and the evidence allow it.
func (p *Bridge) propose(x *rig.Index, outs []Output, sides []side) {
	p.Proposed = rig.Pair{Output: gear.Separate, Input: p.separateInput(x, sides)}
	two := len(sides) > 1 && p.Set.Output != gear.Bridged
	low, high := Band(PolicyAt(x.Rig, p.Boxes[0]))
	sep, br := p.ratioOf(p.Now, sides), p.ratioBridged(sides)
	bridgeFits := p.Bridged.Known() && br.known && !TooStrong(br.most, high)
	switch {
	case two && !p.oneProgramme(outs):
		p.Reason = "Each channel carries a programme of its own, so they stay separate."
	case !p.Now.Known() && bridgeFits && p.Allowed:
		p.Proposed = BridgedPair(outs[0].Amp)
		p.Reason = fmt.Sprintf("Separate, %s; bridged it drives them with %s.", p.Now.Lacks, p.Bridged.Text())
	case !p.Now.Known():
		p.Reason = fmt.Sprintf("Separate would be safer, yet %s. Bridging does not help: %s.", p.Now.Lacks,
			p.against(br, high))
	case sep.known && TooWeak(sep.least, low) && bridgeFits && p.Allowed:
		p.Proposed = BridgedPair(outs[0].Amp)
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
func (p *Bridge) separateInput(x *rig.Index, sides []side) rig.InputMode {
	second := rig.Ref{Device: p.Tag, Port: gear.InputPort(2*p.Pair + 1)}
	drives := slices.ContainsFunc(sides, func(s side) bool { return s.name == gear.ChannelName(2*p.Pair+1) })
	if _, fed := x.Into(second); !fed && drives {
		return rig.ParallelIn
	}
	return rig.SeparateIn
}

// BridgedPair is how a pair is set when it is bridged: with a switch the amplifier
// feeds both sides itself; turned inside, both take the same signal; else each
// side has an input of its own, for a lead turns the second.
func BridgedPair(a *gear.Amplifier) rig.Pair {
	switch a.Inverts() {
	case gear.BySwitch, gear.Inside:
		return rig.Pair{Output: gear.Bridged, Input: rig.ParallelIn}
	}
	return rig.Pair{Output: gear.Bridged, Input: rig.SeparateIn}
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

func (p *Bridge) ratioOf(total reckon.Figure, sides []side) spread {
	out := spread{known: total.Known()}
	for i, s := range sides {
		if !out.known {
			return spread{}
		}
		one := ratioOver(total.Terms[i].Value, s)
		if i == 0 {
			out = one
			continue
		}
		out = spread{min(out.least, one.least), max(out.most, one.most), out.known && one.known}
	}
	return out
}

// ratioBridged is what the boxes get of their rating when all hang on the bridge:
// the same volts stand on every side of it.
func (p *Bridge) ratioBridged(sides []side) spread {
	if !p.Bridged.Known() {
		return spread{}
	}
	whole := bridgedLoad(sides).Value
	var out spread
	for i, s := range sides {
		one := ratioOver(p.Bridged.Value*whole/s.load.Value, s)
		if i == 0 {
			out = one
			continue
		}
		out = spread{min(out.least, one.least), max(out.most, one.most), out.known && one.known}
	}
	return out
}

// ratioOver is what the boxes of a side get of their rating from a power into it.
func ratioOver(power float64, s side) spread {
	out := spread{known: true}
	for i, b := range s.boxes {
		rating := b.Speaker.ContinuousW()
		if !rating.Known() {
			return spread{}
		}
		r := power * b.Share * b.Share * s.load.Value / b.Speaker.NominalZ().Value / rating.Value
		if i == 0 {
			out.least, out.most = r, r
		}
		out.least, out.most = min(out.least, r), max(out.most, r)
	}
	return out
}

func (p Bridge) findings(x *rig.Index) []finding.Finding {
	if p.Set.Output != gear.Bridged {
		return nil
	}
	at := rig.Ref{Device: p.Tag, Port: gear.BridgePort(p.Pair)}
	f := finding.Finding{Stage: finding.Match, Danger: finding.Gear, Gravity: finding.Stop, At: at, Mends: p.apart(x)}
	const burns = "A bridge across outputs that are not made for it destroys them."
	switch {
	case p.Allowed && p.May == MayAsRated:
		return nil
	case p.Allowed && !p.Half.Known():
		f.Code = "match.bridge-unproved"
		f.What = fmt.Sprintf("Nothing shows that %s stands being bridged into this load: each side sees half of it, and %s.",
			p.Tag, p.Half.Lacks)
		f.Why = burns
	case p.Allowed:
		f.Code, f.Gravity, f.Danger = "match.bridge-home-made", finding.Mind, finding.Gear
		f.What = fmt.Sprintf("%s is bridged by hand: %s.", p.Tag, p.Because)
		f.Why = "It stands on the evidence on record alone. Try it at low level first, with one hand on the knob."
		f.Mends = nil
	case p.May == MayNot:
		f.Code = "match.bridge-forbidden"
		f.What = fmt.Sprintf("%s is bridged, and must not be: %s.", p.Tag, p.Because)
		f.Why = "One output stage would drive straight into the other and both may burn."
	case p.May == Unproved:
		f.Code = "match.bridge-unproved"
		f.What = fmt.Sprintf("Nothing shows that %s may be bridged: %s.", p.Tag, p.Because)
		f.Why = burns
		f.Advice = "Look in the manual. The ohmmeter check: amplifier off, mains out, meter on ohms between the two minus " +
			"terminals; near 0 Ω shows a common return, which is needed but not enough."
	default:
		f.Code, f.Gravity, f.Danger = "match.bridge-school", finding.Mend, finding.Sound
		f.What = fmt.Sprintf("%s is bridged; the school chosen says: %s.", p.Tag, x.Rig.Bridging)
		f.Why = "A more sensitive box or one more channel gives the same level without halving the damping."
	}
	return []finding.Finding{f}
}

// apart takes a bridged pair apart, with its boxes spread over both channels; boxes
// in strings stay together on the first.
func (p Bridge) apart(x *rig.Index) []finding.Way {
	set := rig.SetPair{Tag: p.Tag, Pair: p.Pair, Set: rig.Pair{Output: gear.Separate, Input: rig.ParallelIn}}
	first := gear.ChannelPort(2 * p.Pair)
	var hung rehung
	if hasStrings(p.Boxes) {
		hung.edits = move(x, rig.Ref{Device: p.Tag, Port: gear.BridgePort(p.Pair)}, first)
	} else {
		a, b := halves(p.Boxes)
		hung = rehang(x, p.Tag, a, first, b, gear.ChannelPort(2*p.Pair+1))
	}
	return []finding.Way{hung.way("Take "+p.Tag+" out of bridge", "Took "+p.Tag+" out of bridge", set)}
}

// move takes the leads of an output to another port of its amplifier, with all
// that is linked on from their boxes.
func move(x *rig.Index, from rig.Ref, port string) []rig.Edit {
	var edits []rig.Edit
	for _, k := range x.From(from) {
		to := *k
		to.From.Port = port
		if to.Series != "" {
			to.Series = from.Port + " " + to.Series // two outputs may name their strings alike
		}
		edits = append(edits, rig.Disconnect{To: k.To}, rig.Connect{Link: to, Stock: x.StockOf(*k)})
	}
	return edits
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
	edits := []rig.Edit{set}
	for ch := range 2 {
		edits = append(edits, move(x, rig.Ref{Device: p.Tag, Port: gear.ChannelPort(2*p.Pair + ch)},
			gear.BridgePort(p.Pair))...)
	}
	_, m := x.Device(p.Tag)
	return rig.Batch{Saying: "Bridged " + p.Tag, Edits: append(edits, turn(x, m.Amplifier, p.Tag, p.Pair)...)}
}

// Figures lists the figures of the advice by their keys.
func (p Bridge) Figures() []reckon.Figure { return []reckon.Figure{p.Bridged, p.Now, p.Buys} }
