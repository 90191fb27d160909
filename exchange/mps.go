package exchange

import (
	"bufio"
	"fmt"
	"io"
	"math"
	"strconv"

	"largo/core/milp"
)

// WriteMPS writes a linear programme in whole numbers as free MPS, the form
// that general-purpose solvers read: sections NAME, ROWS, COLUMNS with the
// markers INTORG and INTEND, RHS, BOUNDS, ENDATA. Names are short, c1, r1; what
// each stands for is a note at the head.
func WriteMPS(w io.Writer, p milp.Program, notes ...string) error {
	out := bufio.NewWriter(w)
	put := func(format string, args ...any) { fmt.Fprintf(out, format+"\n", args...) }
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
	put("ROWS\n N cost")
	for i, r := range p.Rows {
		put(" %s r%d", map[milp.Sense]string{milp.AtMost: "L", milp.AtLeast: "G", milp.Exactly: "E"}[r.Sense], i+1)
	}
	writeColumns(put, p)
	put("RHS")
	for i, r := range p.Rows {
		if r.Right != 0 {
			put(" rhs r%d %s", i+1, exactly(r.Right))
		}
	}
	put("BOUNDS")
	for j, c := range p.Columns {
		put(" LO bnd c%d %s", j+1, exactly(c.Low))
		if math.IsInf(c.High, 1) {
			put(" PL bnd c%d", j+1)
		} else {
			put(" UP bnd c%d %s", j+1, exactly(c.High))
		}
	}
	put("ENDATA")
	return out.Flush()
}

func writeColumns(put func(string, ...any), p milp.Program) {
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
			put(" M%d 'MARKER' '%s'", j, marker)
			whole = c.Whole
		}
		put(" c%d cost %s", j+1, exactly(c.Cost))
		for _, e := range at[j] {
			put(" c%d r%d %s", j+1, e.Column+1, exactly(e.Value))
		}
	}
	if whole {
		put(" MEND 'MARKER' 'INTEND'")
	}
}

func exactly(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }
