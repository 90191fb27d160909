// Package feed is the room of the mains: the supply as a tree with what every circuit
// carries, its parts, and which device is plugged in where.
package feed

import (
	"embed"
	"fmt"
	"html/template"
	"math"
	"net/url"
	"slices"
	"strings"

	"largo/core/drive"
	"largo/core/feed"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/rig"
	"largo/core/supply"
	"largo/core/survey"
	"largo/core/unit"
	"largo/core/words"
	"largo/web/kit"
)

//go:embed *.html *.css *.js
var files embed.FS

// Room is the room of this stage.
var Room = kit.Room{
	Name: string(finding.Feed), Files: files, View: view, Sheet: onSheet, Carries: []string{"part", "visit"},
	Routes: func(r *kit.Routes) {
		r.Edit("/jobs/:job/feed/begin", readBegin, "begin")
		r.Edit("/jobs/:job/feed/part", readPart, "part", "name")
		r.Edit("/jobs/:job/feed/from", readFrom, "remove")
		r.Edit("/jobs/:job/feed/remove", readRemove, "remove")
		r.Edit("/jobs/:job/feed/plug", readPlug, "plug", "tag")
		r.Edit("/jobs/:job/feed/lift", readLift, "lift")
		r.Edit("/jobs/:job/feed/plan", readPlan, "plan")
		r.Edit("/jobs/:job/feed/visit", readVisit, "visit")
		r.Recording("/jobs/:job/feed/recording", hear)
		r.Photo("/jobs/:job/feed/photo", photograph)
		r.Get("/jobs/:job/feed/photo/:photo", photo)
		r.Post("/jobs/:job/feed/again", takeOver)
		r.Post("/jobs/:job/feed/meter", askMeter)
		r.Get("/jobs/:job/feed/show", showWatch)
		r.Post("/jobs/:job/feed/watch", kit.WithForm(setWatch))
		r.Post("/jobs/:job/feed/reading", kit.WithForm(typeReading))
	},
	Beside: followMeters,
	Finds: []kit.FindItem{{Label: "Plug into outlets", Note: "mains", Href: "/feed#plugs"},
		{Label: "Check the site", Note: "outlet by outlet", Href: "/feed?visit=next#visit"},
		{Label: "Circuits during the show", Note: "read by a meter", Href: "/feed/show"}},
}

type body struct {
	Picture  template.HTML
	Circuits []circuitRow
	Part     *partView
	Begin    []kit.Field
	Again    string // the last visit to this place whose supply is drawn
	Takes    []takeRow
	Lift     kit.Field
	Totals   []string
	Phases   []string
	Sets     []setRow
	Heat     []heatRow
	Rise     string
	Crest    string // what ordinary programme is
	Loose    []string
	Drawn    bool
	Meter    kit.Field // the address of a meter to be asked
	Visit    *visitView
	Plan     *planView
	Plans    bool // there is something to plan
}

// circuitRow is a circuit as the table has it.
type circuitRow struct {
	Name, Is, Part         string // Part is the address of its form, "" for gear
	Idle, Music, Dense, At kit.Sum
	Leaks, Volts           string
	Left                   kit.Sum // volts, on dense music
	Over                   bool
}

// takeRow is what a device takes, and where it is plugged in.
type takeRow struct {
	Tag, Model, Idle, Music, Dense, Factor, Assumed, Fed string
	Left                                                 string // volts on dense music, and what it gives less
	Lifted                                               bool
	Outlet                                               kit.Field
	Loose                                                []string
}

func view(s *kit.Server, p *kit.Page) error {
	v := survey.Of[feed.Verdict](p.Report)
	taken := takenOf(p, v)
	b := body{Drawn: v.Tree != nil && len(v.Nodes) > 0, Totals: totals(taken), Crest: crestSays(p.Rig().Brief)}
	rise := riseAsked(p)
	b.Heat, b.Rise = heats(p, taken, rise), unit.Number(rise)
	if b.Drawn {
		b.Picture = picture(p, &v)
		for _, c := range v.Circuits {
			b.Circuits = append(b.Circuits, circuit(p, v, c))
		}
		b.Phases, b.Sets = phases(&v), setRows(p, &v)
	}
	b.Plan, b.Plans = planOf(p, v), v.Plannable()
	b.Part, b.Visit = asked(p), visitOf(p)
	if b.Visit != nil {
		if err := b.Visit.before(s, p); err != nil {
			return err
		}
	}
	b.Meter = p.Field("meter", "meter", "A meter to be read", "", "as http://127.0.0.1:9032")
	if !b.Drawn {
		b.Begin = beginFields(p)
		if last, err := lastSupply(s, p); err != nil {
			return err
		} else if last != nil {
			b.Again = last.Rig.Brief.Title + ", " + last.Rig.Brief.Date
		}
	}
	outlets := outletChoices(p.Rig())
	for i := range taken {
		row := take(p, &taken[i], outlets)
		if b.Drawn {
			row.Left = left(&v, i)
		}
		b.Takes = append(b.Takes, row)
	}
	b.Lift = p.Choose("lift", "tag", "An adapter or a loose tail found at", "", tagChoices(taken)...)
	b.Loose = slices.Concat(p.Loose("lift", "tag"), p.Loose("begin", "circuits", "amps", "curve", "residual", "phases"),
		p.Loose("remove"),
		p.Loose("plan"), p.Loose("recording"), p.Loose("photo"), p.Loose("again"), p.Loose("meter", "meter"))
	p.Body = b
	return nil
}

// takenOf is what every device takes, of a rig whose supply nobody drew as well.
func takenOf(p *kit.Page, v feed.Verdict) []supply.Taken {
	if v.Tree != nil {
		return v.Taken
	}
	x := p.Report.Index
	return supply.TakenBy(x, drive.Outputs(x, load.Outputs(x)))
}

// totals are the watts and amperes of everything together.
func totals(taken []supply.Taken) (says []string) {
	for _, s := range supply.States {
		var w unit.Watt
		var a unit.Ampere
		for i := range taken {
			w, a = w+taken[i].Watts[s], a+taken[i].Amps(s)
		}
		says = append(says, fmt.Sprintf("%s %s, %s", s, rounded(w), amperes(a)))
	}
	says[0] = words.Capital(says[0])
	return says
}

// amperes writes a current as breakers are read.
func amperes(a unit.Ampere) string {
	if a < 10 {
		return unit.Fixed(float64(a), 2) + " A"
	}
	return unit.Fixed(float64(a), 1) + " A"
}

func rounded(w unit.Watt) unit.Watt {
	if w > 100 {
		return unit.Watt(math.Round(float64(w)/10) * 10)
	}
	return unit.Watt(math.Round(float64(w)))
}

func circuit(p *kit.Page, v feed.Verdict, c feed.Circuit) circuitRow {
	place := feed.PlaceOf(c.Node)
	row := circuitRow{Name: c.Name, Is: describe(c.Node), Idle: p.Sum(place, v.Carried(c, supply.Idle)),
		Music: p.Sum(place, v.Carried(c, supply.Ordinary)), Dense: p.Sum(place, v.Carried(c, supply.Dense)),
		At: p.Sum(place, v.May(c)), Over: c.Carries(supply.Dense) > c.Limit, Leaks: leaks(c.Node), Volts: "not known"}
	if c.Part != nil {
		row.Part = partHref(p, c.Name)
	}
	if c.Node.Volts.Known() {
		row.Volts = c.Node.Volts.Text()
	}
	row.Left = p.Sum(place, v.Under(c.Index, supply.Dense))
	return row
}

func leaks(n *supply.Node) string {
	says := n.Leaks.String()
	if n.Leaks == 0 {
		says = "none known"
	}
	if n.Silent > 0 {
		says += fmt.Sprintf(", %d not known", n.Silent)
	}
	return says
}

// does is what gear does to the mains that passes through it, as far as its sheet says.
func does(m *gear.Model) (says []string) {
	s := m.Supply
	if s.Isolates == gear.Yes {
		says = append(says, "isolates")
	}
	if m.Kind.Generates() || m.Kind == gear.KindDistro || m.Kind == gear.KindTransformer {
		return says
	}
	switch {
	case s.Regulates == gear.Yes:
		says = append(says, "regulates")
	case s.Regulates == gear.No:
		says = append(says, "does not regulate")
	default:
		says = append(says, "not known to regulate")
	}
	if by, known := s.StepsBy.Get(); s.Sequences == gear.Yes && known {
		says = append(says, "one outlet after the other, by "+by.String())
	} else if s.Sequences == gear.Yes {
		says = append(says, "one outlet after the other")
	} else {
		says = append(says, "all outlets at once")
	}
	return says
}

// describe is what a part is, in short: "C16, 30 mA A".
func describe(n *supply.Node) string {
	if n.Part == nil {
		says := []string{string(n.Model.Kind)}
		if n.Limit > 0 {
			says = append(says, unit.Number(math.Round(float64(n.Limit)))+" A")
		}
		return strings.Join(append(says, does(n.Model)...), ", ")
	}
	s := n.Part
	var parts []string
	if a, known := s.Current.Get(); known {
		curve := ""
		if s.Curve != "" && s.Curve != rig.CurveAmerican {
			curve = string(s.Curve)
		}
		parts = append(parts, curve+unit.Number(float64(a))+" A")
	}
	if a, known := s.Residual.Get(); known {
		parts = append(parts, strings.TrimSpace(a.String()+" "+string(s.Type)))
	}
	if m, known := s.Length.Get(); known {
		parts = append(parts, m.String())
	}
	if s.Area.Known() {
		parts = append(parts, s.Area.String())
	}
	if s.OnReel {
		parts = append(parts, "wound up")
	}
	if n.Phase > 0 {
		parts = append(parts, fmt.Sprintf("L%d", n.Phase))
	}
	if s.Earth == gear.No {
		parts = append(parts, "no earth")
	}
	if len(parts) == 0 {
		parts = append(parts, string(s.Sort))
	}
	return strings.Join(parts, ", ")
}

// phases are the currents of three phases and their neutral, of each source that has them.
func phases(v *feed.Verdict) (says []string) {
	for i := range v.Nodes {
		n := &v.Nodes[i]
		if !n.Three || n.Up >= 0 && v.Nodes[n.Up].Three {
			continue
		}
		for _, s := range []supply.State{supply.Ordinary, supply.Dense} {
			says = append(says, fmt.Sprintf("%s, %s: L1 %s, L2 %s, L3 %s, neutral %s", n.Name, s, n.Each[0][s], n.Each[1][s],
				n.Each[2][s], v.Neutral(i, s)))
		}
	}
	return says
}

func take(p *kit.Page, t *supply.Taken, outlets []kit.Choice) takeRow {
	d := &p.Rig().Devices[t.Device]
	row := takeRow{Tag: t.Tag, Model: t.Model.Name, Idle: rounded(t.Watts[supply.Idle]).String(),
		Music:   fmt.Sprintf("%s, %s", rounded(t.Watts[supply.Ordinary]), amperes(t.Amps(supply.Ordinary))),
		Dense:   fmt.Sprintf("%s, %s", rounded(t.Watts[supply.Dense]), amperes(t.Amps(supply.Dense))),
		Factor:  t.Factor.String(),
		Assumed: strings.Join(t.Assumed, "; "), Lifted: d.Lifted}
	if k, fed := p.Report.Index.Inlet(d); fed {
		row.Fed = k.From.String()
		return row
	}
	if len(outlets) > 1 {
		row.Outlet = p.Choose("plug "+t.Tag, "outlet", "Outlet of "+t.Tag, p.Report.Index.OutletOf(d), outlets...)
		row.Loose = p.Loose("plug "+t.Tag, "outlet")
	}
	return row
}

func tagChoices(taken []supply.Taken) (list []kit.Choice) {
	for i := range taken {
		list = append(list, kit.Choice{Value: taken[i].Tag, Label: taken[i].Tag})
	}
	return list
}

// left is what is left of the volts at a device on dense music, and what it gives less for it.
func left(v *feed.Verdict, i int) string {
	at := v.UnderAt(i, supply.Dense)
	if !at.Known() {
		return "not known"
	}
	says := at.Text()
	if loses, does := v.Loses(i, supply.Dense); does && loses >= 0.05 {
		says += ", −" + loses.String()
	}
	return says
}

func readLift(_ rig.Rig, f *kit.Form) rig.Edit {
	return rig.LiftEarth{Tag: f.Text("tag"), Lifted: f.Text("lifted") == "yes"}
}

func outletChoices(r rig.Rig) []kit.Choice {
	list := []kit.Choice{{Label: "not known"}}
	for _, s := range r.Supplies {
		if s.Sort == rig.Outlet {
			list = append(list, kit.Choice{Value: s.Name, Label: s.Name})
		}
	}
	return list
}

func readPlug(_ rig.Rig, f *kit.Form) rig.Edit {
	return rig.PlugMains{Tag: f.Text("tag"), Outlet: f.Text("outlet")}
}

func partHref(p *kit.Page, name string) string {
	return "/jobs/" + p.Job.Slug + "/feed?" + url.Values{"part": {name}}.Encode() + "#part"
}

// sheetCircuit is a circuit on the sheet to print.
type sheetCircuit struct{ Name, Is, Music, Dense, Devices string }

// onSheet puts the circuits on the sheet: what is plugged in where.
func onSheet(p *kit.Page) any {
	v := survey.Of[feed.Verdict](p.Report)
	var rows []sheetCircuit
	if v.Tree == nil {
		return rows
	}
	for i := range v.Nodes {
		n := &v.Nodes[i]
		if len(n.Loads) == 0 || n.Part == nil { // what hangs on gear of ours is in the wiring
			continue
		}
		var tags []string
		for _, l := range n.Loads {
			tags = append(tags, v.Taken[l].Tag)
		}
		rows = append(rows, sheetCircuit{n.Name, describe(n), n.Carries(supply.Ordinary).String(),
			n.Carries(supply.Dense).String(), strings.Join(tags, ", ")})
	}
	return rows
}
