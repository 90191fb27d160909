package level

import (
	"fmt"
	"math"

	"largo/core/rig"
	"largo/core/sound"
	"largo/core/unit"
)

// ByEar is one step of the field method for an output: level controls at zero, a known
// programme at its usual mark, up to the level wanted, a look at the loudest, and then the
// controls are left alone (common practice, no source).
type ByEar struct {
	Key, Does string
	Expect    string // the value to look for; "" where none is known
}

// FieldMethod are the steps for an output, with what to expect of each.
func FieldMethod(x *rig.Index, l *Line) []ByEar {
	c := OfOutput(x, l.Output, "", nil)
	steps := []ByEar{
		{"down", "Turn " + l.Knob() + " to zero. Limiters set, everybody away from the boxes.", ""},
		{"mark", "A known programme through " + l.FedBy() + ", its faders and meters at their usual mark.", ""},
		{"up", "Raise " + l.Knob() + " slowly until it is as loud as wanted where it is read.", ""},
		{"loudest", "Play the loudest piece. Listen for roughness, look at the clip lamps.", ""},
		{"leave", "Leave " + l.Knob() + " there, type in where it stands, and work at the desk from now on.", ""},
	}
	if limit, set := l.Limiter.RMS.Get(); set {
		steps[0].Expect = fmt.Sprintf("limiter on record: %s rms", limit)
	} else {
		steps[0].Expect = "no limiter on record: look at Protect first"
	}
	if at, under, says, known := c.Reference(); known {
		steps[1].Expect = fmt.Sprintf("peaks to %s on its meter, %s under its clip, reach %s; average %s lower", at,
			-under, says,
			sound.ProgrammeRoom)
	}
	if wanted, known := x.Rig.Brief.Wanted.Get(); known {
		steps[2].Expect = fmt.Sprintf("%s of %s", x.Rig.Brief.Weighting.Leq(), wanted)
	}
	if over, known := l.SentOver(); known && over > 0 {
		down := l.Down() + over
		steps[2].Expect = addTo(steps[2].Expect, fmt.Sprintf("the knob near −%s, %s o'clock, where both clip together", down,
			Clock(down)))
	}
	if volts, known := l.ClipVolts(); known {
		steps[3].Expect = fmt.Sprintf("peaks under %s at its terminals, where it clips: %s rms", peakOf(volts), volts)
	}
	if _, noted := l.Device.Knob(l.Channel); noted {
		steps[4].Expect = fmt.Sprintf("on record: −%s, %s o'clock", l.Down(), Clock(l.Down()))
	}
	return steps
}

func addTo(says, more string) string {
	if says == "" {
		return more
	}
	return says + "; " + more
}

// peakOf is the peak of a sine.
func peakOf(v unit.Volt) unit.Volt { return v * math.Sqrt2 }

// Drifted is a level control that stands elsewhere than it was left, dB: over 0 it is
// further up now. False where both are the same to half a decibel.
func Drifted(was, is unit.Decibel) (unit.Decibel, bool) {
	d := was - is
	return d, d > matched || d < -matched
}
