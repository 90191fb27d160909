// Package gear is what a device is: the ratings, ports and habits that its
// maker prints or a technician measures, and the sums that need nothing but
// them. One file a kind.
//
// Unknown stays unknown: every figure that a sheet may leave out is a
// unit.Given, and each sum says what it lacked and what it assumed.
package gear

import (
	"fmt"
	"reflect"
	"regexp"
	"slices"
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
	KindMicrophone  Kind = "microphone"
	KindReceiver    Kind = "receiver" // of radio microphones
	KindDI          Kind = "DI"
	KindStageBox    Kind = "stage box"
	KindSwitch      Kind = "network switch"
	KindGenerator   Kind = "generator"
	KindBattery     Kind = "battery" // that gives mains
	KindTransformer Kind = "transformer"
	KindDistro      Kind = "distro"
	KindConditioner Kind = "conditioner"
	KindSequencer   Kind = "power sequencer"
	KindCable       Kind = "cable"
	KindAppliance   Kind = "appliance" // takes mains and makes no sound
)

// Kinds lists all kinds in the order in which signal meets them, then what
// carries it, then what feeds them all.
var Kinds = []Kind{KindMicrophone, KindReceiver, KindSource, KindDI, KindMixer, KindProcessor, KindAmplifier,
	KindLoudspeaker,
	KindStageBox, KindSwitch, KindCable, KindGenerator, KindBattery, KindTransformer, KindDistro, KindConditioner,
	KindSequencer,
	KindAppliance}

// Supplies tells whether a device of the kind passes mains on.
func (k Kind) Supplies() bool {
	switch k {
	case KindGenerator, KindBattery, KindTransformer, KindDistro, KindConditioner, KindSequencer:
		return true
	}
	return false
}

// Generates tells whether mains begins at a device of the kind.
func (k Kind) Generates() bool { return k == KindGenerator || k == KindBattery }

// Sends tells whether signal begins at a device of the kind.
func (k Kind) Sends() bool { return k == KindSource || k == KindMicrophone || k == KindReceiver }

// Answer is yes, no, or not known; the zero Answer is not known.
type Answer string

// The answers.
const (
	Yes Answer = "yes"
	No  Answer = "no"
)

// Model is a type of device. Exactly the part named by Kind is set.
type Model struct {
	ID     string                 `json:"id"`
	Kind   Kind                   `json:"kind"`
	Maker  string                 `json:"maker"`
	Name   string                 `json:"name"`
	Source string                 `json:"source,omitempty"` // where its figures come from
	Note   string                 `json:"note,omitempty"`
	Wake   Wake                   `json:"wake,omitzero"`
	Intake Intake                 `json:"intake,omitzero"`
	Body   Body                   `json:"body,omitzero"`
	Hire   unit.Given[unit.Money] `json:"hire,omitzero"` // what one costs for a job, where it can be hired

	Amplifier   *Amplifier   `json:"amplifier,omitempty"`
	Loudspeaker *Loudspeaker `json:"loudspeaker,omitempty"`
	Mixer       *Mixer       `json:"mixer,omitempty"`
	Processor   *Processor   `json:"processor,omitempty"`
	Feed        *Source      `json:"feed,omitempty"` // of a source, microphone or receiver
	DI          *DI          `json:"di,omitempty"`
	StageBox    *StageBox    `json:"stageBox,omitempty"`
	Switch      *Switch      `json:"switch,omitempty"`
	Supply      *Supply      `json:"supply,omitempty"` // of a generator, transformer, distro, conditioner or sequencer
	Cable       *Cable       `json:"cable,omitempty"`
	Appliance   *Appliance   `json:"appliance,omitempty"`
}

// Wake is how a device behaves when it is switched on and off.
type Wake struct {
	Settle   unit.Given[unit.Second] `json:"settle,omitzero"`    // from the switch until its outputs are quiet
	Proof    string                  `json:"proof,omitempty"`    // what is seen when it is up
	Switch   string                  `json:"switch,omitempty"`   // where its switch is, as "rear rocker"
	Shutdown string                  `json:"shutdown,omitempty"` // its own way to be shut down
	Drain    unit.Given[unit.Second] `json:"drain,omitzero"`     // from the switch until its outputs are dead
	// what its outputs send when it wakes and when it goes off, V peak, and how long after the
	// switch; with a relay that mutes them until it has settled they send none
	Kick      unit.Given[unit.Volt]   `json:"kick,omitzero"`
	KickAfter unit.Given[unit.Second] `json:"kickAfter,omitzero"`
	KickOff   unit.Given[unit.Volt]   `json:"kickOff,omitzero"`
	Mutes     Answer                  `json:"mutes,omitempty"`
	Roars     Answer                  `json:"roars,omitempty"`   // a receiver, when its transmitter goes
	Network   int                     `json:"network,omitempty"` // data sockets: it boots over them
	Sleeps    unit.Given[unit.Second] `json:"sleeps,omitzero"`   // of silence, until it goes into standby by itself
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
	case KindSource, KindReceiver:
		m.Feed = &Source{}
	case KindMicrophone:
		m.Feed = &Source{Outputs: []Outlet{{Name: "out", Signal: Mic, Connector: XLR, Balanced: Yes}}}
	case KindDI:
		m.DI = &DI{Channels: 1}
	case KindStageBox:
		m.StageBox = &StageBox{Lines: 8}
	case KindSwitch:
		m.Switch = &Switch{Sockets: 8}
	case KindCable:
		m.Cable = &Cable{Sort: MicCable}
	case KindGenerator, KindBattery, KindTransformer, KindDistro, KindConditioner, KindSequencer:
		m.Supply = &Supply{Outlets: 1}
	case KindAppliance:
		m.Appliance = &Appliance{}
	default:
		return m, false
	}
	return m, true
}

// Clone copies a model so deeply that a change of the copy cannot be seen in
// the original.
func (m Model) Clone() Model {
	m.Intake.Table = slices.Clone(m.Intake.Table)
	m.Amplifier, m.Loudspeaker, m.Mixer, m.Processor = twin(m.Amplifier), twin(m.Loudspeaker), twin(m.Mixer),
		twin(m.Processor)
	m.Feed, m.DI, m.StageBox, m.Switch, m.Supply, m.Cable = twin(m.Feed), twin(m.DI), twin(m.StageBox), twin(m.Switch),
		twin(m.Supply), twin(m.Cable)
	m.Appliance = twin(m.Appliance)
	if a := m.Amplifier; a != nil {
		a.Ratings, a.Bridging.Pairs = slices.Clone(a.Ratings), slices.Clone(a.Bridging.Pairs)
	}
	if s := m.Loudspeaker; s != nil {
		s.Drive, s.Response, s.Ways = s.Drive.clone(), slices.Clone(s.Response), slices.Clone(s.Ways)
		for i := range s.Ways {
			s.Ways[i].Drive = s.Ways[i].Drive.clone()
		}
	}
	if m.Mixer != nil {
		m.Mixer.Outputs = slices.Clone(m.Mixer.Outputs)
	}
	if m.Processor != nil {
		m.Processor.Outputs = slices.Clone(m.Processor.Outputs)
	}
	if m.Feed != nil {
		m.Feed.Outputs = slices.Clone(m.Feed.Outputs)
	}
	return m
}

func (s Drive) clone() Drive {
	s.Impedance, s.Driver = slices.Clone(s.Impedance), twin(s.Driver)
	return s
}

func twin[T any](part *T) *T {
	if part == nil {
		return nil
	}
	copied := *part
	return &copied
}

// notInID is whatever an id does without.
var notInID = regexp.MustCompile(`[^\p{L}\p{N}]+`)

// IDOf makes the id of a new model.
func IDOf(maker, name string) string {
	id := strings.Trim(notInID.ReplaceAllString(strings.ToLower(maker+" "+name), "-"), "-")
	if id == "" {
		id = "model"
	}
	return id
}

// Equal tells whether two models have the same figures, from the same sources.
func (m Model) Equal(of Model) bool { return reflect.DeepEqual(m, of) }

// Title is maker and name.
func (m Model) Title() string { return m.Maker + " " + m.Name }

// Powered tells whether the device has a mains switch or supply of its own.
func (m Model) Powered() bool {
	switch m.Kind {
	case KindLoudspeaker:
		return m.Loudspeaker.Active
	case KindSource, KindMicrophone, KindReceiver:
		return m.Feed.Powered
	case KindMixer, KindProcessor, KindAmplifier, KindSwitch, KindAppliance:
		return true
	case KindStageBox: // one that sends over a network
		return m.Wake.Network > 0
	}
	return false
}

// Switched tells whether the device has to be switched on: whatever is powered, a
// generator, which has to be started, and what passes mains on by a switch of its
// own.
func (m *Model) Switched() bool {
	switch m.Kind {
	case KindGenerator, KindBattery, KindSequencer:
		return true
	case KindDistro, KindConditioner, KindTransformer:
		return m.Wake.Switch != ""
	case KindAppliance: // no part of the sound's order
		return false
	}
	return m.Powered()
}

// MakesSound tells whether a waking or settling signal at its input is heard:
// amplifiers, active loudspeakers, and whatever else has a speaker output.
func (m *Model) MakesSound() bool {
	switch m.Kind {
	case KindAmplifier:
		return true
	case KindLoudspeaker:
		return m.Loudspeaker.Active
	case KindMixer:
		return slices.ContainsFunc(m.Mixer.Outputs, func(o Outlet) bool { return o.Signal == Speaker })
	}
	return m.Feed != nil && slices.ContainsFunc(m.Feed.Outputs, func(o Outlet) bool { return o.Signal == Speaker })
}

// Signal is the level class a port carries.
type Signal string

// The signals.
const (
	Mic     Signal = "microphone"
	Line    Signal = "line"
	Speaker Signal = "speaker"
	Mains   Signal = "mains"
	Data    Signal = "data"
)

// Audio tells whether a signal is heard in the end.
func (s Signal) Audio() bool { return s == Mic || s == Line || s == Speaker }

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
	Name      string
	Signal    Signal
	Dir       Direction
	Connector Connector
	Balanced  Answer
	Phantom   Phantom // of a microphone-level output
	Poles     int     // the pair of poles of a loudspeaker's socket, from 1; 0 elsewhere
	Way       string  // what that pair drives, where a box has several ways
}

// MainsPort is the mains inlet of whatever has one.
const MainsPort = "mains"

// Ports lists the connectors of a model: the inputs, the outputs, and the
// mains inlet of what is powered.
func (m Model) Ports() []Port {
	ports := m.signalPorts()
	if m.Powered() {
		ports = append(ports, Port{Name: MainsPort, Signal: Mains, Dir: In})
	}
	for i := range m.Wake.Network {
		ports = append(ports, Port{Name: fmt.Sprintf("network %d", i+1), Signal: Data, Dir: In, Connector: DataSocket})
	}
	return ports
}

func (m Model) signalPorts() []Port {
	switch m.Kind {
	case KindAmplifier:
		return m.Amplifier.ports()
	case KindLoudspeaker:
		return m.Loudspeaker.ports()
	case KindMixer:
		return m.Mixer.ports()
	case KindProcessor:
		return m.Processor.ports()
	case KindSource, KindMicrophone, KindReceiver:
		return outlets(m.Feed.Outputs)
	case KindDI:
		return m.DI.ports()
	case KindSwitch:
		return m.Switch.ports()
	case KindGenerator, KindBattery:
		return m.Supply.ports(false)
	case KindTransformer, KindDistro, KindConditioner, KindSequencer:
		return m.Supply.ports(true)
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
	l.AddAll("", checkRows(&m, identityRows))
	l.CheckName("id", "The id", m.ID, 80, true)
	l.AddAll("wake", checkRows(&m.Wake, wakeRows))
	l.AddAll("", checkRows(&m, hireRows))
	l.AddAll("intake", m.Intake.check())
	l.AddAll("body", m.Body.check())
	if !slices.Contains(Kinds, m.Kind) {
		l.Add("kind", "%.30q is not a kind of gear.", m.Kind)
		return l.Err()
	}
	if n, own := m.parts(); n != 1 || !own {
		l.Add("kind", "A model of kind %q must describe that kind of gear and nothing else.", m.Kind)
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
	case KindSource, KindMicrophone, KindReceiver:
		l.AddAll("feed", checkOutlets(m.Feed.Outputs))
	case KindDI:
		l.AddAll("di", m.DI.check())
	case KindStageBox:
		l.AddAll("stageBox", m.StageBox.check())
	case KindSwitch:
		l.AddAll("switch", m.Switch.check())
	case KindCable:
		l.AddAll("cable", m.Cable.check())
	case KindAppliance:
		l.AddAll("appliance", m.Appliance.check())
	default:
		l.AddAll("supply", m.Supply.check())
	}
	return l.Err()
}

// parts counts the parts that a model describes, and tells whether the one
// its kind needs is among them.
func (m Model) parts() (n int, own bool) {
	for _, part := range []struct{ present, own bool }{
		{m.Amplifier != nil, m.Kind == KindAmplifier}, {m.Loudspeaker != nil, m.Kind == KindLoudspeaker},
		{m.Mixer != nil, m.Kind == KindMixer}, {m.Processor != nil, m.Kind == KindProcessor},
		{m.Feed != nil, m.Kind.Sends()}, {m.DI != nil, m.Kind == KindDI}, {m.StageBox != nil, m.Kind == KindStageBox},
		{m.Switch != nil, m.Kind == KindSwitch}, {m.Cable != nil, m.Kind == KindCable}, {m.Supply != nil, m.Kind.Supplies()},
		{m.Appliance != nil, m.Kind == KindAppliance},
	} {
		if part.present {
			n, own = n+1, own || part.own
		}
	}
	return n, own
}

// within faults a known figure outside what such gear can have.
func within[T unit.Quantity](l *fault.List, field, what string, g unit.Given[T], low, high T) {
	v, known := g.Get()
	if known && (v < low || v > high) {
		l.Add(field, "%s of %s cannot be right: it should lie between %s and %s. Leave it empty if it is unknown.", what,
			unit.Write(float64(v), v.Symbol()), unit.Write(float64(low), low.Symbol()), unit.Write(float64(high), high.Symbol()))
	}
}
