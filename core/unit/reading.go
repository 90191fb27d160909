package unit

import (
	"encoding/json"
	"math"
	"strings"
)

// DC is what an ohmmeter shows across a line, Ω. An open line is +Inf,
// and written as the word.
type DC float64

// Open is a line with no way through it.
var Open = DC(math.Inf(1))

const openWord = "open"

// Symbol gives the unit as it is written behind the number.
func (r DC) Symbol() string { return "Ω" }

func (r DC) String() string {
	if r == Open {
		return openWord
	}
	return Write(float64(r), "Ω")
}

// ParseReading reads "5.8", "5.8 ohm", "20 kohm", or an open line as meters
// show it: "open", "OL", "∞".
func ParseReading(s string) (DC, error) {
	switch strings.ToLower(strings.TrimSpace(s)) {
	case openWord, "ol", "o.l", "∞", "infinite":
		return Open, nil
	}
	z, err := ParseOhm(s)
	return DC(z), err
}

// MarshalJSON writes a number of ohms, or the word for an open line.
func (r DC) MarshalJSON() ([]byte, error) {
	if r == Open {
		return json.Marshal(openWord)
	}
	return json.Marshal(float64(r))
}

// UnmarshalJSON reads what MarshalJSON writes.
func (r *DC) UnmarshalJSON(b []byte) error {
	var word string
	if json.Unmarshal(b, &word) == nil && word == openWord {
		*r = Open
		return nil
	}
	return json.Unmarshal(b, (*float64)(r))
}
