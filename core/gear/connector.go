package gear

import "largo/core/fault"

// Connector is a socket, or the plug that goes into it.
type Connector string

// The connectors of portable rigs. An empty Connector is not known.
const (
	XLR        Connector = "3-pin XLR" // 1 screen, 2 hot, 3 cold
	Jack       Connector = "6.35 mm jack"
	Combo      Connector = "combination socket" // takes a 3-pin XLR or a jack
	Phono      Connector = "phono"
	TwistLock4 Connector = "4-pole twist-lock"
	TwistLock8 Connector = "8-pole twist-lock"
	Posts      Connector = "binding posts"
	Screws     Connector = "screw terminals"
	BareEnds   Connector = "bare ends" // of a lead; go to posts and screws
	DataSocket Connector = "data socket"
)

// Connectors lists them in the order in which a form offers them.
var Connectors = []Connector{XLR, Jack, Combo, Phono, TwistLock4, TwistLock8, Posts, Screws, BareEnds, DataSocket}

// Takes tells whether a plug goes into a socket; an unknown one of the two is
// not said to misfit.
func (socket Connector) Takes(plug Connector) bool {
	switch {
	case socket == "" || plug == "" || socket == plug:
		return true
	case socket == Combo:
		return plug == XLR || plug == Jack
	case socket == Posts || socket == Screws:
		return plug == BareEnds
	}
	return false
}

// Sockets are the connectors of a device: of its inputs, of its outputs, and
// whether its line-level ones are balanced.
type Sockets struct {
	In       Connector `json:"in,omitempty"`
	Out      Connector `json:"out,omitempty"`
	Balanced Answer    `json:"balanced,omitempty"`
}

// socketRows are the sockets of a part, by their names on its form; what has no
// name stands on none.
func socketRows[P any](of func(*P) *Sockets, in, out, balanced string) []row[P] {
	return []row[P]{
		socket("sockets.in", "socket_in", in, func(p *P) *Connector { return &of(p).In }),
		socket("sockets.out", "socket_out", out, func(p *P) *Connector { return &of(p).Out }),
		answer("sockets.balanced", "balanced", balanced, func(p *P) *Answer { return &of(p).Balanced }),
	}
}

func checkConnector(l *fault.List, field string, c Connector) {
	if c == "" {
		return
	}
	for _, known := range Connectors {
		if c == known {
			return
		}
	}
	l.Add(field, "%.30q is no connector that Largo knows.", c)
}

// Phantom is what a microphone-level output makes of phantom power, the 48 V
// on pins 2 and 3 of IEC 61938.
type Phantom string

// What phantom power does; unsaid is not known.
const (
	Needs  Phantom = "needs it"
	Bears  Phantom = "bears it"
	Harmed Phantom = "is harmed by it"
)

// Phantoms lists the choices.
var Phantoms = []Phantom{Needs, Bears, Harmed}

func checkPhantom(l *fault.List, field string, p Phantom) {
	if p != "" && p != Needs && p != Bears && p != Harmed {
		l.Add(field, "Gear needs phantom power, bears it or is harmed by it; %.30q is none of these.", p)
	}
}
