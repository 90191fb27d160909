package kit

import (
	"html/template"
	"strconv"
	"strings"
)

// Markup is HTML or SVG that is ours: a constant of the code, or something that a
// Pen has written. Text of anybody else's is a string, and is escaped. No string
// becomes Markup but by a conversion that can be seen.
type Markup string

// Pen writes HTML and SVG. A large drawing has some thousand small parts, for
// which a template takes ten times as long.
type Pen struct{ strings.Builder }

// Put writes markup, each {} in it replaced by the next value: a float64 with one
// decimal, an int, a bool, Markup as it is, and a string escaped. Values and
// holes have to be as many.
func (w *Pen) Put(markup Markup, values ...any) {
	rest := string(markup)
	for _, v := range values {
		head, tail, hole := strings.Cut(rest, "{}")
		if !hole {
			panic("kit: more values than holes in " + string(markup))
		}
		w.WriteString(head)
		w.put(v)
		rest = tail
	}
	if strings.Contains(rest, "{}") {
		panic("kit: more holes than values in " + string(markup))
	}
	w.WriteString(rest)
}

func (w *Pen) put(value any) {
	var b [24]byte
	switch v := value.(type) {
	case Markup:
		w.WriteString(string(v))
	case string:
		template.HTMLEscape(w, []byte(v))
	case float64:
		w.Write(strconv.AppendFloat(b[:0], v, 'f', 1, 64))
	case int:
		w.Write(strconv.AppendInt(b[:0], int64(v), 10))
	case bool:
		w.Write(strconv.AppendBool(b[:0], v))
	default:
		panic("kit: a value of a sort that a pen does not write")
	}
}

// Markup is what was written so far.
func (w *Pen) Markup() Markup { return Markup(w.String()) }

// HTML is what was written so far, for a template.
func (w *Pen) HTML() template.HTML { return template.HTML(w.String()) }

// When gives markup where it applies.
func When(is bool, m Markup) Markup {
	if is {
		return m
	}
	return ""
}

// Path writes an SVG path of letters, which are strings, and coordinates.
func Path(parts ...any) string {
	var b strings.Builder
	for _, part := range parts {
		switch v := part.(type) {
		case string:
			b.WriteString(v)
		case float64:
			b.WriteByte(' ')
			b.WriteString(strconv.FormatFloat(v, 'f', 1, 64))
		}
	}
	return b.String()
}
