package exchange

import (
	"bufio"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"

	"largo/core/milp"
)

// WriteMPS writes a linear programme in whole numbers as free MPS, the form
// that general-purpose solvers read: sections NAME, ROWS, COLUMNS with the
// markers INTORG and INTEND, RHS, BOUNDS, ENDATA. Names are short, c1, r1; what
// each stands for is a note at the head. The fields stand where fixed MPS has
// them too, for some readers of the free form look there.
func WriteMPS(w io.Writer, p milp.Program, notes ...string) error {
	out := bufio.NewWriter(w)
	put := func(format string, args ...any) { fmt.Fprintf(out, format+"\n", args...) }
	field := func(kind, first, second, value string) {
		put("%s", strings.TrimRight(fmt.Sprintf(" %-2s %-8s  %-8s  %12s", kind, first, second, value), " "))
	}
	for _, n := range notes {
		put("* %s", n)
	}
	for j, c := range p.Columns {
		put("* c%d: %s", j+1, c.Name)
	}
	for i, r := range p.Rows {
		put("* r%d: %s", i+1, r.Name)
	}
	put("NAME %s", p.Name)
	put("ROWS\n N  cost")
	for i, r := range p.Rows {
		put(" %s  r%d", map[milp.Sense]string{milp.AtMost: "L", milp.AtLeast: "G", milp.Exactly: "E"}[r.Sense], i+1)
	}
	writeColumns(put, field, p)
	put("RHS")
	for i, r := range p.Rows {
		if r.Right != 0 {
			field("", "rhs", name("r", i), exactly(r.Right))
		}
	}
	put("BOUNDS")
	for j, c := range p.Columns {
		field("LO", "bounds", name("c", j), exactly(c.Low))
		if math.IsInf(c.High, 1) {
			field("PL", "bounds", name("c", j), "")
		} else {
			field("UP", "bounds", name("c", j), exactly(c.High))
		}
	}
	put("ENDATA")
	return out.Flush()
}

func writeColumns(put func(string, ...any), field func(kind, first, second, value string), p milp.Program) {
	at := make([][]milp.Entry, len(p.Columns)) // by column, with the row in place of it
	for i, r := range p.Rows {
		for _, e := range r.Entries {
			at[e.Column] = append(at[e.Column], milp.Entry{Column: i, Value: e.Value})
		}
	}
	put("COLUMNS")
	whole := false
	for j, c := range p.Columns {
		if c.Whole != whole {
			marker := "INTORG"
			if whole {
				marker = "INTEND"
			}
			put("    M%-7d  'MARKER'                 '%s'", j, marker)
			whole = c.Whole
		}
		field("", name("c", j), "cost", exactly(c.Cost))
		for _, e := range at[j] {
			field("", name("c", j), name("r", e.Column), exactly(e.Value))
		}
	}
	if whole {
		put("    MEND      'MARKER'                 'INTEND'")
	}
}

// name is that of the i-th row or column, counted from 1.
func name(sort string, i int) string { return sort + strconv.Itoa(i+1) }

func exactly(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }
