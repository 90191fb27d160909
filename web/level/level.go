// Package level is the room of level: what clips first on the way to each output.
package level

import (
	"embed"
	"strconv"
	"strings"
	"unicode/utf8"

	"largo/core/finding"
	"largo/core/level"
	"largo/core/load"
	"largo/core/survey"
	"largo/core/unit"
	"largo/web/kit"
)

//go:embed *.html *.css
var files embed.FS

// Room is the room of this stage.
var Room = kit.Room{
	Name: string(finding.Level), Files: files, View: view,
	Routes: func(r *kit.Routes) {
		r.Get("/jobs/:job/level/clip", showClip)
		r.Get("/jobs/:job/level/byear", showByEar)
		r.Post("/jobs/:job/level/byear", kit.WithForm(tick))
		r.Edit("/jobs/:job/level/knob", kit.ReadKnob, "knob", "tag", "port")
		r.Edit("/jobs/:job/level/controls", readMoves, "controls")
		r.Edit("/jobs/:job/level/peak", readPeak, "peak")
		r.Edit("/jobs/:job/level/channel", readChannel, "channel", "tag", "port")
	},
	Carries: []string{"of", "from"},
	Finds: []kit.FindItem{{Label: "What clipping does", Note: "distortion, loose bass", Href: "/level/clip"},
		{Label: "By ear", Note: "the field method", Href: "/level/byear"}},
}

type body struct {
	Lines    []line
	Line     *levelLine
	Channels []channelRow
	Besides  []besideView
	Loose    []string
}

type line struct {
	ID, Name, Tag, Port, FedBy, Boxes string
	Channel                           int
	Ruler                             kit.Ruler
	Sent, ClipIn, Spare, Gain         kit.Sum
	Knob                              kit.Field
	Noted                             bool
}

func view(_ *kit.Server, p *kit.Page) error {
	var v body
	for _, l := range survey.Of[level.Verdict](p.Report).Lines {
		v.Lines = append(v.Lines, lineOf(p, l))
	}
	v.Line, v.Channels = follow(p, survey.Of[level.Verdict](p.Report)), channelRows(p)
	v.Besides = besidesOf(p)
	v.Loose = p.Loose("controls")
	p.Body = v
	return nil
}

func lineOf(p *kit.Page, l level.Line) line {
	name := l.At.String()
	v := line{ID: kit.Ident(name), Name: name, Tag: l.At.Device, Port: l.At.Port, FedBy: l.FedBy(),
		Boxes: strings.Join(load.Tags(l.Hung()), ", "), Channel: l.Channel, Noted: l.Noted,
		Sent: p.Sum(name, l.Sent()), ClipIn: p.Sum(name, l.ClipIn()), Spare: p.Sum(name, l.Spare()),
		Gain: p.Sum(name, l.Gain())}
	v.Knob = p.KnobField("knob "+name, l.Device, l.Channel)
	v.Ruler = inputRuler(v.ID, l)
	return v
}

// longestName is how many characters of a tag stand on the ruler.
const longestName = 8

// inputRuler shows levels at an amplifier's input, −30 to +30 dBu: from its clip on it
// is hatched, the marker is what feeds it at the most.
func inputRuler(id string, l level.Line) kit.Ruler {
	a := kit.Axis{Low: -30, High: 30, Width: 372}
	r := kit.Ruler{ID: id, Width: a.Width, Height: 62, Label: "levels at the input of " + l.At.String()}
	for v := -30; v <= 30; v += 10 {
		r.Ticks = append(r.Ticks, a.Tick(float64(v), strings.Replace(strconv.Itoa(v), "-", "−", 1)))
	}
	if clip := l.ClipIn(); clip.Known() {
		r.Forbidden = a.Span(clip.Value, a.High)
		r.Limits = []kit.Tick{a.Tick(clip.Value, "clips it")}
	}
	name := l.FedBy()
	if utf8.RuneCountInString(name) > longestName {
		name = "it sends" // who it is stands beside
	}
	if sent := l.Sent(); sent.Known() {
		r.Marks = []kit.Tick{a.Tick(sent.Value, name+" "+unit.DBu(sent.Value).String())}
	} else {
		r.Text = "not known"
	}
	return r
}
