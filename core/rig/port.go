package rig

import (
	"fmt"
	"slices"
	"strings"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/unit"
)

// PortSetting is how a port is set: the gain of a microphone input less its pad, the fader
// of an output, the trim of an active box, the low cut of a channel, how loud it gets at a
// microphone.
type PortSetting struct {
	Port   string                   `json:"port"`
	Gain   unit.Given[unit.Decibel] `json:"gain,omitzero"`   // of an input its gain, of an output its fader, 0 unity
	LowCut unit.Given[unit.Hertz]   `json:"lowCut,omitzero"` // of an input of a mixer
	Kind   SourceKind               `json:"kind,omitempty"`  // of what plays into an input of a mixer
	// Peak is the highest that a source sends: dB SPL at a microphone, dBu from a line.
	Peak unit.Given[unit.Decibel] `json:"peak,omitzero"`
}

// SourceKind is a kind of sound source.
type SourceKind string

// The kinds of sources.
const (
	Voice    SourceKind = "voice"
	LowVoice SourceKind = "low voice"
	Guitar   SourceKind = "guitar"
	Keys     SourceKind = "keys"
	Strings  SourceKind = "strings"
	Winds    SourceKind = "winds"
	Bass     SourceKind = "bass"
	Kick     SourceKind = "kick"
	Drums    SourceKind = "drums"
	Cymbals  SourceKind = "cymbals"
	Playback SourceKind = "playback"
)

// SourceKinds are all of them.
var SourceKinds = []SourceKind{Voice, LowVoice, Guitar, Keys, Strings, Winds, Bass, Kick, Drums, Cymbals, Playback}

// Bounds of a port's settings.
const (
	leastGain, mostGain unit.Decibel = -100, 80
	leastPeak, mostPeak unit.Decibel = -60, 170
	leastCut, mostCut   unit.Hertz   = 10, 2000
)

// PortSetting is how a port of the device is set; nothing of it where nobody said.
func (d *Device) PortSetting(port string) PortSetting {
	for _, s := range d.Ports {
		if s.Port == port {
			return s
		}
	}
	return PortSetting{Port: port}
}

// SetPort records how a port is set; one of which nothing is left is forgotten.
type SetPort struct {
	Tag string      `json:"tag"`
	Set PortSetting `json:"set"`
}

// Say tells what the edit does.
func (e SetPort) Say() string {
	var parts []string
	if e.Set.Gain.Known() {
		parts = append(parts, e.Set.Gain.Or(0).Signed())
	}
	if e.Set.LowCut.Known() {
		parts = append(parts, "low cut "+e.Set.LowCut.String())
	}
	if e.Set.Kind != "" {
		parts = append(parts, string(e.Set.Kind))
	}
	if e.Set.Peak.Known() {
		parts = append(parts, "peaks of "+e.Set.Peak.String())
	}
	if len(parts) == 0 {
		return "Forgot how " + e.Tag + " " + e.Set.Port + " is set"
	}
	return fmt.Sprintf("%s %s: %s", e.Tag, e.Set.Port, strings.Join(parts, ", "))
}

func (e SetPort) change(r *Rig) error {
	i, err := r.mustFind(e.Tag)
	if err != nil {
		return err
	}
	d := &r.Devices[i]
	d.Ports = without(d.Ports, func(s PortSetting) bool { return s.Port == e.Set.Port })
	if e.Set != (PortSetting{Port: e.Set.Port}) {
		d.Ports = append(d.Ports, e.Set)
	}
	for j := range r.Models {
		if r.Models[j].ID == d.Model {
			var l fault.List
			if d.checkPort(&l, &r.Models[j], e.Set); len(l) > 0 {
				return l
			}
		}
	}
	return nil
}

// checkPorts faults settings of ports that a device does not have, or that cannot be.
func (d *Device) checkPorts(l *fault.List, m *gear.Model) {
	var seen []string
	for _, s := range d.Ports {
		if slices.Contains(seen, s.Port) {
			l.Add("ports", "%s %.30q is set twice.", d.Tag, s.Port)
		}
		seen = append(seen, s.Port)
		d.checkPort(l, m, s)
	}
}

func (d *Device) checkPort(l *fault.List, m *gear.Model, s PortSetting) {
	p, there := m.Port(s.Port)
	cut, isCut := s.LowCut.Get()
	gain, isGain := s.Gain.Get()
	peak, isPeak := s.Peak.Get()
	atDesk := m.Mixer != nil && p.Dir == gear.In
	switch {
	case !there || p.Signal == gear.Speaker && !(m.Loudspeaker != nil && m.Loudspeaker.Active):
		l.Add("port", "%s has no %.30q that is set.", d.Tag, s.Port)
	case isGain && !(gain >= leastGain && gain <= mostGain):
		l.Add("gain", "A gain of %s cannot be: %s to %s.", gain, leastGain, mostGain)
	case isCut && !(cut >= leastCut && cut <= mostCut):
		l.Add("lowCut", "A low cut at %s cannot be: %s to %s.", cut, leastCut, mostCut)
	case isPeak && !(peak >= leastPeak && peak <= mostPeak):
		l.Add("peak", "Peaks of %s cannot be: %s to %s.", peak, leastPeak, mostPeak)
	case (isCut || s.Kind != "") && !atDesk:
		l.Add("lowCut", "Low cut and kind of source are those of an input of a mixer, not of %s %.30q.", d.Tag, s.Port)
	case isPeak && (m.Feed == nil || p.Dir != gear.Out):
		l.Add("peak", "Peaks are those of a source's output, not of %s %.30q.", d.Tag, s.Port)
	}
	oneOf(l, "kind", s.Kind, SourceKinds)
}
