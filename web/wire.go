package web

import (
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/unit"
	"largo/core/wire"
	"largo/store"
)

type wireView struct {
	Board     board
	Links     []linkView
	Devices   []deviceLine
	Connect   []field
	Loose     []string
	Add       []field
	AddLoose  []string
	Chosen    *deviceView
	Lines     []lineView
	Hang      []field
	HangLoose []string
	Cables    []cableView
}

// cableView is one sort of lead to pack.
type cableView struct {
	Count                 int
	Carries, Length, Area string
}

// lineView is a speaker line with its expected reading and the one taken.
type lineView struct {
	Name, Device, Port, Boxes, Says string
	Wrong                           bool
	Low, High                       sum
	Field                           field
}

type linkView struct {
	From, To, Kind, Lead string
	ToDevice, ToPort     string
	Loss                 sum
	HasLoss              bool
}

type deviceLine struct{ Tag, Title, Kind, Place, State, Href string }

// deviceView is one device with the form that changes it.
type deviceView struct {
	Tag, Title string
	Form       []field
	Loose      []string
	Stale      bool // the library has other figures than the rig
	ModelHref  string
}

func (s *Server) viewWire(p *page) error {
	models, err := s.store.Models(p.gin)
	if err != nil {
		return err
	}
	chosen := p.ask.Get("device")
	if p.refused != nil && p.refused.form == "device" {
		chosen = p.gin.PostForm("tag")
	}
	p.Verdict = wireVerdict(p)
	v := wireView{Board: p.drawBoard(chosen), Links: p.linkViews()}
	for i, d := range p.job.Rig.Devices {
		m := p.report.Index.ModelAt(i)
		v.Devices = append(v.Devices, deviceLine{d.Tag, m.Title(), string(m.Kind), d.Place, p.stateOf(d.Tag), p.Here + "?device=" + url.QueryEscape(d.Tag) + "#device"})
	}
	v.Connect, v.Loose = p.connectForm(), p.Loose("connect", "from", "to", "length", "area", "series")
	v.Add, v.AddLoose = p.addForm(models), p.Loose("add", "model", "tags", "place", "aim")
	v.Lines = p.lineViews()
	v.Hang, v.HangLoose = p.hangForm(), p.Loose("hang", "boxes", "outputs", "each")
	for _, c := range wire.Cables(p.report.Index) {
		v.Cables = append(v.Cables, cableView{c.Count, string(c.Carries), c.Length.String(), typed(c.Area)})
	}
	if d, ok := p.job.Rig.Device(chosen); ok {
		v.Chosen = p.deviceView(d, models)
	}
	p.Body = v
	return nil
}

func wireVerdict(p *page) string {
	r, fs := p.job.Rig, p.report.At(finding.Wire)
	switch {
	case len(r.Devices) == 0:
		return "The rig is empty. Add its devices, then plug them together."
	case finding.Worst(fs) == finding.Stop:
		return fs[0].What
	case finding.Worst(fs) == finding.Mend:
		n := 0
		for _, f := range fs {
			if f.Gravity == finding.Mend {
				n++
			}
		}
		return plural(n, "connection", "connections") + " to mend before the show."
	}
	return fmt.Sprintf("%d devices, %d leads, and every lead fits.", len(r.Devices), len(r.Links))
}

func (p *page) linkViews() []linkView {
	losses := map[rig.Ref]linkView{}
	for _, l := range p.report.Leads {
		losses[l.Link.To] = linkView{Loss: p.sum(survey.LeadName(l), l.Loss), HasLoss: true}
	}
	var views []linkView
	for _, k := range wire.PatchList(p.report.Index) {
		v := losses[k.To]
		from, _ := p.report.Index.Port(k.From)
		v.From, v.To, v.Kind, v.ToDevice, v.ToPort = k.From.String(), k.To.String(), string(from.Signal), k.To.Device, k.To.Port
		var lead []string
		if k.Length.Known() {
			lead = append(lead, k.Length.String())
		}
		if k.Area.Known() {
			lead = append(lead, k.Area.String())
		}
		if k.Swapped {
			lead = append(lead, "polarity swapped")
		}
		if k.Series != "" {
			lead = append(lead, "series "+k.Series)
		}
		v.Lead = strings.Join(lead, ", ")
		views = append(views, v)
	}
	return views
}

func (p *page) hangForm() []field {
	return []field{
		p.Field("hang", "boxes", "Boxes", "", "as TOP 1 to 6, or TOP L, TOP R"),
		p.Field("hang", "outputs", "On outputs, in order", "", "as A1 A, A1 B, A2 A; a bridged pair is A+B"),
		p.Field("hang", "each", "On each output", "", "how many boxes, linked through"),
	}
}

// hang puts a string of boxes on amplifiers in one act.
func (s *Server) hang(c *gin.Context) {
	s.edit(c, finding.Wire, "hang", func(r rig.Rig, f *form) rig.Edit {
		e := rig.Hang{Boxes: f.tags("boxes"), Each: f.number("each", "boxes")}
		for out := range strings.SplitSeq(f.text("outputs"), ",") {
			out = strings.TrimSpace(out)
			i := strings.LastIndexByte(out, ' ')
			switch {
			case out == "":
			case i < 0:
				f.fault("outputs", "%.30q is no output; write the amplifier and its channel, as A1 A.", out)
			default:
				e.Outputs = append(e.Outputs, rig.Ref{Device: strings.TrimSpace(strings.TrimSuffix(out[:i], " out")), Port: "out " + strings.ToUpper(out[i+1:])})
			}
		}
		return e
	})
}

// tags reads a list of tags as they are spoken.
func (f *form) tags(name string) []string {
	tags, err := rig.ExpandTags(f.c.PostForm(name))
	if err != nil {
		var l fault.List
		errors.As(err, &l)
		f.fault(name, "%s", l[0].Say)
	}
	return tags
}

func (p *page) lineViews() []lineView {
	boxes := map[rig.Ref]string{}
	for _, o := range p.report.Match.Outputs {
		boxes[o.At] = strings.Join(load.Tags(o.Output.Boxes), ", ")
	}
	var views []lineView
	for _, t := range p.report.Lines {
		name := t.At.String()
		views = append(views, lineView{Name: name, Device: t.At.Device, Port: t.At.Port, Boxes: boxes[t.At], Says: t.Says, Wrong: t.Wrong,
			Low: p.sum(name, t.Low), High: p.sum(name, t.High), Field: p.Field("line "+name, "dc", "Reading of "+name, typed(t.Read), "")})
	}
	return views
}

// recordReading keeps what an ohmmeter showed.
func (s *Server) recordReading(c *gin.Context) {
	at := rig.Ref{Device: c.PostForm("device"), Port: c.PostForm("port")}
	s.edit(c, finding.Wire, "line "+at.String(), func(r rig.Rig, f *form) rig.Edit {
		return rig.RecordReading{At: at, DC: given(f, "dc", unit.ParseOhm)}
	})
}

// connectForm offers what can still be plugged: outputs, and inputs that
// nothing feeds yet.
func (p *page) connectForm() []field {
	x := p.report.Index
	outs, ins := []choice{{Label: "choose an output"}}, []choice{{Label: "choose a free input"}}
	for i, d := range p.job.Rig.Devices {
		for _, port := range x.ModelAt(i).Ports() {
			ref := rig.Ref{Device: d.Tag, Port: port.Name}
			c := choice{Value: refValue(ref), Label: ref.String() + " (" + string(port.Signal) + ")"}
			if port.Dir != gear.In {
				outs = append(outs, c)
			} else if _, fed := x.Into(ref); !fed {
				ins = append(ins, c)
			}
		}
	}
	return []field{
		p.Choose("connect", "from", "From", "", outs...), p.Choose("connect", "to", "Into", "", ins...),
		p.Field("connect", "length", "Length", "", "as 10 m or 30 ft; may stay empty"),
		p.Field("connect", "area", "Conductor", "", "as 2.5 mm² or 12 AWG; speaker leads"),
		p.Field("connect", "series", "In series with", "", "a name shared by the boxes of one series string"),
		p.Choose("connect", "swapped", "Polarity", "", choice{Value: "", Label: "straight"}, choice{Value: "yes", Label: "swapped"}),
	}
}

func (p *page) addForm(models []gear.Model) []field {
	list := make([]choice, 1, len(models)+1)
	list[0] = choice{Label: "choose from the library"}
	for _, m := range models {
		list = append(list, choice{Value: m.ID, Label: m.Title() + " (" + string(m.Kind) + ")"})
	}
	return []field{
		p.Choose("add", "model", "Model", "", list...),
		p.Field("add", "tags", "Tags", "", "as on the tape: TOP L, TOP R, or TOP 1 to 6"),
		p.Field("add", "place", "Place", "", "where it stands"),
		p.Choose("add", "aim", "For whom (loudspeakers)", "", aims()...),
	}
}

func aims() []choice {
	return []choice{{Value: string(rig.Audience), Label: "the audience"}, {Value: string(rig.Stage), Label: "the stage"}}
}

func (p *page) deviceView(d rig.Device, models []gear.Model) *deviceView {
	m, _ := p.job.Rig.Model(d.Model)
	v := &deviceView{Tag: d.Tag, Title: m.Title(), Loose: p.Loose("device", "newtag", "place", "switch", "aim", "distance")}
	tag := p.Field("device", "newtag", "Tag", d.Tag, "")
	tag.Required = true
	v.Form = []field{tag, p.Field("device", "place", "Place", d.Place, ""),
		p.Field("device", "switch", "Shared switch", d.Switch, "the name of a switch or strip it shares; empty: its own")}
	if m.Kind == gear.KindLoudspeaker {
		v.Form = append(v.Form, p.Choose("device", "aim", "For whom", string(d.Aim), aims()...),
			p.Field("device", "distance", "Distance to them", typed(d.Distance), "empty: as the brief says"))
	}
	i := slices.IndexFunc(models, func(x gear.Model) bool { return x.ID == d.Model })
	if i >= 0 {
		v.ModelHref = "/gear/model/" + url.PathEscape(d.Model)
		v.Stale = !sameModel(models[i], *m)
	}
	return v
}

func (s *Server) addDevices(c *gin.Context) {
	m, err := s.store.Model(c, c.PostForm("model"))
	if err != nil && c.PostForm("model") != "" && explain(err, true).Status != 404 {
		s.fail(c, err)
		return
	}
	s.edit(c, finding.Wire, "add", func(r rig.Rig, f *form) rig.Edit {
		if err == store.ErrNotFound {
			f.fault("model", "Choose a model from the library, or enter it under Gear first.")
		}
		tags := f.tags("tags")
		if len(tags) > 200 {
			f.fault("tags", "%d devices at once are too many; add at most 200.", len(tags))
		}
		return rig.AddDevices{Model: m, Tags: tags, Place: f.text("place"), Aim: rig.Aim(f.text("aim"))}
	})
}

func (s *Server) changeDevice(c *gin.Context) {
	s.edit(c, finding.Wire, "device", func(r rig.Rig, f *form) rig.Edit {
		old, _ := r.Device(c.PostForm("tag"))
		e := rig.ChangeDevice{Tag: c.PostForm("tag"), NewTag: f.text("newtag"), Place: f.text("place"), Switch: f.text("switch"),
			Aim: rig.Aim(f.text("aim")), Distance: keepOrigin(old.Distance, given(f, "distance", unit.ParseMetre))}
		var l = f.faults
		rig.CheckTag(&l, "newtag", e.NewTag)
		f.faults = l
		return e
	})
}

func (s *Server) removeDevice(c *gin.Context) {
	s.edit(c, finding.Wire, "remove", func(r rig.Rig, f *form) rig.Edit { return rig.RemoveDevice{Tag: c.PostForm("tag")} })
}

func (s *Server) connect(c *gin.Context) {
	s.edit(c, finding.Wire, "connect", func(r rig.Rig, f *form) rig.Edit {
		return rig.Connect{Link: rig.Link{From: f.ref("from", "an output"), To: f.ref("to", "an input"), Series: f.text("series"), Swapped: f.text("swapped") == "yes",
			Length: given(f, "length", unit.ParseMetre), Area: given(f, "area", unit.ParseArea)}}
	})
}

// refValue writes a port as a choice sends it.
func refValue(r rig.Ref) string { return r.Device + "\t" + r.Port }

// ref reads a port from a choice.
func (f *form) ref(name, what string) rig.Ref {
	device, port, ok := strings.Cut(f.c.PostForm(name), "\t")
	if !ok {
		f.fault(name, "Choose %s.", what)
	}
	return rig.Ref{Device: device, Port: port}
}

func (s *Server) disconnect(c *gin.Context) {
	s.edit(c, finding.Wire, "disconnect", func(r rig.Rig, f *form) rig.Edit {
		return rig.Disconnect{To: rig.Ref{Device: c.PostForm("device"), Port: c.PostForm("port")}}
	})
}

// refreshModel takes the library's figures of a device's model into the rig.
func (s *Server) refreshModel(c *gin.Context) {
	j, err := s.store.Job(c, c.Param("job"))
	if err != nil {
		s.fail(c, err)
		return
	}
	d, _ := j.Rig.Device(c.PostForm("tag"))
	m, err := s.store.Model(c, d.Model)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.edit(c, finding.Wire, "refresh", func(rig.Rig, *form) rig.Edit { return rig.ReplaceModel{Model: m} })
}
