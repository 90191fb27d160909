package reckon

import (
	"math"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"largo/core/unit"
)

// evaluate works a formula out with values in the place of its symbols, as far as it
// is one of sums, products, powers, roots and logarithms: others it does not know.
// It is for showing sums, so that what is printed comes out with the digits printed.
func evaluate(formula string, value func(symbol string) (float64, bool)) (float64, bool) {
	e := evaluation{left: formula, value: value, ok: true}
	v := e.sum()
	e.blank()
	return v, e.ok && e.left == "" && !math.IsNaN(v)
}

type evaluation struct {
	left  string
	value func(symbol string) (float64, bool)
	ok    bool
	depth int
}

func (e *evaluation) blank() { e.left = strings.TrimLeft(e.left, " \u00a0") }

// take takes a prefix off, where it is there.
func (e *evaluation) take(prefix string) bool {
	e.blank()
	rest, has := strings.CutPrefix(e.left, prefix)
	if has {
		e.left = rest
	}
	return has
}

func (e *evaluation) fail() float64 {
	e.ok, e.left = false, ""
	return 0
}

func (e *evaluation) sum() float64 {
	if e.depth++; e.depth > 50 {
		return e.fail()
	}
	defer func() { e.depth-- }()
	v := e.product()
	for e.ok {
		switch {
		case e.take("+"):
			v += e.product()
		case e.take("−"), e.take("-"):
			v -= e.product()
		default:
			return v
		}
	}
	return v
}

func (e *evaluation) product() float64 {
	v := e.power()
	for e.ok {
		switch {
		case e.take("×"):
			v *= e.power()
		case e.take("/"):
			v /= e.power()
		case e.function() || e.opens("("): // "20 lg(x)"
			v *= e.power()
		default:
			return v
		}
	}
	return v
}

func (e *evaluation) opens(prefix string) bool {
	e.blank()
	return strings.HasPrefix(e.left, prefix)
}

// function tells whether one comes next.
func (e *evaluation) function() bool {
	return e.opens("lg") || e.opens("ln") || e.opens("sqrt(") || e.opens("√")
}

func (e *evaluation) power() float64 {
	v := e.atom()
	for e.ok {
		switch {
		case strings.HasPrefix(e.left, "²"):
			e.left = strings.TrimPrefix(e.left, "²")
			v *= v
		case e.take("^"):
			return math.Pow(v, e.power())
		default:
			return v
		}
	}
	return v
}

func (e *evaluation) atom() float64 {
	switch {
	case e.take("("):
		v := e.sum()
		if !e.take(")") {
			return e.fail()
		}
		return v
	case e.take("sqrt("):
		v := e.sum()
		if !e.take(")") {
			return e.fail()
		}
		return math.Sqrt(v)
	case e.take("√"):
		return math.Sqrt(e.power())
	case e.take("lg"):
		return math.Log10(e.atom())
	case e.take("ln"):
		return math.Log(e.atom())
	case e.take("−"), e.take("-"):
		return -e.power()
	case e.take("{"):
		symbol, rest, closed := strings.Cut(e.left, "}")
		e.left = rest
		v, known := e.value(symbol)
		if !closed || !known {
			return e.fail()
		}
		return v
	}
	return e.number()
}

// units are skipped behind a number: it is in the base unit already.
var units = []string{"mm²", "m/s", "dBu", "dB", "kHz", "Hz", "mm", "W", "V", "A", "Ω", "m", "s", "kg"}

func (e *evaluation) number() float64 {
	e.blank()
	n := 0
	for n < len(e.left) && (e.left[n] >= '0' && e.left[n] <= '9' || e.left[n] == '.') {
		n++
	}
	v, err := strconv.ParseFloat(e.left[:n], 64)
	if err != nil {
		return e.fail()
	}
	e.left = e.left[n:]
	rest := strings.TrimLeft(e.left, " ")
	for _, u := range units {
		after, has := strings.CutPrefix(rest, u)
		if next, _ := utf8.DecodeRuneInString(after); has && !unicode.IsLetter(next) {
			e.left = after
			return v
		}
	}
	if rest, hours := strings.CutPrefix(rest, "h"); hours && !strings.HasPrefix(rest, "z") {
		e.left = rest
		return v * 3600
	}
	return v
}

// WorkedAgain is what a figure's sum comes to, worked out from the numbers as they
// are printed; false where its formula is words, or its numbers are in other units.
func WorkedAgain(f Figure) (string, bool) {
	more := f.digits()
	v, can := evaluate(f.Formula, func(symbol string) (float64, bool) {
		for _, t := range f.Terms {
			if t.Symbol == symbol {
				return t.shown(more)
			}
		}
		return 0, false
	})
	return unit.Write(v, f.Unit), can
}
