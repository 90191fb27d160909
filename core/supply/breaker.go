package supply

import (
	"math"

	"largo/core/rig"
	"largo/core/unit"
)

// Band is what a breaker does with a current, in times of its rating: under Holds it never
// trips at once, from Trips on it surely does.
type Band struct{ Holds, Trips float64 }

// AtOnce is within what a breaker of a curve trips at once, within a tenth of a second: of
// IEC 60898-1 (from memory) B 3 to 5, C 5 to 10, D 10 to 20 times its rating; of a North
// American thermal-magnetic one 5 to 10 (common practice, no source). A curve that is not
// known is taken for the most touchy, B.
func AtOnce(c rig.Curve) Band {
	switch c {
	case rig.CurveC, rig.CurveAmerican:
		return Band{5, 10}
	case rig.CurveD:
		return Band{10, 20}
	}
	return Band{3, 5}
}

// Conventional is what a breaker holds for an hour, and what it trips by within an hour, in
// times of its rating: 1.13 and 1.45 by IEC 60898-1; 1.00 and 1.35 by UL 489 (both from
// memory).
func Conventional(c rig.Curve) Band {
	if c == rig.CurveAmerican {
		return Band{1, 1.35}
	}
	return Band{1.13, 1.45}
}

// Within is after what time a breaker may trip of a current, and by when it surely has, s;
// the second is 0 where it may never. Between the hour and the tenth of a second both
// limits are taken as straight lines of logarithms through what the standard fixes: 2.55
// times within 1 to 60 s (IEC 60898-1, up to 32 A, from memory).
func Within(rating, carried unit.Ampere, c rig.Curve) (earliest, latest unit.Second) {
	k := float64(carried / rating)
	hour, once := Conventional(c), AtOnce(c)
	early := [][2]float64{{hour.Holds, 3600}, {2.55, 1}, {once.Holds, 0.1}}
	late := [][2]float64{{hour.Trips, 3600}, {2.55, 60}, {once.Trips, 0.1}}
	if k <= hour.Holds {
		return 0, 0
	}
	return between(early, k), between(late, k*(1+1e-9)) // what it trips by it trips by
}

// between reads a time off a line of logarithms; 0 below its beginning, which is never.
func between(line [][2]float64, k float64) unit.Second {
	if k < line[0][0] {
		return 0
	}
	for i := 1; i < len(line); i++ {
		a, b := line[i-1], line[i]
		if k <= b[0] {
			at := math.Log(k/a[0]) / math.Log(b[0]/a[0])
			return unit.Second(a[1] * math.Pow(b[1]/a[1], at))
		}
	}
	return unit.Second(line[len(line)-1][1])
}
