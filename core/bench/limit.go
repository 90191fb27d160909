package bench

import (
	"fmt"
	"math"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/unit"
)

// Limit notes with a model what the session found: the volts that it stood until it had
// settled, or of which it is known where it would. The fault is of no field.
func (st *Study) Limit(m gear.Model) (gear.Model, error) {
	v, err := st.Stood()
	if err != nil {
		return m, err
	}
	m = m.Clone()
	drive := &m.Loudspeaker.Drive
	for i := range m.Loudspeaker.Ways {
		if m.Loudspeaker.Ways[i].Name == st.Setup.Way {
			drive = &m.Loudspeaker.Ways[i].Drive
		}
	}
	drive.Tested = unit.From(v, fmt.Sprintf("thermal test of %s, %s under power, %.0f °C at the %s", st.box(),
		Minutes(float64(st.Now-st.Began)), st.End.Mid, st.Setup.Probes[st.Believed]))
	return m, nil
}

func (st *Study) box() string {
	if st.Setup.Box != "" {
		return st.Setup.Box
	}
	return "one box"
}

// Stood are the volts rms that the session proved, to a tenth below; the error says what
// it lacks.
func (st *Study) Stood() (unit.Volt, error) {
	_, over := st.Ended()
	switch {
	case st.Setup.Show:
		return 0, fault.At("", "A show tests nothing: it proves no limit.")
	case !over:
		return 0, fault.At("", "The session is still on. End it first.")
	case !st.Known || !st.Taught():
		return 0, fault.At("", "It was heated too shortly, or its probe failed: it proves no limit.")
	case st.seen() == Smell || st.seen() == Hits:
		return 0, fault.At("", "It ended with %s: that is no limit to go on with.", st.seen())
	case st.End.High > frameDown:
		return 0, fault.At("", "It may settle at %.0f °C here, over %.0f: test it one step lower.", st.End.High, frameDown)
	case st.EndCoil.Mid-st.Air > CoilFails/2:
		return 0, fault.At("", "The coil ends near %.0f °C here: test it one step lower.", st.EndCoil.Mid)
	}
	return unit.Volt(math.Floor(float64(st.Volts)*st.heldOver()*10+1e-6) / 10), nil
}
