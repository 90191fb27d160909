package protect

import (
	"fmt"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// over is how far a recorded limiter may stand above the figure: the rounding
// of what limiters show.
const over = 1.01

func (l *Output) findings() []finding.Finding {
	var fs []finding.Finding
	add := func(code string, gravity finding.Gravity, what, why, advice string, figures []reckon.Figure,
		mends ...finding.Way) {
		fs = append(fs, finding.Finding{Code: code, Stage: finding.Protect, Danger: finding.Gear, Gravity: gravity, At: l.At,
			What: what, Why: why, Advice: advice, Figures: figures, Mends: mends})
	}
	set := func() []finding.Way { // made only where it mends something
		if !l.Limitable {
			return nil
		}
		lim := rig.Limiter{Port: l.At.Port, RMS: Floor(l.Long), Peak: Floor(l.Peak)}
		return []finding.Way{{Label: fmt.Sprintf("Set it, then record it: %s rms, %s peak", lim.RMS, lim.Peak),
			Edit: rig.SetLimiter{Tag: l.At.Device, Set: lim}}}
	}
	nowhere := ""
	if !l.Limitable {
		nowhere = "Nothing on its way has a limiter that can be set: put a processor with one before this amplifier, or " +
			"take a smaller one."
		if mark := l.LongIn(); mark.Known() && l.FedBy() != "" {
			nowhere += fmt.Sprintf(" Until then mark the fader where %s sends %s, and seal what stands behind it.", l.FedBy(),
				mark.Text())
		}
	}
	figures := func() []reckon.Figure { return []reckon.Figure{l.Long, l.Peak} }
	rms, rmsSet := l.Limiter.RMS.Get()
	peak, peakSet := l.Limiter.Peak.Get()
	switch {
	case !l.Long.Known():
		add("protect.unknown", finding.Mend, fmt.Sprintf("No limit can be given for %s: %s.", l.At, l.Long.Lacks),
			"An unlimited amplifier can burn it.", "Find the figure on the plate or in the sheet; until then keep well down.",
			nil)
	case rmsSet && float64(rms) > over*l.Long.Value:
		add("protect.limiter-high", finding.Mend, fmt.Sprintf("The limiter of %s holds %s rms; %s %s.", l.At, rms,
			l.held(), l.Long.Text()),
			l.atStake(), nowhere, figures(), set()...)
	case peakSet && float64(peak) > over*l.Peak.Value:
		add("protect.limiter-high", finding.Mend, fmt.Sprintf("The limiter of %s lets peaks of %s through; %s stands %s.",
			l.At, peak, l.Governs, l.Peak.Text()),
			"A single drop or plug pulled can tear it.", nowhere, figures(), set()...)
	case !(rmsSet && peakSet) && l.canHarm():
		add("protect.limiter-unset", finding.Mend,
			fmt.Sprintf("%s can give more than %s %s, and no complete limiter is on record.", l.At, l.held(), l.Long.Text()),
			"Nothing holds it back but a hand on the fader.", nowhere, figures(), set()...)
	}
	if gain := l.Gain(); !gain.Known() && l.Long.Known() {
		add("protect.gain-unknown", finding.Mend, fmt.Sprintf("The limits of %s cannot be given in dBu: %s.", l.At,
			gain.Lacks),
			"A limiter before the amplifier would be set by guess.", "", nil)
	}
	for _, g := range l.guards() {
		add("protect.guard", finding.Mind, g.says, g.why,
			"Trust the limiter, and sweep the tweeter softly before each show.", nil)
	}
	for _, wants := range l.highPasses() {
		add("protect.high-pass", finding.Mind, wants.says,
			wants.why, "Set the high-pass in the processor before the limiter is trusted.", nil)
	}
	return fs
}

// held says who stands the long-term limit, or who asks for it.
func (l *Output) held() string {
	if l.Policy == rig.WholeRating {
		return l.Governs + " stands"
	}
	return "this rig holds " + l.Governs + " to " + string(l.Policy) + ","
}

// atStake is what happens above the long-term limit.
func (l *Output) atStake() string {
	if l.Policy == rig.WholeRating {
		return "Held there for minutes its coil burns."
	}
	return "What was agreed for this rig is not kept, and a hot evening takes its coil."
}

// canHarm tells whether the amplifier's clip point lies above what the boxes
// stand, or is not known.
func (l *Output) canHarm() bool {
	clip := l.Clip()
	return !clip.Known() || clip.Value > over*l.Long.Value
}

// guards are what a lamp or a fuse before a tweeter hides, once for each model.
func (l *Output) guards() (list []highPass) {
	seen := map[string]bool{}
	for i := range l.Boxes {
		b := &l.Boxes[i]
		g := b.Speaker.Guard
		if seen[b.Device.Model] || g == "" || g == gear.NoGuard {
			continue
		}
		seen[b.Device.Model] = true
		h := highPass{fmt.Sprintf("The tweeter of %s is protected by a %s.", b.Name(), g), ""}
		switch g {
		case gear.LampGuard:
			h.why = "The lamp takes power as it lights: the highs fall by some decibels when it gets loud, and nobody sees why."
		case gear.FuseGuard:
			h.why = "Once it is blown the highs are gone, with no sound of it; listen to each box alone, and carry spares."
		default:
			h.why = "It opens when it is hot and closes again: the highs come and go in the middle of a piece."
		}
		list = append(list, h)
	}
	return list
}

// highPass is what one way or box asks for below its band.
type highPass struct{ says, why string }

// highPasses are those that the ways and vented boxes of an output ask for, once for
// boxes that ask alike.
func (l *Output) highPasses() []highPass {
	var list []highPass
	seen := map[string]bool{}
	for i := range l.Boxes {
		b := &l.Boxes[i]
		want, asks := HighPassOf(b)
		key := b.Device.Model + b.Way
		if !asks || seen[key] {
			continue
		}
		seen[key] = true
		h := highPass{fmt.Sprintf("%s needs a high-pass at %s.", b.Name(), want),
			"Below its band nothing holds the diaphragm; a voltage limit does not see it."}
		if b.Speaker.Vented {
			h.why = "Below the tuning of a ported box nothing holds the cone; a voltage limit does not see it."
		}
		if !want.Known() {
			h.says = fmt.Sprintf("%s needs a high-pass; its sheet does not say where.", b.Name())
		}
		list = append(list, h)
	}
	return list
}

// HighPassOf is the high-pass that a box, or a way of it, asks for, unknown where it
// asks for one without saying where: a vented sub, and any way but the lowest.
func HighPassOf(b *drive.Box) (unit.Given[unit.Hertz], bool) {
	if b.Speaker.HighPass.Known() {
		return b.Speaker.HighPass, true
	}
	return unit.Given[unit.Hertz]{}, b.Speaker.Vented && b.Speaker.Sub || b.Way != "" && b.Poles > 1
}
