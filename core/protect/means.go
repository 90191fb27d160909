package protect

import (
	"fmt"
	"math"
	"strings"

	"largo/core/fault"
	"largo/core/reckon"
	"largo/core/unit"
)

// Meaning is what a limiter's setting, as it is shown, means for the boxes.
type Meaning struct {
	Volts reckon.Figure // rms of a sine at the amplifier's output
	Watts reckon.Figure // of it into the load
	Says  string
	Wrong bool // it does not hold what the box stands
}

// Means reads a setting as a limiter shows it and tells what it holds: "48 V" rms, "97 V
// peak", "+3 dBu" at the amplifier's input, "−19 dBFS" of what feeds it, "−6 dB" below
// the amplifier's clip, "300 W" into the load. The fault is of the field "says".
func (l *Output) Means(says string) (Meaning, error) {
	v, err := l.voltsOf(says)
	if err != nil {
		return Meaning{}, fault.At("says", "%s", err)
	}
	var m Meaning
	if v.Known() && l.Nominal.Known() {
		m.Watts = reckon.Of("saysW", "P", "power of it into the load",
			unit.Volt(v.Value).Into(unit.Ohm(l.Nominal.Value)), "{V}² / {Z}", v.As("V"), l.Nominal.As("Z")).
			Because("P = U²/Z")
	}
	m.Volts = v
	m.Says, m.Wrong = l.judge(v)
	return m, nil
}

// judge compares a setting with what the governing box stands for long, and with the
// amplifier's clip.
func (l *Output) judge(v reckon.Figure) (says string, wrong bool) {
	whole, _, tag := govern(l.Hung(), boxLimits)
	clip, known := l.ClipVolts()
	if !v.Known() {
		return "What that is cannot be told: " + v.Lacks + ".", true
	}
	at := fmt.Sprintf("It holds %s to %s rms", l.At, v.Text())
	switch over := unit.OfVolts(v.Value / whole.Value); {
	case known && v.Value >= float64(clip):
		return fmt.Sprintf("The amplifier clips at %s rms, before it acts: it holds nothing.", clip), true
	case !whole.Known():
		return at + "; what its boxes stand is not known: " + whole.Lacks + ".", true
	case over > 0.05:
		return fmt.Sprintf("%s, %s over what %s stands for long, %s. Held there for minutes its coil burns.", at, over, tag,
			whole.Text()), true
	default:
		return fmt.Sprintf("%s, %s under what %s stands for long, %s.", at, -min(over, 0), tag, whole.Text()), false
	}
}

// voltsOf is a setting in V rms at the amplifier's output.
func (l *Output) voltsOf(says string) (reckon.Figure, error) {
	text := strings.ToLower(strings.TrimSpace(strings.ReplaceAll(says, "−", "-")))
	const key, symbol, name = "saysV", "V", "the setting at the output, rms"
	known := func(v unit.Volt, formula string, terms ...reckon.Term) (reckon.Figure, error) {
		if v <= 0 || v > 2000 {
			return reckon.Figure{}, fmt.Errorf("%.40q would be %s at the output, which cannot be right", says, v)
		}
		return reckon.Of(key, symbol, name, v, formula, terms...), nil
	}
	lacks := func(why string) (reckon.Figure, error) { return reckon.Unknown(key, symbol, name, why), nil }
	if volts, peak := strings.CutSuffix(text, "peak"); peak {
		v, err := unit.ParseVolt(strings.TrimSpace(volts))
		if err != nil {
			return reckon.Figure{}, err
		}
		return known(v/math.Sqrt2, "{Vpk} / √2", reckon.In("Vpk", "peak as shown", v, "typed"))
	}
	switch {
	case strings.HasSuffix(text, "dbfs"):
		d, err := unit.ParseDecibel(strings.TrimSuffix(text, "fs"))
		if err != nil {
			return reckon.Figure{}, err
		}
		sent, gain := l.Sent(), l.Gain()
		if !sent.Known() || !gain.Known() {
			return lacks(sent.Lacks + gain.Lacks)
		}
		return known((unit.DBu(sent.Value) + unit.DBu(d) + unit.DBu(gain.Value)).Volt(),
			"0.7746 V × 10^(({Lmost} + {L} + {G}) / 20)", sent.As("Lmost"), reckon.In("L", "as shown", d, "typed"),
			gain.As("G"))
	case strings.HasSuffix(text, "dbu"), strings.HasSuffix(text, "dbv"):
		d, err := unit.ParseDBu(text)
		gain := l.Gain()
		if err != nil || !gain.Known() {
			return reckon.Unknown(key, symbol, name, gain.Lacks), err
		}
		return known((d + unit.DBu(gain.Value)).Volt(), "0.7746 V × 10^(({L} + {G}) / 20)",
			reckon.In("L", "as shown", d, "typed"), gain.As("G"))
	case strings.HasSuffix(text, "db"):
		d, err := unit.ParseDecibel(text)
		clip := l.Clip()
		if err != nil || !clip.Known() {
			return reckon.Unknown(key, symbol, name, clip.Lacks), err
		}
		return known(unit.Volt(clip.Value*math.Pow(10, float64(d)/20)), "{Vclip} × 10^({D} / 20 dB)", clip.As("Vclip"),
			reckon.In("D", "as shown, against the clip", d, "typed"))
	case strings.HasSuffix(text, "w"):
		w, err := unit.ParseWatt(text)
		if err != nil || !l.Nominal.Known() {
			return reckon.Unknown(key, symbol, name, l.Nominal.Lacks), err
		}
		return known(w.Across(unit.Ohm(l.Nominal.Value)), "sqrt({P} × {Z})", reckon.In("P", "as shown", w, "typed"),
			l.Nominal.As("Z"))
	}
	v, err := unit.ParseVolt(strings.TrimSpace(strings.TrimSuffix(text, "rms")))
	if err != nil {
		return reckon.Figure{}, fmt.Errorf("%.40q: write it as the limiter shows it: 48 V, 97 V peak, +3 dBu, -19 dBFS, "+
			"-6 dB below clip, or 300 W", says)
	}
	return known(v, "")
}
