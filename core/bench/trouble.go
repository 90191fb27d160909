package bench

import (
	"fmt"
	"math"
)

// What makes a reading unsound.
const (
	fell       = 0.3   // of the rise over the air, gone
	fellWithin = 600.0 // s, while the volts stayed
	fellLeast  = 5.0   // K
	back       = 0.7   // of the rise before it fell: it sits there again
	froze      = 5     // readings alike
	frozeFor   = 480.0 // s
	frozeMiss  = 1.5   // K that the driver must have moved meanwhile
	apartCold  = 1.5   // K between two probes on a cold box
	apartHot   = 3.0   // K by which they part as it heats
	apartPart  = 0.15  // of the rise
)

// point is a reading of one probe.
type point struct {
	seq int
	at  int64
	t   float64
}

func points(events []Event, probe int) (ps []point) {
	for _, e := range events {
		if t, known := e.Probe[probe].Get(); e.Kind == Read && known {
			ps = append(ps, point{e.Seq, e.At, float64(t)})
		}
	}
	return ps
}

// findTroubles looks for probes that fell off, that froze, that disagree, and chooses the
// one that is believed.
func (st *Study) findTroubles(events []Event) {
	lost := [2]bool{}
	for p := range st.Setup.Probes {
		ps := points(events, p)
		lost[p] = st.fallen(events, ps, p)
		st.frozen(ps, p)
	}
	st.believe(events, lost)
}

// fallen finds where a probe lost its rise faster than a driver under power can: what it
// reads from there on is not of the driver, until it reads as before again.
func (st *Study) fallen(events []Event, ps []point, p int) (lost bool) {
	was := 0.0
	for i := 1; i < len(ps); i++ {
		air := airAt(events, ps[i].at, ps[0].t)
		if lost {
			if ps[i].t-air >= back*was {
				lost = false
			} else {
				st.unsound[[2]int{ps[i].seq, p}] = true
			}
			continue
		}
		rise := ps[i-1].t - air
		drop := ps[i-1].t - ps[i].t
		apart := float64(ps[i].at - ps[i-1].at)
		if drop < max(fellLeast, fell*rise) || apart > fellWithin || !st.held(events, ps[i-1].at, ps[i].at) {
			continue
		}
		lost, was = true, rise
		st.unsound[[2]int{ps[i].seq, p}] = true
		st.Troubles = append(st.Troubles, Trouble{Probe: p + 1, At: ps[i].at,
			Says: fmt.Sprintf("Probe %d on the %s fell off before %s: from %.1f to %.1f °C in %s no driver under power cools.",
				p+1, st.Setup.Probes[p], st.Clock(ps[i].at), ps[i-1].t, ps[i].t, Minutes(apart)),
			Act: "Volts down before anybody reaches in; fix it, and go on. What it read meanwhile is not used."})
	}
	return lost
}

// held tells whether there was power, and no less of it than before, over a span.
func (st *Study) held(events []Event, from, to int64) bool {
	volts, fell := 0.0, false
	for _, e := range events {
		if e.Kind == Step && e.At <= to {
			if v := float64(e.Volts.Or(0)); e.At > from && v < volts {
				fell = true
			}
			volts = float64(e.Volts.Or(0))
		}
		if e.Kind == End && e.At <= to {
			return false
		}
	}
	return volts > 0 && !fell
}

// airAt is the air at a time; as the box began where nobody read it.
func airAt(events []Event, at int64, begun float64) float64 {
	air := begun
	for _, e := range events {
		if v, known := e.Air.Get(); known && (e.At <= at || air == begun) {
			air = float64(v)
		}
	}
	return air
}

// frozen finds a probe that reads the same while the driver, by how it went before, must
// have moved.
func (st *Study) frozen(ps []point, p int) {
	for i := 0; i < len(ps); {
		j := i
		for j+1 < len(ps) && ps[j+1].t == ps[i].t {
			j++
		}
		span := float64(ps[j].at - ps[i].at)
		if j-i+1 >= froze && span >= frozeFor && math.Abs(slopeBefore(ps, i))*span/2 > frozeMiss {
			for k := i + 1; k <= j; k++ {
				st.unsound[[2]int{ps[k].seq, p}] = true
			}
			st.Troubles = append(st.Troubles, Trouble{Probe: p + 1, At: ps[i].at,
				Says: fmt.Sprintf("Probe %d has read %.1f °C since %s, while the driver went on: it froze.", p+1, ps[i].t,
					st.Clock(ps[i].at)),
				Act: "Unplug it and plug it again, or read another one. What it says meanwhile is not used."})
		}
		i = j + 1
	}
}

// slopeBefore is how fast a probe moved in the readings before one, K/s.
func slopeBefore(ps []point, i int) float64 {
	from := max(0, i-4)
	if from == i {
		return 0
	}
	return (ps[i].t - ps[from].t) / math.Max(1, float64(ps[i].at-ps[from].at))
}

// believe chooses a probe, and tells where two disagree.
func (st *Study) believe(events []Event, lost [2]bool) {
	a, b := st.sound(events, 0), st.sound(events, 1)
	switch {
	case len(b) == 0:
		return
	case len(a) == 0, lost[0] && !lost[1]:
		st.Believed = 1
		return
	case lost[1]:
		return
	}
	offset, known := st.coldOffset(a, b)
	if known && math.Abs(offset) > apartCold {
		st.Troubles = append(st.Troubles, Trouble{Probe: 2, At: b[0].at,
			Says: fmt.Sprintf("Cold, the probes read %.1f K apart. One of them is off by that, not the driver.",
				math.Abs(offset)), Act: "Hold both into one cup of water; the forecast follows the changes of one alone."})
	}
	lastA, lastB := a[len(a)-1], b[len(b)-1]
	if d := lastA.at - lastB.at; d > 600 || d < -600 {
		return
	}
	apart := lastB.t - lastA.t - offset
	rise := max(lastA.t-a[0].t, lastB.t-b[0].t)
	if apart > 0 {
		st.Believed = 1
	}
	if math.Abs(apart) > max(apartHot, apartPart*rise) {
		hot, cool := st.Setup.Probes[0], st.Setup.Probes[1]
		if apart > 0 {
			hot, cool = cool, hot
		}
		st.Troubles = append(st.Troubles, Trouble{Probe: 3 - (st.Believed + 1), At: max(lastA.at, lastB.at),
			Says: fmt.Sprintf("The probes part by %.0f K as it heats: the one on the %s sits nearer to the coil than the one "+
				"on the %s, or the other has come loose.", math.Abs(apart), hot, cool),
			Act: "The hotter one counts; press the other on again."})
	}
}

// sound are the readings of a probe that are believed.
func (st *Study) sound(events []Event, p int) (ps []point) {
	for _, x := range points(events, p) {
		if !st.unsound[[2]int{x.seq, p}] {
			ps = append(ps, x)
		}
	}
	return ps
}

// coldOffset is by how much the second probe reads more than the first before there is
// power.
func (st *Study) coldOffset(a, b []point) (float64, bool) {
	if st.Began == 0 || a[0].at > st.Began+60 || b[0].at > st.Began+60 {
		return 0, false
	}
	return b[0].t - a[0].t, true
}
