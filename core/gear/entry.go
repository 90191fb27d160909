package gear

import (
	"regexp"
	"slices"
)

// An Entry is one figure of a kind of gear: what it is called, how it is typed and
// read, what it may be, where it stands in a table and in a document. The tables
// of entries, one a kind, are the one place where figures are described: Check,
// the form of a model, tables in and out, and the published schema follow them.
type Entry struct {
	Key      string // its path in a document, which the faults of Check carry: "amplifier.least"
	Field    string // its name on a form: the path below the part of its kind
	Column   string // of a table; "" where it has none
	Label    string // on a form; "" where it stands on none
	Hint     string
	Form     Form
	Offered  []Option // of a choice
	Required bool
	JSON     JSON
	Most     int // characters of a word, or the largest of a whole number

	// Typed writes it as it would be typed on a form, with where it comes from.
	Typed func(*Model) string
	// Type reads what was typed.
	Type func(*Model, string) error
	// Cell writes it as a cell of a table: a bare number in its own unit, or words.
	Cell func(*Model) string
	// Fill reads a cell.
	Fill func(*Model, string) error
}

// Form is how an entry is typed.
type Form string

// The forms of an entry.
const (
	OneLine  Form = ""
	Lines    Form = "lines"
	OneOfAll Form = "select"
)

// JSON is the sort of value that an entry is in a document.
type JSON string

// The sorts of values.
const (
	JSONFigure JSON = "figure" // a unit.Given
	JSONWords  JSON = "words"
	JSONOneOf  JSON = "one of" // of those offered
	JSONWhole  JSON = "whole number"
	JSONYesNo  JSON = "yes or no"
	JSONOther  JSON = "" // a form of its own
)

// Option is one of the values of a choice.
type Option struct{ Value, Label string }

// Section is a group of entries, as a sheet has.
type Section struct {
	Title, Note string
	Steps       []string // of a check to be made first
	Entries     []Entry
	Later       bool  // its figures are seldom on the plate: a new model is begun without them
	Only        Boxes // for which boxes it makes sense
}

// Boxes are the boxes that a section of a loudspeaker's sheet makes sense for.
type Boxes string

// The zero Boxes are all.
const (
	OnlyPassive Boxes = "passive"
	OnlyActive  Boxes = "active"
)

// Sections are all that the library knows of a kind, in the order in which its
// sheet reads; nil for what is no kind. They are shared: whoever gets them only
// reads.
func Sections(k Kind) []Section { return sheets[k] }

// sheets is made once; a sheet has a hundred entries.
var sheets = allSheets()

func allSheets() map[Kind][]Section {
	all := make(map[Kind][]Section, len(Kinds))
	for _, k := range Kinds {
		all[k] = slices.Concat(identitySheet, ownSheet(k), commonSheet(k))
	}
	return all
}

// ownSheet is what only models of a kind have.
func ownSheet(k Kind) []Section {
	switch {
	case k == KindAmplifier:
		return amplifierSheet
	case k == KindLoudspeaker:
		return loudspeakerSheet
	case k == KindMixer:
		return mixerSheet
	case k == KindProcessor:
		return processorSheet
	case k.Sends():
		return sourceSheet
	case k == KindDI:
		return diSheet
	case k == KindStageBox:
		return stageBoxSheet
	case k == KindSwitch:
		return switchSheet
	case k == KindCable:
		return cableSheet
	case k == KindAppliance:
		return applianceSheet
	}
	return supplySheet(k)
}

// columns are the columns of all kinds: what every model is, what each kind has of
// its own, what they share.
var columns = allColumns()

func allColumns() []string {
	names := []string{"id", "kind"}
	add := func(sheet []Section) {
		for _, s := range sheet {
			for _, e := range s.Entries {
				if e.Column != "" && !slices.Contains(names, e.Column) {
					names = append(names, e.Column)
				}
			}
		}
	}
	add(identitySheet)
	for _, k := range []Kind{KindAmplifier, KindLoudspeaker, KindMixer, KindProcessor, KindSource, KindDI, KindStageBox,
		KindSwitch, KindCable, KindGenerator, KindAppliance} {
		add(ownSheet(k))
	}
	add(commonSheet(KindLoudspeaker))
	return names
}

// Columns are the columns of a table of models, in the order in which they are
// written: id and kind, then those of every kind.
func Columns() []string { return columns }

// byColumn finds the entries of a kind by their column.
var byColumn = allByColumn()

func allByColumn() map[Kind]map[string]*Entry {
	all := make(map[Kind]map[string]*Entry, len(sheets))
	for k, sheet := range sheets {
		all[k] = map[string]*Entry{}
		for i := range sheet {
			for j := range sheet[i].Entries {
				if e := &sheet[i].Entries[j]; e.Column != "" {
					all[k][e.Column] = e
				}
			}
		}
	}
	return all
}

// InColumn is the entry of a kind that stands in a column, false where the kind
// has none there.
func InColumn(k Kind, column string) (*Entry, bool) {
	e, ok := byColumn[k][column]
	return e, ok
}

// kindPath is the part of a kind in the path of a fault, and whatever stands
// deeper than the field.
var kindPath = regexp.MustCompile(
	`^(?:amplifier|loudspeaker|mixer|processor|feed|di|stageBox|switch|supply|cable|appliance)\.|\[.*$`)

// FieldOf is the field of a form that the path of a fault is about.
func FieldOf(path string) string { return kindPath.ReplaceAllString(path, "") }

// identitySheet is what every model has.
var identitySheet = []Section{{Title: "What it is",
	Note: "Leave empty whatever is not known. Behind a figure, in square brackets, may stand where it comes from, " +
		"as 6.4 Ω [measured].",
	Entries: lift("", "", itself, identityRows)}}

func itself(m *Model) *Model { return m }

var identityRows = []row[Model]{
	words("maker", "maker", "Maker", "", "The maker", 60, func(m *Model) *string { return &m.Maker }).must(),
	words("name", "name", "Name", "", "The name", 60, func(m *Model) *string { return &m.Name }).must(),
	words("source", "source", "Where its figures come from", "sheet, plate, measured", "The source", 200,
		func(m *Model) *string { return &m.Source }),
	words("note", "note", "Note", "", "The note", 400, func(m *Model) *string { return &m.Note }),
}

// hidden takes entries from the form, where a kind has no use for them.
func hidden(entries []Entry) []Entry {
	out := slices.Clone(entries)
	for i := range out {
		out[i].Label = ""
	}
	return out
}

// commonSheet is what every model has but a lead.
func commonSheet(k Kind) []Section {
	if k == KindCable {
		return []Section{{Entries: hidden(slices.Concat(mainsEntries, efficiencyEntries, bodyEntries, pointEntries,
			wakeEntries))}}
	}
	mains := Section{Title: "From the mains", Later: true, Entries: slices.Concat(mainsEntries, hidden(efficiencyEntries))}
	body := Section{Title: "Its body", Later: true, Entries: slices.Concat(bodyEntries, hidden(pointEntries))}
	wake := Section{Title: "How it wakes", Later: true, Note: "From these the power-up is timed.", Entries: wakeEntries}
	if k == KindAmplifier || k == KindLoudspeaker {
		mains.Entries = slices.Concat(mainsEntries, efficiencyEntries)
	}
	if k == KindLoudspeaker {
		body.Note = "Only a box with rigging points of its own is ever hung, by a competent person; never by a handle."
		body.Entries = slices.Concat(bodyEntries, pointEntries)
		mains.Only, wake.Only = OnlyActive, OnlyActive
	}
	return []Section{mains, body, wake}
}

var wakeEntries = lift("wake", "wake.", func(m *Model) *Wake { return &m.Wake }, wakeRows)

var wakeRows = []row[Wake]{
	figure("settle", "settle_s", "Settles in", "as 90 s or 1:30, from its switch to quiet outputs",
		"The settle time", 0, 1800, func(w *Wake) *seconds { return &w.Settle }),
	words("proof", "proof", "What is seen when it is up", "", "What is seen when it is up", 200,
		func(w *Wake) *string { return &w.Proof }),
	words("switch", "switch", "Where its switch is", "as rear rocker", "Where its switch is", 80,
		func(w *Wake) *string { return &w.Switch }),
	words("shutdown", "shutdown", "Its own way to be shut down", "", "Its own shutdown", 200,
		func(w *Wake) *string { return &w.Shutdown }),
	figure("drain", "drain_s", "Dead after", "from its switch", "The drain time", 0, 1800,
		func(w *Wake) *seconds { return &w.Drain }),
	figure("kick", "kick_v", "Kick when it wakes, peak", "V at its outputs; empty: the largest that they can send",
		"A kick", 0, 200, func(w *Wake) *volts { return &w.Kick }),
	figure("kickAfter", "kick_after_s", "so long after its switch", "as 3 s", "The time of a kick", 0, 1800,
		func(w *Wake) *seconds { return &w.KickAfter }),
	figure("kickOff", "kick_off_v", "Kick when it goes off, peak", "V at its outputs", "A kick", 0, 200,
		func(w *Wake) *volts { return &w.KickOff }),
	answer("mutes", "mutes", "A relay mutes its outputs until it has settled", func(w *Wake) *Answer { return &w.Mutes }),
	countOrNone("network", "network_sockets", "Data sockets that it boots over", "data sockets", 1, 8,
		func(w *Wake) *int { return &w.Network }),
	figure("sleeps", "sleeps_s", "Goes into standby by itself after",
		"as 20 min of silence; empty: it does not, or nobody said",
		"A time until standby", 1, 86400, func(w *Wake) *seconds { return &w.Sleeps }),
	answer("roars", "roars", "Roars when its transmitter goes (receiver)", func(w *Wake) *Answer { return &w.Roars }),
}
