package match

import (
	"fmt"
	"math"
	"math/cmplx"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/advise"
	"largo/core/gear"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/unit"
	"largo/core/wire"
	"largo/store"
	"largo/web/kit"
)

// outputPage is the whole truth about one output: its load over frequency,
// what arrives at each box, and what would make it louder.
type outputPage struct {
	advise.Line
	Name, Tag string
	Plot      *kit.Plot
	From      string
	Boxes     []lineBoxView
	Form      []kit.Field
	At        string
	adviceView
	HookUp string
}

// adviceView is the ways to be louder, drawn as decibels.
type adviceView struct {
	Advice   advise.Advice
	Bars     []choiceBar
	BarsWide float64
	BarsHigh float64
	Ticks    []kit.Tick
}

// lineBoxView is a box with the lead of stock that would do.
type lineBoxView struct {
	advise.LineBox
	Name  string
	Stock string
}

// choiceBar is a way to be louder as a bar of decibels.
type choiceBar struct {
	X, Y, W    float64
	TextX      float64
	Name, Text string
	Out        bool // not allowed
	Why        string
}

// outputHref is where the truth about an output stands.
func outputHref(slug string, at rig.Ref) string {
	return "/jobs/" + slug + "/match/output?" + url.Values{"at": {kit.RefValue(at)}}.Encode()
}

func showOutput(s *kit.Server, c *gin.Context) {
	p, err := s.Aside(c, "Output")
	if err != nil {
		s.Fail(c, err)
		return
	}
	at := kit.ReadRef(c.Query("at"))
	var o match.Output
	found := false
	for _, one := range survey.Of[match.Verdict](p.Report).Outputs {
		if one.At == at {
			o, found = one, true
		}
	}
	if !found {
		s.Fail(c, store.ErrNotFound)
		return
	}
	held, err := s.Store.Stock(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	p.Here = "/jobs/" + p.Job.Slug + "/match/output"
	f := &kit.Form{Gin: c, Query: c.Request.URL.Query()}
	ask := asked(f, o)
	status := http.StatusOK
	if len(f.Faults) > 0 {
		status = http.StatusUnprocessableEntity
		p.Refused, p.Typed, p.Problem = &kit.Refused{Form: "ask", Faults: f.Faults}, f.Query, f.Problem()
	}
	v := outputPage{Line: advise.LineOf(o, ask), Name: o.Name(), Tag: at.Device, At: c.Query("at"),
		adviceView: adviceOf(advise.Advise(p.Report.Index, survey.Of[match.Verdict](p.Report), o, held))}
	v.fill(p, o, wire.StockOf(held))
	v.Form = []kit.Field{p.Field("ask", "loss", "Wanted loss at most", kit.TypedOr(f, "loss", "0.5 dB"),
		"of the leads to a box"), p.Field("ask", "celsius", "Copper at", kit.TypedOr(f, "celsius", "20"), "°C"),
		p.Field("ask", "circuit", "Circuit", kit.TypedOr(f, "circuit", ask.Circuit.String()), "of the mains that feeds it")}
	p.Verdict = v.verdict()
	p.Body = v
	s.Render(c, status, "output", p)
}

// asked reads what a line is worked out for.
func asked(f *kit.Form, o match.Output) advise.Asked {
	ask := advise.UsualAsk(o)
	if l, known := kit.Given(f, "loss", unit.ParseDecibel).Get(); known {
		if ask.Loss = l; l <= 0 || l > 6 {
			f.Fault("loss", "A loss of %s cannot be wanted: give 0.1 dB to 6 dB.", l)
			ask.Loss = 0.5
		}
	}
	if t := f.Text("celsius"); t != "" {
		v, err := strconv.ParseFloat(strings.TrimSpace(strings.TrimSuffix(t, "°C")), 64)
		if ask.Celsius = v; err != nil || v < -30 || v > 120 {
			f.Fault("celsius", "%.20q is no temperature of a lead; give −30 to 120.", t)
			ask.Celsius = 20
		}
	}
	if a, known := kit.Given(f, "circuit", unit.ParseAmpere).Get(); known {
		if ask.Circuit = a; a <= 0 || a > 500 {
			f.Fault("circuit", "A circuit of %s cannot be right.", a)
		}
	}
	return ask
}

func (v *outputPage) verdict() string {
	o := v.Output
	switch {
	case len(o.Boxes) == 0:
		return v.Name + " drives nothing."
	case !o.Nominal.Known():
		return "The load on " + v.Name + " is not known: " + o.Nominal.Lacks + "."
	}
	text := fmt.Sprintf("%s drives %s", v.Name, o.Nominal.Text())
	if v.Dip.Known() && v.From != string(gear.FromNominal) {
		text += fmt.Sprintf(", which dips to %s", v.Dip.Text())
	}
	worst := math.Inf(-1)
	for _, b := range v.Line.Boxes {
		if b.Loss.Known() {
			worst = max(worst, b.Loss.Value)
		}
	}
	if !math.IsInf(worst, -1) {
		text += fmt.Sprintf("; its leads lose %s at most", unit.Decibel(worst))
	}
	return text + "."
}

func (v *outputPage) fill(p *kit.Page, o match.Output, stock wire.Stock) {
	if v.Sweep.Lacks == "" {
		var c gear.Curve
		for i, hz := range v.Sweep.Hz {
			c = append(c, gear.Point{Hz: hz, Value: cmplx.Abs(v.Sweep.Z[i])})
		}
		limit := unit.Given[unit.Ohm]{}
		if o.Limit.Known() {
			limit = unit.Of(unit.Ohm(o.Limit.Value))
		}
		drawn := kit.ImpedancePlot("load-curve", "The load on "+v.Name+" over frequency", c, limit)
		v.Plot = &drawn
		for i, from := range v.Sweep.From {
			if i > 0 {
				v.From += "; "
			}
			v.From += string(from)
		}
	}
	for _, b := range v.Line.Boxes {
		view := lineBoxView{LineBox: b, Name: b.Box.Name()}
		if k, fed := p.Report.Index.Into(b.Box.In()); fed && b.Need.Known() {
			view.Stock = thickEnough(wire.Offers(p.Report.Index, k, stock), b)
		}
		v.Boxes = append(v.Boxes, view)
	}
	if o.Pair >= 0 {
		v.HookUp = kit.HookUpHref(p.Job.Slug, v.Tag, o.Pair)
	}
}

// thickEnough names the lead of stock that would do for a run.
func thickEnough(offers []wire.Offer, b advise.LineBox) string {
	length := b.Length.Or(0)
	for _, o := range offers {
		c := o.Model.Cable
		if c.Area.Or(0) >= unit.SquareMillimetre(b.Need.Value) && c.Length.Or(0) >= length {
			if o.Spare > 0 {
				return "stock has " + o.Model.Name
			}
			return "stock has " + o.Model.Name + ", all in use"
		}
	}
	return "stock has none"
}

// adviceOf draws the choices as decibels over one channel.
func adviceOf(a advise.Advice) adviceView {
	v := adviceView{Advice: a}
	const row, left, width = 30.0, 250.0, 330.0
	low, high := 0.0, 6.0
	for _, c := range v.Advice.Choices {
		if c.Gain.Known() {
			low, high = min(low, math.Floor(c.Gain.Value)), max(high, math.Ceil(c.Gain.Value))
		}
	}
	x := func(db float64) float64 { return left + width*(db-low)/(high-low) }
	for db := 3 * math.Ceil(low/3); db <= high; db += 3 {
		v.Ticks = append(v.Ticks, kit.Tick{X: x(db), Label: unit.Fixed(db, 0) + " dB"})
	}
	for i, c := range v.Advice.Choices {
		b := choiceBar{Y: 22 + row*float64(i), Name: c.Name, Out: !c.Allowed, Why: c.Why, Text: "unknown"}
		b.X, b.W = x(0), 0
		if c.Gain.Known() {
			b.X, b.W = min(x(0), x(c.Gain.Value)), math.Abs(x(c.Gain.Value)-x(0))
			b.Text = unit.Decibel(c.Gain.Value).Signed()
		}
		b.TextX = b.X + b.W + 7
		v.Bars = append(v.Bars, b)
	}
	v.BarsWide, v.BarsHigh = left+width+70, 22+row*float64(len(v.Bars))+4
	return v
}
