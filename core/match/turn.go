package match

import (
	"fmt"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/rig"
)

func inputs(tag string, pair int) (first, second rig.Ref) {
	return rig.Ref{Device: tag, Port: gear.InputPort(2 * pair)}, rig.Ref{Device: tag, Port: gear.InputPort(2*pair + 1)}
}

// turn is the edits with which the second side of a bridge is turned: its input on
// the same signal by a lead with 2 and 3 exchanged.
func turn(x *rig.Index, a *gear.Amplifier, tag string, pair int) []rig.Edit {
	in1, in2 := inputs(tag, pair)
	first, fed := x.Into(in1)
	set := rig.SetPair{Tag: tag, Pair: pair, Set: BridgedPair(a)}
	if !fed || set.Set.Input == rig.ParallelIn {
		return nil
	}
	lead := rig.Link{From: first.From, To: in2, Swapped: !first.Swapped, Length: first.Length, Via: first.Via}
	edits := []rig.Edit{}
	if _, there := x.Into(in2); there {
		edits = append(edits, rig.Disconnect{To: in2})
	}
	return append(edits, rig.Connect{Link: lead})
}

// unturned finds a bridge that gives nothing.
func unturned(x *rig.Index, o Output) []finding.Finding {
	if !o.Live || o.Dead == "" {
		return nil
	}
	f := at(o, "match.bridge-unturned", finding.Sound, finding.Mend)
	f.What = fmt.Sprintf("The bridge of %s gives its boxes nothing: %s.", o.At.Device, o.Dead)
	f.Why = "The load of a bridge hears the difference of its two sides; one has to be turned, and only one."
	set := rig.SetPair{Tag: o.At.Device, Pair: o.Pair, Set: BridgedPair(o.Amp)}
	edits := append([]rig.Edit{set}, turn(x, o.Amp, o.At.Device, o.Pair)...)
	if o.Amp.Inverts() == gear.Inside {
		f.Mends = []finding.Way{{Label: "Set the inputs parallel", Edit: set}}
		return []finding.Finding{f}
	}
	f.Mends = []finding.Way{{Label: "Inputs separate, the second by a lead with 2 and 3 exchanged",
		Edit: rig.Batch{Saying: "Fed the second side of the bridge on " + o.At.Device + " turned", Edits: edits}}}
	return []finding.Finding{f}
}
