package match

import (
	"fmt"
	"slices"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
	"largo/core/words"
)

// atOnce finds a bridge and the jacks of its own channels used together, as the
// sockets of a powered mixer invite to: nothing but its manual says that the bridge
// jack and the others exclude each other. It is judged at each output that its mode does
// not drive.
func atOnce(x *rig.Index, o Output, all []Output) (finding.Finding, bool) {
	var live []Output
	for _, other := range all {
		if other.Live && other.At.Device == o.At.Device && other.Pair == o.Pair && len(other.Boxes) > 0 {
			live = append(live, other)
		}
	}
	if len(live) == 0 {
		return finding.Finding{}, false
	}
	bridge, jacks := live[0], []Output{o}
	if o.Mode == gear.Bridged {
		bridge, jacks = o, live
	}
	f := at(o, "match.bridge-and-jacks", finding.Gear, finding.Stop)
	f.What = fmt.Sprintf("%s, and %s at the same time.", hangs(len(bridge.Boxes), bridge.Name()),
		hangs(len(jacks[0].Boxes), jacks[0].At.Port))
	f.What = words.Capital(f.What)
	f.Why = "The bridge uses the same two channels as its separate jacks: use the bridge jack or the others, never both."
	for _, j := range jacks {
		if z := sideLoad(bridge, j); z.Known() {
			f.Figures = append(f.Figures, z)
			f.Why += fmt.Sprintf(" Channel %s would carry %s.", j.Name(), z.Text())
		}
	}
	f.Mends = slices.Concat(allOnTheBridge(x, bridge, jacks), offTheBridge(x, bridge, jacks))
	f.Advice = "Give the boxes of one of the two an amplifier of their own."
	return f, true
}

// sideLoad is what a channel carries that drives its own jack and a side of the
// bridge, which sees half of the bridge's load.
func sideLoad(bridge, jack Output) reckon.Figure {
	const key, symbol, name = "sideLoad", "Zside", "load of a channel on its own jack and in the bridge"
	if !bridge.Nominal.Known() || !jack.Nominal.Known() {
		return reckon.Unknown(key, symbol, name, "a load on it is not known")
	}
	z := unit.Parallel(unit.Ohm(jack.Nominal.Value), unit.Ohm(bridge.Nominal.Value/2))
	return reckon.Of(key, symbol, name, z, "1 / (1/{Zjack} + 2/{Zbridge})", jack.Nominal.As("Zjack"),
		bridge.Nominal.As("Zbridge")).Because("each side of a bridge sees half of its load")
}

// allOnTheBridge hangs all boxes on the bridge, where it bears them.
func allOnTheBridge(x *rig.Index, bridge Output, jacks []Output) []finding.Way {
	boxes := slices.Clone(bridge.Hung())
	for _, j := range jacks {
		boxes = append(boxes, j.Hung()...)
	}
	may, _ := MayBridge(bridge.Amp, bridge.Pair)
	if !may.Under(x.Rig.Bridging) || !bears(bridge.Amp, gear.Bridged, boxes) {
		return nil
	}
	tag := bridge.At.Device
	set := rig.SetPair{Tag: tag, Pair: bridge.Pair, Set: BridgedPair(bridge.Amp)}
	edits := append([]rig.Edit{set}, turn(x, bridge.Amp, tag, bridge.Pair)...)
	return []finding.Way{rehang(x, tag, boxes, gear.BridgePort(bridge.Pair), nil, "").way("Hang all of them on the bridge",
		"Hung all boxes of "+tag+" on its bridge", edits...)}
}

// offTheBridge hangs the boxes of the bridge on the channel that bears them beside
// its own.
func offTheBridge(x *rig.Index, bridge Output, jacks []Output) []finding.Way {
	tag := bridge.At.Device
	for _, ch := range []int{2*bridge.Pair + 1, 2 * bridge.Pair} {
		port := gear.ChannelPort(ch)
		boxes := slices.Clone(bridge.Hung())
		for _, j := range jacks {
			if j.At.Port == port {
				boxes = append(boxes, j.Hung()...)
			}
		}
		if !bears(bridge.Amp, gear.Separate, boxes) {
			continue
		}
		set := rig.SetPair{Tag: tag, Pair: bridge.Pair, Set: rig.Pair{Output: gear.Separate, Input: rig.ParallelIn}}
		return []finding.Way{rehang(x, tag, boxes, port, nil, "").way("Separate: the boxes of the bridge on "+port,
			"Moved the boxes of the bridge of "+tag+" to "+port, set)}
	}
	return nil
}

// bears tells whether an amplifier takes boxes side by side in a mode.
func bears(a *gear.Amplifier, mode gear.Mode, boxes []load.Box) bool {
	least := a.LeastLoad(mode)
	for _, b := range boxes {
		if !b.Speaker.NominalZ().Known() {
			return false
		}
	}
	return least.Known() && !gear.Below(parallel(boxes), least.Value)
}
