// Package run is a power-up or a shutdown as it is done: who threw which switch when, what was
// seen, what went wrong. Events go in, the state of every step comes out; it knows no clock: its
// caller says what time it is, in ms.
package run

import (
	"fmt"
	"math"
	"slices"

	"largo/core/fault"
	"largo/core/order"
	"largo/core/unit"
	"largo/core/words"
)

// Sort is what is done.
type Sort string

// The sorts.
const (
	Start  Sort = "start"
	Strike Sort = "strike"
)

// Setup is what is done, in which order: frozen when the run begins, whatever is edited later.
type Setup struct {
	Sort     Sort   `json:"sort"`
	Title    string `json:"title"` // of the job
	Revision int    `json:"revision"`
	Steps    []Step `json:"steps"`
	Waits    []Wait `json:"waits"`

	Emergency string    `json:"emergency,omitempty"` // the act that silences all, and what it costs
	Ring      []Contact `json:"ring,omitempty"`      // who is rung up
}

// Contact is somebody who knows.
type Contact struct {
	Name   string `json:"name"`
	Role   string `json:"role,omitempty"`
	Number string `json:"number,omitempty"`
}

// Step is one switch.
type Step struct {
	order.Step
	Circuit string      `json:"circuit,omitempty"` // its breaker, where that is known
	Peak    unit.Ampere `json:"peak,omitempty"`    // that it takes for an instant
	Free    bool        `json:"free,omitempty"`    // it may be done at any time
	Why     string      `json:"why,omitempty"`     // it stands where it does
}

// Wait is one step that goes after another.
type Wait struct {
	First int         `json:"first"` // of Steps
	Then  int         `json:"then"`
	After unit.Second `json:"after"`
	Why   order.Why   `json:"why"`
}

// Seen tells whether what is waited for must have been seen; of what is only usual it is enough
// that it was thrown.
func (w Wait) Seen() bool { return w.Why != order.Usually }

// Kind is what happened.
type Kind string

// The kinds.
const (
	Throw   Kind = "thrown"
	See     Kind = "seen"    // what has to be seen was, after its time
	Trouble Kind = "trouble" // it was not
	Again   Kind = "again"   // the switch is back where it was, and is thrown anew later
	Leave   Kind = "left"    // it stays off, and the rest goes on without it
	Hold    Kind = "held"
	Resume  Kind = "resumed"
	Stop    Kind = "stopped"
)

// Wrong is what is wrong with a step.
type Wrong string

// What may be wrong.
const (
	NoLamp Wrong = "no lamp"
	Trips  Wrong = "it trips"
	Smells Wrong = "it smells or smokes"
	Other  Wrong = "it shows something else"
)

// Wrongs lists the choices.
var Wrongs = []Wrong{NoLamp, Trips, Smells, Other}

// Event is what happened.
type Event struct {
	Seq   int    `json:"seq"`
	Kind  Kind   `json:"kind"`
	Step  int    `json:"step"` // of Steps; −1 for the whole run
	By    string `json:"by"`
	At    int64  `json:"at"` // ms, by the clock of the server
	Wrong Wrong  `json:"wrong,omitempty"`
	Auto  bool   `json:"auto,omitempty"` // a device reported it itself
}

// Run is a run with all that happened in it.
type Run struct {
	Setup
	Events []Event
}

// Check faults a set-up that cannot be run.
func (s *Setup) Check() error {
	var l fault.List
	if s.Sort != Start && s.Sort != Strike {
		l.Add("sort", "A run is a start or a strike, not %.20q.", s.Sort)
	}
	if len(s.Steps) == 0 {
		l.Add("steps", "Nothing of this rig has a switch: there is nothing to run.")
	}
	for i, w := range s.Waits {
		if w.First < 0 || w.Then < 0 || w.First >= len(s.Steps) || w.Then >= len(s.Steps) || w.First == w.Then {
			l.Add(fmt.Sprintf("waits[%d]", i), "This wait is of a step that is not there.")
		}
	}
	return l.Err()
}

// Status is how a step stands.
type Status string

// The statuses.
const (
	Waiting  Status = "waiting"  // for others
	Ready    Status = "ready"    // to be thrown
	Settling Status = "settling" // thrown; its time has not passed
	Look     Status = "look"     // its time has passed: is it seen?
	Done     Status = "done"
	Troubled Status = "trouble"
	Left     Status = "left off"
)

// State is a step as it stands.
type State struct {
	Status   Status
	ThrownAt int64  // ms; 0 before
	ThrownBy string // who
	DoneAt   int64
	DoneBy   string
	Left     int64 // ms until it may be seen
	For      []int // steps that it waits for
	Wrong    Wrong
}

// instant is for how long two inrushes count as at once, ms (common practice, no source).
const instant = 2000

// States are how all steps stand at a time.
func (r *Run) States(now int64) []State {
	list := make([]State, len(r.Steps))
	for i := range list {
		list[i].Status = Waiting
	}
	for _, e := range r.Events {
		if e.Step < 0 || e.Step >= len(list) {
			continue
		}
		s := &list[e.Step]
		switch e.Kind {
		case Throw:
			*s = State{Status: Settling, ThrownAt: e.At, ThrownBy: e.By}
		case See:
			s.Status, s.DoneAt, s.DoneBy = Done, e.At, e.By
		case Trouble:
			s.Status, s.Wrong, s.DoneAt, s.DoneBy = Troubled, e.Wrong, e.At, e.By
		case Again:
			*s = State{Status: Waiting, Wrong: s.Wrong}
		case Leave:
			s.Status, s.DoneAt, s.DoneBy = Left, e.At, e.By
		}
	}
	for i := range list {
		s := &list[i]
		switch s.Status {
		case Settling:
			if s.Left = s.ThrownAt + ms(r.Steps[i].Takes()) - now; s.Left <= 0 {
				s.Status, s.Left = Look, 0
			}
		case Waiting:
			if s.For = r.waitsFor(list, i, now); len(s.For) == 0 {
				s.Status = Ready
			}
		}
	}
	return list
}

func ms(s unit.Second) int64 { return int64(math.Ceil(float64(s) * 1000)) }

// waitsFor are the steps that hold up another one. What was left off sends no kick and is not
// waited for; in a strike its plug was pulled, and it dies as by its switch.
func (r *Run) waitsFor(list []State, i int, now int64) (first []int) {
	for _, w := range r.Waits {
		if w.Then != i {
			continue
		}
		s := &list[w.First]
		switch {
		case s.Status == Left && r.Sort == Start: // it sends nothing
		case s.Status == Left:
			if now < s.DoneAt+ms(w.After) {
				first = append(first, w.First)
			}
		case w.Seen() && s.Status != Done, s.ThrownAt == 0 || s.Status == Troubled, now < s.ThrownAt+ms(w.After):
			first = append(first, w.First)
		}
	}
	return first
}

// Held tells whether somebody holds the run.
func (r *Run) Held() bool { return r.heldAt(math.MaxInt64) }

func (r *Run) heldAt(at int64) (held bool) {
	for _, e := range r.Events {
		if e.At <= at {
			held = e.Kind == Hold || held && e.Kind != Resume
		}
	}
	return held
}

// Ended tells whether the run is over, and whether it was stopped before its end.
func (r *Run) Ended() (ended, stopped bool) {
	if slices.ContainsFunc(r.Events, func(e Event) bool { return e.Kind == Stop }) {
		return true, true
	}
	over := func(s State) bool { return s.Status == Done || s.Status == Left }
	return !slices.ContainsFunc(r.States(0), func(s State) bool { return !over(s) }), false
}

// hangs are the steps that cannot be done once another one is left: it feeds them, or they boot
// over it; however far down.
func (r *Run) hangs(i int) (list []int) {
	if r.Sort != Start {
		return nil
	}
	for _, w := range r.Waits {
		if w.First == i && (w.Why == order.Feeds || w.Why == order.Boots) && !slices.Contains(list, w.Then) {
			list = append(list, w.Then)
			for _, below := range r.hangs(w.Then) {
				if !slices.Contains(list, below) {
					list = append(list, below)
				}
			}
		}
	}
	return list
}

// Without says what goes on without a step that is left, and what stays off with it.
func (r *Run) Without(i int) string {
	var off []string
	for _, j := range r.hangs(i) {
		off = append(off, r.Steps[j].Switch)
	}
	if r.Sort == Strike {
		return "Its plug is its switch now: pull that. The rest waits until it is dead."
	}
	if len(off) == 0 {
		return "The rest goes on without it."
	}
	return words.List(off) + " " + verb(len(off), "stays", "stay") + " off with it; the rest goes on."
}

func verb(n int, one, more string) string {
	if n == 1 {
		return one
	}
	return more
}

// Take takes what happened, as of now, or says why it cannot be.
func (r *Run) Take(e Event, now int64) error {
	if err := r.allows(e, now); err != nil {
		return err
	}
	e.Seq = len(r.Events) + 1
	r.Events = append(r.Events, e)
	if e.Kind == Leave {
		states := r.States(now)
		for _, j := range r.hangs(e.Step) {
			if states[j].Status != Left && states[j].Status != Done {
				r.Events = append(r.Events, Event{Seq: len(r.Events) + 1, Kind: Leave, Step: j, By: e.By, At: e.At})
			}
		}
	}
	return nil
}

// Made tells whether an event changes nothing any more: another phone did the same before.
func (r *Run) Made(e Event) bool {
	if e.Step < 0 || e.Step >= len(r.Steps) {
		return false
	}
	s := r.States(e.At)[e.Step]
	switch e.Kind {
	case Throw:
		return s.ThrownAt != 0 && s.Status != Troubled && s.Status != Left
	case See:
		return s.Status == Done
	case Leave:
		return s.Status == Left
	}
	return false
}

func (r *Run) allows(e Event, now int64) error {
	if ended, _ := r.Ended(); ended {
		return fault.At("", "This run is over.")
	}
	switch {
	case e.At > now:
		return fault.At("", "What happens later than now cannot have happened.")
	case len(r.Events) > 0 && e.Kind != See && e.Kind != Throw && e.At < r.Events[len(r.Events)-1].At:
		return fault.At("", "It cannot have happened before what happened last.")
	}
	switch e.Kind {
	case Hold, Resume, Stop:
		if e.Kind == Resume && !r.Held() {
			return fault.At("", "Nobody holds this run.")
		}
		return nil
	}
	if e.Step < 0 || e.Step >= len(r.Steps) {
		return fault.At("", "There is no such step.")
	}
	s, step := r.States(e.At)[e.Step], &r.Steps[e.Step]
	switch e.Kind {
	case Throw:
		return r.allowsThrow(e, s, step)
	case See:
		return allowsSee(e, s, step)
	case Trouble:
		if s.Status != Settling && s.Status != Look && s.Status != Done {
			return fault.At("", "%s is not thrown: nothing can be wrong with it yet.", step.Switch)
		}
		if !slices.Contains(Wrongs, e.Wrong) {
			return fault.At("wrong", "Say what is wrong with %s.", step.Switch)
		}
	case Again:
		if s.Status == Waiting || s.Status == Ready {
			return fault.At("", "%s is not thrown.", step.Switch)
		}
	case Leave:
		if s.Status == Done || s.Status == Left {
			return fault.At("", "%s is %s already.", step.Switch, s.Status)
		}
		if s.ThrownAt != 0 && s.Status != Troubled {
			return fault.At("", "%s is thrown: say first what is wrong with it.", step.Switch)
		}
	default:
		return fault.At("", "%.20q is nothing that happens in a run.", e.Kind)
	}
	return nil
}

// allowsThrow: nobody throws a switch before all that it waits for.
func (r *Run) allowsThrow(e Event, s State, step *Step) error {
	switch {
	case r.heldAt(e.At):
		return fault.At("", "The desk holds this run: nothing is thrown until it goes on.")
	case s.Status == Waiting:
		var names []string
		for _, i := range s.For {
			names = append(names, r.Steps[i].Switch)
		}
		return fault.At("", "Not yet: %s waits for %s.", step.Switch, words.List(names))
	case s.Status != Ready:
		return fault.At("", "%s was thrown by %s already.", step.Switch, s.ThrownBy)
	}
	for _, w := range r.Waits { // what it sends would reach what is live
		live := r.States(e.At)[w.Then]
		if w.First == e.Step && w.Why == order.Kicks && live.ThrownAt != 0 && live.Status != Left && r.Sort == Start {
			return fault.At("", "%s is on already, and what %s sends when it wakes reaches it: switch %s off again first, or "+
				"leave %s off.", r.Steps[w.Then].Switch, step.Switch, r.Steps[w.Then].Switch, step.Switch)
		}
	}
	for _, other := range r.Events {
		o := &r.Steps[max(other.Step, 0)]
		if other.Kind == Throw && other.Step != e.Step && step.Circuit != "" && o.Circuit == step.Circuit &&
			math.Abs(float64(e.At-other.At)) < instant && step.Peak > 0 && o.Peak > 0 {
			return fault.At("", "A breath: %s on the same circuit was thrown a moment ago.", o.Switch)
		}
	}
	return nil
}

// allowsSee: what has to be seen is not seen before its time.
func allowsSee(e Event, s State, step *Step) error {
	switch {
	case s.Status == Settling && !e.Auto:
		return fault.At("", "Not yet: %s takes %s, and %d s are left.", step.Switch, step.Takes(), (s.Left+999)/1000)
	case s.Status == Done:
		return fault.At("", "%s was seen by %s already.", step.Switch, s.DoneBy)
	case s.Status != Look && s.Status != Settling:
		return fault.At("", "%s is not thrown yet.", step.Switch)
	}
	return nil
}

// Advice is what to do about what is wrong with a step. What does not go off in a strike has its
// plug for a switch.
func (s *Setup) Advice(w Wrong) string {
	if s.Sort == Strike && w != Smells {
		return "Try its switch once more. Then pull its plug, or its breaker, and wait until its lamps are out."
	}
	switch w {
	case NoLamp:
		return "Switch it off. Look at its plug, its outlet and its breaker, in this order; open nothing. " +
			"Then try it once more."
	case Trips:
		return "Switch it off. Reset the breaker once, by whoever may. If it trips again, " +
			"leave it off and unplugged: it has a fault."
	case Smells:
		return "Switch it off and pull its plug. Nobody opens or touches it; whoever has the extinguisher stands by. " +
			"It stays off."
	}
	return "Wait as long again, and look again. Then switch it off, wait ten seconds, and try it once more."
}

// Says is the run in one line.
func (r *Run) Says(now int64) string {
	ended, stopped := r.Ended()
	done, left, trouble := 0, 0, ""
	for i, s := range r.States(now) {
		switch s.Status {
		case Done:
			done++
		case Left:
			left++
		case Troubled:
			trouble = r.Steps[i].Switch
		}
	}
	switch {
	case stopped:
		return fmt.Sprintf("Stopped after %d of %d switches.", done, len(r.Steps))
	case ended && left > 0:
		return fmt.Sprintf("Done: %d switches, and %d left.", done, left)
	case ended && r.Sort == Strike:
		return "All is off. Unplug now."
	case ended:
		return "All is up."
	case r.Held():
		return "The desk holds it: nothing is thrown."
	case trouble != "":
		return trouble + " is in trouble."
	}
	return fmt.Sprintf("%d of %d switches are through.", done+left, len(r.Steps))
}

// Time is how long a step took, from its switch until it was seen.
type Time struct {
	Step    int
	Planned unit.Second
	Took    unit.Second // from its last throw
	Tries   int         // how often it was thrown
	By      string
	Left    bool // it was left off
}

// Times are those of the steps that were done or left, in the order in which they ended.
func (r *Run) Times() (list []Time) {
	tries := make([]int, len(r.Steps))
	thrown := make([]int64, len(r.Steps))
	for _, e := range r.Events {
		switch e.Kind {
		case Throw:
			tries[e.Step]++
			thrown[e.Step] = e.At
		case See, Leave:
			t := Time{Step: e.Step, Planned: r.Steps[e.Step].Takes(), Tries: tries[e.Step], By: e.By, Left: e.Kind == Leave}
			if e.Kind == See {
				t.Took = unit.Second(math.Round(float64(e.At-thrown[e.Step]) / 1000))
			}
			list = append(list, t)
		}
	}
	return list
}
