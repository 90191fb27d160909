package gear

import (
	"fmt"

	"largo/core/fault"
)

// Outlet is a named output of a mixer or a source with the level it carries.
type Outlet struct {
	Name   string `json:"name"`
	Signal Signal `json:"signal"`
}

// Mixer is a mixing desk.
type Mixer struct {
	Inputs  int      `json:"inputs"`
	Outputs []Outlet `json:"outputs"` // a powered mixer has speaker outlets among them
}

// Processor is whatever stands between mixer and amplifiers: crossover,
// equaliser, limiter, delay.
type Processor struct {
	Inputs  int      `json:"inputs"`
	Outputs []string `json:"outputs"`
	Limits  Answer   `json:"limits,omitempty"` // has limiters that can be set
}

// Source is a microphone, receiver, instrument or player.
type Source struct {
	Outputs []Outlet `json:"outputs"`
	Powered bool     `json:"powered,omitempty"` // has a switch or supply of its own
}

func (m Mixer) ports() []Port {
	ports := make([]Port, 0, m.Inputs+len(m.Outputs))
	for i := range m.Inputs {
		ports = append(ports, Port{fmt.Sprintf("in %d", i+1), Mic, In})
	}
	return append(ports, outlets(m.Outputs)...)
}

func (p Processor) ports() []Port {
	ports := make([]Port, 0, p.Inputs+len(p.Outputs))
	for i := range p.Inputs {
		ports = append(ports, Port{fmt.Sprintf("in %d", i+1), Line, In})
	}
	for _, name := range p.Outputs {
		ports = append(ports, Port{name, Line, Out})
	}
	return ports
}

func outlets(outs []Outlet) []Port {
	ports := make([]Port, 0, len(outs))
	for _, o := range outs {
		ports = append(ports, Port{o.Name, o.Signal, Out})
	}
	return ports
}

func (m Mixer) check() fault.List {
	var l fault.List
	checkInputs(&l, m.Inputs)
	l.AddAll("", checkOutlets(m.Outputs))
	return l
}

func (p Processor) check() fault.List {
	var l fault.List
	checkInputs(&l, p.Inputs)
	outs := make([]Outlet, len(p.Outputs))
	for i, name := range p.Outputs {
		outs[i] = Outlet{name, Line}
	}
	l.AddAll("", checkOutlets(outs))
	checkAnswer(&l, "limits", p.Limits)
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
