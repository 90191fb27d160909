package unit

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode/utf8"
)

// MostOrigin is how many characters may say where a figure comes from.
const MostOrigin = 200

// Given is a quantity as some sheet, plate or meter gives it. The zero Given
// is unknown, which is never the same as zero.
type Given[T Quantity] struct {
	value T
	known bool
	from  string
}

// Of is a known quantity whose origin is not recorded.
func Of[T Quantity](v T) Given[T] { return Given[T]{value: v, known: true} }

// From is a known quantity with its origin: "sheet", "measured", "estimated"
// or any words of the technician.
func From[T Quantity](v T, origin string) Given[T] {
	return Given[T]{value: v, known: true, from: origin}
}

// Get gives the value, and whether it is known.
func (g Given[T]) Get() (T, bool) { return g.value, g.known }

// Known tells whether there is a value.
func (g Given[T]) Known() bool { return g.known }

// Or gives the value, or the careful assumption where it is unknown.
func (g Given[T]) Or(careful T) T {
	if g.known {
		return g.value
	}
	return careful
}

// Origin tells where the value came from; empty when nobody said.
func (g Given[T]) Origin() string { return g.from }

// IsZero reports an unknown quantity, so that JSON leaves it out.
func (g Given[T]) IsZero() bool { return !g.known }

// Typed writes the value as it would be typed, to the last digit; "" where it is
// unknown.
func (g Given[T]) Typed() string {
	switch {
	case !g.known:
		return ""
	case math.IsInf(float64(g.value), 1):
		return g.value.String() // an open line
	}
	return strings.TrimSpace(strconv.FormatFloat(float64(g.value), 'f', -1, 64) + " " + g.value.Symbol())
}

// String writes the value with its unit, or "unknown".
func (g Given[T]) String() string {
	if !g.known {
		return "unknown"
	}
	return g.value.String()
}

type givenWithOrigin[T Quantity] struct {
	Value T      `json:"value"`
	From  string `json:"from"`
}

// MarshalJSON writes a bare number, or {"value":…, "from":…} where the origin
// is known, or null where the quantity is not.
func (g Given[T]) MarshalJSON() ([]byte, error) {
	switch {
	case !g.known:
		return []byte("null"), nil
	case g.from == "":
		return json.Marshal(g.value)
	}
	return json.Marshal(givenWithOrigin[T]{g.value, g.from})
}

// UnmarshalJSON reads what MarshalJSON writes.
func (g *Given[T]) UnmarshalJSON(b []byte) error {
	b = bytes.TrimSpace(b)
	*g = Given[T]{}
	switch {
	case bytes.Equal(b, []byte("null")):
		return nil
	case len(b) > 0 && b[0] == '{':
		var w givenWithOrigin[T]
		dec := json.NewDecoder(bytes.NewReader(b))
		dec.DisallowUnknownFields()
		if err := dec.Decode(&w); err != nil {
			return err
		}
		if utf8.RuneCountInString(w.From) > MostOrigin {
			return fmt.Errorf("where a figure comes from has %d characters; keep it to %d",
				utf8.RuneCountInString(w.From), MostOrigin)
		}
		*g = From(w.Value, w.From)
	default:
		var v T
		if err := json.Unmarshal(b, &v); err != nil {
			return err
		}
		*g = Of(v)
	}
	if v := float64(g.value); math.IsNaN(v) || math.IsInf(v, 0) {
		if _, err := json.Marshal(g.value); err != nil { // an open line alone may be without end
			return fmt.Errorf("a figure must be a finite number")
		}
	}
	return nil
}
