// Package sum answers what a technician would ask a calculator: "3 x 8 ohm",
// "500 W 8 ohm", "+4 dBu". A question is quantities with their units, in any order;
// which quantities there are tells what is asked.
package sum

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"largo/core/reckon"
)

// Answer is what a question comes to.
type Answer struct {
	Kind    string          `json:"kind"`              // of sum, "" where none was understood
	Says    string          `json:"says"`              // in one line
	Figures []reckon.Figure `json:"figures,omitempty"` // with their working, the one asked for first
	Ignored []string        `json:"ignored,omitempty"` // words that were not understood
	Numbers []Number        `json:"numbers,omitempty"` // of the question, to be varied
}

// Understood tells whether the question was one.
func (a Answer) Understood() bool { return a.Kind != "" }

// Kind is one kind of question.
type Kind struct {
	Name    string
	Example string
	Takes   string // the quantities that it needs, as a reader is told
	needs   []need
	words   []string // that ask for it; none of them is needed where weak is true
	weak    bool
	answer  func(asked) (string, []reckon.Figure)
}

// need is how many quantities of a dimension a kind takes.
type need struct {
	of          dimension
	least, most int
}

// fits tells whether the quantities of a question are those of a kind.
func (k Kind) fits(q asked) bool {
	if len(k.words) > 0 && !k.weak && !slices.ContainsFunc(k.words, func(w string) bool { return q.words[w] }) {
		return false
	}
	counted := 0
	for _, n := range k.needs {
		have := len(q.of[n.of])
		if n.of == ohms || n.of == decibels { // "2 x 8 ohm" is two of them, "2 x 500 W" is each channel's
			have = len(q.all(n.of))
		}
		if have < n.least || have > n.most {
			return false
		}
		counted += len(q.of[n.of])
	}
	return counted == q.count
}

// Of answers a question.
func Of(question string) Answer {
	q := read(question)
	if q.count == 0 {
		return Answer{Says: "Ask with figures and their units, as 3 x 8 ohm or 500 W 8 ohm.", Ignored: q.ignored}
	}
	for _, k := range Kinds {
		if !k.fits(q) {
			continue
		}
		says, figures := k.answer(q)
		if slices.ContainsFunc(figures, endless) {
			return Answer{Says: "With a figure of 0, or of that size, there is no such sum.", Ignored: q.ignored,
				Numbers: q.numbers}
		}
		return Answer{Kind: k.Name, Says: says, Figures: figures, Ignored: ignoredBy(k, q), Numbers: q.numbers}
	}
	return Answer{Says: q.unknown(), Ignored: q.ignored, Numbers: q.numbers}
}

// endless tells whether a figure has no value that can be written.
func endless(f reckon.Figure) bool { return math.IsNaN(f.Value) || math.IsInf(f.Value, 0) }

// ignoredBy are the words of a question that a kind makes nothing of.
func ignoredBy(k Kind, q asked) []string {
	ignored := q.ignored
	for _, w := range q.wordList {
		if !slices.Contains(k.words, w) && !slices.Contains(fillers, w) {
			ignored = append(ignored, w)
		}
	}
	return ignored
}

// unknown says what was understood, where no kind takes just that.
func (q asked) unknown() string {
	var parts []string
	for _, d := range dimensions {
		if n := len(q.of[d]); n > 0 {
			parts = append(parts, fmt.Sprintf("%d × %s", n, d))
		}
	}
	return "No sum here takes just this: " + strings.Join(parts, ", ") + "."
}

// Shown is an answer as a page writes it.
type Shown struct {
	Kind    string   `json:"kind"`
	Says    string   `json:"says"`
	Lines   []Line   `json:"lines,omitempty"`
	Ignored []string `json:"ignored,omitempty"`
	Numbers []Number `json:"numbers,omitempty"`
}

// Line is a figure with its working in words.
type Line struct {
	Name    string `json:"name"`
	Text    string `json:"text"`
	Working string `json:"working"`
	Note    string `json:"note,omitempty"`
	Source  string `json:"source,omitempty"`
}

// Show answers a question as a page writes it.
func Show(question string) Shown {
	a := Of(question)
	s := Shown{Kind: a.Kind, Says: a.Says, Ignored: a.Ignored, Numbers: a.Numbers}
	for _, f := range a.Figures {
		s.Lines = append(s.Lines, Line{f.Name, f.Text(), f.Working(), f.Note, f.Source})
	}
	return s
}
