// Package gear is what a device is: the ratings, ports and habits that its
// maker prints or a technician measures, and the sums that need nothing but
// them. One file a kind.
//
// Unknown stays unknown: every figure that a sheet may leave out is a
// unit.Given, and each sum says what it lacked and what it assumed.
package gear

import (
	"regexp"
	"strings"

	"largo/core/fault"
	"largo/core/unit"
)

// Kind is what sort of device a model is.
type Kind string

// The kinds of the library.
const (
	KindAmplifier   Kind = "amplifier"
	KindLoudspeaker Kind = "loudspeaker"
	KindMixer       Kind = "mixer"
	KindProcessor   Kind = "processor"
	KindSource      Kind = "source"
)

// Kinds lists all kinds in the order in which signal meets them.
var Kinds = []Kind{KindSource, KindMixer, KindProcessor, KindAmplifier, KindLoudspeaker}

// Answer is yes, no, or not known; the zero Answer is not known.
type Answer string

// The answers.
const (
	Yes Answer = "yes"
	No  Answer = "no"
)

// Model is a type of device. Exactly the part named by Kind is set.
type Model struct {
	ID     string `json:"id"`
	Kind   Kind   `json:"kind"`
	Maker  string `json:"maker"`
	Name   string `json:"name"`
	Source string `json:"source,omitempty"` // where its figures come from
	Note   string `json:"note,omitempty"`
	Wake   Wake   `json:"wake,omitzero"`

	Amplifier   *Amplifier   `json:"amplifier,omitempty"`
	Loudspeaker *Loudspeaker `json:"loudspeaker,omitempty"`
	Mixer       *Mixer       `json:"mixer,omitempty"`
	Processor   *Processor   `json:"processor,omitempty"`
	Feed        *Source      `json:"feed,omitempty"` // of a source
}

// Wake is how a device behaves when it is switched on and off.
type Wake struct {
	Settle   unit.Given[unit.Second] `json:"settle,omitzero"`    // from the switch until its outputs are quiet
	Proof    string                  `json:"proof,omitempty"`    // what is seen when it is up
	Switch   string                  `json:"switch,omitempty"`   // where its switch is, as "rear rocker"
	Shutdown string                  `json:"shutdown,omitempty"` // its own way to be shut down
	Drain    unit.Given[unit.Second] `json:"drain,omitzero"`     // from the switch until its outputs are dead
}

// Blank is a model of a kind with nothing known but what it must have, and
// false for what is no kind.
func Blank(k Kind) (Model, bool) {
	m := Model{Kind: k}
	switch k {
	case KindAmplifier:
		m.Amplifier = &Amplifier{Channels: 2}
	case KindLoudspeaker:
		m.Loudspeaker = &Loudspeaker{}
	case KindMixer:
		m.Mixer = &Mixer{}
	case KindProcessor:
		m.Processor = &Processor{}
	case KindSource:
		m.Feed = &Source{}
	default:
		return m, false
	}
	return m, true
}

// notInID is whatever an id does without.
var notInID = regexp.MustCompile(`[^a-z0-9]+`)

// IDOf makes the id of a new model.
func IDOf(maker, name string) string {
	id := strings.Trim(notInID.ReplaceAllString(strings.ToLower(maker+" "+name), "-"), "-")
	if id == "" {
		id = "model"
	}
	return id
}

// Title is maker and name.
func (m Model) Title() string { return m.Maker + " " + m.Name }

// Powered tells whether the device has a mains switch or supply of its own.
func (m Model) Powered() bool {
	switch m.Kind {
	case KindLoudspeaker:
		return m.Loudspeaker.Active
	case KindSource:
		return m.Feed.Powered
	}
	return true
}

// MakesSound tells whether a waking or settling signal at its input is heard:
// amplifiers and active loudspeakers.
func (m Model) MakesSound() bool {
	return m.Kind == KindAmplifier || m.Kind == KindLoudspeaker && m.Loudspeaker.Active
}

// Signal is the level class a port carries.
type Signal string

// The signals.
const (
	Mic     Signal = "microphone"
	Line    Signal = "line"
	Speaker Signal = "speaker"
)

// Direction is which way a port passes signal.
type Direction string

// The directions. A Through port is joined inside to the port it names: what
// enters there leaves here.
const (
	In      Direction = "in"
	Out     Direction = "out"
	Through Direction = "through"
)

// Port is a connector of a model.
type Port struct {
	Name   string
	Signal Signal
	Dir    Direction
}

// Ports lists the connectors of a model, inputs first.
func (m Model) Ports() []Port {
	switch m.Kind {
	case KindAmplifier:
		return m.Amplifier.ports()
	case KindLoudspeaker:
		return m.Loudspeaker.ports()
	case KindMixer:
		return m.Mixer.ports()
	case KindProcessor:
		return m.Processor.ports()
	case KindSource:
		return outlets(m.Feed.Outputs)
	}
	return nil
}

// Port finds a connector by name.
func (m Model) Port(name string) (Port, bool) {
	for _, p := range m.Ports() {
		if p.Name == name {
			return p, true
		}
	}
	return Port{}, false
}

// Check faults figures that cannot be, each at its field.
func (m Model) Check() error {
	var l fault.List
	l.CheckName("maker", "The maker", m.Maker, 60, true)
	l.CheckName("name", "The name", m.Name, 60, true)
	l.CheckName("id", "The id", m.ID, 80, true)
	l.CheckName("source", "The source", m.Source, 200, false)
	l.CheckName("note", "The note", m.Note, 400, false)
	l.CheckName("wake.proof", "What is seen when it is up", m.Wake.Proof, 200, false)
	l.CheckName("wake.switch", "Where its switch is", m.Wake.Switch, 80, false)
	l.CheckName("wake.shutdown", "Its own shutdown", m.Wake.Shutdown, 200, false)
	within(&l, "wake.settle", "The settle time", m.Wake.Settle, 0, 1800)
	within(&l, "wake.drain", "The drain time", m.Wake.Drain, 0, 1800)
	parts := 0
	for kind, present := range map[Kind]bool{
		KindAmplifier: m.Amplifier != nil, KindLoudspeaker: m.Loudspeaker != nil,
		KindMixer: m.Mixer != nil, KindProcessor: m.Processor != nil, KindSource: m.Feed != nil,
	} {
		if present {
			parts++
		}
		if present != (kind == m.Kind) {
			l.Add("kind", "A model of kind %q must describe a %s and nothing else.", m.Kind, m.Kind)
			return l.Err()
		}
	}
	if parts != 1 {
		l.Add("kind", "%q is not a kind of gear; it is one of amplifier, loudspeaker, mixer, processor or source.", m.Kind)
		return l.Err()
	}
	switch m.Kind {
	case KindAmplifier:
		l.AddAll("amplifier", m.Amplifier.check())
	case KindLoudspeaker:
		l.AddAll("loudspeaker", m.Loudspeaker.check())
	case KindMixer:
		l.AddAll("mixer", m.Mixer.check())
	case KindProcessor:
		l.AddAll("processor", m.Processor.check())
	case KindSource:
		l.AddAll("feed", checkOutlets(m.Feed.Outputs))
	}
	return l.Err()
}

// within faults a known figure outside what such gear can have.
func within[T unit.Quantity](l *fault.List, field, what string, g unit.Given[T], low, high T) {
	v, known := g.Get()
	if known && (v < low || v > high) {
		l.Add(field, "%s of %s cannot be right: it should lie between %s and %s. Leave it empty if it is unknown.", what,
			unit.Write(float64(v), v.Symbol()), unit.Write(float64(low), low.Symbol()), unit.Write(float64(high), high.Symbol()))
	}
}
