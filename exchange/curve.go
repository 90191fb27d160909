package exchange

import (
	"bufio"
	"fmt"
	"io"
	"strconv"
	"strings"

	"largo/core/fault"
	"largo/core/gear"
)

// Curves are read as plain text of one point a line: frequency in Hz, a value
// (Ω in a ZMA file, dB in an FRD file) and, where it is known, a phase in
// degrees. Columns are parted by spaces, tabs, commas or semicolons; lines
// that begin with no number are notes.

// ReadCurve reads a ZMA or FRD text: all of it, or faults that each name their
// line.
func ReadCurve(r io.Reader) (gear.Curve, error) {
	limited := &io.LimitedReader{R: r, N: MostBytes + 1}
	lines := bufio.NewScanner(limited)
	var curve gear.Curve
	var l fault.List
	for n := 1; lines.Scan(); n++ {
		fields := strings.FieldsFunc(lines.Text(), func(r rune) bool { return r == ' ' || r == '\t' || r == ',' || r == ';' || r == '\r' })
		if len(fields) == 0 || !strings.ContainsRune("+-.0123456789", rune(fields[0][0])) {
			continue
		}
		p, err := readPoint(fields)
		if err != nil {
			l.Add("", "Line %d: %s.", n, err)
			if len(l) > 20 {
				return nil, l
			}
			continue
		}
		curve = append(curve, p)
	}
	switch {
	case limited.N <= 0:
		return nil, ErrTooBig
	case lines.Err() != nil:
		return nil, fault.At("", "The file is no text of one point a line.")
	case len(l) > 0:
		return nil, l
	case len(curve) < 2:
		return nil, fault.At("", "The file holds no curve: it needs lines of a frequency, a value and a phase.")
	}
	return curve.Sorted(), nil
}

func readPoint(fields []string) (gear.Point, error) {
	if len(fields) < 2 {
		return gear.Point{}, fmt.Errorf("%.40q has no value beside its frequency", fields[0])
	}
	var p gear.Point
	for i, into := range []*float64{&p.Hz, &p.Value, &p.Phase} {
		if i >= len(fields) {
			break
		}
		v, err := strconv.ParseFloat(fields[i], 64)
		if err != nil {
			return p, fmt.Errorf("%.40q is not a number", fields[i])
		}
		*into = v
	}
	return p, nil
}

// WriteCurve writes a curve as ZMA or FRD text.
func WriteCurve(w io.Writer, c gear.Curve) error {
	out := bufio.NewWriter(w)
	for _, p := range c {
		fmt.Fprintf(out, "%g\t%g\t%g\n", p.Hz, p.Value, p.Phase)
	}
	return out.Flush()
}
