package plan

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"largo/core/gear"
	"largo/core/load"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/unit"
)

// Plan is an answer worked out to the last lead: which amplifier drives which
// boxes from which output.
type Plan struct {
	Answer
	Problem Problem
	Amps    []PlannedAmp
	Totals  Totals
	Dealt   Dealt
	plugs   []rig.Edit
}

// Totals are the figures by which plans are compared.
type Totals struct {
	Amplifiers int
	Hired      int
	Weight     unit.Kilogram
	Guessed    int         // amplifiers of which the weight is not known
	Draw       unit.Ampere // on ordinary music
	Assumed    bool        // some mains figure of it is assumed
	Hire       unit.Money
	Unpriced   int     // hired ones without a price
	Ratio      float64 // least power over rating of any box
	Bridged    int     // outputs
	Outputs    int
}

// PlannedAmp is one amplifier of a plan.
type PlannedAmp struct {
	Tag     string
	New     bool // not in the rig yet
	Hired   bool
	Model   gear.Model
	Outputs []PlannedOutput
	Only    string // which limiters its shared supply depends on; "" for none
	Short   string // what its shared supply cannot give; "" where it gives all
	spot    string
}

// PlannedOutput is one output with what a plan hangs on it.
type PlannedOutput struct {
	Option
	Port    string
	Channel int // the first
	Tags    []string
	Poles   int
	Way     string // what those drive, where the boxes have several ways
	Feed    rig.Ref
	Group   string
	Limit   unit.Given[unit.Volt] // that a shared supply depends on
}

// Hung names the boxes of an output, with the way that it drives of each.
func (o PlannedOutput) Hung() []string {
	names := make([]string, len(o.Tags))
	for i, tag := range o.Tags {
		names[i] = load.Box{Tag: tag, Way: o.Way}.Name()
	}
	return names
}

// AsItIs are the totals of a rig as it stands, in the same figures.
func AsItIs(x *rig.Index, outs []match.Output, w Wishes) Totals {
	t := Totals{Ratio: math.Inf(1)}
	for i := range x.Rig.Devices {
		if m := x.ModelAt(i); m.Kind == gear.KindAmplifier {
			t.Amplifiers++
			s := Stocked{Model: *m}
			t.Weight += s.weight()
			if !m.Body.Weight.Known() {
				t.Guessed++
			}
			takes := m.Draw()
			t.Assumed = t.Assumed || takes.Assumed != ""
			t.Draw += takes.Current(takes.Idle, w.Volts())
		}
	}
	for _, o := range outs {
		if !o.Live || len(o.Boxes) == 0 {
			continue
		}
		t.Outputs++
		if o.Mode == gear.Bridged {
			t.Bridged++
		}
		if o.Ratio.Known() {
			t.Ratio = min(t.Ratio, o.Ratio.Value)
		}
		if _, m := x.Device(o.At.Device); o.Power.Known() {
			takes := m.Draw()
			t.Draw += takes.Current(takes.Above(unit.Watt(o.Power.Value*match.ProgrammePart)), w.Volts())
		}
	}
	return t
}

// Plan works an answer out on a rig; the zero Plan where there is none.
func (p Problem) Plan(x *rig.Index, a Answer) Plan {
	plan := Plan{Answer: a, Problem: p}
	if a.X == nil {
		return plan
	}
	d := dealing{p: p, x: x, a: a, leads: x.LeadsAtHand(p.pulled(x), p.Leads)}
	tags, stand := newTags(x.Rig), p.stand(x)
	used := map[string]bool{}
	for m := range p.Amps {
		n := int(math.Round(a.X[p.ampColumn(m)]))
		d.amps = append(d.amps, p.devices(x, &p.Amps[m], n, used, tags, stand))
	}
	outputs, dealt := d.deal()
	plan.Dealt = dealt
	for m := range p.Amps {
		plan.Amps = append(plan.Amps, d.fill(m, outputs[m])...)
	}
	plan.plugs, plan.Dealt.Short = plan.plugged(x, d.leads)
	plan.total(a)
	return plan
}

// devices are the amplifiers of a model that a plan uses: those of the rig,
// kept outputs first, then new ones, which stand where those stood that drove the
// boxes.
func (p Problem) devices(x *rig.Index, s *Stocked, n int, used map[string]bool, tag func() string,
	stand string) []PlannedAmp {
	var amps []PlannedAmp
	take := func(wanted func(string) bool) {
		for i := range x.Rig.Devices {
			d := &x.Rig.Devices[i]
			if len(amps) < n && s.Owned > 0 && x.ModelAt(i).ID == s.Model.ID && !used[d.Tag] && wanted(d.Tag) {
				used[d.Tag] = true
				amps = append(amps, PlannedAmp{Tag: d.Tag, Model: s.Model, spot: x.Spot(d.Tag)})
			}
		}
	}
	take(func(tag string) bool {
		return slices.ContainsFunc(p.Wishes.Keep, func(r rig.Ref) bool { return r.Device == tag })
	})
	take(func(string) bool { return true })
	for len(amps) < n {
		amps = append(amps, PlannedAmp{Tag: tag(), New: true, Hired: s.Owned == 0, Model: s.Model, spot: stand})
	}
	return amps
}

// newTags gives tags for new amplifiers, A1, A2 ..., that nothing bears.
func newTags(r rig.Rig) func() string {
	n := 0
	return func() string {
		for {
			n++
			tag := fmt.Sprintf("A%d", n)
			if !slices.ContainsFunc(r.Devices, func(d rig.Device) bool { return strings.EqualFold(d.Tag, tag) }) {
				return tag
			}
		}
	}
}

// stand is the spot of the amplifier of the rig that most leads to boxes leave from.
func (p Problem) stand(x *rig.Index) string {
	leads := map[string]int{}
	best := ""
	for _, k := range x.Rig.Links {
		if _, m := x.Device(k.From.Device); m.Kind == gear.KindAmplifier {
			spot := x.Spot(k.From.Device)
			if leads[spot]++; best == "" || leads[spot] > leads[best] {
				best = spot
			}
		}
	}
	return best
}

// placeOf is the place of a spot, "" where it is a device without one.
func placeOf(x *rig.Index, spot string) string {
	for i := range x.Rig.Devices {
		if d := &x.Rig.Devices[i]; d.Place == spot {
			return spot
		}
	}
	return ""
}

// fill hangs the outputs of each spot on the amplifiers of a model that stand there;
// all of them where they are one list.
func (d *dealing) fill(m int, outs [][]PlannedOutput) []PlannedAmp {
	amps, held, keep := d.amps[m], d.p.Amps[m].Held, d.p.Wishes.Keep
	for s := range outs {
		var at []int
		var there []PlannedAmp
		for i, a := range amps {
			if len(outs) == 1 || a.spot == d.spots[m][s] {
				at, there = append(at, i), append(there, a)
			}
		}
		fillAmps(d.x, there, outs[s], keep, held)
		for i, n := range at {
			amps[n] = there[i]
		}
	}
	if most, shared := d.p.together(m); shared {
		for i := range amps {
			amps[i].limit(most, held[amps[i].Tag])
		}
	}
	return amps
}

// plugged plugs the boxes of each output, linked through where they can be, with the
// leads at hand; and names the links that none of them reaches for.
func (p *Plan) plugged(x *rig.Index, leads *rig.Leads) (plugs []rig.Edit, short []string) {
	var links []rig.Link
	spots := map[string]string{}
	for _, a := range p.Amps {
		spots[a.Tag] = a.spot
		for _, o := range a.Outputs {
			from := rig.Ref{Device: a.Tag, Port: o.Port}
			for _, box := range o.Tags {
				links = append(links, rig.Link{From: from, To: rig.Ref{Device: box, Port: gear.PoleIn(o.Poles)}})
				if _, m := x.Device(box); m != nil && m.Loudspeaker.LinksOn(o.Poles) {
					from = rig.Ref{Device: box, Port: gear.PoleLink(o.Poles)}
				}
			}
		}
	}
	at := func(tag string) string {
		if spot, planned := spots[tag]; planned {
			return spot
		}
		return x.Spot(tag)
	}
	plugs, missing := leads.Plug(links, at)
	for _, k := range missing {
		way, _ := leads.Ground().Way(at(k.From.Device), at(k.To.Device))
		short = append(short, fmt.Sprintf("%s to %s, %s", k.From, k.To.Device, way))
	}
	return plugs, short
}

// fillAmps hangs outputs on the free channels of amplifiers.
func fillAmps(x *rig.Index, amps []PlannedAmp, outs []PlannedOutput, keep []rig.Ref, held map[string]unit.Watt) {
	if len(amps) > 0 && amps[0].Model.Amplifier.Together.Known() {
		fillShared(x, amps, outs, keep, held)
		return
	}
	for i := range amps {
		a := &amps[i]
		taken := takenChannels(x, a, keep)
		outs = a.fillPairs(outs, taken)
		for ch := 0; ch < a.Model.Amplifier.Channels && len(outs) > 0; ch++ {
			if taken[ch] || outs[0].Mode == gear.Bridged {
				continue
			}
			outs = a.put(outs, ch, gear.ChannelPort(ch), taken, 1)
		}
	}
}

// fillShared hangs outputs on amplifiers whose channels share a supply.
func fillShared(x *rig.Index, amps []PlannedAmp, outs []PlannedOutput, keep []rig.Ref, held map[string]unit.Watt) {
	free, pairs, needs := make([]int, len(amps)), make([]int, len(amps)), make([]unit.Watt, len(amps))
	for i := range amps {
		needs[i] = held[amps[i].Tag]
		taken := takenChannels(x, &amps[i], keep)
		amp := amps[i].Model.Amplifier
		free[i] = amp.Channels - len(taken)
		for p := range amp.Pairs() {
			if amp.Bridging.PairBridges(p) && !taken[2*p] && !taken[2*p+1] {
				pairs[i]++
			}
		}
	}
	for i, own := range byNeed(outs, free, pairs, needs) {
		a := &amps[i]
		taken := takenChannels(x, a, keep)
		own = a.fillPairs(own, taken)
		for ch := 0; ch < a.Model.Amplifier.Channels && len(own) > 0; ch++ {
			if !taken[ch] {
				own = a.put(own, ch, gear.ChannelPort(ch), taken, 1)
			}
		}
	}
}

// fillPairs hangs bridged outputs on free pairs that may be bridged.
func (a *PlannedAmp) fillPairs(outs []PlannedOutput, taken map[int]bool) []PlannedOutput {
	amp := a.Model.Amplifier
	for pair := 0; pair < amp.Pairs() && len(outs) > 0 && outs[0].Mode == gear.Bridged; pair++ {
		if ch := 2 * pair; amp.Bridging.PairBridges(pair) && !taken[ch] && !taken[ch+1] {
			outs = a.put(outs, ch, gear.BridgePort(pair), taken, 2)
		}
	}
	return outs
}

func (a *PlannedAmp) put(outs []PlannedOutput, ch int, port string, taken map[int]bool, channels int) []PlannedOutput {
	o := outs[0]
	o.Channel, o.Port = ch, port
	a.Outputs = append(a.Outputs, o)
	for c := range channels {
		taken[ch+c] = true
	}
	return outs[1:]
}

// takenChannels are those of an amplifier that kept outputs hold.
func takenChannels(x *rig.Index, a *PlannedAmp, keep []rig.Ref) map[int]bool {
	taken := map[int]bool{}
	d, m := x.Device(a.Tag)
	if m == nil {
		return taken
	}
	for _, r := range keep {
		if r.Device != a.Tag {
			continue
		}
		for ch := range m.Amplifier.Channels {
			pair := ch / 2
			whole := pair < m.Amplifier.Pairs() &&
				(gear.BridgePort(pair) == r.Port || d.PairSetting(pair).Input == rig.ParallelIn)
			if gear.ChannelPort(ch) == r.Port || gear.BridgePort(pair) == r.Port {
				taken[ch] = true
				if whole {
					taken[2*pair], taken[2*pair+1] = true, true
				}
			}
		}
	}
	return taken
}

func (p *Plan) total(a Answer) {
	t := &p.Totals
	t.Ratio = math.Inf(1)
	for m := range p.Problem.Amps {
		s := &p.Problem.Amps[m]
		n := int(math.Round(a.X[p.Problem.ampColumn(m)]))
		if n == 0 {
			continue
		}
		t.Amplifiers += n
		t.Weight += unit.Kilogram(n) * s.weight()
		if !s.Model.Body.Weight.Known() {
			t.Guessed += n
		}
		t.Assumed = t.Assumed || s.Model.Draw().Assumed != ""
		if s.Owned == 0 {
			t.Hired += n
			t.Hire += unit.Money(n) * s.Price.Or(0)
			if !s.Price.Known() {
				t.Unpriced += n
			}
		}
	}
	for j, cost := range p.Problem.draws() {
		t.Draw += unit.Ampere(cost * a.X[j])
	}
	for _, amp := range p.Amps {
		for _, o := range amp.Outputs {
			t.Outputs++
			t.Ratio = min(t.Ratio, o.Ratio)
			if o.Mode == gear.Bridged {
				t.Bridged++
			}
		}
	}
}

// mostTried bounds the search for circuits.
const mostTried = 200000

// Fit tells whether something was found, or proved not to be.
type Fit string

// The ends of a search.
const (
	Fits    Fit = "fits"
	FitsNot Fit = "does not fit"
	FitOpen Fit = "not known" // the search was ended before it had seen all
)

// roundingOf is how far over what a circuit may carry still counts as it: the
// rounding of such figures, A.
const roundingOf unit.Ampere = 1e-6

// OnCircuits puts each amplifier of a plan on one circuit, so that none carries
// more on ordinary music than it may: the number of the circuit, from 0, by
// amplifier. All ways are tried; where there are too many it says that it is not
// known.
func (p Plan) OnCircuits() ([]int, Fit) {
	circuits := p.Problem.Wishes.Circuits
	need := make([]unit.Ampere, len(p.Amps))
	order := make([]int, len(p.Amps))
	for i, a := range p.Amps {
		order[i] = i
		t := a.Model.Draw()
		taken := t.Idle
		for _, o := range a.Outputs {
			taken += t.Above(o.Power * match.ProgrammePart)
		}
		need[i] = t.Current(taken, p.Problem.volts())
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(need[b], need[a]) })
	room := slices.Clone(circuits)
	on := make([]int, len(p.Amps))
	tried := 0
	var put func(int) bool
	put = func(n int) bool {
		if n == len(order) {
			return true
		}
		for c := range room {
			if tried++; tried > mostTried {
				return false
			}
			i := order[n]
			if room[c] < need[i]-roundingOf || slices.Index(room, room[c]) < c { // of equal rooms the first is enough
				continue
			}
			room[c] -= need[i]
			on[i] = c
			if put(n + 1) {
				return true
			}
			room[c] += need[i]
		}
		return false
	}
	switch {
	case put(0):
		return on, Fits
	case tried > mostTried:
		return nil, FitOpen
	}
	return nil, FitsNot
}

// Edit makes the plan so, as one act: boxes hung, modes set, inputs fed with
// what the boxes heard before, amplifiers brought in and those without work
// taken out, leads that reach.
func (p Plan) Edit(x *rig.Index) rig.Edit {
	e := planEdit{x: x}
	for _, k := range p.Problem.pulled(x) {
		e.edits = append(e.edits, rig.Disconnect{To: k.To})
	}
	for _, a := range p.Amps {
		e.amplifier(a, p.Problem.Wishes.Keep)
	}
	e.edits = append(e.edits, p.plugs...)
	e.dropIdle(p)
	return rig.Batch{Saying: fmt.Sprintf("Planned %d amplifiers, %s", p.Totals.Amplifiers, p.Aim), Edits: e.edits}
}

type planEdit struct {
	x     *rig.Index
	edits []rig.Edit
}

// pulled are the leads into all boxes of a problem.
func (p Problem) pulled(x *rig.Index) (links []rig.Link) {
	for _, g := range p.Groups {
		for _, tag := range slices.Concat(g.Boxes, g.Mirror) {
			if k, was := x.Into(rig.Ref{Device: tag, Port: gear.PoleIn(g.Poles)}); was {
				links = append(links, k)
			}
		}
	}
	return links
}

func (e *planEdit) amplifier(a PlannedAmp, keep []rig.Ref) {
	if a.New {
		e.edits = append(e.edits, rig.AddDevices{Model: a.Model, Tags: []string{a.Tag}, Place: placeOf(e.x, a.spot)})
	}
	e.unplugIdle(a, keep)
	for i, o := range a.Outputs {
		pair := o.Channel / 2
		if pair < a.Model.Amplifier.Pairs() {
			e.pair(a, pair, keep, a.Outputs[:i])
		}
		e.feed(a, o)
	}
}

// unplugIdle pulls the leads out of inputs that no output of the plan, and none
// that is kept, listens to.
func (e *planEdit) unplugIdle(a PlannedAmp, keep []rig.Ref) {
	listens := map[int]bool{}
	for ch := range takenChannels(e.x, &a, keep) {
		listens[ch] = true
	}
	for _, o := range a.Outputs {
		listens[o.Channel] = o.Channel%2 == 0 || !a.oneFeed(o.Channel/2)
	}
	for ch := range a.Model.Amplifier.Channels {
		in := rig.Ref{Device: a.Tag, Port: gear.InputPort(ch)}
		if _, was := e.x.Into(in); was && !listens[ch] {
			e.edits = append(e.edits, rig.Disconnect{To: in})
		}
	}
}

// oneFeed tells whether both channels of a pair work on one programme, so that
// the first one's input does for both.
func (a *PlannedAmp) oneFeed(pair int) bool {
	var feeds []rig.Ref
	for _, o := range a.Outputs {
		if o.Mode == gear.Separate && o.Channel/2 == pair {
			feeds = append(feeds, o.Feed)
		}
	}
	return len(feeds) == 2 && feeds[0] == feeds[1] && feeds[0].Port != ""
}

// pair sets a pair of channels once: bridged, or separate with an input each or
// one for both.
func (e *planEdit) pair(a PlannedAmp, pair int, keep []rig.Ref, before []PlannedOutput) {
	if slices.ContainsFunc(before, func(o PlannedOutput) bool { return o.Channel/2 == pair }) {
		return
	}
	set := rig.Pair{Output: gear.Separate, Input: rig.SeparateIn}
	if a.oneFeed(pair) {
		set.Input = rig.ParallelIn // one lead does for both
	}
	for _, o := range a.Outputs {
		if o.Channel/2 == pair && o.Mode == gear.Bridged {
			set = rig.Pair{Output: gear.Bridged, Input: rig.ParallelIn}
		}
	}
	d, m := e.x.Device(a.Tag)
	if m == nil || d.PairSetting(pair) != set {
		e.edits = append(e.edits, rig.SetPair{Tag: a.Tag, Pair: pair, Set: set})
	}
}

// feed plugs into the input of an output what its boxes heard before.
func (e *planEdit) feed(a PlannedAmp, o PlannedOutput) {
	if o.Channel%2 == 1 && a.oneFeed(o.Channel/2) {
		return
	}
	in := rig.Ref{Device: a.Tag, Port: gear.InputPort(o.Channel)}
	k, was := e.x.Into(in)
	if was && k.From == o.Feed || o.Feed.Port == "" || o.Feed.Device == a.Tag { // nothing feeds itself
		return
	}
	if was {
		e.edits = append(e.edits, rig.Disconnect{To: in})
	}
	e.edits = append(e.edits, rig.Connect{Link: rig.Link{From: o.Feed, To: in}})
}

// dropIdle takes out the amplifiers of the rig that the plan leaves without
// work and that drive nothing else.
func (e *planEdit) dropIdle(p Plan) {
	busy := map[string]bool{}
	for _, a := range p.Amps {
		busy[a.Tag] = true
	}
	for _, r := range p.Problem.Wishes.Keep {
		busy[r.Device] = true
	}
	pulled := map[rig.Ref]bool{}
	for _, k := range p.Problem.pulled(e.x) {
		pulled[k.To] = true
	}
	for i := range e.x.Rig.Devices {
		d, m := &e.x.Rig.Devices[i], e.x.ModelAt(i)
		if m.Kind != gear.KindAmplifier || busy[d.Tag] {
			continue
		}
		drives := false
		for _, port := range m.Ports() {
			for _, k := range e.x.From(rig.Ref{Device: d.Tag, Port: port.Name}) {
				drives = drives || !pulled[k.To]
			}
		}
		if !drives {
			e.edits = append(e.edits, rig.RemoveDevice{Tag: d.Tag})
		}
	}
}
