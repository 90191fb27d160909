// Package sound is the physics of levels that several stages reckon with.
package sound

import (
	"math"

	"largo/core/unit"
)

// Direct is the level of the direct sound in dB SPL: a sensitivity at 1 W and 1 m,
// a power, a distance; L = S + 10 lg P − 20 lg r (inverse square law).
func Direct(sensitivity unit.Decibel, power unit.Watt, distance unit.Metre) unit.Decibel {
	return sensitivity + unit.OfPower(float64(power)) - unit.OfVolts(float64(distance))
}

// Together is the level of sources whose powers add, in dB.
func Together(levels ...unit.Decibel) unit.Decibel {
	sum := 0.0
	for _, l := range levels {
		sum += l.Ratio()
	}
	return unit.OfPower(sum)
}

// DoseTime is the time at a level in dB(A) that fills a day's dose: a criterion for
// eight hours, halved for every exchange of dB above it. NIOSH 98-126 takes 85 and 3,
// 29 CFR 1910.95 90 and 5.
func DoseTime(level, criterion, exchange unit.Decibel) unit.Second {
	return unit.Second(8 * 3600 / math.Pow(2, float64((level-criterion)/exchange)))
}

// Speed is that of sound in dry air in m/s: 343.2 sqrt(T/293.15 K).
func Speed(celsius float64) float64 { return 343.2 * math.Sqrt((celsius+273.15)/293.15) }

// Louder is how many times as loud people would call a gain: ten decibels are
// commonly called twice as loud, sone N = 2^(phon/10) (ISO 532 and ISO 226
// practice; from memory). In the deep bass 5 to 6 dB are.
func Louder(gain unit.Decibel) unit.Ratio { return unit.Ratio(math.Pow(2, float64(gain)/10)) }

// ProgrammeRoom is how far the average of ordinary programme lies under a
// full sine: its average power is 1/8 of it, 9 dB, a crest factor of 12 dB
// with occasional clipping (IEC 62368-1, annex on audio amplifiers; from memory).
const ProgrammeRoom unit.Decibel = 9.03
