// Package signals is test signals as they are shown: chosen, played in the browser with a
// fade and a hand on the stop, or fetched as WAV.
package signals

import (
	"embed"
	"errors"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"strconv"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/signal"
	"largo/core/words"
	"largo/exchange"
	"largo/web/kit"
)

//go:embed *.html *.css *.js
var files embed.FS

// Room is this room.
var Room = kit.Room{
	Name: "signals", Files: files,
	Routes: func(r *kit.Routes) {
		r.Get("/signals", show)
		r.Get("/signals/signal.wav", fetch)
	},
}

// longestHere is how long a signal a browser is given, s; longer ones are made by largo
// signal.
const longestHere = 120

type view struct {
	Fields []kit.Field
	File   string // its address; "" while it cannot be made
	Says   string
	Loose  []string
}

// read reads what is asked for, and what is wrong with it.
func read(q url.Values) (signal.Wanted, fault.List) {
	w := signal.Usual
	var l fault.List
	if k := q.Get("kind"); k != "" {
		w.Kind = k
	}
	for _, f := range []struct {
		name string
		at   *float64
	}{{"level", &w.Level}, {"seconds", &w.Seconds}, {"fade", &w.Fade}, {"hz", &w.Hz}, {"low", &w.Low}, {"high", &w.High},
		{"crest", &w.Crest}} {
		typed := q.Get(f.name)
		if typed == "" {
			continue
		}
		v, err := strconv.ParseFloat(typed, 64)
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			l.Add(f.name, "%.20q is not a number.", typed)
			continue
		}
		*f.at = v
	}
	if w.Seconds > longestHere {
		l.Add("seconds", "A browser is given %d s at the most; largo signal makes an hour.", longestHere)
	}
	var more fault.List
	if errors.As(w.Check(), &more) {
		l = append(l, more...)
	}
	return w, l
}

func show(s *kit.Server, c *gin.Context) {
	q := c.Request.URL.Query()
	w, wrong := read(q)
	p := s.Plain(c, "Test signals", "Turn it down first. Then play "+w.Says()+".")
	p.Here = "/signals"
	if len(wrong) > 0 {
		p.Refused = &kit.Refused{Form: "signal", Faults: wrong}
		p.Typed, p.Verdict = q, "That signal cannot be made."
	}
	number := func(f float64) string { return strconv.FormatFloat(f, 'f', -1, 64) }
	v := view{Fields: []kit.Field{
		p.Choose("signal", "kind", "Signal", w.Kind, kinds()...),
		p.Field("signal", "level", "Level", number(w.Level), "dBFS rms; a full sine is 0 (AES17)"),
		p.Field("signal", "seconds", "For", number(w.Seconds), "s"),
		p.Field("signal", "fade", "Fade in and out", number(w.Fade), "s"),
		p.Field("signal", "hz", "Of a sine", number(w.Hz), "Hz"),
		p.Field("signal", "low", "Of a band or sweep, from", number(w.Low), "Hz"),
		p.Field("signal", "high", "to", number(w.High), "Hz"),
		p.Field("signal", "crest", "Crest", number(w.Crest), "dB, of rating noise and programme"),
	}, Loose: p.Loose("signal", "kind", "level", "seconds", "fade", "hz", "low", "high", "crest")}
	if len(wrong) == 0 {
		on := url.Values{"kind": {w.Kind}}
		for _, name := range []string{"level", "seconds", "fade", "hz", "low", "high", "crest"} {
			if t := q.Get(name); t != "" {
				on.Set(name, t)
			}
		}
		v.File = "/signals/signal.wav?" + on.Encode()
		v.Says = fmt.Sprintf("%s, %s dBFS rms, %s s, 24 bits at 48 kHz.", words.Capital(w.Says()), number(w.Level),
			number(w.Seconds))
	}
	p.Body = v
	s.Render(c, http.StatusOK, "signals", p)
}

func kinds() []kit.Choice {
	return []kit.Choice{{Value: "pink", Label: "pink noise"}, {Value: "programme", Label: "programme-like noise"},
		{Value: "rating", Label: "noise as ratings are tested with"}, {Value: "sine", Label: "sine"},
		{Value: "sweep", Label: "sweep"}}
}

func fetch(s *kit.Server, c *gin.Context) {
	w, wrong := read(c.Request.URL.Query())
	if len(wrong) > 0 {
		s.Fail(c, wrong)
		return
	}
	x, _, err := w.Make()
	if err != nil {
		s.Fail(c, err)
		return
	}
	c.Header("Content-Type", "audio/wav")
	c.Header("Content-Disposition", `attachment; filename="`+w.Kind+`.wav"`)
	if err := exchange.WriteWAV(c.Writer, signal.Rate, x); err != nil && c.Err() == nil {
		s.Log.WarnContext(c, "a signal was not sent whole", "error", err)
	}
}
