package gear

import (
	"fmt"
	"strings"

	"largo/core/fault"
	"largo/core/unit"
)

// ParseWays reads the ways of a box, one a line, as "low: 8 ohm, least 6.4 ohm,
// 400 W, 97 dB" or "high: 16 ohm, 60 W, 107 dB, high-pass 1.2 kHz, capacitor".
// What old ways of the same name know beyond such a line is kept. Each fault
// names the line that it is about.
func ParseWays(text string, old []Way) ([]Way, error) {
	var ways []Way
	var l fault.List
	line := 0
	for entry := range strings.SplitSeq(strings.ReplaceAll(text, "\r", ""), "\n") {
		if strings.TrimSpace(entry) == "" {
			continue
		}
		line++
		name, figures, _ := strings.Cut(entry, ":")
		w := Way{Name: strings.TrimSpace(name)}
		for _, before := range old {
			if before.Name == w.Name {
				w.Drive = before.Drive
			}
		}
		w.Drive.clear()
		for _, part := range entryEnd.Split(figures, -1) { // not at a decimal comma
			if err := w.Drive.read(strings.TrimSpace(part)); err != nil {
				l.Add("ways", "Line %d, %.30q: %s.", line, strings.TrimSpace(part), err)
			}
		}
		ways = append(ways, w)
	}
	return ways, l.Err()
}

// clear forgets what a line says, so that leaving it out makes it unknown.
func (d *Drive) clear() {
	d.Nominal, d.Least, d.Continuous, d.Programme, d.Peak = unit.Given[unit.Ohm]{}, unit.Given[unit.Ohm]{},
		unit.Given[unit.Watt]{}, unit.Given[unit.Watt]{}, unit.Given[unit.Watt]{}
	d.Sensitivity, d.SensitivityRef, d.HighPass, d.Blocked, d.Standard = unit.Given[unit.Decibel]{}, "",
		unit.Given[unit.Hertz]{}, "", ""
}

// read takes one figure of a line by its word and its unit.
func (d *Drive) read(part string) error {
	lower := strings.ToLower(part)
	word := func(w string) (string, bool) {
		i := indexFold(part, w)
		if i < 0 {
			return part, false
		}
		return strings.TrimSpace(part[:i] + part[i+len(w):]), true
	}
	for _, s := range Standards {
		if strings.EqualFold(part, s) {
			d.Standard = s
			return nil
		}
	}
	switch {
	case part == "":
		return nil
	case lower == "capacitor":
		d.Blocked = Yes
		return nil
	case lower == "for 1 w":
		d.SensitivityRef = OneWatt
		return nil
	case lower == "for 2.83 v":
		d.SensitivityRef = TwoPointEight
		return nil
	}
	if rest, ok := word("least"); ok {
		return take(&d.Least, unit.ParseOhm, rest)
	}
	if rest, ok := word("high-pass"); ok {
		return take(&d.HighPass, unit.ParseHertz, rest)
	}
	if rest, ok := word("programme"); ok {
		return take(&d.Programme, unit.ParseWatt, rest)
	}
	if rest, ok := word("peak"); ok {
		return take(&d.Peak, unit.ParseWatt, rest)
	}
	switch {
	case strings.HasSuffix(lower, "w") || strings.HasSuffix(lower, "watts"):
		return take(&d.Continuous, unit.ParseWatt, part)
	case strings.HasSuffix(lower, "db"):
		return take(&d.Sensitivity, unit.ParseDecibel, part)
	case strings.HasSuffix(lower, "ω") || strings.HasSuffix(lower, "ohm") || strings.HasSuffix(lower, "ohms"):
		return take(&d.Nominal, unit.ParseOhm, part)
	}
	return fmt.Errorf("write a way as low: 8 ohm, least 6.4 ohm, 400 W, 97 dB")
}

func take[T unit.Quantity](into *unit.Given[T], parse func(string) (T, error), text string) error {
	v, err := parse(text)
	if err == nil {
		*into = unit.Of(v)
	}
	return err
}

// Line writes a way as it is read.
func (w Way) Line() string {
	var parts []string
	add := func(known bool, text string) {
		if known {
			parts = append(parts, text)
		}
	}
	add(w.Nominal.Known(), exact(float64(w.Nominal.Or(0)))+" Ω")
	add(w.Least.Known(), "least "+exact(float64(w.Least.Or(0)))+" Ω")
	add(w.Continuous.Known(), exact(float64(w.Continuous.Or(0)))+" W")
	add(w.Standard != "", w.Standard)
	add(w.Programme.Known(), exact(float64(w.Programme.Or(0)))+" W programme")
	add(w.Peak.Known(), exact(float64(w.Peak.Or(0)))+" W peak")
	add(w.Sensitivity.Known(), exact(float64(w.Sensitivity.Or(0)))+" dB")
	add(w.SensitivityRef != "", "for "+w.SensitivityRef)
	add(w.HighPass.Known(), "high-pass "+exact(float64(w.HighPass.Or(0)))+" Hz")
	add(w.Blocked == Yes, "capacitor")
	return w.Name + ": " + strings.Join(parts, ", ")
}

// ParseOutlet reads an output from its parts: its name, then in any order its
// level, its connector, balanced or unbalanced, and what it makes of phantom
// power. The level may be left out for line.
func ParseOutlet(parts []string) (Outlet, error) {
	o := Outlet{Signal: Line}
	for i, part := range parts {
		part = strings.TrimSpace(part)
		switch {
		case i == 0:
			o.Name = part
		case part == "":
		case Signal(part).Audio():
			o.Signal = Signal(part)
		case part == "balanced":
			o.Balanced = Yes
		case part == "unbalanced":
			o.Balanced = No
		default:
			if err := o.readRest(part); err != nil {
				return o, err
			}
		}
	}
	return o, nil
}

func (o *Outlet) readRest(part string) error {
	for _, c := range Connectors {
		if part == string(c) {
			o.Connector = c
			return nil
		}
	}
	for _, p := range Phantoms {
		if part == string(p) {
			o.Phantom = p
			return nil
		}
	}
	return fmt.Errorf("%.30q is neither a level (microphone, line, speaker), a connector, balanced, unbalanced, nor a "+
		"word on phantom power", part)
}

// Parts are the parts of an output as ParseOutlet reads them.
func (o Outlet) Parts() []string {
	parts := []string{o.Name, string(o.Signal)}
	if o.Connector != "" {
		parts = append(parts, string(o.Connector))
	}
	switch o.Balanced {
	case Yes:
		parts = append(parts, "balanced")
	case No:
		parts = append(parts, "unbalanced")
	}
	if o.Phantom != "" {
		parts = append(parts, string(o.Phantom))
	}
	return parts
}

// Outlets are the outputs that a model lists by name, nil where its kind
// lists none.
func (m Model) Outlets() []Outlet {
	switch {
	case m.Mixer != nil:
		return m.Mixer.Outputs
	case m.Feed != nil:
		return m.Feed.Outputs
	case m.Processor != nil:
		outs := make([]Outlet, len(m.Processor.Outputs))
		for i, name := range m.Processor.Outputs {
			outs[i] = Outlet{Name: name, Signal: Line}
		}
		return outs
	}
	return nil
}

// SetOutlets gives a model its outputs; false where its kind lists none.
func (m *Model) SetOutlets(outs []Outlet) bool {
	switch {
	case m.Mixer != nil:
		m.Mixer.Outputs = outs
	case m.Feed != nil:
		m.Feed.Outputs = outs
	case m.Processor != nil:
		m.Processor.Outputs = nil
		for _, o := range outs {
			m.Processor.Outputs = append(m.Processor.Outputs, o.Name)
		}
	default:
		return false
	}
	return true
}

// Plugs are the sockets of a model by its figures, nil where its kind has none
// of its own.
func (m *Model) Plugs() *Sockets {
	switch {
	case m.Amplifier != nil:
		return &m.Amplifier.Sockets
	case m.Loudspeaker != nil:
		return &m.Loudspeaker.Sockets
	case m.Mixer != nil:
		return &m.Mixer.Sockets
	case m.Processor != nil:
		return &m.Processor.Sockets
	case m.DI != nil:
		return &m.DI.Sockets
	}
	return nil
}

// indexFold is where a word of ASCII stands in a text, in small letters or
// capitals; −1 where it does not. A text is not made small as a whole for it:
// some characters are longer then, and what is found would stand elsewhere.
func indexFold(text, word string) int {
	for i := 0; i+len(word) <= len(text); i++ {
		if strings.EqualFold(text[i:i+len(word)], word) {
			return i
		}
	}
	return -1
}
