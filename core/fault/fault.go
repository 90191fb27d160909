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
// required, longer than most characters, no proper text (see [Improper]), or with
// angle brackets, which no name needs and which only markup brings.
func (l *List) CheckName(field, what, text string, most int, required bool) {
	if required && strings.TrimSpace(text) == "" {
		l.Add(field, "%s is missing.", what)
		return
	}
	why := Improper(text)
	switch n := utf8.RuneCountInString(text); {
	case n > most:
		l.Add(field, "%s has %d characters; keep it to %d.", what, n, most)
	case strings.ContainsAny(text, "<>"):
		l.Add(field, "%s may not hold < or >.", what)
	case why != "":
		l.Add(field, "%s %s.", what, why)
	case strings.ContainsAny(text, "\n\r\t"):
		l.Add(field, "%s must stand on one line, without tabs.", what)
	}
}

// Improper tells why a text cannot be kept or shown, "" when it can: bytes
// that are no UTF-8, control characters other than line ends and tabs, or the
// characters that turn the direction of writing, by which a name can be made
// to read as another (Unicode TR 36). The marks that Arabic and Hebrew need
// for themselves are proper.
func Improper(text string) string {
	if !utf8.ValidString(text) {
		return "holds bytes that are not text in UTF-8"
	}
	for _, r := range text {
		switch {
		case r == '\n' || r == '\r' || r == '\t':
		case unicode.IsControl(r):
			return "holds control characters"
		case r >= 0x202a && r <= 0x202e || r >= 0x2066 && r <= 0x2069:
			return "holds characters that turn the direction of writing"
		}
	}
	return ""
}
