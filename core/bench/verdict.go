package bench

import (
	"fmt"
	"math"

	"largo/core/finding"
	"largo/core/unit"
)

// Act is what a verdict says to do.
type Act string

// The acts.
const (
	Ready Act = "begin"
	Hold  Act = "hold"
	Up    Act = "up"
	Down  Act = "down"
	Halt  Act = "stop"
	Over  Act = "ended"
)

// Verdict is what to do at this step, and why.
type Verdict struct {
	Act   Act
	Says  string
	Why   string
	To    unit.Given[unit.Volt] // where the limiter goes
	Grave finding.Gravity       // 0 where all is well
}

// What a frame, and a coil, may do. Frame: about 100 °C is too hot, settled under about 60
// may go up, by 3 dB at the most (common practice, no source). Coil: 2 to 3 dB of level is
// as much as one wants, +66 to +105 K; at 6 dB, +253 K, coils fail (physics of copper, and
// common practice for where it fails).
const (
	frameDown        = 100.0
	frameUp          = 60.0
	mostUp           = 3.0
	coilWanted       = 105.0
	CoilFails        = 253.0 // K over the air
	stepOf           = 0.5   // dB
	stale      int64 = 600   // s without a reading while there is power
)

func (st *Study) verdict() {
	v := &st.Verdict
	hot, at, read := st.Hottest()
	switch {
	case st.ended(v):
	case st.Setup.Show:
		st.playing(v)
	case st.Began == 0:
		v.Act, v.To = Ready, st.Setup.FirstVolts()
		v.Says = "Nothing has been heated yet."
		if first, known := v.To.Get(); known {
			v.Says = fmt.Sprintf("Begin at a quarter of the rating: limiter at %s.", first)
		}
		v.Why = "First read the cold box and its air, and what the noise draws at a whisper."
		if n := len(st.Setup.Missing()); n > 0 {
			v.Says, v.Why = "Not yet: the cautions come first.", st.Setup.Missing()[0]
			v.To = unit.Given[unit.Volt]{}
		}
	case st.seen() == Smell:
		v.Act, v.Grave, v.Says = Halt, finding.Stop, "Off, at the amplifier: smell or smoke was seen."
		v.Why = "Air the room, let it cool with nobody's head in the box, and measure the coil before anything else."
	case read && hot >= frameDown:
		v.Act, v.Grave = Down, finding.Stop
		v.To = st.down()
		v.Says = fmt.Sprintf("Down: %.0f °C at the %s.", hot, st.Setup.Probes[st.Believed])
		v.Why = st.toWhat("")
	case st.Known && st.NowCoil.Low-st.Air > CoilFails:
		v.Act, v.Grave, v.Says = Down, finding.Stop, fmt.Sprintf("Down: the coil is at %.0f °C, where coils fail.",
			st.NowCoil.Mid)
		v.To, v.Why = st.down(), "Its ohms have doubled: 6 dB of level are gone."
	case read && st.Now-at > stale:
		v.Act, v.Grave = Hold, finding.Mend
		v.Says = fmt.Sprintf("Read it: the last reading is %s old.", Minutes(float64(st.Now-at)))
		v.Why = "A driver under power that nobody watches is how fires begin."
	case st.blind():
		v.Act, v.Grave = Hold, finding.Mend
		v.Says = fmt.Sprintf("Hold, and look at the probe on the %s: what it reads is not of the driver.",
			st.Setup.Probes[st.Believed])
		v.Why = "Nobody knows how hot it is now. Volts down before anybody reaches in."
	case !st.Known:
		v.Act, v.Says = Hold, "Hold, and read: nothing was read yet."
		v.Why = "Where it ends cannot be said before."
	default:
		st.forecast(v)
	}
}

// Budget is how much of what a coil stands is used, of 253 K over its air: where coils fail.
func (st *Study) Budget() float64 { return max(0, st.NowCoil.Mid-st.Air) / CoilFails }

// What of the budget is used before it is worth a word.
const (
	muchUsed = 0.5
	allUsed  = 0.8
)

// playing is the verdict of a box that is watched while it plays.
func (st *Study) playing(v *Verdict) {
	v.Act, v.Says = Hold, "Read the volts at the box, now and whenever they change."
	v.Why = "From them follows how hot its coil is, as far as its figures tell."
	if !st.Known {
		return
	}
	v.Says = fmt.Sprintf("The coil is near %.0f °C, %.0f %% of what it stands.", st.NowCoil.Mid, 100*st.Budget())
	v.Why = fmt.Sprintf("%.0f to %.0f °C, nine times in ten, the frame near %.0f. At these volts it ends near %.0f °C.",
		st.NowCoil.Low, st.NowCoil.High, st.NowIs.Mid, st.EndCoil.Mid)
	switch ends := max(0, st.EndCoil.Mid-st.Air) / CoilFails; {
	case st.Budget() > allUsed:
		v.Act, v.Grave, v.To = Down, finding.Stop, st.by(-3)
		v.Says = fmt.Sprintf("Down by 3 dB: the coil is near %.0f °C, %.0f %% of what it stands.", st.NowCoil.Mid,
			100*st.Budget())
	case ends > allUsed:
		v.Act, v.Grave, v.To = Down, finding.Mend, st.by(-1.5)
		v.Says = fmt.Sprintf("Down soon: at these volts the coil ends near %.0f °C; %.0f %% of what it stands are used.",
			st.EndCoil.Mid, 100*st.Budget())
	case ends > muchUsed:
		v.Grave = finding.Mind
	}
}

// ended is the verdict of a session that is over, false while it is on.
func (st *Study) ended(v *Verdict) bool {
	if _, over := st.Ended(); !over {
		return false
	}
	v.Act = Over
	if !st.Known {
		v.Says = "Ended, and nothing was read: this session says nothing."
		return true
	}
	if st.Setup.Show {
		v.Says = fmt.Sprintf("Ended; the coil came to about %.0f °C at the last volts.", st.NowCoil.Mid)
		return true
	}
	if !st.Taught() {
		v.Says = fmt.Sprintf("Ended at %s, and proves nothing: too short, or its probe failed.", st.Volts)
		v.Why = fmt.Sprintf("By what was read, it would settle at %.0f to %.0f °C.", st.End.Low, st.End.High)
		v.Grave = finding.Mind
		return true
	}
	v.Says = fmt.Sprintf("Ended at %s%s; it would settle at %s.", st.Volts, st.asPart(), st.says(st.End.Mid))
	v.Why = fmt.Sprintf("The range is %.0f to %.0f °C.", st.End.Low, st.End.High)
	return true
}

// blind tells whether the last that the probe read is not believed: then nothing is known of
// the driver as it is now, whatever the readings before it say.
func (st *Study) blind() bool {
	lost := false
	for _, e := range st.inForce() {
		if e.Kind == Read && e.Probe[st.Believed].Known() {
			lost = st.unsound[[2]int{e.Seq, st.Believed}]
		}
	}
	return lost
}

// asPart says what part of the rating some volts are.
func (st *Study) asPart() string {
	w, known := st.Setup.Watts(st.Volts).Get()
	rated, known2 := st.Setup.Rating.Get()
	if !known || !known2 {
		return ""
	}
	return fmt.Sprintf(", %s, %.0f %% of the rating", w, 100*float64(w/rated))
}

func (st *Study) says(t float64) string {
	return fmt.Sprintf("%.0f °C at the %s", t, st.Setup.Probes[st.Believed])
}

// seen is what ear and eye said last, since the step that is on; smoke is never forgotten.
func (st *Study) seen() Observed {
	seen := Observed("")
	for _, e := range st.inForce() {
		switch {
		case e.Seen == Smell:
			return Smell
		case e.Seen != "" && e.At >= st.Since:
			seen = e.Seen
		}
	}
	return seen
}

// forecast is the verdict by where it ends.
func (st *Study) forecast(v *Verdict) {
	sure := st.KnownIn <= 0
	switch {
	case st.End.Low > frameDown:
		v.Act, v.Grave, v.To = Down, finding.Mend, st.down()
		v.Says = fmt.Sprintf("Down: it ends between %.0f and %.0f °C at the %s.", st.End.Low, st.End.High,
			st.Setup.Probes[st.Believed])
		v.Why = st.toWhat("It is not there yet.")
	case st.seen() == Hits:
		v.Act, v.Grave, v.To = Down, finding.Mend, st.by(-mostUp)
		v.Says = "Down: the cone hits its end. Heat is not what bounds this box."
		v.Why = "No limiter of volts holds the cone below the tuning: look at the high-pass first."
	case st.EndCoil.Low-st.Air > coilWanted:
		v.Act, v.Grave = Hold, finding.Mind
		_, level, _ := st.Level(st.EndCoil.Mid)
		v.Says = fmt.Sprintf("No further: the coil ends near %.0f °C, %s of level lost.", st.EndCoil.Mid, level)
		v.Why = "Two to three decibels are as much as one wants; more volts give hardly more sound."
	case st.End.High < frameUp && st.seen() == "":
		v.Act = Hold
		v.Says = fmt.Sprintf("It stays under %.0f °C: look and listen to cone and port, and note it.", frameUp)
		v.Why = "Up only while both are quiet."
	case st.End.High < frameUp && st.seen() == Quiet:
		st.up(v)
	case st.End.High < frameUp:
		v.Act = Hold
		v.Says = fmt.Sprintf("Hold: cool enough, but the note says: %s.", st.seen())
		v.Why = "What moves, and not heat, bounds this box. Stay here, or look at the high-pass."
	case !sure:
		st.wait(v)
	default:
		v.Act = Hold
		v.Says = fmt.Sprintf("Hold %s: it settles near %s.", st.Volts, st.says(st.End.Mid))
		v.Why = fmt.Sprintf("%.0f to %.0f °C, nine times in ten. Over %.0f it is no further up, under %.0f no need for down.",
			st.End.Low, st.End.High, frameUp, frameDown)
	}
}

// wait is the verdict while the end is not known well enough.
func (st *Study) wait(v *Verdict) {
	v.Act = Hold
	v.Says = fmt.Sprintf("Hold: where it ends is not known yet, %.0f to %.0f °C.", st.End.Low, st.End.High)
	v.Why = "It will not be known within six hours at this pace: read more often."
	if st.Will {
		v.Why = fmt.Sprintf("Known well enough in about %s, at %s, if the readings go on as now.", Minutes(st.KnownIn),
			st.Clock(st.Now+int64(st.KnownIn)))
	}
}

// up is the largest step that ends well under what is too hot, for frame and coil.
func (st *Study) up(v *Verdict) {
	rated, known := st.Setup.RatedVolts().Get()
	for db := mostUp; db >= stepOf; db -= stepOf {
		to := st.by(db).Or(0)
		frame, coil := st.Learnt.EndAt(st.Seconds(st.Now), float64(to)*st.heldOver())
		if frame.High > frameDown || coil.Mid-st.Air > coilWanted || known && to > rated*1.0001 {
			continue
		}
		v.Act, v.To = Up, unit.Of(to)
		v.Says = fmt.Sprintf("Up by %s, to %s: there it ends near %.0f °C.", unit.Decibel(db), to, frame.Mid)
		v.Why = fmt.Sprintf("Here it ends at %.0f to %.0f °C, under %.0f; there at %.0f to %.0f, the coil near %.0f.",
			st.End.Low, st.End.High, frameUp, frame.Low, frame.High, coil.Mid)
		return
	}
	v.Act = Hold
	v.Says = fmt.Sprintf("Hold %s: cool, but there is no step left.", st.Volts)
	v.Why = "Half a decibel more would take the coil, or the whole rating, over what it stands."
}

// heldOver is what was clamped over what the limiter is set to: 1 where nobody clamped.
func (st *Study) heldOver() float64 {
	if held := st.Learnt.Volts(); held > 0 && st.Volts > 0 {
		return held / float64(st.Volts)
	}
	return 1
}

// by is the limiter so many dB up, to a tenth of a volt below.
func (st *Study) by(db float64) unit.Given[unit.Volt] {
	v := float64(st.Volts) * math.Pow(10, db/20)
	return unit.Of(unit.Volt(math.Floor(v*10+1e-6) / 10))
}

// down is the least step down that ends under what is too hot, whatever the doubt.
func (st *Study) down() unit.Given[unit.Volt] {
	if st.Known {
		for db := -stepOf; db > -12; db -= stepOf {
			to := st.by(db).Or(0)
			frame, coil := st.Learnt.EndAt(st.Seconds(st.Now), float64(to)*st.heldOver())
			if frame.High < frameDown-5 && coil.Mid-st.Air < CoilFails/2 {
				return unit.Of(to)
			}
		}
	}
	return st.by(-6)
}

// toWhat says what going down gives.
func (st *Study) toWhat(first string) string {
	to, known := st.Verdict.To.Get()
	if !known {
		return first
	}
	if !st.Known {
		return fmt.Sprintf("To %s, and read.", to)
	}
	frame, _ := st.Learnt.EndAt(st.Seconds(st.Now), float64(to)*st.heldOver())
	return fmt.Sprintf("%s At %s, %s, it ends near %.0f °C.", first, to, unit.OfVolts(float64(to/st.Volts)).Signed(),
		frame.Mid)
}
