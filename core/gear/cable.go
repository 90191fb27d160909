package gear

import (
	"largo/core/fault"
	"largo/core/unit"
)

// CableSort is what a lead is made for.
type CableSort string

// The sorts. An instrument lead looks like a speaker lead with jacks and is
// none: its core is thin, and its screen is the return.
const (
	MicCable        CableSort = "microphone"
	InstrumentCable CableSort = "instrument"
	SpeakerCable    CableSort = "speaker"
	MainsCable      CableSort = "mains"
	DataCable       CableSort = "data"
)

// CableSorts lists the choices.
var CableSorts = []CableSort{MicCable, InstrumentCable, SpeakerCable, MainsCable, DataCable}

// Cable is a made-up lead.
type Cable struct {
	Sort   CableSort                         `json:"sort"`
	Ends   [2]Connector                      `json:"ends"` // at the output, at the input
	Length unit.Given[unit.Metre]            `json:"length,omitzero"`
	Area   unit.Given[unit.SquareMillimetre] `json:"area,omitzero"` // of one conductor
	// conductors of a speaker lead: 2, 4 or 8; 0 is not known
	Poles       int    `json:"poles,omitempty"`
	JoinedMinus Answer `json:"joinedMinus,omitempty"` // its minus conductors are one
}

// Balanced tells whether a lead keeps a balanced line balanced.
func (c Cable) Balanced() bool { return c.Sort == MicCable }

// Fits tells whether a lead has the plugs for an output and an input.
func (c Cable) Fits(out, in Connector) bool {
	return out.Takes(c.Ends[0]) && in.Takes(c.Ends[1]) || out.Takes(c.Ends[1]) && in.Takes(c.Ends[0])
}

// Carries tells whether a lead is made for a signal.
func (c Cable) Carries(s Signal) bool {
	switch s {
	case Speaker:
		return c.Sort == SpeakerCable
	case Mains:
		return c.Sort == MainsCable
	case Data:
		return c.Sort == DataCable
	}
	return c.Sort == MicCable || c.Sort == InstrumentCable
}

func (c Cable) check() fault.List {
	var l fault.List
	known := false
	for _, s := range CableSorts {
		known = known || s == c.Sort
	}
	if !known {
		l.Add("sort", "%.30q is no sort of lead; it is one of microphone, instrument, speaker, mains or data.", c.Sort)
	}
	checkConnector(&l, "endA", c.Ends[0])
	checkConnector(&l, "endB", c.Ends[1])
	within(&l, "length", "A lead", c.Length, 0.1, 500)
	within(&l, "area", "A conductor", c.Area, 0.05, 50)
	if c.Poles != 0 && c.Poles != 2 && c.Poles != 4 && c.Poles != 8 {
		l.Add("poles", "A speaker lead has 2, 4 or 8 conductors, not %d.", c.Poles)
	}
	checkAnswer(&l, "joinedMinus", c.JoinedMinus)
	return l
}

// StageBox is a stage box with its multicore, or a multicore with a fan-out:
// lines to the desk one way, returns the other.
type StageBox struct {
	Lines   int                    `json:"lines"`
	Returns int                    `json:"returns,omitempty"`
	Length  unit.Given[unit.Metre] `json:"length,omitzero"`
}

func (s StageBox) check() fault.List {
	var l fault.List
	if s.Lines < 1 || s.Lines > 128 {
		l.Add("lines", "%d lines cannot be right: give 1 to 128.", s.Lines)
	}
	if s.Returns < 0 || s.Returns > 128 {
		l.Add("returns", "%d returns cannot be right: give 0 to 128.", s.Returns)
	}
	within(&l, "length", "A multicore", s.Length, 0.5, 500)
	return l
}
