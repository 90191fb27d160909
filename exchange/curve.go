package exchange

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"strconv"
	"strings"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/unit"
)

// Curves are read as plain text of one point a line: frequency in Hz, a value
// (Ω in a ZMA file, dB in an FRD file) and, where it is known, a phase in
// degrees. Columns are parted by spaces, tabs or semicolons, and then a comma
// is a decimal comma; or by commas, and then numbers have decimal points. Where
// a line could be read in two ways the file is refused with that line. Lines
// that begin with no number are notes.

// mostCurveLines bounds the lines of one file, notes and all.
const mostCurveLines = 60_000

// ReadCurve reads a ZMA or FRD text: all of it, or faults that each name their
// line.
func ReadCurve(r io.Reader) (gear.Curve, error) {
	limited := &io.LimitedReader{R: r, N: MostBytes + 1}
	lines := bufio.NewScanner(limited)
	var curve gear.Curve
	var l fault.List
	for n := 1; lines.Scan(); n++ {
		line := strings.TrimSpace(strings.TrimPrefix(lines.Text(), "\ufeff"))
		switch {
		case n > mostCurveLines:
			return nil, fault.At("", "Line %d: a curve has at most %d lines.", n, mostCurveLines)
		case line == "" || !strings.ContainsRune("+-.0123456789", rune(line[0])):
			continue
		case len(curve) > gear.MostPoints:
			return nil, fault.At("", "Line %d: a curve has at most %d points; measure or save it with fewer.", n,
				gear.MostPoints)
		}
		p, err := readPoint(line)
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

func readPoint(line string) (gear.Point, error) {
	fields, err := curveFields(line)
	if err != nil {
		return gear.Point{}, err
	}
	if len(fields) < 2 {
		return gear.Point{}, fmt.Errorf("%.40q has no value beside its frequency", fields[0])
	}
	var p gear.Point
	for i, into := range []*float64{&p.Hz, &p.Value, &p.Phase} {
		if i >= len(fields) {
			break
		}
		if *into, err = curveNumber(fields[i]); err != nil {
			return p, err
		}
	}
	return p, nil
}

// commaSpace is a comma that parts columns for certain.
var commaSpace = regexp.MustCompile(`,[ \t]+`)

// curveFields parts a line into its columns.
func curveFields(line string) ([]string, error) {
	line = commaSpace.ReplaceAllString(line, ";")
	fields := strings.FieldsFunc(line, func(r rune) bool { return r == ' ' || r == '\t' || r == ';' })
	if len(fields) > 1 || !strings.Contains(line, ",") {
		return fields, nil
	}
	fields = strings.FieldsFunc(line, func(r rune) bool { return r == ',' })
	if !strings.Contains(line, ".") && len(fields) > 2 { // "20,5,8": 20 Hz, 5 Ω, 8 degrees, or 20.5 Hz and 8 Ω?
		return nil, fmt.Errorf("%.40q can be read in two ways; part the columns by tabs or semicolons, or write "+
			"decimal points", line)
	}
	return fields, nil
}

// curveNumber reads a number as measuring programs write it, with an exponent
// where there is one.
func curveNumber(text string) (float64, error) {
	mantissa, exponent := text, ""
	if i := strings.IndexAny(text, "eE"); i > 0 {
		mantissa, exponent = text[:i], text[i:]
	}
	v, err := unit.Decimal(mantissa)
	var two unit.TwoWays
	switch {
	case errors.As(err, &two):
		return 0, err
	case err == nil && exponent != "":
		v, err = strconv.ParseFloat(strconv.FormatFloat(v, 'g', -1, 64)+exponent, 64)
		if strings.ContainsAny(strconv.FormatFloat(v, 'g', -1, 64), "eE") && math.IsInf(v, 0) {
			err = strconv.ErrRange
		}
	}
	if err != nil {
		return 0, fmt.Errorf("%.40q is not a number", text)
	}
	return v, nil
}

// WriteCurve writes a curve as ZMA or FRD text.
func WriteCurve(w io.Writer, c gear.Curve) error {
	out := bufio.NewWriter(w)
	for _, p := range c {
		fmt.Fprintf(out, "%g\t%g\t%g\n", p.Hz, p.Value, p.Phase)
	}
	return out.Flush()
}
