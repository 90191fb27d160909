package supply

import (
	"math"

	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// Flow is the current of a circuit from a time on, s.
type Flow struct {
	At   float64
	Amps unit.Ampere
}

// windows are over what times a breaker's heat is looked at, s: from some seconds to the hour
// that its standard speaks of.
var windows = []float64{10, 30, 60, 300, 600, 1800, 3600}

// mostGap is how long a reading counts for, s: what nobody read longer is not guessed.
const mostGap = 120

// Worn is how much of the time in which a breaker may trip a circuit has used: of each window
// of the readings the mean of its current's square against the band. One or more: it may trip
// at any moment. Unknown where too little was read.
func Worn(flow []Flow, rating unit.Ampere, c rig.Curve) (used, amps reckon.Figure) {
	const key, symbol, name = "worn", "w", "used of the time in which it may trip"
	var fullest struct {
		part, window float64
		mean         unit.Ampere
		early        unit.Second
	}
	for _, w := range windows {
		for end := 1; end < len(flow); end++ {
			square, seconds := meanSquare(flow, end, w)
			if seconds < 0.9*w {
				continue
			}
			mean, part := unit.Ampere(math.Sqrt(square)), 0.0
			early, _ := Within(rating, mean, c)
			if early > 0 {
				part = w / float64(early)
			}
			if part > fullest.part || part == fullest.part && mean > fullest.mean {
				fullest.part, fullest.window, fullest.mean, fullest.early = part, w, mean, early
			}
		}
	}
	if fullest.window == 0 {
		lacks := "no two readings lie close enough together"
		return reckon.Unknown(key, symbol, name, lacks), reckon.Unknown("wornAmps", "Iw", "mean of that time", lacks)
	}
	amps = reckon.Of("wornAmps", "Iw", "mean of its fullest while", fullest.mean, "").
		Because("root of the mean square of the readings")
	if fullest.early == 0 {
		return reckon.Ratio(key, symbol, name, 0, "").Noting("It holds that for ever."), amps
	}
	return reckon.Ratio(key, symbol, name, fullest.part, "{tw} / {tmin}",
		reckon.In("tw", "its fullest while", unit.Second(fullest.window), "read"),
		reckon.In("tmin", "may trip of that after", fullest.early, "")), amps
}

// meanSquare is the mean of the current's square over the seconds before a reading, as far as
// they were read.
func meanSquare(flow []Flow, end int, window float64) (square, seconds float64) {
	from := flow[end].At - window
	for i := end - 1; i >= 0; i-- {
		begin, until := max(flow[i].At, from), flow[i+1].At
		if until <= from {
			break
		}
		if flow[i+1].At-flow[i].At > mostGap {
			break
		}
		square += float64(flow[i].Amps) * float64(flow[i].Amps) * (until - begin)
		seconds += until - begin
	}
	if seconds == 0 {
		return 0, 0
	}
	return square / seconds, seconds
}
