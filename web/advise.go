package web

import (
	"fmt"
	"net/http"
	"slices"

	"github.com/gin-gonic/gin"

	"largo/core/advise"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/match"
	"largo/core/rig"
)

// adviseView is the adviser for any amplifier and any boxes of the library.
type adviseView struct {
	adviceView
	Form  []field
	Loose []string
	Ready bool
	May   string
	Why   string
}

// advise weighs bridging for any amplifier and any boxes, without a job.
func (s *Server) advise(c *gin.Context) {
	models, err := s.store.Models(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	held, err := s.store.Stock(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	f := &form{c: c, query: c.Request.URL.Query()}
	p := s.gearPage(c, "Bridge it?", "Bridge it? Choose an amplifier and what hangs on it.")
	amps, boxes := []choice{{Label: "choose an amplifier"}}, []choice{{Label: "choose a box"}}
	for _, m := range models {
		switch {
		case m.Kind == gear.KindAmplifier:
			amps = append(amps, choice{Value: m.ID, Label: m.Title()})
		case m.Kind == gear.KindLoudspeaker && !m.Loudspeaker.Active && len(m.Loudspeaker.Ways) == 0:
			boxes = append(boxes, choice{Value: m.ID, Label: m.Title()})
		}
	}
	n := max(1, f.number("boxes", "boxes"))
	if n > 16 {
		f.fault("boxes", "%d boxes on a channel cannot be right: give 1 to 16.", n)
	}
	v := adviseView{}
	status := http.StatusOK
	if len(f.faults) > 0 {
		status = http.StatusUnprocessableEntity
		p.refused, p.typed, p.Problem = &refused{form: "advise", faults: f.faults}, f.query, f.problem()
	} else {
		v.weigh(p, models, held, f, n)
	}
	v.Form = []field{p.Choose("advise", "amp", "Amplifier", f.text("amp"), amps...), p.Choose("advise", "box", "Boxes", f.text("box"), boxes...),
		p.Field("advise", "boxes", "How many, side by side", typedOr(f, "boxes", "1"), ""),
		p.Choose("advise", "policy", "Power policy", typedOr(f, "policy", string(rig.Headroom)), choices(rig.Policies)...),
		p.Choose("advise", "school", "Bridging", typedOr(f, "school", string(rig.AsRated)), choices(rig.Schools)...)}
	p.Body = v
	s.render(c, status, "advise", p)
}

// weigh sets the amplifier and its boxes up as a rig of their own, so that the
// adviser sees what it sees in any job.
func (v *adviseView) weigh(p *page, models []gear.Model, held []gear.Holding, f *form, n int) {
	find := func(id string, kind gear.Kind) *gear.Model {
		i := slices.IndexFunc(models, func(m gear.Model) bool { return m.ID == id && m.Kind == kind })
		if i < 0 {
			return nil
		}
		return &models[i]
	}
	amp, box := find(f.text("amp"), gear.KindAmplifier), find(f.text("box"), gear.KindLoudspeaker)
	if amp == nil || box == nil {
		return
	}
	r := rig.NewRig(rig.Brief{Title: "A try"})
	r.Policy, r.Bridging = rig.Policy(typedOr(f, "policy", string(rig.Headroom))), rig.School(typedOr(f, "school", string(rig.AsRated)))
	edits := []rig.Edit{rig.AddDevices{Model: *amp, Tags: []string{"AMP"}}}
	for i := range n {
		tag := fmt.Sprintf("BOX %d", i+1)
		edits = append(edits, rig.AddDevices{Model: *box, Tags: []string{tag}},
			rig.Connect{Link: rig.Link{From: rig.Ref{Device: "AMP", Port: gear.ChannelPort(0)}, To: rig.Ref{Device: tag, Port: gear.PoleIn(1)}}})
	}
	r, err := rig.Apply(r, rig.Batch{Edits: edits})
	if err != nil {
		v.Loose = []string{err.Error()}
		return
	}
	x := rig.NewIndex(r)
	judged, _ := match.Judge(x, load.Outputs(x))
	for _, o := range judged.Outputs {
		if o.At == (rig.Ref{Device: "AMP", Port: gear.ChannelPort(0)}) {
			v.adviceView, v.Ready = adviceOf(advise.Advise(x, o, held)), true
		}
	}
	v.May, v.Why = string(v.Advice.May), v.Advice.Because
	p.Verdict = v.Advice.Verdict
}
