package web

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
)

// leadView is one lead with the form that changes it.
type leadView struct {
	From, To         string
	ToDevice, ToPort string
	Ref              string
	Form             []field
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
		p.Choose("connect", "lead", "Lead", leadOfStock, choice{Value: leadOfStock, Label: "the right one from stock"}, choice{Value: leadNotSaid, Label: "not chosen yet"}),
		p.Field("connect", "length", "Length", "", "as 10 m or 30 ft; may stay empty"),
		p.Field("connect", "area", "Conductor", "", "as 2.5 mm² or 12 AWG; speaker leads"),
		p.Field("connect", "series", "In series with", "", "a name shared by the boxes of one series string"),
		p.Choose("connect", "swapped", "Polarity", "", straightOrSwapped...),
	}
}

var straightOrSwapped = []choice{{Value: "", Label: "straight"}, {Value: "yes", Label: "swapped"}}

// connect plugs a lead in, with the right one of stock where that was asked
// for and there is one.
func (s *Server) connect(c *gin.Context) {
	held, err := s.store.Stock(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.edit(c, finding.Wire, "connect", func(r rig.Rig, f *form) rig.Edit {
		e := rig.Connect{Link: rig.Link{From: f.ref("from", "an output"), To: f.ref("to", "an input"), Series: f.text("series"), Swapped: f.text("swapped") == "yes",
			Length: given(f, "length", unit.ParseMetre), Area: given(f, "area", unit.ParseArea)}}
		if f.text("lead") != leadOfStock {
			return e
		}
		if m, ok := wire.Choose(rig.NewIndex(r), e.Link, wire.StockOf(held)); ok {
			e.Stock, e.Link.Cables = []gear.Model{m}, []string{m.ID}
			e.Link.Length, e.Link.Area = unit.Given[unit.Metre]{}, unit.Given[unit.SquareMillimetre]{}
		}
		return e
	})
}

func (s *Server) disconnect(c *gin.Context) {
	s.edit(c, finding.Wire, "disconnect", func(r rig.Rig, f *form) rig.Edit {
		return rig.Disconnect{To: readRef(c.PostForm("to"))}
	})
}

// takeLeads gives every link without a made-up lead one of stock.
func (s *Server) takeLeads(c *gin.Context) {
	held, err := s.store.Stock(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.edit(c, finding.Wire, "take", func(r rig.Rig, f *form) rig.Edit {
		e, ok := wire.TakeFromStock(rig.NewIndex(r), wire.StockOf(held))
		if !ok {
			f.fault("", "Stock has no lead that fits any of these.")
		}
		return e
	})
}

// leadAsked is the input of the lead that is looked at.
func (p *page) leadAsked() rig.Ref {
	if p.refusedIs("lead") {
		return rig.Ref{Device: p.gin.PostForm("device"), Port: p.gin.PostForm("port")}
	}
	return readRef(p.ask.Get("lead"))
}

// leadText says what lead a link is.
func (p *page) leadText(k rig.Link) string {
	var parts []string
	for _, id := range k.Cables {
		m, _ := p.job.Rig.Model(id)
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
	if k.Series != "" {
		parts = append(parts, "series "+k.Series)
	}
	return strings.Join(parts, ", ")
}

func (p *page) leadView(to rig.Ref, stock wire.Stock) *leadView {
	x := p.report.Index
	k, ok := x.Into(to)
	if !ok {
		return nil
	}
	v := &leadView{From: k.From.String(), To: to.String(), ToDevice: to.Device, ToPort: to.Port, Ref: refValue(to), Loose: p.Loose("lead", "first", "second", "length", "area", "via")}
	pieces := [2]string{}
	copy(pieces[:], k.Cables)
	v.Form = []field{p.Choose("lead", "first", "Lead", pieces[0], p.leadChoices(k, pieces[0], stock, "none of stock")...)}
	if from, _ := x.Port(k.From); from.Signal != gear.Speaker && from.Signal != gear.Mains {
		v.Form = append(v.Form, p.Choose("lead", "second", "joined to", pieces[1], p.leadChoices(k, pieces[1], stock, "nothing")...))
	}
	v.Form = append(v.Form, p.Field("lead", "length", "Length", typed(k.Length), "where none of stock is chosen"), p.Field("lead", "area", "Conductor", typed(k.Area), "of a speaker lead that is none of stock"))
	if boxes := p.multicores(); len(boxes) > 1 {
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
func (p *page) leadChoices(k rig.Link, chosen string, stock wire.Stock, none string) []choice {
	list := []choice{{Label: none}}
	seen := chosen == ""
	for _, o := range wire.Offers(p.report.Index, k, stock) {
		seen = seen || o.Model.ID == chosen
		spare := "none to spare"
		if o.Spare > 0 {
			spare = strconv.Itoa(o.Spare) + " to spare"
		}
		list = append(list, choice{Value: o.Model.ID, Label: fmt.Sprintf("%s (%s)", o.Model.Name, spare)})
	}
	if !seen {
		m, _ := p.job.Rig.Model(chosen)
		list = append(list, choice{Value: chosen, Label: m.Name + " (as it is)"})
	}
	return list
}

// multicores offers the stage boxes and multicores of the rig.
func (p *page) multicores() []choice {
	list := []choice{{Label: "no multicore"}}
	for i, d := range p.job.Rig.Devices {
		if p.report.Index.ModelAt(i).Kind == gear.KindStageBox {
			list = append(list, choice{Value: d.Tag, Label: d.Tag})
		}
	}
	return list
}

// changeLead changes the lead of a link.
func (s *Server) changeLead(c *gin.Context) {
	held, err := s.store.Stock(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.edit(c, finding.Wire, "lead", func(r rig.Rig, f *form) rig.Edit {
		e := rig.SetLead{To: rig.Ref{Device: f.c.PostForm("device"), Port: f.c.PostForm("port")}, Via: f.text("via"), Swapped: f.text("swapped") == "yes",
			Length: given(f, "length", unit.ParseMetre), Area: given(f, "area", unit.ParseArea)}
		for _, name := range []string{"first", "second"} {
			id := f.text(name)
			if id == "" {
				continue
			}
			m, ok := wire.StockOf(held).Model(id)
			if inRig, have := r.Model(id); !ok && have {
				m, ok = *inRig, true
			}
			if !ok {
				f.fault(name, "Stock has no such lead.")
			}
			e.Stock = append(e.Stock, m)
		}
		return e
	})
}

// setPhantom switches phantom power at the input of a desk.
func (s *Server) setPhantom(c *gin.Context) {
	s.edit(c, finding.Wire, "phantom", func(r rig.Rig, f *form) rig.Edit {
		return rig.SetPhantom{At: rig.Ref{Device: c.PostForm("device"), Port: c.PostForm("port")}, On: c.PostForm("on") == "yes"}
	})
}

// refValue writes a port as a choice sends it.
func refValue(r rig.Ref) string { return r.Device + "\t" + r.Port }

// readRef reads a port as a choice sends it; none is the zero Ref.
func readRef(s string) rig.Ref {
	device, port, _ := strings.Cut(s, "\t")
	return rig.Ref{Device: device, Port: port}
}

// ref reads a port from a choice.
func (f *form) ref(name, what string) rig.Ref {
	r := readRef(f.c.PostForm(name))
	if r.Port == "" {
		f.fault(name, "Choose %s.", what)
	}
	return r
}

// coordinate reads a place on the drawing.
func (f *form) coordinate(name string) float64 {
	v, err := strconv.ParseFloat(f.text(name), 64)
	if err != nil {
		f.fault("", "%.20q is no place on the drawing.", f.text(name))
	}
	return v
}
