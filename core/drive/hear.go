package drive

import (
	"math"

	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// directivity is that of a box where nothing tells its own, for the part of the
// room: a full-range PA box of 90 by 60 degrees over its band (common practice, no
// source).
const directivity = 5.0

// RoomGain is what the reverberant field of a room adds to the direct sound at a
// distance: 10 lg(1 + r²/rc²), with the critical distance rc = 0.057 sqrt(Q V/T)
// (Hopkins and Stryker, 1948; the factor from Sabine's sum). 0 where the room is
// not known, and outdoors.
func RoomGain(b rig.Brief, r unit.Metre) (unit.Decibel, []reckon.Term) {
	v, known1 := b.Volume.Get()
	t, known2 := b.Reverberation.Get()
	if !known1 || !known2 || b.Outdoors {
		return 0, nil
	}
	critical := 0.057 * math.Sqrt(directivity*float64(v)/float64(t))
	return unit.OfPower(1 + math.Pow(float64(r)/critical, 2)),
		[]reckon.Term{reckon.In("rc", "critical distance", unit.Metre(critical), "")}
}

// ListeningDistance is from a box to its listeners: as noted of it, else, for the
// main audience, as the brief says.
func ListeningDistance(x *rig.Index, d *rig.Device) unit.Given[unit.Metre] {
	if d.Distance().Known() || d.Aim() != rig.Audience {
		return d.Distance()
	}
	return x.Rig.Brief.Distance
}

// NoDistance is what is lacking where that is not known.
func NoDistance(d *rig.Device) string {
	if d.Aim() == rig.Audience {
		return "the brief gives no distance to the listening point"
	}
	return "how far its listeners are from it is not on record"
}
