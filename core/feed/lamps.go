package feed

import "largo/core/rig"

// Wiring is how the three conductors of an outlet are joined: which of line, neutral and
// earth of the supply stands at each of its contacts; −1 for none.
type Wiring [3]int

// The conductors.
const (
	line = iota
	neutral
	earth
	open = -1
)

// Fault is a fault of an outlet's wiring.
type Fault struct {
	Name string
	Wiring
}

// Faults are those that are told apart, the sound wiring first. An earth that is joined to
// the neutral behind the outlet (a bootleg) and one of many ohms stand like a sound one.
var Faults = []Fault{
	{"sound", Wiring{line, neutral, earth}},
	{"no earth", Wiring{line, neutral, open}},
	{"no neutral", Wiring{line, open, earth}},
	{"no line", Wiring{open, neutral, earth}},
	{"line and neutral exchanged", Wiring{neutral, line, earth}},
	{"line and earth exchanged", Wiring{earth, neutral, line}},
	{"neutral and earth exchanged", Wiring{line, earth, neutral}},
	{"earth joined to the neutral in the outlet", Wiring{line, neutral, neutral}},
}

// volt tells whether a lamp between two contacts burns: line stands against neutral and
// earth, which stand at one potential; a lamp at an open contact does not burn.
func (w Wiring) volt(a, b int) bool {
	x, y := w[a], w[b]
	return x != open && y != open && (x == line) != (y == line)
}

// Lamps are those that burn on it: line to neutral, line to earth, neutral to earth.
func (w Wiring) Lamps() rig.Lamps {
	lamps := []byte("000")
	for i, pair := range [][2]int{{line, neutral}, {line, earth}, {neutral, earth}} {
		if w.volt(pair[0], pair[1]) {
			lamps[i] = '1'
		}
	}
	return rig.Lamps(lamps)
}

// Means are the faults that show as these lamps; none is a pattern that no single fault
// gives.
func Means(l rig.Lamps) (list []Fault) {
	for _, f := range Faults {
		if f.Lamps() == l {
			list = append(list, f)
		}
	}
	return list
}

// Sound are the lamps of an outlet in order.
var Sound = Faults[0].Lamps()
