package gear

// Inversion is how the second channel of a bridge comes to move against the
// first.
type Inversion string

// The ways. One side has to be turned, and only one: turned twice, the two
// outputs move together and the load between them hears nothing.
const (
	BySwitch Inversion = "by its switch"
	Inside   Inversion = "inside the amplifier"
	ByLead   Inversion = "by a lead with 2 and 3 exchanged"
	ByStage  Inversion = "by an inverting stage"
	NotKnown Inversion = "by a lead with 2 and 3 exchanged, if its inputs are balanced"
)

// Inverts is how the second channel of a bridge on this amplifier is turned.
func (a *Amplifier) Inverts() Inversion {
	switch {
	case a.Bridging.Switch == Yes:
		return BySwitch
	case a.Bridging.Inverted == Yes:
		return Inside
	case a.Sockets.Balanced == Yes || a.Sockets.In == XLR && a.Sockets.Balanced == "":
		return ByLead
	case a.Sockets.Balanced == No || a.Sockets.In == Phono:
		return ByStage
	}
	return NotKnown
}
