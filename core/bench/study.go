package bench

import (
	"fmt"
	"math"
	"slices"

	"largo/core/thermal"
	"largo/core/unit"
)

// Study is what follows from a session up to some time.
type Study struct {
	*Session
	Now            int64
	Began          int64 // the first step; 0 before it
	Volts          unit.Volt
	Since          int64 // the step that is on
	Air            float64
	Sunny          bool
	Believed       int // the probe that the forecast follows, 0 or 1
	Troubles       []Trouble
	Learnt         thermal.Learnt
	Known          bool // anything was read, so that a forecast can be made
	End, EndCoil   thermal.Range
	NowIs, NowCoil thermal.Range
	KnownIn        float64 // s until the end is known well enough; 0 now
	Will           bool    // it will be within six hours
	Measured       []Coil  // coil degrees by volts and amperes
	Verdict        Verdict

	unsound map[[2]int]bool // readings not believed, by event and probe
}

// Coil is a temperature of the coil by its ohms.
type Coil struct {
	At      int64
	Ohms    float64
	Degrees float64
	Watts   float64 // that it truly takes
}

// Trouble is something wrong with what was read.
type Trouble struct {
	Probe int // 1 or 2
	At    int64
	Says  string
	Act   string // what to do
}

// Of studies a session as of a time.
func Of(s *Session, now int64) Study {
	st := Study{Session: s, Now: now, Air: 20, unsound: map[[2]int]bool{}}
	events := s.inForce()
	if end, ended := s.Ended(); ended {
		st.Now = end
	}
	st.Began, _ = s.Began()
	for _, e := range events {
		switch {
		case e.Kind == Step:
			st.Volts, st.Since = e.Volts.Or(0), e.At
		case e.Kind == Sun, e.Kind == Shade:
			st.Sunny = e.Kind == Sun
		}
	}
	st.findTroubles(events)
	st.coils(events)
	st.learn(events)
	st.verdict()
	return st
}

// zero is the time from which seconds of the engine count: the first event, or the first
// step.
func (st *Study) zero() int64 {
	events := st.inForce()
	if len(events) == 0 {
		return st.Now
	}
	return events[0].At
}

// Seconds is a time as the engine counts it.
func (st *Study) Seconds(at int64) float64 { return float64(at - st.zero()) }

// course is what the driver went through, and what was read of it.
func (st *Study) course(events []Event) (c thermal.Course, rs []thermal.Reading) {
	zero := st.zero()
	at := func(e Event) float64 { return float64(e.At - zero) }
	sunny := false
	for _, e := range events {
		if v, known := e.Air.Get(); known {
			c.Air = append(c.Air, struct{ At, Degrees float64 }{at(e), float64(v)})
		}
		switch {
		case e.Kind == Step:
			c.Steps = append(c.Steps, thermal.Stretch{From: at(e), Volts: float64(e.Volts.Or(0))})
		case e.Kind == Sun && !sunny, e.Kind == Shade && sunny:
			sunny = !sunny
			c.Sunny = append(c.Sunny, at(e))
		case e.Kind == Read:
			if t, known := e.Probe[st.Believed].Get(); known && !st.unsound[[2]int{e.Seq, st.Believed}] {
				rs = append(rs, thermal.Reading{At: at(e), Degrees: float64(t)})
			}
			if i := slices.IndexFunc(st.Measured, func(m Coil) bool { return m.At == e.At }); i >= 0 {
				rs = append(rs, thermal.Reading{At: at(e), Degrees: st.Measured[i].Degrees, Coil: true, Doubt: coilDoubt})
			}
		}
	}
	st.measuredVolts(events, &c, zero)
	if len(rs) > 0 {
		c.Begin.Frame = rs[0].Degrees
		if len(c.Air) == 0 { // a box that stood there is as warm as its air
			c.Air = append(c.Air, struct{ At, Degrees float64 }{0, rs[0].Degrees})
		}
	}
	return c, rs
}

// standsThere is how well a box is known to be as warm as its air when a show begins, K.
const standsThere = 3

// coilDoubt is how well ohms by volts and amperes of noise tell the coil, K: a hundredth
// of the ohms is two and a half degrees, and noise wanders by two.
const coilDoubt = 5

// measuredVolts takes for each step the volts that were clamped during it, where any
// were: a limiter is set to a figure, and holds another.
func (st *Study) measuredVolts(events []Event, c *thermal.Course, zero int64) {
	for i := range c.Steps {
		from, to := c.Steps[i].From, math.Inf(1)
		if i+1 < len(c.Steps) {
			to = c.Steps[i+1].From
		}
		var volts []float64
		for _, e := range events {
			v, known := e.Volts.Get()
			if at := float64(e.At - zero); e.Kind == Read && known && v > 0 && at >= from && at < to {
				volts = append(volts, float64(v))
			}
		}
		if len(volts) > 0 {
			slices.Sort(volts)
			c.Steps[i].Volts = volts[len(volts)/2]
		}
	}
}

// coils reads the coil from volts and amperes: by the ohms of the same noise on the cold
// box where they are on record. Against the coil's own resistance it would read too hot,
// for noise meets the box's impedance.
func (st *Study) coils(events []Event) {
	cold, known := st.Setup.OnLine.Get()
	if !known {
		return
	}
	b := thermal.Body{R20: 1, Alpha: st.Setup.Coil.alpha()}
	for _, e := range events {
		v, k1 := e.Volts.Get()
		a, k2 := e.Amps.Get()
		if e.Kind != Read || !k1 || !k2 || v <= 0 || a <= 0 {
			continue
		}
		ohms := float64(v) / float64(a)
		st.Measured = append(st.Measured, Coil{At: e.At, Ohms: ohms, Watts: float64(v) * float64(a),
			Degrees: b.CoilAt(ohms/float64(cold), float64(st.Setup.Cold.Or(20)))})
	}
}

// Well enough known is an end to 2 K, or to a twentieth of its rise.
const (
	wellKnown     = 2.0
	wellKnownPart = 0.05
)

// learn fits the driver and looks ahead.
func (st *Study) learn(events []Event) {
	c, rs := st.course(events)
	now := st.Seconds(st.Now)
	st.Air = c.Air.At(now)
	if st.Setup.Show && len(rs) == 0 && st.Began != 0 { // a box that stood there is as warm as its air, about
		rs = []thermal.Reading{{At: 0, Degrees: c.Air.At(0), Doubt: standsThere}}
		c.Begin.Frame = rs[0].Degrees
	}
	if st.Began == 0 || len(rs) == 0 {
		return
	}
	l, err := st.Setup.knowledge().Fit(c, rs)
	if err != nil {
		return
	}
	st.Learnt, st.Known = l, true
	st.End, st.EndCoil = l.End(now)
	frame, coil := l.Ahead([]float64{max(now, 0)})
	st.NowIs, st.NowCoil = frame[0], coil[0]
	within := max(wellKnown, wellKnownPart*(st.End.Mid-st.Air))
	by, will := l.KnownBy(now, within, st.every(rs))
	st.KnownIn, st.Will = by-now, will
}

// every is how far readings lie apart of late, s.
func (st *Study) every(rs []thermal.Reading) float64 {
	n := len(rs)
	if n < 3 {
		return 60
	}
	from := max(0, n-6)
	return min(max((rs[n-1].At-rs[from].At)/float64(n-1-from), 30), 900)
}

// last is the last reading of a probe that is believed.
func (st *Study) last(probe int) (t float64, at int64, known bool) {
	for _, e := range st.inForce() {
		if v, has := e.Probe[probe].Get(); e.Kind == Read && has && !st.unsound[[2]int{e.Seq, probe}] {
			t, at, known = float64(v), e.At, true
		}
	}
	return t, at, known
}

// Hottest is the hottest that a probe that is believed read last, frame or magnet.
func (st *Study) Hottest() (t float64, at int64, known bool) {
	for p := range st.Setup.Probes {
		if v, when, has := st.last(p); has && (!known || v > t) {
			t, at, known = v, when, true
		}
	}
	return t, at, known
}

// Unsound tells whether a reading is not believed.
func (st *Study) Unsound(e Event, probe int) bool { return st.unsound[[2]int{e.Seq, probe}] }

// Level is what heat costs at a temperature of the coil: power at the same volts, and
// level, dB; and by how many times Qes rises.
func (st *Study) Level(coil float64) (power, level unit.Decibel, times float64) {
	b := thermal.Body{R20: 1, Alpha: st.Setup.Coil.alpha()}
	times = b.Resistance(coil) / b.Resistance(float64(st.Setup.Cold.Or(20)))
	return unit.OfPower(times), unit.OfVolts(times), times
}

// Minutes writes a time span as it is said.
func Minutes(s float64) string {
	switch m := math.Round(s / 60); {
	case m < 1:
		return "a minute"
	case m < 100:
		return fmt.Sprintf("%.0f min", m)
	default:
		return fmt.Sprintf("%.0f h %.0f min", math.Floor(m/60), math.Mod(m, 60))
	}
}

// taughtBy is how long and how often it has to be read before a next session begins with
// what it taught.
const (
	taughtFor = 1800 // s under power
	taughtBy  = 8    // readings
)

// Taught tells whether a session says enough of its driver for the next to begin with.
func (st *Study) Taught() bool {
	if st.Setup.Show || !st.Known || st.Now-st.Began < taughtFor || len(st.sound(st.inForce(), st.Believed)) < taughtBy {
		return false
	}
	return !slices.ContainsFunc(st.Troubles, func(t Trouble) bool { return t.Probe == st.Believed+1 })
}
