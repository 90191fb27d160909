package level

import (
	"fmt"
	"html/template"
	"math"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"largo/core/drive"
	"largo/core/gear"
	"largo/core/level"
	"largo/core/rig"
	"largo/core/sound"
	"largo/core/survey"
	"largo/core/unit"
	"largo/core/words"
	"largo/web/kit"
)

// The level line: one ruler a stage, each hung from where that stage clips; the signal goes
// from one to the next, and what matters is the gap under the line.

// levelLine is the line that is followed, with its controls.
type levelLine struct {
	Of, From kit.Field
	Picture  template.HTML
	Answer   string
	Notes    []string
	Stops    []stopRow
	Moves    []moveRow
	Ask      []kit.Choice // what the address asks, for the form of the controls
	Peak     *kit.Field   // of the source that is followed
	PeakAt   rig.Ref
	Changed  int // controls that do not stand as on record
}

type stopRow struct{ Name, At, Gives, Buys string }

type moveRow struct {
	ID, Name, Label, Text string
	Low, High, Value      float64
	Set                   bool
}

// ways are what can be followed: the outputs that drive boxes, and the active boxes.
func ways(v level.Verdict) (list []kit.Choice) {
	for _, l := range v.Lines {
		for i := range l.Output.Boxes {
			list = append(list, kit.Choice{Value: boxValue(&l, i), Label: l.At.String() + " to " + l.Output.Boxes[i].Name()})
		}
	}
	for _, a := range v.Active {
		list = append(list, kit.Choice{Value: kit.RefValue(rig.Ref{Device: a.Tag, Port: gear.PoleIn(1)}), Label: a.Tag})
	}
	return list
}

// boxValue names a box of an output in a choice; the first by its output alone.
func boxValue(l *level.Line, i int) string {
	if i == 0 {
		return kit.RefValue(l.At)
	}
	return kit.RefValue(l.At) + "\t" + l.Output.Boxes[i].Name()
}

// What begins the names of what is tried: the port follows.
const movePrefix, padPrefix = "set ", "pad "

// tried are the controls as the address has them.
func tried(q url.Values) level.Controls {
	set := level.Controls{}
	for name, values := range q {
		port, isPort := strings.CutPrefix(name, movePrefix)
		lead, isPad := strings.CutPrefix(name, padPrefix)
		if !isPort && !isPad || len(values) == 0 {
			continue
		}
		if isPad {
			port = lead
		}
		if v, err := strconv.ParseFloat(values[0], 64); err == nil && math.Abs(v) <= 200 {
			set[level.Control{Ref: kit.ReadRef(port), Pad: isPad}] = unit.Decibel(v)
		}
	}
	return set
}

// follow works out the line that is asked for; nil where there is none.
func follow(p *kit.Page, v level.Verdict) *levelLine {
	all := ways(v)
	if len(all) == 0 {
		return nil
	}
	q := p.Ask
	of := q.Get("of")
	at := kit.ReadRef(of)
	at.Port, _, _ = strings.Cut(at.Port, "\t")
	set := tried(q)
	x := rig.NewIndex(p.Rig())
	var c level.Chain
	found := false
	for i := range v.Lines {
		if l := &v.Lines[i]; l.At == at || of == "" && i == 0 {
			n := max(0, slices.IndexFunc(l.Output.Boxes, func(b drive.Box) bool {
				return of == kit.RefValue(l.At)+"\t"+b.Name()
			}))
			c, of, found = level.OfBox(x, l.Output, n, q.Get("from"), set), boxValue(l, n), true
			break
		}
	}
	for i := range v.Active {
		if a := v.Active[i]; !found && (a.Tag == at.Device || of == "") {
			d, m := x.Device(a.Tag)
			c, found = level.OfActive(x, d, m.Loudspeaker, q.Get("from"), set), true
			of = kit.RefValue(rig.Ref{Device: a.Tag, Port: gear.PoleIn(1)})
		}
	}
	if !found || len(c.Steps) == 0 {
		return nil
	}
	l := &levelLine{Picture: picture(p, &c), Of: p.Choose("follow", "of", "Follow the way to", of, all...)}
	l.From = p.Choose("follow", "from", "from", q.Get("from"), sourcesOf(v)...)
	l.say(p, &c)
	l.controls(p, &c, of)
	return l
}

// sourcesOf are the sources that a mixer's channels come from.
func sourcesOf(v level.Verdict) []kit.Choice {
	list := []kit.Choice{{Label: "the first that is plugged"}}
	for _, c := range v.Channels {
		list = append(list, kit.Choice{Value: c.From.Device, Label: c.From.Device + " in " + c.At.String()})
	}
	return list
}

// say puts the line into sentences and a table.
func (l *levelLine) say(p *kit.Page, c *level.Chain) {
	l.Answer = c.Lacks
	if len(c.Stops) > 0 {
		first := c.Stops[0]
		l.Answer = fmt.Sprintf("%s stops you first, at %s at the listeners of %s.", words.Capital(first.Name), first.Gives,
			c.Box)
		if c.Level.Known() && !c.AtBest {
			spare := first.Gives - c.Level.Or(0)
			l.Answer = fmt.Sprintf("%s has %s to spare over the loudest peaks; it stops you first.",
				words.Capital(first.Name), spare)
			if spare < 0 {
				does := "clips"
				if c.Steps[first.Step].Sort == level.Limited {
					does = "acts"
				}
				l.Answer = fmt.Sprintf("%s %s %s under the loudest peaks.", words.Capital(first.Name), does, -spare)
			}
		}
	} else if l.Answer != "" {
		l.Answer = "What stops you first is not known: " + l.Answer + "."
	}
	if len(p.Stops()) > 0 {
		l.Answer = "None of this holds before what is at stop is mended."
	}
	for _, s := range c.Stops {
		row := stopRow{Name: words.Capital(s.Name), Gives: s.Gives.String(), Buys: "nothing more is known"}
		if clip, known := c.Steps[s.Step].Clip.Get(); known {
			row.At = spoken(c.Steps[s.Step], clip)
		}
		if s.Buys > 0 {
			row.Buys = s.Buys.Signed()
		}
		l.Stops = append(l.Stops, row)
	}
	for _, cost := range c.Costs {
		row := stopRow{Name: words.Capital(cost.Name), At: cost.At, Gives: "takes an unknown part", Buys: "not known"}
		if takes, known := cost.Takes.Get(); known {
			row.Gives, row.Buys = "takes "+takes.String(), takes.Signed()
			if takes < 0.05 {
				row.Gives, row.Buys = "takes nothing", ""
			}
		}
		l.Stops = append(l.Stops, row)
	}
	if at, under, says, known := c.Reference(); known {
		l.Notes = append(l.Notes,
			fmt.Sprintf("The desk's meter shows %[2]s where %[1]s is reached, %[3]s under the desk's own "+
				"clip: %[4]s dBFS, where full scale is its clip (AES17, a sine).", says, at, -under, unit.Fixed(float64(under), 1)))
	}
	if hiss, known := c.Hiss.Get(); known {
		note := fmt.Sprintf("Hiss at the listeners is %s at the least, with %d microphones open (10 lg n)", hiss, c.Open)
		if room, known := p.Rig().Brief.Noise.Get(); known {
			note += fmt.Sprintf("; the empty room has %s, and 10 dB under it nobody hears it", room)
		} else {
			note += "; what the empty room has is not in the brief"
		}
		l.Notes = append(l.Notes, note+".")
	}
	if lacks := c.Lacking(); lacks != "" {
		l.Notes = append(l.Notes, "Not on record, and drawn as unknown: "+lacks+".")
	}
	if c.AtBest {
		l.Notes = append(l.Notes, "How loud the source gets is not on record, so the line is drawn as loud as it goes.")
	}
}

// controls are what can be turned on the way.
func (l *levelLine) controls(p *kit.Page, c *level.Chain, of string) {
	l.Ask = []kit.Choice{{Label: "of", Value: of}, {Label: "from", Value: p.Ask.Get("from")}}
	turned := tried(p.Ask)
	for _, s := range c.Steps {
		for _, m := range []*level.Move{s.Pad, s.Move} {
			if m == nil {
				continue
			}
			l.Moves = append(l.Moves, moveOf(m))
			if now, is := turned[m.At]; is && (m.Set || now != 0 || !m.At.Pad) {
				l.Changed++
			}
		}
	}
	first := c.Steps[0]
	if first.Sort == level.Microphone || first.Sort == level.LineSource {
		d, _ := p.Rig().Device(first.Name)
		label, hint := "Peaks at "+first.Name, "dB SPL, as 128 for a loud voice at 3 cm"
		if first.Sort == level.LineSource {
			label, hint = "Peaks of "+first.Name, "dBu, as +4"
		}
		f := p.Field("peak", "peak", label, d.PortSetting(first.Port).Peak.Typed(), hint)
		l.Peak, l.PeakAt = &f, rig.Ref{Device: first.Name, Port: first.Port}
	}
}

// moveOf is a control as a slider.
func moveOf(m *level.Move) moveRow {
	row := moveRow{ID: kit.Ident("move-" + m.At.String()), Name: movePrefix + kit.RefValue(m.At.Ref), Label: m.Name,
		Text: m.Now.Signed(), Low: float64(m.Low), High: float64(m.High), Value: float64(m.Now), Set: m.Set}
	switch {
	case m.At.Pad:
		row.ID, row.Name, row.Text = "pad-"+row.ID, padPrefix+kit.RefValue(m.At.Ref), "takes "+m.Now.String()
		if m.Now == 0 {
			row.Text, row.Set = "none", true
		}
	case m.Knob >= 0:
		row.Text += ", " + level.Clock(-m.Now) + " o'clock"
	}
	return row
}

// spoken is a level in the unit in which a stage speaks.
func spoken(s level.Step, l unit.DBu) string {
	switch s.Sort {
	case level.Microphone:
		return unit.Fixed(float64(l-unit.Volt(1).DBu()), 1) + " dBV"
	case level.Amplifying, level.Limited, level.Sounding:
		return l.Volt().String()
	}
	return l.String()
}

// The picture, in its units.
const (
	lineWidth, lineHeight = 800.0, 416.0
	lineTop, perDB        = 112.0, 2.7
	lineDeep              = 108.0 // dB under the clip that are drawn
	lineOver              = 14.0  // dB over it
	topSPL                = 130.0
)

func picture(p *kit.Page, c *level.Chain) template.HTML {
	var w kit.Pen
	n := float64(len(c.Steps))
	x := func(i int) float64 { return 64 + (lineWidth-140)*float64(i)/n }
	foot := lineTop + lineDeep*perDB
	w.Put(`<svg class="line" viewBox="0 0 {} {}" role="img" aria-label="The level line to {}">`, lineWidth, lineHeight,
		c.Box)
	w.Put(`<defs><pattern id="line-hatch" width="6" height="6" patternUnits="userSpaceOnUse" ` +
		`patternTransform="rotate(45)"><path class="hatch" d="M0 0V6"/></pattern></defs>`)
	y := func(s level.Step, l unit.DBu) float64 {
		return lineTop + perDB*min(max(float64(s.Clip.Or(0)-l), -lineOver), lineDeep)
	}
	band(&w, c, x, y)
	for i, s := range c.Steps {
		ruler(&w, s, x(i), foot, i == 0)
	}
	listener(&w, p, c, x(len(c.Steps)), foot)
	drawSignal(&w, c, x, y)
	w.Put(`</svg>`)
	return w.HTML()
}

// band is the room between the peaks and the average of ordinary programme.
func band(w *kit.Pen, c *level.Chain, x func(int) float64, y func(level.Step, unit.DBu) float64) {
	for i := range c.Steps[:len(c.Steps)-1] {
		a, b := c.Steps[i], c.Steps[i+1]
		if !a.Headroom().Known() || !b.Headroom().Known() {
			continue
		}
		under := unit.DBu(sound.ProgrammeRoom)
		w.Put(`<path class="room" d="M{} {}L{} {}L{} {}L{} {}Z"/>`, x(i), y(a, a.Signal.Or(0)), x(i+1), y(b, b.Signal.Or(0)),
			x(i+1), y(b, b.Signal.Or(0)-under), x(i), y(a, a.Signal.Or(0)-under))
	}
}

// ruler is one stage: its name on tape, its clip, decibels under it, its noise.
func ruler(w *kit.Pen, s level.Step, x, foot float64, first bool) {
	name := s.Name
	if s.Sort == level.Limited {
		name = "limiter"
	}
	width := 16 + 6.6*float64(len([]rune(name)))
	w.Put(`<rect class="taped" x="{}" y="6" width="{}" height="22"/><text class="on-tape" x="{}" y="21.5">{}</text>`,
		x-width/2, width, x, name)
	w.Put(`<text class="what" x="{}" y="42">{}</text>`, x, string(s.Sort))
	clip, known := s.Clip.Get()
	if !known {
		w.Put(`<path class="unknown" d="M{} {}V{}"/><text class="none" x="{}" y="{}">clip not known</text>`, x, lineTop, foot,
			x, lineTop-8)
		return
	}
	w.Put(`<rect class="over" x="{}" y="{}" width="34" height="{}" fill="url(#line-hatch)"/>`, x-17,
		lineTop-perDB*lineOver, perDB*lineOver)
	w.Put(`<path class="limit" d="M{} {}h34"/><path class="rule" d="M{} {}V{}"/>`, x-17, lineTop, x, lineTop, foot)
	w.Put(`<text class="clip" x="{}" y="{}">{}</text>`, x, lineTop-perDB*lineOver-6, spoken(s, clip))
	for d := 20.0; d < lineDeep; d += 20 {
		w.Put(`<path class="rule" d="M{} {}h10"/>`, x-5, lineTop+d*perDB)
		if first {
			w.Put(`<text class="tick" x="{}" y="{}">−{}</text>`, x-11, lineTop+d*perDB+3.5, int(d))
		}
	}
	if noise, known := s.Noise.Get(); known && float64(clip-noise) < lineDeep {
		top := lineTop + perDB*max(0, float64(clip-noise))
		w.Put(`<path class="noise" d="M{} {}V{}M{} {}V{}"/><text class="tick side" x="{}" y="{}">{}</text>`, x-4, top, foot,
			x+4, top, foot, x+8, top+4, "hiss −"+strconv.Itoa(int(math.Round(float64(clip-noise)))))
	}
}

// listener is what arrives, in dB SPL, with what is wanted.
func listener(w *kit.Pen, p *kit.Page, c *level.Chain, x, foot float64) {
	name := "listeners"
	width := 16 + 6.6*float64(len(name))
	w.Put(`<rect class="taped" x="{}" y="6" width="{}" height="22"/><text class="on-tape" x="{}" y="21.5">{}</text>`,
		x-width/2, width, x, name)
	far := "distance not known"
	if r, known := c.Far.Get(); known {
		far = "at " + r.String()
	}
	w.Put(`<text class="what" x="{}" y="42">{}</text>`, x, far)
	class := kit.Markup("rule")
	if !c.Level.Known() {
		class = "unknown"
	}
	w.Put(`<path class="{}" d="M{} {}V{}"/>`, class, x, lineTop, foot)
	at := func(spl float64) float64 { return lineTop + perDB*min(max(topSPL-spl, 0), lineDeep) }
	for spl := 40.0; spl <= topSPL; spl += 10 {
		w.Put(`<path class="rule" d="M{} {}h5"/>`, x, at(spl))
		if int(spl)%20 == 0 {
			w.Put(`<text class="tick right" x="{}" y="{}">{}</text>`, x+9, at(spl)+3.5, int(spl))
		}
	}
	if wanted, known := p.Rig().Brief.Wanted.Get(); known {
		v := at(float64(wanted))
		w.Put(`<path class="wanted" d="M{} {}l-9 -5v10z"/><text class="tick" x="{}" y="{}">wanted {}</text>`, x-1, v, x-14,
			v+4, int(math.Round(float64(wanted))))
	}
	if hiss, known := c.Hiss.Get(); known {
		w.Put(`<path class="noise" d="M{} {}V{}M{} {}V{}"/>`, x-4, at(float64(hiss)), foot, x+4, at(float64(hiss)), foot)
		w.Put(`<text class="tick" x="{}" y="{}">hiss {}</text>`, x-10, at(float64(hiss))+4, int(math.Round(float64(hiss))))
	}
	if room, known := p.Rig().Brief.Noise.Get(); known {
		w.Put(`<path class="under" d="M{} {}h26"/><text class="tick" x="{}" y="{}">room {}</text>`, x-13, at(float64(room)),
			x-16, at(float64(room))+4, int(math.Round(float64(room))))
	}
}

// drawSignal is the line of the peaks, with the headroom of each stage beside it.
func drawSignal(w *kit.Pen, c *level.Chain, x func(int) float64, y func(level.Step, unit.DBu) float64) {
	least := -1
	for i, s := range c.Steps {
		if h, known := s.Headroom().Get(); known && (least < 0 || h < c.Steps[least].Headroom().Or(0)) {
			least = i
		}
	}
	w.Put(`<path class="signal" d="`)
	letter := kit.Markup("M")
	for i, s := range c.Steps {
		if !s.Headroom().Known() {
			letter = "M"
			continue
		}
		w.Put(`{}{} {}`, letter, x(i), y(s, s.Signal.Or(0)))
		letter = "L"
	}
	if spl, known := c.Level.Get(); known {
		w.Put(`{}{} {}`, letter, x(len(c.Steps)), lineTop+perDB*min(max(topSPL-float64(spl), 0), lineDeep))
	}
	w.Put(`"/>`)
	for i, s := range c.Steps {
		if s.Pad != nil && s.Pad.Now > 0 && i > 0 {
			w.Put(`<text class="tick pad" x="{}" y="{}">pad −{}</text>`, (x(i-1)+x(i))/2, lineTop-8,
				unit.Number(float64(s.Pad.Now)))
		}
		h, known := s.Headroom().Get()
		if !known {
			continue
		}
		class := kit.Markup("gap")
		if i == least {
			class = "gap least"
		}
		v := y(s, s.Signal.Or(0))
		w.Put(`<circle class="dot{}" cx="{}" cy="{}" r="4.5"/>`, kit.When(i == least && h < 0, " wrong"), x(i), v)
		w.Put(`<text class="{}" x="{}" y="{}">{}</text>`, class, x(i)+9, max(v-7, lineTop+14), h.String())
	}
	if spl, known := c.Level.Get(); known {
		v := lineTop + perDB*min(max(topSPL-float64(spl), 0), lineDeep)
		w.Put(`<path class="mark" d="M{} {}l-10 -6v12z"/><text class="gap least" x="{}" y="{}">{}</text>`, x(len(c.Steps)), v,
			x(len(c.Steps))+9, v-8, spl.String())
	}
}

// readMoves makes one edit of all controls that were sent.
func readMoves(r rig.Rig, f *kit.Form) rig.Edit {
	batch := rig.Batch{Saying: "Recorded the controls of a line"}
	if err := f.Gin.Request.ParseForm(); err != nil {
		f.Fault("", "The form could not be read.")
		return nil
	}
	for at, v := range tried(f.Gin.Request.PostForm) {
		d, there := r.Device(at.Device)
		if !there {
			f.Fault("", "There is no %.30s any more.", at.Device)
			return nil
		}
		if at.Pad {
			pad := unit.Given[unit.Decibel]{}
			if v > 0 {
				pad = unit.Of(v)
			}
			if k, there := rig.NewIndex(r).Into(at.Ref); there && k.Pad != pad {
				batch.Edits = append(batch.Edits, rig.SetPad{To: at.Ref, Pad: pad})
			}
			continue
		}
		if m, _ := r.Model(d.Model); m.Amplifier != nil {
			channel := 0
			for i := range m.Amplifier.Channels {
				if gear.InputPort(i) == at.Port {
					channel = i
				}
			}
			batch.Edits = append(batch.Edits, rig.SetKnob{Tag: at.Device, Set: rig.Knob{Channel: channel, Down: max(-v, 0)}})
			continue
		}
		set := d.PortSetting(at.Port)
		set.Gain = unit.Of(v)
		batch.Edits = append(batch.Edits, rig.SetPort{Tag: at.Device, Set: set})
	}
	if len(batch.Edits) == 0 {
		f.Fault("", "No control was turned.")
	}
	return batch
}

// readPeak records how loud a source gets.
func readPeak(r rig.Rig, f *kit.Form) rig.Edit {
	d, _ := r.Device(f.Text("tag"))
	set := d.PortSetting(f.Text("port"))
	set.Peak = kit.Given(f, "peak", unit.ParseDecibel)
	return rig.SetPort{Tag: f.Text("tag"), Set: set}
}

// readChannel records kind and low cut of a mixer's input.
func readChannel(r rig.Rig, f *kit.Form) rig.Edit {
	d, _ := r.Device(f.Text("tag"))
	set := d.PortSetting(f.Text("port"))
	set.Kind, set.LowCut = rig.SourceKind(f.Text("kind")), kit.Given(f, "lowCut", unit.ParseHertz)
	return rig.SetPort{Tag: f.Text("tag"), Set: set}
}

// channelRow is a mixer's input with what its kind asks for.
type channelRow struct {
	Name, From, Tag, Port string
	Kind, Cut             kit.Field
	Says                  string
}

func channelRows(p *kit.Page) (rows []channelRow) {
	for _, c := range survey.Of[level.Verdict](p.Report).Channels {
		form := "channel " + c.At.Device + " " + c.At.Port
		r := channelRow{Name: c.At.String(), From: c.From.Device, Tag: c.At.Device, Port: c.At.Port}
		r.Kind = p.Choose(form, "kind", "What plays", string(c.Set.Kind), append([]kit.Choice{{Label: "not said"}},
			kit.Choices(rig.SourceKinds)...)...)
		r.Cut = p.Field(form, "lowCut", "Low cut", c.Set.LowCut.Typed(), "")
		if c.Asks {
			cut := "no low cut"
			if c.LowCut > 0 {
				cut = "low cut near " + c.LowCut.String()
			}
			r.Says = fmt.Sprintf("%s: %s. Tone: %s.", cut, c.Why, c.Tone)
		}
		rows = append(rows, r)
	}
	return rows
}
