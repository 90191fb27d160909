// Package standin is simulated outside devices that speak open protocols: what a test, a
// demonstration or a rehearsal has in place of the real ones.
package standin

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"sync"
	"time"

	"largo/core/thermal"
	"largo/exchange"
)

// Fault is what may go wrong with a probe.
type Fault string

// The faults.
const (
	Sound  Fault = ""
	Falls  Fault = "falls"  // at FaultAt it drops off and reads the air
	Freeze Fault = "freeze" // at FaultAt it goes on reading the same
	Loose  Fault = "loose"  // it touches half and reads less of the rise
)

// Faults are all that can be asked for.
var Faults = []Fault{Falls, Freeze, Loose}

// Driver is a driver under test with a probe on its magnet, one on its basket, and a clamp
// on its line. The zero value of what is not said is none.
type Driver struct {
	Body    thermal.Body
	Air     float64 // °C
	Noise   float64 // of a temperature, K as a standard deviation
	Drift   float64 // of the first probe, K an hour
	Ratio   float64 // of what noise draws over the coil's ohms
	Fault   Fault
	FaultAt time.Duration
	Speed   float64 // times as fast as the clock; 0 is 1

	mu    sync.Mutex
	begun time.Time
	steps []thermal.Stretch
	n     int
	rnd   *rand.Rand
	last  *float64
}

// Begin lets time run, from cold.
func (d *Driver) Begin(now time.Time, seed uint64) error {
	if err := d.Body.Check(); err != nil {
		return err
	}
	if d.Fault != Sound && !slices.Contains(Faults, d.Fault) {
		return fmt.Errorf("%.20q is no fault of a probe; it is one of %q", string(d.Fault), Faults)
	}
	if d.Speed == 0 {
		d.Speed = 1
	}
	d.begun, d.rnd = now, rand.New(rand.NewPCG(seed, 9))
	return nil
}

// Drive sets the volts rms at the driver from now on.
func (d *Driver) Drive(now time.Time, volts float64) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.steps = append(d.steps, thermal.Stretch{From: d.seconds(now), Volts: volts})
}

func (d *Driver) seconds(now time.Time) float64 { return now.Sub(d.begun).Seconds() * d.Speed }

// Read is what probes and clamp read now.
func (d *Driver) Read(now time.Time) exchange.ProbeJSON {
	d.mu.Lock()
	defer d.mu.Unlock()
	s := d.seconds(now)
	c := &thermal.Course{Begin: thermal.State{Coil: d.Air, Frame: d.Air}, Steps: d.steps,
		Air: thermal.Air{{Degrees: d.Air}}}
	is := d.Body.Run(c, []float64{s}, nil)[0]
	d.n++
	out := exchange.ProbeJSON{N: d.n}
	out.First = d.tenth(d.first(s, is.Frame))
	out.Other = d.tenth(d.Air + 0.82*(is.Frame-d.Air))
	out.Air = d.tenth(d.Air)
	volts := 0.0
	for _, step := range d.steps {
		if step.From <= s {
			volts = step.Volts
		}
	}
	if volts > 0 {
		amps := math.Round(1000*volts/(d.Ratio*d.Body.Resistance(is.Coil))) / 1000
		out.Volts, out.Amps = &volts, &amps
	}
	return out
}

// first is what the probe on the magnet reads, with its fault.
func (d *Driver) first(s, frame float64) float64 {
	frame += d.Drift * s / 3600
	late := s >= d.FaultAt.Seconds()
	switch {
	case d.Fault == Loose:
		return d.Air + 0.6*(frame-d.Air)
	case d.Fault == Falls && late:
		return d.Air + 2
	case d.Fault == Freeze && late && d.last != nil:
		return *d.last
	}
	d.last = &frame
	return frame
}

func (d *Driver) tenth(t float64) *float64 {
	if d.Fault != Freeze || d.last == nil || t != *d.last {
		t += d.Noise * d.rnd.NormFloat64()
	}
	t = math.Round(10*t) / 10
	return &t
}
