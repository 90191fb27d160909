package gear

import (
	"fmt"

	"largo/core/fault"
	"largo/core/unit"
)

// Intake is what a device takes from the mains, whatever it does with it.
type Intake struct {
	Idle       unit.Given[unit.Watt]  `json:"idle,omitzero"`
	Standby    unit.Given[unit.Watt]  `json:"standby,omitzero"`
	Most       unit.Given[unit.Watt]  `json:"most,omitzero"`        // what its plate or sheet says at most
	Efficiency unit.Given[unit.Ratio] `json:"efficiency,omitzero"`  // output over what it takes above idle
	Factor     unit.Given[unit.Ratio] `json:"powerFactor,omitzero"` // at programme levels
	// has power-factor correction: draws more at low volts
	Corrected Answer                  `json:"corrected,omitempty"`
	Inrush    unit.Given[unit.Ampere] `json:"inrush,omitzero"` // peak
	InrushFor unit.Given[unit.Second] `json:"inrushFor,omitzero"`
	Leakage   unit.Given[unit.Ampere] `json:"leakage,omitzero"` // to protective earth
	VoltsLow  unit.Given[unit.Volt]   `json:"voltsLow,omitzero"`
	VoltsHigh unit.Given[unit.Volt]   `json:"voltsHigh,omitzero"`
}

func (m Intake) check() fault.List {
	var l fault.List
	within(&l, "idle", "An idle draw", m.Idle, 0, 3000)
	within(&l, "standby", "A standby draw", m.Standby, 0, 500)
	within(&l, "most", "A largest draw", m.Most, 0, 30000)
	within(&l, "efficiency", "An efficiency", m.Efficiency, 0.05, 1)
	within(&l, "powerFactor", "A power factor", m.Factor, 0.2, 1)
	checkAnswer(&l, "corrected", m.Corrected)
	within(&l, "inrush", "An inrush", m.Inrush, 0, 1000)
	within(&l, "inrushFor", "The time of an inrush", m.InrushFor, 0, 10)
	within(&l, "leakage", "A leakage", m.Leakage, 0, 0.1)
	within(&l, "voltsLow", "A least supply voltage", m.VoltsLow, 50, 500)
	within(&l, "voltsHigh", "A largest supply voltage", m.VoltsHigh, 50, 500)
	low, known1 := m.VoltsLow.Get()
	high, known2 := m.VoltsHigh.Get()
	if known1 && known2 && low > high {
		l.Add("voltsHigh", "The largest supply voltage, %s, is below the least, %s.", high, low)
	}
	return l
}

// Body is what carrying, racking and hanging ask for.
type Body struct {
	Weight unit.Given[unit.Kilogram] `json:"weight,omitzero"`
	Units  int                       `json:"units,omitempty"`  // of a rack, 44.45 mm each (IEC 60297)
	Points int                       `json:"points,omitempty"` // rigging points; 0: none or not known, never to be hung
}

func (b Body) check() fault.List {
	var l fault.List
	within(&l, "weight", "A weight", b.Weight, 0.05, 1000)
	if b.Units < 0 || b.Units > 50 {
		l.Add("units", "%d rack units cannot be right: give 1 to 50.", b.Units)
	}
	if b.Points < 0 || b.Points > 40 {
		l.Add("points", "%d rigging points cannot be right: give 1 to 40.", b.Points)
	}
	return l
}

// Supply is gear that passes mains on: a generator, a transformer, a distro, a
// conditioner or a power sequencer. What it does to the mains beyond that is
// only what its sheet says: most conditioners neither regulate nor sequence.
type Supply struct {
	Outlets   int                     `json:"outlets"`
	Current   unit.Given[unit.Ampere] `json:"current,omitzero"`  // all outlets together
	Apparent  unit.Given[unit.Watt]   `json:"apparent,omitzero"` // VA of a generator or transformer, as W
	Regulates Answer                  `json:"regulates,omitempty"`
	Sequences Answer                  `json:"sequences,omitempty"`
	Bonded    Answer                  `json:"bonded,omitempty"` // a generator's neutral is bonded to its frame
}

func (s Supply) ports(fed bool) []Port {
	ports := make([]Port, 0, s.Outlets+1)
	if fed {
		ports = append(ports, Port{Name: MainsPort, Signal: Mains, Dir: In})
	}
	for i := range s.Outlets {
		ports = append(ports, Port{Name: fmt.Sprintf("outlet %d", i+1), Signal: Mains, Dir: Out})
	}
	return ports
}

func (s Supply) check() fault.List {
	var l fault.List
	if s.Outlets < 1 || s.Outlets > 96 {
		l.Add("outlets", "%d outlets cannot be right: give 1 to 96.", s.Outlets)
	}
	within(&l, "current", "A current", s.Current, 0.5, 1000)
	within(&l, "apparent", "A power", s.Apparent, 100, 1000000)
	for field, a := range map[string]Answer{"regulates": s.Regulates, "sequences": s.Sequences, "bonded": s.Bonded} {
		checkAnswer(&l, field, a)
	}
	return l
}

// Switch is a network switch.
type Switch struct {
	Sockets int `json:"sockets"`
}

func (s Switch) ports() []Port {
	ports := make([]Port, 0, s.Sockets)
	for i := range s.Sockets {
		ports = append(ports, Port{Name: fmt.Sprintf("data %d", i+1), Signal: Data, Dir: Out, Connector: DataSocket})
	}
	return ports
}

func (s Switch) check() fault.List {
	var l fault.List
	if s.Sockets < 2 || s.Sockets > 96 {
		l.Add("sockets", "%d sockets cannot be right: give 2 to 96.", s.Sockets)
	}
	return l
}
