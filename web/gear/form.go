package gear

import (
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"unicode/utf8"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/unit"
	"largo/core/words"
	"largo/web/kit"
)

// The form of a model is a table: each entry knows how a figure is written in
// its field and read back from it, so that a figure added to the library is
// one line here. A name is the path that the core's faults carry, without the
// kind before it.

// entry is one field of the form of a model.
type entry struct {
	name, label, hint string
	kind              string // "", "lines" or "select"
	choices           []kit.Choice
	required          bool
	get               func(*gear.Model) string
	set               func(*gear.Model, string) error
}

// sheetPart is a group of entries, as a sheet has.
type sheetPart struct {
	title, note string
	steps       []string // of a check to be made first
	entries     []entry
}

// modelSheet is the form of a kind, in the order in which its sheet reads.
func modelSheet(k gear.Kind) []sheetPart {
	maker := wordsEntry("maker", "Maker", "", func(m *gear.Model) *string { return &m.Maker })
	name := wordsEntry("name", "Name", "", func(m *gear.Model) *string { return &m.Name })
	maker.required, name.required = true, true
	parts := []sheetPart{{title: "What it is",
		note: "Leave empty whatever is not known. Behind a figure, in square brackets, may stand where it comes from, as " +
			"6.4 Ω [measured].", entries: []entry{
			maker, name,
			wordsEntry("source", "Where its figures come from", "sheet, plate, measured",
				func(m *gear.Model) *string { return &m.Source }),
			wordsEntry("note", "Note", "", func(m *gear.Model) *string { return &m.Note })}}}
	switch k {
	case gear.KindAmplifier:
		parts = append(parts, amplifierSheet()...)
	case gear.KindLoudspeaker:
		parts = append(parts, loudspeakerSheet()...)
	case gear.KindMixer:
		parts = append(parts, mixerSheet())
	case gear.KindProcessor:
		parts = append(parts, processorSheet())
	case gear.KindSource, gear.KindMicrophone, gear.KindReceiver:
		parts = append(parts, feedSheet())
	case gear.KindDI:
		parts = append(parts, diSheet())
	case gear.KindStageBox:
		parts = append(parts, stageBoxSheet())
	case gear.KindSwitch:
		parts = append(parts, sheetPart{title: "Sockets",
			entries: []entry{count("sockets", "Sockets", "", func(m *gear.Model) *int { return &m.Switch.Sockets })}})
	case gear.KindCable:
		return append(parts, cableSheet())
	default:
		parts = append(parts, supplySheet())
	}
	return append(parts, mainsSheet(k), bodySheet(k), wakeSheet(k))
}

func amplifierSheet() []sheetPart {
	amp := func(m *gear.Model) *gear.Amplifier { return m.Amplifier }
	bridging := func(m *gear.Model) *gear.Bridging { return &m.Amplifier.Bridging }
	return []sheetPart{
		{title: "Power", entries: []entry{
			count("channels", "Channels", "", func(m *gear.Model) *int { return &amp(m).Channels }),
			{name: "ratings", label: "Ratings, as the sheet prints them", kind: "lines",
				hint: "as 2 x 700 W into 4 ohm, bridged 1400 W into 8 ohm; words: one driven, all driven, burst",
				get:  ratingsText, set: setRatings},
			figure("least", "Least load a channel", "as on its back", unit.ParseOhm,
				func(m *gear.Model) *unit.Given[unit.Ohm] { return &amp(m).Least }),
			figure("supply", "Rated at a supply of", "as 230 V", unit.ParseVolt, func(m *gear.Model) *unit.Given[unit.Volt] {
				return &amp(m).Supply
			}),
			figure("together", "All channels together", "W, where they share a supply", unit.ParseWatt,
				func(m *gear.Model) *unit.Given[unit.Watt] { return &amp(m).Together }),
			figure("largestOut", "Largest output", "V rms of one channel", unit.ParseVolt,
				func(m *gear.Model) *unit.Given[unit.Volt] { return &amp(m).LargestOut }),
			wordsEntry("class", "Class", "as AB, H, D", func(m *gear.Model) *string { return &amp(m).Class })}},
		{title: "Gain", note: "One of the two is enough. A sensitivity counts only with its load.", entries: []entry{
			figure("gain", "Gain", "dB", unit.ParseDecibel, func(m *gear.Model) *unit.Given[unit.Decibel] {
				return &amp(m).Gain
			}),
			figure("sensitivity", "Input sensitivity", "as 1 V or 775 mV", unit.ParseVolt,
				func(m *gear.Model) *unit.Given[unit.Volt] { return &amp(m).Sensitivity }),
			figure("sensitivityLoad", "stated for", "Ω", unit.ParseOhm, func(m *gear.Model) *unit.Given[unit.Ohm] {
				return &amp(m).SensLoad
			}),
			answer("limits", "Has limiters of its own", func(m *gear.Model) *gear.Answer { return &amp(m).Limits })}},
		{title: "Output", note: "Output impedance, or damping factor with its load and frequency.", entries: []entry{
			figure("outputImpedance", "Output impedance", "Ω", unit.ParseOhm, func(m *gear.Model) *unit.Given[unit.Ohm] {
				return &amp(m).OutputZ
			}),
			figure("damping", "Damping factor", "", unit.ParseRatio, func(m *gear.Model) *unit.Given[unit.Ratio] {
				return &amp(m).Damping
			}),
			figure("dampingLoad", "into", "Ω", unit.ParseOhm, func(m *gear.Model) *unit.Given[unit.Ohm] {
				return &amp(m).DampingLoad
			}),
			figure("dampingAt", "at", "Hz", unit.ParseHertz, func(m *gear.Model) *unit.Given[unit.Hertz] {
				return &amp(m).DampingAt
			}),
			answer("relay", "Muting relay at its outputs", func(m *gear.Model) *gear.Answer { return &amp(m).Relay })}},
		socketPart("Its sockets", "Inputs", "Speaker outputs", "Inputs balanced"),
		{title: "May it be bridged?",
			note: "The ohmmeter check shows whether the minus terminals are joined inside. That is needed for a bridge made " +
				"by hand, and not enough on its own.",
			steps: []string{"Switch the amplifier off.", "Pull its mains plug, and all leads from its outputs.",
				"Wait a minute. Set a meter to ohms and touch its leads together: that is its zero.",
				"Hold one lead to the minus terminal of channel A, the other to that of channel B.",
				"Enter what it reads. Near 0 Ω they are joined; open, or some ohms, they are not."},
			entries: []entry{
				figure("bridging.between", "Reading, minus to minus", "as 0.1 Ω [measured], or 10 Mohm for open", unit.ParseOhm,
					func(m *gear.Model) *unit.Given[unit.Ohm] { return &bridging(m).Between }),
				answer("bridging.common", "or: minus terminals joined",
					func(m *gear.Model) *gear.Answer { return &bridging(m).Common }),
				answer("bridging.switch", "Bridge switch", func(m *gear.Model) *gear.Answer { return &bridging(m).Switch }),
				pick("bridging.manual", "The manual", func(m *gear.Model) *string { return &bridging(m).Manual },
					kit.Choice{Label: "says nothing"}, kit.Choice{Value: gear.ManualAllows, Label: "allows it"},
					kit.Choice{Value: gear.ManualForbids, Label: "forbids it"}),
				{name: "bridging.pairs", label: "Pairs that bridge", hint: "as A+B, C+D; empty: all",
					get: func(m *gear.Model) string { return strings.Join(bridging(m).Pairs, ", ") },
					set: func(m *gear.Model, s string) error {
						bridging(m).Pairs = nil
						for _, name := range strings.FieldsFunc(strings.ToUpper(s), func(r rune) bool { return r == ',' || r == ' ' }) {
							bridging(m).Pairs = append(bridging(m).Pairs, name)
						}
						return nil
					}},
				answer("bridging.inverted", "Second channel inverted inside",
					func(m *gear.Model) *gear.Answer { return &bridging(m).Inverted }),
				figure("bridging.least", "Least bridged load", "Ω", unit.ParseOhm, func(m *gear.Model) *unit.Given[unit.Ohm] {
					return &bridging(m).Least
				})}},
	}
}

func loudspeakerSheet() []sheetPart {
	box := func(m *gear.Model) *gear.Loudspeaker { return m.Loudspeaker }
	drive := func(m *gear.Model) *gear.Drive { return &m.Loudspeaker.Drive }
	driver := func(m *gear.Model) *gear.Driver {
		if m.Loudspeaker.Driver == nil {
			return &gear.Driver{}
		}
		return m.Loudspeaker.Driver
	}
	return []sheetPart{
		{title: "Kind of box", entries: []entry{
			yesNo("active", "Active, with amplifiers inside", func(m *gear.Model) *bool { return &box(m).Active }),
			yesNo("sub", "Low end only", func(m *gear.Model) *bool { return &box(m).Sub }),
			yesNo("link", "Link-through", func(m *gear.Model) *bool { return &box(m).Link }),
			yesNo("vented", "Ported", func(m *gear.Model) *bool { return &box(m).Vented }),
			yesNo("transformer", "Fed through a 70 or 100 V transformer",
				func(m *gear.Model) *bool { return &box(m).Transformer }),
			figure("low", "Band from", "Hz", unit.ParseHertz, func(m *gear.Model) *unit.Given[unit.Hertz] {
				return &box(m).Low
			}),
			figure("high", "to", "Hz", unit.ParseHertz, func(m *gear.Model) *unit.Given[unit.Hertz] { return &box(m).High })}},
		{title: "Passive box", entries: []entry{
			figure("nominal", "Nominal impedance", "Ω", unit.ParseOhm, func(m *gear.Model) *unit.Given[unit.Ohm] {
				return &drive(m).Nominal
			}),
			figure("least", "Least impedance", "Ω", unit.ParseOhm, func(m *gear.Model) *unit.Given[unit.Ohm] {
				return &drive(m).Least
			}),
			figure("continuous", "Continuous power", "W", unit.ParseWatt, func(m *gear.Model) *unit.Given[unit.Watt] {
				return &drive(m).Continuous
			}),
			pick("standard", "rated under", func(m *gear.Model) *string { return &drive(m).Standard },
				append([]kit.Choice{{Label: "not said"}}, kit.Choices(gear.Standards)...)...),
			figure("crest", "Crest factor of the test", "dB; 6 where nothing is said", unit.ParseDecibel,
				func(m *gear.Model) *unit.Given[unit.Decibel] { return &drive(m).Crest }),
			figure("programme", "Programme power", "W", unit.ParseWatt, func(m *gear.Model) *unit.Given[unit.Watt] {
				return &drive(m).Programme
			}),
			figure("peak", "Peak power", "W", unit.ParseWatt, func(m *gear.Model) *unit.Given[unit.Watt] {
				return &drive(m).Peak
			}),
			figure("bare", "Watts without a word", "taken as peak", unit.ParseWatt,
				func(m *gear.Model) *unit.Given[unit.Watt] { return &drive(m).Bare }),
			figure("sensitivity", "Sensitivity at 1 m", "dB", unit.ParseDecibel,
				func(m *gear.Model) *unit.Given[unit.Decibel] { return &drive(m).Sensitivity }),
			pick("sensitivityRef", "for", func(m *gear.Model) *string { return &drive(m).SensitivityRef },
				kit.Choice{Label: "not said"}, kit.Choice{Value: gear.OneWatt, Label: "1 W"},
				kit.Choice{Value: gear.TwoPointEight, Label: "2.83 V"}),
			figure("highPass", "High-pass its maker asks for", "Hz", unit.ParseHertz,
				func(m *gear.Model) *unit.Given[unit.Hertz] { return &drive(m).HighPass }),
			answer("blocked", "A capacitor stands in its feed", func(m *gear.Model) *gear.Answer { return &drive(m).Blocked })}},
		{title: "Ways with a channel of their own",
			note: "Of a box that is driven by several channels, by pair of poles: the first line is 1±. Leave empty for a " +
				"box with one.", entries: []entry{
				{name: "ways", label: "Ways, one a line", kind: "lines",
					hint: "as low: 8 ohm, least 6.4 ohm, 400 W, 97 dB; words: programme, peak, high-pass, capacitor", get: waysText,
					set: setWays},
				answer("joinedMinus", "Its ways share one minus",
					func(m *gear.Model) *gear.Answer { return &box(m).JoinedMinus })}},
		{title: "Its cone, by the small-signal figures",
			note: "Of the driver in this box; together they give the impedance over frequency where no curve was measured.",
			entries: []entry{
				cone("driver.re", "DC resistance", "Ω", unit.ParseOhm, driver, func(d *gear.Driver) *unit.Given[unit.Ohm] {
					return &d.Re
				}),
				cone("driver.resonance", "Resonance in the box", "Hz", unit.ParseHertz, driver,
					func(d *gear.Driver) *unit.Given[unit.Hertz] { return &d.Resonance }),
				cone("driver.qms", "Qms", "", unit.ParseRatio, driver, func(d *gear.Driver) *unit.Given[unit.Ratio] {
					return &d.Qms
				}),
				cone("driver.qes", "Qes", "", unit.ParseRatio, driver, func(d *gear.Driver) *unit.Given[unit.Ratio] {
					return &d.Qes
				}),
				cone("driver.inductanceMH", "Inductance", "mH", parseMillihenry, driver,
					func(d *gear.Driver) *unit.Given[unit.Ratio] { return &d.Inductance })}},
		{title: "Active box", entries: []entry{
			figure("maxSPL", "Largest level at 1 m", "dB, taken as peak", unit.ParseDecibel,
				func(m *gear.Model) *unit.Given[unit.Decibel] { return &box(m).MaxSPL }),
			figure("inputClip", "Input clips at", "dBu", unit.ParseDBu, func(m *gear.Model) *unit.Given[unit.DBu] {
				return &box(m).InputClip
			})}},
		socketPart("Its sockets", "Input", "Link-through, where it is another", "Input balanced"),
	}
}

func mixerSheet() sheetPart {
	return sheetPart{title: "Connectors", entries: []entry{
		count("inputs", "Microphone inputs", "", func(m *gear.Model) *int { return &m.Mixer.Inputs }),
		count("lineInputs", "Line inputs", "", func(m *gear.Model) *int { return &m.Mixer.LineIn }),
		answer("phantom", "Gives phantom power", func(m *gear.Model) *gear.Answer { return &m.Mixer.Phantom }),
		outputsEntry("name, then its level and what is known of it: main L, line, 3-pin XLR, balanced"),
		socket("sockets.in", "Input sockets", func(m *gear.Model) *gear.Connector { return &m.Mixer.Sockets.In }),
		answer("sockets.balanced", "Inputs balanced", func(m *gear.Model) *gear.Answer { return &m.Mixer.Sockets.Balanced })}}
}

func processorSheet() sheetPart {
	part := socketPart("Connectors", "Input sockets", "Output sockets", "Balanced")
	part.entries = append([]entry{
		count("inputs", "Inputs", "", func(m *gear.Model) *int { return &m.Processor.Inputs }),
		outputsEntry("a name each: sub L"),
		answer("limits", "Has limiters that can be set", func(m *gear.Model) *gear.Answer { return &m.Processor.Limits })},
		part.entries...)
	return part
}

func feedSheet() sheetPart {
	return sheetPart{title: "Connectors", entries: []entry{
		outputsEntry("name, then its level and what is known of it: out, microphone, 3-pin XLR, balanced, needs it"),
		yesNo("powered", "Has a switch or supply", func(m *gear.Model) *bool { return &m.Feed.Powered })}}
}

func diSheet() sheetPart {
	return sheetPart{title: "Connectors", entries: []entry{
		count("channels", "Channels", "", func(m *gear.Model) *int { return &m.DI.Channels }),
		phantomEntry("phantom", "Phantom power", func(m *gear.Model) *gear.Phantom { return &m.DI.Phantom }),
		socket("sockets.in", "Input", func(m *gear.Model) *gear.Connector { return &m.DI.Sockets.In }),
		socket("sockets.out", "Output", func(m *gear.Model) *gear.Connector { return &m.DI.Sockets.Out })}}
}

func stageBoxSheet() sheetPart {
	return sheetPart{title: "Lines", entries: []entry{
		count("lines", "Lines to the desk", "", func(m *gear.Model) *int { return &m.StageBox.Lines }),
		count("returns", "Returns from the desk", "", func(m *gear.Model) *int { return &m.StageBox.Returns }),
		figure("length", "Length", "m or ft", unit.ParseMetre, func(m *gear.Model) *unit.Given[unit.Metre] {
			return &m.StageBox.Length
		})}}
}

func supplySheet() sheetPart {
	return sheetPart{title: "What it passes on",
		note: "Only what its sheet says: most conditioners neither regulate nor sequence.", entries: []entry{
			count("outlets", "Outlets", "", func(m *gear.Model) *int { return &m.Supply.Outlets }),
			figure("current", "Current of all outlets", "A", unit.ParseAmpere, func(m *gear.Model) *unit.Given[unit.Ampere] { return &m.Supply.Current }),
			figure("apparent", "Power of a generator or transformer", "VA", parseVA, func(m *gear.Model) *unit.Given[unit.Watt] { return &m.Supply.Apparent }),
			answer("regulates", "Regulates the voltage", func(m *gear.Model) *gear.Answer { return &m.Supply.Regulates }),
			answer("sequences", "Switches its outlets one by one", func(m *gear.Model) *gear.Answer { return &m.Supply.Sequences }),
			answer("bonded", "Neutral bonded to the frame (generator)", func(m *gear.Model) *gear.Answer { return &m.Supply.Bonded })}}
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

// parseVA reads apparent power, "3 kVA" as "3 kW" is read.
func parseVA(s string) (unit.Watt, error) {
	return unit.ParseWatt(strings.ReplaceAll(strings.ToLower(s), "va", "w"))
}

func cableSheet() sheetPart {
	sorts := kit.Choices(gear.CableSorts)
	poles := []kit.Choice{{Value: "0", Label: "not known"}, {Value: "2", Label: "2"}, {Value: "4", Label: "4"}, {Value: "8", Label: "8"}}
	return sheetPart{title: "The lead", entries: []entry{
		{name: "sort", label: "Made for", kind: "select", choices: sorts, get: func(m *gear.Model) string { return string(m.Cable.Sort) },
			set: func(m *gear.Model, s string) error { m.Cable.Sort = gear.CableSort(s); return nil }},
		socket("endA", "Plug at the output", func(m *gear.Model) *gear.Connector { return &m.Cable.Ends[0] }),
		socket("endB", "Plug at the input", func(m *gear.Model) *gear.Connector { return &m.Cable.Ends[1] }),
		figure("length", "Length", "m or ft", unit.ParseMetre, func(m *gear.Model) *unit.Given[unit.Metre] { return &m.Cable.Length }),
		figure("area", "Conductor", "as 2.5 mm² or 12 AWG", unit.ParseArea, func(m *gear.Model) *unit.Given[unit.SquareMillimetre] { return &m.Cable.Area }),
		{name: "poles", label: "Conductors of a speaker lead", kind: "select", choices: poles, get: func(m *gear.Model) string { return strconv.Itoa(m.Cable.Poles) },
			set: func(m *gear.Model, s string) (err error) { m.Cable.Poles, err = wholeNumber(s); return err }},
		answer("joinedMinus", "Its minus conductors are one", func(m *gear.Model) *gear.Answer { return &m.Cable.JoinedMinus })}}
}

func mainsSheet(k gear.Kind) sheetPart {
	in := func(m *gear.Model) *gear.Intake { return &m.Intake }
	part := sheetPart{title: "From the mains", entries: []entry{
		figure("intake.idle", "Idle draw", "W", unit.ParseWatt, func(m *gear.Model) *unit.Given[unit.Watt] { return &in(m).Idle }),
		figure("intake.standby", "Standby draw", "W", unit.ParseWatt, func(m *gear.Model) *unit.Given[unit.Watt] { return &in(m).Standby }),
		figure("intake.most", "Largest draw on its plate", "W", unit.ParseWatt, func(m *gear.Model) *unit.Given[unit.Watt] { return &in(m).Most }),
		figure("intake.voltsLow", "Works from", "V", unit.ParseVolt, func(m *gear.Model) *unit.Given[unit.Volt] { return &in(m).VoltsLow }),
		figure("intake.voltsHigh", "to", "V", unit.ParseVolt, func(m *gear.Model) *unit.Given[unit.Volt] { return &in(m).VoltsHigh }),
		figure("intake.inrush", "Inrush, peak", "A", unit.ParseAmpere, func(m *gear.Model) *unit.Given[unit.Ampere] { return &in(m).Inrush }),
		figure("intake.inrushFor", "for", "as 10 ms", unit.InUnit(unit.ParseSecond, "ms"), func(m *gear.Model) *unit.Given[unit.Second] { return &in(m).InrushFor }),
		figure("intake.leakage", "Leakage to earth", "mA", unit.InUnit(unit.ParseAmpere, "mA"), func(m *gear.Model) *unit.Given[unit.Ampere] { return &in(m).Leakage })}}
	if k == gear.KindAmplifier || k == gear.KindLoudspeaker {
		part.entries = append(part.entries,
			figure("intake.efficiency", "Efficiency above idle", "as 65 % or 0.65", unit.ParseRatio, func(m *gear.Model) *unit.Given[unit.Ratio] { return &in(m).Efficiency }),
			figure("intake.powerFactor", "Power factor", "as 0.7", unit.ParseRatio, func(m *gear.Model) *unit.Given[unit.Ratio] { return &in(m).Factor }),
			answer("intake.corrected", "Power-factor correction", func(m *gear.Model) *gear.Answer { return &in(m).Corrected }))
	}
	return part
}

func bodySheet(k gear.Kind) sheetPart {
	part := sheetPart{title: "Its body", entries: []entry{
		figure("body.weight", "Weight", "kg or lb", unit.ParseKilogram, func(m *gear.Model) *unit.Given[unit.Kilogram] { return &m.Body.Weight }),
		figure("hire", "Hire of one, for a job", "in your own currency; empty: not for hire", unit.ParseMoney, func(m *gear.Model) *unit.Given[unit.Money] { return &m.Hire }),
		count("body.units", "Rack units", "", func(m *gear.Model) *int { return &m.Body.Units })}}
	if k == gear.KindLoudspeaker {
		part.note = "Only a box with rigging points of its own is ever hung, by a competent person; never by a handle."
		part.entries = append(part.entries, count("body.points", "Rigging points", "", func(m *gear.Model) *int { return &m.Body.Points }))
	}
	return part
}

func wakeSheet(k gear.Kind) sheetPart {
	part := sheetPart{title: "How it wakes", note: "From these the power-up is timed.", entries: []entry{
		figure("wake.settle", "Settles in", "as 90 s or 1:30, from its switch to quiet outputs", unit.ParseSecond, func(m *gear.Model) *unit.Given[unit.Second] { return &m.Wake.Settle }),
		wordsEntry("wake.proof", "What is seen when it is up", "", func(m *gear.Model) *string { return &m.Wake.Proof }),
		wordsEntry("wake.switch", "Where its switch is", "as rear rocker", func(m *gear.Model) *string { return &m.Wake.Switch }),
		wordsEntry("wake.shutdown", "Its own way to be shut down", "", func(m *gear.Model) *string { return &m.Wake.Shutdown }),
		figure("wake.drain", "Dead after", "from its switch", unit.ParseSecond, func(m *gear.Model) *unit.Given[unit.Second] { return &m.Wake.Drain })}}
	if k == gear.KindLoudspeaker {
		part.note = "Of active boxes alone. " + part.note
	}
	return part
}

func socketPart(title, in, out, balanced string) sheetPart {
	return sheetPart{title: title, entries: []entry{
		socket("sockets.in", in, func(m *gear.Model) *gear.Connector { return &m.Plugs().In }),
		socket("sockets.out", out, func(m *gear.Model) *gear.Connector { return &m.Plugs().Out }),
		answer("sockets.balanced", balanced, func(m *gear.Model) *gear.Answer { return &m.Plugs().Balanced })}}
}

// figure is an entry of a quantity, with where it comes from in brackets.
func figure[T unit.Quantity](name, label, hint string, parse func(string) (T, error), at func(*gear.Model) *unit.Given[T]) entry {
	return entry{name: name, label: label, hint: hint,
		get: func(m *gear.Model) string { return sourced(*at(m)) },
		set: func(m *gear.Model, text string) error {
			g, err := readSourced(text, parse)
			*at(m) = g
			return err
		}}
}

// cone is a figure of the driver, which is there only while one of its
// figures is.
func cone[T unit.Quantity](name, label, hint string, parse func(string) (T, error), of func(*gear.Model) *gear.Driver, at func(*gear.Driver) *unit.Given[T]) entry {
	return entry{name: name, label: label, hint: hint,
		get: func(m *gear.Model) string { return sourced(*at(of(m))) },
		set: func(m *gear.Model, text string) error {
			g, err := readSourced(text, parse)
			d := *of(m)
			*at(&d) = g
			m.Loudspeaker.Driver = &d
			if d == (gear.Driver{}) {
				m.Loudspeaker.Driver = nil
			}
			return err
		}}
}

func sourced[T unit.Quantity](g unit.Given[T]) string {
	if g.Origin() == "" {
		return kit.Typed(g)
	}
	return kit.Typed(g) + " [" + g.Origin() + "]"
}

func readSourced[T unit.Quantity](text string, parse func(string) (T, error)) (unit.Given[T], error) {
	text, from := gear.CutOrigin(text)
	switch {
	case text == "" && from != "":
		return unit.Given[T]{}, fmt.Errorf("there is no figure before [%s]", from)
	case text == "":
		return unit.Given[T]{}, nil
	}
	if n := utf8.RuneCountInString(from); n > unit.MostOrigin {
		return unit.Given[T]{}, fmt.Errorf("where it comes from has %d characters; keep it to %d", n, unit.MostOrigin)
	}
	v, err := parse(text)
	switch {
	case err != nil:
		return unit.Given[T]{}, err
	case from != "":
		return unit.From(v, from), nil
	}
	return unit.Of(v), nil
}

func wordsEntry(name, label, hint string, at func(*gear.Model) *string) entry {
	return entry{name: name, label: label, hint: hint, get: func(m *gear.Model) string { return *at(m) },
		set: func(m *gear.Model, s string) error { *at(m) = s; return nil }}
}

func pick[T ~string](name, label string, at func(*gear.Model) *T, offered ...kit.Choice) entry {
	return entry{name: name, label: label, kind: "select", choices: offered, get: func(m *gear.Model) string { return string(*at(m)) },
		set: func(m *gear.Model, s string) error { *at(m) = T(s); return nil }}
}

func answer(name, label string, at func(*gear.Model) *gear.Answer) entry {
	return pick(name, label, at, kit.Choice{Label: "not known"}, kit.Choice{Value: "yes", Label: "yes"}, kit.Choice{Value: "no", Label: "no"})
}

func socket(name, label string, at func(*gear.Model) *gear.Connector) entry {
	return pick(name, label, at, append([]kit.Choice{{Label: "not known"}}, kit.Choices(gear.Connectors)...)...)
}

func phantomEntry(name, label string, at func(*gear.Model) *gear.Phantom) entry {
	return pick(name, label, at, append([]kit.Choice{{Label: "not known"}}, kit.Choices(gear.Phantoms)...)...)
}

func yesNo(name, label string, at func(*gear.Model) *bool) entry {
	return entry{name: name, label: label, kind: "select", choices: []kit.Choice{{Value: "false", Label: "no"}, {Value: "true", Label: "yes"}},
		get: func(m *gear.Model) string { return strconv.FormatBool(*at(m)) },
		set: func(m *gear.Model, s string) error { *at(m) = s == "true"; return nil }}
}

func count(name, label, hint string, at func(*gear.Model) *int) entry {
	return entry{name: name, label: label, hint: hint,
		get: func(m *gear.Model) string {
			if *at(m) == 0 {
				return ""
			}
			return strconv.Itoa(*at(m))
		},
		set: func(m *gear.Model, s string) (err error) { *at(m), err = wholeNumber(s); return err }}
}

func wholeNumber(s string) (int, error) {
	if s == "" {
		return 0, nil
	}
	n, err := strconv.Atoi(s)
	if err != nil {
		return 0, fmt.Errorf("%.20q is not a whole number", s)
	}
	return n, nil
}

func outputsEntry(hint string) entry {
	return entry{name: "outputs", label: "Outputs, one a line", kind: "lines", hint: hint,
		get: func(m *gear.Model) string {
			var lines []string
			for _, o := range m.Outlets() {
				parts := o.Parts()
				if m.Processor != nil {
					parts = parts[:1]
				}
				lines = append(lines, strings.Join(parts, ", "))
			}
			return strings.Join(lines, "\n")
		},
		set: func(m *gear.Model, text string) error {
			var outs []gear.Outlet
			for _, line := range lines(text) {
				o, err := gear.ParseOutlet(strings.Split(line, ","))
				if err != nil {
					return err
				}
				outs = append(outs, o)
			}
			m.SetOutlets(outs)
			return nil
		}}
}

// lines splits a field of one entry a line.
func lines(text string) []string {
	var out []string
	for line := range strings.SplitSeq(text, "\n") {
		if line = strings.TrimSpace(line); line != "" {
			out = append(out, line)
		}
	}
	return out
}

func ratingsText(m *gear.Model) string {
	lines := make([]string, len(m.Amplifier.Ratings))
	for i, r := range m.Amplifier.Ratings {
		lines[i] = r.Line()
	}
	return strings.Join(lines, "\n")
}

// setRatings reads the power table, one rating a line or as a sheet prints it.
func setRatings(m *gear.Model, text string) error {
	sheet, err := gear.ParseSheet(text)
	m.Amplifier.Ratings, m.Amplifier.Channels = sheet.Ratings, max(m.Amplifier.Channels, sheet.Channels)
	return err
}

func waysText(m *gear.Model) string {
	lines := make([]string, len(m.Loudspeaker.Ways))
	for i, w := range m.Loudspeaker.Ways {
		lines[i] = w.Line()
	}
	return strings.Join(lines, "\n")
}

func setWays(m *gear.Model, text string) error {
	ways, err := gear.ParseWays(text, m.Loudspeaker.Ways)
	m.Loudspeaker.Ways = ways
	return err
}

// readModel reads the form over a model; whatever the form does not show stays.
func readModel(f *kit.Form, m gear.Model) gear.Model {
	m = m.Clone()
	for _, part := range modelSheet(m.Kind) {
		for _, e := range part.entries {
			if err := e.set(&m, f.Text(e.name)); err != nil {
				refuseAt(f, e.name, err)
			}
		}
	}
	return m
}

// refuseAt takes over what is wrong with one field.
func refuseAt(f *kit.Form, name string, err error) {
	var l fault.List
	if !errors.As(err, &l) {
		f.Fault(name, "%s.", words.Capital(err.Error()))
		return
	}
	for _, x := range l {
		f.Fault(name, "%s", x.Say)
	}
}

// modelSections writes a model into its form.
func modelSections(p *kit.Page, m gear.Model) []section {
	var sections []section
	for _, part := range modelSheet(m.Kind) {
		s := section{Title: part.title, Note: part.note, Steps: part.steps}
		for _, e := range part.entries {
			var fd kit.Field
			if e.kind == "select" {
				fd = p.Choose("model", e.name, e.label, e.get(&m), e.choices...)
			} else {
				fd = p.Field("model", e.name, e.label, e.get(&m), e.hint)
			}
			if e.kind == "lines" {
				fd.Kind = e.kind
			}
			fd.Required = e.required
			s.Fields = append(s.Fields, fd)
		}
		sections = append(sections, s)
	}
	return sections
}

// kindPath is the kind in the path of a core's fault, and whatever stands
// deeper than the field.
var kindPath = regexp.MustCompile(`^(?:amplifier|loudspeaker|mixer|processor|feed|di|stageBox|switch|supply|cable)\.|\[.*$`)

// atFields carries the core's faults to the fields of the form.
func atFields(err error) error {
	var l fault.List
	if !errors.As(err, &l) {
		return err
	}
	for i := range l {
		l[i].Field = kindPath.ReplaceAllString(l[i].Field, "")
	}
	return l
}
