package rig

import (
	"largo/core/gear"
	"largo/core/unit"
)

// V1 is a rig as largo-rig/1 holds it, which is read for good: a device carries the
// settings of every kind, and places and shared switches are words.
type V1 struct {
	Brief    Brief        `json:"brief"`
	Policy   Policy       `json:"policy"`
	Bridging School       `json:"bridging"`
	Models   []gear.Model `json:"models"`
	Devices  []DeviceV1   `json:"devices"`
	Links    []Link       `json:"links"`
	Order    []string     `json:"order,omitempty"`
}

// DeviceV1 is a device of a V1.
type DeviceV1 struct {
	Tag      string                 `json:"tag"`
	Model    string                 `json:"model"`
	Place    string                 `json:"place,omitempty"`
	Switch   string                 `json:"switch,omitempty"`
	Aim      Aim                    `json:"aim,omitempty"`
	Distance unit.Given[unit.Metre] `json:"distance,omitzero"`
	Pairs    []Pair                 `json:"pairs,omitempty"`
	Knobs    []Knob                 `json:"knobs,omitempty"`
	Limiters []Limiter              `json:"limiters,omitempty"`
	Readings []Reading              `json:"readings,omitempty"`
	Phantom  []string               `json:"phantom,omitempty"`
	Spot     *Spot                  `json:"spot,omitempty"`
}

// Rig is the same rig as it is held today, not checked yet. Whom anything but a
// loudspeaker was said to be for never meant anything, and is left out.
func (v V1) Rig() Rig {
	r := Rig{Brief: v.Brief, Policy: v.Policy, Bridging: v.Bridging, Models: v.Models, Links: v.Links, Order: v.Order}
	boxes := make(map[string]bool, len(v.Models))
	for _, m := range v.Models {
		boxes[m.ID] = m.Kind == gear.KindLoudspeaker
	}
	for _, old := range v.Devices {
		d := Device{Tag: old.Tag, Model: old.Model, Place: old.Place, Switch: old.Switch, Spot: old.Spot}
		d.setAmp(func(a *AmpSettings) { *a = AmpSettings{old.Pairs, old.Knobs, old.Limiters, old.Readings} })
		d.setDesk(func(s *DeskSettings) { s.Phantom = old.Phantom })
		if boxes[old.Model] {
			d.setBox(BoxSettings{Aim: old.Aim, Distance: old.Distance})
		}
		r.Devices = append(r.Devices, d)
	}
	r.settle()
	return r
}
