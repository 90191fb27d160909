package exchange

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"slices"

	"largo/core/unit"
)

// A mains meter tells volts, amperes and hertz of circuits by their names, asked over HTTP.
// docs/feed.md says what it answers.

// MeterJSON is what a meter answers.
type MeterJSON struct {
	Circuits []CircuitJSON `json:"circuits"`
}

// CircuitJSON is one circuit of it; what it does not have is left out.
type CircuitJSON struct {
	Name  string   `json:"name"`
	Volts *float64 `json:"volts,omitempty"`
	Amps  *float64 `json:"amperes,omitempty"`
	Hertz *float64 `json:"hertz,omitempty"`
}

// Metered is one circuit as a meter reads it.
type Metered struct {
	Name  string
	Volts unit.Given[unit.Volt]
	Amps  unit.Given[unit.Ampere]
	Hertz unit.Given[unit.Hertz]
}

// mostMetered bounds what a meter answers.
const mostMetered = 500

// AskMeter asks a meter for what it reads now. What cannot be on any mains is left out, and a
// meter that names a circuit twice is not believed.
func AskMeter(ctx context.Context, address string) ([]Metered, error) {
	u, err := ProbeAt(address)
	if err != nil || u.Scheme != "http" {
		return nil, fmt.Errorf("%.80q is no address of a meter: write it as http://127.0.0.1:9032", address)
	}
	ctx, cancel := context.WithTimeout(ctx, probePatience)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, u.String(), nil)
	if err != nil {
		return nil, err
	}
	answer, err := probeClient.Do(req)
	if err != nil {
		return nil, fmt.Errorf("the meter does not answer")
	}
	defer func() { _ = answer.Body.Close() }()
	if answer.StatusCode != http.StatusOK {
		return nil, fmt.Errorf("the meter answers %s", answer.Status)
	}
	var j MeterJSON
	if err := json.NewDecoder(io.LimitReader(answer.Body, 1<<18)).Decode(&j); err != nil || len(j.Circuits) > mostMetered {
		return nil, fmt.Errorf("what the meter answers cannot be read")
	}
	var list []Metered
	for _, c := range j.Circuits {
		if slices.ContainsFunc(list, func(m Metered) bool { return m.Name == c.Name }) {
			return nil, fmt.Errorf("the meter names %.40q twice", c.Name)
		}
		list = append(list, Metered{c.Name, sane[unit.Volt](c.Volts, 20, 1000), sane[unit.Ampere](c.Amps, 0, 2000),
			sane[unit.Hertz](c.Hertz, 16, 400)})
	}
	return list, nil
}

// sane is a reading that a mains may have.
func sane[T unit.Quantity](v *float64, low, high float64) unit.Given[T] {
	if g := measured[T](v); g.Known() && *v >= low && *v <= high {
		return g
	}
	return unit.Given[T]{}
}
