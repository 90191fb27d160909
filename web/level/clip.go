package level

import (
	"fmt"
	"html/template"
	"math"
	"net/http"
	"net/url"
	"strconv"

	"github.com/gin-gonic/gin"

	"largo/core/level"
	"largo/core/reckon"
	"largo/core/signal"
	"largo/core/survey"
	"largo/core/unit"
	"largo/web/kit"
)

// clipView is a signal that is driven past an amplifier's clip.
type clipView struct {
	Scope, Spectrum, Swings template.HTML
	Signal                  kit.Field
	Over, Cross, Squash     slideRow
	Rows                    []kit.Choice
	Says                    []string
	Locate                  locateView
	Loose                   []looseRow
}

type slideRow struct {
	ID, Name, Label, Text  string
	Low, High, Step, Value float64
}

type locateView struct {
	Questions []askedRow
	level.Located
}

type askedRow struct {
	level.Question
	Yes, No string // where an answer leads
	Said    level.Heard
	Here    bool
}

// looseRow is what leads and amplifier do to the bass of a box.
type looseRow struct {
	Box           string
	Damping, Qes  kit.Sum
	Before, Says  string
	DampingsKnown bool
}

// signals are what can be driven.
var signals = []kit.Choice{{Value: "sine", Label: "a sine of 100 Hz"}, {Value: "pink", Label: "pink noise"},
	{Value: "programme", Label: "programme, 15 dB of crest"}}

// made are the pieces, made once.
var made = map[string][]float64{"sine": signal.Sine(105.46875, 1), "pink": signal.Pink(1, 1),
	"programme": signal.Programme(2, 1, 15)}

func showClip(s *kit.Server, c *gin.Context) {
	p, err := s.Aside(c, "What clipping does")
	if err != nil {
		s.Fail(c, err)
		return
	}
	p.Here = "/jobs/" + p.Job.Slug + "/level/clip"
	q := c.Request.URL.Query()
	kind := q.Get("signal")
	if made[kind] == nil {
		kind = "sine"
	}
	number := func(name string, usual, low, high float64) float64 {
		v, err := strconv.ParseFloat(q.Get(name), 64)
		if err != nil || math.IsNaN(v) {
			return usual
		}
		return min(max(v, low), high)
	}
	over, cross, squash := number("over", 6, 0, 20), number("cross", 2000, 80, 8000), number("squash", 0, 0, 12)
	v := clipView{Signal: p.Choose("clip", "signal", "Signal", kind, signals...)}
	v.Over = slideRow{"clip-over", "over", "Driven over its clip", unit.Decibel(over).String(), 0, 20, 0.5, over}
	v.Cross = slideRow{"clip-cross", "cross", "Crossover", unit.Hertz(cross).String(), 80, 8000, 20, cross}
	v.Squash = slideRow{"clip-squash", "squash", "A compressor takes off its peaks", unit.Decibel(squash).String(), 0,
		12, 0.5,
		squash}
	x := signal.Clip(made[kind], unit.Decibel(over), unit.Hertz(cross))
	sine := signal.Clip(made["sine"], unit.Decibel(over), unit.Hertz(cross))
	v.Scope, v.Spectrum, v.Swings = scope(&x), spectrum(&x), swings(&sine)
	v.say(p, &x, kind, over, squash)
	v.locate(p.Here, q)
	v.loose(p)
	p.Body = v
	s.Render(c, http.StatusOK, "clip", p)
}

// say puts what is drawn into figures and into both schools.
func (v *clipView) say(p *kit.Page, x *signal.Clipped, kind string, over, squash float64) {
	percent := func(f float64) string {
		if f < 0.001 {
			return unit.Number(math.Round(1e5*f)/1e3) + " %"
		}
		return unit.Number(math.Round(1000*f)/10) + " %"
	}
	v.Rows = []kit.Choice{
		{Label: "Average power", Value: percent(x.Average) + " of its rated sine; unclipped it would be " + percent(x.Clean)},
		{Label: "Crest", Value: x.Crest.String()},
		{Label: "Distortion", Value: percent(x.Distortion) + " of the power"},
		{Label: "At the clip", Value: percent(x.Part) + " of the time"},
		{Label: "High way, passive", Value: percent(x.High) + "; unclipped " + percent(x.HighClean)},
		{Label: "High way, own amplifier", Value: percent(x.HighClean) + ": it is not the one that clips"},
	}
	rise := unit.OfPower(x.High / max(signal.Clip(made[kind], 0, unit.Hertz(v.Cross.Value)).High, 1e-12))
	p.Verdict = fmt.Sprintf("%s over its clip the amplifier gives %s of its rated power on average.", unit.Decibel(over),
		percent(x.Average))
	takes := rise.Signed() +
		" against the same signal just unclipped, because the clipped lows are held while the highs " +
		"go on rising; harmonics are the lesser part"
	if x.HighClean < harmonicsAlone {
		takes = percent(x.High) + " of the rated power, harmonics alone, for there is nothing high in this signal"
	}
	v.Says = []string{
		"One school: an overdriven small amplifier kills tweeters. Behind a passive crossover the high way takes " +
			takes + ". In a bi-amped box clipped lows send the tweeter nothing.",
		"The other: below its clip point any size is harmless, and clipping is heard first. A clipped sine has at " +
			"most twice " +
			"the power of its rating, that of a square; an amplifier of twice the size, turned up as far, gives the " +
			"tweeter as " +
			"much, and clean. What hurts is average power in each driver, and a limiter holds it.",
		"A level control at half is no half of the power: it sets what it takes to reach all of it. Symmetrical " +
			"clipping sends " +
			"no direct current; a fault does.",
	}
	if squash > 0 {
		v.Says = append(v.Says,
			fmt.Sprintf("A compressor that takes %s off the peaks and is turned up to the same peaks again "+
				"leaves %s less crest, %s times the average power, and as much more heat in every coil.", unit.Decibel(squash),
				unit.Decibel(squash), unit.Ratio(unit.Decibel(squash).Ratio())))
	}
}

// harmonicsAlone is under what part of the rated power a signal has nothing for the high way.
const harmonicsAlone = 1e-4

// locate asks where distortion comes from.
func (v *clipView) locate(here string, q url.Values) {
	said := func(key string) level.Heard {
		if h := level.Heard(q.Get(key)); h == level.Yes || h == level.No {
			return h
		}
		return ""
	}
	a := level.Answers{Channel: said("channel"), Mix: said("mix"), Knob: said("knob"), Volts: said("volts")}
	located, next := level.Locate(a)
	v.Locate.Located = located
	for i, question := range level.Questions {
		if next >= 0 && i > next || next < 0 && said(question.Key) == "" {
			break
		}
		to := func(h level.Heard) string {
			on := url.Values{}
			for _, earlier := range level.Questions[:i] {
				on.Set(earlier.Key, string(said(earlier.Key)))
			}
			on.Set(question.Key, string(h))
			return here + "?" + on.Encode() + "#locate"
		}
		v.Locate.Questions = append(v.Locate.Questions, askedRow{question, to(level.Yes), to(level.No), said(question.Key),
			i == next})
	}
}

// loose is what damping has to do with loose bass, box by box where it is known.
func (v *clipView) loose(p *kit.Page) {
	for _, l := range survey.Of[level.Verdict](p.Report).Lines {
		for i := range l.Output.Boxes {
			b := &l.Output.Boxes[i]
			if !b.Speaker.Sub && b.Speaker.Driver == nil {
				continue
			}
			damping, qes := b.Damping(), b.QesIn()
			row := looseRow{Box: b.Name(), Damping: p.Sum(b.Name(), damping), Qes: p.Sum(b.Name(), qes)}
			if d := b.Speaker.Driver; d != nil && d.Qes.Known() {
				row.Before = d.Qes.String()
			}
			row.Says = looseSays(damping, qes)
			v.Loose = append(v.Loose, row)
		}
	}
}

func looseSays(damping, qes reckon.Figure) string {
	switch {
	case !damping.Known():
		return "Not known: " + damping.Lacks + "."
	case damping.Value > 20:
		return "Leads and amplifier do nothing here that is heard. Look at where it stands, at its tuning and at " +
			"the crossover."
	case !qes.Known():
		return "Leads or amplifier loosen it: shorter or thicker leads, fewer boxes on one. By how much is not known."
	}
	return "Leads or amplifier loosen it. Shorter or thicker leads, fewer boxes on one lead; another amplifier " +
		"changes nothing."
}

// The pictures, in their units.
const (
	clipWidth, clipHeight = 520.0, 200.0
	clipShown             = 910 // samples: two periods of the sine
)

func scope(x *signal.Clipped) template.HTML {
	var w kit.Pen
	top := 1.2
	for _, v := range x.Asked[:clipShown] {
		top = max(top, min(math.Abs(v)*1.05, 4))
	}
	y := func(v float64) float64 { return clipHeight/2 - (clipHeight/2-6)*min(max(v/top, -1), 1) }
	w.Put(`<svg class="line clip" viewBox="0 0 {} {}" role="img" aria-label="What was asked for, and what comes out">`,
		clipWidth, clipHeight)
	w.Put(`<path class="limit" d="M0 {}H{}M0 {}H{}"/><path class="rule" d="M0 {}H{}"/>`, y(1), clipWidth, y(-1), clipWidth,
		y(0), clipWidth)
	for _, line := range []struct {
		class kit.Markup
		of    []float64
	}{{"asked", x.Asked}, {"signal", x.Wave}} {
		w.Put(`<path class="{}" d="`, line.class)
		for i := 0; i < clipShown; i += 2 {
			letter := kit.Markup("L")
			if i == 0 {
				letter = "M"
			}
			w.Put(`{}{} {}`, letter, clipWidth*float64(i)/clipShown, y(line.of[i]))
		}
		w.Put(`"/>`)
	}
	w.Put(`<text class="tick side" x="6" y="{}">clip</text></svg>`, y(1)-5)
	return w.HTML()
}

func spectrum(x *signal.Clipped) template.HTML {
	var w kit.Pen
	w.Put(`<svg class="line clip" viewBox="0 0 {} {}" role="img" aria-label="Power by thirds of an octave">`, clipWidth,
		clipHeight)
	n := float64(len(x.Spectrum))
	y := func(p float64) float64 {
		return 8 + (clipHeight-34)*min(max(-10*math.Log10(max(p, 1e-9))/60, 0), 1)
	}
	for i, l := range x.Spectrum {
		at, width := 30+(clipWidth-36)*float64(i)/n, (clipWidth-36)/n-2
		w.Put(`<rect class="room" x="{}" y="{}" width="{}" height="{}"/>`, at, y(l.Out), width, clipHeight-26-y(l.Out))
		w.Put(`<path class="asked" d="M{} {}h{}"/>`, at, y(l.Wanted), width)
		if i%5 == 1 {
			text := unit.Number(math.Round(l.Hz))
			if l.Hz >= 999 {
				text = unit.Number(math.Round(l.Hz/100)/10) + "k"
			}
			w.Put(`<text x="{}" y="{}">{}</text>`, at+width/2, clipHeight-8, text)
		}
	}
	for db := 0; db <= 60; db += 20 {
		w.Put(`<text class="tick" x="26" y="{}">{}</text>`, 12+(clipHeight-34)*float64(db)/60, "−"+strconv.Itoa(db))
	}
	w.Put(`</svg>`)
	return w.HTML()
}

// swings draws the terminals of both channels with a sine on the first input: separate,
// where the second has another one, parallel, bridged.
func swings(x *signal.Clipped) template.HTML {
	var w kit.Pen
	const width, height, n = 170.0, 96.0, 455
	w.Put(`<svg class="line clip swings" viewBox="0 0 {} 140" role="img" `+
		`aria-label="The swing at the terminals, separate, parallel and bridged">`, clipWidth)
	for i, mode := range []struct {
		name, load string
		b          func(int) float64
	}{{"separate", "each load one swing", func(i int) float64 {
		return 0.7 * x.Asked[(i*5/3)%n] / math.Max(1, x.Asked[114])
	}},
		{"parallel", "both loads the same swing", func(i int) float64 { return x.Wave[i] }},
		{"bridged", "one load twice the swing", func(i int) float64 { return -x.Wave[i] }}} {
		left := float64(i) * (width + 5)
		y := func(v float64) float64 { return 24 + height/2 - height/4.4*v }
		w.Put(`<text class="tick side" x="{}" y="12">{}</text><text class="tick side" x="{}" y="135">{}</text>`, left,
			mode.name,
			left, mode.load)
		w.Put(`<path class="rule" d="M{} {}h{}"/>`, left, y(0), width-6)
		for k, of := range []func(int) float64{func(i int) float64 { return x.Wave[i] }, mode.b,
			func(i int) float64 { return x.Wave[i] - mode.b(i) }} {
			if k == 2 && mode.name != "bridged" {
				continue
			}
			w.Put(`<path class="{}" d="`, []kit.Markup{"signal", "asked", "load"}[k])
			for j := 0; j < n; j += 3 {
				letter := kit.Markup("L")
				if j == 0 {
					letter = "M"
				}
				w.Put(`{}{} {}`, letter, left+(width-6)*float64(j)/n, y(of(j)))
			}
			w.Put(`"/>`)
		}
	}
	w.Put(`</svg>`)
	return w.HTML()
}
