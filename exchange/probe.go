package exchange

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"time"

	"largo/core/unit"
)

// A probe is a thermometer and a clamp on the line of a driver under test, asked over HTTP
// or OSC. docs/probe.md says what both sides send.

// Probed is what a probe answers: unknown what it does not have.
type Probed struct {
	N     int // of the answer
	Probe [2]unit.Given[unit.Celsius]
	Air   unit.Given[unit.Celsius]
	Volts unit.Given[unit.Volt]
	Amps  unit.Given[unit.Ampere]
}

// The addresses of OSC that a probe knows.
const (
	OSCAsk     = "/probe/ask"     // no arguments
	OSCReading = "/probe/reading" // number, two temperatures, air, volts, amperes; nil for none
)

// ProbeJSON is what a probe answers over HTTP, at its address.
type ProbeJSON struct {
	N     int      `json:"n"`
	First *float64 `json:"probe1,omitempty"`  // °C
	Other *float64 `json:"probe2,omitempty"`  // °C
	Air   *float64 `json:"air,omitempty"`     // °C
	Volts *float64 `json:"volts,omitempty"`   // V rms
	Amps  *float64 `json:"amperes,omitempty"` // A rms
}

// ProbeAt reads the address of a probe: osc://host:port or http://host:port/path, on this
// machine alone.
func ProbeAt(address string) (*url.URL, error) {
	u, err := url.Parse(address)
	if err != nil || u.Scheme != "osc" && u.Scheme != "http" {
		return nil, fmt.Errorf("%.80q is no address of a probe: write it as osc://127.0.0.1:9030 or http://127.0.0.1:9031",
			address)
	}
	at, err := netip.ParseAddrPort(u.Host)
	if err != nil || !at.Addr().IsLoopback() || at.Port() == 0 {
		return nil, fmt.Errorf("a probe is asked on this machine alone: 127.0.0.1 with its port, not %.60q", u.Host)
	}
	return u, nil
}

// probePatience is how long a probe may take.
const probePatience = 2 * time.Second

// AskProbe asks a probe for what it reads now.
func AskProbe(ctx context.Context, address string) (Probed, error) {
	u, err := ProbeAt(address)
	if err != nil {
		return Probed{}, err
	}
	ctx, cancel := context.WithTimeout(ctx, probePatience)
	defer cancel()
	if u.Scheme == "osc" {
		return askOSC(ctx, u.Host)
	}
	return askHTTP(ctx, u)
}

var probeClient = http.Client{CheckRedirect: func(*http.Request,
	[]*http.Request) error {
	return http.ErrUseLastResponse
}}

func askHTTP(ctx context.Context, u *url.URL) (p Probed, err error) {
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, u.String(), nil)
	if err != nil {
		return p, err
	}
	answer, err := probeClient.Do(req)
	if err != nil {
		return p, fmt.Errorf("the probe does not answer: %w", err)
	}
	defer func() { _ = answer.Body.Close() }()
	if answer.StatusCode != http.StatusOK {
		return p, fmt.Errorf("the probe answers %s", answer.Status)
	}
	var j ProbeJSON
	if err := json.NewDecoder(io.LimitReader(answer.Body, 4096)).Decode(&j); err != nil {
		return p, fmt.Errorf("what the probe answers cannot be read: %w", err)
	}
	p.N = j.N
	p.Probe[0], p.Probe[1] = measured[unit.Celsius](j.First), measured[unit.Celsius](j.Other)
	p.Air, p.Volts, p.Amps = measured[unit.Celsius](j.Air), measured[unit.Volt](j.Volts), measured[unit.Ampere](j.Amps)
	return p, nil
}

func measured[T unit.Quantity](v *float64) unit.Given[T] {
	if v == nil || math.IsNaN(*v) || math.IsInf(*v, 0) {
		return unit.Given[T]{}
	}
	return unit.Of(T(*v))
}

func askOSC(ctx context.Context, host string) (p Probed, err error) {
	var dialer net.Dialer
	conn, err := dialer.DialContext(ctx, "udp", host)
	if err != nil {
		return p, err
	}
	defer func() { _ = conn.Close() }()
	deadline, _ := ctx.Deadline()
	_ = conn.SetDeadline(deadline)
	ask, err := MarshalOSC(OSCMessage{Address: OSCAsk})
	if err != nil {
		return p, err
	}
	if _, err := conn.Write(ask); err != nil {
		return p, fmt.Errorf("the probe does not answer: %w", err)
	}
	b := make([]byte, mostOSC+1)
	n, err := conn.Read(b)
	if err != nil {
		return p, fmt.Errorf("the probe does not answer: %w", err)
	}
	m, err := UnmarshalOSC(b[:n])
	if err != nil {
		return p, fmt.Errorf("what the probe answers cannot be read: %w", err)
	}
	return probedOSC(m)
}

func probedOSC(m OSCMessage) (p Probed, err error) {
	if m.Address != OSCReading || len(m.Args) != 6 {
		return p, fmt.Errorf("the probe answers %.40q with %d arguments, not %s with 6", m.Address, len(m.Args), OSCReading)
	}
	number, ok := m.Args[0].(int32)
	if !ok {
		return p, fmt.Errorf("the probe's answer bears no number")
	}
	p.N = int(number)
	var values [5]*float64
	for i, a := range m.Args[1:] {
		switch v := a.(type) {
		case float32:
			f := math.Round(1000*float64(v)) / 1000 // a float32 has no 32.4
			values[i] = &f
		case nil:
		default:
			return p, fmt.Errorf("argument %d of the probe's answer is no number", i+2)
		}
	}
	p.Probe[0], p.Probe[1] = measured[unit.Celsius](values[0]), measured[unit.Celsius](values[1])
	p.Air = measured[unit.Celsius](values[2])
	p.Volts, p.Amps = measured[unit.Volt](values[3]), measured[unit.Ampere](values[4])
	return p, nil
}

// MarshalProbed writes an answer as OSC.
func MarshalProbed(j ProbeJSON) ([]byte, error) {
	args := []any{int32(j.N)}
	for _, v := range []*float64{j.First, j.Other, j.Air, j.Volts, j.Amps} {
		if v == nil {
			args = append(args, nil)
		} else {
			args = append(args, float32(*v))
		}
	}
	return MarshalOSC(OSCMessage{Address: OSCReading, Args: args})
}
