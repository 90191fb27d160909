package plan

import (
	"context"
	"fmt"
	"math"
	"slices"

	"largo/core/gear"
	"largo/core/milp"
	"largo/core/rig"
	"largo/core/unit"
)

// Dealt is how the boxes of a plan were dealt out to its outputs, by the leads to them:
// the loss of the worst box least, then the leads shortest.
type Dealt struct {
	Loss   unit.Decibel `json:"loss"`            // dB, of the leads to the worst box, with the leads at hand by their ways
	Metres unit.Metre   `json:"metres"`          // of all leads
	Taken  bool         `json:"taken,omitempty"` // some way or conductor is not known, and was taken
	Told   bool         `json:"told"`            // the ways are known, so that there was something to compare
	Proved bool         `json:"proved"`          // no other way to deal them out is better
	Short  []string     `json:"short,omitempty"` // the leads that are missing, as "A1 out B to TOP 3, 25 m"
}

// says tells what the leads of a plan lose, and which are missing.
func (d Dealt) says() []string {
	var said []string
	best := "no other sharing of outputs does better"
	if !d.Proved {
		best = "that no other sharing of outputs does better is not proved"
	}
	switch {
	case !d.Told || d.Metres == 0:
	case d.Taken || len(d.Short) > 0:
		said = append(said, "Leads: outputs are shared by the ways that are known; what the leads lose is not, for some "+
			"ways or leads are not on record.")
	default:
		said = append(said, fmt.Sprintf("Leads, each way by the shortest at hand: %s lost at the worst box, %s of lead in "+
			"all; %s.", d.Loss, unit.Metre(math.Round(float64(d.Metres))), best))
	}
	for _, k := range d.Short {
		said = append(said, "No lead at hand reaches from "+k+": pack one.")
	}
	return said
}

// What bounds the search for leads, so that it takes a fraction of a second: the ways in
// which boxes share an output, and the branches.
const (
	mostHangings = 3000
	mostBranches = 4000
)

// hanging is boxes of a group on one output of a model at a spot: of which spot each
// is, in the order of the lead.
type hanging struct {
	option int
	kinds  []int
	at     [2]int // the spot of the amplifier, of the left side and of the right
	loss   float64
	metres float64
	taken  bool // some way or conductor of it is not known
}

// dealing deals the boxes of a plan out to its outputs.
type dealing struct {
	p     Problem
	x     *rig.Index
	a     Answer
	leads *rig.Leads
	amps  [][]PlannedAmp // by model
	spots [][]string     // of the amplifiers of each model, each once
	kinds []kinds        // of the boxes of each group
}

// kinds are the boxes of a group by where they stand: all that are as far from
// everything are of one kind.
type kinds struct {
	boxes [][]int // places in the group's list, by kind
	spots [][2]string
}

// deal gives the outputs of a plan by model and spot, each with its boxes.
func (d *dealing) deal() ([][][]PlannedOutput, Dealt) {
	for m := range d.amps {
		var spots []string
		for _, amp := range d.amps[m] {
			if !slices.Contains(spots, amp.spot) {
				spots = append(spots, amp.spot)
			}
		}
		d.spots = append(d.spots, spots)
	}
	told := false
	for g := range d.p.Groups {
		k, some := d.kindsOf(g)
		d.kinds = append(d.kinds, k)
		told = told || some
	}
	hangings, whole := d.hangings()
	if !whole || !told {
		return d.byTag(), Dealt{Told: told}
	}
	chosen, proved := d.choose(hangings)
	if chosen == nil {
		return d.byTag(), Dealt{Told: true}
	}
	dealt := Dealt{Told: true, Proved: proved}
	for i, n := range chosen {
		if n > 0 {
			dealt.Loss = max(dealt.Loss, unit.Decibel(hangings[i].loss))
			dealt.Metres += unit.Metre(float64(n) * hangings[i].metres)
			dealt.Taken = dealt.Taken || hangings[i].taken
		}
	}
	return d.hang(hangings, chosen), dealt
}

// way is how far it is between two spots, and whether that is known.
func (d *dealing) way(a, b string) (unit.Metre, bool) {
	if way, known := d.leads.Ground().Way(a, b); known {
		return way, true
	}
	return rig.Apart, false
}

// sides are the spots of a group's i-th box, of its left side and its right.
func (d *dealing) sides(g *Group, i int) [2]string {
	s := [2]string{d.x.Spot(g.Boxes[i]), ""}
	if len(g.Mirror) > 0 {
		s[1] = d.x.Spot(g.Mirror[i])
	}
	return s
}

// kindsOf sorts the boxes of a group, and tells whether any way to them is known.
func (d *dealing) kindsOf(n int) (k kinds, told bool) {
	g, ground := &d.p.Groups[n], d.leads.Ground()
	for i := range g.Boxes {
		s := d.sides(g, i)
		at := slices.IndexFunc(k.spots, func(of [2]string) bool {
			return ground.Alike(of[0], s[0]) && ground.Alike(of[1], s[1])
		})
		if at < 0 {
			at = len(k.spots)
			k.spots, k.boxes = append(k.spots, s), append(k.boxes, nil)
		}
		k.boxes[at] = append(k.boxes[at], i)
	}
	for _, spots := range d.spots {
		for _, from := range spots {
			for _, s := range k.spots {
				_, known := d.way(from, s[0])
				told = told || known
			}
		}
	}
	return k, told
}

// between is the way from one box of a group to the next, of their kinds, on a side.
func (d *dealing) between(group, a, b, side int) (unit.Metre, bool) {
	k := &d.kinds[group]
	if a != b {
		return d.way(k.spots[a][side], k.spots[b][side])
	}
	g := &d.p.Groups[group]
	first, second := k.boxes[a][0], k.boxes[a][len(k.boxes[a])-1]
	return d.way(d.sides(g, first)[side], d.sides(g, second)[side])
}

// hangings lists the ways in which boxes can share an output of each option that the
// answer uses, of each spot of its amplifiers; false where there are too many.
func (d *dealing) hangings() ([]hanging, bool) {
	var all []hanging
	for j, o := range d.p.Options {
		if math.Round(d.a.X[j]) == 0 {
			continue
		}
		for _, kinds := range d.shares(o) {
			for l := range d.spots[o.Amp] {
				for r := range d.spots[o.Amp] {
					if len(d.p.Groups[o.Group].Mirror) == 0 && r != l {
						continue
					}
					h, ok := d.best(o, hanging{option: j, kinds: kinds, at: [2]int{l, r}})
					if all = append(all, h); !ok || len(all) > mostHangings {
						return nil, false
					}
				}
			}
		}
	}
	return all, true
}

// shares lists which kinds of boxes can share an output of an option, each list rising.
func (d *dealing) shares(o Option) (all [][]int) {
	k := &d.kinds[o.Group]
	var pick func(kind int, have []int)
	pick = func(kind int, have []int) {
		if len(have) == o.Boxes {
			all = append(all, slices.Clone(have))
			return
		}
		if kind == len(k.boxes) || len(all) > mostHangings {
			return
		}
		for n := range min(len(k.boxes[kind]), o.Boxes-len(have)) + 1 {
			pick(kind+1, append(have, slices.Repeat([]int{kind}, n)...))
		}
	}
	pick(0, nil)
	return all
}

// mostOrders bounds the orders of the boxes on one lead that are compared.
const mostOrders = 720

// best is a hanging with its boxes in the order that loses least; false where there are
// too many orders to compare.
func (d *dealing) best(o Option, h hanging) (hanging, bool) {
	order := slices.Clone(h.kinds)
	best := h
	best.loss = math.Inf(1)
	for n := 0; ; n++ {
		if n > mostOrders {
			return best, false
		}
		loss, metres, taken := d.lossOf(o, order, h.at)
		if loss < best.loss-1e-9 || loss < best.loss+1e-9 && metres < best.metres-1e-9 {
			best.loss, best.metres, best.taken, best.kinds = loss, metres, taken, slices.Clone(order)
		}
		if !nextOrder(order) {
			return best, true
		}
	}
}

// nextOrder makes an order the next one; false after the last (Narayana Pandita; from
// memory).
func nextOrder(order []int) bool {
	i := len(order) - 2
	for i >= 0 && order[i] >= order[i+1] {
		i--
	}
	if i < 0 {
		return false
	}
	j := len(order) - 1
	for order[j] <= order[i] {
		j--
	}
	order[i], order[j] = order[j], order[i]
	slices.Reverse(order[i+1:])
	return true
}

// lossOf is the loss in dB of the leads to the worst box of an output, over both sides,
// the metres of all of them, and whether some way or conductor is not known.
func (d *dealing) lossOf(o Option, order []int, at [2]int) (loss, metres float64, taken bool) {
	g := &d.p.Groups[o.Group]
	for side := range g.sides() {
		from := d.spots[o.Amp][at[side]]
		ohms := make([]unit.Ohm, len(order)) // of the lead to each box
		for i, kind := range order {
			way, told := d.way(from, d.kinds[o.Group].spots[kind][side])
			if i > 0 && g.Speaker.LinksOn(g.Poles) {
				way, told = d.between(o.Group, order[i-1], kind, side)
			}
			length, area, there := d.leads.Shortest(way, g.Poles)
			taken = taken || !told || !there
			ohms[i] = gear.LoopResistance(length, area, 20)
			metres += float64(length)
		}
		loss = max(loss, worstLoss(ohms, g.Z, g.Speaker.LinksOn(g.Poles)))
	}
	return loss, metres, taken
}

// worstLoss is the loss in dB of leads to the worst of boxes, linked one to the next or
// each on a lead of its own.
func worstLoss(leads []unit.Ohm, z unit.Ohm, linked bool) (loss float64) {
	if !linked {
		for _, r := range leads {
			loss = max(loss, 20*math.Log10(float64(1+r/z)))
		}
		return loss
	}
	behind := unit.Ohm(math.Inf(1)) // what is linked on after a box
	for _, r := range slices.Backward(leads) {
		own := 1 / (1/z + 1/behind)
		loss += 20 * math.Log10(float64(1+r/own))
		behind = own + r
	}
	return loss
}

// program is the choice of hangings whose loss is at most so much, as a linear
// programme in whole numbers: each option as often as the answer has it, each box once,
// no more channels and pairs at a spot than are there; the metres least.
func (d *dealing) program(hangings []hanging, most float64) milp.Program {
	prog := milp.Program{Name: "leads"}
	rows := map[string]int{}
	add := func(column int, name string, sense milp.Sense, right, value float64) {
		at, known := rows[name]
		if !known {
			at = len(prog.Rows)
			rows[name] = at
			prog.Rows = append(prog.Rows, milp.Row{Name: name, Sense: sense, Right: right})
		}
		r := &prog.Rows[at]
		if n := len(r.Entries); n > 0 && r.Entries[n-1].Column == column {
			r.Entries[n-1].Value += value
			return
		}
		r.Entries = append(r.Entries, milp.Entry{Column: column, Value: value})
	}
	for i, h := range hangings {
		o := d.p.Options[h.option]
		times := math.Round(d.a.X[h.option])
		high := times
		if h.loss > most+1e-9 {
			high = 0
		}
		prog.Columns = append(prog.Columns, milp.Column{Name: fmt.Sprintf("hanging %d", i), High: high, Whole: true,
			Cost: h.metres})
		add(i, fmt.Sprintf("option %d", h.option), milp.Exactly, times, 1)
		for _, kind := range h.kinds {
			add(i, fmt.Sprintf("boxes %d %d", o.Group, kind), milp.Exactly,
				float64(len(d.kinds[o.Group].boxes[kind])), 1)
		}
		for side := range d.p.Groups[o.Group].sides() {
			channels, pairs := d.room(o.Amp, d.spots[o.Amp][h.at[side]])
			add(i, fmt.Sprintf("channels %d %d", o.Amp, h.at[side]), milp.AtMost, channels, float64(o.channels()))
			if o.Mode == gear.Bridged {
				add(i, fmt.Sprintf("pairs %d %d", o.Amp, h.at[side]), milp.AtMost, pairs, 1)
			}
		}
	}
	return prog
}

// room is the free channels, and the free pairs that bridge, of a model's amplifiers at
// a spot.
func (d *dealing) room(m int, spot string) (channels, pairs float64) {
	for i := range d.amps[m] {
		a := &d.amps[m][i]
		if a.spot != spot {
			continue
		}
		taken := takenChannels(d.x, a, d.p.Wishes.Keep)
		amp := a.Model.Amplifier
		channels += float64(amp.Channels - len(taken))
		for p := range amp.Pairs() {
			if amp.Bridging.PairBridges(p) && !taken[2*p] && !taken[2*p+1] {
				pairs++
			}
		}
	}
	return channels, pairs
}

// choose says how often each hanging is used: the least bound on the loss that leaves a
// choice is found by halving, then the metres are made least under it.
func (d *dealing) choose(hangings []hanging) (times []int, proved bool) {
	losses := make([]float64, len(hangings))
	for i, h := range hangings {
		losses[i] = h.loss
	}
	slices.Sort(losses)
	losses = slices.CompactFunc(losses, func(a, b float64) bool { return math.Abs(a-b) < 1e-9 })
	proved = true
	at, _ := slices.BinarySearchFunc(losses, true, func(most float64, _ bool) int {
		r := solveShortly(d.program(hangings, most), true)
		if proved = proved && (r.Proved || r.X != nil); r.X == nil {
			return -1
		}
		return 1
	})
	if at == len(losses) {
		return nil, false
	}
	r := solveShortly(d.program(hangings, losses[at]), false)
	if r.X == nil {
		return nil, false
	}
	times = make([]int, len(hangings))
	for i := range hangings {
		times[i] = int(math.Round(r.X[i]))
	}
	return times, proved && r.Proved
}

// solveShortly solves a programme with a bound on its branches; where any point will
// do, its costs do not count.
func solveShortly(p milp.Program, anyPoint bool) milp.Result {
	if anyPoint {
		p.Columns = slices.Clone(p.Columns)
		for i := range p.Columns {
			p.Columns[i].Cost = 0
		}
	}
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	return milp.Solve(ctx, p, milp.Search{Progress: func(r milp.Result) {
		if r.Nodes >= mostBranches || anyPoint && r.X != nil {
			cancel()
		}
	}})
}

// hang gives the outputs of the hangings chosen, by model and spot, left beside right;
// the bridged ones first.
func (d *dealing) hang(hangings []hanging, times []int) [][][]PlannedOutput {
	all := d.empty()
	next := make([][]int, len(d.kinds)) // how many of each kind hang already
	for g := range next {
		next[g] = make([]int, len(d.kinds[g].boxes))
	}
	for i, h := range hangings {
		o := d.p.Options[h.option]
		for range times[i] {
			var boxes []int
			for _, kind := range h.kinds {
				boxes = append(boxes, d.kinds[o.Group].boxes[kind][next[o.Group][kind]])
				next[o.Group][kind]++
			}
			d.put(all, o, boxes, h.at)
		}
	}
	return bridgedFirst(all)
}

// byTag gives the outputs of a plan with their boxes in the order of the rig, filling
// the amplifiers one after the other.
func (d *dealing) byTag() [][][]PlannedOutput {
	all := make([][][]PlannedOutput, len(d.amps))
	for m := range all {
		all[m] = [][]PlannedOutput{nil}
	}
	next := make([]int, len(d.p.Groups)) // the next box of a group
	for j, o := range d.p.Options {
		for range int(math.Round(d.a.X[j])) {
			boxes := make([]int, o.Boxes)
			for i := range boxes {
				boxes[i] = next[o.Group] + i
			}
			next[o.Group] += o.Boxes
			d.put(all, o, boxes, [2]int{})
		}
	}
	return bridgedFirst(all)
}

func (d *dealing) empty() [][][]PlannedOutput {
	all := make([][][]PlannedOutput, len(d.amps))
	for m := range all {
		all[m] = make([][]PlannedOutput, len(d.spots[m]))
	}
	return all
}

// put adds an output with boxes, by their places in the group, at the spots of its
// sides.
func (d *dealing) put(all [][][]PlannedOutput, o Option, boxes []int, at [2]int) {
	g := &d.p.Groups[o.Group]
	tags := func(of []string) []string {
		named := make([]string, len(boxes))
		for i, n := range boxes {
			named[i] = of[n]
		}
		return named
	}
	out := PlannedOutput{Option: o, Tags: tags(g.Boxes), Poles: g.Poles, Way: g.Way, Feed: g.Feed, Group: g.Name}
	all[o.Amp][at[0]] = append(all[o.Amp][at[0]], out)
	if len(g.Mirror) > 0 {
		out.Tags, out.Feed = tags(g.Mirror), g.Right
		all[o.Amp][at[1]] = append(all[o.Amp][at[1]], out)
	}
}

func bridgedFirst(all [][][]PlannedOutput) [][][]PlannedOutput {
	for m := range all {
		for s := range all[m] {
			slices.SortStableFunc(all[m][s], func(a, b PlannedOutput) int { return b.channels() - a.channels() })
		}
	}
	return all
}
