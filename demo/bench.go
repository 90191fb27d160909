package demo

import (
	"math"
	"math/rand/v2"

	"largo/core/bench"
	"largo/core/thermal"
	"largo/core/unit"
)

// heated is an invented session: a driver heated by the core's own model, and read by a
// probe that errs.
type heated struct {
	box, place string
	ago        int64 // s that it began before now
	minutes    int   // that it went on
	steps      []float64
	stepAt     []int // minute of each
	body       thermal.Body
	air        float64
	sunAt      int // minute; 0 for none
	fallsAt    int
	second     bool // a second probe, on the basket
	ends       bool
	seen       map[int]bench.Observed
}

// keel12 is the driver of the Keel 12, as it is to heat.
var keel12 = thermal.Body{R20: 5.6, Alpha: thermal.Copper, C1: 95, R1: 0.28, C2: 5600, R2: 0.44}

// heatedBoxes are the sessions of the demo: one finished, one in its second hour, one
// spoiled by a probe that fell off.
var heatedBoxes = []heated{
	{box: "number 3", place: "Boat shed, Saltpan Quay", ago: 23 * 86400, minutes: 150, steps: []float64{24.4, 32.4},
		stepAt: []int{4, 52}, body: keel12, air: 17, second: true, ends: true,
		seen: map[int]bench.Observed{38: bench.Quiet, 96: bench.Moves}},
	{box: "number 5", place: "Boat shed, Saltpan Quay", ago: 74 * 60, minutes: 74, steps: []float64{24.4, 31},
		stepAt: []int{3, 48}, body: keel12, air: 19, sunAt: 35, seen: map[int]bench.Observed{34: bench.Quiet,
			60: bench.Quiet}},
	{box: "number 1", place: "Barge hold", ago: 24 * 86400, minutes: 64, steps: []float64{24.4}, stepAt: []int{3},
		body: keel12, air: 14, fallsAt: 41, ends: true, seen: map[int]bench.Observed{30: bench.Quiet}},
}

// Sessions are the sessions of the thermal bench, as of a time in s since 1970.
func Sessions(now int64) ([]bench.Session, error) {
	models, err := Gear()
	if err != nil {
		return nil, err
	}
	var all []bench.Session
	for i, h := range heatedBoxes {
		for _, m := range models {
			if m.ID != "brackwater-keel-12" {
				continue
			}
			setup, err := bench.Begin(m, 0)
			if err != nil {
				return nil, err
			}
			all = append(all, h.session(setup, now, uint64(i)))
		}
	}
	return all, nil
}

// session makes the events of an invented session.
func (h heated) session(s bench.Setup, now int64, seed uint64) bench.Session {
	rnd := rand.New(rand.NewPCG(seed, 77))
	s.Box, s.Place, s.Low, s.High = h.box, h.place, unit.Of(unit.Hertz(45)), unit.Of(unit.Hertz(120))
	s.Re, s.Cold = unit.Of(unit.Ohm(h.body.R20)), unit.Of(unit.Celsius(h.air))
	s.OnLine = unit.Of(unit.Ohm(7.1))
	if h.second {
		s.Probes[1] = "basket"
	}
	for _, c := range bench.Cautions {
		s.Ready = append(s.Ready, c.Key)
	}
	zero := now - h.ago
	c := thermal.Course{Begin: thermal.State{Coil: h.air, Frame: h.air}, Air: thermal.Air{{Degrees: h.air}, {At: 7200,
		Degrees: h.air + 2}}}
	for i, v := range h.steps {
		c.Steps = append(c.Steps, thermal.Stretch{From: float64(60 * h.stepAt[i]), Volts: v})
	}
	if h.sunAt > 0 {
		c.Sun, c.Sunny = 4, []float64{float64(60 * h.sunAt)}
	}
	var at []float64
	for m := 0; m <= h.minutes; m++ {
		at = append(at, float64(60*m))
	}
	out := bench.Session{Setup: s}
	keep := func(minute int, e bench.Event) {
		e.At, e.By, e.Seq = zero+int64(60*minute), "Ines", len(out.Events)+1
		out.Events = append(out.Events, e)
	}
	ratio := float64(s.OnLine.Or(0)) / h.body.Resistance(h.air)
	for m, state := range h.body.Run(&c, at, nil) {
		if m%2 == 0 || m == h.minutes {
			keep(m, h.reading(rnd, m, state, &c, ratio))
		}
		for i, minute := range h.stepAt {
			if minute == m {
				keep(m, bench.Event{Kind: bench.Step, Volts: unit.Of(unit.Volt(h.steps[i]))})
			}
		}
		if m == h.sunAt && m > 0 {
			keep(m, bench.Event{Kind: bench.Sun})
		}
	}
	if h.ends {
		said := ""
		if h.fallsAt > 0 {
			said = "The probe lay on the floor; nobody saw when. To be done again."
		}
		keep(h.minutes, bench.Event{Kind: bench.End, Said: said})
	}
	return out
}

// reading is what was read at a minute: tenths of a degree, now and then air, volts and
// amperes.
func (h heated) reading(rnd *rand.Rand, m int, s thermal.State, c *thermal.Course, ratio float64) bench.Event {
	tenth := func(t float64) float64 { return math.Round(10*t) / 10 }
	frame := s.Frame + 0.3*rnd.NormFloat64()
	if h.fallsAt > 0 && m >= h.fallsAt {
		frame = h.air + 3 + 0.3*rnd.NormFloat64()
	}
	e := bench.Event{Kind: bench.Read, Seen: h.seen[m], Into: unit.Of(unit.Decibel(5))}
	e.Probe[0] = unit.Of(unit.Celsius(tenth(frame)))
	air := c.Air.At(float64(60 * m))
	if h.second {
		e.Probe[1] = unit.Of(unit.Celsius(tenth(air + 0.82*(s.Frame-air) + 0.3*rnd.NormFloat64())))
	}
	if m%10 == 0 {
		e.Air = unit.Of(unit.Celsius(tenth(air + 0.2*rnd.NormFloat64())))
	}
	volts := 0.0
	for _, step := range c.Steps {
		if float64(60*m) > step.From {
			volts = step.Volts
		}
	}
	if volts > 0 && m%6 == 0 {
		e.Volts = unit.Of(unit.Volt(tenth(volts)))
		e.Amps = unit.Of(unit.Ampere(math.Round(100*volts/(ratio*h.body.Resistance(s.Coil))) / 100))
	}
	return e
}
