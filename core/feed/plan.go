package feed

import (
	"fmt"
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

// Says puts a plan into a sentence.
func (p Planned) Says() string {
	if p.Fails != "" {
		return words.Capital(p.Fails) + "."
	}
	says := words.Spell(p.Used, "circuit holds", "circuits hold") + " it on dense music, " + p.Even
	if p.Proved {
		says += ": proved, fewer do not, and none is more even"
	} else {
		says += "; whether it could be more even is not proved"
	}
	if p.Far > 0 {
		says += ". " + words.Spell(p.Far, "device stands", "devices stand") + " at another place than its outlet"
	}
	return says + "."
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
	if !can {
		return v.shortOf(p)
	}
	return v.planned(x, bins, items, p, got)
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
		if anew {
			bin.Base, bin.BaseLeak = float64(n.Part.Carries.Or(0)), 0
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

// shortOf says what is lacking.
func (v Verdict) shortOf(p pack.Problem) Planned {
	widest := slices.MaxFunc(p.Bins, func(a, b pack.Bin) int {
		if a.Cap < b.Cap {
			return -1
		}
		return 1
	})
	for more := 1; more <= mostMore; more++ {
		next := p
		next.Bins, next.Items, next.Groups = slices.Clone(p.Bins), slices.Clone(p.Items), nil
		for range more {
			next.Bins = append(next.Bins, pack.Bin{Cap: widest.Cap, Leak: widest.Leak})
		}
		for i := range next.Bins {
			next.Bins[i].Group = 0
		}
		for i := range next.Items {
			it := &next.Items[i]
			it.Allowed, it.Cost = slices.Clone(it.Allowed), nil
			for range more {
				it.Allowed = append(it.Allowed, true)
			}
		}
		if _, can := pack.Solve(next); can {
			return Planned{More: more, Fails: fmt.Sprintf("the circuits do not hold it on dense music; %s of %s would do",
				words.Small(words.Spell(more, "circuit more", "circuits more")), unit.Ampere(widest.Cap))}
		}
	}
	return Planned{Fails: "no circuit holds some of it on dense music: hold its amplifiers back by their limiters, or " +
		"bring a larger feed"}
}

// planned puts the answer into plugs.
func (v Verdict) planned(x *rig.Index, bins []planBin, items []planItem, p pack.Problem, got pack.Plan) Planned {
	out := Planned{Used: got.Bins, Far: got.Cost, Proved: got.Proved}
	all := rig.Batch{Saying: "Plugged in as planned"}
	carried := make([]float64, len(bins))
	for b := range bins {
		carried[b] = p.Bins[b].Base
	}
	for i, b := range got.At {
		carried[b] += p.Items[i].Load
		for _, l := range items[i].taken {
			t := &v.Taken[l]
			o, _ := nearest(bins[b].outlets, x.Rig.Devices[t.Device].Place)
			out.Plugs = append(out.Plugs, Plug{t.Tag, o.Name, v.Nodes[bins[b].node].Name})
			if x.OutletOf(&x.Rig.Devices[t.Device]) != o.Name {
				all.Edits = append(all.Edits, rig.PlugMains{Tag: t.Tag, Outlet: o.Name})
			}
		}
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
