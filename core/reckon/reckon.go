// Package reckon is a figure together with its working: the formula, the
// numbers put in, and where each came from. Whatever Largo shows as a number
// is a Figure, so that a technician can ask how it was worked out.
package reckon

import (
	"strconv"
	"strings"

	"largo/core/unit"
)

// Figure is one worked-out number. A Figure with Lacks set is unknown, and
// its Value means nothing.
type Figure struct {
	Key     string  `json:"key"`               // stable name within its output or stage, as "power"
	Symbol  string  `json:"symbol"`            // as it stands in the sum, as "P"
	Name    string  `json:"name"`              // in words, as "amplifier power"
	Value   float64 `json:"value"`             // in Unit
	Unit    string  `json:"unit"`              // "" for a plain ratio
	Lacks   string  `json:"lacks,omitempty"`   // what is missing, where the value is unknown
	Formula string  `json:"formula,omitempty"` // with {symbols} where terms go in, as "sqrt({P} × {Z})"
	Terms   []Term  `json:"terms,omitempty"`
	Note    string  `json:"note,omitempty"`   // what was assumed
	Source  string  `json:"source,omitempty"` // law, standard, practice or sheet
}

// Term is one number that goes into a sum.
type Term struct {
	Symbol string  `json:"symbol"`
	What   string  `json:"what"`
	Value  float64 `json:"value"`
	Unit   string  `json:"unit"`
	From   string  `json:"from,omitempty"`
}

// Of makes a known figure of a quantity.
func Of[T unit.Quantity](key, symbol, name string, v T, formula string, terms ...Term) Figure {
	return Figure{Key: key, Symbol: symbol, Name: name, Value: float64(v), Unit: v.Symbol(), Formula: formula,
		Terms: terms}
}

// Ratio makes a known figure without a unit.
func Ratio(key, symbol, name string, v float64, formula string, terms ...Term) Figure {
	return Figure{Key: key, Symbol: symbol, Name: name, Value: v, Formula: formula, Terms: terms}
}

// Unknown makes a figure that cannot be worked out, saying what is missing.
func Unknown(key, symbol, name, lacks string) Figure {
	return Figure{Key: key, Symbol: symbol, Name: name, Lacks: lacks}
}

// In makes a term of a quantity.
func In[T unit.Quantity](symbol, what string, v T, from string) Term {
	return Term{Symbol: symbol, What: what, Value: float64(v), Unit: v.Symbol(), From: from}
}

// Count makes a term of a plain number.
func Count(symbol, what string, v float64) Term {
	return Term{Symbol: symbol, What: what, Value: v}
}

// As makes a term of a figure worked out before.
func (f Figure) As(symbol string) Term {
	return Term{Symbol: symbol, What: f.Name, Value: f.Value, Unit: f.Unit, From: f.Source}
}

// Because gives the figure with its source.
func (f Figure) Because(source string) Figure { f.Source = source; return f }

// Noting gives the figure with a remark on what was assumed, after any before.
func (f Figure) Noting(note string) Figure {
	if note != "" && f.Note != "" {
		note = f.Note + " " + note
	} else if note == "" {
		note = f.Note
	}
	f.Note = note
	return f
}

// Called gives the figure under another key, symbol and name.
func (f Figure) Called(key, symbol, name string) Figure {
	f.Key, f.Symbol, f.Name = key, symbol, name
	return f
}

// Known tells whether the figure has a value.
func (f Figure) Known() bool { return f.Lacks == "" }

// Text writes the value with its unit, or "unknown".
func (f Figure) Text() string {
	if !f.Known() {
		return "unknown"
	}
	return unit.Write(f.Value, f.Unit)
}

// Symbolic writes the formula in symbols, as "sqrt(P × Z)".
func (f Figure) Symbolic() string {
	return f.fill(func(t Term) string { return t.Symbol })
}

// Numeric writes the formula with the numbers put in, each with its unit, and with
// as many digits that what is printed comes out as printed.
func (f Figure) Numeric() string {
	more := f.digits()
	return f.fill(func(t Term) string { return t.text(more) })
}

// mostDigits is how many digits more than usual the numbers of a sum may show.
const mostDigits = 4

// digits is how many digits more than usual the terms need, so that the sum worked
// out from what is printed is what is printed. A formula that is words needs none.
func (f Figure) digits() int {
	if f.Formula == "" || !f.Known() {
		return 0
	}
	for more := range mostDigits + 1 {
		v, can := evaluate(f.Formula, func(symbol string) (float64, bool) {
			for _, t := range f.Terms {
				if t.Symbol == symbol {
					return t.shown(more)
				}
			}
			return 0, false
		})
		if !can {
			return 0
		}
		if unit.Write(v, f.Unit) == f.Text() {
			return more
		}
	}
	return 0
}

// text writes a term with more digits than usual.
func (t Term) text(more int) string {
	usual := t.Text()
	number, rest, found := plainNumber(usual)
	if more == 0 || !found {
		return usual
	}
	_, decimals, _ := strings.Cut(number, ".")
	return strings.ReplaceAll(strconv.FormatFloat(t.Value, 'f', len(decimals)+more, 64), "-", "−") + rest
}

// shown is the value of a term as it is printed, false where that is in another unit.
func (t Term) shown(more int) (float64, bool) {
	number, rest, found := plainNumber(t.text(more))
	if !found || strings.TrimSpace(rest) != t.Unit {
		return 0, false
	}
	v, err := strconv.ParseFloat(strings.ReplaceAll(number, "−", "-"), 64)
	return v, err == nil
}

// plainNumber parts a printed value into its number and what follows.
func plainNumber(text string) (number, rest string, found bool) {
	n := len(text)
	for i, r := range text {
		if (r < '0' || r > '9') && r != '.' && r != '−' && r != '-' {
			n = i
			break
		}
	}
	return text[:n], text[n:], n > 0
}

// Working writes the whole sum in one line, as
// "V = sqrt(P × Z) = sqrt(450 W × 8 Ω) = 60.0 V".
func (f Figure) Working() string {
	switch {
	case !f.Known():
		return f.Symbol + " is unknown: " + f.Lacks
	case f.Formula == "":
		return f.Symbol + " = " + f.Text()
	}
	parts := []string{f.Symbol, f.Symbolic()}
	if n := f.Numeric(); n != parts[1] {
		parts = append(parts, n)
	}
	return strings.Join(append(parts, f.Text()), " = ")
}

// Text writes a term's value with its unit; a count stands bare.
func (t Term) Text() string {
	if t.Unit == "" {
		return unit.Number(t.Value)
	}
	return unit.Write(t.Value, t.Unit)
}

func (f Figure) fill(write func(Term) string) string {
	pairs := make([]string, 0, 2*len(f.Terms))
	for _, t := range f.Terms {
		pairs = append(pairs, "{"+t.Symbol+"}", write(t))
	}
	return strings.NewReplacer(pairs...).Replace(f.Formula)
}
