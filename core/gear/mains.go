package gear

import (
	"fmt"
	"slices"
	"strings"

	"largo/core/fault"
	"largo/core/unit"
)

// Intake is what a device takes from the mains, whatever it does with it.
type Intake struct {
	Idle       unit.Given[unit.Watt]  `json:"idle,omitzero"`
	Standby    unit.Given[unit.Watt]  `json:"standby,omitzero"`
	Most       unit.Given[unit.Watt]  `json:"most,omitzero"`        // what its plate or sheet says at most
	Efficiency unit.Given[unit.Ratio] `json:"efficiency,omitzero"`  // output over what it takes above idle
	Factor     unit.Given[unit.Ratio] `json:"powerFactor,omitzero"` // at programme levels
	// has power-factor correction: draws more at low volts
	Corrected Answer                  `json:"corrected,omitempty"`
	Inrush    unit.Given[unit.Ampere] `json:"inrush,omitzero"` // peak
	InrushFor unit.Given[unit.Second] `json:"inrushFor,omitzero"`
	Leakage   unit.Given[unit.Ampere] `json:"leakage,omitzero"` // to protective earth
	// class I: it has to have protective earth; class II has none and never gets one
	Earthed   Answer                 `json:"earthed,omitempty"`
	Table     []Taken                `json:"table,omitempty"` // the maker's own, of currents
	VoltsLow  unit.Given[unit.Volt]  `json:"voltsLow,omitzero"`
	VoltsHigh unit.Given[unit.Volt]  `json:"voltsHigh,omitzero"`
	TiedTo    unit.Given[unit.Hertz] `json:"tiedTo,omitzero"` // mains of that frequency, by a motor or a clock
}

func (m Intake) check() fault.List {
	var l fault.List
	l.AddAll("", checkRows(&m, intakeRows, efficiencyRows))
	low, known1 := m.VoltsLow.Get()
	high, known2 := m.VoltsHigh.Get()
	if known1 && known2 && low > high {
		l.Add("voltsHigh", "The largest supply voltage, %s, is below the least, %s.", high, low)
	}
	return l
}

// Body is what carrying, racking and hanging ask for.
type Body struct {
	Weight unit.Given[unit.Kilogram] `json:"weight,omitzero"`
	Units  int                       `json:"units,omitempty"`  // of a rack, 44.45 mm each (IEC 60297)
	Points int                       `json:"points,omitempty"` // rigging points; 0: none or not known, never to be hung
}

func (b Body) check() fault.List { return checkRows(&b, bodyRows, pointRows) }

// Supply is gear that passes mains on: a generator, a transformer, a distro, a
// conditioner or a power sequencer. What it does to the mains beyond that is
// only what its sheet says: most conditioners neither regulate nor sequence.
type Supply struct {
	Outlets   int                     `json:"outlets"`
	Current   unit.Given[unit.Ampere] `json:"current,omitzero"`  // all outlets together
	Apparent  unit.Given[unit.Watt]   `json:"apparent,omitzero"` // VA of a generator or transformer, as W
	Gives     unit.Given[unit.Volt]   `json:"gives,omitzero"`    // at its outlets: of a generator, or regulated
	Ratio     unit.Given[unit.Ratio]  `json:"ratio,omitzero"`    // of a transformer, volts out over volts in
	Regulates Answer                  `json:"regulates,omitempty"`
	Sequences Answer                  `json:"sequences,omitempty"`
	Bonded    Answer                  `json:"bonded,omitempty"`   // a generator's neutral is bonded to its frame
	Isolates  Answer                  `json:"isolates,omitempty"` // of a transformer: nothing joins its two sides
	// of a generator: its power in W beside that in VA, its tank, and how long that lasts at
	// its full power and at a quarter of it
	Real        unit.Given[unit.Watt]   `json:"real,omitzero"`
	Tank        unit.Given[unit.Litre]  `json:"tank,omitzero"`
	RunsFull    unit.Given[unit.Second] `json:"runsFull,omitzero"`
	RunsQuarter unit.Given[unit.Second] `json:"runsQuarter,omitzero"`
	// of a battery: what it holds, and the part of it that is left alone
	Stored  unit.Given[unit.WattHour] `json:"stored,omitzero"`
	Reserve unit.Given[unit.Ratio]    `json:"reserve,omitzero"`
	// of a sequencer: between one outlet and the next
	StepsBy unit.Given[unit.Second] `json:"stepsBy,omitzero"`
}

func (s Supply) ports(fed bool) []Port {
	ports := make([]Port, 0, s.Outlets+1)
	if fed {
		ports = append(ports, Port{Name: MainsPort, Signal: Mains, Dir: In})
	}
	for i := range s.Outlets {
		ports = append(ports, Port{Name: fmt.Sprintf("outlet %d", i+1), Signal: Mains, Dir: Out})
	}
	return ports
}

func (s Supply) check() fault.List {
	return checkRows(&s, supplyRows, transformerRows, sequencerRows, generatorRows, batteryRows)
}

// Switch is a network switch.
type Switch struct {
	Sockets int `json:"sockets"`
}

func (s Switch) ports() []Port {
	ports := make([]Port, 0, s.Sockets)
	for i := range s.Sockets {
		ports = append(ports, Port{Name: fmt.Sprintf("data %d", i+1), Signal: Data, Dir: Out, Connector: DataSocket})
	}
	return ports
}

func (s Switch) check() fault.List { return checkRows(&s, switchRows) }

var (
	mainsEntries      = lift("intake", "intake.", theIntake, intakeRows)
	efficiencyEntries = lift("intake", "intake.", theIntake, efficiencyRows)
	pointEntries      = lift("body", "body.", theBody, pointRows)
)

// bodyEntries are those of its body, with what it costs for a job in their midst.
var bodyEntries = slices.Concat(lift("body", "body.", theBody, bodyRows[:1]), lift("", "", itself, hireRows),
	lift("body", "body.", theBody, bodyRows[1:]))

func theIntake(m *Model) *Intake { return &m.Intake }

func theBody(m *Model) *Body { return &m.Body }

var intakeRows = []row[Intake]{
	figure("idle", "idle_w", "Idle draw", "W", "An idle draw", 0, 3000, func(m *Intake) *watts { return &m.Idle }),
	figure("standby", "standby_w", "Standby draw", "W", "A standby draw", 0, 500,
		func(m *Intake) *watts { return &m.Standby }),
	figure("most", "most_w", "Largest draw on its plate", "W", "A largest draw", 0, 30000,
		func(m *Intake) *watts { return &m.Most }),
	figure("voltsLow", "volts_low", "Works from", "V", "A least supply voltage", 50, 500,
		func(m *Intake) *volts { return &m.VoltsLow }),
	figure("voltsHigh", "volts_high", "to", "V", "A largest supply voltage", 50, 500,
		func(m *Intake) *volts { return &m.VoltsHigh }),
	figure("tiedTo", "mains_hz", "Motor or clock tied to mains of", "Hz; empty: nothing in it is",
		"A mains frequency", 16, 400, func(m *Intake) *hertz { return &m.TiedTo }),
	figure("inrush", "inrush_a", "Inrush, peak", "A", "An inrush", 0, 1000,
		func(m *Intake) *amperes { return &m.Inrush }),
	figureIn("ms", unit.InUnit(unit.ParseSecond, "ms"), "inrushFor", "inrush_s", "for", "as 10 ms",
		"The time of an inrush", 0, 10, func(m *Intake) *seconds { return &m.InrushFor }),
	answer("earthed", "earthed", "Needs protective earth (class I)", func(m *Intake) *Answer { return &m.Earthed }),
	figureIn("mA", unit.InUnit(unit.ParseAmpere, "mA"), "leakage", "leakage_a", "Leakage to earth", "mA",
		"A leakage", 0, 0.1, func(m *Intake) *amperes { return &m.Leakage }),
}

// efficiencyRows are of what makes sound of what it takes.
var efficiencyRows = []row[Intake]{
	figure("efficiency", "efficiency", "Efficiency above idle", "as 65 % or 0.65",
		"An efficiency", 0.05, 1, func(m *Intake) *ratios { return &m.Efficiency }),
	figure("powerFactor", "power_factor", "Power factor", "as 0.7",
		"A power factor", 0.2, 1, func(m *Intake) *ratios { return &m.Factor }),
	answer("corrected", "corrected", "Power-factor correction", func(m *Intake) *Answer { return &m.Corrected }),
	takenRow,
}

var bodyRows = []row[Body]{
	figure("weight", "weight_kg", "Weight", "kg or lb", "A weight", 0.05, 1000,
		func(b *Body) *masses { return &b.Weight }),
	countOrNone("units", "rack_units", "Rack units", "rack units", 1, 50, func(b *Body) *int { return &b.Units }),
}

var pointRows = []row[Body]{
	countOrNone("points", "rigging_points", "Rigging points", "rigging points", 1, 40,
		func(b *Body) *int { return &b.Points }),
}

var hireRows = []row[Model]{
	figure("hire", "hire", "Hire of one, for a job", "in your own currency; empty: not for hire",
		"A price of hire", 0, 1e6, func(m *Model) *prices { return &m.Hire }),
}

// supplySheet is what a kind that passes mains on has of its own; what cannot apply to it is
// not asked for.
func supplySheet(k Kind) []Section {
	theSupply := func(m *Model) *Supply { return m.Supply }
	entries := lift("supply", "", theSupply, supplyRows)
	for _, g := range []struct {
		rows []row[Supply]
		of   []Kind
	}{{transformerRows, []Kind{KindTransformer}}, {sequencerRows, []Kind{KindSequencer}},
		{generatorRows, []Kind{KindGenerator}}, {batteryRows, []Kind{KindBattery, KindConditioner}}} {
		own := lift("supply", "", theSupply, g.rows)
		if !slices.Contains(g.of, k) {
			own = hidden(own)
		}
		entries = append(entries, own...)
	}
	return []Section{{Title: "What it passes on",
		Note: "Only what its sheet says: most conditioners neither regulate nor " +
			"sequence.", Entries: entries}}
}

var supplyRows = []row[Supply]{
	count("outlets", "outlets", "Outlets", "outlets", 1, 96, func(s *Supply) *int { return &s.Outlets }),
	figure("current", "supply_a", "Current of all outlets", "A", "A current", 0.5, 1000,
		func(s *Supply) *amperes { return &s.Current }),
	figureIn("", parseVA, "apparent", "supply_va", "Power of a generator or transformer", "VA",
		"A power", 100, 1000000, func(s *Supply) *watts { return &s.Apparent }),
	figure("gives", "supply_v", "Voltage at its outlets", "V, of a generator, or where it regulates",
		"A voltage", 50, 500, func(s *Supply) *volts { return &s.Gives }),
	answer("regulates", "regulates", "Regulates the voltage", func(s *Supply) *Answer { return &s.Regulates }),
	answer("sequences", "sequences", "Switches its outlets one by one", func(s *Supply) *Answer { return &s.Sequences }),
}

var transformerRows = []row[Supply]{
	figure("ratio", "supply_ratio", "Ratio", "volts out over volts in, as 0.5",
		"A ratio", 0.1, 10, func(s *Supply) *ratios { return &s.Ratio }),
	answer("isolates", "isolates", "Nothing joins its two sides: it isolates",
		func(s *Supply) *Answer { return &s.Isolates }),
}

var sequencerRows = []row[Supply]{
	figureIn("s", unit.ParseSecond, "stepsBy", "steps_by_s", "Between one outlet and the next", "as 2 s",
		"A time between outlets", 0.05, 600, func(s *Supply) *seconds { return &s.StepsBy }),
}

var generatorRows = []row[Supply]{
	answer("bonded", "bonded", "Neutral bonded to the frame", func(s *Supply) *Answer { return &s.Bonded }),
	figure("real", "supply_w", "Real power", "W or kW, beside the VA", "A power", 100, 1000000,
		func(s *Supply) *watts { return &s.Real }),
	figure("tank", "tank_l", "Tank", "L", "A tank", 0.2, 5000, func(s *Supply) *unit.Given[unit.Litre] { return &s.Tank }),
	figureIn("h", unit.InUnit(unit.ParseSecond, "h"), "runsFull", "runs_full_s", "A tank lasts, at full power", "as 4 h",
		"A running time", 600, 864000, func(s *Supply) *seconds { return &s.RunsFull }),
	figureIn("h", unit.InUnit(unit.ParseSecond, "h"), "runsQuarter", "runs_quarter_s", "and at a quarter of it", "as 9 h",
		"A running time", 600, 864000, func(s *Supply) *seconds { return &s.RunsQuarter }),
}

var batteryRows = []row[Supply]{
	figure("stored", "stored_wh", "Its battery holds", "Wh or kWh", "What a battery holds", 10, 1e6,
		func(s *Supply) *unit.Given[unit.WattHour] { return &s.Stored }),
	figure("reserve", "reserve", "of which stay in it", "as 20 %; empty: a fifth", "A reserve", 0, 0.9,
		func(s *Supply) *ratios { return &s.Reserve }),
}

// parseVA reads apparent power, "3 kVA" as "3 kW" is read.
func parseVA(s string) (unit.Watt, error) {
	return unit.ParseWatt(strings.ReplaceAll(strings.ToLower(s), "va", "w"))
}

var switchSheet = []Section{{Title: "Sockets",
	Entries: lift("switch", "", func(m *Model) *Switch { return m.Switch }, switchRows)}}

var switchRows = []row[Switch]{
	count("sockets", "data_sockets", "Sockets", "sockets", 2, 96, func(s *Switch) *int { return &s.Sockets }),
}
