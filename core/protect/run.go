package protect

import (
	"math"
	"sync"

	"largo/core/bench"
	"largo/core/fault"
	"largo/core/limiter"
	"largo/core/signal"
	"largo/core/thermal"
	"largo/core/unit"
)

// Trial is a programme that is let through the limiters of an output: of what crest, how
// far its average stands over the long-term limit, for how long.
type Trial struct {
	Crest   unit.Decibel // 3 to 24
	Over    unit.Decibel // −20 to +20, of its average over the long-term limit
	Length  unit.Second  // at most two hours
	Attack  unit.Second  // of the limiter for heat
	Release unit.Second
	Ratio   float64 // 0: nothing more comes out
	Knee    unit.Decibel
	Off     bool // both limiters are switched off
	// Recorded is a recording in place of noise of that crest, nil for none.
	Recorded *Recording
}

// Recording is a recorded programme, played again and again until the trial ends.
type Recording struct {
	Rate int
	RMS  float64                        // its average, of full scale 1
	Play func() (limiter.Source, error) // from its beginning, full scale 1
}

// UsualTrial is dense music that leans 5 dB on a slow limiter for an hour: 10 s of attack
// and 30 of release held the heat of a small subwoofer (common practice, no source).
var UsualTrial = Trial{Crest: 9, Over: 5, Length: 3600, Attack: 10, Release: 30}

// Check faults what a trial cannot be, by field.
func (t Trial) Check() error {
	var l fault.List
	in := func(field, what string, v, low, high float64, of string) {
		if !(v >= low && v <= high) {
			l.Add(field, "%s of %g %s cannot be tried: %g to %g.", what, v, of, low, high)
		}
	}
	in("crest", "A crest", float64(t.Crest), 3, 24, "dB")
	in("over", "An average", float64(t.Over), -20, 20, "dB over the limit")
	in("length", "A length", float64(t.Length), 10, 7200, "s")
	in("attack", "An attack", float64(t.Attack), 0.001, 600, "s")
	in("release", "A release", float64(t.Release), 0.001, 600, "s")
	in("knee", "A knee", float64(t.Knee), 0, 24, "dB")
	if t.Ratio != 0 {
		in("ratio", "A ratio", t.Ratio, 1, 1000, "to 1")
	}
	return l.Err()
}

// Ran is what a trial showed.
type Ran struct {
	limiter.Trace
	Trial
	Long, Peak float64 // V, where the limiters stood
	OnRecord   bool    // so they are on record; else as they should be set
	Body       thermal.Body
	BodyFrom   string
}

// Run lets a programme through the limiters of the output, set as they are on record or,
// where none is complete, as they should be, then through the amplifier, into the box that
// governs. The error tells what is not known, or what the trial cannot be.
func (l *Output) Run(t Trial) (Ran, error) {
	if err := t.Check(); err != nil {
		return Ran{}, err
	}
	clip, known := l.ClipVolts()
	switch {
	case !l.Long.Known():
		return Ran{}, fault.At("", "No limit can be given for %s: %s.", l.At, l.Long.Lacks)
	case !known:
		return Ran{}, fault.At("", "Where the amplifier clips is not known: %s.", l.Clip().Lacks)
	}
	r := Ran{Trial: t, Long: float64(Floor(l.Long).Or(0)), Peak: float64(Floor(l.Peak).Or(0))}
	rms, set1 := l.Limiter.RMS.Get()
	peak, set2 := l.Limiter.Peak.Get()
	if set1 && set2 {
		r.Long, r.Peak, r.OnRecord = float64(rms), float64(peak), true
	}
	r.Body, r.BodyFrom = l.body()
	c := limiter.Chain{Rate: trialRate, Clip: float64(clip) * math.Sqrt2, Load: l.Nominal.Value, Body: &r.Body, Air: 25}
	if !t.Off {
		attack := l.Attack().Value
		if !l.Attack().Known() {
			attack = usualAttack
		}
		c.Limiters = []limiter.Limiter{
			{Detector: limiter.RMS, Threshold: r.Long, Attack: float64(t.Attack), Release: float64(t.Release), Ratio: t.Ratio,
				Knee: float64(t.Knee)},
			{Detector: limiter.Peak, Threshold: r.Peak, Attack: attack, Release: releaseOver * attack, Ratio: t.Ratio,
				Knee: float64(t.Knee)}}
	}
	volts := r.Long * math.Pow(10, float64(t.Over)/20)
	if t.Recorded != nil {
		c.Rate = t.Recorded.Rate
		var err error
		r.Trace, err = c.Run(t.Recorded.again(volts/t.Recorded.RMS, float64(t.Length)), float64(t.Length), 240)
		return r, err
	}
	x := programme(t.Crest)
	scale := volts * math.Sqrt2 / math.Pow(10, float64(signal.Measure(x).RMS)/20)
	var err error
	r.Trace, err = c.Periodic(x, scale, float64(t.Length), settling*float64(max(t.Attack, t.Release)), 240)
	return r, err
}

// again plays a recording over and over, scaled, for so many s.
func (p *Recording) again(scale, seconds float64) limiter.Source {
	left := int(seconds * float64(p.Rate))
	var now limiter.Source
	empty := false
	return func(buffer []float64) (n int, err error) {
		buffer = buffer[:min(len(buffer), left)]
		for len(buffer) > 0 && n == 0 {
			if now == nil {
				if now, err = p.Play(); err != nil || empty {
					return 0, err
				}
				empty = true
			}
			if n, err = now(buffer); err != nil {
				return 0, err
			}
			if n == 0 {
				now = nil
			} else {
				empty = false
			}
		}
		for i := range buffer[:n] {
			buffer[i] *= scale
		}
		left -= n
		return n, nil
	}
}

// settling is after how many of their longest time the limiters do the same each time.
const settling = 6

// trialRate is how many samples a second of a trial are looked at: of programme whose peaks
// and average alone count, every sixth does.
const trialRate = signal.Rate / 6

// programmes are the pieces that were made already, by their crest in whole dB: a megabyte
// each.
var programmes sync.Map

func programme(crest unit.Decibel) []float64 {
	if x, made := programmes.Load(crest); made {
		return x.([]float64)
	}
	whole := signal.Programme(1, 20, crest)
	x := make([]float64, 0, len(whole)/6)
	for i := 0; i < len(whole); i += 6 {
		x = append(x, whole[i])
	}
	if crest == unit.Decibel(math.Round(float64(crest))) {
		programmes.Store(crest, x)
	}
	return x
}

// usualAttack is that of a peak limiter where the lowest frequency is not known, s: of
// 100 Hz.
const usualAttack = 0.01

// body is the driver of the box that governs, as it is to heat, and where that is from.
// Several boxes on the output each take their share; one of them is looked at.
func (l *Output) body() (thermal.Body, string) {
	for _, b := range l.Boxes {
		if b.Name() != l.Governs {
			continue
		}
		k, from := bench.KnownOf(&b.Speaker.Drive)
		return perOutput(k.Body, b.Share), from
	}
	return thermal.Beforehand(100, 6, thermal.Copper).Body, "nothing"
}

// perOutput is a driver as the output's volts meet it, of which a share reaches it.
func perOutput(b thermal.Body, share float64) thermal.Body {
	if share > 0 && share != 1 {
		b.R20 /= share * share
	}
	return b
}
