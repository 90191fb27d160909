package kit

import (
	"fmt"
	"html/template"
	"strings"
	"unicode"

	"largo/core/gear"
	"largo/core/words"
)

// Field is one input with what was typed and what was wrong with it.
type Field struct {
	ID, Name, Label, Value, Hint, Fault, Kind string
	Choices                                   []Choice
	Required                                  bool
}

// Choice is one of the values that a field offers, or a name with its value.
type Choice struct {
	Value, Label string
	Chosen       bool
}

// Options writes the choices of a field. A page may offer hundreds of them, so
// the template leaves this to Go.
func (f Field) Options() template.HTML {
	var w Pen
	for _, c := range f.Choices {
		w.Put(`<option value="{}"{}>{}</option>`, c.Value, When(c.Chosen, " selected"), c.Label)
	}
	return w.HTML()
}

// Field makes an input of a form; form tells the forms of a page apart.
func (p *Page) Field(form, name, label, value, hint string) Field {
	f := Field{ID: Ident(form + "-" + name), Name: name, Label: label, Value: value, Hint: hint, Kind: "text"}
	if p.Refused != nil && p.Refused.Form == form {
		f.Value = p.Typed.Get(name)
		for _, x := range p.Refused.Faults {
			if x.Field == name && f.Fault == "" { // the first says what to do first
				f.Fault = x.Say
			}
		}
	}
	return f
}

// Choose makes a choice of a form.
func (p *Page) Choose(form, name, label, value string, choices ...Choice) Field {
	f := p.Field(form, name, label, value, "")
	f.Kind = "select"
	for _, c := range choices {
		c.Chosen = c.Value == f.Value
		f.Choices = append(f.Choices, c)
	}
	return f
}

// Loose lists the faults of a refused form that belong to none of its fields.
func (p *Page) Loose(form string, fields ...string) []string {
	if p.Refused == nil || p.Refused.Form != form {
		return nil
	}
	var said []string
next:
	for _, x := range p.Refused.Faults {
		for _, name := range fields {
			if x.Field == name {
				continue next
			}
		}
		said = append(said, x.Say)
	}
	return said
}

// Choices offers values under their own names.
func Choices[T ~string](values []T) []Choice {
	out := make([]Choice, len(values))
	for i, v := range values {
		out[i] = Choice{Value: string(v), Label: string(v)}
	}
	return out
}

// Ident makes an element id of any text.
func Ident(s string) string {
	return strings.Trim(strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return r
		}
		return '-'
	}, s), "-")
}

// MostOffered is how many models a form offers to choose from; a search
// narrows them.
const MostOffered = 200

// Offered says how many of how many models a form offers.
func Offered(shown, all int) string {
	if shown < all {
		return fmt.Sprintf("The first %d of %d models; type to narrow them.", shown, all)
	}
	return words.Spell(all, "model", "models") + " to choose from."
}

// ModelChoices offers models by name and kind.
func ModelChoices(models []gear.Model) []Choice {
	list := make([]Choice, 1, len(models)+1)
	list[0] = Choice{Label: "choose from the library"}
	for _, m := range models {
		list = append(list, Choice{Value: m.ID, Label: m.Title() + " (" + string(m.Kind) + ")"})
	}
	return list
}

// RefusedIs tells whether a form of the page was refused.
func (p *Page) RefusedIs(form string) bool { return p.Refused != nil && p.Refused.Form == form }
