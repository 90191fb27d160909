package order

import (
	"largo/core/gear"
	"largo/core/unit"
	"largo/core/words"
)

// Hand is the least time between two switches thrown by one person, which
// also keeps inrush currents apart, s (common practice, no source).
const Hand unit.Second = 5

// Step is one switch to throw, for power-up or shutdown.
type Step struct {
	Number  int         `json:"number"` // from 1
	Switch  string      `json:"switch"`
	Items   []Item      `json:"items"`
	Loud    bool        `json:"loud"`    // makes sound
	At      unit.Second `json:"at"`      // earliest, from the first step
	Done    unit.Second `json:"done"`    // when it has settled, or is dead
	Assumed bool        `json:"assumed"` // some time is a careful assumption
}

// Item is one device of a step.
type Item struct {
	Tag   string      `json:"tag"`
	Title string      `json:"title"`
	Place string      `json:"place,omitempty"`
	Where string      `json:"where,omitempty"` // its switch
	How   string      `json:"how,omitempty"`   // it is switched, where not by its switch alone
	Look  string      `json:"look"`            // what to see before going on
	Note  string      `json:"note,omitempty"`  // of its model
	Takes unit.Second `json:"takes"`
	Known bool        `json:"known"` // whether Takes is from its sheet
}

// Step describes a node, with the time and the proof that a stage gives for
// each model.
func (o *Order) Step(n, number int, takes func(*gear.Model) (unit.Second, bool),
	how, look func(*gear.Model) string) Step {
	node := o.Nodes[n]
	s := Step{Number: number, Switch: node.Switch, Loud: node.Loud, Items: make([]Item, 0, len(node.Devices))}
	for _, i := range node.Devices {
		d, m := o.x.Rig.Devices[i], o.x.ModelAt(i)
		t, known := takes(m)
		if turn, inTurn := o.turn(i); inTurn {
			t += turn
		}
		s.Items = append(s.Items, Item{Tag: d.Tag, Title: m.Title(), Place: d.Place, Where: m.Wake.Switch, How: how(m),
			Note: m.Note,
			Look: words.Small(look(m)), Takes: t, Known: known})
		s.Assumed = s.Assumed || !known
	}
	return s
}

// Begin sets when a step is begun at the earliest.
func (s Step) Begin(at unit.Second) Step {
	s.At, s.Done = at, at+s.Takes()
	return s
}

// Takes is the longest time of a step's devices.
func (s Step) Takes() unit.Second {
	var most unit.Second
	for _, i := range s.Items {
		most = max(most, i.Takes)
	}
	return most
}

// Tags lists the devices of a step.
func (s Step) Tags() []string {
	tags := make([]string, len(s.Items))
	for i, item := range s.Items {
		tags[i] = item.Tag
	}
	return tags
}
