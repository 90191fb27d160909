package gear

import (
	"fmt"
	"strconv"
	"strings"
	"unicode/utf8"

	"largo/core/fault"
	"largo/core/unit"
)

// The figures of gear by their unit.
type (
	ohms     = unit.Given[unit.Ohm]
	watts    = unit.Given[unit.Watt]
	volts    = unit.Given[unit.Volt]
	amperes  = unit.Given[unit.Ampere]
	decibels = unit.Given[unit.Decibel]
	dBus     = unit.Given[unit.DBu]
	hertz    = unit.Given[unit.Hertz]
	seconds  = unit.Given[unit.Second]
	metres   = unit.Given[unit.Metre]
	ratios   = unit.Given[unit.Ratio]
	areas    = unit.Given[unit.SquareMillimetre]
	masses   = unit.Given[unit.Kilogram]
	prices   = unit.Given[unit.Money]
)

// row is an entry of a part of a model, which knows nothing of where the part
// stands: its key, and the fields of its faults, are below the part.
type row[P any] struct {
	is    Entry // but for its functions
	typed func(*P) string
	read  func(*P, string) error
	cell  func(*P) string
	fill  func(*P, string) error
	check func(*P, *fault.List)
	// missing is the check of one that has to be there.
	missing func(*P, *fault.List)
}

// must makes an entry one that a form cannot leave empty.
func (r row[P]) must() row[P] {
	r.is.Required, r.check = true, r.missing
	return r
}

// orOther makes a choice one that takes other words as well, of so many characters
// at most.
func (r row[P]) orOther(most int) row[P] {
	r.is.JSON, r.is.Most = JSONWords, most
	return r
}

// apart is a row whose value stands in the document in a form of its own, not
// at its key.
func (r row[P]) apart() row[P] {
	r.is.JSON = JSONOther
	return r
}

// lift makes entries of a part's rows. Part is where it stands in a document, ""
// for the model itself; field stands before the names on a form.
func lift[P any](part, field string, of func(*Model) *P, rows []row[P]) []Entry {
	entries := make([]Entry, len(rows))
	for i, r := range rows {
		e := r.is
		e.Key, e.Field = strings.TrimPrefix(part+"."+r.is.Key, "."), field+r.is.Key
		e.Typed = func(m *Model) string { return r.typed(of(m)) }
		e.Type = func(m *Model, s string) error { return r.read(of(m), s) }
		e.Cell = func(m *Model) string { return r.cell(of(m)) }
		e.Fill = func(m *Model, s string) error { return r.fill(of(m), s) }
		entries[i] = e
	}
	return entries
}

// checkRows checks a part by its rows.
func checkRows[P any](p *P, rows ...[]row[P]) fault.List {
	var l fault.List
	for _, set := range rows {
		for _, r := range set {
			r.check(p, &l)
		}
	}
	return l
}

// figure is an entry of a quantity: what it is called in a fault, and between
// what it has to lie.
func figure[P any, T unit.Quantity](key, column, label, hint, what string, low, high T,
	at func(*P) *unit.Given[T]) row[P] {
	return figureIn("", parserOf[T](), key, column, label, hint, what, low, high, at)
}

// figureIn is a figure that a form shows in another unit than its own, "" for
// its own, and reads by a parser that takes bare numbers in it.
func figureIn[P any, T unit.Quantity](symbol string, parse func(string) (T, error), key, column, label,
	hint, what string,
	low, high T, at func(*P) *unit.Given[T]) row[P] {
	bare := parserOf[T]()
	return row[P]{
		is:    Entry{Key: key, Column: column, Label: label, Hint: hint, JSON: JSONFigure},
		typed: func(p *P) string { return sourced(*at(p), symbol, parse) },
		read: func(p *P, s string) (err error) {
			*at(p), err = readSourced(s, parse)
			return err
		},
		cell: func(p *P) string {
			v, known := at(p).Get()
			if !known {
				return ""
			}
			return strconv.FormatFloat(float64(v), 'f', -1, 64)
		},
		fill: func(p *P, s string) error {
			if s == "" {
				*at(p) = unit.Given[T]{}
				return nil
			}
			v, err := bare(s)
			*at(p) = unit.Of(v)
			return err
		},
		check: func(p *P, l *fault.List) { within(l, key, what, *at(p), low, high) },
	}
}

// parserOf reads a quantity by its type.
func parserOf[T unit.Quantity]() func(string) (T, error) {
	var zero T
	var parse any
	switch any(zero).(type) {
	case unit.Ohm:
		parse = unit.ParseOhm
	case unit.Watt:
		parse = unit.ParseWatt
	case unit.Volt:
		parse = unit.ParseVolt
	case unit.Ampere:
		parse = unit.ParseAmpere
	case unit.Decibel:
		parse = unit.ParseDecibel
	case unit.DBu:
		parse = unit.ParseDBu
	case unit.Hertz:
		parse = unit.ParseHertz
	case unit.Second:
		parse = unit.ParseSecond
	case unit.Metre:
		parse = unit.ParseMetre
	case unit.Ratio:
		parse = unit.ParseRatio
	case unit.Litre:
		parse = unit.ParseLitre
	case unit.WattHour:
		parse = unit.ParseWattHour
	case unit.SquareMillimetre:
		parse = unit.ParseArea
	case unit.Kilogram:
		parse = unit.ParseKilogram
	case unit.Money:
		parse = unit.ParseMoney
	}
	return parse.(func(string) (T, error))
}

// sourced writes a figure as it is typed, with where it comes from; symbol is
// the unit that the form shows, "" for its own.
func sourced[T unit.Quantity](g unit.Given[T], symbol string, parse func(string) (T, error)) string {
	text := g.Typed()
	if one, err := parse("1 " + symbol); symbol != "" && err == nil && g.Known() {
		shown := strconv.FormatFloat(float64(g.Or(0)/one), 'g', 12, 64) + " " + symbol
		if back, err := parse(shown); err == nil && back == g.Or(0) { // to the last digit, or in its own unit
			text = shown
		}
	}
	if g.Origin() == "" {
		return text
	}
	return text + " [" + g.Origin() + "]"
}

func readSourced[T unit.Quantity](text string, parse func(string) (T, error)) (unit.Given[T], error) {
	text, from := CutOrigin(text)
	switch {
	case text == "" && from != "":
		return unit.Given[T]{}, fmt.Errorf("there is no figure before [%s]", from)
	case text == "":
		return unit.Given[T]{}, nil
	}
	if n := utf8.RuneCountInString(from); n > unit.MostOrigin {
		return unit.Given[T]{}, fmt.Errorf("where it comes from has %d characters; keep it to %d", n, unit.MostOrigin)
	}
	v, err := parse(text)
	switch {
	case err != nil:
		return unit.Given[T]{}, err
	case from != "":
		return unit.From(v, from), nil
	}
	return unit.Of(v), nil
}

// plain completes a row that is written in a table as on a form.
func plain[P any](is Entry, get func(*P) string, set func(*P, string) error, check func(*P, *fault.List)) row[P] {
	return row[P]{is: is, typed: get, cell: get, read: set, fill: set, check: check}
}

// words is an entry of words, of so many characters at most.
func words[P any](key, column, label, hint, what string, most int, at func(*P) *string) row[P] {
	r := plain(Entry{Key: key, Column: column, Label: label, Hint: hint, JSON: JSONWords, Most: most},
		func(p *P) string { return *at(p) },
		func(p *P, s string) error { *at(p) = s; return nil }, nil)
	r.check = func(p *P, l *fault.List) { l.CheckName(key, what, *at(p), most, false) }
	r.missing = func(p *P, l *fault.List) { l.CheckName(key, what, *at(p), most, true) }
	return r
}

// choice is an entry of one of several words. Whether a word is one of them is
// judged by check, nil where the form alone bounds it.
func choice[P any, W ~string](key, column, label string, at func(*P) *W, check func(*fault.List, string, W),
	offered ...Option) row[P] {
	return plain(Entry{Key: key, Column: column, Label: label, Form: OneOfAll, Offered: offered, JSON: JSONOneOf},
		func(p *P) string { return string(*at(p)) },
		func(p *P, s string) error { *at(p) = W(s); return nil },
		func(p *P, l *fault.List) {
			if check != nil {
				check(l, key, *at(p))
			}
		})
}

// options offers words under their own names, after one for not known.
func options[W ~string](unknown string, words []W) []Option {
	list := []Option{{Label: unknown}}
	for _, w := range words {
		list = append(list, Option{string(w), string(w)})
	}
	return list
}

// answer is an entry of yes, no or not known.
func answer[P any](key, column, label string, at func(*P) *Answer) row[P] {
	return choice(key, column, label, at, checkAnswer, options("not known", []Answer{Yes, No})...)
}

// socket is an entry of a connector.
func socket[P any](key, column, label string, at func(*P) *Connector) row[P] {
	return choice(key, column, label, at, checkConnector, options("not known", Connectors)...)
}

// yesNo is an entry of yes or no; nothing said is no.
func yesNo[P any](key, column, label string, at func(*P) *bool) row[P] {
	is := Entry{Key: key, Column: column, Label: label, Form: OneOfAll, JSON: JSONYesNo,
		Offered: []Option{{"false", "no"}, {"true", "yes"}}}
	return row[P]{is: is,
		typed: func(p *P) string { return strconv.FormatBool(*at(p)) },
		read:  func(p *P, s string) error { *at(p) = s == "true"; return nil },
		cell: func(p *P) string {
			if *at(p) {
				return "yes"
			}
			return "no"
		},
		fill: func(p *P, s string) error {
			switch strings.ToLower(s) {
			case "yes":
				*at(p) = true
			case "no", "":
				*at(p) = false
			default:
				return fmt.Errorf("%.20q is neither yes nor no", s)
			}
			return nil
		},
		check: func(*P, *fault.List) {},
	}
}

// count is an entry of a whole number of something. A cell of a table that is
// left empty leaves it as it is, for a new model has a usual number.
func count[P any](key, column, label, what string, low, high int, at func(*P) *int) row[P] {
	r := countOrNone(key, column, label, what, low, high, at)
	fill := r.fill
	r.fill = func(p *P, s string) error {
		if s == "" {
			return nil
		}
		return fill(p, s)
	}
	r.check = func(p *P, l *fault.List) { checkCount(l, key, what, *at(p), low, high) }
	return r
}

// countOrNone is a count that may be left out: 0 is none, or not known.
func countOrNone[P any](key, column, label, what string, low, high int, at func(*P) *int) row[P] {
	return plain(Entry{Key: key, Column: column, Label: label, JSON: JSONWhole, Most: high},
		func(p *P) string {
			if *at(p) == 0 {
				return ""
			}
			return strconv.Itoa(*at(p))
		},
		func(p *P, s string) (err error) {
			*at(p), err = wholeNumber(s)
			return err
		},
		func(p *P, l *fault.List) {
			if *at(p) != 0 {
				checkCount(l, key, what, *at(p), low, high)
			}
		})
}

func checkCount(l *fault.List, key, what string, n, low, high int) {
	if n < low || n > high {
		l.Add(key, "%d %s cannot be right: give %d to %d.", n, what, low, high)
	}
}

// wholeNumber reads a whole number, 0 where nothing is written.
func wholeNumber(s string) (int, error) {
	if s == "" {
		return 0, nil
	}
	n, err := strconv.Atoi(s)
	if err != nil {
		return 0, fmt.Errorf("%.20q is not a whole number", s)
	}
	return n, nil
}
