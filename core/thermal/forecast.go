package thermal

import (
	"math"

	"gonum.org/v1/gonum/mat"
)

// Range is what something is taken to be, and between what nine of ten true values lie.
type Range struct{ Mid, Low, High float64 }

// ninety is the distance in standard deviations within which nine of ten lie.
const ninety = 1.6449

// Knowledge is what a next session of the same box, or of one of its model, may take as
// known: what was learnt, and apart, the doubt of one unit against another.
func (l Learnt) Knowledge(apart float64) Knowledge {
	k := Knowledge{Body: l.Body}
	for j := range k.Doubt {
		k.Doubt[j] = math.Hypot(math.Sqrt(l.covers.At(j, j)), apart)
	}
	return k
}

// task gives the body and the course that other parameters stand for.
func (l *Learnt) task() *task { return &task{known: l.known, course: l.course} }

// Volts are those of the step that is on, 0 before the first.
func (l *Learnt) Volts() float64 {
	n := len(l.course.Steps)
	if n == 0 {
		return 0
	}
	return l.course.Steps[n-1].Volts
}

// ranged is a temperature that follows from the parameters, with its range: that of the
// logarithm of its rise over the air, for a rise is a product of powers and ways out.
func (l *Learnt) ranged(mid, air float64, slopes []float64) Range {
	g := mat.NewVecDense(len(slopes), slopes)
	doubt := math.Sqrt(max(0, mat.Inner(g, l.covers, g)))
	rise := mid - air
	if rise < 1 {
		far := ninety * math.Hypot(doubt, airDoubt)
		return Range{mid, mid - far, mid + far}
	}
	low, high := rise*math.Exp(-ninety*doubt/rise), rise*math.Exp(ninety*doubt/rise)
	return Range{mid, mid - math.Hypot(rise-low, ninety*airDoubt), mid + math.Hypot(high-rise, ninety*airDoubt)}
}

// end is where it ends under some volts, in the air as it was last read, with the slopes
// of frame and coil.
func (l *Learnt) end(now, volts float64) (s State, air float64, frame, coil []float64) {
	t := l.task()
	at := func(p []float64) (State, float64) {
		b, c := t.as(p)
		air := c.around(now)
		return b.Settled(volts, air), air
	}
	s, air = at(l.params)
	for j := range l.params {
		by := tellApart
		p := append([]float64(nil), l.params...)
		p[j] += by
		x, _ := at(p)
		frame, coil = append(frame, (x.Frame-s.Frame)/by), append(coil, (x.Coil-s.Coil)/by)
	}
	return s, air, frame, coil
}

// End is where frame and coil settle if the step that is on now is held, the air as it
// is now.
func (l *Learnt) End(now float64) (frame, coil Range) { return l.EndAt(now, l.Volts()) }

// EndAt is where frame and coil settle under other volts.
func (l *Learnt) EndAt(now, volts float64) (frame, coil Range) {
	s, air, f, c := l.end(now, volts)
	return l.ranged(s.Frame, air, f), l.ranged(s.Coil, air, c)
}

// Ahead is what is to be read at times to come, and what the coil is then.
func (l *Learnt) Ahead(at []float64) (frame, coil []Range) {
	t := l.task()
	b, c := t.as(l.params)
	mid := b.Run(c, at, nil)
	frameBy, coilBy := l.along(at, mid)
	for i, s := range mid {
		air := c.around(at[i])
		frame, coil = append(frame, l.ranged(s.Frame, air, frameBy[i])), append(coil, l.ranged(s.Coil, air, coilBy[i]))
	}
	return frame, coil
}

// along are the slopes of a course at times, by the parameters.
func (l *Learnt) along(at []float64, mid []State) (frame, coil [][]float64) {
	t, m := l.task(), len(l.params)
	frame, coil = make([][]float64, len(at)), make([][]float64, len(at))
	for i := range at {
		frame[i], coil[i] = make([]float64, m), make([]float64, m)
	}
	var states []State
	for j := range m {
		p := append([]float64(nil), l.params...)
		p[j] += tellApart
		b, c := t.as(p)
		states = b.Run(c, at, states)
		for i, s := range states {
			frame[i][j], coil[i][j] = (s.Frame-mid[i].Frame)/tellApart, (s.Coil-mid[i].Coil)/tellApart
		}
	}
	return frame, coil
}

// longest is how far ahead it is asked when something will be known, s.
const longest = 6 * 3600

// KnownBy is when the settled frame will be known within so many K either way, s, if a
// reading comes every so many s; now where it is already. False if not within six hours.
func (l *Learnt) KnownBy(now, within, every float64) (float64, bool) {
	s, air, slopes, _ := l.end(now, l.Volts())
	wide := func(covers mat.Symmetric) bool {
		x := Learnt{covers: mat.NewSymDense(covers.SymmetricDim(), nil)}
		x.covers.CopySym(covers)
		r := x.ranged(s.Frame, air, slopes)
		return (r.High-r.Low)/2 > within
	}
	if !wide(l.covers) {
		return now, true
	}
	var at []float64
	for t := now + every; t <= now+longest; t += every {
		at = append(at, t)
	}
	t := l.task()
	b, c := t.as(l.params)
	frame, _ := l.along(at, b.Run(c, at, nil))
	weight := mat.NewSymDense(len(l.params), nil)
	weight.CopySym(l.weight)
	var chol mat.Cholesky
	covers := mat.NewSymDense(len(l.params), nil)
	for i, g := range frame {
		weight.SymRankOne(weight, 1/(ProbeDoubt*ProbeDoubt*l.Noise*l.Noise), mat.NewVecDense(len(g), g))
		if i%4 != 3 && i != len(frame)-1 {
			continue // it is asked for at every fourth, for that is close enough to say
		}
		if chol.Factorize(weight) && chol.InverseTo(covers) == nil && !wide(covers) {
			return at[i], true
		}
	}
	return 0, false
}
