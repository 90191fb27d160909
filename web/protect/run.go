package protect

import (
	"errors"
	"fmt"
	"html/template"
	"io"
	"math"
	"mime/multipart"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"sync"

	"github.com/gin-gonic/gin"

	"largo/core/bench"
	"largo/core/fault"
	"largo/core/limiter"
	"largo/core/protect"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/unit"
	"largo/core/words"
	"largo/exchange"
	"largo/store"
	"largo/web/kit"
)

// runView is a programme that is let through the limiters of an output.
type runView struct {
	Name, Back string
	Of         string
	Fields     []kit.Field
	Loose      []string
	Ran        *protect.Ran
	Picture    template.HTML
	Says       []string
	Taken      string // what it is with the limiters taken away
	Heard      string // what the recording is, where one was sent
	FileFault  string
	History    []limiterLine
}

// limiterLine is one setting of a limiter.
type limiterLine struct {
	Number                  int
	At, Who, From, To, Says string
	InForce                 bool
	Then                    string // what the plan asked for, where it was another
}

// showRun shows the limiters of an output at work, and what was done to them.
func showRun(s *kit.Server, c *gin.Context) {
	p, err := s.Aside(c, "Limiter")
	if err != nil {
		s.Fail(c, err)
		return
	}
	asked, sent := c.Request.URL.Query(), (*sentFile)(nil)
	if c.Request.Method == http.MethodPost {
		if sent = received(c); kit.TooBig(sent.err) {
			s.Fail(c, sent.err)
			return
		}
		defer sent.close()
		f, err := kit.ReadForm(c)
		if err == nil {
			err = f.Faults.Err()
		}
		if err != nil {
			s.Fail(c, err)
			return
		}
		asked = c.Request.PostForm
	}
	at := kit.ReadRef(asked.Get("of"))
	for _, l := range survey.Of[protect.Verdict](p.Report).Outputs {
		if l.At != at {
			continue
		}
		v := runView{Name: l.At.String(), Back: "/jobs/" + p.Job.Slug + "/protect", Of: asked.Get("of")}
		p.Here = v.Back + "/run"
		status := v.run(p, &l, asked, sent)
		if v.History, err = historyOf(s, c, p, &l); err != nil {
			s.Fail(c, err)
			return
		}
		p.Body = v
		s.Render(c, status, "limiter", p)
		return
	}
	s.Fail(c, store.ErrNotFound)
}

// run reads the trial that is asked for and shows it; it gives the status of the answer.
func (v *runView) run(p *kit.Page, l *protect.Output, asked url.Values, sent *sentFile) int {
	f := &kit.Form{Gin: p.Gin, Query: asked}
	t := protect.UsualTrial
	read := func(name, label, hint string, parse func(string) (float64, error), at func(float64), usual string) {
		field := p.Field("run", name, label, kit.TypedOr(f, name, usual), hint)
		if typed := f.Text(name); typed != "" {
			x, err := parse(typed)
			if err != nil {
				field.Fault = err.Error() + "."
			} else {
				at(x)
			}
		}
		v.Fields = append(v.Fields, field)
	}
	decibel := func(s string) (float64, error) { d, err := unit.ParseDecibel(s); return float64(d), err }
	seconds := func(s string) (float64, error) { d, err := unit.ParseSecond(s); return float64(d), err }
	read("crest", "Crest of the programme", "9 dense music, 12 ordinary, 18 speech", decibel,
		func(x float64) { t.Crest = unit.Decibel(x) }, t.Crest.String())
	read("over", "Its average over the limit", "how far it leans on it", decibel,
		func(x float64) { t.Over = unit.Decibel(x) },
		t.Over.String())
	read("length", "For", "up to 2 h", seconds, func(x float64) { t.Length = unit.Second(x) }, "60 min")
	read("attack", "Attack of the slow one", "one pole on the square", seconds,
		func(x float64) { t.Attack = unit.Second(x) }, t.Attack.String())
	read("release", "Release", "", seconds, func(x float64) { t.Release = unit.Second(x) }, t.Release.String())
	read("ratio", "Ratio", "0: nothing more comes out", func(s string) (float64, error) {
		r, err := unit.ParseRatio(s)
		return float64(r), err
	}, func(x float64) { t.Ratio = x }, "0")
	read("knee", "Knee", "dB over which it begins", decibel, func(x float64) { t.Knee = unit.Decibel(x) }, "0 dB")
	p.Verdict = "The limiters of " + v.Name + " at work."
	if sent != nil {
		if sent.err != nil {
			v.FileFault = words.Capital(strings.TrimPrefix(sent.err.Error(), ": ")) + "."
			return http.StatusUnprocessableEntity
		}
		t.Recorded, v.Heard = sent.recording(), sent.says()
	}
	off := t
	off.Off = true
	var ran, without protect.Ran
	var err error
	var both sync.WaitGroup
	both.Go(func() { without, _ = l.Run(off) }) // what is wrong with one is with the other
	ran, err = l.Run(t)
	both.Wait()
	if v.faults(err) {
		return http.StatusUnprocessableEntity
	}
	v.Ran, v.Picture = &ran, runPicture(&ran)
	v.say(p, l, &ran, &without)
	return http.StatusOK
}

// sentFile is a recording that was sent, as long as it is answered.
type sentFile struct {
	file  multipart.File
	heard exchange.Heard
	err   error // a sentence
}

func received(c *gin.Context) *sentFile {
	r := &sentFile{}
	if r.file, r.err = kit.Uploaded(c); r.err != nil {
		return r
	}
	r.heard, r.err = exchange.HearWAV(r.file)
	return r
}

func (r *sentFile) close() {
	if r.file != nil {
		_ = r.file.Close()
	}
}

func (r *sentFile) says() string {
	return fmt.Sprintf("The recording: %s, %s of crest, its first channel, again and again.",
		unit.Second(math.Round(r.heard.Seconds)), r.heard.Crest())
}

// recording plays the file from its beginning, as often as it is asked: with the limiters and
// without at once.
func (r *sentFile) recording() *protect.Recording {
	return &protect.Recording{Rate: r.heard.Rate, RMS: r.heard.RMS, Play: func() (limiter.Source, error) {
		w, err := exchange.OpenWAV(io.NewSectionReader(r.file, 0, math.MaxInt64))
		if err != nil {
			return nil, err
		}
		return func(buffer []float64) (int, error) { return w.First(buffer, 1) }, nil
	}}
}

// faults puts what was wrong where it was typed.
func (v *runView) faults(err error) bool {
	var l fault.List
	if !errors.As(err, &l) {
		return err != nil
	}
	for _, x := range l {
		known := false
		for i := range v.Fields {
			if v.Fields[i].Name == x.Field {
				v.Fields[i].Fault, known = x.Say, true
			}
		}
		if !known {
			v.Loose = append(v.Loose, x.Say)
		}
	}
	return true
}

// coilFails is from where a coil's glue and varnish give way, °C: 253 K over 20 (common
// practice, no source).
const coilFails = 20 + bench.CoilFails

func (v *runView) say(p *kit.Page, l *protect.Output, ran, without *protect.Ran) {
	last := ran.Moments[len(ran.Moments)-1]
	p.Verdict = fmt.Sprintf("%s comes out at %s on average, the coil of %s at %.0f °C.", v.Name, unit.Watt(last.Watts),
		l.Governs, ran.Hottest.Coil)
	set := "set as they should be, for none is on record"
	if ran.OnRecord {
		set = "as they are on record"
	}
	v.Says = append(v.Says,
		fmt.Sprintf("Limiters %s: %s rms, %s peak. The slow one turns down %s in the end, the fast one %s "+
			"at the most.", set, unit.Volt(ran.Long), unit.Volt(ran.Peak), unit.Decibel(last.Reduction[0]),
			unit.Decibel(most(ran, 1))))
	slow := limiter.Limiter{Detector: limiter.RMS, Threshold: ran.Long, Attack: float64(ran.Attack),
		Release: float64(ran.Release)}
	if over := float64(ran.Over); over > 1 {
		v.Says = append(v.Says,
			fmt.Sprintf("A steady tone %s over takes %s from silence until it is turned down by 1 dB, and "+
				"%s until nine tenths are done.", ran.Over, unit.Second(math.Round(10*slow.Reaches(over, 0, 1))/10),
				unit.Second(math.Round(10*slow.Reaches(over, 0, 0.9*over))/10)))
	}
	v.Says = append(v.Says,
		fmt.Sprintf("The driver heats by %s, in air of 25 °C; the frame comes to %.0f °C. Only the bench "+
			"knows it better.", ran.BodyFrom, ran.Hottest.Frame))
	v.Taken = fmt.Sprintf("Switched off, the same programme puts %s times the power into it, %s, and the coil comes to "+
		"%.0f °C.",
		unit.Ratio(without.Watts/ran.Watts), unit.Watt(without.Watts), without.Hottest.Coil)
	if without.Hottest.Coil > coilFails {
		v.Taken += " Coils fail before that."
	}
}

func most(r *protect.Ran, i int) (x float64) {
	for _, m := range r.Moments {
		x = max(x, m.Reduction[i])
	}
	return x
}

const mostSettings = 50

// historyOf is what was done to the limiter of an output, the newest first.
func historyOf(s *kit.Server, c *gin.Context, p *kit.Page, l *protect.Output) ([]limiterLine, error) {
	lines, err := s.Store.EditsOf(c, p.Job.Slug, "set limiter", l.At.Device, mostSettings)
	if err != nil {
		return nil, err
	}
	var list []limiterLine
	for _, e := range lines {
		edit, err := rig.UnmarshalEdit(e.Edit)
		set, is := edit.(rig.SetLimiter)
		if err != nil || !is || set.Set.Port != l.At.Port {
			continue
		}
		line := limiterLine{Number: e.Number, At: e.At.Format("2 Jan 2006 15:04"), Who: e.Author, To: settingSays(set.Set),
			Says: set.Why, InForce: len(list) == 0}
		if n := len(list); n > 0 {
			list[n-1].From = line.To
		}
		line.Then = planThen(s, c, p.Job.Slug, e.Number, l)
		list = append(list, line)
	}
	return list, nil
}

func settingSays(l rig.Limiter) string {
	if !l.RMS.Known() && !l.Peak.Known() {
		return "none"
	}
	return fmt.Sprintf("%s rms, %s peak", l.RMS, l.Peak)
}

// planThen is what the plan asked for when a limiter was set, where it asks for something
// else now.
func planThen(s *kit.Server, c *gin.Context, slug string, number int, now *protect.Output) string {
	was, err := s.Store.RevisionRig(c, slug, number)
	if err != nil {
		return ""
	}
	for _, l := range survey.Of[protect.Verdict](survey.Survey(was)).Outputs {
		if l.At == now.At && l.Long.Text() != now.Long.Text() {
			return fmt.Sprintf("the plan asked for %s rms then, and asks for %s now", l.Long.Text(), now.Long.Text())
		}
	}
	return ""
}

// The picture: three strips over one time.
const (
	runWidth, runLeft, runStrip, runGap = 760.0, 60.0, 108.0, 26.0
)

func runPicture(r *protect.Ran) template.HTML {
	var w kit.Pen
	height := 3*(runStrip+runGap) + 22
	w.Put(`<svg class="heat run" viewBox="0 0 {} {}" role="img" aria-label="Turned down, power and heat over time">`,
		runWidth,
		height)
	x := func(s float64) float64 { return runLeft + (runWidth-runLeft-10)*s/r.Seconds }
	strip := func(n int, title, unitName string, top float64, limit float64, lines map[string]func(limiter.Moment) float64,
		order ...string) {
		foot := 20 + float64(n)*(runStrip+runGap) + runStrip
		y := func(v float64) float64 { return foot - runStrip*min(max(v/top, 0), 1) }
		w.Put(`<text class="name" x="{}" y="{}">{}</text>`, runLeft, foot-runStrip-7, title)
		for _, v := range []float64{0, top / 2, top} {
			w.Put(`<path class="grid" d="M{} {}H{}"/><text class="tick" x="{}" y="{}" text-anchor="end">{}</text>`, runLeft,
				y(v),
				runWidth-10, runLeft-6, y(v)+4, unit.Number(v)+" "+unitName)
		}
		if limit > 0 && limit < top {
			w.Put(`<path class="under" d="M{} {}H{}"/>`, runLeft, y(limit), runWidth-10)
		}
		for i, name := range order {
			class := kit.Markup("fit")
			if i > 0 {
				class = "coil"
			}
			w.Put(`<path class="{}" d="`, class)
			letter := kit.Markup("M")
			for _, m := range r.Moments {
				w.Put(`{}{} {}`, letter, x(m.At), y(lines[name](m)))
				letter = "L"
			}
			w.Put(`"/>`)
		}
	}
	reduced := max(6, 3*math.Ceil(max(most(r, 0), most(r, 1))/3))
	strip(0, "Turned down: line the slow one, dots the fast one", "dB", reduced, 0,
		map[string]func(limiter.Moment) float64{"slow": func(m limiter.Moment) float64 { return m.Reduction[0] },
			"fast": func(m limiter.Moment) float64 { return m.Reduction[1] }}, "slow", "fast")
	topW := 0.0
	for _, m := range r.Moments {
		topW = max(topW, m.Watts)
	}
	nice := math.Pow(10, math.Floor(math.Log10(max(topW, 1))))
	topW = nice * math.Ceil(topW/nice)
	strip(1, "Power into the load, average", "W", topW, 0, map[string]func(limiter.Moment) float64{
		"watts": func(m limiter.Moment) float64 { return m.Watts }}, "watts")
	degrees := 50 * math.Ceil(max(r.Hottest.Coil, 100)/50)
	strip(2, "Heat: line the coil, dots the magnet; dashed where coils fail", "°C", degrees, coilFails,
		map[string]func(limiter.Moment) float64{"coil": func(m limiter.Moment) float64 { return m.Heat.Coil },
			"frame": func(m limiter.Moment) float64 { return m.Heat.Frame }}, "coil", "frame")
	for i := range 5 {
		s := r.Seconds * float64(i) / 4
		anchor := kit.Markup("middle")
		if i == 4 {
			anchor = "end"
		}
		w.Put(`<text class="tick" x="{}" y="{}" text-anchor="{}">{}</text>`, x(s), height-6, anchor,
			strconv.Itoa(int(math.Round(s/60)))+" min")
	}
	w.Put(`</svg>`)
	return w.HTML()
}

// runAt is the address of the page of an output.
func runAt(slug string, l *protect.Output) string {
	return "/jobs/" + slug + "/protect/run?" + url.Values{"of": {kit.RefValue(l.At)}}.Encode()
}
