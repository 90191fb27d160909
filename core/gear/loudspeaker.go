package gear

import (
	"fmt"
	"slices"
	"strings"

	"largo/core/fault"
	"largo/core/reckon"
	"largo/core/unit"
)

// Standards under which makers rate the power of a loudspeaker.
const (
	AES1984 = "AES2-1984"   // driver in free air, 2 h, 6 dB crest, figured on least impedance
	AES2012 = "AES2-2012"   // another method, stated on rated impedance
	IEC     = "IEC 60268-5" // box, 6 dB crest, figured on rated impedance
	Maker   = "maker's own"
)

// Standards lists the choices.
var Standards = []string{IEC, AES1984, AES2012, Maker}

// References of a sensitivity, at 1 m.
const (
	OneWatt       = "1 W"
	TwoPointEight = "2.83 V"
)

// Loudspeaker is a box, passive or active.
type Loudspeaker struct {
	Active bool `json:"active,omitempty"`
	Sub    bool `json:"sub,omitempty"`  // carries the low end alone
	Link   bool `json:"link,omitempty"` // has a link-through connector
	// that passes poles 1± alone, whatever its input carries
	LinkTwo bool `json:"linkTwo,omitempty"`
	Vented  bool `json:"vented,omitempty"` // ported: excursion is unbounded below its tuning

	Drive // of a passive box: of its only way, or of all behind its crossover
	// of a box driven by several channels, by pair of poles
	Ways []Way `json:"ways,omitempty"`
	// a switch on a box of one way puts its driver on poles 1± or 2±; its link-through
	// passes both on
	Selector    bool                   `json:"selector,omitempty"`
	Guard       Guard                  `json:"guard,omitempty"`       // what protects its tweeter
	JoinedMinus Answer                 `json:"joinedMinus,omitempty"` // its ways share one minus terminal
	Transformer bool                   `json:"transformer,omitempty"` // fed through a 70 or 100 V line transformer
	Low         unit.Given[unit.Hertz] `json:"low,omitzero"`          // of its band
	High        unit.Given[unit.Hertz] `json:"high,omitzero"`
	Response    Curve                  `json:"response,omitempty"` // dB SPL, measured
	Sockets     Sockets                `json:"sockets,omitzero"`

	// Of an active box.
	MaxSPL    unit.Given[unit.Decibel] `json:"maxSPL,omitzero"`    // peak, at 1 m
	InputClip unit.Given[unit.DBu]     `json:"inputClip,omitzero"` // largest level its input takes
	Latency   unit.Given[unit.Second]  `json:"latency,omitzero"`   // from its input until it sounds
}

// Guard is what protects the tweeter of a passive box; "" is not known.
type Guard string

// The guards.
const (
	NoGuard       Guard = "nothing"
	LampGuard     Guard = "lamp"
	FuseGuard     Guard = "fuse"
	ResettingFuse Guard = "resetting fuse"
)

// Guards are all of them.
var Guards = []Guard{NoGuard, LampGuard, FuseGuard, ResettingFuse}

func checkGuard(l *fault.List, field string, g Guard) {
	if g != "" && !slices.Contains(Guards, g) {
		l.Add(field, "%.20q is nothing that protects a tweeter.", string(g))
	}
}

// Way is one way of a box that is driven by a channel of its own, on the pair
// of poles of its place in the list.
type Way struct {
	Name string `json:"name"` // as low, high
	Drive
}

// Drive is what one amplifier channel sees and what it may do to it.
type Drive struct {
	Nominal        unit.Given[unit.Ohm]     `json:"nominal,omitzero"`
	Least          unit.Given[unit.Ohm]     `json:"least,omitzero"` // least |Z| in its band
	Continuous     unit.Given[unit.Watt]    `json:"continuous,omitzero"`
	Standard       string                   `json:"standard,omitempty"` // of the continuous rating
	Crest          unit.Given[unit.Decibel] `json:"crest,omitzero"`     // of the test signal
	Programme      unit.Given[unit.Watt]    `json:"programme,omitzero"`
	Peak           unit.Given[unit.Watt]    `json:"peak,omitzero"`
	Bare           unit.Given[unit.Watt]    `json:"bare,omitzero"` // "W" or "max" with no word: treated as peak
	Sensitivity    unit.Given[unit.Decibel] `json:"sensitivity,omitzero"`
	SensitivityRef string                   `json:"sensitivityRef,omitempty"` // OneWatt or TwoPointEight
	HighPass       unit.Given[unit.Hertz]   `json:"highPass,omitzero"`        // the high-pass its maker asks for
	AmpFrom        unit.Given[unit.Watt]    `json:"ampFrom,omitzero"`         // the amplifier its maker recommends
	AmpTo          unit.Given[unit.Watt]    `json:"ampTo,omitzero"`
	Tested         unit.Given[unit.Volt]    `json:"tested,omitzero"` // rms, that it stood for hours in its own box
	// a capacitor stands in its feed: an ohmmeter reads open
	Blocked   Answer  `json:"blocked,omitempty"`
	Impedance Curve   `json:"impedance,omitempty"` // measured, Ω
	Driver    *Driver `json:"driver,omitempty"`
}

// Driver is a cone in its box by its small-signal and thermal figures (Thiele
// and Small).
type Driver struct {
	Re         unit.Given[unit.Ohm]   `json:"re,omitzero"`
	Resonance  unit.Given[unit.Hertz] `json:"resonance,omitzero"`
	Qms        unit.Given[unit.Ratio] `json:"qms,omitzero"`
	Qes        unit.Given[unit.Ratio] `json:"qes,omitzero"`
	Inductance unit.Given[unit.Ratio] `json:"inductanceMH,omitzero"` // mH
	CoilJK     unit.Given[unit.Ratio] `json:"coilJK,omitzero"`       // heat capacity of the coil, J/K
	CoilKW     unit.Given[unit.Ratio] `json:"coilKW,omitzero"`       // coil to frame, K/W
	FrameJK    unit.Given[unit.Ratio] `json:"frameJK,omitzero"`
	FrameKW    unit.Given[unit.Ratio] `json:"frameKW,omitzero"` // frame to air, K/W
}

// mostWays is the pairs of poles of the largest twist-lock.
const mostWays = 4

// The names of a box's ports by pair of poles, from 1: they are asked for on
// every walk.
var poleIn, poleLink = [mostWays]string{"in", "in 2", "in 3", "in 4"},
	[mostWays]string{"link", "link 2", "link 3", "link 4"}

// PoleIn is the input of a pair of poles, 1 to 4.
func PoleIn(pair int) string { return poleIn[pair-1] }

// PoleLink is the link-through of a pair of poles, 1 to 4.
func PoleLink(pair int) string { return poleLink[pair-1] }

// PairOf is the pair of poles that a port of a box belongs to, 0 for none.
func PairOf(port string) int {
	for i := range mostWays {
		if port == poleIn[i] || port == poleLink[i] {
			return i + 1
		}
	}
	return 0
}

// Pairs is how many pairs of poles of the box lead to a way.
func (s *Loudspeaker) Pairs() int { return max(1, len(s.Ways)) }

// PolePairs is how many pairs of poles its sockets carry: those of its ways, and the
// two that a selector chooses from.
func (s *Loudspeaker) PolePairs() int {
	if s.Selector {
		return max(2, s.Pairs())
	}
	return s.Pairs()
}

// LinksOn tells whether its link-through passes a pair of poles on.
func (s *Loudspeaker) LinksOn(pair int) bool { return s.Link && (pair == 1 || !s.LinkTwo) }

// WayAt is the box as the channel on a pair of poles sees it, and the name of
// that way; the box itself when it has but one.
func (s *Loudspeaker) WayAt(pair int) (*Loudspeaker, string) {
	if len(s.Ways) == 0 {
		return s, ""
	}
	way := *s
	way.Drive, way.Ways = s.Ways[pair-1].Drive, nil
	return &way, s.Ways[pair-1].Name
}

func (s *Loudspeaker) ports() []Port {
	signal := Speaker
	if s.Active {
		signal = Line
	}
	ports := make([]Port, 0, 2*s.PolePairs()+1)
	for pair := 1; pair <= s.PolePairs(); pair++ {
		in := Port{Name: PoleIn(pair), Signal: signal, Dir: In, Connector: s.Sockets.In, Balanced: s.Sockets.Balanced}
		if !s.Active {
			in.Poles = pair
		}
		if len(s.Ways) > 0 {
			in.Way = s.Ways[pair-1].Name
		}
		ports = append(ports, in)
		if s.LinksOn(pair) {
			through := in
			through.Name, through.Dir = PoleLink(pair), Through
			if s.Sockets.Out != "" {
				through.Connector = s.Sockets.Out
			}
			ports = append(ports, through)
		}
	}
	return ports
}

// NominalZ is the nominal impedance in Ω, unknown when the plate gives none.
func (s *Drive) NominalZ() reckon.Figure {
	z, known := s.Nominal.Get()
	if !known {
		return reckon.Unknown("nominal", "Z", "nominal impedance",
			"the box has no nominal impedance on record; read its plate or measure it")
	}
	return reckon.Of("nominal", "Z", "nominal impedance", z, "").Because(origin(s.Nominal.Origin()))
}

// LeastZ is the least impedance in Ω: of a measured curve, all its points; else
// as the sheet gives it; else of the cone in its box. Where none is known, 80 % of
// nominal is assumed: the least that IEC 60268-5 lets a box of that nominal have
// (clause on rated impedance; from memory).
func (s *Drive) LeastZ() reckon.Figure {
	const key, symbol, name = "least", "Zmin", "least impedance"
	from := s.ImpedanceFrom()
	if p, found := s.Impedance.LeastIn(0, 1e9); found && from == FromCurve {
		return reckon.Of(key, symbol, name, unit.Ohm(p.Value), "least |Z| measured, at {f}",
			reckon.In("f", "frequency", unit.Hertz(p.Hz), "")).Because(string(FromCurve))
	}
	if z, known := s.Least.Get(); known {
		return reckon.Of(key, symbol, name, z, "").Because(origin(s.Least.Origin()))
	}
	if from == FromCone {
		f, z := s.Driver.least()
		return reckon.Of(key, symbol, name, z, "least |Z| of the cone, at {f}", reckon.In("f", "frequency", f, "")).
			Because(string(FromCone))
	}
	z, known := s.Nominal.Get()
	if !known {
		return reckon.Unknown(key, symbol, name, "neither least nor nominal impedance is on record")
	}
	return reckon.Of(key, symbol, name, 0.8*z, "0.8 × {Z}",
		reckon.In("Z", "nominal impedance", z, s.Nominal.Origin())).
		Noting("The sheet gives no least impedance; 80 % of nominal is assumed.").
		Because("IEC 60268-5 lets the least be 20 % under the rated impedance (from memory)")
}

// ratedUnder is what is noted of a standard; those that are known are asked for
// with every box.
func ratedUnder(standard string) string {
	switch standard {
	case IEC:
		return "Rated under " + IEC + "."
	case AES1984:
		return "Rated under " + AES1984 + "."
	case AES2012:
		return "Rated under " + AES2012 + "."
	}
	return "Rated under " + standard + "."
}

// ContinuousW is the long-term average power in W. Programme is taken as
// twice, peak as four times the continuous power (common practice at 6 dB
// crest, no source); a bare figure counts as peak until shown otherwise.
func (s *Drive) ContinuousW() reckon.Figure {
	name := "continuous power"
	if p, known := s.Continuous.Get(); known {
		f := reckon.Of("continuous", "Pc", name, p, "").Because(origin(s.Continuous.Origin()))
		if s.Standard == "" {
			f = f.Noting("The sheet names no standard for it.")
		} else {
			f = f.Noting(ratedUnder(s.Standard))
		}
		return f
	}
	for _, other := range []struct {
		given unit.Given[unit.Watt]
		what  string
		part  float64
		note  string
	}{
		{s.Programme, "programme power", 2, "Only a programme rating is on record; half of it is taken as continuous."},
		{s.Peak, "peak power", 4, "Only a peak rating is on record; a quarter of it is taken as continuous."},
		{s.Bare, "power without a word", 4,
			"The sheet gives bare watts; they are treated as peak, a quarter of them as continuous."},
	} {
		if p, known := other.given.Get(); known {
			return reckon.Of("continuous", "Pc", name, p/unit.Watt(other.part), "{P} / {n}",
				reckon.In("P", other.what, p, other.given.Origin()),
				reckon.Count("n", "peak or programme over continuous", other.part)).
				Noting(other.note).Because("common practice, no source")
		}
	}
	return reckon.Unknown("continuous", "Pc", name, "the box has no power rating on record")
}

// RatedOn is the impedance in Ω that the continuous rating was figured on:
// the least for AES2-1984, the rated (nominal) one otherwise.
func (s *Drive) RatedOn() reckon.Figure {
	if s.Standard == AES1984 {
		return s.LeastZ().Called("ratedOn", "Z", "least impedance, on which AES2-1984 figures power")
	}
	return s.NominalZ().Called("ratedOn", "Z", "rated impedance")
}

// CrestOr6 is the crest factor in dB of the signal the rating was made with;
// 6 dB where the sheet says nothing, as in AES2-1984 and IEC 60268-5.
func (s *Drive) CrestOr6() unit.Decibel { return s.Crest.Or(6) }

// OneWattSensitivity is the level in dB SPL at 1 m for 1 W. A figure for
// 2.83 V is 10 lg(2.83²/Z) above it when Z is not 8 Ω.
func (s *Drive) OneWattSensitivity() reckon.Figure {
	level, known := s.Sensitivity.Get()
	if !known {
		return reckon.Unknown("sensitivity", "S", "sensitivity at 1 W, 1 m", "the box has no sensitivity on record")
	}
	if s.SensitivityRef != TwoPointEight {
		f := reckon.Of("sensitivity", "S", "sensitivity at 1 W, 1 m", level, "").Because(origin(s.Sensitivity.Origin()))
		if s.SensitivityRef == "" {
			f = f.Noting("The sheet does not say for 1 W or 2.83 V; 1 W is assumed.")
		}
		return f
	}
	z, known := s.Nominal.Get()
	if !known {
		return reckon.Unknown("sensitivity", "S", "sensitivity at 1 W, 1 m",
			"the sensitivity is for 2.83 V and the nominal impedance is unknown")
	}
	const volts unit.Volt = 2.83
	return reckon.Of("sensitivity", "S", "sensitivity at 1 W, 1 m", level-unit.OfPower(float64(volts.Into(z))),
		"{S283} − 10 lg({U}² / {Z} / 1 W)", reckon.In("S283", "sensitivity at 2.83 V, 1 m", level, s.Sensitivity.Origin()),
		reckon.Term{Symbol: "U", What: "test voltage", Value: 2.83},
		reckon.In("Z", "nominal impedance", z, s.Nominal.Origin())).
		Because("Ohm's law")
}

func origin(said string) string {
	if said == "" {
		return "library"
	}
	return said
}

func (s *Loudspeaker) check() fault.List {
	var l fault.List
	l.AddAll("", s.Drive.check())
	l.AddAll("", checkRows(s, boxRows, wayRows, activeRows, boxSocketRows))
	l.AddAll("response", s.Response.check("The response", -100, 200))
	switch {
	case len(s.Ways) == 1 || len(s.Ways) > mostWays:
		l.Add("ways", "A box with ways of their own has 2 to %d of them; one with a single way has none listed.", mostWays)
	case len(s.Ways) > 0 && s.Active:
		l.Add("ways", "An active box drives its ways itself; list none.")
	case s.Selector && (s.Active || len(s.Ways) > 0):
		l.Add("selector", "A pole selector is for a passive box with one way; this one is %s.",
			map[bool]string{true: "active", false: "driven by several channels"}[s.Active])
	}
	for i, w := range s.Ways {
		path := fmt.Sprintf("ways[%d]", i)
		l.CheckName(path+".name", "The name of a way", w.Name, 20, true)
		l.AddAll(path, w.Drive.check())
	}
	return l
}

func (s *Drive) check() fault.List {
	var l fault.List
	l.AddAll("", checkRows(s, driveRows))
	if z, known := s.Least.Get(); known && z > s.Nominal.Or(z)*1.001 {
		l.Add("least", "The least impedance, %s, is above the nominal %s.", z, s.Nominal.Or(0))
	}
	rising(&l, "ampTo", "largest recommended", s.AmpTo, "least recommended", s.AmpFrom)
	rising(&l, "programme", "programme", s.Programme, "continuous", s.Continuous)
	rising(&l, "peak", "peak", s.Peak, "programme", s.Programme)
	rising(&l, "peak", "peak", s.Peak, "continuous", s.Continuous)
	l.AddAll("impedance", s.Impedance.check("The impedance", 0.1, 2000))
	if s.Driver != nil {
		l.AddAll("driver", checkRows(s.Driver, coneRows))
	}
	return l
}

func rising(l *fault.List, field, what string, high unit.Given[unit.Watt], than string, low unit.Given[unit.Watt]) {
	h, known1 := high.Get()
	w, known2 := low.Get()
	if known1 && known2 && h < w {
		l.Add(field, "The %s power, %s, is below the %s power, %s.", what, h, than, w)
	}
}

// loudspeakerSheet is what is known of a box.
var loudspeakerSheet = []Section{
	{Title: "Kind of box", Entries: lift("loudspeaker", "", theBox, boxRows)},
	{Title: "Passive box", Only: OnlyPassive, Entries: lift("loudspeaker", "", theDrive, driveRows)},
	{Title: "Ways with a channel of their own", Only: OnlyPassive, Later: true,
		Note: "Of a box that is driven by several channels, by pair of poles: the first line is 1±. Leave empty for a " +
			"box with one.",
		Entries: lift("loudspeaker", "", theBox, wayRows)},
	{Title: "Its cone, by the small-signal figures", Only: OnlyPassive, Later: true,
		Note:    "Of the driver in this box; together they give the impedance over frequency where no curve was measured.",
		Entries: lift("loudspeaker.driver", "driver.", theDrive, onDriver(coneRows))},
	{Title: "Active box", Only: OnlyActive, Entries: lift("loudspeaker", "", theBox, activeRows)},
	{Title: "Its sockets", Later: true, Entries: lift("loudspeaker", "", theBox, boxSocketRows)},
}

func theBox(m *Model) *Loudspeaker { return m.Loudspeaker }

func theDrive(m *Model) *Drive { return &m.Loudspeaker.Drive }

var boxSocketRows = socketRows(func(s *Loudspeaker) *Sockets { return &s.Sockets },
	"Input", "Link-through, where it is another", "Input balanced")

var boxRows = []row[Loudspeaker]{
	yesNo("active", "active", "Active, with amplifiers inside", func(s *Loudspeaker) *bool { return &s.Active }),
	yesNo("sub", "sub", "Low end only", func(s *Loudspeaker) *bool { return &s.Sub }),
	yesNo("link", "link", "Link-through", func(s *Loudspeaker) *bool { return &s.Link }),
	yesNo("linkTwo", "link_two_poles", "It passes poles 1± alone", func(s *Loudspeaker) *bool { return &s.LinkTwo }),
	yesNo("vented", "vented", "Ported", func(s *Loudspeaker) *bool { return &s.Vented }),
	yesNo("transformer", "transformer", "Fed through a 70 or 100 V transformer",
		func(s *Loudspeaker) *bool { return &s.Transformer }),
	choice("guard", "tweeter_guard", "Its tweeter is protected by", func(s *Loudspeaker) *Guard { return &s.Guard },
		checkGuard, options("not known", Guards)...),
	figure("low", "low_hz", "Band from", "Hz", "The low end of a band", 5, 20000,
		func(s *Loudspeaker) *hertz { return &s.Low }),
	figure("high", "high_hz", "to", "Hz", "The high end of a band", 20, 40000,
		func(s *Loudspeaker) *hertz { return &s.High }),
}

// driveRows are those of a box with one way, and of each way of another.
var driveRows = []row[Drive]{
	figure("nominal", "nominal_ohm", "Nominal impedance", "Ω",
		"A nominal impedance", 1, 64, func(d *Drive) *ohms { return &d.Nominal }),
	figure("least", "least_z_ohm", "Least impedance", "Ω",
		"A least impedance", 0.5, 64, func(d *Drive) *ohms { return &d.Least }),
	figure("continuous", "continuous_w", "Continuous power", "W",
		"A continuous power", 5, 5000, func(d *Drive) *watts { return &d.Continuous }),
	choice("standard", "standard", "rated under", func(d *Drive) *string { return &d.Standard },
		checkStandard, options("not said", Standards)...).orOther(mostStandard),
	figure("crest", "crest_db", "Crest factor of the test", "dB; 6 where nothing is said",
		"A crest factor", 3, 20, func(d *Drive) *decibels { return &d.Crest }),
	figure("programme", "programme_w", "Programme power", "W",
		"A programme power", 10, 10000, func(d *Drive) *watts { return &d.Programme }),
	figure("peak", "peak_w", "Peak power", "W",
		"A peak power", 20, 20000, func(d *Drive) *watts { return &d.Peak }),
	figure("bare", "bare_w", "Watts without a word", "taken as peak",
		"A power", 20, 20000, func(d *Drive) *watts { return &d.Bare }),
	figure("ampFrom", "amp_from_w", "Amplifier its maker recommends, from", "W",
		"A recommended power", 5, 20000, func(d *Drive) *watts { return &d.AmpFrom }),
	figure("ampTo", "amp_to_w", "to", "W",
		"A recommended power", 5, 20000, func(d *Drive) *watts { return &d.AmpTo }),
	figure("tested", "tested_v", "Volts rms that it stood for hours in its box", "V, by a thermal test",
		"Tested volts", 1, 500, func(d *Drive) *volts { return &d.Tested }),
	figure("sensitivity", "sensitivity_db", "Sensitivity at 1 m", "dB",
		"A sensitivity", 70, 125, func(d *Drive) *decibels { return &d.Sensitivity }),
	choice("sensitivityRef", "sensitivity_for", "for", func(d *Drive) *string { return &d.SensitivityRef },
		checkReference, options("not said", []string{OneWatt, TwoPointEight})...),
	figure("highPass", "high_pass_hz", "High-pass its maker asks for", "Hz",
		"A high-pass", 10, 20000, func(d *Drive) *hertz { return &d.HighPass }),
	answer("blocked", "blocked", "A capacitor stands in its feed", func(d *Drive) *Answer { return &d.Blocked }),
}

// mostStandard is how many characters name a standard.
const mostStandard = 40

func checkStandard(l *fault.List, field, standard string) {
	if standard != "" {
		l.CheckName(field, "The standard", standard, mostStandard, true)
	}
}

func checkReference(l *fault.List, field, ref string) {
	if ref != "" && ref != OneWatt && ref != TwoPointEight {
		l.Add(field, "A sensitivity is for %s or %s, not %q.", OneWatt, TwoPointEight, ref)
	}
}

var wayRows = []row[Loudspeaker]{
	{
		is: Entry{Key: "ways", Column: "ways", Label: "Ways, one a line", Form: Lines,
			Hint: "as low: 8 ohm, least 6.4 ohm, 400 W, 97 dB; words: programme, peak, high-pass, capacitor"},
		typed: func(s *Loudspeaker) string { return strings.Join(s.wayLines(), "\n") },
		read: func(s *Loudspeaker, text string) (err error) {
			s.Ways, err = ParseWays(text, s.Ways)
			return err
		},
		cell: func(s *Loudspeaker) string { return strings.Join(s.wayLines(), "; ") },
		fill: func(s *Loudspeaker, text string) (err error) {
			s.Ways, err = ParseWays(strings.ReplaceAll(text, ";", "\n"), nil)
			return err
		},
		check: func(*Loudspeaker, *fault.List) {},
	},
	yesNo("selector", "pole_selector", "Of one way, with a switch for poles 1± or 2±",
		func(s *Loudspeaker) *bool { return &s.Selector }),
	answer("joinedMinus", "joined_minus", "Its ways share one minus",
		func(s *Loudspeaker) *Answer { return &s.JoinedMinus }),
}

func (s *Loudspeaker) wayLines() []string {
	lines := make([]string, len(s.Ways))
	for i, w := range s.Ways {
		lines[i] = w.Line()
	}
	return lines
}

var coneRows = []row[Driver]{
	figure("re", "driver_re_ohm", "DC resistance", "Ω", "A DC resistance", 0.3, 64,
		func(d *Driver) *ohms { return &d.Re }),
	figure("resonance", "driver_fs_hz", "Resonance in the box", "Hz", "A resonance", 5, 5000,
		func(d *Driver) *hertz { return &d.Resonance }),
	figure("qms", "driver_qms", "Qms", "", "A Qms", 0.1, 50, func(d *Driver) *ratios { return &d.Qms }),
	figure("qes", "driver_qes", "Qes", "", "A Qes", 0.05, 20, func(d *Driver) *ratios { return &d.Qes }),
	figureIn("", parseMillihenry, "inductanceMH", "driver_le_mh", "Inductance", "mH", "An inductance", 0, 20,
		func(d *Driver) *ratios { return &d.Inductance }),
	figure("coilJK", "coil_j_per_k", "", "", "A heat capacity", 1, 5000, func(d *Driver) *ratios { return &d.CoilJK }),
	figure("coilKW", "coil_k_per_w", "", "", "A thermal resistance", 0.01, 10,
		func(d *Driver) *ratios { return &d.CoilKW }),
	figure("frameJK", "frame_j_per_k", "", "", "A heat capacity", 50, 50000,
		func(d *Driver) *ratios { return &d.FrameJK }),
	figure("frameKW", "frame_k_per_w", "", "", "A thermal resistance", 0.01, 10,
		func(d *Driver) *ratios { return &d.FrameKW }),
}

// onDriver makes rows of a driver rows of what it drives: the driver is there only
// while one of its figures is.
func onDriver(rows []row[Driver]) []row[Drive] {
	of := func(d *Drive) *Driver {
		if d.Driver == nil {
			return &Driver{}
		}
		return d.Driver
	}
	put := func(set func(*Driver, string) error) func(*Drive, string) error {
		return func(d *Drive, s string) error {
			own := *of(d)
			err := set(&own, s)
			if d.Driver = &own; own == (Driver{}) {
				d.Driver = nil
			}
			return err
		}
	}
	out := make([]row[Drive], len(rows))
	for i, r := range rows {
		out[i] = row[Drive]{is: r.is,
			typed: func(d *Drive) string { return r.typed(of(d)) }, read: put(r.read),
			cell: func(d *Drive) string { return r.cell(of(d)) }, fill: put(r.fill)}
	}
	return out
}

// parseMillihenry reads an inductance in mH: "0.9" or "0.9 mH".
func parseMillihenry(s string) (unit.Ratio, error) {
	t := strings.TrimSpace(s)
	if i := len(t) - 2; i > 0 && strings.EqualFold(t[i:], "mh") {
		t = t[:i]
	}
	v, err := unit.Decimal(strings.TrimSpace(t))
	if err != nil {
		return 0, fmt.Errorf("%.40q: write an inductance in mH, as 0.9", s)
	}
	return unit.Ratio(v), nil
}

var activeRows = []row[Loudspeaker]{
	figure("maxSPL", "max_spl_db", "Largest level at 1 m", "dB, taken as peak",
		"A largest level", 90, 160, func(s *Loudspeaker) *decibels { return &s.MaxSPL }),
	figure("inputClip", "input_clip_dbu", "Input clips at", "dBu",
		"An input clip level", -20, 40, func(s *Loudspeaker) *dBus { return &s.InputClip }),
	latencyRow(func(s *Loudspeaker) *seconds { return &s.Latency }),
}
