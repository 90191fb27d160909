package gear

import (
	"fmt"
	"slices"
	"strings"

	"largo/core/fault"
	"largo/core/unit"
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
	// of its line outputs
	LargestOut unit.Given[unit.DBu] `json:"largestOut,omitzero"`
	Noise      unit.Given[unit.DBu] `json:"noise,omitzero"` // at its line outputs, faders at unity, inputs shut
	EIN        unit.Given[unit.DBu] `json:"ein,omitzero"`   // of a microphone input, as if at the input
}

// Processor is whatever stands between mixer and amplifiers: crossover,
// equaliser, limiter, delay.
type Processor struct {
	Inputs  int      `json:"inputs"`
	Outputs []string `json:"outputs"`
	Limits  Answer   `json:"limits,omitempty"` // has limiters that can be set
	Sockets Sockets  `json:"sockets,omitzero"`
	// of its outputs
	LargestOut unit.Given[unit.DBu] `json:"largestOut,omitzero"`
	LargestIn  unit.Given[unit.DBu] `json:"largestIn,omitzero"`
	Noise      unit.Given[unit.DBu] `json:"noise,omitzero"` // at its outputs, unity gain
	// from its input to its outputs, its delays at nothing
	Latency unit.Given[unit.Second] `json:"latency,omitzero"`
}

// Source is a microphone, receiver, instrument or player.
type Source struct {
	Outputs []Outlet `json:"outputs"`
	Powered bool     `json:"powered,omitempty"` // has a switch or supply of its own
	// of its line outputs
	LargestOut unit.Given[unit.DBu] `json:"largestOut,omitzero"`
	// of a microphone
	PerPascal unit.Given[unit.Volt]    `json:"perPascal,omitzero"` // rms, at 94 dB SPL
	SelfNoise unit.Given[unit.Decibel] `json:"selfNoise,omitzero"` // dB(A) SPL
	MaxSPL    unit.Given[unit.Decibel] `json:"maxSPL,omitzero"`
}

// LargestLine is the largest level of a model's line outputs, dBu; not known where its
// sheet does not tell, or it has none.
func (m *Model) LargestLine() unit.Given[unit.DBu] {
	switch {
	case m.Mixer != nil:
		return m.Mixer.LargestOut
	case m.Processor != nil:
		return m.Processor.LargestOut
	case m.Feed != nil:
		return m.Feed.LargestOut
	}
	return unit.Given[unit.DBu]{}
}

// largestRow is the largest level of line outputs: −20 dBu is less than any has, +36
// dBu more than balanced gear on 18 V rails gives (common practice, no source).
func largestRow[P any](at func(*P) *dBus) row[P] {
	return figure("largestOut", "largest_out_dbu", "Largest line output", "dBu, as +22", "A largest output level", -20, 36,
		at)
}

// noiseRow is the noise at line outputs.
func noiseRow[P any](at func(*P) *dBus) row[P] {
	return figure("noise", "noise_dbu", "Noise of its line outputs", "dBu, as -84", "A noise level", -130, -30, at)
}

// latencyRow is how late digital processing is.
func latencyRow[P any](at func(*P) *seconds) row[P] {
	return figureIn("ms", unit.InUnit(unit.ParseSecond, "ms"), "latency", "latency_s", "Latency",
		"as 1.5 ms; 0 of analogue",
		"A latency", 0, 0.5, at)
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

func (d DI) check() fault.List { return checkRows(&d, diRows) }

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
	l := checkRows(&m, mixerRows)
	l.AddAll("", checkOutlets(m.Outputs))
	return l
}

func (p Processor) check() fault.List {
	l := checkRows(&p, processorRows)
	outs := make([]Outlet, len(p.Outputs))
	for i, name := range p.Outputs {
		outs[i] = Outlet{Name: name, Signal: Line}
	}
	l.AddAll("", checkOutlets(outs))
	return l
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

// mixerSheet is what is known of a desk; its outputs stand among its own rows.
var mixerSheet = []Section{{Title: "Connectors", Entries: slices.Concat(
	lift("mixer", "", theMixer, mixerRows[:3]),
	lift("mixer", "", itself, outputRowsOf("name, then its level and what is known of it: main L, line, 3-pin "+
		"XLR, balanced")),
	lift("mixer", "", theMixer, mixerRows[3:]))}}

func theMixer(m *Model) *Mixer { return m.Mixer }

var mixerRows = append([]row[Mixer]{
	count("inputs", "inputs", "Microphone inputs", "inputs", 1, 128, func(m *Mixer) *int { return &m.Inputs }),
	countOrNone("lineInputs", "line_inputs", "Line inputs", "line inputs", 0, 128,
		func(m *Mixer) *int { return &m.LineIn }),
	answer("phantom", "gives_phantom", "Gives phantom power", func(m *Mixer) *Answer { return &m.Phantom }),
	largestRow(func(m *Mixer) *dBus { return &m.LargestOut }),
	noiseRow(func(m *Mixer) *dBus { return &m.Noise }),
	figure("ein", "ein_dbu", "Noise of a microphone input", "dBu as if at the input, as -128", "An input noise", -134, -80,
		func(m *Mixer) *dBus { return &m.EIN }),
}, socketRows(func(m *Mixer) *Sockets { return &m.Sockets }, "Input sockets", "", "Inputs balanced")...)

var processorSheet = []Section{{Title: "Connectors", Entries: slices.Concat(
	lift("processor", "", theProcessor, processorRows[:1]),
	lift("processor", "", itself, outputRowsOf("a name each: sub L")),
	lift("processor", "", theProcessor, processorRows[1:]))}}

func theProcessor(m *Model) *Processor { return m.Processor }

var processorRows = append([]row[Processor]{
	count("inputs", "inputs", "Inputs", "inputs", 1, 128, func(p *Processor) *int { return &p.Inputs }),
	answer("limits", "limiters", "Has limiters that can be set", func(p *Processor) *Answer { return &p.Limits }),
	largestRow(func(p *Processor) *dBus { return &p.LargestOut }),
	figure("largestIn", "largest_in_dbu", "Largest line input", "dBu, as +20", "A largest input level", -20, 36,
		func(p *Processor) *dBus { return &p.LargestIn }),
	noiseRow(func(p *Processor) *dBus { return &p.Noise }),
	latencyRow(func(p *Processor) *seconds { return &p.Latency }),
}, socketRows(func(p *Processor) *Sockets { return &p.Sockets }, "Input sockets", "Output sockets", "Balanced")...)

var sourceSheet = []Section{{Title: "Connectors", Entries: slices.Concat(
	lift("feed", "", itself,
		outputRowsOf("name, then its level and what is known of it: out, microphone, 3-pin XLR, balanced, needs it")),
	lift("feed", "", func(m *Model) *Source { return m.Feed }, sourceRows))}}

var sourceRows = []row[Source]{
	yesNo("powered", "powered", "Has a switch or supply", func(s *Source) *bool { return &s.Powered }),
	largestRow(func(s *Source) *dBus { return &s.LargestOut }),
	figure("perPascal", "per_pascal_v", "A microphone's volts at 94 dB", "1.8 mV", "A sensitivity", 0.0001, 0.2,
		func(s *Source) *volts { return &s.PerPascal }),
	figure("selfNoise", "self_noise_db", "A microphone's own noise", "dB(A)", "A noise", 0, 60,
		func(s *Source) *decibels { return &s.SelfNoise }),
	figure("maxSPL", "mic_max_spl_db", "Largest level it takes", "dB SPL", "A largest level it takes", 90, 170,
		func(s *Source) *decibels { return &s.MaxSPL }),
}

var diSheet = []Section{{Title: "Connectors", Entries: lift("di", "", func(m *Model) *DI { return m.DI }, diRows)}}

var diRows = append([]row[DI]{
	count("channels", "di_channels", "Channels", "channels", 1, mostChannels, func(d *DI) *int { return &d.Channels }),
	choice("phantom", "di_phantom", "Phantom power", func(d *DI) *Phantom { return &d.Phantom }, checkPhantom,
		options("not known", Phantoms)...),
}, socketRows(func(d *DI) *Sockets { return &d.Sockets }, "Input", "Output", "")...)

// outputRowsOf is the list of outputs of a model, with what is said beside its
// field; what they may be their part checks.
func outputRowsOf(hint string) []row[Model] {
	lines := func(m *Model, between string) []string {
		var list []string
		for _, o := range m.Outlets() {
			parts := o.Parts()
			if m.Processor != nil && between == ", " {
				parts = parts[:1]
			}
			list = append(list, strings.Join(parts, between))
		}
		return list
	}
	parse := func(m *Model, s, end, between string) error {
		var outs []Outlet
		for line := range strings.SplitSeq(s, end) {
			if strings.TrimSpace(line) == "" {
				continue
			}
			o, err := ParseOutlet(strings.Split(strings.TrimSpace(line), between))
			if err != nil {
				return err
			}
			outs = append(outs, o)
		}
		m.SetOutlets(outs)
		return nil
	}
	return []row[Model]{{
		is:    Entry{Key: "outputs", Column: "outputs", Label: "Outputs, one a line", Hint: hint, Form: Lines},
		typed: func(m *Model) string { return strings.Join(lines(m, ", "), "\n") },
		read:  func(m *Model, s string) error { return parse(m, s, "\n", ",") },
		cell:  func(m *Model) string { return strings.Join(lines(m, ":"), "; ") },
		fill:  func(m *Model, s string) error { return parse(m, s, ";", ":") },
		check: func(*Model, *fault.List) {},
	}}
}
