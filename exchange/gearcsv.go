package exchange

import (
	"errors"
	"fmt"
	"io"
	"iter"
	"strconv"
	"strings"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/unit"
)

// A gear table has one model a row and one figure a column, named in the
// first row. Columns may stand in any order; an empty cell is unknown. A row of
// a model that the library has changes what its cells say otherwise and leaves
// the rest alone: columns that the table lacks, curves, and where each
// unchanged figure came from.

// column is one figure of a model, as text and back.
type column struct {
	name string
	get  func(*gear.Model) string
	set  func(*gear.Model, string) error
}

// gearColumns are all columns, in the order in which they are written. Those
// that belong to one kind do nothing for another.
var gearColumns = columns()

func columns() []column {
	list := []column{
		text("id", func(m *gear.Model) *string { return &m.ID }),
		{"kind", func(m *gear.Model) string { return string(m.Kind) }, nil}, // read before all others
		text("maker", func(m *gear.Model) *string { return &m.Maker }),
		text("name", func(m *gear.Model) *string { return &m.Name }),
		text("source", func(m *gear.Model) *string { return &m.Source }),
		text("note", func(m *gear.Model) *string { return &m.Note }),
	}
	list = append(list, amplifierColumns()...)
	list = append(list, loudspeakerColumns()...)
	list = append(list, lineColumns()...)
	list = append(list, carryColumns()...)
	list = append(list, mainsColumns()...)
	return append(list,
		figure("settle_s", unit.ParseSecond, func(m *gear.Model) *unit.Given[unit.Second] { return &m.Wake.Settle }),
		text("proof", func(m *gear.Model) *string { return &m.Wake.Proof }),
		text("switch", func(m *gear.Model) *string { return &m.Wake.Switch }),
		text("shutdown", func(m *gear.Model) *string { return &m.Wake.Shutdown }),
		figure("drain_s", unit.ParseSecond, func(m *gear.Model) *unit.Given[unit.Second] { return &m.Wake.Drain }))
}

func amplifierColumns() []column {
	amp := func(m *gear.Model) *gear.Amplifier { return m.Amplifier }
	return []column{
		{"channels", when(amp, func(a *gear.Amplifier) string { return strconv.Itoa(a.Channels) }),
			set(amp, func(a *gear.Amplifier, s string) (err error) {
				if s != "" { // left empty, it has two
					a.Channels, err = whole(s)
				}
				return err
			})},
		{"ratings", when(amp, func(a *gear.Amplifier) string {
			lines := make([]string, len(a.Ratings))
			for i, r := range a.Ratings {
				lines[i] = r.Line()
			}
			return strings.Join(lines, "; ")
		}), set(amp, func(a *gear.Amplifier, s string) error {
			sheet, err := gear.ParseSheet(s)
			a.Ratings = sheet.Ratings
			return err
		})},
		part("least_ohm", amp, unit.ParseOhm, func(a *gear.Amplifier) *unit.Given[unit.Ohm] { return &a.Least }),
		part("gain_db", amp, unit.ParseDecibel, func(a *gear.Amplifier) *unit.Given[unit.Decibel] { return &a.Gain }),
		part("sensitivity_v", amp, unit.ParseVolt, func(a *gear.Amplifier) *unit.Given[unit.Volt] { return &a.Sensitivity }),
		part("sensitivity_load_ohm", amp, unit.ParseOhm, func(a *gear.Amplifier) *unit.Given[unit.Ohm] {
			return &a.SensLoad
		}),
		part("output_ohm", amp, unit.ParseOhm, func(a *gear.Amplifier) *unit.Given[unit.Ohm] { return &a.OutputZ }),
		word("bridge_switch", amp, func(a *gear.Amplifier) *gear.Answer { return &a.Bridging.Switch }),
		word("bridge_manual", amp, func(a *gear.Amplifier) *string { return &a.Bridging.Manual }),
		word("bridge_common", amp, func(a *gear.Amplifier) *gear.Answer { return &a.Bridging.Common }),
		part("bridge_between_ohm", amp, unit.ParseOhm, func(a *gear.Amplifier) *unit.Given[unit.Ohm] {
			return &a.Bridging.Between
		}),
		{"bridge_pairs", when(amp, func(a *gear.Amplifier) string { return strings.Join(a.Bridging.Pairs, " ") }),
			set(amp, func(a *gear.Amplifier, s string) error { a.Bridging.Pairs = strings.Fields(s); return nil })},
		word("bridge_inverted", amp, func(a *gear.Amplifier) *gear.Answer { return &a.Bridging.Inverted }),
		part("bridge_least_ohm", amp, unit.ParseOhm, func(a *gear.Amplifier) *unit.Given[unit.Ohm] {
			return &a.Bridging.Least
		}),
		word("limiters", amp, func(a *gear.Amplifier) *gear.Answer { return &a.Limits }),
		word("class", amp, func(a *gear.Amplifier) *string { return &a.Class }),
		part("damping", amp, unit.ParseRatio, func(a *gear.Amplifier) *unit.Given[unit.Ratio] { return &a.Damping }),
		part("damping_load_ohm", amp, unit.ParseOhm, func(a *gear.Amplifier) *unit.Given[unit.Ohm] { return &a.DampingLoad }),
		part("damping_at_hz", amp, unit.ParseHertz, func(a *gear.Amplifier) *unit.Given[unit.Hertz] { return &a.DampingAt }),
		part("rated_at_v", amp, unit.ParseVolt, func(a *gear.Amplifier) *unit.Given[unit.Volt] { return &a.Supply }),
		part("together_w", amp, unit.ParseWatt, func(a *gear.Amplifier) *unit.Given[unit.Watt] { return &a.Together }),
		part("largest_out_v", amp, unit.ParseVolt, func(a *gear.Amplifier) *unit.Given[unit.Volt] { return &a.LargestOut }),
		word("relay", amp, func(a *gear.Amplifier) *gear.Answer { return &a.Relay }),
	}
}

func loudspeakerColumns() []column {
	box := func(m *gear.Model) *gear.Loudspeaker { return m.Loudspeaker }
	return []column{
		yesNo("active", box, func(s *gear.Loudspeaker) *bool { return &s.Active }),
		yesNo("sub", box, func(s *gear.Loudspeaker) *bool { return &s.Sub }),
		yesNo("link", box, func(s *gear.Loudspeaker) *bool { return &s.Link }),
		yesNo("vented", box, func(s *gear.Loudspeaker) *bool { return &s.Vented }),
		part("nominal_ohm", box, unit.ParseOhm, func(s *gear.Loudspeaker) *unit.Given[unit.Ohm] { return &s.Nominal }),
		part("least_z_ohm", box, unit.ParseOhm, func(s *gear.Loudspeaker) *unit.Given[unit.Ohm] { return &s.Least }),
		part("continuous_w", box, unit.ParseWatt, func(s *gear.Loudspeaker) *unit.Given[unit.Watt] { return &s.Continuous }),
		word("standard", box, func(s *gear.Loudspeaker) *string { return &s.Standard }),
		part("crest_db", box, unit.ParseDecibel, func(s *gear.Loudspeaker) *unit.Given[unit.Decibel] { return &s.Crest }),
		part("programme_w", box, unit.ParseWatt, func(s *gear.Loudspeaker) *unit.Given[unit.Watt] { return &s.Programme }),
		part("peak_w", box, unit.ParseWatt, func(s *gear.Loudspeaker) *unit.Given[unit.Watt] { return &s.Peak }),
		part("bare_w", box, unit.ParseWatt, func(s *gear.Loudspeaker) *unit.Given[unit.Watt] { return &s.Bare }),
		part("sensitivity_db", box, unit.ParseDecibel, func(s *gear.Loudspeaker) *unit.Given[unit.Decibel] {
			return &s.Sensitivity
		}),
		word("sensitivity_for", box, func(s *gear.Loudspeaker) *string { return &s.SensitivityRef }),
		part("high_pass_hz", box, unit.ParseHertz, func(s *gear.Loudspeaker) *unit.Given[unit.Hertz] { return &s.HighPass }),
		word("blocked", box, func(s *gear.Loudspeaker) *gear.Answer { return &s.Blocked }),
		{"ways", when(box, func(s *gear.Loudspeaker) string {
			lines := make([]string, len(s.Ways))
			for i, w := range s.Ways {
				lines[i] = w.Line()
			}
			return strings.Join(lines, "; ")
		}), set(box, func(s *gear.Loudspeaker, text string) (err error) {
			s.Ways, err = gear.ParseWays(strings.ReplaceAll(text, ";", "\n"), nil)
			return err
		})},
		word("joined_minus", box, func(s *gear.Loudspeaker) *gear.Answer { return &s.JoinedMinus }),
		yesNo("transformer", box, func(s *gear.Loudspeaker) *bool { return &s.Transformer }),
		part("low_hz", box, unit.ParseHertz, func(s *gear.Loudspeaker) *unit.Given[unit.Hertz] { return &s.Low }),
		part("high_hz", box, unit.ParseHertz, func(s *gear.Loudspeaker) *unit.Given[unit.Hertz] { return &s.High }),
		part("max_spl_db", box, unit.ParseDecibel, func(s *gear.Loudspeaker) *unit.Given[unit.Decibel] { return &s.MaxSPL }),
		part("input_clip_dbu", box, unit.ParseDBu, func(s *gear.Loudspeaker) *unit.Given[unit.DBu] { return &s.InputClip }),
	}
}

// lineColumns are those of mixers, processors and sources.
func lineColumns() []column {
	return []column{
		{"inputs", func(m *gear.Model) string {
			switch {
			case m.Mixer != nil:
				return strconv.Itoa(m.Mixer.Inputs)
			case m.Processor != nil:
				return strconv.Itoa(m.Processor.Inputs)
			}
			return ""
		}, func(m *gear.Model, s string) error {
			if s == "" {
				return nil
			}
			n, err := whole(s)
			if m.Mixer != nil {
				m.Mixer.Inputs = n
			} else if m.Processor != nil {
				m.Processor.Inputs = n
			}
			return err
		}},
		{"outputs", outputsText, setOutputs},
		yesNo("powered", func(m *gear.Model) *gear.Source { return m.Feed },
			func(s *gear.Source) *bool { return &s.Powered }),
	}
}

func outputsText(m *gear.Model) string {
	var outs []string
	for _, o := range m.Outlets() {
		outs = append(outs, strings.Join(o.Parts(), ":"))
	}
	return strings.Join(outs, "; ")
}

func setOutputs(m *gear.Model, s string) error {
	var outs []gear.Outlet
	for part := range strings.SplitSeq(s, ";") {
		if strings.TrimSpace(part) == "" {
			continue
		}
		o, err := gear.ParseOutlet(strings.Split(part, ":"))
		if err != nil {
			return err
		}
		outs = append(outs, o)
	}
	if !m.SetOutlets(outs) && s != "" {
		return fmt.Errorf("no %s lists its outputs; leave the cell empty", m.Kind)
	}
	return nil
}

// carryColumns are those of cables, stage boxes, DIs and connectors.
func carryColumns() []column {
	cable := func(m *gear.Model) *gear.Cable { return m.Cable }
	box := func(m *gear.Model) *gear.StageBox { return m.StageBox }
	plugs := func(m *gear.Model) *gear.Sockets { return m.Plugs() }
	return []column{
		word("socket_in", plugs, func(s *gear.Sockets) *gear.Connector { return &s.In }),
		word("socket_out", plugs, func(s *gear.Sockets) *gear.Connector { return &s.Out }),
		word("balanced", plugs, func(s *gear.Sockets) *gear.Answer { return &s.Balanced }),
		word("gives_phantom", func(m *gear.Model) *gear.Mixer { return m.Mixer },
			func(x *gear.Mixer) *gear.Answer { return &x.Phantom }),
		number("line_inputs", func(m *gear.Model) *gear.Mixer { return m.Mixer },
			func(x *gear.Mixer) *int { return &x.LineIn }),
		number("di_channels", func(m *gear.Model) *gear.DI { return m.DI }, func(d *gear.DI) *int { return &d.Channels }),
		word("di_phantom", func(m *gear.Model) *gear.DI { return m.DI },
			func(d *gear.DI) *gear.Phantom { return &d.Phantom }),
		word("cable_sort", cable, func(c *gear.Cable) *gear.CableSort { return &c.Sort }),
		word("end_a", cable, func(c *gear.Cable) *gear.Connector { return &c.Ends[0] }),
		word("end_b", cable, func(c *gear.Cable) *gear.Connector { return &c.Ends[1] }),
		part("length_m", cable, unit.ParseMetre, func(c *gear.Cable) *unit.Given[unit.Metre] { return &c.Length }),
		part("area_mm2", cable, unit.ParseArea, func(c *gear.Cable) *unit.Given[unit.SquareMillimetre] { return &c.Area }),
		number("poles", cable, func(c *gear.Cable) *int { return &c.Poles }),
		word("lead_joined_minus", cable, func(c *gear.Cable) *gear.Answer { return &c.JoinedMinus }),
		number("lines", box, func(s *gear.StageBox) *int { return &s.Lines }),
		number("returns", box, func(s *gear.StageBox) *int { return &s.Returns }),
		part("multicore_m", box, unit.ParseMetre, func(s *gear.StageBox) *unit.Given[unit.Metre] { return &s.Length }),
	}
}

// mainsColumns are what a device takes from the mains or passes on, and its
// body.
func mainsColumns() []column {
	supply := func(m *gear.Model) *gear.Supply { return m.Supply }
	return []column{
		figure("idle_w", unit.ParseWatt, func(m *gear.Model) *unit.Given[unit.Watt] { return &m.Intake.Idle }),
		figure("standby_w", unit.ParseWatt, func(m *gear.Model) *unit.Given[unit.Watt] { return &m.Intake.Standby }),
		figure("most_w", unit.ParseWatt, func(m *gear.Model) *unit.Given[unit.Watt] { return &m.Intake.Most }),
		figure("efficiency", unit.ParseRatio, func(m *gear.Model) *unit.Given[unit.Ratio] { return &m.Intake.Efficiency }),
		figure("power_factor", unit.ParseRatio, func(m *gear.Model) *unit.Given[unit.Ratio] { return &m.Intake.Factor }),
		word("corrected", func(m *gear.Model) *gear.Intake { return &m.Intake },
			func(i *gear.Intake) *gear.Answer { return &i.Corrected }),
		figure("inrush_a", unit.ParseAmpere, func(m *gear.Model) *unit.Given[unit.Ampere] { return &m.Intake.Inrush }),
		figure("inrush_s", unit.ParseSecond, func(m *gear.Model) *unit.Given[unit.Second] { return &m.Intake.InrushFor }),
		figure("leakage_a", unit.ParseAmpere, func(m *gear.Model) *unit.Given[unit.Ampere] { return &m.Intake.Leakage }),
		figure("volts_low", unit.ParseVolt, func(m *gear.Model) *unit.Given[unit.Volt] { return &m.Intake.VoltsLow }),
		figure("volts_high", unit.ParseVolt, func(m *gear.Model) *unit.Given[unit.Volt] { return &m.Intake.VoltsHigh }),
		figure("hire", unit.ParseMoney, func(m *gear.Model) *unit.Given[unit.Money] { return &m.Hire }),
		figure("weight_kg", unit.ParseKilogram, func(m *gear.Model) *unit.Given[unit.Kilogram] { return &m.Body.Weight }),
		number("rack_units", func(m *gear.Model) *gear.Body { return &m.Body }, func(b *gear.Body) *int { return &b.Units }),
		number("rigging_points", func(m *gear.Model) *gear.Body { return &m.Body },
			func(b *gear.Body) *int { return &b.Points }),
		number("outlets", supply, func(s *gear.Supply) *int { return &s.Outlets }),
		part("supply_a", supply, unit.ParseAmpere, func(s *gear.Supply) *unit.Given[unit.Ampere] { return &s.Current }),
		part("supply_va", supply, unit.ParseWatt, func(s *gear.Supply) *unit.Given[unit.Watt] { return &s.Apparent }),
		word("regulates", supply, func(s *gear.Supply) *gear.Answer { return &s.Regulates }),
		word("sequences", supply, func(s *gear.Supply) *gear.Answer { return &s.Sequences }),
		word("bonded", supply, func(s *gear.Supply) *gear.Answer { return &s.Bonded }),
		number("data_sockets", func(m *gear.Model) *gear.Switch { return m.Switch },
			func(s *gear.Switch) *int { return &s.Sockets }),
	}
}

// WriteGearTable writes models as CSV.
func WriteGearTable(w io.Writer, models []gear.Model) error {
	return writeCSV(w, gearRows(models))
}

// gearRows are the rows of a table of models, its head first.
func gearRows(models []gear.Model) iter.Seq[[]string] {
	return func(yield func([]string) bool) {
		row := make([]string, len(gearColumns))
		for i, c := range gearColumns {
			row[i] = c.name
		}
		if !yield(row) {
			return
		}
		for i := range models {
			for j, c := range gearColumns {
				row[j] = c.get(&models[i])
			}
			if !yield(row) {
				return
			}
		}
	}
}

// mostModels bounds one file of models.
const mostModels = 10_000

// ReadGearTable reads models from CSV over those that the library has: all of
// them, or faults that each name their row and column.
func ReadGearTable(r io.Reader, have []gear.Model) ([]gear.Model, error) {
	return readGearRows(have, csvRows(r))
}

func readGearRows(have []gear.Model, next nextRow) ([]gear.Model, error) {
	head, _, err := next()
	if err == io.EOF {
		return nil, fault.At("", "The file is empty.")
	} else if err != nil {
		return nil, err
	}
	at, err := headColumns(head)
	if err != nil {
		return nil, err
	}
	byID := make(map[string]gear.Model, len(have))
	for _, m := range have {
		byID[m.ID] = m
	}
	var models []gear.Model
	var l fault.List
	seen := map[string]int{} // by id, the row
	for {
		row, line, err := next()
		if err == io.EOF {
			return models, l.Err()
		} else if err != nil {
			return nil, err
		}
		if len(models) >= mostModels {
			return nil, fault.At("", "Row %d: a table holds at most %d models.", line, mostModels)
		}
		m := readRow(row, at, line, byID, &l)
		if first := seen[m.ID]; first > 0 && m.ID != "" {
			l.Add("", "Row %d: its id, %.60q, is that of row %d already. Give one of them an id of its own, or another name.",
				line, m.ID, first)
		}
		seen[m.ID] = line
		models = append(models, m)
		if len(l) > mostFaults {
			return nil, l
		}
	}
}

// headColumns finds which column of the file is which of ours, −1 for none.
func headColumns(head []string) (map[string]int, error) {
	known := map[string]bool{}
	for _, c := range gearColumns {
		known[c.name] = true
	}
	at := map[string]int{}
	var l fault.List
	for i, name := range head {
		name = strings.ToLower(strings.TrimSpace(strings.TrimPrefix(name, "\ufeff")))
		if _, twice := at[name]; twice {
			l.Add("", "Row 1, column %d: %.30q stands there a second time.", i+1, name)
		} else if !known[name] {
			l.Add("", "Row 1, column %d: %.30q is no column of a gear table.", i+1, name)
		}
		at[name] = i
	}
	for _, needed := range []string{"kind", "maker", "name"} {
		if _, ok := at[needed]; !ok {
			l.Add("", "Row 1: the column %q is missing.", needed)
		}
	}
	return at, l.Err()
}

func readRow(row []string, at map[string]int, line int, have map[string]gear.Model, l *fault.List) gear.Model {
	cell := func(name string) string {
		if i, ok := at[name]; ok && i < len(row) {
			return strings.TrimSpace(row[i])
		}
		return ""
	}
	m, ok := gear.Blank(gear.Kind(cell("kind")))
	if !ok {
		l.Add("", "Row %d, column kind: %.30q is not a kind of gear.", line, cell("kind"))
		return m
	}
	id := cell("id")
	if id == "" {
		id = gear.IDOf(cell("maker"), cell("name"))
	}
	if old, known := have[id]; known && old.Kind == m.Kind {
		m = old.Clone()
	}
	before := len(*l)
	for _, c := range gearColumns {
		if _, stands := at[c.name]; !stands || c.set == nil {
			continue
		}
		if text := cell(c.name); text != c.get(&m) {
			if err := c.set(&m, text); err != nil {
				l.Add("", "Row %d, column %s: %s.", line, c.name, strings.TrimSuffix(err.Error(), "."))
			}
		}
	}
	m.ID = id
	if err := m.Check(); err != nil && len(*l) == before {
		var faults fault.List
		errors.As(err, &faults)
		for _, f := range faults {
			l.Add("", "Row %d, %s: %s", line, f.Field, f.Say)
		}
	}
	return m
}

func whole(s string) (int, error) {
	n, err := strconv.Atoi(s)
	if err != nil {
		return 0, fmt.Errorf("%.20q is not a whole number", s)
	}
	return n, nil
}

// text is a column of words that every model has.
func text(name string, at func(*gear.Model) *string) column {
	return column{name, func(m *gear.Model) string { return *at(m) },
		func(m *gear.Model, s string) error { *at(m) = s; return nil }}
}

// figure is a column of a quantity that every model has.
func figure[T unit.Quantity](name string, parse func(string) (T, error), at func(*gear.Model) *unit.Given[T]) column {
	return part(name, func(m *gear.Model) *gear.Model { return m }, parse, at)
}

// when gives the text of a column that only models with a part have.
func when[P any](of func(*gear.Model) *P, get func(*P) string) func(*gear.Model) string {
	return func(m *gear.Model) string {
		if p := of(m); p != nil {
			return get(p)
		}
		return ""
	}
}

// set refuses a cell that does not belong to the row's kind.
func set[P any](of func(*gear.Model) *P, put func(*P, string) error) func(*gear.Model, string) error {
	return func(m *gear.Model, s string) error {
		p := of(m)
		if p == nil && s == "" {
			return nil
		}
		if p == nil {
			return fmt.Errorf("no %s has such a figure; leave the cell empty", m.Kind)
		}
		return put(p, s)
	}
}

// part is a column of a quantity that only models with a part have.
func part[P any, T unit.Quantity](name string, of func(*gear.Model) *P, parse func(string) (T, error),
	at func(*P) *unit.Given[T]) column {
	return column{name, when(of, func(p *P) string {
		v, known := at(p).Get()
		if !known {
			return ""
		}
		return strconv.FormatFloat(float64(v), 'f', -1, 64)
	}), set(of, func(p *P, s string) error {
		if s == "" {
			*at(p) = unit.Given[T]{}
			return nil
		}
		v, err := parse(s)
		*at(p) = unit.Of(v)
		return err
	})}
}

// word is a column of a word that only models with a part have.
func word[P any, W ~string](name string, of func(*gear.Model) *P, at func(*P) *W) column {
	return column{name, when(of, func(p *P) string { return string(*at(p)) }),
		set(of, func(p *P, s string) error { *at(p) = W(s); return nil })}
}

// yesNo is a column of yes or no that only models with a part have.
func yesNo[P any](name string, of func(*gear.Model) *P, at func(*P) *bool) column {
	return column{name, when(of, func(p *P) string {
		if *at(p) {
			return "yes"
		}
		return "no"
	}), set(of, func(p *P, s string) error {
		switch strings.ToLower(s) {
		case "yes":
			*at(p) = true
		case "no", "":
			*at(p) = false
		default:
			return fmt.Errorf("%.20q is neither yes nor no", s)
		}
		return nil
	})}
}

// number is a column of a whole number that only models with a part have; 0 is
// left empty.
func number[P any](name string, of func(*gear.Model) *P, at func(*P) *int) column {
	return column{name, when(of, func(p *P) string {
		if *at(p) == 0 {
			return ""
		}
		return strconv.Itoa(*at(p))
	}), set(of, func(p *P, s string) (err error) {
		if *at(p) = 0; s != "" {
			*at(p), err = whole(s)
		}
		return err
	})}
}
