// Package protect works out where limiters must stand so that no box is
// burnt: long-term for heat, peak for excursion and coils, in volts at the
// amplifier's output and in dBu at its input.
//
// Rms and peak are never mixed: a long-term limit is V rms, a peak limit is V
// of the waveform's crest, and a peak in dBu is the level of a sine with that
// crest.
package protect

import (
	"fmt"
	"math"
	"strings"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/load"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/stage"
	"largo/core/unit"
	"largo/core/words"
)

// Output is one output with its limits.
type Output struct {
	*drive.Output
	Governs string // tag of the box whose limit counts
	Policy  rig.LimitPolicy
	Long    reckon.Figure // V rms
	Peak    reckon.Figure // V peak
	// V rms with which its circuit holds on dense music; of no key where that holds anyway
	Mains reckon.Figure
}

// Verdict is what the outputs are held to.
type Verdict struct{ Outputs []Output }

// Stage is this stage of the day.
var Stage = stage.Stage{Name: finding.Protect, Says: says, Judge: func(in *stage.Input) stage.Outcome {
	outs, fs := Judge(in.Driven(), in.Rig().Limits)
	if len(outs) > 0 && (len(in.Rig().Supplies) > 0 || in.Index.PassesMains()) {
		lowest := in.Supply().Lowest()
		for i := range outs {
			outs[i].Mains = lowest[outs[i].At].Volts
		}
	}
	return stage.Outcome{Result: Verdict{outs}, Findings: fs, Empty: len(outs) == 0, Places: func() []stage.Place {
		places := make([]stage.Place, len(outs))
		for i, l := range outs {
			places[i] = stage.Place{Name: l.At.String(), Figures: l.Figures()}
		}
		return places
	}}
}}

// says which outputs could burn their boxes.
func says(j stage.Judged) string {
	v, _ := j.Result.(Verdict)
	var parts []string
	if high := j.Count("protect.limiter-high"); high > 0 {
		parts = append(parts, words.Spell(high, "limiter stands", "limiters stand")+" above what the boxes can take.")
	}
	if unset := j.Count("protect.limiter-unset"); unset > 0 {
		parts = append(parts, words.Spell(unset, "output has no limiter on record and could burn its boxes.",
			"outputs have no limiter on record and could burn their boxes."))
	}
	if unknown := j.Count("protect.unknown"); unknown > 0 {
		parts = append(parts, "For "+words.Small(words.Spell(unknown, "output", "outputs"))+" no limit can be given.")
	}
	switch {
	case len(v.Outputs) == 0:
		return "No amplifier drives a box yet, so there is nothing to limit."
	case len(parts) == 0:
		return words.Spell(len(v.Outputs), "output is", "outputs are") + " held within what the boxes stand."
	}
	return strings.Join(parts, " ")
}

// Judge works out the limits of all outputs that drive something, as low as a policy says.
func Judge(outs []drive.Output, policy rig.LimitPolicy) ([]Output, []finding.Finding) {
	limits := make([]Output, 0, len(outs))
	var fs []finding.Finding
	for i := range outs {
		o := &outs[i]
		if len(o.Boxes) == 0 || !o.Live {
			continue
		}
		limits = append(limits, limit(o, policy))
		fs = append(fs, limits[len(limits)-1].findings()...)
	}
	return limits, fs
}

func limit(o *drive.Output, policy rig.LimitPolicy) Output {
	l := Output{Output: o, Policy: policy}
	l.Long, l.Peak, l.Governs = govern(o.Hung(), func(b load.Box) (long, peak reckon.Figure) {
		long, peak = drive.RatedLimits(b)
		if long.Known() {
			long = tested(b, lowered(long, policy))
		}
		return long, peak
	})
	l.capAtClip(o.Clip())
	return l
}

// govern finds the box that stands least at this output and gives its limits,
// carried to the output where boxes are in series. An unknown box leaves the
// whole output without a limit.
func govern(boxes []load.Box, of func(load.Box) (long, peak reckon.Figure)) (long, peak reckon.Figure, tag string) {
	for i, b := range boxes {
		if i > 0 && b.Speaker == boxes[i-1].Speaker && b.Share == boxes[i-1].Share {
			continue // it stands what the one before it does
		}
		v, p := of(b)
		if !v.Known() {
			return v, p, b.Name()
		}
		if tag == "" || v.Value < long.Value {
			long, tag = v, b.Name()
		}
		if peak.Symbol == "" || p.Value < peak.Value {
			peak = p
		}
	}
	if len(boxes) > 1 {
		long = long.Noting("Worked per box; " + tag + " counts.")
	}
	return long, peak, tag
}

// boxLimits are those of its rating, and for long what it was tested to where that is less.
func boxLimits(b load.Box) (long, peak reckon.Figure) {
	long, peak = drive.RatedLimits(b)
	if long.Known() {
		long = tested(b, long)
	}
	return long, peak
}

// lowered is the long-term limit at a part of the rating.
func lowered(rated reckon.Figure, policy rig.LimitPolicy) reckon.Figure {
	if policy == rig.WholeRating {
		return rated
	}
	return reckon.Of("long", "Vrms", "long-term limit", unit.Volt(rated.Value*math.Sqrt(policy.Part())),
		"{V1} × sqrt({p})",
		rated.As("V1"), reckon.Count("p", "part of the rating", policy.Part())).
		Noting(rated.Note).Noting("This rig holds its limiters to " + string(policy) + ".").Because(rated.Source)
}

// tested is the long-term limit of a box that stood less in its own box, for hours, than
// its rating says of free air; the limit of its rating else.
func tested(b load.Box, rated reckon.Figure) reckon.Figure {
	v, known := b.Speaker.Tested.Get()
	if v /= unit.Volt(b.Share); !known || float64(v) >= rated.Value {
		return rated
	}
	return reckon.Of("long", "Vrms", "long-term limit", v, "").
		Noting(fmt.Sprintf("By its rating it would be %s; in its own box it was tested to less.", rated.Text())).
		Because(b.Speaker.Tested.Origin())
}

// capAtClip: a threshold above the amplifier's own clip would never act.
func (l *Output) capAtClip(clip reckon.Figure) {
	if !clip.Known() {
		return
	}
	if l.Long.Known() && l.Long.Value > clip.Value {
		l.Long = clip.Called("long", "Vrms", "long-term limit").
			Noting(fmt.Sprintf("The box would stand %s; the amplifier clips before that.", l.Long.Text()))
	}
	if peak := math.Sqrt2 * clip.Value; l.Peak.Known() && l.Peak.Value > peak {
		l.Peak = reckon.Of("peak", "Vpk", "peak limit", unit.Volt(peak), "√2 × {Vclip}", clip.As("Vclip")).
			Noting(fmt.Sprintf("The box would stand peaks of %s; the amplifier clips before that.",
				l.Peak.Text())).Because("crest of a sine")
	}
}

// RatedOn says on which impedance the rating of the governing box was figured.
func (l *Output) RatedOn() string {
	for _, b := range l.Boxes {
		if b.Name() == l.Governs {
			z := b.Speaker.RatedOn()
			if !z.Known() {
				return z.Name + ", not known"
			}
			return z.Name + ", " + z.Text()
		}
	}
	return ""
}

// LongIn is the long-term limit at the input, dBu.
func (l *Output) LongIn() reckon.Figure {
	return atInput("longIn", "Llong", "long-term limit at the input", l.Long, l.Gain(), false)
}

// PeakIn is the peak limit at the input, dBu of a sine with that peak.
func (l *Output) PeakIn() reckon.Figure {
	return atInput("peakIn", "Lpeak", "peak limit at the input", l.Peak, l.Gain(), true)
}

func atInput(key, symbol, name string, volts, gain reckon.Figure, peak bool) reckon.Figure {
	switch {
	case !volts.Known():
		return reckon.Unknown(key, symbol, name, volts.Lacks)
	case !gain.Known():
		return reckon.Unknown(key, symbol, name, gain.Lacks)
	}
	v, formula := unit.Volt(volts.Value), "20 lg({V} / 0.7746 V) − {G}"
	note := ""
	if peak {
		v, formula = v/math.Sqrt2, "20 lg({V} / √2 / 0.7746 V) − {G}"
		note = "As the level of a sine with that peak."
	}
	return reckon.Of(key, symbol, name, v.DBu()-unit.DBu(gain.Value), formula, volts.As("V"), gain.As("G")).
		Noting(note).Because("0 dBu = sqrt(0.6) V")
}

// Floor rounds a limit down to what a limiter shows, a tenth of a volt.
func Floor(f reckon.Figure) unit.Given[unit.Volt] {
	if !f.Known() {
		return unit.Given[unit.Volt]{}
	}
	return unit.Of(unit.Volt(math.Floor(f.Value*10) / 10))
}

// Figures lists the figures of an output by their keys.
func (l *Output) Figures() []reckon.Figure {
	fs := []reckon.Figure{l.Long, l.Peak, l.Gain(), l.LongIn(), l.PeakIn(), l.Clip(), l.Attack(), l.Release()}
	if l.Mains.Key != "" {
		fs = append(fs, l.Mains)
	}
	for _, s := range l.Steps() {
		fs = append(fs, s.Figures()...)
	}
	return fs
}
