package unit

import (
	"encoding/json"
	"math"
	"strings"
)

// Reading is what an ohmmeter shows across a line, Ω. An open line is +Inf,
// and written as the word.
type Reading float64

// Open is a line with no way through it.
var Open = Reading(math.Inf(1))

const openWord = "open"

// Symbol gives the unit as it is written behind the number.
func (r Reading) Symbol() string { return "Ω" }

func (r Reading) String() string {
	if r == Open {
		return openWord
	}
	return Write(float64(r), "Ω")
}

// ParseReading reads "5.8", "5.8 ohm", "20 kohm", or an open line as meters
// show it: "open", "OL", "∞".
func ParseReading(s string) (Reading, error) {
	switch strings.ToLower(strings.TrimSpace(s)) {
	case openWord, "ol", "o.l", "∞", "infinite":
		return Open, nil
	}
	z, err := ParseOhm(s)
	return Reading(z), err
}

// MarshalJSON writes a number of ohms, or the word for an open line.
func (r Reading) MarshalJSON() ([]byte, error) {
	if r == Open {
		return json.Marshal(openWord)
	}
	return json.Marshal(float64(r))
}

// UnmarshalJSON reads what MarshalJSON writes.
func (r *Reading) UnmarshalJSON(b []byte) error {
	var word string
	if json.Unmarshal(b, &word) == nil && word == openWord {
		*r = Open
		return nil
	}
	return json.Unmarshal(b, (*float64)(r))
}
