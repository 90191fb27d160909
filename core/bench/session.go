// Package bench is the thermal test of a driver in its own box: what is set up, what was
// read and done, what follows from it.
//
// A session is its set-up and what happened, in order; everything else is worked out anew.
// Times are whole seconds since 1970, UTC; what is shown is shifted by the zone of the
// set-up.
package bench

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/thermal"
	"largo/core/unit"
)

// Setup is what a session begins with.
type Setup struct {
	Model string `json:"model"` // its id in the library
	Title string `json:"title"` // its name when the session began
	Way   string `json:"way,omitempty"`
	Box   string `json:"box,omitempty"` // which of the boxes
	Place string `json:"place,omitempty"`
	Zone  int    `json:"zone,omitempty"` // seconds east of UTC of the clock there

	Rating  unit.Given[unit.Watt]  `json:"rating,omitzero"`  // continuous
	On      unit.Given[unit.Ohm]   `json:"on,omitzero"`      // the impedance it was figured on
	Nominal unit.Given[unit.Ohm]   `json:"nominal,omitzero"` // of the box
	Qes     unit.Given[unit.Ratio] `json:"qes,omitzero"`
	Vented  bool                   `json:"vented,omitempty"`
	// dB SPL of 1 W at 1 m: volts by a level that is heard follow from it
	Sensitivity unit.Given[unit.Decibel] `json:"sensitivity,omitzero"`

	Coil   Wire                     `json:"coil,omitempty"`
	Re     unit.Given[unit.Ohm]     `json:"re,omitzero"`     // of the cold coil
	OnLine unit.Given[unit.Ohm]     `json:"onLine,omitzero"` // volts over amperes of the noise, cold
	Cold   unit.Given[unit.Celsius] `json:"cold,omitzero"`   // the box then
	Low    unit.Given[unit.Hertz]   `json:"low,omitzero"`    // the band of the noise, as in use
	High   unit.Given[unit.Hertz]   `json:"high,omitzero"`
	Into   unit.Given[unit.Decibel] `json:"into,omitzero"` // how far the noise is held into the limiter

	Probes [2]string `json:"probes"`          // where each sits; "" where there is none
	Ready  []string  `json:"ready,omitempty"` // of the cautions
	Ask    string    `json:"ask,omitempty"`   // address of a probe that is asked by itself
	// Show: nothing is tested, a box is watched while it plays. Its volts are read, each
	// reading holding until the next, and frame or coil where anybody can reach them.
	Show bool `json:"show,omitempty"`
	// What is known of the driver beforehand, nil where nothing but its rating is.
	Known *thermal.Knowledge `json:"known,omitempty"`
	From  string             `json:"from,omitempty"` // where that is from
}

// Wire is what a coil is wound of.
type Wire string

// The wires; "" is copper.
const (
	CopperWire    Wire = "copper"
	AluminiumWire Wire = "aluminium"
)

// alpha is the rise of resistance per K over 20 °C.
func (w Wire) alpha() float64 {
	if w == AluminiumWire {
		return thermal.Aluminium
	}
	return thermal.Copper
}

// Places are where a probe sits.
var Places = []string{"magnet", "frame", "basket", "cone"}

// Caution is what has to be seen to before there is any power.
type Caution struct{ Key, Says string }

// Cautions are all of them (common practice, no source).
var Cautions = []Caution{
	{"fire", "An extinguisher stands at hand, and nothing that burns lies near."},
	{"air", "The room is aired: hot glue and varnish smoke before they burn."},
	{"watch", "Somebody stays with it, all the time, and can switch it off."},
	{"ears", "Ears are protected, and nobody else has to hear it."},
	{"spare", "A spare driver is there: this test may end one."},
	{"filter", "The high-pass and the band are as in use, and the box is closed as in use."},
}

// Observed is what ear and eye say.
type Observed string

// What cone and port do.
const (
	Quiet Observed = "quiet"
	Moves Observed = "moves hard"
	Hits  Observed = "hits its end"
	Chuff Observed = "port blows"
	Smell Observed = "smell or smoke"
)

// Observeds are all of them.
var Observeds = []Observed{Quiet, Moves, Chuff, Hits, Smell}

// Kind is a sort of event.
type Kind string

// The sorts of events.
const (
	Step     Kind = "step"    // the limiter is set
	Read     Kind = "reading" // what was read
	Sun      Kind = "sun"
	Shade    Kind = "shade"
	Note     Kind = "note"
	Withdraw Kind = "withdraw" // an event was wrong
	End      Kind = "end"
)

// Event is one thing that happened.
type Event struct {
	Seq  int    `json:"seq"` // from 1, in the order in which they were kept
	At   int64  `json:"at"`  // s since 1970
	By   string `json:"by,omitempty"`
	Kind Kind   `json:"kind"`

	Volts unit.Given[unit.Volt]       `json:"volts,omitzero"` // of a step the limiter, of a reading the clamp; rms
	Amps  unit.Given[unit.Ampere]     `json:"amps,omitzero"`
	Probe [2]unit.Given[unit.Celsius] `json:"probe"`
	Air   unit.Given[unit.Celsius]    `json:"air,omitzero"`
	Into  unit.Given[unit.Decibel]    `json:"into,omitzero"` // how far into the limiter it stood
	Seen  Observed                    `json:"seen,omitempty"`
	Said  string                      `json:"said,omitempty"`
	Of    int                         `json:"of,omitempty"`    // what is withdrawn
	Sure  bool                        `json:"sure,omitempty"`  // said again after it was doubted
	Auto  bool                        `json:"auto,omitempty"`  // the probe sent it
	Photo int64                       `json:"photo,omitempty"` // of it, by its id; 0 for none
}

// Session is a thermal test.
type Session struct {
	Setup  Setup
	Events []Event // by Seq
}

// Bounds of what is typed.
const (
	coldest, hottest       = -40, 400 // °C of a probe that sits on a driver
	hottestAir             = 60
	mostVolts              = 500
	mostAmps               = 200
	mostEvents             = 20_000
	mostInto               = 30
	leap                   = 25.0 // K between two readings that is asked about
	leapWithin             = 300  // s
	sameTime               = 20   // s within which a probe is read once
	mostSaid               = 500
	ahead            int64 = 90 // s that a clock may go before ours
)

// Check faults what a set-up cannot be, by field.
func (s *Setup) Check() error {
	var l fault.List
	l.CheckName("model", "The box", s.Model, 80, true)
	l.CheckName("title", "The name of the box", s.Title, 160, true)
	l.CheckName("way", "The way", s.Way, 20, false)
	l.CheckName("box", "Which box it is", s.Box, 60, false)
	l.CheckName("place", "The place", s.Place, 120, false)
	l.CheckName("ask", "The address of the probe", s.Ask, 200, false)
	for i, p := range s.Probes {
		l.CheckName(fmt.Sprintf("probe%d", i+1), "Where the probe sits", p, 40, i == 0)
	}
	if s.Zone < -50400 || s.Zone > 50400 {
		l.Add("zone", "A clock is at most 14 hours off UTC.")
	}
	if s.Coil != "" && s.Coil != CopperWire && s.Coil != AluminiumWire {
		l.Add("coil", "A coil is of copper or of aluminium.")
	}
	between(&l, "rating", "A rating", s.Rating, 1, 10_000)
	between(&l, "on", "The impedance of the rating", s.On, 0.5, 200)
	between(&l, "nominal", "An impedance", s.Nominal, 0.5, 200)
	between(&l, "sensitivity", "A sensitivity", s.Sensitivity, 50, 130)
	between(&l, "re", "The coil's resistance", s.Re, 0.3, 200)
	between(&l, "onLine", "Volts over amperes", s.OnLine, 0.3, 200)
	between(&l, "cold", "A cold box", s.Cold, -20, 45)
	between(&l, "low", "The lower end of the band", s.Low, 5, 20_000)
	between(&l, "high", "The upper end", s.High, 5, 40_000)
	between(&l, "into", "How far into the limiter", s.Into, 0, mostInto)
	if low, high := s.Low.Or(0), s.High.Or(1e9); low >= high {
		l.Add("high", "The band ends at %s, below where it begins.", high)
	}
	if !s.Rating.Known() {
		l.Add("rating", "Without the continuous rating nothing is known to begin with. Note it with the model.")
	}
	if !s.Re.Known() && !s.Nominal.Known() {
		l.Add("re", "Give the coil's resistance, cold, or note the nominal impedance with the model.")
	}
	if s.Known != nil {
		if err := s.Known.Body.Check(); err != nil {
			l.Add("known", "What is known of the driver cannot be: %s.", err)
		}
		for _, d := range s.Known.Doubt {
			if !(d > 0 && d < 3) {
				l.Add("known", "What is known of the driver states no doubt that could be.")
			}
		}
	}
	return l.Err()
}

func between[T unit.Quantity](l *fault.List, field, what string, g unit.Given[T], low, high T) {
	if v, known := g.Get(); known && !(v >= low && v <= high) {
		l.Add(field, "%s of %s cannot be right: %s to %s.", what, v, low, high)
	}
}

// Begin is a set-up of a box of the library, or of a way of it, with what is known of it.
func Begin(m gear.Model, way int) (Setup, error) {
	box := m.Loudspeaker
	if m.Kind != gear.KindLoudspeaker || box == nil || box.Active {
		return Setup{}, fault.At("model", "%s is no passive box: what heats in it is not reached from outside.", m.Title())
	}
	if way < 0 || way >= max(1, len(box.Ways)) {
		return Setup{}, fault.At("way", "%s has no such way.", m.Title())
	}
	seen, name := box.WayAt(way + 1)
	s := Setup{Model: m.ID, Title: m.Title(), Way: name, Nominal: seen.Nominal, Vented: seen.Vented, Low: seen.Low,
		High: seen.High, Into: unit.Of(unit.Decibel(5)), Probes: [2]string{Places[0]}, Coil: CopperWire}
	if p := seen.ContinuousW(); p.Known() {
		s.Rating = unit.Of(unit.Watt(p.Value))
	}
	if z := seen.RatedOn(); z.Known() {
		s.On = unit.Of(unit.Ohm(z.Value))
	}
	if one := seen.OneWattSensitivity(); one.Known() {
		s.Sensitivity = unit.Of(unit.Decibel(one.Value))
	}
	if d := seen.Driver; d != nil {
		s.Re, s.Qes = d.Re, d.Qes
		s.Known, s.From = ofDriver(d), "the figures of the sheet"
		if s.Known == nil {
			s.From = ""
		}
	}
	if hp, known := seen.HighPass.Get(); known {
		s.Low = unit.Of(hp)
	}
	return s, nil
}

// Doubts of what is known, as standard deviations of a logarithm.
const (
	// ApartUnits is one unit of a model against another, or one day against the next
	// (from memory: drivers of one make differ by about a tenth).
	ApartUnits = 0.08
	ofSheets   = 0.25 // a sheet's thermal figures, which are of free air
)

// KnownOf is what is known of how a driver heats before it ever was heated, and where that
// is from: all four figures of its sheet, else its rating with its coil.
func KnownOf(d *gear.Drive) (k thermal.Knowledge, from string) {
	ohms := assumedRe * float64(d.Nominal.Or(8))
	if d.Driver != nil {
		if known := ofDriver(d.Driver); known != nil {
			return *known, "the figures of its sheet"
		}
		ohms = float64(d.Driver.Re.Or(unit.Ohm(ohms)))
	}
	watts := unit.Watt(100)
	if p := d.ContinuousW(); p.Known() {
		watts = unit.Watt(p.Value)
	}
	return thermal.Beforehand(float64(watts), ohms, thermal.Copper),
		fmt.Sprintf("its rating of %s: what most drivers of it do",
			watts)
}

// assumedRe is the coil's part of the nominal impedance where nobody measured it: a coil
// of an 8 Ω driver has 5.5 to 6.5 Ω (common practice, no source).
const assumedRe = 0.8

// ofDriver is what a sheet says of how a driver heats, nil unless it says all of it.
func ofDriver(d *gear.Driver) *thermal.Knowledge {
	re, k1 := d.Re.Get()
	c1, k2 := d.CoilJK.Get()
	r1, k3 := d.CoilKW.Get()
	c2, k4 := d.FrameJK.Get()
	r2, k5 := d.FrameKW.Get()
	if !(k1 && k2 && k3 && k4 && k5) {
		return nil
	}
	return &thermal.Knowledge{Doubt: [4]float64{ofSheets, ofSheets, ofSheets, ofSheets}, Body: thermal.Body{
		R20: float64(re), Alpha: thermal.Copper, C1: float64(c1), R1: float64(r1), C2: float64(c2), R2: float64(r2)}}
}

// r20 is the coil's resistance at 20 °C, Ω; 0.8 of nominal where nobody gave it.
func (s *Setup) r20() float64 {
	re, known := s.Re.Get()
	if !known {
		return assumedRe * float64(s.Nominal.Or(8))
	}
	return float64(re) / (1 + s.Coil.alpha()*(float64(s.Cold.Or(20))-20))
}

// knowledge is what is known beforehand.
func (s *Setup) knowledge() thermal.Knowledge {
	if s.Known != nil {
		k := *s.Known
		k.Body.R20, k.Body.Alpha = s.r20(), s.Coil.alpha()
		return k
	}
	return thermal.Beforehand(float64(s.Rating.Or(100)), s.r20(), s.Coil.alpha())
}

// RatedVolts are those of the whole continuous rating, rms; unknown without it.
func (s *Setup) RatedVolts() unit.Given[unit.Volt] {
	p, known := s.Rating.Get()
	z, known2 := s.On.Get()
	if !known2 {
		z, known2 = s.Nominal.Get()
	}
	if !known || !known2 {
		return unit.Given[unit.Volt]{}
	}
	return unit.Of(p.Across(z))
}

// FirstVolts are those of a quarter of the rating, where a test begins (common practice,
// no source).
func (s *Setup) FirstVolts() unit.Given[unit.Volt] {
	v, known := s.RatedVolts().Get()
	if !known {
		return unit.Given[unit.Volt]{}
	}
	return unit.Of(v / 2)
}

// Watts are what volts make of the nominal impedance, as ratings are compared.
func (s *Setup) Watts(v unit.Volt) unit.Given[unit.Watt] {
	z, known := s.On.Get()
	if !known {
		if z, known = s.Nominal.Get(); !known {
			return unit.Given[unit.Watt]{}
		}
	}
	return unit.Of(v.Into(z))
}

// Missing are the cautions that nobody confirmed.
func (s *Setup) Missing() (says []string) {
	for _, c := range Cautions {
		if !slices.Contains(s.Ready, c.Key) {
			says = append(says, c.Says)
		}
	}
	return says
}

// inForce are the events that nobody withdrew, in the order of their times.
func (s *Session) inForce() []Event {
	gone := map[int]bool{}
	for _, e := range s.Events {
		if e.Kind == Withdraw {
			gone[e.Of] = true
		}
	}
	list := make([]Event, 0, len(s.Events))
	for _, e := range s.Events {
		if e.Kind != Withdraw && !gone[e.Seq] {
			list = append(list, e)
		}
	}
	sort.SliceStable(list, func(i, j int) bool { return list[i].At < list[j].At })
	return list
}

// InForce are the events that nobody withdrew, in the order of their times.
func (s *Session) InForce() []Event { return s.inForce() }

// Withdrawn tells whether an event was withdrawn.
func (s *Session) Withdrawn(seq int) bool {
	return slices.ContainsFunc(s.Events, func(e Event) bool { return e.Kind == Withdraw && e.Of == seq })
}

// Began is when the first volts came, false while there were none.
func (s *Session) Began() (int64, bool) {
	for _, e := range s.inForce() {
		if e.Kind == Step {
			return e.At, true
		}
	}
	return 0, false
}

// Ended is when it was ended, false while it is on.
func (s *Session) Ended() (int64, bool) {
	for _, e := range s.inForce() {
		if e.Kind == End {
			return e.At, true
		}
	}
	return 0, false
}

// Clock is a time as the clock there shows it.
func (s *Session) Clock(at int64) string {
	t := (at + int64(s.Setup.Zone)) % 86400
	return fmt.Sprintf("%02d:%02d", t/3600, t/60%60)
}

// Take faults what cannot have happened, by field, as of now: nothing of it is kept then.
func (s *Session) Take(e Event, now int64) error {
	var l fault.List
	l.CheckName("said", "A note", e.Said, mostSaid, e.Kind == Note && e.Photo == 0)
	events := s.inForce()
	_, ended := s.Ended()
	switch {
	case len(s.Events) >= mostEvents:
		l.Add("", "A session holds %d events, and this one has them. End it.", mostEvents)
	case e.At > now+ahead:
		l.Add("at", "%s is still to come; by our clock it is %s.", s.Clock(e.At), s.Clock(now))
	case len(s.Events) > 0 && e.At < s.Events[0].At-86400:
		l.Add("at", "That is a day or more before this session.")
	case ended && e.Kind != Withdraw && e.Kind != Note:
		l.Add("", "This session has ended. Withdraw its end to go on, or begin another.")
	}
	if e.Seen != "" && !slices.Contains(Observeds, e.Seen) {
		l.Add("seen", "That is nothing that a cone or a port does.")
	}
	switch e.Kind {
	case Step:
		s.takeStep(&l, e)
	case Read:
		s.takeReading(&l, e, events)
	case Withdraw:
		if e.Of < 1 || e.Of > len(s.Events) || s.Events[e.Of-1].Kind == Withdraw || s.Withdrawn(e.Of) {
			l.Add("of", "There is nothing of that number to withdraw, or it was withdrawn before.")
		}
	case Sun, Shade, Note, End:
	default:
		l.Add("kind", "%.20q is nothing that happens in a session.", e.Kind)
	}
	return l.Err()
}

func (s *Session) takeStep(l *fault.List, e Event) {
	v, known := e.Volts.Get()
	if s.Setup.Show {
		if !known || !(v >= 0 && v <= mostVolts) {
			l.Add("volts", "Say how many volts rms stand at the box: 0 to %d V.", mostVolts)
		}
		return
	}
	if missing := s.Setup.Missing(); len(missing) > 0 {
		l.Add("ready", "Before there is any power, confirm: %s", missing[0])
	}
	switch {
	case !known:
		l.Add("volts", "Say at how many volts rms the limiter stands.")
	case v == 0:
		l.Add("volts", "A step of 0 V heats nothing. To let it cool, end the session.")
	case !(v > 0 && v <= mostVolts):
		l.Add("volts", "A limiter at %s cannot be right: up to %d V.", v, mostVolts)
	}
	if most, rated := s.Setup.RatedVolts().Get(); known && rated && v > most*1.005 {
		l.Add("volts", "%s is over the whole rating, %s. This test never goes there.", v, most)
	}
	last, on := s.stepBefore(e.At)
	if on && known && float64(v) > float64(last)*math.Pow(10, mostUp/20)*1.01 {
		l.Add("volts", "From %s to %s is %s up. Go up by 3 dB at the most, to %s.", last, v,
			unit.OfVolts(float64(v/last)), last*unit.Volt(math.Pow(10, mostUp/20)))
	}
	if first, known2 := s.Setup.FirstVolts().Get(); !on && known && known2 && v > first*1.2 && !e.Sure {
		l.Add("volts", "%s is over a quarter of the rating, %s, where a test begins. Enter it again if this box was "+
			"tested before.", v, first)
	}
}

// stepBefore is the limiter in force before a time.
func (s *Session) stepBefore(at int64) (v unit.Volt, on bool) {
	for _, e := range s.inForce() {
		if e.Kind == Step && e.At <= at {
			v, on = e.Volts.Or(0), true
		}
	}
	return v, on
}

func (s *Session) takeReading(l *fault.List, e Event, events []Event) {
	some := e.Air.Known() || e.Amps.Known() || e.Volts.Known() || e.Into.Known() || e.Seen != ""
	for i, p := range e.Probe {
		field := fmt.Sprintf("probe%d", i+1)
		t, known := p.Get()
		some = some || known
		switch {
		case !known:
		case t < -273.15:
			l.Add(field, "%s is below absolute zero.", t)
		case t < coldest || t > hottest:
			l.Add(field, "%s cannot be a driver: %d to %d °C. Is the probe connected?", t, coldest, hottest)
		case s.Setup.Probes[i] == "":
			l.Add(field, "There is no probe %d in this session.", i+1)
		default:
			s.compare(l, field, i, e, events)
		}
	}
	between(l, "air", "Air", e.Air, -30, hottestAir)
	between(l, "volts", "A reading", e.Volts, 0, mostVolts)
	between(l, "amps", "A reading", e.Amps, 0, mostAmps)
	between(l, "into", "How far into the limiter", e.Into, -60, mostInto)
	if !some {
		l.Add("probe1", "Nothing was read: give a temperature, or what else was seen.")
	}
}

// compare asks about a reading that was made before, or that leaps from the nearest one.
func (s *Session) compare(l *fault.List, field string, i int, e Event, events []Event) {
	t := e.Probe[i].Or(0)
	var was unit.Celsius
	var when, apart int64 = 0, math.MaxInt64
	for _, o := range events {
		v, known := o.Probe[i].Get()
		if d := max(e.At-o.At, o.At-e.At); o.Kind == Read && known && d <= apart {
			was, when, apart = v, o.At, d
		}
	}
	far := math.Abs(float64(t - was))
	switch {
	case apart == 0 && was == t:
		l.Add(field, "That reading is here already, at %s.", s.Clock(when))
	case apart < sameTime && !e.Auto && was != t:
		l.Add(field, "At %s it read %s. Withdraw that first if it was wrong.", s.Clock(when), was)
	case apart <= leapWithin && far > leap && !e.Sure && !e.Auto:
		say := fmt.Sprintf("%s is %.0f K from %s at %s.", t, far, was, s.Clock(when))
		if f := (t - 32) / 1.8; math.Abs(float64(f-was)) < leap/4 {
			say += fmt.Sprintf(" In Fahrenheit it would be %s: write %s F.", f, unit.Number(float64(t)))
		}
		l.Add(field, "%s Enter it again if it is so.", say)
	}
}
