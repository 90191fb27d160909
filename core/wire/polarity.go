package wire

import (
	"fmt"
	"slices"
	"strings"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/rig"
)

// polarity finds boxes of one model and one purpose of which some hear the
// signal upside down: as many leads on the way as swap it decide.
func polarity(x *rig.Index, outs []drive.Output) []finding.Finding {
	if !slices.ContainsFunc(x.Rig.Links, func(k rig.Link) bool { return k.Swapped }) {
		return nil // every lead is straight, so nothing is turned
	}
	type purpose struct {
		model string
		aim   rig.Aim
	}
	groups := map[purpose][2][]string{}
	var order []purpose
	note := func(d *rig.Device, input rig.Ref) {
		flipped, fed := x.Flips(input)
		if !fed {
			return
		}
		p := purpose{d.Model, d.Aim()}
		g, known := groups[p]
		if !known {
			order = append(order, p)
		}
		g[flipped%2] = append(g[flipped%2], d.Tag)
		groups[p] = g
	}
	for _, o := range outs {
		for _, b := range o.Boxes {
			if o.Live {
				note(b.Device, b.In())
			}
		}
	}
	for i := range x.Rig.Devices {
		if d, m := &x.Rig.Devices[i], x.ModelAt(i); m.Kind == gear.KindLoudspeaker && m.Loudspeaker.Active {
			note(d, rig.Ref{Device: d.Tag, Port: "in"})
		}
	}
	var fs []finding.Finding
	for _, p := range order {
		if g := groups[p]; len(g[0]) > 0 && len(g[1]) > 0 {
			fs = append(fs, opposed(x, g))
		}
	}
	return fs
}

func opposed(x *rig.Index, g [2][]string) finding.Finding {
	few, many := g[1], g[0]
	if len(few) > len(many) {
		few, many = many, few
	}
	f := at(rig.Ref{Device: few[0]}, "wire.polarity", finding.Sound, finding.Mend)
	f.What = fmt.Sprintf("%s and %s move against each other: a lead on the way swaps polarity.", strings.Join(few, ", "),
		strings.Join(many, ", "))
	f.Why = "Between them the lows cancel, and voices seem to come from nowhere."
	if k, ok := x.Into(rig.Ref{Device: few[0], Port: "in"}); ok && k.Swapped {
		f.Mends = []finding.Way{{Label: "Take a straight lead into " + few[0], Edit: rig.SetSwapped{To: k.To}}}
	} else {
		f.Advice = "Look for the swapped lead between the desk and these boxes."
	}
	return f
}
