package match

import (
	"largo/core/load"
	"largo/core/rig"
	"largo/core/sound"
)

// Band is the range of amplifier power over continuous rating that a policy
// asks for; 0 means no bound below.
func Band(p rig.Policy) (low, high float64) {
	switch p {
	case rig.TenthOver:
		return 1, 1.1
	case rig.Headroom:
		return 1, 2
	}
	return 0, 1
}

// PolicyAt is the policy that a box on an output is driven by.
func PolicyAt(r rig.Rig, b load.Box) rig.Policy {
	return r.PolicyOf(b.Part())
}

// Asks is what a policy asks of the crew.
func Asks(p rig.Policy) string {
	switch p {
	case rig.TenthOver:
		return "amplifier 1.0 to 1.1 times the continuous rating; asks for someone who hears distortion"
	case rig.Headroom:
		return "amplifier 1 to 2 times the continuous rating; asks for limiters set and someone listening"
	case rig.LevelFirst:
		return "any amplifier that gives the level, within the continuous rating"
	}
	return "amplifier at or under the continuous rating; for unattended or untrained use"
}

// BandTolerance is that of the bounds of a policy, which are inclusive, where a
// plan is worked out exactly.
const BandTolerance = 1e-9

// judgeTolerance is how far a power over a rating may lie outside the bounds of
// a policy before it is found wrong: the rounding of the figures on a sheet.
const judgeTolerance = 0.005

// TooStrong tells whether a power over a rating lies above a policy's bound
// beyond the rounding of sheets.
func TooStrong(ratio, high float64) bool { return ratio > high*(1+judgeTolerance) }

// TooWeak tells the same of the bound below.
func TooWeak(ratio, low float64) bool { return ratio < low*(1-judgeTolerance) }

// ProgrammePart is the part of its rated power that an amplifier gives out on
// ordinary music: an eighth (IEC 62368-1, from memory).
const ProgrammePart = 1.0 / 8

// ProgrammeRoom is how far the average of ordinary programme lies under a
// full sine: its average power is 1/8 of it, 9 dB, a crest factor of 12 dB
// with occasional clipping (IEC 62368-1, annex on audio amplifiers; from memory).
const ProgrammeRoom = sound.ProgrammeRoom
