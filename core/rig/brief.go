package rig

import (
	"time"

	"largo/core/fault"
	"largo/core/unit"
)

// Brief is what the job asks for.
type Brief struct {
	Title     string                   `json:"title"`
	Place     string                   `json:"place,omitempty"`
	Date      string                   `json:"date,omitempty"`      // 2006-01-02
	Listeners int                      `json:"listeners,omitempty"` // 0: not known
	Outdoors  bool                     `json:"outdoors,omitempty"`
	Programme Programme                `json:"programme,omitempty"`
	Wanted    unit.Given[unit.Decibel] `json:"wanted,omitzero"` // Leq where it is read
	Weighting Weighting                `json:"weighting,omitempty"`
	WantedBy  string                   `json:"wantedBy,omitempty"` // who set it
	Distance  unit.Given[unit.Metre]   `json:"distance,omitzero"`  // from the main boxes to where it is read
	// of the room; outdoors there is none
	Volume        unit.Given[unit.CubicMetre] `json:"volume,omitzero"`
	Reverberation unit.Given[unit.Second]     `json:"reverberation,omitzero"`
	Noise         unit.Given[unit.Decibel]    `json:"noise,omitzero"` // of the empty room, dB(A)
	Region        Region                      `json:"region,omitempty"`
	Mains         string                      `json:"mains,omitempty"` // circuits on site, in words
	Lasts         unit.Given[unit.Second]     `json:"lasts,omitzero"`  // the show, sound check to end
	Crest         unit.Given[unit.Decibel]    `json:"crest,omitzero"`  // of the programme, as a recording has it
	Air           unit.Given[unit.Celsius]    `json:"air,omitzero"`    // of the place, at the show
	Humidity      unit.Given[unit.Ratio]      `json:"humidity,omitzero"`
	Arrives       unit.Given[unit.Celsius]    `json:"arrives,omitzero"` // the gear, out of its vehicle or store
	Altitude      unit.Given[unit.Metre]      `json:"altitude,omitzero"`
}

// Programme is what is to be heard.
type Programme string

// The programmes.
const (
	Speech   Programme = "speech"
	Music    Programme = "music"
	LowMusic Programme = "music with low end"
)

// Programmes lists the choices.
var Programmes = []Programme{Speech, Music, LowMusic}

// Weighting is how the wanted level is read; A unless said.
type Weighting string

// The weightings. C hears the low end, A hardly does.
const (
	WeightA Weighting = ""
	WeightC Weighting = "C"
)

// Leq is the wanted level's name, as "LAeq".
func (w Weighting) Leq() string {
	if w == WeightC {
		return "LCeq"
	}
	return "LAeq"
}

// NewRig is an empty rig of a job, under the usual policy and school.
func NewRig(b Brief) Rig { return Rig{Brief: b, Policy: Headroom, Bridging: AsRated} }

func (b Brief) check() fault.List {
	var l fault.List
	l.CheckName("title", "The title", b.Title, 120, true)
	l.CheckName("place", "The place", b.Place, 120, false)
	l.CheckName("wantedBy", "Who set the level", b.WantedBy, 120, false)
	l.CheckName("mains", "The mains on site", b.Mains, 200, false)
	if b.Date != "" {
		if _, err := time.Parse("2006-01-02", b.Date); err != nil {
			l.Add("date", "%.20q is not a date; write it as 2027-06-12.", b.Date)
		}
	}
	if b.Listeners < 0 || b.Listeners > 200000 {
		l.Add("listeners", "%d listeners cannot be right: give 1 to 200000, or leave it empty.", b.Listeners)
	}
	if v, known := b.Wanted.Get(); known && (v < 40 || v > 130) {
		l.Add("wanted", "A wanted level of %s cannot be right: give 40 to 130 dB.", v)
	}
	if v, known := b.Distance.Get(); known && (v < 0.5 || v > 500) {
		l.Add("distance", "A distance of %s cannot be right: give 0.5 m to 500 m.", v)
	}
	if v, known := b.Volume.Get(); known && (v < 20 || v > 2e6) {
		l.Add("volume", "A room of %s cannot be right: give 20 m³ to 2000000 m³.", v)
	}
	if v, known := b.Reverberation.Get(); known && (v < 0.1 || v > 15) {
		l.Add("reverberation", "A reverberation time of %s cannot be right: give 0.1 s to 15 s.", v)
	}
	if v, known := b.Noise.Get(); known && (v < 10 || v > 90) {
		l.Add("noise", "An empty room of %s cannot be right: give 10 to 90 dB(A).", v)
	}
	if v, known := b.Lasts.Get(); known && (v < 60 || v > 14*86400) {
		l.Add("lasts", "A show of %s cannot be right: give a minute to a fortnight.", v)
	}
	if v, known := b.Crest.Get(); known && (v < 3 || v > 30) {
		l.Add("crest", "A programme of %s of crest cannot be right: give 3 to 30 dB.", v)
	}
	if v, known := b.Air.Get(); known && (v < -40 || v > 60) {
		l.Add("air", "Air of %s cannot be right: give -40 to 60 °C.", v)
	}
	if v, known := b.Arrives.Get(); known && (v < -40 || v > 60) {
		l.Add("arrives", "Gear of %s cannot be right: give -40 to 60 °C.", v)
	}
	if v, known := b.Humidity.Get(); known && (v < 0.02 || v > 1) {
		l.Add("humidity", "A humidity of %s cannot be right: give 2 to 100 %%.", v)
	}
	if v, known := b.Altitude.Get(); known && (v < -430 || v > 6000) {
		l.Add("altitude", "A place at %s cannot be right: give -430 to 6000 m.", v)
	}
	oneOf(&l, "weighting", b.Weighting, []Weighting{WeightC})
	oneOf(&l, "programme", b.Programme, Programmes)
	oneOf(&l, "region", b.Region, Regions)
	return l
}

func oneOf[T ~string](l *fault.List, field string, got T, choices []T) {
	if got == "" {
		return
	}
	for _, c := range choices {
		if got == c {
			return
		}
	}
	l.Add(field, "%.40q is not one of the choices.", got)
}
