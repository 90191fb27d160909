// Package rig is the one aggregate of Largo: the devices of a job, what is
// plugged into what, and how each is set. It is drawn once; loads, limits and
// orders are derived from it by the stages and never stored in it.
//
// A Rig is a value. It changes only through an [Edit], which gives a new Rig
// or an error and leaves the old one alone.
package rig

import (
	"maps"
	"slices"

	"largo/core/gear"
	"largo/core/unit"
)

// Rig is everything known of one job.
type Rig struct {
	Brief  Brief  `json:"brief"`
	Policy Policy `json:"policy"`
	// of parts that have their own
	Policies map[Part]Policy `json:"policies,omitempty"`
	Bridging School          `json:"bridging"`
	Limits   LimitPolicy     `json:"limits,omitempty"` // how low limiters are to stand
	Models   []gear.Model    `json:"models"`           // as of the day their devices were added
	Places   []Place         `json:"places,omitempty"`
	Switches []Switch        `json:"switches,omitempty"`
	Cases    []Case          `json:"cases,omitempty"`
	Supplies []Supply        `json:"supplies,omitempty"`
	People   []Person        `json:"people,omitempty"`
	Devices  []Device        `json:"devices"`
	Links    []Link          `json:"links"`
	Order    []string        `json:"order,omitempty"` // switches in the crew's own order; empty: derived
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

// LimitPolicy is how low the long-term limiters of a rig stand: practitioners differ by what
// the rating is worth, who listens and how long.
type LimitPolicy string

// The policies; the zero one is the whole rating, or what a thermal test found where that
// is less.
const (
	WholeRating   LimitPolicy = ""
	HalfRating    LimitPolicy = "half the rating"
	QuarterRating LimitPolicy = "a quarter of the rating"
)

// LimitPolicies lists the choices.
var LimitPolicies = []LimitPolicy{WholeRating, HalfRating, QuarterRating}

// Part is the part of the rating's power.
func (p LimitPolicy) Part() float64 {
	switch p {
	case HalfRating:
		return 0.5
	case QuarterRating:
		return 0.25
	}
	return 1
}

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

// Device is one device of the rig, with the settings of its kind.
type Device struct {
	Tag    string        `json:"tag"` // as written on its tape; unique in the rig
	Model  string        `json:"model"`
	Place  string        `json:"place,omitempty"`  // a place of the rig
	Switch string        `json:"switch,omitempty"` // a switch of the rig, that it shares with others; empty: its own
	Case   string        `json:"case,omitempty"`   // a case of the rig, that it is a part of
	Outlet string        `json:"outlet,omitempty"` // a supply of the rig, that it is plugged into
	Lifted bool          `json:"lifted,omitempty"` // its protective earth, by an adapter, a loose tail or a cut pin
	Spot   *Spot         `json:"spot,omitempty"`   // on the drawing; nil: it finds its own
	Amp    *AmpSettings  `json:"amplifier,omitempty"`
	Box    *BoxSettings  `json:"loudspeaker,omitempty"`
	Desk   *DeskSettings `json:"mixer,omitempty"`
	Ports  []PortSetting `json:"ports,omitempty"` // how its ports are set
}

// AmpSettings are how an amplifier is set, and what was read at it.
type AmpSettings struct {
	Pairs    []Pair    `json:"pairs,omitempty"` // by pair of channels
	Knobs    []Knob    `json:"knobs,omitempty"`
	Limiters []Limiter `json:"limiters,omitempty"` // of its outputs
	Readings []Reading `json:"readings,omitempty"` // of the lines on its outputs
}

// BoxSettings are whom a loudspeaker is for, and how it is set.
type BoxSettings struct {
	Aim      Aim                    `json:"aim,omitempty"`
	Distance unit.Given[unit.Metre] `json:"distance,omitzero"` // to them
	Poles    int                    `json:"poles,omitempty"`   // that its selector puts it on; 0: the first pair
}

// DeskSettings are how a mixer is set.
type DeskSettings struct {
	Phantom []string `json:"phantom,omitempty"` // inputs that give phantom power
}

// Aim is the area of listeners whom a loudspeaker is for: the main audience, the
// stage, or one of a name of its own, as "balcony".
type Aim string

// The aims that have no name of their own; the zero Aim is the main audience.
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

// Knob is the position of a level control on record.
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
	Pad     unit.Given[unit.Decibel]          `json:"pad,omitzero"`  // what a pad in it takes away
	// models of the made-up leads it is joined from, from the output on
	Cables []string `json:"cables,omitempty"`
	Via    string   `json:"via,omitempty"` // the stage box or multicore that it runs in
	// the input whose lead it shares: one lead of four conductors carries two
	// channels, and is there once
	Rides Ref `json:"rides,omitzero"`
}

// references visits every place of a link that names a device by its tag. A new
// field that does belongs here: renaming and removing follow it.
func (k *Link) references(visit func(tag *string)) {
	visit(&k.From.Device)
	visit(&k.To.Device)
	visit(&k.Via)
	visit(&k.Rides.Device)
}

// tags visits every place of the rig but the devices themselves that names one by its tag.
func (r *Rig) tags(visit func(tag *string)) {
	for i := range r.Links {
		r.Links[i].references(visit)
	}
	for i := range r.Supplies {
		visit(&r.Supplies[i].Gear)
	}
}

// amp are the settings of an amplifier to be read, empty where nothing is set.
func (d *Device) amp() AmpSettings {
	if d.Amp == nil {
		return AmpSettings{}
	}
	return *d.Amp
}

// setAmp changes the settings of an amplifier.
func (d *Device) setAmp(change func(*AmpSettings)) {
	own := d.amp()
	change(&own)
	if d.Amp = &own; len(own.Pairs)+len(own.Knobs)+len(own.Limiters)+len(own.Readings) == 0 {
		d.Amp = nil
	}
}

// setBox says whom a loudspeaker is for.
func (d *Device) setBox(b BoxSettings) {
	if d.Box = &b; b == (BoxSettings{}) {
		d.Box = nil
	}
}

// setDesk changes the settings of a mixer.
func (d *Device) setDesk(change func(*DeskSettings)) {
	own := DeskSettings{Phantom: slices.Clone(d.phantom())}
	change(&own)
	if d.Desk = &own; len(own.Phantom) == 0 {
		d.Desk = nil
	}
}

// Aim is whom a loudspeaker is for: the audience unless said.
func (d *Device) Aim() Aim {
	if d.Box == nil {
		return Audience
	}
	return d.Box.Aim
}

// Distance is how far those whom a loudspeaker is for are from it.
func (d *Device) Distance() unit.Given[unit.Metre] {
	if d.Box == nil {
		return unit.Given[unit.Metre]{}
	}
	return d.Box.Distance
}

// Poles is the pair of poles that a box of one way listens on: the first unless its
// selector puts it on another.
func (d *Device) Poles() int {
	if d.Box == nil {
		return 1
	}
	return max(1, d.Box.Poles)
}

// Change is the edit that leaves a device as it is, for changing some of it.
func (d *Device) Change() ChangeDevice {
	e := ChangeDevice{Tag: d.Tag, NewTag: d.Tag, Place: d.Place, Switch: d.Switch}
	if d.Box != nil {
		e.Aim, e.Distance, e.Poles = d.Box.Aim, d.Box.Distance, d.Box.Poles
	}
	return e
}

// OwnSwitch is the edit that gives a device a switch of its own.
func (d *Device) OwnSwitch() ChangeDevice {
	e := d.Change()
	e.Switch = ""
	return e
}

// PairSetting gives how a pair is set: separate in and out unless said.
func (d *Device) PairSetting(pair int) Pair {
	p := Pair{gear.Separate, SeparateIn}
	if pairs := d.amp().Pairs; pair < len(pairs) {
		if pairs[pair].Output != "" {
			p.Output = pairs[pair].Output
		}
		if pairs[pair].Input != "" {
			p.Input = pairs[pair].Input
		}
	}
	return p
}

// setPair sets a pair of channels of an amplifier.
func (d *Device) setPair(pair int, set Pair) {
	d.setAmp(func(a *AmpSettings) {
		a.Pairs = slices.Clone(a.Pairs)
		for len(a.Pairs) <= pair {
			a.Pairs = append(a.Pairs, Pair{gear.Separate, SeparateIn})
		}
		a.Pairs[pair] = set
	})
}

// Limiter finds what was set for an output.
func (d *Device) Limiter(port string) (Limiter, bool) {
	for _, l := range d.amp().Limiters {
		if l.Port == port {
			return l, true
		}
	}
	return Limiter{}, false
}

func (d *Device) phantom() []string {
	if d.Desk == nil {
		return nil
	}
	return d.Desk.Phantom
}

// GivesPhantom tells whether an input of a mixer gives phantom power.
func (d *Device) GivesPhantom(port string) bool { return slices.Contains(d.phantom(), port) }

// Reading is what was read across the line of an output.
func (d *Device) Reading(port string) unit.Given[unit.DC] {
	for _, r := range d.amp().Readings {
		if r.Port == port {
			return unit.From(r.DC, "measured")
		}
	}
	return unit.Given[unit.DC]{}
}

// Knob is how far a channel's level control stands below fully up in dB, false
// where its position is not on record.
func (d *Device) Knob(channel int) (unit.Decibel, bool) {
	for _, k := range d.amp().Knobs {
		if k.Channel == channel {
			return k.Down, true
		}
	}
	return 0, false
}

// SwitchName is the switch that wakes the device: one that it shares, that of the
// case it is a part of, or its own.
func (d *Device) SwitchName() string {
	switch {
	case d.Switch != "":
		return d.Switch
	case d.Case != "":
		return d.Case
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
// original. Models are shared: they are never changed in place; so are the lists
// within settings, which an edit replaces.
func (r Rig) Clone() Rig {
	r.Models = slices.Clone(r.Models)
	r.Places, r.Switches, r.Cases = slices.Clone(r.Places), slices.Clone(r.Switches), slices.Clone(r.Cases)
	r.Supplies, r.People = slices.Clone(r.Supplies), slices.Clone(r.People)
	r.Links = slices.Clone(r.Links)
	r.Order = slices.Clone(r.Order)
	r.Policies = maps.Clone(r.Policies)
	r.Devices = slices.Clone(r.Devices)
	return r
}
