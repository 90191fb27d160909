package wire

import (
	"fmt"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
	"largo/core/wire"
	"largo/web/kit"
)

// leadView is one lead with the form that changes it.
type leadView struct {
	From, To         string
	ToDevice, ToPort string
	Ref              string
	Form             []kit.Field
	Loose            []string
	Phantom          *phantomView
}

// phantomView is the phantom power of the microphone input that a lead ends at.
type phantomView struct {
	On    bool
	Makes string // what the other end makes of it
}

// How a lead is chosen for a link.
const (
	leadOfStock = "stock" // the right one of what is owned
	leadNotSaid = ""      // none chosen yet; its length may be given
)

// connectForm offers what can still be plugged: outputs, and inputs that
// nothing feeds yet.
func connectForm(p *kit.Page) []kit.Field {
	x := p.Report.Index
	outs, ins := []kit.Choice{{Label: "choose an output"}}, []kit.Choice{{Label: "choose a free input"}}
	for i, d := range p.Rig().Devices {
		for _, port := range x.ModelAt(i).Ports() {
			ref := rig.Ref{Device: d.Tag, Port: port.Name}
			c := kit.Choice{Value: kit.RefValue(ref), Label: ref.String() + " (" + string(port.Signal) + ")"}
			if port.Dir != gear.In {
				outs = append(outs, c)
			} else if _, fed := x.Into(ref); !fed {
				ins = append(ins, c)
			}
		}
	}
	return []kit.Field{
		p.Choose("connect", "from", "From", "", outs...), p.Choose("connect", "to", "Into", "", ins...),
		p.Choose("connect", "lead", "Lead", leadOfStock, kit.Choice{Value: leadOfStock, Label: "the right one from stock"},
			kit.Choice{Value: leadNotSaid, Label: "not chosen yet"}),
		p.Field("connect", "length", "Length", "", "as 10 m or 30 ft; may stay empty"),
		p.Field("connect", "area", "Conductor", "", "as 2.5 mm² or 12 AWG; speaker leads"),
		p.Field("connect", "series", "In series with", "", "a name shared by the boxes of one series string"),
		p.Choose("connect", "swapped", "Polarity", "", straightOrSwapped...),
	}
}

var straightOrSwapped = []kit.Choice{{Value: "", Label: "straight"}, {Value: "yes", Label: "swapped"}}

// connect plugs a lead in, with the right one of stock where that was asked
// for and there is one.
func connect(s *kit.Server, c *gin.Context) {
	held, err := s.Store.Stock(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	s.Edit(c, finding.Wire, "connect", func(r rig.Rig, f *kit.Form) rig.Edit {
		e := rig.Connect{Link: rig.Link{From: ref(f, "from", "an output"), To: ref(f, "to", "an input"),
			Series: f.Text("series"), Swapped: f.Text("swapped") == "yes",
			Length: kit.Given(f, "length", unit.ParseMetre), Area: kit.Given(f, "area", unit.ParseArea)}}
		if f.Text("lead") != leadOfStock {
			return e
		}
		if m, ok := wire.Choose(rig.NewIndex(r), e.Link, wire.StockOf(held)); ok {
			e.Stock, e.Link.Cables = []gear.Model{m}, []string{m.ID}
			e.Link.Length, e.Link.Area = unit.Given[unit.Metre]{}, unit.Given[unit.SquareMillimetre]{}
		}
		return e
	})
}

func disconnect(r rig.Rig, f *kit.Form) rig.Edit {
	return rig.Disconnect{To: kit.ReadRef(f.Gin.PostForm("to"))}
}

// takeLeads gives every link without a made-up lead one of stock.
func takeLeads(s *kit.Server, c *gin.Context) {
	held, err := s.Store.Stock(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	s.Edit(c, finding.Wire, "take", func(r rig.Rig, f *kit.Form) rig.Edit {
		e, ok := wire.TakeFromStock(rig.NewIndex(r), wire.StockOf(held))
		if !ok {
			f.Fault("", "Stock has no lead that fits any of these.")
		}
		return e
	})
}

// leadAsked is the input of the lead that is looked at.
func leadAsked(p *kit.Page) rig.Ref {
	if p.RefusedIs("lead") {
		return rig.Ref{Device: p.Gin.PostForm("device"), Port: p.Gin.PostForm("port")}
	}
	return kit.ReadRef(p.Ask.Get("lead"))
}

// leadText says what lead a link is.
func leadText(p *kit.Page, k rig.Link) string {
	var parts []string
	for _, id := range k.Cables {
		m, _ := p.Rig().Model(id)
		parts = append(parts, m.Name)
	}
	if k.Length.Known() {
		parts = append(parts, k.Length.String())
	}
	if k.Area.Known() {
		parts = append(parts, k.Area.String())
	}
	if k.Via != "" {
		parts = append(parts, "through "+k.Via)
	}
	if k.Swapped {
		parts = append(parts, "polarity swapped")
	}
	if pad, there := k.Pad.Get(); there {
		parts = append(parts, "pad of "+pad.String())
	}
	if k.Series != "" {
		parts = append(parts, "series "+k.Series)
	}
	return strings.Join(parts, ", ")
}

func leadOf(p *kit.Page, to rig.Ref, stock wire.Stock) *leadView {
	x := p.Report.Index
	k, ok := x.Into(to)
	if !ok {
		return nil
	}
	v := &leadView{From: k.From.String(), To: to.String(), ToDevice: to.Device, ToPort: to.Port, Ref: kit.RefValue(to),
		Loose: p.Loose("lead", "first", "second", "pad", "length", "area", "via")}
	pieces := [2]string{}
	copy(pieces[:], k.Cables)
	v.Form = []kit.Field{p.Choose("lead", "first", "Lead", pieces[0],
		leadChoices(p, k, pieces[0], stock, "none of stock")...)}
	if from, _ := x.Port(k.From); from.Signal != gear.Speaker && from.Signal != gear.Mains {
		v.Form = append(v.Form, p.Choose("lead", "second", "joined to", pieces[1],
			leadChoices(p, k, pieces[1], stock, "nothing")...), p.Field("lead", "pad", "Pad in it", k.Pad.Typed(), "20 dB"))
	}
	v.Form = append(v.Form, p.Field("lead", "length", "Length", k.Length.Typed(), "where none of stock is chosen"),
		p.Field("lead", "area", "Conductor", k.Area.Typed(), "of a speaker lead that is none of stock"))
	if boxes := multicores(p); len(boxes) > 1 {
		v.Form = append(v.Form, p.Choose("lead", "via", "Runs through", k.Via, boxes...))
	}
	swapped := ""
	if k.Swapped {
		swapped = "yes"
	}
	v.Form = append(v.Form, p.Choose("lead", "swapped", "Polarity", swapped, straightOrSwapped...))
	if port, _ := x.Port(to); port.Signal == gear.Mic {
		if d, m := x.Device(to.Device); m.Mixer != nil && m.Mixer.Phantom != gear.No {
			from, _ := x.Port(k.From)
			v.Phantom = &phantomView{On: d.GivesPhantom(to.Port), Makes: string(from.Phantom)}
		}
	}
	return v
}

// leadChoices offers the leads of stock that fit, and the one that is there.
func leadChoices(p *kit.Page, k rig.Link, chosen string, stock wire.Stock, none string) []kit.Choice {
	list := []kit.Choice{{Label: none}}
	seen := chosen == ""
	for _, o := range wire.Offers(p.Report.Index, k, stock) {
		seen = seen || o.Model.ID == chosen
		spare := "none to spare"
		if o.Spare > 0 {
			spare = strconv.Itoa(o.Spare) + " to spare"
		}
		list = append(list, kit.Choice{Value: o.Model.ID, Label: fmt.Sprintf("%s (%s)", o.Model.Name, spare)})
	}
	if !seen {
		m, _ := p.Rig().Model(chosen)
		list = append(list, kit.Choice{Value: chosen, Label: m.Name + " (as it is)"})
	}
	return list
}

// multicores offers the stage boxes and multicores of the rig.
func multicores(p *kit.Page) []kit.Choice {
	list := []kit.Choice{{Label: "no multicore"}}
	for i, d := range p.Rig().Devices {
		if p.Report.Index.ModelAt(i).Kind == gear.KindStageBox {
			list = append(list, kit.Choice{Value: d.Tag, Label: d.Tag})
		}
	}
	return list
}

// changeLead changes the lead of a link.
func changeLead(s *kit.Server, c *gin.Context) {
	held, err := s.Store.Stock(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	s.Edit(c, finding.Wire, "lead", func(r rig.Rig, f *kit.Form) rig.Edit {
		e := rig.SetLead{To: rig.Ref{Device: f.Gin.PostForm("device"), Port: f.Gin.PostForm("port")}, Via: f.Text("via"),
			Swapped: f.Text("swapped") == "yes",
			Length:  kit.Given(f, "length", unit.ParseMetre), Area: kit.Given(f, "area", unit.ParseArea)}
		for _, name := range []string{"first", "second"} {
			id := f.Text(name)
			if id == "" {
				continue
			}
			m, ok := wire.StockOf(held).Model(id)
			if inRig, have := r.Model(id); !ok && have {
				m, ok = *inRig, true
			}
			if !ok {
				f.Fault(name, "Stock has no such lead.")
			}
			e.Stock = append(e.Stock, m)
		}
		return withPad(r, f, e)
	})
}

// withPad changes the pad in a lead too, where the form has one that is another.
func withPad(r rig.Rig, f *kit.Form, e rig.SetLead) rig.Edit {
	k, _ := rig.NewIndex(r).Into(e.To)
	_, asked := f.Gin.GetPostForm("pad")
	pad := kit.Given(f, "pad", unit.ParseDecibel)
	if !asked || pad == k.Pad {
		return e
	}
	return rig.Batch{Saying: e.Say(), Edits: []rig.Edit{e, rig.SetPad{To: e.To, Pad: pad}}}
}

// setPhantom switches phantom power at the input of a desk.
func setPhantom(r rig.Rig, f *kit.Form) rig.Edit {
	return rig.SetPhantom{At: rig.Ref{Device: f.Gin.PostForm("device"), Port: f.Gin.PostForm("port")},
		On: f.Gin.PostForm("on") == "yes"}
}

// ref reads a port from a choice.
func ref(f *kit.Form, name, what string) rig.Ref {
	r := kit.ReadRef(f.Gin.PostForm(name))
	if r.Port == "" {
		f.Fault(name, "Choose %s.", what)
	}
	return r
}

// coordinate reads a place on the drawing.
func coordinate(f *kit.Form, name string) float64 {
	v, err := strconv.ParseFloat(f.Text(name), 64)
	if err != nil {
		f.Fault("", "%.20q is no place on the drawing.", f.Text(name))
	}
	return v
}
