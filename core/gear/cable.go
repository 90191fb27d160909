package gear

import (
	"cmp"
	"strconv"

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

// Before prefers the shorter lead, then the one with fewer poles, which others may
// need, then the thicker: below 0 where c goes first.
func (c Cable) Before(o Cable) int {
	return cmp.Or(cmp.Compare(c.Length.Or(0), o.Length.Or(0)), cmp.Compare(c.Poles, o.Poles),
		cmp.Compare(o.Area.Or(0), c.Area.Or(0)))
}

// Reaches tells whether a lead of known conductors has those that an input needs: of a
// box with several ways all that its socket has.
func (c Cable) Reaches(to Port) bool { return c.Poles >= 2*to.Poles && (to.Way == "" || c.Poles >= 4) }

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
	l.AddAll("", checkRows(&c, cableRows))
	if c.Poles != 0 && c.Poles != 2 && c.Poles != 4 && c.Poles != 8 {
		l.Add("poles", "A speaker lead has 2, 4 or 8 conductors, not %d.", c.Poles)
	}
	return l
}

// StageBox is a stage box with its multicore, or a multicore with a fan-out:
// lines to the desk one way, returns the other.
type StageBox struct {
	Lines   int                    `json:"lines"`
	Returns int                    `json:"returns,omitempty"`
	Length  unit.Given[unit.Metre] `json:"length,omitzero"`
}

func (s StageBox) check() fault.List { return checkRows(&s, stageBoxRows) }

var cableSheet = []Section{{Title: "The lead",
	Entries: lift("cable", "", func(m *Model) *Cable { return m.Cable }, cableRows)}}

var cableRows = []row[Cable]{
	choice("sort", "cable_sort", "Made for", func(c *Cable) *CableSort { return &c.Sort }, nil,
		options("", CableSorts)[1:]...),
	socket("endA", "end_a", "Plug at the output", func(c *Cable) *Connector { return &c.Ends[0] }).apart(),
	socket("endB", "end_b", "Plug at the input", func(c *Cable) *Connector { return &c.Ends[1] }).apart(),
	figure("length", "length_m", "Length", "m or ft", "A lead", 0.1, 500, func(c *Cable) *metres { return &c.Length }),
	figure("area", "area_mm2", "Conductor", "as 2.5 mm² or 12 AWG", "A conductor", 0.05, 50,
		func(c *Cable) *areas { return &c.Area }),
	polesRow().apart(),
	answer("joinedMinus", "lead_joined_minus", "Its minus conductors are one",
		func(c *Cable) *Answer { return &c.JoinedMinus }),
}

// polesRow is the conductors of a speaker lead, of which there are only some
// numbers.
func polesRow() row[Cable] {
	r := countOrNone("poles", "poles", "Conductors of a speaker lead", "conductors", 0, 8,
		func(c *Cable) *int { return &c.Poles })
	r.is.Form = OneOfAll
	r.is.Offered = []Option{{"0", "not known"}, {"2", "2"}, {"4", "4"}, {"8", "8"}}
	r.typed = func(c *Cable) string { return strconv.Itoa(c.Poles) }
	r.check = func(*Cable, *fault.List) {}
	return r
}

var stageBoxSheet = []Section{{Title: "Lines",
	Entries: lift("stageBox", "", func(m *Model) *StageBox { return m.StageBox }, stageBoxRows)}}

var stageBoxRows = []row[StageBox]{
	count("lines", "lines", "Lines to the desk", "lines", 1, 128, func(s *StageBox) *int { return &s.Lines }),
	countOrNone("returns", "returns", "Returns from the desk", "returns", 0, 128,
		func(s *StageBox) *int { return &s.Returns }),
	figure("length", "multicore_m", "Length", "m or ft", "A multicore", 0.5, 500,
		func(s *StageBox) *metres { return &s.Length }),
}
