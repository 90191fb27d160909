package wire

import (
	"fmt"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/rig"
)

// unsplit finds the ways of boxes that nothing divides the bands for: no processor
// stands between the desk and their channel, or it sends two ways of one box the
// same.
func unsplit(x *rig.Index, outs []drive.Output) []finding.Finding {
	var fs []finding.Finding
	programmes := map[string]map[rig.Ref][]int{} // of each box, by what feeds its channels: the pairs of poles
	for i := range outs {
		o := &outs[i]
		source, divided := dividedBy(x, o.Input)
		if !o.Live || o.Arrives == "" {
			continue
		}
		for j := range o.Boxes {
			b := &o.Boxes[j]
			if b.Way == "" {
				continue
			}
			if !divided {
				fs = append(fs, undivided(o, b))
				continue
			}
			if programmes[b.Tag] == nil {
				programmes[b.Tag] = map[rig.Ref][]int{}
			}
			programmes[b.Tag][source] = append(programmes[b.Tag][source], b.Poles)
			if poles := programmes[b.Tag][source]; len(poles) == 2 {
				fs = append(fs, sameBand(b, source))
			}
		}
	}
	return fs
}

// dividedBy walks up from an amplifier's input to the processor that divides the
// bands, and gives the output of it that feeds the input.
func dividedBy(x *rig.Index, input rig.Ref) (rig.Ref, bool) {
	for range x.Rig.Links {
		k, fed := x.Into(input)
		if !fed {
			return rig.Ref{}, false
		}
		_, m := x.Device(k.From.Device)
		switch m.Kind {
		case gear.KindProcessor:
			return k.From, true
		case gear.KindLoudspeaker: // its link-through of line level
			input = rig.Ref{Device: k.From.Device, Port: gear.PoleIn(max(1, gear.PairOf(k.From.Port)))}
		default:
			return k.From, false
		}
	}
	return rig.Ref{}, false
}

// tender tells whether a way burns on lows: every one but the lowest, and any that
// asks for a high-pass or has a capacitor in its feed.
func tender(b *drive.Box) bool {
	return b.Poles > 1 || b.Speaker.HighPass.Known() || b.Speaker.Blocked == gear.Yes
}

func undivided(o *drive.Output, b *drive.Box) finding.Finding {
	if !tender(b) {
		f := at(b.In(), "wire.bands-unsplit", finding.Sound, finding.Mend)
		f.What = fmt.Sprintf("Nothing divides the bands for %s: %s hears all of %s.", b.Name(), b.Name(), o.Arrives)
		f.Why = "The way sounds over its band, and cancels the next where both play."
		f.Advice = "Put a processor with a crossover between the desk and this amplifier."
		return f
	}
	f := at(b.In(), "wire.bands-unsplit", finding.Gear, finding.Stop)
	f.What = fmt.Sprintf("Nothing divides the bands for %s: it gets all the lows of %s.", b.Name(), o.Arrives)
	f.Why = "Lows throw its diaphragm out of its gap in the first bar; a limiter of volts does not see it."
	if hp, known := b.Speaker.HighPass.Get(); known {
		f.Why = fmt.Sprintf("It asks for a high-pass at %s; ", hp) + "lows below that tear it, and a limiter does not " +
			"see them."
	}
	f.Advice = "Put a processor with a crossover between the desk and this amplifier, and set it before energising."
	return f
}

func sameBand(b *drive.Box, source rig.Ref) finding.Finding {
	f := at(rig.Ref{Device: b.Tag}, "wire.bands-same", finding.Gear, finding.Stop)
	f.What = fmt.Sprintf("Two ways of %s are fed by the one output %s.", b.Tag, source)
	f.Why = "One of them gets the band of the other: a low way sounds dull, a high way burns."
	f.Advice = "Feed each way from the output of its own band."
	return f
}
