package limiter

import (
	"fmt"
	"math"

	"largo/core/thermal"
)

// Chain is what a programme passes: limiters in their order, an amplifier that clips, a
// load, a driver that heats.
type Chain struct {
	Rate     int // samples a second
	Limiters []Limiter
	Clip     float64 // V of the peak at which the amplifier clips; 0: it never does
	Load     float64 // Ω that powers are figured on
	Body     *thermal.Body
	Air      float64 // °C
}

// Check says what of a chain cannot be.
func (c Chain) Check() error {
	if c.Rate < 1000 || c.Rate > 400_000 {
		return fmt.Errorf("%d samples a second cannot be: 1,000 to 400,000", c.Rate)
	}
	if !(c.Load > 0 && c.Load < 1000) || !(c.Clip >= 0) {
		return fmt.Errorf("a load of %g Ω, a clip of %g V cannot be", c.Load, c.Clip)
	}
	for _, l := range c.Limiters {
		if err := l.Check(); err != nil {
			return err
		}
	}
	if c.Body != nil {
		return c.Body.Check()
	}
	return nil
}

// Moment is a stretch of what came out.
type Moment struct {
	At        float64   // s, its end
	Reduction []float64 // dB that each limiter turned down at the most
	In        float64   // V rms that came in
	Out       float64   // V rms that went out
	Peak      float64   // V
	Watts     float64   // average into the load
	Clipped   float64   // part of the samples that the amplifier clipped
	Heat      thermal.State
}

// Trace is what came out, moment by moment, and of the whole.
type Trace struct {
	Moments []Moment
	Seconds float64
	Watts   float64 // average over the whole
	Peak    float64 // V
	Crest   float64 // dB of what went out
	Hottest thermal.State
}

// Source fills a buffer with the next samples, V, and tells how many there were; 0 ends it.
type Source func(buffer []float64) (int, error)

// Run lets a programme pass and gives so many moments of it; length, s, is how long it is
// thought to be.
func (c Chain) Run(source Source, length float64, moments int) (Trace, error) {
	if err := c.Check(); err != nil {
		return Trace{}, err
	}
	r := c.begin()
	every := max(1, int(length*float64(c.Rate)/float64(block*max(1, moments))))
	buffer := make([]float64, 4096*block)
	for {
		n, err := fill(source, buffer)
		if err != nil {
			return Trace{}, err
		}
		for i := 0; i+block <= n; i += block {
			r.block(buffer[i : i+block])
			if r.blocks == every {
				r.close()
			}
		}
		if n < len(buffer) {
			return r.end(), nil
		}
	}
}

// Periodic lets a piece pass again and again, s long in all. Once the limiters have had the
// time to settle, s, what comes out is the same each time, and only the driver goes on
// heating: from then on it is not worked out sample by sample.
func (c Chain) Periodic(piece []float64, scale, length, settle float64, moments int) (Trace, error) {
	piece = piece[:len(piece)-len(piece)%block]
	if err := c.Check(); err != nil || len(piece) == 0 {
		return Trace{}, err
	}
	period := float64(len(piece)) / float64(c.Rate)
	times := math.Ceil(settle/period) + 1
	if times*period >= length {
		return c.Run(Repeat(piece, scale, int(length*float64(c.Rate))), length, moments)
	}
	r := c.begin()
	every := max(1, int(length*float64(c.Rate)/float64(block*max(1, moments))))
	scaled := make([]float64, len(piece))
	for i, v := range piece {
		scaled[i] = scale * v
	}
	before, from := 0.0, 0
	for range int(times) {
		before, from = r.whole, len(r.trace.Moments)
		for i := 0; i < len(scaled); i += block {
			r.block(scaled[i : i+block])
			if r.blocks == every {
				r.close()
			}
		}
	}
	r.close()
	r.goOn((r.whole-before)/float64(len(piece)), length, float64(every*block)/float64(c.Rate), from)
	return r.end(), nil
}

// goOn heats the driver with a steady mean square until the end, a moment every so many s;
// the moments from one on are those of the last period.
func (r *run) goOn(square, length, every float64, from int) {
	last := r.trace.Moments[len(r.trace.Moments)-1]
	last.Reduction = append([]float64(nil), last.Reduction...)
	for _, m := range r.trace.Moments[min(from, len(r.trace.Moments)-1):] {
		for i, g := range m.Reduction {
			last.Reduction[i] = max(last.Reduction[i], g)
		}
		last.Peak = max(last.Peak, m.Peak)
	}
	last.Out, last.Watts = math.Sqrt(square), square/r.c.Load
	for t := last.At; t < length-1e-6; {
		h := min(every, length-t)
		if t += h; r.heater != nil {
			for left := h; left > 0; left -= heatStep {
				r.heater.Step(last.Out, min(left, heatStep))
			}
			r.trace.Hottest.Coil = max(r.trace.Hottest.Coil, r.heater.State.Coil)
			r.trace.Hottest.Frame = max(r.trace.Hottest.Frame, r.heater.State.Frame)
			last.Heat = r.heater.State
		}
		last.At = t
		r.trace.Moments = append(r.trace.Moments, last)
		n := int(math.Round(h * float64(r.c.Rate)))
		r.count, r.whole = r.count+n, r.whole+square*float64(n)
	}
}

// heatStep is how far the driver's heat goes on at once while nothing else changes, s.
const heatStep = 5.0

// fill asks a source until the buffer is full or it has ended.
func fill(source Source, buffer []float64) (n int, err error) {
	for n < len(buffer) {
		m, err := source(buffer[n:])
		if err != nil || m == 0 {
			return n, err
		}
		n += m
	}
	return n, nil
}

// heatEvery is how often the driver's heat is worked out, blocks: 21 ms at 48 kHz, far
// under the constant of any coil.
const heatEvery = 64

// run is a run under way.
type run struct {
	c      Chain
	states []*state
	heater *thermal.Heater
	trace  Trace
	now    Moment
	blocks int     // of this moment
	in     float64 // sums of squares of this moment
	out    float64
	whole  float64 // of all
	count  int     // samples of all
	warm   float64 // sum of squares since the heat was worked out
	since  int
}

func (c Chain) begin() *run {
	r := &run{c: c, now: Moment{Reduction: make([]float64, len(c.Limiters))}}
	for _, l := range c.Limiters {
		r.states = append(r.states, begin(l, float64(c.Rate)))
	}
	if c.Body != nil {
		r.heater = thermal.NewHeater(*c.Body, thermal.State{Coil: c.Air, Frame: c.Air}, c.Air)
		r.trace.Hottest = r.heater.State
	}
	return r
}

// block lets one block pass.
func (r *run) block(x []float64) {
	sum, peak := 0.0, 0.0
	for _, v := range x {
		sum += v * v
		peak = max(peak, math.Abs(v))
	}
	r.in += sum
	gain := 1.0
	for i, s := range r.states {
		s.take(sum*gain*gain/block, peak*gain)
		gain *= s.gain
		r.now.Reduction[i] = max(r.now.Reduction[i], s.turned)
	}
	sum, peak = sum*gain*gain, peak*gain
	if clip := r.c.Clip; clip > 0 && peak > clip {
		sum, peak = r.clip(x, gain), clip
	}
	r.out += sum
	r.whole += sum
	r.now.Peak = max(r.now.Peak, peak)
	r.blocks++
	r.count += block
	if r.warm += sum; r.heater != nil {
		if r.since++; r.since == heatEvery {
			r.heat()
		}
	}
}

// clip is the sum of squares of a block that the amplifier clips.
func (r *run) clip(x []float64, gain float64) (sum float64) {
	for _, v := range x {
		v *= gain
		if math.Abs(v) > r.c.Clip {
			v = r.c.Clip
			r.now.Clipped++
		}
		sum += v * v
	}
	return sum
}

func (r *run) heat() {
	samples := float64(r.since * block)
	r.heater.Step(math.Sqrt(r.warm/samples), samples/float64(r.c.Rate))
	r.trace.Hottest.Coil = max(r.trace.Hottest.Coil, r.heater.State.Coil)
	r.trace.Hottest.Frame = max(r.trace.Hottest.Frame, r.heater.State.Frame)
	r.warm, r.since = 0, 0
}

// close ends a moment.
func (r *run) close() {
	n := float64(r.blocks * block)
	if n == 0 {
		return
	}
	m := r.now
	m.At = float64(r.count) / float64(r.c.Rate)
	m.In, m.Out = math.Sqrt(r.in/n), math.Sqrt(r.out/n)
	m.Watts, m.Clipped = r.out/n/r.c.Load, r.now.Clipped/n
	if r.heater != nil {
		m.Heat = r.heater.State
	}
	r.trace.Moments = append(r.trace.Moments, m)
	r.trace.Peak = max(r.trace.Peak, m.Peak)
	r.now, r.blocks, r.in, r.out = Moment{Reduction: make([]float64, len(r.states))}, 0, 0, 0
}

func (r *run) end() Trace {
	if r.heater != nil && r.since > 0 {
		r.heat()
	}
	if r.blocks > 0 {
		r.close()
	}
	r.trace.Seconds = float64(r.count) / float64(r.c.Rate)
	if r.count > 0 {
		square := r.whole / float64(r.count)
		r.trace.Watts = square / r.c.Load
		r.trace.Crest = 20 * math.Log10(r.trace.Peak/math.Sqrt(square))
	}
	return r.trace
}

// TakenAway is what reaches a coil if a limiter that is leaned on by so many dB is
// switched off: times the power, 10^(G/10).
func TakenAway(leanedOn float64) (times float64) { return math.Pow(10, leanedOn/10) }

// Repeat is a source of a piece again and again, scaled, for so many samples.
func Repeat(piece []float64, scale float64, samples int) Source {
	at := 0
	return func(buffer []float64) (int, error) {
		n := min(len(buffer), samples)
		for i := range n {
			buffer[i] = scale * piece[at]
			if at++; at == len(piece) {
				at = 0
			}
		}
		samples -= n
		return n, nil
	}
}
