package level

import (
	"fmt"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
	"largo/core/words"
)

// Advice is what a kind of source asks of its channel.
type Advice struct {
	LowCut unit.Hertz // 0: none, it lives down there
	Why    string
	Tone   string
}

// advices are by kind of source (common practice, no source; the lowest notes are those of
// equal temperament at A 440).
var advices = map[rig.SourceKind]Advice{
	rig.Voice: {120, "nothing sung or said lies below; thumps, wind and handling do",
		"a little less about 250 Hz where it booms near the microphone"},
	rig.LowVoice: {80, "a bass sings down to 82 Hz; thumps and handling lie below",
		"a little less about 200 Hz near the microphone"},
	rig.Guitar: {75, "its lowest string is 82 Hz; the stage rumbles below", "less about 200 Hz if it booms"},
	rig.Keys:   {0, "its left hand goes down to 27.5 Hz", "less at 300 Hz if it crowds the voices"},
	rig.Strings: {150, "a violin's lowest string is 196 Hz; bows thump and stages rumble below",
		"less about 3 kHz where it is sharp"},
	rig.Winds: {100, "keys and breath make thumps, and most of them play no lower", "less about 1 kHz where it honks"},
	rig.Bass: {35, "its lowest string is 41 Hz; what lies below moves cones for nothing",
		"more at 700 Hz to be told from the kick"},
	rig.Kick:    {35, "what lies below 40 Hz moves cones for nothing", "less about 300 Hz where it sounds of cardboard"},
	rig.Drums:   {70, "a floor tom is tuned down to 80 Hz; the kick is on a channel of its own", "less about 400 Hz"},
	rig.Cymbals: {250, "they have nothing below, and the drums beside them have", "nothing but the low cut at first"},
	rig.Playback: {30, "mastered programme ends there; what lies below moves cones for nothing",
		"none: somebody did it already"},
}

// AdviceFor is what a kind of source asks of its channel.
func AdviceFor(k rig.SourceKind) (Advice, bool) {
	a, known := advices[k]
	return a, known
}

// Channel is an input of a mixer that something feeds.
type Channel struct {
	At   rig.Ref
	From rig.Ref
	Mic  bool
	Set  rig.PortSetting
	Advice
	Asks bool // its kind is on record
}

// Channels are all inputs of mixers that something feeds, in the order of the rig.
func Channels(x *rig.Index) (list []Channel) {
	for i := range x.Rig.Devices {
		d, m := &x.Rig.Devices[i], x.ModelAt(i)
		if m.Mixer == nil {
			continue
		}
		for _, p := range m.Ports() {
			at := rig.Ref{Device: d.Tag, Port: p.Name}
			if k, fed := x.Into(at); fed && p.Dir == gear.In {
				c := Channel{At: at, From: k.From, Mic: p.Signal == gear.Mic, Set: d.PortSetting(p.Name)}
				c.Advice, c.Asks = AdviceFor(c.Set.Kind)
				list = append(list, c)
			}
		}
	}
	return list
}

// lowCuts finds channels whose kind asks for a low cut that they do not have, or whose low
// cut takes away what they play.
func lowCuts(channels []Channel) (fs []finding.Finding) {
	for _, c := range channels {
		cut, set := c.Set.LowCut.Get()
		if !c.Asks || c.LowCut == 0 && !set || set && cut >= c.LowCut/2 && cut <= c.LowCut*3/2 {
			continue
		}
		f := finding.Finding{Code: "level.low-cut", Stage: finding.Level, Danger: finding.Sound, Gravity: finding.Mind,
			At:  c.At,
			Why: words.Capital(c.Why) + "."}
		next := c.Set
		switch {
		case c.LowCut == 0 || cut > c.LowCut*3/2:
			f.What = fmt.Sprintf("%s cuts below %s, which takes away part of its %s.", c.At, cut, c.Set.Kind)
		case set:
			f.What = fmt.Sprintf("%s cuts below %s; below %s nothing is wanted of its %s.", c.At, cut, c.LowCut, c.Set.Kind)
		default:
			f.What = fmt.Sprintf("%s has no low cut on record; below %s nothing is wanted of its %s.", c.At, c.LowCut,
				c.Set.Kind)
		}
		label := "Set the low cut to " + c.LowCut.String() + ", then record it"
		next.LowCut = unit.Of(c.LowCut)
		if c.LowCut == 0 {
			label, next.LowCut = "Take the low cut out, then record it", unit.Given[unit.Hertz]{}
		}
		f.Mends = []finding.Way{{Label: label, Edit: rig.SetPort{Tag: c.At.Device, Set: next}}}
		fs = append(fs, f)
	}
	return fs
}
