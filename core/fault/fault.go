// Package fault says what is wrong with something entered, at the field where
// it was entered, in a sentence that says what to do.
package fault

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Fault is one thing wrong. Field is the name of the form field, or a path
// such as "devices[3].model" in a rig file.
type Fault struct {
	Field string `json:"field"`
	Say   string `json:"say"`
}

// List is everything wrong with one act; an empty List is no error.
type List []Fault

// Error joins all sentences.
func (l List) Error() string {
	said := make([]string, len(l))
	for i, f := range l {
		said[i] = f.Say
		if f.Field != "" {
			said[i] = f.Field + ": " + f.Say
		}
	}
	return strings.Join(said, "; ")
}

// Add notes one more fault.
func (l *List) Add(field, say string, args ...any) {
	*l = append(*l, Fault{field, fmt.Sprintf(say, args...)})
}

// AddAll notes faults found deeper, under a path.
func (l *List) AddAll(path string, deeper List) {
	for _, f := range deeper {
		if path != "" {
			f.Field = strings.TrimSuffix(path+"."+f.Field, ".")
		}
		*l = append(*l, f)
	}
}

// Err gives the list as an error, nil when it is empty.
func (l List) Err() error {
	if len(l) == 0 {
		return nil
	}
	return l
}

// At makes an error of one fault.
func At(field, say string, args ...any) error {
	return List{{field, fmt.Sprintf(say, args...)}}
}

// CheckName faults a text that is to stand on one line: empty where it is
// required, longer than most runes, with control characters, or with angle
// brackets, which no name needs and which only markup brings.
func (l *List) CheckName(field, what, text string, most int, required bool) {
	switch n := utf8.RuneCountInString(text); {
	case required && strings.TrimSpace(text) == "":
		l.Add(field, "%s is missing.", what)
	case !utf8.ValidString(text):
		l.Add(field, "%s holds bytes that are not text.", what)
	case n > most:
		l.Add(field, "%s has %d characters; keep it to %d.", what, n, most)
	case strings.ContainsAny(text, "<>"):
		l.Add(field, "%s may not hold < or >.", what)
	case strings.ContainsFunc(text, unicode.IsControl):
		l.Add(field, "%s must stand on one line, without control characters.", what)
	}
}
