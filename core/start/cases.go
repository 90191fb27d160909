package start

import (
	"fmt"
	"slices"

	"largo/core/gear"
	"largo/core/order"
	"largo/core/rig"
	"largo/core/stage"
	"largo/core/unit"
	"largo/core/words"
)

// Emergency is the one act that silences everything, and what it costs.
type Emergency struct {
	Acts  []Act
	Whole bool        // one act does it
	Back  unit.Second // until all that it takes with it has booted again; 0 for nothing
}

// Act is one switch or breaker to throw.
type Act struct {
	Name, Where string
	Silences    []string // what makes sound
	Costs       []string // what goes off with it
}

// Says puts it into words.
func (e Emergency) Says() string {
	if len(e.Acts) == 0 {
		return "Nothing here makes sound."
	}
	var says string
	for i, a := range e.Acts {
		if i > 0 {
			says += "; then "
		}
		says += a.Name
		if a.Where != "" {
			says += ", " + a.Where
		}
	}
	if e.Whole {
		says = "One act silences all: " + says + "."
	} else {
		says = "No single switch silences all. In this order: " + says + "."
	}
	if e.Back > 0 {
		var lost []string
		for _, a := range e.Acts {
			lost = append(lost, a.Costs...)
		}
		says += fmt.Sprintf(" With it %s %s off, and takes %s to come back.", words.List(lost), verbGo(len(lost)), e.Back)
	}
	return says
}

func verbGo(n int) string {
	if n == 1 {
		return "goes"
	}
	return "go"
}

// EmergencyOf finds what silences all that makes sound by the fewest acts, and of those the one
// that takes least with it: a switch, a breaker, or gear on the mains that has a switch.
func EmergencyOf(in *stage.Input) (e Emergency) {
	acts := append(switchActs(in), mainsActs(in)...)
	open := loud(in.Index)
	for len(open) > 0 {
		best, gain := -1, 0
		for i, a := range acts {
			n := 0
			for _, tag := range a.Silences {
				if slices.Contains(open, tag) {
					n++
				}
			}
			if n > gain || n == gain && best >= 0 && n > 0 && len(a.Costs) < len(acts[best].Costs) {
				best, gain = i, n
			}
		}
		if best < 0 {
			break // nobody knows its switch: there is none
		}
		e.Acts = append(e.Acts, acts[best])
		open = slices.DeleteFunc(open, func(tag string) bool { return slices.Contains(acts[best].Silences, tag) })
	}
	e.Whole = len(e.Acts) == 1
	for _, a := range e.Acts {
		for _, tag := range a.Costs {
			_, m := in.Index.Device(tag)
			s, _ := order.Settle(m)
			e.Back = max(e.Back, s)
		}
	}
	return e
}

func loud(x *rig.Index) (tags []string) {
	for i := range x.Rig.Devices {
		if m := x.ModelAt(i); m.MakesSound() && m.Powered() {
			tags = append(tags, x.Rig.Devices[i].Tag)
		}
	}
	return tags
}

// switchActs are the switches of the devices themselves.
func switchActs(in *stage.Input) (list []Act) {
	for _, n := range in.Order().Nodes {
		if !n.Loud {
			continue
		}
		a := Act{Name: n.Switch}
		for _, d := range n.Devices {
			dev, m := &in.Rig().Devices[d], in.Index.ModelAt(d)
			a.add(dev.Tag, m)
			if a.Where == "" {
				a.Where = dev.Place
			}
		}
		list = append(list, a)
	}
	return list
}

// mainsActs are the breakers of the house and gear on the mains that has a switch.
func mainsActs(in *stage.Input) (list []Act) {
	t := in.Supply()
	for i := range t.Nodes {
		n := &t.Nodes[i]
		a := Act{Name: n.Name}
		switch {
		case n.Part != nil && n.Part.Sort == rig.Breaker:
			a.Name, a.Where = "the breaker "+n.Name, n.Part.Place
		case n.Model != nil && n.Model.Wake.Switch != "":
			a.Where = in.Rig().Devices[n.Device].Place
		default:
			continue
		}
		for _, below := range t.Below(i) {
			for _, l := range t.Nodes[below].Loads {
				a.add(t.Taken[l].Tag, t.Taken[l].Model)
			}
		}
		if len(a.Silences) > 0 {
			list = append(list, a)
		}
	}
	return list
}

// add notes what an act takes off: appliances, and gear that only passes mains on, cost nothing.
func (a *Act) add(tag string, m *gear.Model) {
	switch {
	case m.MakesSound():
		a.Silences = append(a.Silences, tag)
	case m.Supply == nil && m.Kind != gear.KindAppliance:
		a.Costs = append(a.Costs, tag)
	}
}

// Late says how something quiet is plugged in while the rest is live.
func Late(in *stage.Input, tag string) []string {
	x := in.Index
	i := x.At(tag)
	if i < 0 {
		return nil
	}
	var mutes, live []string
	for _, k := range x.Rig.Links {
		if _, m := x.Device(k.To.Device); k.From.Device == tag && m != nil && m.Kind == gear.KindMixer {
			mutes = append(mutes, k.To.String())
		}
	}
	for to := range x.Reach()[i].Each {
		if x.ModelAt(to).MakesSound() && x.ModelAt(to).Powered() {
			live = append(live, x.Rig.Devices[to].Tag)
		}
	}
	settles, _ := order.Settle(x.ModelAt(i))
	first := "Nothing that it reaches is live."
	switch {
	case len(mutes) > 0:
		first = "Mute " + words.List(mutes) + ", and pull its fader down."
	case len(live) > 0:
		first = "Nothing mutes it on its way: switch off " + words.List(live) + " first, and wait until they are silent."
	}
	return []string{first, "Plug " + tag + " in and switch it on.",
		fmt.Sprintf("Wait %s, and look: %s.", settles, words.Small(look(x.ModelAt(i)))),
		"Open it slowly, and listen."}
}

// Failure says what is done when the supply has gone in the middle of the show, before it returns.
func Failure(in *stage.Input) []string {
	var loudest, quiet []string
	for _, n := range in.Order().Nodes {
		if n.Loud {
			loudest = append(loudest, n.Switch)
		} else {
			quiet = append(quiet, n.Switch)
		}
	}
	if len(loudest) == 0 {
		return nil
	}
	list := []string{"Before it returns: " + words.List(loudest) + " off, by their own switches. Master faders down."}
	if len(quiet) > 0 {
		list = append(list, "Then "+words.List(quiet)+" off: what boots while the mains still wavers boots twice.")
	}
	return append(list, "When it has stood for a minute, with its volts read: the power-up from its first step.")
}
