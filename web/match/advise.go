package match

import (
	"cmp"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"largo/core/advise"
	"largo/core/drive"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/match"
	"largo/core/rig"
	"largo/web/kit"
)

// adviseView is the adviser for any amplifier and any boxes of the library.
type adviseView struct {
	adviceView
	Form  []kit.Field
	Loose []string
	Ready bool
	// nobody chose yet: it is the first case of stock, or of the library
	Example bool
	May     string
	Why     string
}

// showAdvice weighs bridging for any amplifier and any boxes, without a job.
func showAdvice(s *kit.Server, c *gin.Context) {
	models, err := s.Store.Models(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	held, err := s.Store.Stock(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	f := &kit.Form{Gin: c, Query: c.Request.URL.Query()}
	p := s.Plain(c, "Bridge it?", "Bridge it? Choose an amplifier and what hangs on it.")
	var amps, boxes []kit.Choice
	for _, m := range models {
		switch {
		case m.Kind == gear.KindAmplifier:
			amps = append(amps, kit.Choice{Value: m.ID, Label: m.Title()})
		case m.Kind == gear.KindLoudspeaker && !m.Loudspeaker.Active && len(m.Loudspeaker.Ways) == 0:
			boxes = append(boxes, kit.Choice{Value: m.ID, Label: m.Title()})
		}
	}
	n := max(1, f.Number("boxes", "boxes"))
	if n > mostTried {
		f.Fault("boxes", "%d boxes on a channel cannot be right: give 1 to %d.", n, mostTried)
	}
	v := adviseView{}
	ampID, boxID := f.Text("amp"), f.Text("box")
	if ampID == "" || boxID == "" { // what is not said is the first case
		amp, box := firstCase(models, held)
		v.Example = ampID == "" && boxID == "" && amp != "" && box != ""
		ampID, boxID = cmp.Or(ampID, amp), cmp.Or(boxID, box)
	}
	status := http.StatusOK
	if len(f.Faults) > 0 {
		status = http.StatusUnprocessableEntity
		p.Refused, p.Typed, p.Problem = &kit.Refused{Form: "advise", Faults: f.Faults}, f.Query, f.Problem()
	} else {
		v.weigh(p, models, held, f, ampID, boxID, n)
	}
	if ampID == "" {
		amps = slices.Insert(amps, 0, kit.Choice{Label: "choose an amplifier"})
	}
	if boxID == "" {
		boxes = slices.Insert(boxes, 0, kit.Choice{Label: "choose a box"})
	}
	v.Form = []kit.Field{p.Choose("advise", "amp", "Amplifier", ampID, amps...),
		p.Choose("advise", "box", "Boxes", boxID, boxes...),
		p.Field("advise", "boxes", "How many, side by side", kit.TypedOr(f, "boxes", "1"), ""),
		p.Choose("advise", "policy", "Power policy", kit.TypedOr(f, "policy", string(rig.Headroom)),
			kit.Choices(rig.Policies)...),
		p.Choose("advise", "school", "Bridging", kit.TypedOr(f, "school", string(rig.AsRated)), kit.Choices(rig.Schools)...)}
	p.Body = v
	s.Render(c, status, "advise", p)
}

// adviseHref is the page with the case of a pair of channels: its amplifier and its
// boxes by the policies of the job; "" where they are of several models, or of several
// ways.
func adviseHref(r rig.Rig, amp *rig.Device, boxes []load.Box) string {
	for _, b := range boxes {
		if b.Device.Model != boxes[0].Device.Model || b.Way != "" {
			return ""
		}
	}
	if len(boxes) == 0 || len(boxes) > mostTried {
		return ""
	}
	return "/advise?" + url.Values{"amp": {amp.Model}, "box": {boxes[0].Device.Model}, "boxes": {strconv.Itoa(len(boxes))},
		"policy": {string(match.PolicyAt(r, boxes[0]))}, "school": {string(r.Bridging)}}.Encode()
}

// mostTried is how many boxes are tried on one channel.
const mostTried = 16

// firstCase is what the page opens on: the first amplifier that its maker rates
// bridged and the first passive box, of stock where there are such.
func firstCase(models []gear.Model, held []gear.Holding) (amp, box string) {
	owned := map[string]bool{}
	for _, h := range held {
		owned[h.Model.ID] = owned[h.Model.ID] || h.Count > 0
	}
	first := func(fits func(m *gear.Model) bool) (id string) {
		for i := range models {
			if m := &models[i]; fits(m) && (id == "" || owned[m.ID]) {
				if id = m.ID; owned[id] {
					return id
				}
			}
		}
		return id
	}
	amp = first(func(m *gear.Model) bool {
		return m.Kind == gear.KindAmplifier && slices.ContainsFunc(m.Amplifier.Ratings,
			func(r gear.Rating) bool { return r.Mode == gear.Bridged })
	})
	box = first(func(m *gear.Model) bool {
		return m.Kind == gear.KindLoudspeaker && !m.Loudspeaker.Active && len(m.Loudspeaker.Ways) == 0 &&
			m.Loudspeaker.NominalZ().Known() && m.Loudspeaker.ContinuousW().Known()
	})
	return amp, box
}

// weigh sets the amplifier and its boxes up as a rig of their own, so that the
// adviser sees what it sees in any job.
func (v *adviseView) weigh(p *kit.Page, models []gear.Model, held []gear.Holding, f *kit.Form, ampID, boxID string,
	n int) {
	find := func(id string, kind gear.Kind) *gear.Model {
		i := slices.IndexFunc(models, func(m gear.Model) bool { return m.ID == id && m.Kind == kind })
		if i < 0 {
			return nil
		}
		return &models[i]
	}
	amp, box := find(ampID, gear.KindAmplifier), find(boxID, gear.KindLoudspeaker)
	if amp == nil || box == nil {
		return
	}
	r := rig.NewRig(rig.Brief{Title: "A try"})
	r.Policy, r.Bridging = rig.Policy(kit.TypedOr(f, "policy", string(rig.Headroom))),
		rig.School(kit.TypedOr(f, "school", string(rig.AsRated)))
	edits := []rig.Edit{rig.AddDevices{Model: *amp, Tags: []string{"AMP"}}}
	for i := range n {
		tag := fmt.Sprintf("BOX %d", i+1)
		edits = append(edits, rig.AddDevices{Model: *box, Tags: []string{tag}},
			rig.Connect{Link: rig.Link{From: rig.Ref{Device: "AMP", Port: gear.ChannelPort(0)},
				To: rig.Ref{Device: tag, Port: gear.PoleIn(1)}}})
	}
	r, err := rig.Apply(r, rig.Batch{Edits: edits})
	if err != nil {
		v.Loose = []string{err.Error()}
		return
	}
	x := rig.NewIndex(r)
	judged, _ := match.Judge(x, drive.Outputs(x, load.Outputs(x)))
	for _, o := range judged.Outputs {
		if o.At == (rig.Ref{Device: "AMP", Port: gear.ChannelPort(0)}) {
			v.adviceView, v.Ready = adviceOf(advise.Advise(x, judged, o, held)), true
		}
	}
	v.May, v.Why = string(v.Advice.May), v.Advice.Because
	p.Verdict = v.Advice.Verdict
}
