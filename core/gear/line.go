package gear

import (
	"fmt"

	"largo/core/fault"
)

// Outlet is a named output of a mixer or a source with the level it carries.
type Outlet struct {
	Name      string    `json:"name"`
	Signal    Signal    `json:"signal"`
	Connector Connector `json:"connector,omitempty"`
	Balanced  Answer    `json:"balanced,omitempty"`
	Phantom   Phantom   `json:"phantom,omitempty"` // what it makes of phantom power
}

// Mixer is a mixing desk.
type Mixer struct {
	Inputs  int      `json:"inputs"`               // for microphones
	LineIn  int      `json:"lineInputs,omitempty"` // for line level alone
	Outputs []Outlet `json:"outputs"`              // a powered mixer has speaker outlets among them
	Phantom Answer   `json:"phantom,omitempty"`    // its microphone inputs can give phantom power
	Sockets Sockets  `json:"sockets,omitzero"`     // of its inputs
}

// Processor is whatever stands between mixer and amplifiers: crossover,
// equaliser, limiter, delay.
type Processor struct {
	Inputs  int      `json:"inputs"`
	Outputs []string `json:"outputs"`
	Limits  Answer   `json:"limits,omitempty"` // has limiters that can be set
	Sockets Sockets  `json:"sockets,omitzero"`
}

// Source is a microphone, receiver, instrument or player.
type Source struct {
	Outputs []Outlet `json:"outputs"`
	Powered bool     `json:"powered,omitempty"` // has a switch or supply of its own
}

// DI makes a balanced microphone-level line of an unbalanced one.
type DI struct {
	Channels int     `json:"channels"`
	Phantom  Phantom `json:"phantom,omitempty"` // an active one needs it
	Sockets  Sockets `json:"sockets,omitzero"`
}

func (d DI) ports() []Port {
	ports := make([]Port, 0, 2*d.Channels)
	for i := range d.Channels {
		ports = append(ports, Port{Name: InputPort(i), Signal: Line, Dir: In, Connector: d.Sockets.In})
	}
	for i := range d.Channels {
		ports = append(ports, Port{Name: fmt.Sprintf("out %d", i+1), Signal: Mic, Dir: Out, Connector: orXLR(d.Sockets.Out),
			Balanced: Yes, Phantom: d.Phantom})
	}
	return ports
}

func orXLR(c Connector) Connector {
	if c == "" {
		return XLR
	}
	return c
}

func (d DI) check() fault.List {
	var l fault.List
	if d.Channels < 1 || d.Channels > mostChannels {
		l.Add("channels", "%d channels cannot be right: give 1 to %d.", d.Channels, mostChannels)
	}
	checkPhantom(&l, "phantom", d.Phantom)
	d.Sockets.check(&l)
	return l
}

func (m Mixer) ports() []Port {
	ports := make([]Port, 0, m.Inputs+len(m.Outputs))
	for i := range m.Inputs {
		ports = append(ports, Port{Name: fmt.Sprintf("in %d", i+1), Signal: Mic, Dir: In, Connector: m.Sockets.In,
			Balanced: m.Sockets.Balanced})
	}
	for i := range m.LineIn {
		ports = append(ports, Port{Name: fmt.Sprintf("line %d", i+1), Signal: Line, Dir: In, Balanced: m.Sockets.Balanced})
	}
	return append(ports, outlets(m.Outputs)...)
}

func (p Processor) ports() []Port {
	ports := make([]Port, 0, p.Inputs+len(p.Outputs))
	for i := range p.Inputs {
		ports = append(ports, Port{Name: fmt.Sprintf("in %d", i+1), Signal: Line, Dir: In, Connector: p.Sockets.In,
			Balanced: p.Sockets.Balanced})
	}
	for _, name := range p.Outputs {
		ports = append(ports, Port{Name: name, Signal: Line, Dir: Out, Connector: p.Sockets.Out,
			Balanced: p.Sockets.Balanced})
	}
	return ports
}

func outlets(outs []Outlet) []Port {
	ports := make([]Port, 0, len(outs))
	for _, o := range outs {
		balanced := o.Balanced
		if o.Connector == Phono {
			balanced = No
		}
		ports = append(ports, Port{Name: o.Name, Signal: o.Signal, Dir: Out, Connector: o.Connector, Balanced: balanced,
			Phantom: o.Phantom})
	}
	return ports
}

func (m Mixer) check() fault.List {
	var l fault.List
	checkInputs(&l, m.Inputs)
	if m.LineIn < 0 || m.LineIn > 128 {
		l.Add("lineInputs", "%d line inputs cannot be right: give 0 to 128.", m.LineIn)
	}
	l.AddAll("", checkOutlets(m.Outputs))
	checkAnswer(&l, "phantom", m.Phantom)
	m.Sockets.check(&l)
	return l
}

func (p Processor) check() fault.List {
	var l fault.List
	checkInputs(&l, p.Inputs)
	outs := make([]Outlet, len(p.Outputs))
	for i, name := range p.Outputs {
		outs[i] = Outlet{Name: name, Signal: Line}
	}
	l.AddAll("", checkOutlets(outs))
	checkAnswer(&l, "limits", p.Limits)
	p.Sockets.check(&l)
	return l
}

func checkInputs(l *fault.List, n int) {
	if n < 1 || n > 128 {
		l.Add("inputs", "%d inputs cannot be right: give 1 to 128.", n)
	}
}

func checkOutlets(outs []Outlet) fault.List {
	var l fault.List
	if len(outs) == 0 || len(outs) > 128 {
		l.Add("outputs", "%d outputs cannot be right: give 1 to 128.", len(outs))
	}
	seen := make(map[string]bool, len(outs))
	for _, o := range outs {
		l.CheckName("outputs", "The name of an output", o.Name, 24, true)
		if seen[o.Name] {
			l.Add("outputs", "Two outputs are called %q.", o.Name)
		}
		seen[o.Name] = true
		checkConnector(&l, "outputs", o.Connector)
		checkAnswer(&l, "outputs", o.Balanced)
		checkPhantom(&l, "outputs", o.Phantom)
		if o.Signal != Mic && o.Signal != Line && o.Signal != Speaker {
			l.Add("outputs", "Output %q: %q is not a level; it is microphone, line or speaker.", o.Name, o.Signal)
		}
	}
	return l
}

func checkAnswer(l *fault.List, field string, a Answer) {
	if a != "" && a != Yes && a != No {
		l.Add(field, "%q is neither yes nor no.", a)
	}
}
