package web

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"sync"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/unit"
	"largo/core/wire"
	"largo/store"
)

type wireView struct {
	Board     board
	List      string   // which list is open
	Lists     []choice // all of them
	Links     []linkView
	Devices   []deviceLine
	Connect   []field
	Loose     []string
	Add       []field
	AddSearch field
	AddFound  string
	AddLoose  []string
	Chosen    *deviceView
	Lead      *leadView
	Lines     []lineView
	Hang      []field
	HangLoose []string
	Mirror    field
	CanMirror bool
	Cables    []cableView // leads that none of stock was chosen for
	Needs     []needView
	Short     int
	CanTake   bool      // stock has leads for some of those
	Forms     drawnPart // the forms below
}

// cableView is one sort of lead that none of stock was chosen for.
type cableView struct {
	Count                 int
	Carries, Length, Area string
}

// needView is how many of a model the rig takes, against what is owned.
type needView struct {
	Title, Kind, Where, Join string
	Need, Owned, Short       int
}

// lineView is a speaker line with its expected reading and the one taken.
type lineView struct {
	Name, Device, Port, Boxes, Says string
	Words                           string // what should be read, where no figure can say it
	Wrong                           bool
	Low, High                       sum
	Field                           field
}

type linkView struct {
	From, To, Kind, Lead, Href string
	Ref                        string // of the input
	Is                         part
	Loss                       sum
	HasLoss                    bool
}

type deviceLine struct{ Tag, Title, Kind, Place, State, Href string }

// deviceView is one device with the form that changes it.
type deviceView struct {
	Tag, Title string
	Form       []field
	Loose      []string
	Stale      bool // the library has other figures than the rig
	ModelHref  string
	HookUps    []hookUpLink
}

type hookUpLink struct{ Label, Href string }

func (s *Server) viewWire(p *page) error {
	chosen := p.ask.Get("device")
	if p.refused != nil && p.refused.form == "device" {
		chosen = p.gin.PostForm("tag")
	}
	var library offer // read while the rig is drawn
	var beside sync.WaitGroup
	beside.Go(func() { library = s.offer(p.gin.Request.Context(), p.gin.Query("q")) })
	lead := p.leadAsked()
	p.Keys = append(boardKeys, stageKeys...)
	v := wireView{Board: p.drawBoard(chosen, lead, readRef(p.ask.Get("follow"))), List: p.List}
	if v.List == "" || v.List == "patch" {
		v.Links = p.linkViews()
	}
	for i, d := range p.job.Rig.Devices {
		m := p.report.Index.ModelAt(i)
		v.Devices = append(v.Devices, deviceLine{d.Tag, m.Title(), string(m.Kind), d.Place, v.Board.stateOf(d.Tag), p.Here + "?device=" + url.QueryEscape(d.Tag) + "#device"})
	}
	v.Connect, v.Loose = p.connectForm(), p.Loose("connect", "from", "to", "length", "area", "series")
	beside.Wait()
	if library.err != nil {
		return library.err
	}
	stock, found := wire.StockOf(library.held), library.found
	v.AddFound = offered(len(found), library.all)
	v.AddSearch = p.Field("add-search", "q", "Find the model", p.gin.Query("q"), "maker, name or kind")
	v.Add, v.AddLoose = p.addForm(found), p.Loose("add", "model", "tags", "place", "aim")
	if v.List == "lines" {
		v.Lines = p.lineViews()
	}
	v.Hang, v.HangLoose = p.hangForm(), p.Loose("hang", "boxes", "outputs", "each")
	left := p.job.Rig.LeftSide()
	v.Mirror, v.CanMirror = p.Field("mirror", "tags", "Left side", strings.Join(left, ", "), "each gets a twin with R for L, set and plugged alike"), len(left) > 0 || p.refusedIs("mirror")
	v.fillNeeds(p, stock)
	v.Lists = v.lists(p)
	if d, ok := p.job.Rig.Device(chosen); ok {
		var err error
		if v.Chosen, err = s.deviceView(p, d); err != nil {
			return err
		}
	}
	v.Lead = p.leadView(lead, stock)
	p.Body = v
	var err error
	v.Forms, err = s.draw(p, "wire", "wire-forms")
	p.Body = v
	return err
}

// offer is what the library has for a rig.
type offer struct {
	held  []gear.Holding
	found []gear.Model // by what was typed
	all   int
	err   error
}

func (s *Server) offer(ctx context.Context, typed string) (o offer) {
	if o.held, o.err = s.store.Stock(ctx); o.err == nil {
		o.found, o.all, o.err = s.store.ModelNames(ctx, typed, mostOffered)
	}
	return o
}

// lists names the lists that follow from the drawing, with what matters of
// each.
func (v *wireView) lists(p *page) []choice {
	list := []choice{{Value: "patch", Label: "Patch list"}, {Value: "pack", Label: "To pack"}, {Value: "lines", Label: "Line test"}, {Value: "devices", Label: "Devices"}}
	if v.Short > 0 {
		list[1].Label += fmt.Sprintf(", %d short", v.Short)
	}
	wrong := 0
	for _, t := range survey.Of[wire.Verdict](p.report).Lines {
		if t.Wrong {
			wrong++
		}
	}
	if wrong > 0 {
		list[2].Label += fmt.Sprintf(", %d wrong", wrong)
	}
	for i := range list {
		list[i].Chosen = list[i].Value == v.List || i == 0 && v.List == ""
	}
	return list
}

var boardKeys = []keyHelp{
	{"Tab, then arrows", "on the drawing: go from connector to connector"}, {"Enter", "pick a connector, then another: a lead is plugged; or throw a switch"},
	{"Shift and arrows", "move the device whose connector is in focus"}, {"+ − 0", "on the drawing: nearer, further, all of it"},
}

func (p *page) refusedIs(form string) bool { return p.refused != nil && p.refused.form == form }

func (b board) stateOf(tag string) string {
	i := slices.IndexFunc(b.Nodes, func(n boardNode) bool { return n.Tag == tag })
	return b.Nodes[i].State
}

func (p *page) linkViews() []linkView {
	losses := map[rig.Ref]linkView{}
	for _, l := range survey.Of[wire.Verdict](p.report).Leads {
		losses[l.Link.To] = linkView{Loss: p.sum(l.Name(), l.Loss), HasLoss: true}
	}
	var views []linkView
	for _, k := range wire.PatchList(p.report.Index) {
		v := losses[k.To]
		from, _ := p.report.Index.Port(k.From)
		v.From, v.To, v.Kind, v.Ref = k.From.String(), k.To.String(), string(from.Signal), refValue(k.To)
		v.Lead, v.Href = p.leadText(k), p.Here+"?"+url.Values{"lead": {refValue(k.To)}}.Encode()+"#lead"
		v.Is = p.part(fmt.Sprintf("%#v", v))
		views = append(views, v)
	}
	return views
}

// fillNeeds counts what has to be packed against what is owned.
func (v *wireView) fillNeeds(p *page, stock wire.Stock) {
	for _, n := range wire.Needs(p.report.Index, stock) {
		v.Needs = append(v.Needs, needView{n.Model.Title(), string(n.Model.Kind), n.Where, n.Join, n.Need, n.Owned, n.Short()})
		v.Short += n.Short()
	}
	slices.SortStableFunc(v.Needs, func(a, b needView) int { return cmp.Compare(b.Short, a.Short) }) // what is missing first
	for _, c := range wire.Cables(p.report.Index) {
		v.Cables = append(v.Cables, cableView{c.Count, string(c.Carries), c.Length.String(), typed(c.Area)})
	}
	if len(v.Cables) > 0 {
		_, v.CanTake = wire.TakeFromStock(p.report.Index, stock)
	}
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

// mirror makes a right side like the left one.
func (s *Server) mirror(c *gin.Context) {
	s.edit(c, finding.Wire, "mirror", func(r rig.Rig, f *form) rig.Edit { return rig.MirrorLeft{Tags: f.tags("tags")} })
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
	for _, o := range survey.Of[match.Verdict](p.report).Outputs {
		boxes[o.At] = strings.Join(load.Tags(o.Output.Boxes), ", ")
	}
	var views []lineView
	for _, t := range survey.Of[wire.Verdict](p.report).Lines {
		name := t.At.String()
		views = append(views, lineView{Name: name, Device: t.At.Device, Port: t.At.Port, Boxes: boxes[t.At], Says: t.Says, Words: t.Words, Wrong: t.Wrong,
			Low: p.sum(name, t.Low), High: p.sum(name, t.High), Field: p.Field("line "+name, "dc", "Reading of "+name, typed(t.Read), "")})
	}
	return views
}

// recordReading keeps what an ohmmeter showed.
func (s *Server) recordReading(c *gin.Context) {
	at := rig.Ref{Device: c.PostForm("device"), Port: c.PostForm("port")}
	s.edit(c, finding.Wire, "line "+at.String(), func(r rig.Rig, f *form) rig.Edit {
		return rig.RecordReading{At: at, DC: given(f, "dc", unit.ParseReading)}
	})
}

func (p *page) addForm(models []gear.Model) []field {
	return []field{
		p.Choose("add", "model", "Model", "", modelChoices(models)...),
		p.Field("add", "tags", "Tags", "", "as on the tape: TOP L, TOP R, or TOP 1 to 6"),
		p.Field("add", "place", "Place", "", "where it stands"),
		p.Choose("add", "aim", "For whom (loudspeakers)", "", aims()...),
	}
}

func aims() []choice {
	return []choice{{Value: string(rig.Audience), Label: "the audience"}, {Value: string(rig.OnStage), Label: "the stage"}}
}

func (s *Server) deviceView(p *page, d rig.Device) (*deviceView, error) {
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
	if m.Kind == gear.KindAmplifier {
		for pair := range m.Amplifier.Pairs() {
			v.HookUps = append(v.HookUps, hookUpLink{"How " + gear.ChannelName(2*pair) + " and " + gear.ChannelName(2*pair+1) + " are bridged", hookUpHref(p.Job.Slug, d.Tag, pair)})
		}
	}
	of, err := s.store.Model(p.gin, d.Model)
	switch {
	case errors.Is(err, store.ErrNotFound), errors.Is(err, store.ErrUnreadable):
		return v, nil
	case err != nil:
		return nil, err
	}
	v.ModelHref, v.Stale = "/gear/model/"+url.PathEscape(d.Model), !sameModel(of.Model, *m)
	return v, nil
}

func (s *Server) addDevices(c *gin.Context) {
	m, err := s.store.Model(c, c.PostForm("model"))
	if err != nil && c.PostForm("model") != "" && !errors.Is(err, store.ErrNotFound) {
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
		return rig.AddDevices{Model: m.Model, Tags: tags, Place: f.text("place"), Aim: rig.Aim(f.text("aim"))}
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

// throwSwitch sets a pair of channels on the drawing.
func (s *Server) throwSwitch(c *gin.Context) { s.setPair(c, finding.Wire) }

// placeDevice moves a device on the drawing.
func (s *Server) placeDevice(c *gin.Context) {
	s.edit(c, finding.Wire, "place", func(r rig.Rig, f *form) rig.Edit {
		x, y := f.coordinate("x"), f.coordinate("y")
		return rig.PlaceOnDrawing{Tag: c.PostForm("tag"), At: &rig.Spot{X: x, Y: y}}
	})
}

func (s *Server) tidyDrawing(c *gin.Context) {
	s.edit(c, finding.Wire, "tidy", func(rig.Rig, *form) rig.Edit { return rig.TidyDrawing{} })
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
	s.edit(c, finding.Wire, "refresh", func(rig.Rig, *form) rig.Edit { return rig.ReplaceModel{Model: m.Model} })
}
