package bench

import (
	"fmt"
	"html/template"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/bench"
	"largo/core/unit"
	"largo/core/words"
	"largo/store"
	"largo/web/kit"
)

// sessionView is a session under way, or over.
type sessionView struct {
	*bench.Study
	Name, Where, Href string
	Over              bool
	State             string        // the shape of the verdict
	Chart, Small      template.HTML // for a wide screen and a narrow one
	Known             string        // how well the end is known
	Coil              []string
	Facts             []kit.Choice
	Limit             string // what it would set, or why it sets nothing
	Proves            bool
	Reading, Step     []kit.Field
	Seen, Said, Shows kit.Field
	Setup             []kit.Field
	Cautions          []caution
	Missing           int
	Asks              bool // they are to be confirmed
	Doubted           bool // what was typed may be entered again as sure
	Loose             map[string][]string
	Events            []eventLine
	Others            []line
	Heads             int
	HasTwo            bool
	End               kit.Field
}

type eventLine struct {
	Seq                  int
	Clock, Says, By      string
	Withdrawn, Withdraws bool
	Unsound              bool
	Photo                string // its address
}

func show(s *kit.Server, c *gin.Context) {
	if h, ok := sessionOf(s, c); ok {
		showSession(s, c, http.StatusOK, h, nil)
	}
}

func showSession(s *kit.Server, c *gin.Context, status int, h store.Heated, wrong *kit.Refused) {
	st := bench.Of(&h.Session, now())
	p := s.Plain(c, name(&h.Setup)+" on the bench", st.Verdict.Says)
	p.Here = href(h.ID)
	if p.Refused = wrong; wrong != nil {
		p.Typed, p.Problem = c.Request.PostForm, wrong.Problem
	}
	v := sessionView{Study: &st, Name: name(&h.Setup), Href: href(h.ID), State: "fine", Facts: factsOf(&h.Setup),
		Cautions: cautions(h.Setup.Ready), Missing: len(h.Setup.Missing()), Heads: len(h.Events),
		HasTwo: h.Setup.Probes[1] != ""}
	if st.Verdict.Grave > 0 {
		v.State = st.Verdict.Grave.String()
	}
	v.Where = strings.Trim(strings.Join([]string{h.Setup.Box, h.Setup.Place, when(&h.Session, startOf(&h))}, ", "), ", ")
	_, v.Over = h.Ended()
	v.Asks = v.Missing > 0 && !h.Setup.Show
	v.Chart, v.Small = chart(&st, "heat-wide", wide), chart(&st, "heat-narrow", narrow)
	v.Known, v.Coil = knownSays(&st), coilSays(&st)
	v.fields(p, wrong)
	if volts, err := st.Stood(); err == nil {
		v.Limit, v.Proves = limitSays(&st, volts), true
	} else {
		v.Limit = strings.TrimPrefix(err.Error(), ": ")
	}
	v.lines()
	if err := v.others(s, c, h); err != nil {
		s.Fail(c, err)
		return
	}
	p.Body = v
	s.Render(c, status, "heated", p)
}

func knownSays(st *bench.Study) string {
	_, over := st.Ended()
	switch {
	case over && st.Known:
		return fmt.Sprintf("Where it would settle: nine of ten true ends lie at %.0f to %.0f °C, in air of %.0f °C.",
			st.End.Low, st.End.High, st.Air)
	case !st.Known:
		return "Nothing was read yet that could be followed."
	case st.KnownIn > 0 && st.Will:
		return fmt.Sprintf("Known well enough by %s. The range is where nine of ten true ends lie, in air of %.0f °C.",
			st.Clock(st.Now+int64(st.KnownIn)), st.Air)
	default:
		return fmt.Sprintf("The range is where nine of ten true ends lie, in air of %.0f °C.", st.Air)
	}
}

// coilSays is what is known of the coil, and what its heat costs; of the frame no word.
func coilSays(st *bench.Study) (says []string) {
	if !st.Known {
		return nil
	}
	power, level, times := st.Level(st.EndCoil.Mid)
	says = append(says, fmt.Sprintf("The coil is near %.0f °C now, by the model, and ends at %.0f to %.0f °C.",
		st.NowCoil.Mid, st.EndCoil.Low, st.EndCoil.High))
	says = append(says,
		fmt.Sprintf("Then it takes %s less power at the same volts, and plays %s lower; Qes is %s times that "+
			"of the cold box.", power, level, unit.Ratio(times)))
	if n := len(st.Measured); n > 0 {
		m := st.Measured[n-1]
		says = append(says, fmt.Sprintf("By its ohms it stood at %.0f °C at %s: %.2f Ω, %s truly taken.", m.Degrees,
			st.Clock(m.At), m.Ohms, unit.Watt(m.Watts)))
	} else if !st.Setup.OnLine.Known() {
		says = append(says, "Nobody measured the cold ohms of the noise, so the coil cannot be read, only modelled.")
	}
	return says
}

func limitSays(st *bench.Study, v unit.Volt) string {
	says := fmt.Sprintf("Long-term %s rms", v)
	if w, known := st.Setup.Watts(v).Get(); known {
		says += fmt.Sprintf(", %s", w)
		if rated, known := st.Setup.Rating.Get(); known {
			says += fmt.Sprintf(", %.0f %% of its rating", 100*float64(w/rated))
		}
	}
	return says + "."
}

func (v *sessionView) fields(p *kit.Page, wrong *kit.Refused) {
	s := &v.Study.Setup
	field := func(name, label, hint string) kit.Field { return p.Field("reading", name, label, "", hint) }
	v.Reading = []kit.Field{field("probe1", "On the "+s.Probes[0], "51.5 °C")}
	if v.HasTwo {
		v.Reading = append(v.Reading, field("probe2", "On the "+s.Probes[1], "44 °C"))
	}
	v.Reading = append(v.Reading, field("air", "Air", ""), field("volts", "Volts, rms", ""), field("amps", "Amperes", ""),
		field("into", "Into the limiter", "held at "+s.Into.String()), field("at", "When", "now, or 14:35"))
	none := kit.Choice{Label: "not looked at"}
	v.Seen = p.Choose("reading", "seen", "Cone and port", "", append([]kit.Choice{none},
		kit.Choices(bench.Observeds)...)...)
	v.Said = p.Field("note", "said", "Note", "", "")
	v.Shows = p.Field("photo", "said", "What it shows", "", "probe 1 on the magnet")
	v.End = p.Field("end", "said", "How it ended", "", "")
	to := ""
	if volts, known := v.Verdict.To.Get(); known {
		to = volts.String()
	}
	v.Step = []kit.Field{p.Field("step", "volts", stepLabel(s.Show), to, "")}
	if s.Show {
		v.Step = append(v.Step, p.Field("step", "level", "or the level there", "", "104 dB, averaged"),
			p.Field("step", "far", "read so far from it", "", "8 m"))
	}
	v.Step = append(v.Step, p.Field("step", "at", "When", "", "now, or 14:35"))
	v.Setup = setupFields(p, s)
	v.Loose = map[string][]string{}
	for form, fields := range map[string][]string{"reading": {"probe1", "probe2", "air", "volts", "amps", "into", "at",
		"seen"}, "step": {"volts", "level", "far", "at"}, "note": {"said"}, "photo": {"said"}, "end": {"said"},
		"limit": nil, "withdraw": nil, "sun": nil,
		"shade": nil, "setup": {"box", "place", "probe1", "probe2", "re", "cold", "onLine", "sensitivity", "low", "high",
			"into", "coil", "ask"}} {
		v.Loose[form] = p.Loose(form, fields...)
	}
	if wrong != nil {
		for _, f := range wrong.Faults {
			v.Doubted = v.Doubted || strings.Contains(f.Say, "Enter it again if")
		}
	}
}

func stepLabel(show bool) string {
	if show {
		return "Volts at the box, rms"
	}
	return "Limiter set to, rms"
}

// lines are the events, the newest first.
func (v *sessionView) lines() {
	for i := len(v.Study.Events) - 1; i >= 0; i-- {
		e := v.Study.Events[i]
		photo := ""
		if e.Photo != 0 {
			photo = v.Href + "/photo/" + strconv.FormatInt(e.Photo, 10)
		}
		v.Events = append(v.Events, eventLine{Seq: e.Seq, Clock: v.Clock(e.At), Says: eventSays(&v.Study.Setup, e), By: e.By,
			Withdrawn: v.Withdrawn(e.Seq), Withdraws: e.Kind == bench.Withdraw, Photo: photo,
			Unsound: e.Probe[0].Known() && v.Unsound(e, 0) || e.Probe[1].Known() && v.Unsound(e, 1)})
	}
}

func eventSays(s *bench.Setup, e bench.Event) string {
	var parts []string
	add := func(format string, args ...any) { parts = append(parts, fmt.Sprintf(format, args...)) }
	switch e.Kind {
	case bench.Step:
		if s.Show {
			add("%s rms at the box", e.Volts)
		} else {
			add("limiter at %s rms", e.Volts)
		}
		if w, known := s.Watts(e.Volts.Or(0)).Get(); known {
			add("%s", w)
		}
	case bench.Read:
		for i, t := range e.Probe {
			if t.Known() {
				add("%s %s", s.Probes[i], t)
			}
		}
		if e.Air.Known() {
			add("air %s", e.Air)
		}
		if e.Volts.Known() {
			add("%s", e.Volts)
		}
		if e.Amps.Known() {
			add("%s", e.Amps)
		}
		if e.Into.Known() {
			add("%s into the limiter", e.Into)
		}
		if e.Seen != "" {
			add("%s", string(e.Seen))
		}
	case bench.Sun:
		add("sun on the box")
	case bench.Shade:
		add("in the shade")
	case bench.Withdraw:
		add("withdrew number %d", e.Of)
	case bench.End:
		add("ended")
	}
	if e.Said != "" {
		parts = append(parts, e.Said)
	}
	if len(parts) == 0 {
		parts = append(parts, "photograph")
	}
	return words.Capital(strings.Join(parts, ", "))
}

// others are the finished sessions of the same model.
func (v *sessionView) others(s *kit.Server, c *gin.Context, h store.Heated) error {
	list, _, err := s.Store.HeatedSessions(c, h.Setup.Model, mostShown)
	if err != nil {
		return err
	}
	for i := range list {
		if o := &list[i]; o.ID != h.ID {
			l, over := lineOf(o)
			if over {
				v.Others = append(v.Others, l)
			}
		}
	}
	return nil
}
