package plan

import (
	"cmp"
	"math"
	"slices"

	"largo/core/drive"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/unit"
)

// Left is a box, or a way of one, that no plan can take up, with the reason.
type Left struct {
	Box string `json:"box"`
	Why string `json:"why"`
}

// GroupsOf gathers the passive boxes of a rig by what has to be driven alike:
// the model, the way, what they carry and whom they are for. Boxes on outputs
// that are kept are left out. Left and right are mirrored where the wishes ask
// for it, both sides are of one model and equal in number.
func GroupsOf(x *rig.Index, outs []load.Output, w Wishes) ([]Group, []Left) {
	feeds := feedsOf(x, outs, w.Keep)
	var groups []Group
	var left []Left
	at := map[alike]int{}
	for i := range x.Rig.Devices {
		d, m := &x.Rig.Devices[i], x.ModelAt(i)
		if m.Kind != gear.KindLoudspeaker || m.Loudspeaker.Active {
			continue
		}
		for _, poles := range drivenOn(d, m.Loudspeaker) {
			speaker, way := m.Loudspeaker.WayAt(poles)
			name := load.Box{Tag: d.Tag, Way: way}.Name()
			in := feeds[rig.Ref{Device: d.Tag, Port: gear.PoleIn(poles)}]
			if in.kept {
				continue
			}
			z, rating := speaker.NominalZ(), speaker.ContinuousW()
			switch {
			case speaker.Transformer:
				left = append(left, Left{name, "it hangs on a line transformer, which is planned in watts"})
				continue
			case !z.Known():
				left = append(left, Left{name, z.Lacks})
				continue
			case !rating.Known():
				left = append(left, Left{name, rating.Lacks})
				continue
			}
			key := alike{d.Model, poles, in.feed, d.Aim()}
			g, known := at[key]
			if !known {
				g = len(groups)
				at[key] = g
				part := load.Box{Device: d, Poles: poles, Way: way, Speaker: speaker}.Part()
				groups = append(groups, Group{Name: groupName(m, way, in.feed), Poles: poles, Way: way, Feed: in.feed,
					Stage:  d.Aim() == rig.OnStage,
					Policy: x.Rig.PolicyOf(part), Speaker: speaker, Z: unit.Ohm(z.Value), Rating: unit.Watt(rating.Value)})
			}
			groups[g].Boxes = append(groups[g].Boxes, d.Tag)
		}
	}
	if w.Mirrors {
		groups = mirrored(x, groups)
	}
	askLevel(groups, w)
	return groups, left
}

// drivenOn lists the pairs of poles that lead to the ways of a box.
func drivenOn(d *rig.Device, s *gear.Loudspeaker) []int {
	if s.Selector {
		return []int{d.Poles()}
	}
	all := make([]int, s.Pairs())
	for i := range all {
		all[i] = i + 1
	}
	return all
}

// alike is what the boxes of one group share.
type alike struct {
	model string
	poles int
	feed  rig.Ref
	aim   rig.Aim
}

// fed is what arrives at a box: the output that feeds its amplifier channel.
type fed struct {
	feed rig.Ref
	kept bool
}

func groupName(m *gear.Model, way string, feed rig.Ref) string {
	name := m.Name
	if way != "" {
		name += " " + way
	}
	if feed.Port == "" {
		return name + ", nothing feeds them yet"
	}
	return name + " on " + feed.Port
}

// feedsOf tells for every input of a box what its amplifier channel carries,
// and whether its output is kept as it is.
func feedsOf(x *rig.Index, outs []load.Output, keep []rig.Ref) map[rig.Ref]fed {
	feeds := map[rig.Ref]fed{}
	for _, o := range outs {
		k, _ := x.Into(o.Input)
		for _, b := range o.Boxes {
			feeds[b.In()] = fed{k.From, slices.Contains(keep, o.At)}
		}
	}
	return feeds
}

// mirrored joins each group with the one of the other side.
func mirrored(x *rig.Index, groups []Group) []Group {
	gone := make([]bool, len(groups))
	for i := range groups {
		g := &groups[i]
		port, ok := rig.RightOf(g.Feed.Port)
		if !ok {
			continue
		}
		for j := range groups {
			o := &groups[j]
			if j == i || gone[j] || o.Feed != (rig.Ref{Device: g.Feed.Device, Port: port}) || o.Speaker != g.Speaker &&
				o.Z != g.Z || o.Poles != g.Poles || len(o.Boxes) != len(g.Boxes) || modelOf(x, o) != modelOf(x, g) {
				continue
			}
			g.Mirror, g.Right, gone[j] = o.Boxes, o.Feed, true
			g.Name += " and " + o.Feed.Port
			break
		}
	}
	var all []Group
	for i := range groups {
		if !gone[i] {
			all = append(all, groups[i])
		}
	}
	return all
}

func modelOf(x *rig.Index, g *Group) string {
	d, _ := x.Device(g.Boxes[0])
	return d.Model
}

// askLevel works out what each full-range box has to be given so that all of
// them together give the level wanted, with the room that ordinary programme
// needs over its average. Subwoofers and boxes for the stage are not asked.
func askLevel(groups []Group, w Wishes) {
	wanted, known1 := w.Wanted.Get()
	r, known2 := w.Distance.Get()
	if !known1 || !known2 {
		return
	}
	n := 0
	for _, g := range groups {
		if !g.Speaker.Sub && !g.Stage {
			n += len(g.Boxes) + len(g.Mirror)
		}
	}
	for i := range groups {
		s := groups[i].Speaker.OneWattSensitivity()
		if w.policyOf(&groups[i]) != rig.LevelFirst || groups[i].Speaker.Sub || groups[i].Stage || !s.Known() {
			continue
		}
		each := float64(wanted+match.ProgrammeRoom) - 10*math.Log10(float64(n))
		groups[i].Least = unit.Watt(math.Pow(10, (each-s.Value+20*math.Log10(float64(r)))/10))
	}
}

// WishesOf are the wishes of a rig as they follow from its brief.
func WishesOf(r rig.Rig) Wishes {
	return Wishes{Policy: r.Policy, School: r.Bridging, Mirrors: true, Supply: drive.AtPlace(r), Wanted: r.Brief.Wanted,
		Distance: r.Brief.Distance}
}

// AmpsOf lists the amplifiers to plan with: those of the rig, those owned, and
// those that can be hired, the owned ones first and free.
func AmpsOf(x *rig.Index, outs []load.Output, owned []gear.Holding, hire []gear.Model, w Wishes) []Stocked {
	var amps []Stocked
	at := map[string]int{}
	have := func(m gear.Model) *Stocked {
		i, known := at[m.ID]
		if !known {
			i = len(amps)
			at[m.ID] = i
			amps = append(amps, Stocked{Model: m})
		}
		return &amps[i]
	}
	inRig := map[string]int{}
	for i := range x.Rig.Devices {
		if m := x.ModelAt(i); m.Kind == gear.KindAmplifier {
			have(*m)
			inRig[m.ID]++
		}
	}
	for _, h := range owned {
		if h.Model.Kind == gear.KindAmplifier {
			have(h.Model).Owned += h.Count
		}
	}
	for i := range amps {
		amps[i].Owned = max(amps[i].Owned, inRig[amps[i].Model.ID])
	}
	keepTaken(x, outs, w, have)
	slices.SortStableFunc(amps, func(a, b Stocked) int { return cmp.Compare(a.Model.Title(), b.Model.Title()) })
	for _, m := range hire {
		if price, known := m.Hire.Get(); known && m.Kind == gear.KindAmplifier {
			amps = append(amps, Stocked{Model: m, Hire: mostHired, Price: unit.Of(price)})
		}
	}
	return amps
}

// SpareLeads are the speaker leads among what is owned that the rig does not use.
func SpareLeads(x *rig.Index, owned []gear.Holding) []gear.Holding {
	used := x.Used()
	var spare []gear.Holding
	for _, h := range owned {
		if h.Model.Cable == nil || h.Model.Cable.Sort != gear.SpeakerCable {
			continue
		}
		n := min(used[h.Model.ID], h.Count)
		used[h.Model.ID] -= n
		if h.Count -= n; h.Count > 0 {
			spare = append(spare, h)
		}
	}
	return spare
}

// mostHired is how many of one model a plan may hire.
const mostHired = 40

// keepTaken counts the channels of kept outputs as taken. A pair of which one
// channel is kept cannot be bridged any more; where its inputs are parallel
// the other channel has no say in what it carries, and is taken too.
func keepTaken(x *rig.Index, outs []load.Output, w Wishes, have func(gear.Model) *Stocked) {
	kept := map[string]map[int]bool{} // channels by device
	for i := range outs {
		o := &outs[i]
		if !slices.Contains(w.Keep, o.At) {
			continue
		}
		hold(x, o, w, have)
		if kept[o.At.Device] == nil {
			kept[o.At.Device] = map[int]bool{}
		}
		kept[o.At.Device][o.Channel] = true
		if set := o.Device.PairSetting(max(o.Pair, 0)); o.Pair >= 0 &&
			(o.Mode == gear.Bridged || set.Input == rig.ParallelIn) {
			kept[o.At.Device][2*o.Pair], kept[o.At.Device][2*o.Pair+1] = true, true
		}
	}
	for i := range x.Rig.Devices {
		channels := kept[x.Rig.Devices[i].Tag]
		if channels == nil {
			continue
		}
		s := have(*x.ModelAt(i))
		s.Fixed++
		s.Taken += len(channels)
		for pair := range s.Model.Amplifier.Pairs() {
			if s.Model.Amplifier.Bridging.PairBridges(pair) && (channels[2*pair] || channels[2*pair+1]) {
				s.Cut++
			}
		}
	}
}

// hold counts what a kept output needs of a supply that its channels share: what the
// policies of its boxes ask at the least, and no more than it gives.
func hold(x *rig.Index, o *load.Output, w Wishes, have func(gear.Model) *Stocked) {
	_, m := x.Device(o.At.Device)
	amp := drive.Amp{Model: m, Supply: w.Supply}
	most := amp.Together()
	if !most.Known() || !o.Live || !o.Nominal.Known() {
		return
	}
	needs := unit.Watt(0)
	for _, b := range o.Boxes {
		low, _ := match.Band(match.PolicyAt(x.Rig, b))
		needs += unit.Watt(low * b.Speaker.ContinuousW().Value)
	}
	if gives := amp.PowerInto(o.Mode, unit.Ohm(o.Nominal.Value)); gives.Known() {
		needs = min(needs, unit.Watt(gives.Value))
	}
	s := have(*m)
	if s.Held == nil {
		s.Held = map[string]unit.Watt{}
	}
	s.Held[o.At.Device] = min(s.Held[o.At.Device]+needs, unit.Watt(most.Value))
}
