package thermal

import (
	"errors"
	"math"

	"gonum.org/v1/gonum/mat"
)

// Reading is a temperature that was read, of the frame or, from its ohms, of the coil.
type Reading struct {
	At, Degrees float64
	Coil        bool
	Doubt       float64 // standard deviation, K; 0 is ProbeDoubt
}

// Doubts that are taken where nobody states others, K as a standard deviation.
const (
	ProbeDoubt = 0.3 // of a reading of the probe
	airDoubt   = 0.3 // of the air around the box, which is not one air
	beginDoubt = 2   // of the frame at the start, against the air then
	sunDoubt   = 8   // of what the sun does
)

// The four of a body that are learnt, by their logarithms.
const (
	lnC1 = iota
	lnR1
	lnC2
	lnR2
	ofBody
)

// Knowledge is what is known of a body beforehand: its values, and the standard deviation
// of the logarithm of C1, R1, C2 and R2 each.
type Knowledge struct {
	Body  Body
	Doubt [ofBody]float64
}

// Beforehand is what is known of any driver of so many W continuously, with a coil of so
// many Ω: that at its rating the coil stands some 150 to 250 K over its air, a third of
// it over its magnet; that coils settle in tens of seconds and magnets in tens of minutes
// (common practice, no source; the doubt is set so that it says no more than that).
func Beforehand(continuous, ohms, alpha float64) Knowledge {
	b := Body{R20: ohms, Alpha: alpha, R1: 80 / continuous, R2: 150 / continuous}
	b.C1, b.C2 = 25/b.R1, 2700/b.R2
	return Knowledge{b, [ofBody]float64{0.7, 0.5, 0.6, 0.5}}
}

// Learnt is what readings have taught of a driver.
type Learnt struct {
	Body   Body
	Begin  State
	Sun    float64
	Noise  float64 // how far the readings lie from the course, over the doubt of each
	Off    int     // readings that are mistrusted, for they lie too far off
	course Course
	known  Knowledge
	params []float64
	covers *mat.SymDense // of the parameters
	weight *mat.SymDense // its inverse
	times  []float64
}

// ErrNothing is what Fit gives without readings.
var ErrNothing = errors.New("there is no reading yet")

// task is a fit under way.
type task struct {
	known  Knowledge
	course Course
	rs     []Reading
	at     []float64
	prior  []float64 // as params
	tight  []float64 // 1/doubt of each
	states []State
}

// Fit learns what a driver is from what it went through and what was read, in the order
// of time: the most probable body by damped least squares (Levenberg and Marquardt), what
// is known beforehand being one more reading each. Readings that lie more than a few
// doubts off count less (Huber's weights).
func (k Knowledge) Fit(c Course, rs []Reading) (Learnt, error) {
	if len(rs) == 0 {
		return Learnt{}, ErrNothing
	}
	t := &task{known: k, course: c, rs: rs, at: make([]float64, len(rs))}
	for i, r := range rs {
		t.at[i] = r.At
	}
	t.expect()
	return t.solve()
}

// expect sets what is expected beforehand. A frame that was read before any volts began
// there, whatever the air.
func (t *task) expect() {
	b := t.known.Body
	t.prior = []float64{math.Log(b.C1), math.Log(b.R1), math.Log(b.C2), math.Log(b.R2), t.course.Begin.Frame}
	for _, d := range t.known.Doubt {
		t.tight = append(t.tight, 1/d)
	}
	t.tight = append(t.tight, 1.0/beginDoubt)
	if len(t.course.Sunny) > 0 {
		t.prior, t.tight = append(t.prior, 0), append(t.tight, 1.0/sunDoubt)
	}
}

// as gives the body and the course that parameters stand for.
func (t *task) as(p []float64) (Body, *Course) {
	b, c := t.known.Body, t.course
	b.C1, b.R1, b.C2, b.R2 = math.Exp(p[lnC1]), math.Exp(p[lnR1]), math.Exp(p[lnC2]), math.Exp(p[lnR2])
	c.Begin = State{p[ofBody], p[ofBody]}
	if len(p) > ofBody+1 {
		c.Sun = p[ofBody+1]
	}
	return b, &c
}

// degrees are what would be read, as the parameters are.
func (t *task) degrees(p []float64, into []float64) []float64 {
	b, c := t.as(p)
	t.states = b.Run(c, t.at, t.states)
	into = into[:0]
	for i, s := range t.states {
		if t.rs[i].Coil {
			into = append(into, s.Coil)
		} else {
			into = append(into, s.Frame)
		}
	}
	return into
}

// Bounds of Huber's weights, in doubts, and of the search.
const (
	trusted   = 2.5
	mistrust  = 5    // from where a reading is said to be off
	most      = 40   // turns
	settled   = 1e-4 // of a step of a parameter, in its doubts
	tellApart = 1e-5 // by how much a parameter is moved for its slope
)

func (r Reading) doubt() float64 {
	if r.Doubt > 0 {
		return r.Doubt
	}
	return ProbeDoubt
}

// cost is how badly parameters explain the readings; off are the readings' distances in
// doubts.
func (t *task) cost(p, degrees, off []float64) float64 {
	sum := 0.0
	for i, d := range degrees {
		off[i] = (t.rs[i].Degrees - d) / t.rs[i].doubt()
		if x := math.Abs(off[i]); x > trusted {
			sum += trusted * (2*x - trusted)
		} else {
			sum += x * x
		}
	}
	for j := range p {
		x := (p[j] - t.prior[j]) * t.tight[j]
		sum += x * x
	}
	return sum
}

func (t *task) solve() (Learnt, error) {
	n, m := len(t.rs), len(t.prior)
	p := append([]float64(nil), t.prior...)
	off, tryOff := make([]float64, n), make([]float64, n)
	now, moved := make([]float64, 0, n), make([]float64, 0, n)
	now = t.degrees(p, now)
	cost, damp := t.cost(p, now, off), 1e-3
	slopes := make([]float64, n*m)
	var step mat.VecDense
	normal, pull := mat.NewSymDense(m, nil), mat.NewVecDense(m, nil)
	for range most {
		moved = t.slopes(p, now, moved, slopes)
		t.normal(p, slopes, off, normal, pull)
		better := false
		for !better && damp < 1e12 {
			damped := mat.NewSymDense(m, nil)
			damped.CopySym(normal)
			for j := range m {
				damped.SetSym(j, j, normal.At(j, j)*(1+damp))
			}
			var chol mat.Cholesky
			if !chol.Factorize(damped) || chol.SolveVecTo(&step, pull) != nil {
				damp *= 10
				continue
			}
			next, far := make([]float64, m), 0.0
			for j := range next {
				next[j] = p[j] + step.AtVec(j)
				far = max(far, math.Abs(step.AtVec(j))*t.tight[j])
			}
			moved = t.degrees(next, moved)
			c := t.cost(next, moved, tryOff)
			if !(c <= cost) {
				damp *= 10
				continue
			}
			p, cost, damp, better = next, c, damp/10, true
			now, moved, off, tryOff = moved, now, tryOff, off
			if far < settled {
				return t.learnt(p, now, moved, slopes, off)
			}
		}
		if !better {
			break
		}
	}
	return t.learnt(p, now, moved, slopes, off)
}

// slopes are by how much each reading would change with each parameter.
func (t *task) slopes(p, now, moved, slopes []float64) []float64 {
	m := len(p)
	for j := range p {
		by := tellApart / t.tight[j]
		was := p[j]
		p[j] = was + by
		moved = t.degrees(p, moved)
		p[j] = was
		for i := range now {
			slopes[i*m+j] = (moved[i] - now[i]) / by
		}
	}
	return moved
}

// normal is the weighted sum of the slopes' squares, and how hard each parameter is
// pulled.
func (t *task) normal(p, slopes, off []float64, into *mat.SymDense, pull *mat.VecDense) {
	m := len(p)
	for j := range m {
		for k := j; k < m; k++ {
			into.SetSym(j, k, 0)
		}
		into.SetSym(j, j, t.tight[j]*t.tight[j])
		pull.SetVec(j, (t.prior[j]-p[j])*t.tight[j]*t.tight[j])
	}
	sums := make([]float64, m*m)
	pulls := make([]float64, m)
	for i := range t.rs {
		w := 1 / t.rs[i].doubt()
		if x := math.Abs(off[i]); x > trusted {
			w *= math.Sqrt(trusted / x)
		}
		row := slopes[i*m : i*m+m]
		w2 := w * w
		d := off[i] * t.rs[i].doubt()
		for j, s := range row {
			s *= w2
			pulls[j] += s * d
			for k := j; k < m; k++ {
				sums[j*m+k] += s * row[k]
			}
		}
	}
	for j := range m {
		pull.SetVec(j, pull.AtVec(j)+pulls[j])
		for k := j; k < m; k++ {
			into.SetSym(j, k, into.At(j, k)+sums[j*m+k])
		}
	}
}

// learnt closes a fit. Readings that scatter more than their doubt widen what is said.
func (t *task) learnt(p, now, moved, slopes, off []float64) (Learnt, error) {
	m := len(p)
	l := Learnt{known: t.known, params: p, Noise: 1, times: t.at}
	free := float64(len(off) - m)
	sum := 0.0
	for _, x := range off {
		x = math.Abs(x)
		if x > mistrust {
			l.Off++
		}
		sum += min(x, trusted) * min(x, trusted)
	}
	if free >= 8 {
		l.Noise = max(1, math.Sqrt(sum/free))
	}
	t.slopes(p, now, moved, slopes)
	l.weight, l.covers = mat.NewSymDense(m, nil), mat.NewSymDense(m, nil)
	t.normal(p, slopes, off, l.weight, mat.NewVecDense(m, nil))
	for j := range m { // noise scales what the readings taught, not what was known
		for k := j; k < m; k++ {
			v := l.weight.At(j, k)
			if j == k {
				v -= t.tight[j] * t.tight[j]
			}
			v /= l.Noise * l.Noise
			if j == k {
				v += t.tight[j] * t.tight[j]
			}
			l.weight.SetSym(j, k, v)
		}
	}
	var chol mat.Cholesky
	if !chol.Factorize(l.weight) {
		return Learnt{}, errors.New("the readings contradict each other")
	}
	if err := chol.InverseTo(l.covers); err != nil {
		return Learnt{}, err
	}
	b, c := t.as(p)
	l.Body, l.Begin, l.Sun, l.course = b, c.Begin, c.Sun, *c
	return l, nil
}
