// Package wire is the room of wire: what is plugged into what, as a drawing and as
// lists, with which leads, what there is to pack, the line test, and how a bridged
// load is hooked up.
package wire

import (
	"cmp"
	"context"
	"embed"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strconv"
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
	"largo/core/typed"
	"largo/core/unit"
	"largo/core/wire"
	"largo/store"
	"largo/web/kit"
)

//go:embed *.html *.css *.js
var files embed.FS

// Room is the room of this stage.
var Room = kit.Room{
	Name: string(finding.Wire), Files: files, View: view, Keys: keys, Carries: []string{"follow"},
	Routes: func(r *kit.Routes) {
		r.Post("/jobs/:job/wire/add", addDevices)
		r.Edit("/jobs/:job/wire/device", changeDevice, "device")
		r.Edit("/jobs/:job/wire/remove", removeDevice, "remove")
		r.Post("/jobs/:job/wire/refresh", refreshModel)
		r.Post("/jobs/:job/wire/connect", connect)
		r.Edit("/jobs/:job/wire/disconnect", disconnect, "disconnect")
		r.Post("/jobs/:job/wire/hang", hang)
		r.Post("/jobs/:job/wire/type", typeIn)
		r.Edit("/jobs/:job/wire/mirror", mirror, "mirror")
		r.Post("/jobs/:job/wire/lead", changeLead)
		r.Post("/jobs/:job/wire/take", takeLeads)
		r.Edit("/jobs/:job/wire/phantom", setPhantom, "phantom")
		r.Edit("/jobs/:job/wire/pair", kit.ReadPair, "pair", "tag", "pair")
		r.Edit("/jobs/:job/wire/place", placeDevice, "place")
		r.Edit("/jobs/:job/wire/tidy", tidyDrawing, "tidy")
		r.Edit("/jobs/:job/wire/reading", recordReading, "line", "device", "port")
		r.Get("/jobs/:job/wire/hookup", showHookUp)
	},
	Finds: []kit.FindItem{
		{Label: "Type the rig in", Note: "act", Href: "/wire#type-lines"},
		{Label: "Add devices", Note: "act", Href: "/wire#add-model"},
		{Label: "Plug a lead", Note: "act", Href: "/wire#connect-from"},
	},
}

type body struct {
	Board     board
	List      string       // which list is open
	Lists     []kit.Choice // all of them
	Links     []linkView
	Devices   []deviceLine
	Connect   []kit.Field
	Loose     []string
	Add       []kit.Field
	AddSearch kit.Field
	AddFound  string
	AddLoose  []string
	Chosen    *deviceView
	Lead      *leadView
	Lines     []lineView
	Hang      []kit.Field
	HangLoose []string
	Type      kit.Field
	TypeLoose []string
	Mirror    kit.Field
	CanMirror bool
	Cables    []cableView // leads that none of stock was chosen for
	Needs     []needView
	Pads      string
	Short     int
	CanTake   bool          // stock has leads for some of those
	Forms     kit.DrawnPart // the forms below
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
	Low, High                       kit.Sum
	Field                           kit.Field
}

type linkView struct {
	From, To, Kind, Lead, Href string
	Ref                        string // of the input
	Is                         kit.Part
	Loss                       kit.Sum
	HasLoss                    bool
}

type deviceLine struct{ Tag, Title, Kind, Place, State, Href string }

// deviceView is one device with the form that changes it.
type deviceView struct {
	Tag, Title, Note string
	Form             []kit.Field
	Loose            []string
	Stale            bool // the library has other figures than the rig
	ModelHref        string
	HookUps          []hookUpLink
}

type hookUpLink struct{ Label, Href string }

func view(s *kit.Server, p *kit.Page) error {
	chosen := p.Ask.Get("device")
	if p.Refused != nil && p.Refused.Form == "device" {
		chosen = p.Gin.PostForm("tag")
	}
	var library offer // read while the rig is drawn
	var beside sync.WaitGroup
	beside.Go(func() { library = offerOf(s, p.Gin.Request.Context(), p.Gin.Query("q")) })
	lead := leadAsked(p)
	v := body{Board: drawBoard(p, chosen, lead, kit.ReadRef(p.Ask.Get("follow"))), List: p.List}
	if v.List == "" || v.List == "patch" {
		v.Links = linkViews(p)
	}
	for i, d := range p.Rig().Devices {
		m := p.Report.Index.ModelAt(i)
		v.Devices = append(v.Devices, deviceLine{d.Tag, m.Title(), string(m.Kind), d.Place, v.Board.stateOf(d.Tag),
			p.Here + "?device=" + url.QueryEscape(d.Tag) + "#device"})
	}
	v.Connect, v.Loose = connectForm(p), p.Loose("connect", "from", "to", "length", "area", "series")
	beside.Wait()
	if library.err != nil {
		return library.err
	}
	stock, found := wire.StockOf(library.held), library.found
	v.AddFound = kit.Offered(len(found), library.all)
	v.AddSearch = p.Field("add-search", "q", "Find the model", p.Gin.Query("q"), "maker, name or kind")
	v.Add, v.AddLoose = addForm(p, found), p.Loose("add", "model", "tags", "place", "aim")
	if v.List == "lines" {
		v.Lines = lineViews(p)
	}
	v.Type, v.TypeLoose = typeForm(p), p.Loose("type", "lines")
	v.Hang, v.HangLoose = hangForm(p), p.Loose("hang", "boxes", "outputs", "each")
	left := p.Rig().LeftSide()
	v.Mirror, v.CanMirror = p.Field("mirror", "tags", "Left side", strings.Join(left, ", "),
		"each gets a twin with R for L, set and plugged alike"), len(left) > 0 || p.RefusedIs("mirror")
	v.fillNeeds(p, stock)
	v.Lists = v.lists(p)
	if d, ok := p.Rig().Device(chosen); ok {
		var err error
		if v.Chosen, err = deviceOf(s, p, d); err != nil {
			return err
		}
	}
	v.Lead = leadOf(p, lead, stock)
	p.Body = v
	var err error
	v.Forms, err = s.Draw(p, "wire", "wire-forms")
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

func offerOf(s *kit.Server, ctx context.Context, typed string) (o offer) {
	if o.held, o.err = s.Store.Stock(ctx); o.err == nil {
		o.found, o.all, o.err = s.Store.ModelNames(ctx, typed, kit.MostOffered)
	}
	return o
}

// lists names the lists that follow from the drawing, with what matters of
// each.
func (v *body) lists(p *kit.Page) []kit.Choice {
	list := []kit.Choice{{Value: "patch", Label: "Patch list"}, {Value: "pack", Label: "To pack"},
		{Value: "lines", Label: "Line test"}, {Value: "devices", Label: "Devices"}}
	if v.Short > 0 {
		list[1].Label += fmt.Sprintf(", %d short", v.Short)
	}
	wrong := 0
	for _, t := range survey.Of[wire.Verdict](p.Report).Lines {
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

// keys are those of the drawing.
var keys = []kit.KeyHelp{
	{Key: "Tab, then arrows", Does: "on the drawing: go from connector to connector"},
	{Key: "Enter", Does: "pick a connector, then another: a lead is plugged; or throw a switch"},
	{Key: "Shift and arrows", Does: "move the device whose connector is in focus"},
	{Key: "+ − 0", Does: "on the drawing: nearer, further, all of it"},
}

func (b board) stateOf(tag string) string {
	i := slices.IndexFunc(b.Nodes, func(n boardNode) bool { return n.Tag == tag })
	return b.Nodes[i].State
}

func linkViews(p *kit.Page) []linkView {
	losses := map[rig.Ref]linkView{}
	for _, l := range survey.Of[wire.Verdict](p.Report).Leads {
		losses[l.Link.To] = linkView{Loss: p.Sum(l.Name(), l.Loss), HasLoss: true}
	}
	var views []linkView
	for _, k := range wire.PatchList(p.Report.Index) {
		v := losses[k.To]
		from, _ := p.Report.Index.Port(k.From)
		v.From, v.To, v.Kind, v.Ref = k.From.String(), k.To.String(), string(from.Signal), kit.RefValue(k.To)
		v.Lead, v.Href = leadText(p, k), p.Here+"?"+url.Values{"lead": {kit.RefValue(k.To)}}.Encode()+"#lead"
		v.Is = p.Part(fmt.Sprintf("%#v", v))
		views = append(views, v)
	}
	return views
}

// fillNeeds counts what has to be packed against what is owned.
func (v *body) fillNeeds(p *kit.Page, stock wire.Stock) {
	v.Pads = wire.Pads(p.Rig())
	for _, n := range wire.Needs(p.Report.Index, stock) {
		v.Needs = append(v.Needs, needView{n.Model.Title(), string(n.Model.Kind), n.Where, n.Join, n.Need,
			n.Owned, n.Short()})
		v.Short += n.Short()
	}
	// what is missing first
	slices.SortStableFunc(v.Needs, func(a, b needView) int { return cmp.Compare(b.Short, a.Short) })
	for _, c := range wire.Cables(p.Report.Index) {
		v.Cables = append(v.Cables, cableView{c.Count, string(c.Carries), c.Length.String(), c.Area.Typed()})
	}
	if len(v.Cables) > 0 {
		_, v.CanTake = wire.TakeFromStock(p.Report.Index, stock)
	}
}

// typeForm is a rig as it is said, devices and what feeds what.
func typeForm(p *kit.Page) kit.Field {
	f := p.Field("type", "lines", "Devices, and what feeds what, one a line", "",
		"as TOP 1 to 4: Brackwater Reed 10; A1: 2 x 700 W 4 ohm, 1 V; DESK > A1 > TOP 1 to 4")
	f.Kind = "lines"
	return f
}

func hangForm(p *kit.Page) []kit.Field {
	return []kit.Field{
		p.Field("hang", "boxes", "Boxes", "", "as TOP 1 to 6, or TOP L, TOP R"),
		p.Field("hang", "outputs", "On outputs, in order", "", "as A1, or A1 A, A1 B, A2 A; a bridged pair is A+B"),
		p.Field("hang", "each", "On each output", "", "how many boxes, linked through; empty: spread evenly"),
	}
}

// hang puts a string of boxes on amplifiers in one act, with the leads that they hung
// on where those reach, and with some of stock where not.
func hang(s *kit.Server, c *gin.Context) {
	held, err := s.Store.Stock(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	s.Edit(c, finding.Wire, "hang", func(r rig.Rig, f *kit.Form) rig.Edit {
		return wire.Hung(r, readHang(r, f), wire.StockOf(held))
	})
}

func readHang(r rig.Rig, f *kit.Form) rig.Hang {
	e := rig.Hang{Boxes: tags(f, "boxes"), Each: f.Number("each", "boxes")}
	x := rig.NewIndex(r)
	for out := range strings.SplitSeq(f.Text("outputs"), ",") {
		out = strings.TrimSpace(out)
		i := strings.LastIndexByte(out, ' ')
		switch {
		case out == "":
		case len(x.FreeOutputs(out)) > 0: // an amplifier by its tag alone
			e.Outputs = append(e.Outputs, x.FreeOutputs(out)...)
		case i < 0:
			f.Fault("outputs", "%.30q is no output; write the amplifier and its channel, as A1 A.", out)
		default:
			e.Outputs = append(e.Outputs, rig.Ref{Device: strings.TrimSpace(strings.TrimSuffix(out[:i], " out")),
				Port: "out " + strings.ToUpper(out[i+1:])})
		}
	}
	if f.Text("each") == "" && len(e.Outputs) > 0 {
		e.Each = (len(e.Boxes) + len(e.Outputs) - 1) / len(e.Outputs)
	}
	return e
}

// typeIn takes a rig as it is said, devices and what feeds what, one a line. What it
// makes of plates goes into the library too.
func typeIn(s *kit.Server, c *gin.Context) {
	var fault error
	library := func(text string) (gear.Model, bool) {
		m, found, err := s.Store.MeantModel(c, text)
		if err != nil {
			fault = err
		}
		return m, found
	}
	var made []gear.Model
	s.Edit(c, finding.Wire, "type", func(r rig.Rig, f *kit.Form) rig.Edit {
		e, models, err := typed.Read(r, library, f.Gin.PostForm("lines"))
		made = models
		if err == nil {
			err = fault
		}
		if err != nil {
			f.Refuse(err)
			return nil
		}
		return e
	})
	keepPlates(s, c, made)
}

// keepPlates takes models that were made of plates into the library, where they are
// found the next time. Whether it does has no bearing on the rig, which has its own.
func keepPlates(s *kit.Server, c *gin.Context, made []gear.Model) {
	if len(made) == 0 {
		return
	}
	changes := make([]store.ModelChange, len(made))
	for i, m := range made {
		changes[i] = store.ModelChange{Model: m}
	}
	by := store.Command{ID: kit.NewCommand(), Author: kit.Author(c)}
	if err := s.Store.SaveModels(c, by, "Typed in from its plate", changes...); err != nil &&
		!errors.Is(err, store.ErrConflict) {
		s.Log.WarnContext(c, "plates not kept in the library", "error", err)
	}
}

// mirror makes a right side like the left one.
func mirror(r rig.Rig, f *kit.Form) rig.Edit {
	return rig.MirrorLeft{Tags: tags(f, "tags")}
}

// tags reads a list of tags as they are spoken.
func tags(f *kit.Form, name string) []string {
	tags, err := rig.ExpandTags(f.Gin.PostForm(name))
	if err != nil {
		var l fault.List
		errors.As(err, &l)
		f.Fault(name, "%s", l[0].Say)
	}
	return tags
}

func lineViews(p *kit.Page) []lineView {
	boxes := map[rig.Ref]string{}
	for _, o := range survey.Of[match.Verdict](p.Report).Outputs {
		boxes[o.At] = strings.Join(load.Tags(o.Hung()), ", ")
	}
	var views []lineView
	for _, t := range survey.Of[wire.Verdict](p.Report).Lines {
		name := t.At.String()
		views = append(views, lineView{Name: name, Device: t.At.Device, Port: t.At.Port, Boxes: boxes[t.At], Says: t.Says,
			Words: t.Words, Wrong: t.Wrong,
			Low: p.Sum(name, t.Low()), High: p.Sum(name, t.High()),
			Field: p.Field("line "+name, "dc", "Reading of "+name, t.Read.Typed(), "")})
	}
	return views
}

// recordReading keeps what an ohmmeter showed.
func recordReading(_ rig.Rig, f *kit.Form) rig.Edit {
	at := rig.Ref{Device: f.Gin.PostForm("device"), Port: f.Gin.PostForm("port")}
	return rig.RecordReading{At: at, DC: kit.Given(f, "dc", unit.ParseReading)}
}

func addForm(p *kit.Page, models []gear.Model) []kit.Field {
	return []kit.Field{
		p.Choose("add", "model", "Model", "", kit.ModelChoices(models)...),
		p.Field("add", "tags", "Tags", "", "as on the tape: TOP L, TOP R, or TOP 1 to 6"),
		p.Field("add", "place", "Place", "", "where it stands"),
		p.Field("add", "aim", "For whom (loudspeakers)", "", aimHint),
	}
}

// aimHint says for whom a loudspeaker may be.
const aimHint = "empty: the audience; stage; or an area of its own by name, as balcony"

// readAim reads for whom a loudspeaker is.
func readAim(text string) rig.Aim {
	switch name := strings.TrimPrefix(strings.ToLower(text), "the "); name {
	case "audience":
		return rig.Audience
	case string(rig.OnStage):
		return rig.OnStage
	}
	return rig.Aim(text)
}

func deviceOf(s *kit.Server, p *kit.Page, d rig.Device) (*deviceView, error) {
	m, _ := p.Rig().Model(d.Model)
	v := &deviceView{Tag: d.Tag, Title: m.Title(), Note: m.Note,
		Loose: p.Loose("device", "newtag", "place", "switch", "case", "aim", "distance", "poles")}
	tag := p.Field("device", "newtag", "Tag", d.Tag, "")
	tag.Required = true
	v.Form = []kit.Field{tag, p.Field("device", "place", "Place", d.Place, ""),
		p.Field("device", "switch", "Shared switch", d.Switch, "the name of a switch or strip it shares; empty: its own"),
		p.Field("device", "case", "Part of the case", d.Case,
			"as a mixer with amplifiers inside: one inlet, one switch, no leads to pack between its parts")}
	if m.Kind == gear.KindLoudspeaker {
		v.Form = append(v.Form, p.Field("device", "aim", "For whom", string(d.Aim()), aimHint),
			p.Field("device", "distance", "Distance to them", d.Distance().Typed(), "empty: as the brief says"))
		if m.Loudspeaker.Selector {
			v.Form = append(v.Form, p.Choose("device", "poles", "Its selector is on", strconv.Itoa(d.Poles()),
				kit.Choice{Value: "1", Label: "poles 1±"}, kit.Choice{Value: "2", Label: "poles 2±"}))
		}
	}
	if m.Kind == gear.KindAmplifier {
		for pair := range m.Amplifier.Pairs() {
			v.HookUps = append(v.HookUps, hookUpLink{"How " + gear.ChannelName(2*pair) + " and " + gear.ChannelName(2*pair+1) +
				" are bridged", kit.HookUpHref(p.Job.Slug, d.Tag, pair)})
		}
	}
	of, err := s.Store.Model(p.Gin, d.Model)
	switch {
	case errors.Is(err, store.ErrNotFound), errors.Is(err, store.ErrUnreadable):
		return v, nil
	case err != nil:
		return nil, err
	}
	v.ModelHref, v.Stale = "/gear/model/"+url.PathEscape(d.Model), !of.Equal(*m)
	return v, nil
}

func addDevices(s *kit.Server, c *gin.Context) {
	m, err := s.Store.Model(c, c.PostForm("model"))
	if err != nil && c.PostForm("model") != "" && !errors.Is(err, store.ErrNotFound) {
		s.Fail(c, err)
		return
	}
	s.Edit(c, finding.Wire, "add", func(r rig.Rig, f *kit.Form) rig.Edit {
		if err == store.ErrNotFound {
			f.Fault("model", "Choose a model from the library, or enter it under Gear first.")
		}
		tags := tags(f, "tags")
		if len(tags) > 200 {
			f.Fault("tags", "%d devices at once are too many; add at most 200.", len(tags))
		}
		return rig.AddDevices{Model: m.Model, Tags: tags, Place: f.Text("place"), Aim: readAim(f.Text("aim"))}
	})
}

// readPoles reads the pair of poles that a selector is on, 0 where the box has none.
func readPoles(f *kit.Form) int {
	switch text := f.Text("poles"); text {
	case "2":
		return 2
	case "", "1":
	default:
		f.Fault("poles", "A selector is on poles 1± or 2±, not %.20q.", text)
	}
	return 0
}

func changeDevice(r rig.Rig, f *kit.Form) rig.Edit {
	old, _ := r.Device(f.Gin.PostForm("tag"))
	e := rig.ChangeDevice{Tag: f.Gin.PostForm("tag"), NewTag: f.Text("newtag"), Place: f.Text("place"),
		Switch: f.Text("switch"),
		Aim:    readAim(f.Text("aim")), Distance: kit.KeepOrigin(old.Distance(), kit.Given(f, "distance", unit.ParseMetre)),
		Poles: readPoles(f)}
	var l = f.Faults
	rig.CheckTag(&l, "newtag", e.NewTag)
	f.Faults = l
	return r.IntoCase(e, f.Text("case"))
}

func removeDevice(r rig.Rig, f *kit.Form) rig.Edit {
	return rig.RemoveDevice{Tag: f.Gin.PostForm("tag")}
}

// placeDevice moves a device on the drawing.
func placeDevice(r rig.Rig, f *kit.Form) rig.Edit {
	x, y := coordinate(f, "x"), coordinate(f, "y")
	return rig.PlaceOnDrawing{Tag: f.Gin.PostForm("tag"), At: &rig.Spot{X: x, Y: y}}
}

func tidyDrawing(rig.Rig, *kit.Form) rig.Edit { return rig.TidyDrawing{} }

// refreshModel takes the library's figures of a device's model into the rig.
func refreshModel(s *kit.Server, c *gin.Context) {
	j, err := s.Store.Job(c, c.Param("job"))
	if err != nil {
		s.Fail(c, err)
		return
	}
	d, _ := j.Rig.Device(c.PostForm("tag"))
	m, err := s.Store.Model(c, d.Model)
	if err != nil {
		s.Fail(c, err)
		return
	}
	s.Edit(c, finding.Wire, "refresh", func(rig.Rig, *kit.Form) rig.Edit { return rig.ReplaceModel{Model: m.Model} })
}
