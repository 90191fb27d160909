package thermal

// Heater heats a driver step by step, by volts that change all the time.
type Heater struct {
	State State
	w     *walk
}

// NewHeater is a driver in constant air.
func NewHeater(b Body, begin State, air float64) *Heater {
	c := &Course{Begin: begin, Air: Air{{Degrees: air}}}
	return &Heater{begin, b.walk(c)}
}

// Step goes on by so many s under so many volts rms.
func (h *Heater) Step(volts, s float64) {
	h.w.volts = volts
	h.w.step(s)
	h.w.t += s
	h.State = h.w.state
}
