package rig

import (
	"fmt"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/unit"
)

// mostPad is the most that a pad in a lead takes away, dB.
const mostPad unit.Decibel = 60

// SetPad puts a pad into the lead that feeds an input, or takes it out.
type SetPad struct {
	To  Ref                      `json:"to"`
	Pad unit.Given[unit.Decibel] `json:"pad,omitzero"` // what it takes away
}

// Say tells what the edit does.
func (e SetPad) Say() string {
	if pad, there := e.Pad.Get(); there {
		return fmt.Sprintf("A pad of %s in the lead into %s", pad, e.To)
	}
	return "No pad in the lead into " + e.To.String()
}

func (e SetPad) change(r *Rig) error {
	for i := range r.Links {
		if r.Links[i].To == e.To {
			r.Links[i].Pad = e.Pad
			return nil
		}
	}
	return fault.At("to", "Nothing is plugged into %s.", clip(e.To))
}

// checkPad faults a pad that cannot be: in a speaker lead it would burn.
func checkPad(l *fault.List, path string, k Link, s gear.Signal) {
	pad, there := k.Pad.Get()
	switch {
	case !there:
	case s != gear.Line && s != gear.Mic:
		l.Add(path+".pad", "A pad belongs into a lead of line or microphone level; %s is %s.", k.From, s)
	case !(pad > 0 && pad <= mostPad):
		l.Add(path+".pad", "A pad of %s cannot be right: up to %s.", pad, mostPad)
	}
}
