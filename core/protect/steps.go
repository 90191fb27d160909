package protect

import (
	"math"

	"largo/core/drive"
	"largo/core/reckon"
	"largo/core/unit"
)

// Step is a long-term limit at a part of the continuous rating, in the units in which
// it may be set: how low depends on what the box was tested for and on who listens
// (common practice, no source: begin at a quarter; a ported box often ends at a half).
type Step struct {
	Name  string        // as "half the rating"
	Volts reckon.Figure // rms at the amplifier's output
	Watts reckon.Figure // into the load, of a sine
	In    reckon.Figure // dBu at the amplifier's input
	Full  reckon.Figure // dB below the largest level of what feeds it
	Under reckon.Figure // dB below the amplifier's clip
}

// parts are the steps; the key tells the figures of one from those of another.
var parts = []struct {
	key, name string
	of        float64
}{{"Quarter", "a quarter of the rating", 0.25}, {"Half", "half the rating", 0.5}, {"Whole", "the whole rating", 1}}

// Steps are the long-term limits at a quarter, a half and the whole of the rating of the
// box that governs, none above the amplifier's clip; none where that is not known.
func (l *Output) Steps() []Step {
	whole, _, _ := govern(l.Hung(), drive.RatedLimits)
	clip := l.Clip()
	if !whole.Known() || !clip.Known() {
		return nil
	}
	steps := make([]Step, len(parts))
	for i, part := range parts {
		v := reckon.Of("long"+part.key, "Vrms", "long-term limit at "+part.name, unit.Volt(whole.Value*math.Sqrt(part.of)),
			"{V1} × sqrt({p})", whole.As("V1"), reckon.Count("p", "part of the rating", part.of)).Because("P = U²/Z")
		if v.Value > clip.Value {
			v = clip.Called("long"+part.key, "Vrms", "long-term limit at "+part.name).Noting("The amplifier clips before that.")
		}
		steps[i] = l.step(part.key, part.name, v, clip)
	}
	return steps
}

// Figures lists the figures of a step by their keys.
func (s Step) Figures() []reckon.Figure {
	return []reckon.Figure{s.Volts, s.Watts, s.In, s.Full, s.Under}
}

func (l *Output) step(key, name string, v, clip reckon.Figure) Step {
	s := Step{Name: name, Volts: v, In: atInput("longIn"+key, "Llong", "long-term limit at the input", v, l.Gain(), false)}
	s.Watts = reckon.Of("longW"+key, "Plong", "power of a sine at the limit",
		unit.Volt(v.Value).Into(unit.Ohm(l.Nominal.Value)), "{Vrms}² / {Z}", v.As("Vrms"), l.Nominal.As("Z")).
		Because("P = U²/Z")
	s.Under = reckon.Of("underClip"+key, "U", "below the amplifier's clip", unit.OfVolts(clip.Value/v.Value),
		"20 lg({Vclip} / {Vrms})", clip.As("Vclip"), v.As("Vrms"))
	s.Full = reckon.Unknown("full"+key, "Lfs", "below the largest level of what feeds it", l.Sent().Lacks)
	if sent := l.Sent(); sent.Known() && s.In.Known() {
		s.Full = reckon.Of("full"+key, "Lfs", "against the largest level of what feeds it",
			unit.Decibel(s.In.Value-sent.Value), "{Llong} − {Lmost}", s.In.As("Llong"), sent.As("Lmost")).
			Noting("In dBFS where " + l.FedBy() + " gives its largest level at full scale.")
	} else if sent.Known() {
		s.Full = reckon.Unknown("full"+key, "Lfs", "below the largest level of what feeds it", s.In.Lacks)
	}
	return s
}

// Lowest is the lowest frequency that the governing box is meant for, Hz: of its band,
// else of the high-pass its maker asks for.
func (l *Output) Lowest() (unit.Hertz, bool) {
	for _, b := range l.Boxes {
		if b.Name() != l.Governs {
			continue
		}
		if f, known := b.Speaker.HighPass.Get(); known {
			return f, true
		}
		return b.Speaker.Low.Get()
	}
	return 0, false
}

// releaseOver is how many times its attack a peak limiter takes to let go (common
// practice, no source).
const releaseOver = 10

// Attack is how fast the peak limiter may act, s: one period of the lowest frequency.
// A faster one bends the wave itself and is heard as distortion of the bass; a slower
// one lets the peaks through (common practice, no source).
func (l *Output) Attack() reckon.Figure {
	const key, symbol, name = "attack", "ta", "attack of the peak limiter"
	f, known := l.Lowest()
	if !known {
		return reckon.Unknown(key, symbol, name, "neither the band nor the high-pass of the box is on record")
	}
	return reckon.Of(key, symbol, name, unit.Second(1/float64(f)), "1 / {f}", reckon.In("f", "lowest frequency", f, "")).
		Because("one period of the lowest frequency: common practice, no source")
}

// Release is how long the peak limiter takes to let go, s.
func (l *Output) Release() reckon.Figure {
	const key, symbol, name = "release", "tr", "release of the peak limiter"
	a := l.Attack()
	if !a.Known() {
		return reckon.Unknown(key, symbol, name, a.Lacks)
	}
	return reckon.Of(key, symbol, name, unit.Second(releaseOver*a.Value), "{n} × {ta}",
		reckon.Count("n", "times the attack", releaseOver), a.As("ta")).Because("common practice, no source")
}
