package feed

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/pack"
	"largo/core/rig"
	"largo/core/supply"
	"largo/core/unit"
	"largo/core/words"
)

// Planned is which device goes into which outlet: as few circuits as hold them on dense
// music, then as even as can be, then with the fewest leads to another place.
type Planned struct {
	Plugs  []Plug
	Used   int // circuits
	Even   string
	Far    int // devices whose outlet is at another place
	Proved bool
	Fails  string // why there is no plan; "" where there is one
	More   int    // circuits more with which there would be one, where it fails for lack of room
	Way    finding.Way
	Spare  []string // the room that each used circuit keeps
	Alone  []string // amplifiers that need their circuit to themselves
	Mixed  bool     // what makes no sound shares circuits with the sound: apart they do not fit
}

// Plug is one device with its outlet.
type Plug struct{ Tag, Outlet, Circuit string }

// planBin is a breaker with the outlets that devices may be plugged into.
type planBin struct {
	node    int
	outlets []*rig.Supply
	earth   gear.Answer
	phase   int
}

// planItem is what is plugged as one: a device, or all control gear together, which shares
// one earth.
type planItem struct {
	taken []int // of Tree.Taken
}

// What a phase, and a circuit in parts of what it is for, may be uneven by and count as even:
// what devices take is not known better.
const evenAmps, evenPart = 0.25, 0.005

// Says puts a plan into sentences.
func (p Planned) Says() string {
	if p.Fails != "" {
		return words.Capital(p.Fails) + "."
	}
	says := words.Spell(p.Used, "circuit holds", "circuits hold") + " it on dense music, " + p.Even
	if p.Proved {
		says += ": proved, fewer do not, and none is more even."
	} else {
		says += "; whether it could be more even is not proved."
	}
	if p.Far > 0 {
		says += " " + words.Spell(p.Far, "device stands", "devices stand") + " at another place than its outlet."
	}
	if n := len(p.Alone); n == 1 {
		says += fmt.Sprintf(" %s has a circuit to itself: nothing fits beside it.", p.Alone[0])
	} else if n > 1 {
		says += fmt.Sprintf(" %s have a circuit each to themselves: nothing fits beside them.",
			words.List(shortened(p.Alone)))
	}
	if p.Mixed {
		says += " What makes no sound shares a circuit with the sound: apart they do not fit."
	}
	return says
}

// PlanPlugs plans the outlets of all devices that stand on none, or of all where anew says so.
// Devices on mains of our own gear stay there.
func (v Verdict) PlanPlugs(x *rig.Index, anew bool) Planned {
	bins := v.planBins()
	items, why := v.planItems(x, anew)
	switch {
	case why != "":
		return Planned{Fails: why}
	case len(bins) == 0:
		return Planned{Fails: "no circuit with an outlet and a rating is drawn"}
	case len(items) == 0:
		return Planned{Fails: "every device stands on an outlet already"}
	}
	p := v.problem(x, bins, items, anew)
	got, can := pack.Solve(p)
	mixed := false
	if !can {
		mixed = mix(&p)
		got, can = pack.Solve(p)
	}
	if !can {
		return v.shortOf(x, bins, items, p)
	}
	out := v.planned(x, bins, items, p, got)
	out.Mixed = mixed
	return out
}

// Plannable tells whether there are circuits to plan on.
func (v Verdict) Plannable() bool { return v.Tree != nil && len(v.planBins()) > 0 }

// planBins are the breakers that have a rating and outlets.
func (v Verdict) planBins() (list []planBin) {
	for _, c := range v.Circuits {
		if !c.breaks() {
			continue
		}
		b := planBin{node: c.Index, phase: max(c.Phase-1, 0)}
		for at := c.Index; at >= 0 && b.earth == ""; at = v.Nodes[at].Up {
			if p := v.Nodes[at].Part; p != nil {
				b.earth = p.Earth
			}
		}
		for _, i := range v.Below(c.Index) {
			p := v.Nodes[i].Part
			if p != nil && p.Sort == rig.Outlet && (p.Lamps == "" || p.Lamps == Sound) && p.Button != gear.No {
				b.outlets = append(b.outlets, p)
			}
		}
		if len(b.outlets) > 0 {
			list = append(list, b)
		}
	}
	return list
}

// planItems are the devices that have to be plugged in, control gear as one.
func (v Verdict) planItems(x *rig.Index, anew bool) (list []planItem, why string) {
	control := planItem{}
	for i := range v.Taken {
		t := &v.Taken[i]
		d := &x.Rig.Devices[t.Device]
		if _, led := x.Inlet(d); led || t.Model.Supply != nil || x.OutletOf(d) != "" && !anew {
			continue
		}
		switch t.Model.Kind {
		case gear.KindMixer, gear.KindProcessor, gear.KindSource, gear.KindReceiver, gear.KindSwitch, gear.KindMicrophone:
			control.taken = append(control.taken, i)
		default:
			list = append(list, planItem{[]int{i}})
		}
	}
	if len(control.taken) > 0 {
		list = append(list, control)
	}
	return list, ""
}

// The kinds of loads that do not share a circuit where it can be helped: dimmers buzz, heaters and
// motors make the volts dip.
const sounding, other = 1, 2

func kindOf(t *supply.Taken) int {
	if t.Model.Kind == gear.KindAppliance {
		return other
	}
	return sounding
}

// mix lets loads of all kinds share; false where they did already.
func mix(p *pack.Problem) (mixed bool) {
	for i := range p.Items {
		mixed = mixed || p.Items[i].Kind == other
		p.Items[i].Kind = 0
	}
	for b := range p.Bins {
		mixed = mixed || p.Bins[b].Kind == other
		p.Bins[b].Kind = 0
	}
	return mixed
}

// problem writes it in plain numbers.
func (v Verdict) problem(x *rig.Index, bins []planBin, items []planItem, anew bool) pack.Problem {
	p := pack.Problem{Grain: evenPart}
	phases := 1
	for _, b := range bins {
		phases = max(phases, b.phase+1)
	}
	if phases > 1 {
		p.Groups, p.Grain = make([]float64, phases), evenAmps
		for i := range p.Groups {
			p.Groups[i] = v.phaseHolds(bins)
		}
	}
	for _, b := range bins {
		n := &v.Nodes[b.node]
		bin := pack.Bin{Cap: float64(n.Limit) * v.Rule, Group: b.phase, BaseLeak: float64(n.Leaks)}
		if n.Part.Residual.Known() {
			bin.Leak = leaksMind * float64(n.Part.Residual.Or(0))
			if n.Part.Type == rig.GFCI {
				bin.Leak = gfciHolds
			}
		}
		bin.Base = float64(n.Carries(supply.Dense))
		for _, i := range v.Below(b.node) {
			for _, l := range v.Nodes[i].Loads {
				bin.Kind = kindOf(&v.Taken[l])
			}
		}
		if anew {
			bin.Base, bin.BaseLeak, bin.Kind = float64(n.Part.Carries.Or(0)), 0, 0
		}
		p.Bins = append(p.Bins, bin)
	}
	for _, it := range items {
		p.Items = append(p.Items, v.item(x, bins, it))
	}
	return p
}

// phaseHolds is what each phase carries at the most, 0 where that is not known.
func (v Verdict) phaseHolds(bins []planBin) float64 {
	for at := bins[0].node; at >= 0; at = v.Nodes[at].Up {
		if v.Nodes[at].Three {
			return float64(v.Nodes[at].Limit)
		}
	}
	return 0
}

func (v Verdict) item(x *rig.Index, bins []planBin, it planItem) pack.Item {
	out := pack.Item{Allowed: make([]bool, len(bins)), Cost: make([]int, len(bins))}
	for b := range bins {
		out.Allowed[b] = true
	}
	for _, i := range it.taken {
		t := &v.Taken[i]
		out.Kind = kindOf(t)
		out.Load += float64(t.Amps(supply.Dense))
		out.Leak += float64(t.Model.Intake.Leakage.Or(0))
		for b := range bins {
			if bins[b].earth == gear.No && t.Model.Intake.Earthed == gear.Yes {
				out.Allowed[b] = false
			}
			if _, near := nearest(bins[b].outlets, x.Rig.Devices[t.Device].Place); !near {
				out.Cost[b]++
			}
		}
	}
	return out
}

// nearest is the outlet at a place, else the first; near tells which.
func nearest(outlets []*rig.Supply, place string) (o *rig.Supply, near bool) {
	for _, o := range outlets {
		if place != "" && o.Place == place {
			return o, true
		}
	}
	return outlets[0], false
}

// after judges the rig as planned: what the plan's circuits share, as a source or a residual-current
// device before them and leads behind them, is no part of the problem. It gives the first thing
// that would be wrong; "" where all holds.
func (v Verdict) after(x *rig.Index, plugs rig.Edit) string {
	next, err := rig.Apply(x.Rig, plugs)
	if err != nil {
		return err.Error()
	}
	at := rig.NewIndex(next)
	as := Judge(at, supply.New(at, drive.Outputs(at, load.Outputs(at))))
	for _, f := range as.findings(at) {
		switch f.Code {
		case "feed.over", "feed.dense", "feed.continuous", "feed.no-earth", "feed.leakage", "feed.neutral":
			return strings.TrimSuffix(f.What, ".")
		}
	}
	return ""
}

// mostMore is how many circuits more are tried where there is no plan.
const mostMore = 6

// shortOf says what is lacking, and offers what can be done with the circuits that are there.
func (v Verdict) shortOf(x *rig.Index, bins []planBin, items []planItem, p pack.Problem) Planned {
	p.Any = true
	out := Planned{Fails: "no circuit holds some of it on dense music: bring a larger feed"}
	widest := slices.MaxFunc(p.Bins, func(a, b pack.Bin) int { return cmp.Compare(a.Cap, b.Cap) })
	for more := 1; more <= mostMore; more++ {
		if _, can := pack.Solve(with(p, widest, more)); can {
			out.More, out.Fails = more, fmt.Sprintf("the circuits do not hold it on dense music; %s of %s would do",
				words.Small(words.Spell(more, "circuit more", "circuits more")), unit.Ampere(widest.Cap))
			break
		}
	}
	if way, plugs, can := v.heldBack(x, bins, items, p); can {
		out.Way, out.Plugs = way, plugs
		out.Fails += ", or limiters that hold the amplifiers back"
	}
	return out
}

// with is a problem with circuits more, of which nobody says the phase.
func with(p pack.Problem, widest pack.Bin, more int) pack.Problem {
	p.Bins, p.Items, p.Groups = slices.Clone(p.Bins), slices.Clone(p.Items), nil
	for range more {
		p.Bins = append(p.Bins, pack.Bin{Cap: widest.Cap, Leak: widest.Leak})
	}
	for i := range p.Bins {
		p.Bins[i].Group = 0
	}
	for i := range p.Items {
		it := &p.Items[i]
		it.Allowed, it.Cost = slices.Clone(it.Allowed), nil
		for range more {
			it.Allowed = append(it.Allowed, true)
		}
	}
	return p
}

// halvings is how often the part of dense music that fits in is halved: to a hundredth.
const halvings = 7

// heldBack finds the largest part of dense music's power, the same for all amplifiers that are
// planned, at which the circuits hold them, and plugs them so with their limiters at it.
func (v Verdict) heldBack(x *rig.Index, bins []planBin, items []planItem, p pack.Problem) (way finding.Way,
	plugs []Plug, can bool) {
	at := func(part float64) (pack.Plan, bool) {
		p.Items = slices.Clone(p.Items)
		for i := range items {
			p.Items[i].Load = 0
			for _, l := range items[i].taken {
				p.Items[i].Load += float64(v.Taken[l].AmpsAt(part))
			}
		}
		return pack.Solve(p)
	}
	low, high := 0.0, 1.0
	for range halvings {
		middle := (low + high) / 2
		if _, holds := at(middle); holds {
			low = middle
		} else {
			high = middle
		}
	}
	got, holds := at(low)
	if low == 0 || !holds {
		return way, nil, false
	}
	plugs, edits := v.plugsOf(x, bins, items, got)
	all := rig.Batch{Edits: edits, Saying: "Plugged in as planned, and held back by limiters"}
	for _, it := range items {
		for _, l := range it.taken {
			for _, o := range v.Taken[l].Outputs {
				ref := rig.Ref{Device: v.Taken[l].Tag, Port: o.Port}
				set, fits := limiterAt(x, ref, supply.Held(low, o))
				if !fits {
					return way, nil, false
				}
				all.Edits = append(all.Edits, set)
			}
		}
	}
	if v.after(x, all) != "" {
		return way, nil, false
	}
	return finding.Way{Label: fmt.Sprintf("Plug them so, and set their long-term limiters %s lower", unit.OfPower(1/low)),
		Edit: all}, plugs, true
}

// plugsOf are the plugs of a packing, and the edits that make them.
func (v Verdict) plugsOf(x *rig.Index, bins []planBin, items []planItem, got pack.Plan) (plugs []Plug,
	edits []rig.Edit) {
	for i, b := range got.At {
		for _, l := range items[i].taken {
			t := &v.Taken[l]
			o, _ := nearest(bins[b].outlets, x.Rig.Devices[t.Device].Place)
			plugs = append(plugs, Plug{t.Tag, o.Name, v.Nodes[bins[b].node].Name})
			if x.OutletOf(&x.Rig.Devices[t.Device]) != o.Name {
				edits = append(edits, rig.PlugMains{Tag: t.Tag, Outlet: o.Name})
			}
		}
	}
	return plugs, edits
}

// alone are the amplifiers that have a circuit to themselves, beside which nothing else fits.
func (v Verdict) alone(items []planItem, p pack.Problem, got pack.Plan) (tags []string) {
	count, least := map[int]int{}, math.Inf(1)
	for i, b := range got.At {
		count[b]++
		least = min(least, p.Items[i].Load)
	}
	for i, b := range got.At {
		t := &v.Taken[items[i].taken[0]]
		if count[b] == 1 && len(got.At) > 1 && t.Model.Amplifier != nil &&
			p.Bins[b].Base+p.Items[i].Load+least > p.Bins[b].Cap {
			tags = append(tags, t.Tag)
		}
	}
	return tags
}

// planned puts the answer into plugs.
func (v Verdict) planned(x *rig.Index, bins []planBin, items []planItem, p pack.Problem, got pack.Plan) Planned {
	out := Planned{Used: got.Bins, Far: got.Cost, Proved: got.Proved, Alone: v.alone(items, p, got)}
	all := rig.Batch{Saying: "Plugged in as planned"}
	out.Plugs, all.Edits = v.plugsOf(x, bins, items, got)
	carried := make([]float64, len(bins))
	for b := range bins {
		carried[b] = p.Bins[b].Base
	}
	for i, b := range got.At {
		carried[b] += p.Items[i].Load
	}
	for b := range bins {
		if carried[b] > 0 {
			out.Spare = append(out.Spare, fmt.Sprintf("%s keeps %s", v.Nodes[bins[b].node].Name,
				unit.Ampere(p.Bins[b].Cap-carried[b])))
		}
	}
	out.Even = fmt.Sprintf("the fullest at %.0f %%", 100*got.Largest)
	if len(p.Groups) > 1 {
		out.Even = "the fullest phase at " + unit.Ampere(got.Largest).String()
	}
	if wrong := v.after(x, all); wrong != "" {
		return Planned{Fails: "each circuit would hold it, and not all that stands before and behind them: " + wrong}
	}
	if len(all.Edits) > 0 {
		out.Way = finding.Way{Label: "Plug them so", Edit: all}
	}
	return out
}
