package gear

import (
	"fmt"
	"regexp"
	"strings"

	"largo/core/fault"
	"largo/core/unit"
)

// Taken is one line of a maker's own table of what a device takes from the mains.
type Taken struct {
	Part string                  `json:"part"`          // of the rated sine power: Idling, Eighth, Third or Whole
	Load unit.Ohm                `json:"load,omitzero"` // on each output; 0 where the sheet names none
	Amps unit.Given[unit.Ampere] `json:"amps,omitzero"` // at the supply of the ratings
	Real unit.Given[unit.Watt]   `json:"real,omitzero"`
}

// The parts of the rated power that makers state.
const (
	Idling = "idle"
	Eighth = "1/8"
	Third  = "1/3"
	Whole  = "full"
)

// takenForm is a line of such a table: "1/8 into 4 ohm: 5.2 A".
var takenForm = regexp.MustCompile(`(?i)^\s*(idle|1/8|1/3|full)\s*(?:power)?\s*` +
	`(?:(?:into|at|@)?\s*([\d.,]+\s*(?:ohms?|Ω)))?` +
	`\s*[:,]?\s*([\d.,]+\s*(?:mA|A|kW|W))\s*$`)

// ParseTaken reads a maker's table of currents, one line each.
func ParseTaken(text string) ([]Taken, error) {
	var rows []Taken
	var l fault.List
	for i, line := range entryEnd.Split(text, -1) {
		if strings.TrimSpace(line) == "" {
			continue
		}
		m := takenForm.FindStringSubmatch(line)
		if m == nil {
			l.Add("table", "Line %d, %.40q: write it as 1/8 into 4 ohm: 5.2 A, with idle, 1/8, 1/3 or full before it.", i+1,
				strings.TrimSpace(line))
			continue
		}
		t := Taken{Part: strings.ToLower(m[1])}
		if m[2] != "" {
			z, err := unit.ParseOhm(m[2])
			if err != nil {
				l.Add("table", "Line %d: %s.", i+1, err)
			}
			t.Load = z
		}
		if a, err := unit.ParseAmpere(m[3]); err == nil {
			t.Amps = unit.Of(a)
		} else if w, err := unit.ParseWatt(m[3]); err == nil {
			t.Real = unit.Of(w)
		} else {
			l.Add("table", "Line %d: %s.", i+1, err)
		}
		rows = append(rows, t)
	}
	return rows, l.Err()
}

// Line writes a line of the table as it is read.
func (t Taken) Line() string {
	line := t.Part
	if t.Load > 0 {
		line += " into " + exact(float64(t.Load)) + " Ω"
	}
	if a, known := t.Amps.Get(); known {
		return line + ": " + exact(float64(a)) + " A"
	}
	return line + ": " + exact(float64(t.Real.Or(0))) + " W"
}

func (t Taken) check(l *fault.List, field string) {
	switch t.Part {
	case Idling, Eighth, Third, Whole:
	default:
		l.Add(field, "A draw is of idle, 1/8, 1/3 or full, not %.20q.", t.Part)
	}
	if t.Load != 0 && !(t.Load >= 0.5 && t.Load <= 128) {
		l.Add(field, "A load of %s cannot be right: give 0.5 Ω to 128 Ω.", t.Load)
	}
	if t.Amps.Known() == t.Real.Known() {
		l.Add(field, "A draw is given in A or in W, one of the two.")
	}
	within(l, field, "A current", t.Amps, 0, 300)
	within(l, field, "A draw", t.Real, 0, 60000)
}

// takenRow is a maker's table of currents.
var takenRow = row[Intake]{
	is: Entry{Key: "table", Column: "draw_table", Label: "The maker's own table of currents", Form: Lines,
		Hint: "as 1/8 into 4 ohm: 5.2 A, one a line; at the supply it is rated at"},
	typed: func(m *Intake) string { return strings.Join(takenLines(m.Table), "\n") },
	read: func(m *Intake, s string) (err error) {
		m.Table, err = ParseTaken(s)
		return err
	},
	cell: func(m *Intake) string { return strings.Join(takenLines(m.Table), "; ") },
	fill: func(m *Intake, s string) (err error) {
		m.Table, err = ParseTaken(s)
		return err
	},
	check: func(m *Intake, l *fault.List) {
		if len(m.Table) > 40 {
			l.Add("table", "%d lines are more than any such table has; keep at most 40.", len(m.Table))
			return
		}
		for i, t := range m.Table {
			t.check(l, fmt.Sprintf("table[%d]", i))
		}
	},
}

func takenLines(rows []Taken) []string {
	lines := make([]string, len(rows))
	for i, t := range rows {
		lines[i] = t.Line()
	}
	return lines
}
