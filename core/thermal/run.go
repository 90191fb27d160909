package thermal

import (
	"math"
	"sort"
)

// Stretch is a time with constant volts.
type Stretch struct {
	From  float64 // s
	Volts float64
}

// Air is the temperature around the box as it was read, in the order of time; straight
// between readings, and held before the first and after the last.
type Air []struct{ At, Degrees float64 }

// At is the air's temperature at a time.
func (a Air) At(t float64) float64 {
	i := sort.Search(len(a), func(i int) bool { return a[i].At > t })
	switch {
	case len(a) == 0:
		return reference
	case i == 0:
		return a[0].Degrees
	case i == len(a):
		return a[i-1].Degrees
	}
	l, r := a[i-1], a[i]
	return l.Degrees + (r.Degrees-l.Degrees)*(t-l.At)/(r.At-l.At)
}

// Course is what a driver goes through.
type Course struct {
	Begin State
	Steps []Stretch // in the order of time; before the first there are no volts
	Air   Air
	// Sun is how much hotter the air seems while the sun stands on the box, K, and Sunny
	// when that is: changes of it in the order of time, from shade.
	Sun   float64
	Sunny []float64
}

// around is the air that the box feels.
func (c *Course) around(t float64) float64 {
	n := sort.SearchFloat64s(c.Sunny, math.Nextafter(t, math.Inf(1)))
	if n%2 == 1 {
		return c.Air.At(t) + c.Sun
	}
	return c.Air.At(t)
}

// finest and coarsest are the steps of the integrator: parts of the fast constant right
// after the volts changed, and of the slow one.
const (
	finest   = 8
	coarsest = 40
)

// Run gives the states at the times asked for, which rise from 0.
//
// It is exact for the linear network and second order in the power, which alone is not
// linear (an exponential Rosenbrock method, after Hochbruck and Ostermann, Acta Numerica 19, 2010): a
// driver's two constants lie a hundred times apart, and a step may follow the slow one.
func (b Body) Run(c *Course, at []float64, into []State) []State {
	into = into[:0]
	w := b.walk(c)
	for _, t := range at {
		w.to(t)
		into = append(into, w.state)
	}
	return into
}

// walk is a run under way.
type walk struct {
	b           Body
	c           *Course
	state       State
	t, h        float64 // now, and the step to take
	volts       float64
	next        int // of the steps to come
	least, most float64
	cuts        []float64 // when the sun comes or goes: no step lies across
}

func (b Body) walk(c *Course) *walk {
	w := &walk{b: b, c: c, state: c.Begin, least: b.Fast() / finest, most: b.Slow() / coarsest, cuts: c.Sunny}
	w.h = w.least
	return w
}

func (w *walk) to(t float64) {
	for w.t < t {
		end := t
		if w.next < len(w.c.Steps) {
			if s := w.c.Steps[w.next]; s.From <= w.t {
				w.volts, w.h, w.next = s.Volts, w.least, w.next+1
				continue
			} else {
				end = min(end, s.From)
			}
		}
		for len(w.cuts) > 0 && w.cuts[0] <= w.t {
			w.cuts = w.cuts[1:]
		}
		if len(w.cuts) > 0 {
			end = min(end, w.cuts[0])
		}
		h := min(w.h, end-w.t)
		if end-w.t < 1.5*h {
			h = end - w.t
		}
		w.step(h)
		if w.t += h; end-w.t < 1e-9*end {
			w.t = end
		}
		w.h = min(w.h*1.3, w.most)
	}
}

// step goes on by h: a first guess with the power falling straight with the coil's
// temperature, then mended by how far it does not.
func (w *walk) step(h float64) {
	air := w.c.around(w.t)
	drift := w.c.around(math.Nextafter(w.t+h, 0)) - air
	b := &w.b
	ohms := b.Resistance(w.state.Coil)
	power := w.volts * w.volts / ohms
	falls := power * b.Alpha * b.R20 / ohms
	e := b.network(falls).flow(h)
	in, out, dOut := (power+falls*w.state.Coil)/b.C1, air/(b.C2*b.R2), drift/(b.C2*b.R2)
	guess := e.on(w.state, in, out, 0, dOut)
	if w.volts != 0 {
		straight := power - falls*(guess.Coil-w.state.Coil)
		guess = e.on(w.state, in, out, (b.Power(w.volts, guess.Coil)-straight)/b.C1, dOut)
	}
	w.state = guess
}

// flow is the exact solution of a linear network over a step: the exponential of its
// matrix and its first two integrals, φ1 and φ2 with their steps, row by row.
type flow struct{ exp, one, two [4]float64 }

func (n network) flow(h float64) flow {
	// f(A) = f(slow) I + (f(fast) − f(slow)) (A − slow I)/(fast − slow)
	of := func(s, f float64) [4]float64 {
		k := (f - s) / (n.fast - n.slow)
		return [4]float64{s + k*(n.a11-n.slow), k * n.a12, k * n.a21, s + k*(n.a22-n.slow)}
	}
	s1, f1 := math.Expm1(n.slow*h)/n.slow, math.Expm1(n.fast*h)/n.fast
	return flow{of(1+s1*n.slow, 1+f1*n.fast), of(s1, f1), of((s1-h)/(n.slow*h), (f1-h)/(n.fast*h))}
}

// on goes on from a state under forces that change straight over the step.
func (e *flow) on(s State, in, out, dIn, dOut float64) State {
	return State{
		e.exp[0]*s.Coil + e.exp[1]*s.Frame + e.one[0]*in + e.one[1]*out + e.two[0]*dIn + e.two[1]*dOut,
		e.exp[2]*s.Coil + e.exp[3]*s.Frame + e.one[2]*in + e.one[3]*out + e.two[2]*dIn + e.two[3]*dOut,
	}
}
