package standin

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"net/http"
	"strconv"
	"sync"
	"time"

	"largo/exchange"
)

// Meter is a simulated mains meter: circuits with an impedance behind them, whose source
// wanders as that of a generator does.
type Meter struct {
	Volts  float64 // of the source, at rest
	Hertz  float64
	Noise  float64 // V, as a standard deviation
	Wander float64 // V, slowly up and down, within ten minutes
	Fault  MeterFault

	mu       sync.Mutex
	circuits []metered
	noise    *rand.Rand
	begun    time.Time
}

type metered struct {
	name       string
	ohms, amps float64
}

// MeterFault is what may be wrong with it.
type MeterFault string

// The faults: it answers what nobody can read, after too long, or voltages of no mains.
const (
	Nonsense MeterFault = "nonsense"
	Late     MeterFault = "late"
	Mad      MeterFault = "mad"
)

// Add puts a circuit under the meter, with what is behind it and what flows.
func (m *Meter) Add(name string, ohms, amps float64) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.circuits = append(m.circuits, metered{name, ohms, amps})
}

// Read is what it shows at a time.
func (m *Meter) Read(at time.Time) exchange.MeterJSON {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.noise == nil {
		m.noise, m.begun = rand.New(rand.NewPCG(1, 9)), at
	}
	wander := m.Wander * math.Sin(2*math.Pi*at.Sub(m.begun).Seconds()/600)
	var out exchange.MeterJSON
	for _, c := range m.circuits {
		v := math.Round(10*(m.Volts+wander-c.ohms*c.amps+m.Noise*m.noise.NormFloat64())) / 10
		if m.Fault == Mad {
			v *= 100
		}
		a, hz := c.amps, m.Hertz
		out.Circuits = append(out.Circuits, exchange.CircuitJSON{Name: c.name, Volts: &v, Amps: &a, Hertz: &hz})
	}
	return out
}

// lateBy is how long a meter takes that answers late.
const lateBy = 5 * time.Second

// ServeHTTP answers what it reads; POST with circuit=… and amperes=… sets what flows.
func (m *Meter) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if r.Method == http.MethodPost {
		amps, err := strconv.ParseFloat(r.FormValue("amperes"), 64)
		if err != nil || !(amps >= 0 && amps <= 2000) || !m.load(r.FormValue("circuit"), amps) {
			http.Error(w, "circuit=… and amperes=… from 0 to 2000", http.StatusUnprocessableEntity)
			return
		}
	}
	switch m.Fault {
	case Late:
		select {
		case <-time.After(lateBy):
		case <-r.Context().Done():
			return
		}
	case Nonsense:
		_, _ = w.Write([]byte("<html>please log in"))
		return
	}
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(m.Read(time.Now()))
}

func (m *Meter) load(name string, amps float64) bool {
	m.mu.Lock()
	defer m.mu.Unlock()
	for i := range m.circuits {
		if m.circuits[i].name == name {
			m.circuits[i].amps = amps
			return true
		}
	}
	return false
}
