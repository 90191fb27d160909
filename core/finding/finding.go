// Package finding is what a check returns: who or what is in danger, how
// grave it is, where, why, with which figures, and the edits that mend it.
package finding

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/words"
)

// Stage is a part of the technician's day. It has the same name in the core,
// the web, the templates, the URL and on the screen.
type Stage string

// The stages that work; package survey lists them in the order of the day.
const (
	Brief   Stage = "brief"
	Match   Stage = "match"
	Wire    Stage = "wire"
	Feed    Stage = "feed"
	Level   Stage = "level"
	Protect Stage = "protect"
	Start   Stage = "start"
	Strike  Stage = "strike"
)

// Title is the stage's name as it stands on the strip.
func (s Stage) Title() string { return words.Capital(string(s)) }

// Danger is what would be lost.
type Danger string

// The dangers, the gravest first.
const (
	People Danger = "people"
	Gear   Danger = "gear"
	Sound  Danger = "sound"
)

// Gravity is what has to be done about it.
type Gravity int

// The gravities, in rising order.
const (
	Mind Gravity = iota + 1 // know it
	Mend                    // before the show
	Stop                    // do not energise
)

func (g Gravity) String() string {
	return [...]string{"fine", "mind", "mend", "stop"}[g]
}

// MarshalText writes the gravity as its word.
func (g Gravity) MarshalText() ([]byte, error) { return []byte(g.String()), nil }

// Finding is one thing that a technician should know, in words that another
// technician would say.
type Finding struct {
	Code    string          `json:"code"` // stable; docs/findings.md explains each
	Stage   Stage           `json:"stage"`
	Danger  Danger          `json:"danger"`
	Gravity Gravity         `json:"gravity"`
	At      rig.Ref         `json:"at"`            // the device, and the port where there is one
	What    string          `json:"what"`          // what is so, in one sentence
	Why     string          `json:"why,omitempty"` // what comes of it, in one sentence
	Figures []reckon.Figure `json:"figures,omitempty"`
	Mends   []Way           `json:"mends,omitempty"`
	Advice  string          `json:"advice,omitempty"` // what to do where no edit can do it
}

// Way is an edit that mends a finding.
type Way struct {
	Label string
	Edit  rig.Edit
}

// MarshalJSON writes a way with its edit as data, so that it can be made.
func (w Way) MarshalJSON() ([]byte, error) {
	edit, err := rig.MarshalEdit(w.Edit)
	if err != nil {
		return nil, err
	}
	return json.Marshal(struct {
		Label string          `json:"label"`
		Edit  json.RawMessage `json:"edit"`
	}{w.Label, edit})
}

// ID tells findings of one survey apart.
func (f Finding) ID() string { return f.Code + "@" + f.At.Device + "@" + f.At.Port }

// Place names where it is: "A1 out B", "A1", "the job".
func (f Finding) Place() string {
	switch {
	case f.At.Device == "":
		return "the job"
	case f.At.Port == "":
		return f.At.Device
	}
	return f.At.String()
}

// Sort puts the gravest first, people before gear before sound, otherwise in
// the order in which they were found.
func Sort(fs []Finding) {
	rank := map[Danger]int{People: 0, Gear: 1, Sound: 2}
	slices.SortStableFunc(fs, func(a, b Finding) int {
		return cmp.Or(-cmp.Compare(a.Gravity, b.Gravity), cmp.Compare(rank[a.Danger], rank[b.Danger]))
	})
}

// Alike gathers findings that say the same of different places, so that what
// comes of it is read once. A group stands where its first finding stands.
func Alike(fs []Finding) [][]Finding {
	type sense struct {
		code, why, advice string
		gravity           Gravity
		danger            Danger
	}
	at := make(map[sense]int, len(fs))
	var groups [][]Finding
	for _, f := range fs {
		is := sense{f.Code, f.Why, f.Advice, f.Gravity, f.Danger}
		if i, known := at[is]; known {
			groups[i] = append(groups[i], f)
			continue
		}
		at[is] = len(groups)
		groups = append(groups, []Finding{f})
	}
	return groups
}

// Line is what paper says of findings of one kind.
type Line struct {
	What  string // of the first, in one sentence
	Place string // of the others: "A1 out B, A2 out A"
}

// Lines puts findings on paper, in their order. Of three and more of one kind the
// first stands whole, and the others by their place.
func Lines(fs []Finding) []Line {
	of := map[string][]Finding{}
	for _, f := range fs {
		of[f.Code] = append(of[f.Code], f)
	}
	var lines []Line
	for _, f := range fs {
		alike := of[f.Code]
		if len(alike) < 3 {
			lines = append(lines, Line{What: f.What})
			continue
		}
		if f.ID() != alike[0].ID() {
			continue
		}
		var places []string
		for _, other := range alike[1:] {
			if place := other.Place(); !slices.Contains(places, place) {
				places = append(places, place)
			}
		}
		lines = append(lines, Line{f.What, strings.Join(places, ", ")})
	}
	return lines
}

// Together mends findings that are alike at one stroke, each by its first way;
// false where one has none, or all of them have the same.
func Together(alike []Finding) (Way, bool) {
	var edits []rig.Edit
	said := map[string]bool{}
	for _, f := range alike {
		if len(f.Mends) == 0 {
			return Way{}, false
		}
		if e := f.Mends[0].Edit; !said[e.Say()] {
			said[e.Say()] = true
			edits = append(edits, e)
		}
	}
	if len(edits) < 2 {
		return Way{}, false
	}
	label := "Both of these"
	if len(edits) > 2 {
		label = fmt.Sprintf("All %d of these", len(edits))
	}
	return Way{Label: label, Edit: rig.Batch{Saying: fmt.Sprintf("%s, and %d more alike", edits[0].Say(), len(edits)-1),
		Edits: edits}}, true
}

// Worst is the gravest among the findings, 0 when there is none.
func Worst(fs []Finding) Gravity {
	var worst Gravity
	for _, f := range fs {
		worst = max(worst, f.Gravity)
	}
	return worst
}
