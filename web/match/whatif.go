package match

import (
	"fmt"
	"math"
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"largo/core/advise"
	"largo/core/brief"
	"largo/core/match"
	"largo/core/reckon"
	"largo/core/sound"
	"largo/core/survey"
	"largo/core/unit"
	"largo/web/kit"
)

// whatIfView is the level for figures that are tried out.
type whatIfView struct {
	Ruler   kit.Ruler
	Sliders []slider
	Choices []kit.Field
	Level   reckon.Figure
	Average reckon.Figure
	Against string // against the level wanted
	Change  string // against the rig as it is
	Louder  string
	Guess   reckon.Figure
	Honest  string
}

// slider is a figure to be tried out.
type slider struct {
	ID, Name, Label, Unit string
	Low, High, Step       float64
	Value                 float64
	Text                  string
}

func showWhatIf(s *kit.Server, c *gin.Context) {
	p, err := s.Aside(c, "What if")
	if err != nil {
		s.Fail(c, err)
		return
	}
	p.Here = "/jobs/" + p.Job.Slug + "/match/whatif"
	f := &kit.Form{Gin: c, Query: c.Request.URL.Query()}
	now, named := advise.Now(p.Rig(), survey.Of[match.Verdict](p.Report))
	w := now
	v := whatIfView{Guess: survey.Of[brief.Verdict](p.Report).Guess}
	take := func(name, label, symbol string, low, high, step float64, at *float64) {
		if t := f.Text(name); t != "" {
			if x, err := strconv.ParseFloat(t, 64); err == nil && !math.IsNaN(x) {
				*at = min(max(x, low), high)
			}
		}
		v.Sliders = append(v.Sliders, slider{"if-" + name, name, label, symbol, low, high, step, *at, unit.Number(*at) +
			" " + symbol})
	}
	distance, boxes, sensitivity, power, hot := float64(w.Distance), float64(w.Boxes), float64(w.Sensitivity),
		float64(w.Power), float64(w.Compression)
	take("distance", "Distance", "m", 1, 120, 0.5, &distance)
	take("boxes", "Boxes", "", 1, 32, 1, &boxes)
	take("sensitivity", "Sensitivity, 1 W at 1 m", "dB", 84, 114, 0.5, &sensitivity)
	take("power", "Power at each box", "W", 5, 4000, 5, &power)
	take("hot", "Power compression", "dB", 0, 6, 0.5, &hot)
	w = advise.WhatIf{Sensitivity: unit.Decibel(sensitivity), Power: unit.Watt(power), Boxes: int(boxes),
		Distance: unit.Metre(distance), Compression: unit.Decibel(hot), Celsius: 20, Humidity: 50,
		Together: f.Text("step") == "yes"}
	v.Choices = []kit.Field{p.Choose("whatif", "step", "They add", f.Text("step"),
		kit.Choice{Value: "", Label: "as powers"}, kit.Choice{Value: "yes", Label: "in step, as subwoofers side by side"})}
	v.say(p, now, w, named)
	p.Body = v
	s.Render(c, http.StatusOK, "whatif", p)
}

func (v *whatIfView) say(p *kit.Page, now, w advise.WhatIf, named bool) {
	v.Level = w.Level()
	v.Average = match.AverageOf(v.Level)
	v.Ruler = kit.LevelRuler(float64(p.Rig().Brief.Wanted.Or(0)), kit.ValueOf(v.Average), "this")
	p.Verdict = fmt.Sprintf("%s at %s on full power, %s on ordinary programme.", v.Level.Text(), w.Distance,
		v.Average.Text())
	if !named {
		p.Verdict = "What the rig gives is not known. Boxes such as these would give " + p.Verdict
	} else {
		d := unit.Decibel(v.Level.Value - now.Level().Value)
		v.Change = d.Signed() + " against the rig as it is"
		v.Louder = unit.Fixed(float64(sound.Louder(d)), 2) + " times as loud as people would call it"
	}
	wanted, known := p.Rig().Brief.Wanted.Get()
	if !known {
		v.Against = "The brief names no level to compare with."
		return
	}
	over := unit.Decibel(v.Average.Value) - wanted
	v.Against = fmt.Sprintf("%s over the wanted %s", over.Signed(), wanted)
	if over < 0 {
		v.Against = fmt.Sprintf("%s short of the wanted %s: %s times the power, or as many boxes, or nearer", -over, wanted,
			unit.Number((-over).Ratio()))
	}
	total := w.HonestSum(wanted)
	v.Honest = fmt.Sprintf("By the honest sum the wanted level takes %s of amplifier in all with these boxes at "+
		"this distance.", total)
	if v.Guess.Known() {
		why := "It knows neither the distance nor how sensitive the boxes are; every 3 dB of sensitivity halves the watts."
		switch r := float64(total) / v.Guess.Value; {
		case r > 1.5:
			why = fmt.Sprintf("The honest sum asks %s times as much: the room is longer, the level higher or the boxes less "+
				"sensitive than the rule has in mind. %s", unit.Number(r), why)
		case r < 0.67:
			why = fmt.Sprintf("The honest sum asks %s of it: the boxes are more sensitive, nearer, or the level is lower "+
				"than the rule has in mind. %s", unit.Fixed(r, 2), why)
		}
		v.Honest += fmt.Sprintf(" The first guess by listeners is %s. %s", v.Guess.Text(), why)
	}
}
