package gear

import (
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/unit"
)

// column is one figure by which models of a kind are told apart.
type column struct {
	Title string
	of    func(m *gear.Model) string // "" where it is not on record
}

// columnsOf are the figures that matter for a kind, those that are chosen by first.
func columnsOf(k gear.Kind) []column {
	weight := column{"Weight", func(m *gear.Model) string { return given(m.Body.Weight) }}
	settles := column{"Settles in", func(m *gear.Model) string {
		if !m.Powered() {
			return "no switch"
		}
		return given(m.Wake.Settle)
	}}
	switch k {
	case gear.KindAmplifier:
		return []column{
			{"Channels", func(m *gear.Model) string { return strconv.Itoa(m.Amplifier.Channels) }},
			rated("Into 8 Ω", gear.Separate, 8), rated("4 Ω", gear.Separate, 4), rated("2 Ω", gear.Separate, 2),
			rated("Bridged 8 Ω", gear.Bridged, 8), rated("4 Ω", gear.Bridged, 4),
			{"Full at", func(m *gear.Model) string { return given(m.Amplifier.Sensitivity) }}, weight,
		}
	case gear.KindLoudspeaker:
		return []column{{"Driven", driven}, {"Load", func(m *gear.Model) string {
			return ofWays(m, func(d *gear.Drive) string { return known(d.NominalZ()) })
		}},
			{"Continuous", func(m *gear.Model) string {
				return ofWays(m, func(d *gear.Drive) string { return known(d.ContinuousW()) })
			}},
			{"At 1 m", level}, {"From", func(m *gear.Model) string { return given(m.Loudspeaker.Low) }}, weight}
	case gear.KindMixer:
		return []column{
			{"For microphones", func(m *gear.Model) string { return strconv.Itoa(m.Mixer.Inputs) }},
			{"Lines", func(m *gear.Model) string { return strconv.Itoa(m.Mixer.LineIn) }},
			{"Outputs", func(m *gear.Model) string { return strconv.Itoa(len(m.Mixer.Outputs)) }}, settles, weight,
		}
	case gear.KindCable:
		return []column{
			{"Length", func(m *gear.Model) string { return given(m.Cable.Length) }},
			{"Conductor", func(m *gear.Model) string { return given(m.Cable.Area) }},
			{"Ends", func(m *gear.Model) string { return string(m.Cable.Ends[0]) + " to " + string(m.Cable.Ends[1]) }},
		}
	}
	switch {
	case k.Supplies():
		return []column{
			{"Outlets", func(m *gear.Model) string { return strconv.Itoa(m.Supply.Outlets) }},
			{"Gives", func(m *gear.Model) string { return given(m.Supply.Gives) }},
			{"Current", func(m *gear.Model) string { return given(m.Supply.Current) }}, weight,
		}
	case k == gear.KindMicrophone || k == gear.KindReceiver || k == gear.KindSource:
		return []column{{"Gives", outlets}, {"Phantom power", phantom}, settles, weight}
	case k == gear.KindProcessor:
		return []column{
			{"In", func(m *gear.Model) string { return strconv.Itoa(m.Processor.Inputs) }},
			{"Out", func(m *gear.Model) string { return strconv.Itoa(len(m.Processor.Outputs)) }},
			{"Limiters", func(m *gear.Model) string { return string(m.Processor.Limits) }}, settles, weight,
		}
	case k == gear.KindStageBox:
		return []column{
			{"Lines", func(m *gear.Model) string { return strconv.Itoa(m.StageBox.Lines) }},
			{"Returns", func(m *gear.Model) string { return strconv.Itoa(m.StageBox.Returns) }},
			{"Length", func(m *gear.Model) string { return given(m.StageBox.Length) }}, weight,
		}
	}
	return []column{{"Connectors", func(m *gear.Model) string { return strconv.Itoa(len(m.Ports())) }}, settles, weight}
}

// outlets counts what a source gives, by its level.
func outlets(m *gear.Model) string {
	var said []string
	count := map[gear.Signal]int{}
	for _, o := range m.Outlets() {
		count[o.Signal]++
	}
	for _, s := range []gear.Signal{gear.Mic, gear.Line, gear.Speaker, gear.Data} {
		if n := count[s]; n > 0 {
			said = append(said, fmt.Sprintf("%d %s", n, s))
		}
	}
	return strings.Join(said, ", ")
}

// phantom is what a source makes of phantom power, as far as its sheet says.
func phantom(m *gear.Model) string {
	var said []string
	for _, o := range m.Outlets() {
		if o.Phantom != "" && !slices.Contains(said, string(o.Phantom)) {
			said = append(said, string(o.Phantom))
		}
	}
	return strings.Join(said, ", ")
}

// table puts models of one kind under the figures that tell them apart; a figure
// that none of them has makes no column.
func table(k gear.Kind, models []gear.Model) gearKind {
	t := gearKind{Kind: k, Plural: kindPlural(k), Models: make([]gearLine, len(models))}
	for i := range models {
		t.Models[i] = gearLine{Title: models[i].Title(), Href: "/gear/model/" + url.PathEscape(models[i].ID)}
	}
	for _, c := range columnsOf(k) {
		texts, some := make([]string, len(models)), false
		for i := range models {
			texts[i] = c.of(&models[i])
			some = some || texts[i] != ""
		}
		if !some {
			continue
		}
		t.Columns = append(t.Columns, c.Title)
		for i := range models {
			t.Models[i].Figures = append(t.Models[i].Figures, texts[i])
		}
	}
	return t
}

// given is a figure on record, "" where there is none.
func given[T unit.Quantity](g unit.Given[T]) string {
	if v, ok := g.Get(); ok {
		return v.String()
	}
	return ""
}

// known is a figure worked out, "" where it cannot be.
func known(f reckon.Figure) string {
	if !f.Known() {
		return ""
	}
	return f.Text()
}

// rated is the continuous power into a load that the sheet states, as Match takes it.
func rated(title string, mode gear.Mode, load unit.Ohm) column {
	return column{title, func(m *gear.Model) string {
		if !slices.ContainsFunc(m.Amplifier.Ratings, func(r gear.Rating) bool { return r.Mode == mode && r.Load == load }) {
			return ""
		}
		return known(m.Amplifier.PowerInto(mode, load))
	}}
}

func driven(m *gear.Model) string {
	how := "passive"
	switch n := len(m.Loudspeaker.Ways); {
	case m.Loudspeaker.Active:
		how = "active"
	case n > 0:
		how = strconv.Itoa(n) + " ways"
	}
	if m.Loudspeaker.Sub {
		how += " sub"
	}
	return how
}

// level is what a box gives at 1 m, for 1 W, or at most where it is active.
func level(m *gear.Model) string {
	if m.Loudspeaker.Active {
		if most := given(m.Loudspeaker.MaxSPL); most != "" {
			return most + " at most"
		}
		return ""
	}
	return ofWays(m, func(d *gear.Drive) string {
		if text := known(d.OneWattSensitivity()); text != "" {
			return text + " for 1 W"
		}
		return ""
	})
}

// ofWays says a figure of a passive box, or of each of its ways.
func ofWays(m *gear.Model, of func(*gear.Drive) string) string {
	l := m.Loudspeaker
	if l.Active {
		return "–" // its amplifier is inside
	}
	if len(l.Ways) == 0 {
		return of(&l.Drive)
	}
	said := make([]string, len(l.Ways))
	for i := range l.Ways {
		if said[i] = of(&l.Ways[i].Drive); said[i] == "" {
			said[i] = "?"
		}
	}
	return strings.Join(said, "; ")
}

// summary is what matters of a model in one line.
func summary(m gear.Model) string {
	var parts []string
	for _, c := range columnsOf(m.Kind) {
		if text := c.of(&m); text != "" && text != "–" {
			parts = append(parts, c.Title+" "+text)
		}
	}
	return strings.Join(parts, ", ")
}
