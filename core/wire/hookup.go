package wire

import (
	"fmt"
	"strings"

	"largo/core/gear"
	"largo/core/rig"
)

// HookUp is how exactly a bridged load is connected to this amplifier.
type HookUp struct {
	Tag, Model string
	Pair       int
	Boxes      []string
	Inverts    gear.Inversion
	Hot        [2]string // terminals of the amplifier, of its first and second channel
	Load       [2]string // terminals of the box that they go to
	Output     gear.Connector
	Input      gear.Connector
	Box        gear.Connector
	Steps      []string
	Sheets     []BuildSheet
}

// BuildSheet is a lead to be made, pin by pin.
type BuildSheet struct {
	Title string
	Ends  []string // the plugs, the first the one at the signal's start
	Pins  []Pin
	Tag   string // to be tied to it
	Test  string // what a meter shows when it is right
}

// Pin is one conductor, with where it goes at each end; "none" where it is
// left off.
type Pin struct {
	Conductor string
	At        []string
}

// HookUpOf is how a pair of channels is connected bridged to what hangs on it.
// Boxes may be none: then it is drawn for any box.
func HookUpOf(d *rig.Device, m *gear.Model, pair int, boxes []string, box *gear.Loudspeaker) HookUp {
	a := m.Amplifier
	first, second := gear.ChannelName(2*pair), gear.ChannelName(2*pair+1)
	h := HookUp{Tag: d.Tag, Model: m.Title(), Pair: pair, Boxes: boxes, Inverts: a.Inverts(), Output: a.Sockets.Out,
		Input: a.Sockets.In}
	h.Hot = [2]string{first + " +", second + " +"}
	h.Load = [2]string{"+", "−"}
	if box != nil {
		h.Box = box.Sockets.In
	}
	if h.Output == gear.TwistLock4 || h.Output == gear.TwistLock8 {
		h.Hot = [2]string{first + " 1+", second + " 1+"}
	}
	if h.Box == gear.TwistLock4 || h.Box == gear.TwistLock8 {
		h.Load = [2]string{"1+", "1−"}
	}
	h.Steps = h.steps(a, first, second)
	if h.Output == gear.TwistLock4 || h.Output == gear.TwistLock8 {
		h.Sheets = append(h.Sheets, h.outputLead(first, second))
	}
	if h.Inverts == gear.ByLead || h.Inverts == gear.NotKnown {
		h.Sheets = append(h.Sheets, h.inputLead(2*pair))
	}
	return h
}

// steps are in the order in which they are done: nothing is live before the
// last.
func (h HookUp) steps(a *gear.Amplifier, first, second string) []string {
	steps := []string{fmt.Sprintf("%s off, its mains out, both level controls at zero.", h.Tag)}
	in1, in2 := gear.InputPort(2*h.Pair), gear.InputPort(2*h.Pair+1)
	switch h.Inverts {
	case gear.BySwitch:
		steps = append(steps, fmt.Sprintf("Set its switch of channels %s and %s to bridged now, before it is energised. "+
			"It turns channel %s itself.", first, second, second),
			fmt.Sprintf("Signal into %s alone, with a straight lead. Leave %s empty.", in1, in2))
	case gear.Inside:
		steps = append(steps, fmt.Sprintf("Signal into %s and %s alike, with straight leads or its inputs set parallel: "+
			"channel %s is turned inside. Turned once more, the load hears nothing.", in1, in2, second))
	case gear.ByStage:
		steps = append(steps, fmt.Sprintf("Its inputs are unbalanced: no lead can turn one. Signal into %s straight, and "+
			"into %s through an inverting stage of unity gain, as one half of a balanced line driver.", in1, in2))
	default:
		steps = append(steps, fmt.Sprintf("Signal into %s straight, and the same signal into %s by the lead with 2 and 3 "+
			"exchanged. The build sheet is below.", in1, in2),
			"Its inputs set separate: parallel inputs would pass the straight signal to both.")
	}
	to := "the load"
	if len(h.Boxes) > 0 {
		to = strings.Join(h.Boxes, ", ")
	}
	steps = append(steps,
		fmt.Sprintf("The load between the two hot terminals: %s to %s of %s, %s to its %s. Nothing on a minus terminal.",
			h.Hot[0], h.Load[0], to, h.Hot[1], h.Load[1]),
		"Meter on ohms across the two ends at the amplifier: the line test tells what it should read.")
	if h.Inverts != gear.BySwitch {
		steps = append(steps, "Both level controls to the same mark, for one that is lower does not do its half.")
	}
	return append(steps, "Cover the terminals, then switch on with the controls at zero, and bring them up together.")
}

// Hold makes the last step one that does not switch on: something about it is at
// stop.
func (h *HookUp) Hold() {
	if n := len(h.Steps); n > 0 {
		h.Steps[n-1] = "Cover the terminals. Leave it off and its mains out until what is named above is mended."
	}
}

// inputLead is the lead that turns the second channel: pins 2 and 3 exchanged
// at one end (IEC 60268-12 gives pin 1 screen, 2 hot, 3 cold; from memory).
func (h HookUp) inputLead(channel int) BuildSheet {
	in1, in2 := gear.InputPort(channel), gear.InputPort(channel+1)
	s := BuildSheet{Title: fmt.Sprintf("Input lead of the bridge on %s: one source plug to %s and %s", h.Tag, in1, in2),
		Tag: fmt.Sprintf("BRIDGE ONLY. 2 and 3 exchanged at %s %s", h.Tag, in2),
		Test: fmt.Sprintf(
			"Meter on ohms, source plug to the plug at %s: 1 to 1, 2 to 3 and 3 to 2 near 0 Ω, all others open.", in2)}
	if h.Input == gear.Jack {
		s.Ends = []string{"3-pin XLR, socket, at the source", "6.35 mm jack, 3 contacts, at " + in1,
			"6.35 mm jack, 3 contacts, at " + in2}
		s.Pins = []Pin{{"screen", []string{"1", "sleeve", "sleeve"}}, {"hot", []string{"2", "tip", "ring"}},
			{"cold", []string{"3", "ring", "tip"}}}
		s.Tag = fmt.Sprintf("BRIDGE ONLY. Tip and ring exchanged at %s %s", h.Tag, in2)
		s.Test = fmt.Sprintf("Meter on ohms, source plug to the plug at %s: 1 to sleeve, 2 to ring and 3 to tip near 0 Ω, "+
			"all others open.", in2)
		return s
	}
	s.Ends = []string{"3-pin XLR, socket, at the source", "3-pin XLR, plug, at " + in1, "3-pin XLR, plug, at " + in2}
	s.Pins = []Pin{{"screen", []string{"1", "1", "1"}}, {"hot", []string{"2", "2", "3"}},
		{"cold", []string{"3", "3", "2"}}}
	return s
}

// outputLead joins the hot poles of two twist-lock sockets to one box. Some
// makers lead both channels to one socket: the manual goes first.
func (h HookUp) outputLead(first, second string) BuildSheet {
	box := [2]string{h.Load[0], h.Load[1]}
	end := "the box's plug"
	if h.Box != "" {
		end = string(h.Box) + ", at the box"
	}
	return BuildSheet{
		Title: fmt.Sprintf("Output lead of the bridge on %s. First look in the manual: where both channels come out on "+
			"one socket, it names the poles to use there", h.Tag),
		Ends: []string{string(h.Output) + ", at out " + first, string(h.Output) + ", at out " + second, end},
		Pins: []Pin{{"hot of " + first, []string{"1+", "none", box[0]}}, {"hot of " + second, []string{"none", "1+", box[1]}},
			{"minus poles", []string{"none", "none", "none"}}},
		Tag: fmt.Sprintf("BRIDGE ONLY. %s, out %s and %s to one box", h.Tag, first, second),
		Test: fmt.Sprintf("Meter on ohms: 1+ of %s to %s of the box's end near 0 Ω, 1+ of %s to %s near 0 Ω, between "+
			"the two open.", first, box[0], second, box[1]),
	}
}

// HookUpAt is the hook-up of a pair of channels as it stands in a rig, with the
// amplifier's model; false where there is no such pair.
func HookUpAt(x *rig.Index, tag string, pair int) (HookUp, gear.Model, bool) {
	d, m := x.Device(tag)
	if m == nil || m.Kind != gear.KindAmplifier || pair < 0 || pair >= m.Amplifier.Pairs() {
		return HookUp{}, gear.Model{}, false
	}
	var boxes []string
	var box *gear.Loudspeaker
	for _, k := range x.From(rig.Ref{Device: tag, Port: gear.BridgePort(pair)}) {
		if _, bm := x.Device(k.To.Device); bm != nil && bm.Kind == gear.KindLoudspeaker {
			boxes, box = append(boxes, k.To.Device), bm.Loudspeaker
		}
	}
	return HookUpOf(d, m, pair, boxes, box), *m, true
}
