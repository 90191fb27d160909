// Package rig is the one aggregate of Largo: the devices of a job, what is
// plugged into what, and how each is set. It is drawn once; loads, limits and
// orders are derived from it by the stages and never stored in it.
//
// A Rig is a value. It changes only through an [Edit], which gives a new Rig
// or an error and leaves the old one alone.
package rig

import (
	"slices"

	"largo/core/gear"
	"largo/core/unit"
)

// Rig is everything known of one job.
type Rig struct {
	Brief    Brief        `json:"brief"`
	Policy   Policy       `json:"policy"`
	Bridging School       `json:"bridging"`
	Models   []gear.Model `json:"models"` // as of the day their devices were added
	Devices  []Device     `json:"devices"`
	Links    []Link       `json:"links"`
	Order    []string     `json:"order,omitempty"` // switches in the crew's own order; empty: derived
}

// Policy is how much amplifier a loudspeaker is given.
type Policy string

// The policies; practitioners disagree, so the technician chooses.
const (
	Within     Policy = "within"      // at or under the continuous rating
	TenthOver  Policy = "tenth over"  // 1.0 to 1.1 times
	Headroom   Policy = "headroom"    // up to twice, with limiters set and someone listening
	LevelFirst Policy = "level first" // whatever gives the level, within the rating
)

// Policies lists the choices.
var Policies = []Policy{Within, TenthOver, Headroom, LevelFirst}

// School is when two channels may be bridged; practitioners disagree here too.
type School string

// The schools.
const (
	Never   School = "never"
	AsRated School = "as the maker rates it"
	Freely  School = "freely where the evidence allows"
)

// Schools lists the choices.
var Schools = []School{Never, AsRated, Freely}

// Device is one physical box.
type Device struct {
	Tag      string                 `json:"tag"` // as written on its tape; unique in the rig
	Model    string                 `json:"model"`
	Place    string                 `json:"place,omitempty"`
	Switch   string                 `json:"switch,omitempty"`   // a switch that it shares with others; empty: its own
	Aim      Aim                    `json:"aim,omitempty"`      // of a loudspeaker
	Distance unit.Given[unit.Metre] `json:"distance,omitzero"`  // from a loudspeaker to whom it is for
	Pairs    []Pair                 `json:"pairs,omitempty"`    // of an amplifier, by pair of channels
	Knobs    []Knob                 `json:"knobs,omitempty"`    // of an amplifier
	Limiters []Limiter              `json:"limiters,omitempty"` // of an amplifier's outputs
	Readings []Reading              `json:"readings,omitempty"` // of the lines on an amplifier's outputs
	Phantom  []string               `json:"phantom,omitempty"`  // inputs of a mixer that give phantom power
	Spot     *Spot                  `json:"spot,omitempty"`     // on the drawing; nil: it finds its own
}

// Aim is whom a loudspeaker is for.
type Aim string

// The aims; the zero Aim is the audience.
const (
	Audience Aim = ""
	OnStage  Aim = "stage"
)

// Pair is how channels 2p and 2p+1 of an amplifier are set.
type Pair struct {
	Output gear.Mode `json:"output"`
	Input  InputMode `json:"input"`
}

// InputMode is what a pair of channels listens to.
type InputMode string

// The input modes.
const (
	SeparateIn InputMode = "separate"
	ParallelIn InputMode = "parallel" // both take the first channel's input
)

// Knob is a level control that is turned down.
type Knob struct {
	Channel int          `json:"channel"` // from 0
	Down    unit.Decibel `json:"down"`    // dB below fully up
}

// Limiter is what a limiter was set to, at the amplifier's output.
type Limiter struct {
	Port string                `json:"port"`
	RMS  unit.Given[unit.Volt] `json:"rms,omitzero"`
	Peak unit.Given[unit.Volt] `json:"peak,omitzero"`
}

// Reading is what an ohmmeter showed across a speaker line.
type Reading struct {
	Port string  `json:"port"`
	DC   unit.DC `json:"dc"`
}

// Ref is one port of one device.
type Ref struct {
	Device string `json:"device"`
	Port   string `json:"port"`
}

func (r Ref) String() string { return r.Device + " " + r.Port }

// Link is a cable from an output or link-through to an input.
type Link struct {
	From Ref `json:"from"`
	To   Ref `json:"to"`
	// links of one output with the same name are wired in series
	Series string `json:"series,omitempty"`
	// its two conductors are exchanged, as in a bridging lead
	Swapped bool                              `json:"swapped,omitempty"`
	Length  unit.Given[unit.Metre]            `json:"length,omitzero"`
	Area    unit.Given[unit.SquareMillimetre] `json:"area,omitzero"` // of a speaker lead's conductor
	// models of the made-up leads it is joined from, from the output on
	Cables []string `json:"cables,omitempty"`
	Via    string   `json:"via,omitempty"` // the stage box or multicore that it runs in
}

// references visits every place of a link that names a device by its tag. A new
// field that does belongs here: renaming and removing follow it.
func (k *Link) references(visit func(tag *string)) {
	visit(&k.From.Device)
	visit(&k.To.Device)
	visit(&k.Via)
}

// PairSetting gives how a pair is set: separate in and out unless said.
func (d Device) PairSetting(pair int) Pair {
	p := Pair{gear.Separate, SeparateIn}
	if pair < len(d.Pairs) {
		if d.Pairs[pair].Output != "" {
			p.Output = d.Pairs[pair].Output
		}
		if d.Pairs[pair].Input != "" {
			p.Input = d.Pairs[pair].Input
		}
	}
	return p
}

// Limiter finds what was set for an output.
func (d Device) Limiter(port string) (Limiter, bool) {
	for _, l := range d.Limiters {
		if l.Port == port {
			return l, true
		}
	}
	return Limiter{}, false
}

// GivesPhantom tells whether an input of a mixer gives phantom power.
func (d Device) GivesPhantom(port string) bool { return slices.Contains(d.Phantom, port) }

// Reading is what was read across the line of an output.
func (d Device) Reading(port string) unit.Given[unit.DC] {
	for _, r := range d.Readings {
		if r.Port == port {
			return unit.From(r.DC, "measured")
		}
	}
	return unit.Given[unit.DC]{}
}

// KnobDown is how far a channel's level control stands below fully up in dB.
func (d Device) KnobDown(channel int) unit.Decibel {
	for _, k := range d.Knobs {
		if k.Channel == channel {
			return k.Down
		}
	}
	return 0
}

// SwitchName is the switch that wakes the device: a shared one, or its own.
func (d Device) SwitchName() string {
	if d.Switch != "" {
		return d.Switch
	}
	return d.Tag
}

// Device finds a device by its tag.
func (r Rig) Device(tag string) (Device, bool) {
	if i := r.find(tag); i >= 0 {
		return r.Devices[i], true
	}
	return Device{}, false
}

func (r Rig) find(tag string) int {
	return slices.IndexFunc(r.Devices, func(d Device) bool { return d.Tag == tag })
}

// Model finds a model by its id.
func (r Rig) Model(id string) (*gear.Model, bool) {
	for i := range r.Models {
		if r.Models[i].ID == id {
			return &r.Models[i], true
		}
	}
	return nil, false
}

// Clone copies a rig so deeply that an edit of the copy cannot be seen in the
// original. Models are shared: they are never changed in place.
func (r Rig) Clone() Rig {
	r.Models = slices.Clone(r.Models)
	r.Links = slices.Clone(r.Links)
	r.Order = slices.Clone(r.Order)
	r.Devices = slices.Clone(r.Devices)
	for i := range r.Devices {
		d := &r.Devices[i]
		d.Pairs, d.Knobs = slices.Clone(d.Pairs), slices.Clone(d.Knobs)
		d.Limiters, d.Readings, d.Phantom = slices.Clone(d.Limiters), slices.Clone(d.Readings), slices.Clone(d.Phantom)
	}
	return r
}
