package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"reflect"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/unit"
	"largo/store"
)

type gearView struct {
	Kinds  []gearKind
	Faults []string // of a file that was refused
	Search field
}

type gearKind struct {
	Kind   gear.Kind
	Plural string
	Models []gearLine
}

type gearLine struct{ Title, Href, Says, Source string }

// modelView is the form of one model.
type modelView struct {
	Kind       gear.Kind
	New        bool
	Action     string
	Sections   []section
	Loose      []string
	Understood []string // how the ratings were read
	Ports      []string
}

type section struct {
	Title, Note string
	Fields      []field
}

func (s *Server) gear(c *gin.Context) { s.showGear(c, http.StatusOK, nil) }

// mostFaults is how many faults of a file are shown.
const mostFaults = 12

func (s *Server) showGear(c *gin.Context, status int, faults fault.List) {
	typed := c.Query("q")
	models, all, err := s.store.SearchModels(c, typed, mostListed)
	if err != nil {
		s.fail(c, err)
		return
	}
	byKind := map[gear.Kind][]gearLine{}
	for _, m := range models {
		byKind[m.Kind] = append(byKind[m.Kind], gearLine{m.Title(), "/gear/model/" + url.PathEscape(m.ID), summary(m), m.Source})
	}
	var v gearView
	for i, f := range faults {
		if i == mostFaults {
			v.Faults = append(v.Faults, "And "+strconv.Itoa(len(faults)-mostFaults)+" more.")
			break
		}
		v.Faults = append(v.Faults, strings.TrimPrefix(f.Field+": ", ": ")+f.Say)
	}
	for _, k := range gear.Kinds {
		if typed == "" || len(byKind[k]) > 0 {
			v.Kinds = append(v.Kinds, gearKind{k, string(k) + "s", byKind[k]})
		}
	}
	p := s.gearPage(c, "Gear", gearVerdict(typed, all, len(models)))
	v.Search = p.Field("gear", "q", "Search", typed, "maker, name or kind")
	if len(faults) > 0 {
		p.Problem = "Nothing was imported."
	}
	p.Here, p.Body = "/gear", v
	s.render(c, status, "gear", p)
}

// mostListed is how many models the library shows at once.
const mostListed = 200

func gearVerdict(typed string, all, shown int) string {
	in := " in the library."
	if typed != "" {
		in = fmt.Sprintf(" with %q.", typed)
	}
	if shown < all {
		in += fmt.Sprintf(" The first %d are shown; type more to narrow it.", shown)
	}
	return plural(all, "model", "models") + in
}

func (s *Server) gearPage(c *gin.Context, title, verdict string) *page {
	return &page{Title: title + " · Largo", Verdict: verdict, Scheme: scheme(c), Here: c.Request.URL.Path, Command: newCommand(), Keys: plainKeys, gin: c,
		Finds: []findItem{{Label: "All jobs", Note: "tour", Href: "/"}, {Label: "Gear", Note: "library", Href: "/gear"}}}
}

// summary is what matters of a model in one line.
func summary(m gear.Model) string {
	switch m.Kind {
	case gear.KindAmplifier:
		parts := []string{strconv.Itoa(m.Amplifier.Channels) + " channels"}
		for _, r := range m.Amplifier.Ratings {
			text := r.Power.String() + " into " + r.Load.String()
			if r.Mode == gear.Bridged {
				text = "bridged " + text
			}
			parts = append(parts, text)
		}
		return strings.Join(parts, ", ")
	case gear.KindLoudspeaker:
		if m.Loudspeaker.Active {
			return "active, largest level " + m.Loudspeaker.MaxSPL.String()
		}
		return m.Loudspeaker.NominalZ().Text() + ", " + m.Loudspeaker.ContinuousW().Text() + " continuous, " + m.Loudspeaker.OneWattSensitivity().Text() + " for 1 W"
	}
	ports := strconv.Itoa(len(m.Ports())) + " connectors"
	if len(m.Ports()) == 1 {
		ports = "1 connector"
	}
	switch {
	case !m.Powered():
		return ports + ", no switch"
	case !m.Wake.Settle.Known():
		return ports + ", settling time unknown"
	}
	return ports + ", settles in " + m.Wake.Settle.String()
}

func (s *Server) newModel(c *gin.Context) {
	k := gear.Kind(c.Param("kind"))
	m, ok := gear.Blank(k)
	if !ok {
		s.fail(c, store.ErrNotFound)
		return
	}
	suggest(&m)
	s.showModel(c, http.StatusOK, m, true, nil)
}

// suggest fills a new form with what most such gear has.
func suggest(m *gear.Model) {
	switch m.Kind {
	case gear.KindLoudspeaker:
		m.Loudspeaker.Link = true
	case gear.KindMixer:
		m.Mixer.Inputs, m.Mixer.Outputs = 16, []gear.Outlet{{Name: "main L", Signal: gear.Line}, {Name: "main R", Signal: gear.Line}}
	case gear.KindProcessor:
		m.Processor.Inputs, m.Processor.Outputs = 2, []string{"out 1", "out 2"}
	case gear.KindSource:
		m.Feed.Outputs = []gear.Outlet{{Name: "out", Signal: gear.Mic}}
	}
}

func (s *Server) editModel(c *gin.Context) {
	m, err := s.store.Model(c, c.Param("id"))
	if err != nil {
		s.fail(c, err)
		return
	}
	s.showModel(c, http.StatusOK, m, false, nil)
}

func (s *Server) showModel(c *gin.Context, status int, m gear.Model, isNew bool, wrong *refused) {
	verdict := m.Title() + ", " + string(m.Kind)
	if isNew {
		verdict = "A new " + string(m.Kind) + ". Leave empty whatever its sheet does not say."
	}
	p := s.gearPage(c, "Gear", verdict)
	p.refused = wrong
	if wrong != nil {
		p.typed, p.Problem = c.Request.PostForm, wrong.problem
	}
	v := modelView{Kind: m.Kind, New: isNew, Action: c.Request.URL.Path, Sections: p.modelSections(m)}
	var names []string
	for _, sec := range v.Sections {
		for _, f := range sec.Fields {
			names = append(names, f.Name)
		}
	}
	v.Loose = p.Loose("model", names...)
	if m.Kind == gear.KindAmplifier {
		for _, r := range m.Amplifier.Ratings {
			v.Understood = append(v.Understood, r.Line())
		}
	}
	for _, port := range m.Ports() {
		v.Ports = append(v.Ports, port.Name+" ("+string(port.Signal)+" "+string(port.Dir)+")")
	}
	p.Body = v
	s.render(c, status, "model", p)
}

func (p *page) modelSections(m gear.Model) []section {
	f := func(name, label, value, hint string) field { return p.Field("model", name, label, value, hint) }
	maker, name := f("maker", "Maker", m.Maker, ""), f("name", "Name", m.Name, "")
	maker.Required, name.Required = true, true
	sections := []section{{Title: "What it is", Fields: []field{maker, name,
		f("source", "Where its figures come from", m.Source, "sheet, plate, measured"), f("note", "Note", m.Note, "")}}}
	switch m.Kind {
	case gear.KindAmplifier:
		sections = append(sections, p.amplifierSections(*m.Amplifier)...)
	case gear.KindLoudspeaker:
		sections = append(sections, p.loudspeakerSections(*m.Loudspeaker)...)
	default:
		sections = append(sections, p.lineSection(m))
	}
	note := "From these the power-up is timed."
	if m.Kind == gear.KindLoudspeaker {
		note = "Of active boxes alone. " + note
	}
	return append(sections, section{Title: "How it wakes", Note: note, Fields: []field{
		f("settle", "Settles in", typed(m.Wake.Settle), "as 90 s or 1:30, from its switch to quiet outputs"),
		f("proof", "What is seen when it is up", m.Wake.Proof, ""), f("switch", "Where its switch is", m.Wake.Switch, "as rear rocker"),
		f("shutdown", "Its own way to be shut down", m.Wake.Shutdown, ""), f("drain", "Dead after", typed(m.Wake.Drain), "from its switch")}})
}

func (p *page) amplifierSections(a gear.Amplifier) []section {
	f := func(name, label, value, hint string) field { return p.Field("model", name, label, value, hint) }
	lines := make([]string, len(a.Ratings))
	for i, r := range a.Ratings {
		lines[i] = r.Line()
	}
	ratings := f("ratings", "Ratings, as the sheet prints them", strings.Join(lines, "\n"), "as 2 x 700 W into 4 ohm, bridged 1400 W into 8 ohm; words: one driven, all driven, burst")
	ratings.Kind = "lines"
	answers := func(name, label string, v gear.Answer) field {
		return p.Choose("model", name, label, string(v), choice{Label: "not known"}, choice{Value: "yes", Label: "yes"}, choice{Value: "no", Label: "no"})
	}
	return []section{
		{Title: "Power", Fields: []field{f("channels", "Channels", strconv.Itoa(a.Channels), ""), ratings, f("least", "Least load a channel", typed(a.Least), "as on its back")}},
		{Title: "Gain", Note: "One of the two is enough. A sensitivity counts only with its load.", Fields: []field{
			f("gain", "Gain", typed(a.Gain), "dB"), f("sensitivity", "Input sensitivity", typed(a.Sensitivity), "as 1 V or 775 mV"), f("sensLoad", "stated for", typed(a.SensLoad), "Ω"),
			answers("limits", "Has limiters of its own", a.Limits)}},
		{Title: "May it be bridged?", Note: "The ohmmeter check: amplifier off, mains out, meter on ohms between the two minus terminals. Near 0 Ω they are joined.", Fields: []field{
			answers("bridgeSwitch", "Bridge switch", a.Bridging.Switch),
			p.Choose("model", "manual", "The manual", a.Bridging.Manual, choice{Label: "says nothing"}, choice{Value: gear.ManualAllows, Label: "allows it"}, choice{Value: gear.ManualForbids, Label: "forbids it"}),
			answers("common", "Minus terminals joined", a.Bridging.Common), f("bridgeLeast", "Least bridged load", typed(a.Bridging.Least), "Ω")}},
	}
}

func (p *page) loudspeakerSections(s gear.Loudspeaker) []section {
	f := func(name, label, value, hint string) field { return p.Field("model", name, label, value, hint) }
	yes := func(name, label string, v bool) field {
		return p.Choose("model", name, label, strconv.FormatBool(v), choice{Value: "false", Label: "no"}, choice{Value: "true", Label: "yes"})
	}
	return []section{
		{Title: "Kind of box", Fields: []field{yes("active", "Active, with amplifiers inside", s.Active), yes("sub", "Low end only", s.Sub), yes("link", "Link-through", s.Link), yes("vented", "Ported", s.Vented)}},
		{Title: "Passive box", Fields: []field{f("nominal", "Nominal impedance", typed(s.Nominal), "Ω"), f("leastZ", "Least impedance", typed(s.Least), "Ω"),
			f("continuous", "Continuous power", typed(s.Continuous), "W"), p.Choose("model", "standard", "rated under", s.Standard, append([]choice{{Label: "not said"}}, choices(gear.Standards)...)...),
			f("crest", "Crest factor of the test", typed(s.Crest), "dB; 6 where nothing is said"), f("programme", "Programme power", typed(s.Programme), "W"), f("peak", "Peak power", typed(s.Peak), "W"),
			f("bare", "Watts without a word", typed(s.Bare), "taken as peak"), f("sensitivity", "Sensitivity at 1 m", typed(s.Sensitivity), "dB"),
			p.Choose("model", "sensRef", "for", s.SensitivityRef, choice{Label: "not said"}, choice{Value: gear.OneWatt, Label: "1 W"}, choice{Value: gear.TwoPointEight, Label: "2.83 V"}),
			f("highPass", "High-pass its maker asks for", typed(s.HighPass), "Hz")}},
		{Title: "Active box", Fields: []field{f("maxSPL", "Largest level at 1 m", typed(s.MaxSPL), "dB, taken as peak"), f("inputClip", "Input clips at", typed(s.InputClip), "dBu")}},
	}
}

func (p *page) lineSection(m gear.Model) section {
	f := func(name, label, value, hint string) field { return p.Field("model", name, label, value, hint) }
	var outs []string
	inputs := 0
	for _, port := range m.Ports() {
		if port.Dir == gear.In {
			inputs++
			continue
		}
		line := port.Name
		if m.Kind != gear.KindProcessor {
			line += ", " + string(port.Signal)
		}
		outs = append(outs, line)
	}
	outputs := f("outputs", "Outputs, one a line", strings.Join(outs, "\n"), "name, then its level: main L, line")
	outputs.Kind = "lines"
	sec := section{Title: "Connectors"}
	if m.Kind != gear.KindSource {
		sec.Fields = append(sec.Fields, f("inputs", "Inputs", strconv.Itoa(inputs), ""))
	} else {
		sec.Fields = append(sec.Fields, p.Choose("model", "powered", "Has a switch or supply", strconv.FormatBool(m.Feed.Powered), choice{Value: "false", Label: "no"}, choice{Value: "true", Label: "yes"}))
	}
	sec.Fields = append(sec.Fields, outputs)
	return sec
}

// saveModel keeps a model of the library. Rigs that hold it keep the figures
// of the day it was added, until they are told to take the new ones.
func (s *Server) saveModel(c *gin.Context) {
	f, err := readForm(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	isNew := c.Param("id") == ""
	m, ok := gear.Blank(gear.Kind(c.Param("kind")))
	if !isNew {
		if m, err = s.store.Model(c, c.Param("id")); err != nil {
			s.fail(c, err)
			return
		}
	} else if !ok {
		s.fail(c, store.ErrNotFound)
		return
	}
	old := m
	m = f.model(old)
	if isNew {
		m.ID = gear.IDOf(m.Maker, m.Name)
		if _, err := s.store.Model(c, m.ID); err == nil {
			f.fault("name", "The library already has %s.", m.Title())
		} else if !errors.Is(err, store.ErrNotFound) {
			s.fail(c, err)
			return
		}
	}
	if err := m.Check(); err != nil { // whatever could not be read counts as unknown here
		f.refuse(atFields(err))
	}
	if len(f.faults) > 0 {
		s.showModel(c, http.StatusUnprocessableEntity, old, isNew, &refused{form: "model", faults: f.faults, problem: f.problem()})
		return
	}
	if err := s.store.SaveModels(c, m); err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/gear/model/"+url.PathEscape(m.ID))
}

// formFields are the form's names where they are not the model's own.
var formFields = map[string]string{"amplifier.sensitivityLoad": "sensLoad", "amplifier.bridging.least": "bridgeLeast", "loudspeaker.least": "leastZ", "loudspeaker.sensitivityRef": "sensRef"}

// atFields carries the core's faults to the fields of the form.
func atFields(err error) error {
	var l fault.List
	if !errors.As(err, &l) {
		return err
	}
	for i, f := range l {
		if name, ok := formFields[f.Field]; ok {
			l[i].Field = name
			continue
		}
		if strings.HasPrefix(f.Field, "amplifier.ratings") {
			l[i].Field = "ratings"
			continue
		}
		l[i].Field = f.Field[strings.LastIndexByte(f.Field, '.')+1:]
	}
	return l
}

// model reads the form over a model; whatever the form does not show stays.
func (f *form) model(m gear.Model) gear.Model {
	m.Maker, m.Name, m.Source, m.Note = f.text("maker"), f.text("name"), f.text("source"), f.text("note")
	w := m.Wake
	m.Wake = gear.Wake{Settle: keepOrigin(w.Settle, given(f, "settle", unit.ParseSecond)), Proof: f.text("proof"), Switch: f.text("switch"),
		Shutdown: f.text("shutdown"), Drain: keepOrigin(w.Drain, given(f, "drain", unit.ParseSecond))}
	switch m.Kind {
	case gear.KindAmplifier:
		a := f.amplifier(*m.Amplifier)
		m.Amplifier = &a
	case gear.KindLoudspeaker:
		s := f.loudspeaker(*m.Loudspeaker)
		m.Loudspeaker = &s
	case gear.KindMixer:
		m.Mixer = &gear.Mixer{Inputs: f.number("inputs", "inputs"), Outputs: f.outlets()}
	case gear.KindProcessor:
		p := gear.Processor{Inputs: f.number("inputs", "inputs"), Limits: m.Processor.Limits}
		for _, o := range f.outlets() {
			p.Outputs = append(p.Outputs, o.Name)
		}
		m.Processor = &p
	case gear.KindSource:
		m.Feed = &gear.Source{Outputs: f.outlets(), Powered: f.text("powered") == "true"}
	}
	return m
}

func (f *form) amplifier(a gear.Amplifier) gear.Amplifier {
	a.Channels = f.number("channels", "channels")
	f.ratings(&a)
	a.Least = keepOrigin(a.Least, given(f, "least", unit.ParseOhm))
	a.Gain = keepOrigin(a.Gain, given(f, "gain", unit.ParseDecibel))
	a.Sensitivity = keepOrigin(a.Sensitivity, given(f, "sensitivity", unit.ParseVolt))
	a.SensLoad = keepOrigin(a.SensLoad, given(f, "sensLoad", unit.ParseOhm))
	a.Limits = gear.Answer(f.text("limits"))
	a.Bridging.Switch, a.Bridging.Manual, a.Bridging.Common = gear.Answer(f.text("bridgeSwitch")), f.text("manual"), gear.Answer(f.text("common"))
	a.Bridging.Least = keepOrigin(a.Bridging.Least, given(f, "bridgeLeast", unit.ParseOhm))
	return a
}

func (f *form) loudspeaker(s gear.Loudspeaker) gear.Loudspeaker {
	s.Active, s.Sub, s.Link, s.Vented = f.text("active") == "true", f.text("sub") == "true", f.text("link") == "true", f.text("vented") == "true"
	s.Nominal = keepOrigin(s.Nominal, given(f, "nominal", unit.ParseOhm))
	s.Least = keepOrigin(s.Least, given(f, "leastZ", unit.ParseOhm))
	s.Continuous = keepOrigin(s.Continuous, given(f, "continuous", unit.ParseWatt))
	s.Programme = keepOrigin(s.Programme, given(f, "programme", unit.ParseWatt))
	s.Peak = keepOrigin(s.Peak, given(f, "peak", unit.ParseWatt))
	s.Bare = keepOrigin(s.Bare, given(f, "bare", unit.ParseWatt))
	s.Crest = keepOrigin(s.Crest, given(f, "crest", unit.ParseDecibel))
	s.Sensitivity = keepOrigin(s.Sensitivity, given(f, "sensitivity", unit.ParseDecibel))
	s.HighPass = keepOrigin(s.HighPass, given(f, "highPass", unit.ParseHertz))
	s.MaxSPL = keepOrigin(s.MaxSPL, given(f, "maxSPL", unit.ParseDecibel))
	s.InputClip = keepOrigin(s.InputClip, given(f, "inputClip", unit.ParseDBu))
	s.Standard, s.SensitivityRef = f.text("standard"), f.text("sensRef")
	return s
}

// lines splits a field of one entry a line.
func (f *form) lines(name string) []string {
	var out []string
	for line := range strings.SplitSeq(f.c.PostForm(name), "\n") {
		if line = strings.TrimSpace(line); line != "" {
			out = append(out, line)
		}
	}
	return out
}

// outlets reads "main L, line"; the level may be left out for line.
func (f *form) outlets() []gear.Outlet {
	var outs []gear.Outlet
	for _, line := range f.lines("outputs") {
		name, level, _ := strings.Cut(line, ",")
		o := gear.Outlet{Name: strings.TrimSpace(name), Signal: gear.Signal(strings.TrimSpace(level))}
		if o.Signal == "" {
			o.Signal = gear.Line
		}
		outs = append(outs, o)
	}
	return outs
}

// ratings reads the power table, one rating a line or as a sheet prints it.
func (f *form) ratings(a *gear.Amplifier) {
	sheet, err := gear.ParseSheet(f.c.PostForm("ratings"))
	if err != nil {
		f.refuse(err)
	}
	a.Ratings, a.Channels = sheet.Ratings, max(a.Channels, sheet.Channels)
}

func sameModel(a, b gear.Model) bool { return reflect.DeepEqual(a, b) }
