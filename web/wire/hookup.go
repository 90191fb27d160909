package wire

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/wire"
	"largo/core/words"
	"largo/store"
	"largo/web/kit"
)

// hookUpView is how a bridged load is connected, drawn and in steps.
type hookUpView struct {
	wire.HookUp
	Plate   kit.Plate
	May     string
	Because string
	MayNot  bool
	Bridged bool // it is set bridged in the rig
	Reads   string
	First   []finding.Finding // at stop about this amplifier: nothing is switched on before they are mended
}

// showHookUp shows how a pair of channels is bridged.
func showHookUp(s *kit.Server, c *gin.Context) {
	p, err := s.Aside(c, "Hook-up")
	if err != nil {
		s.Fail(c, err)
		return
	}
	pair, err := strconv.Atoi(c.Query("pair"))
	h, m, ok := wire.HookUpAt(p.Report.Index, c.Query("amp"), pair)
	if err != nil || !ok {
		s.Fail(c, store.ErrNotFound)
		return
	}
	d, _ := p.Rig().Device(h.Tag)
	v := hookUpView{HookUp: h, Bridged: d.PairSetting(pair).Output == gear.Bridged}
	may, because := match.MayBridge(m.Amplifier, pair)
	v.May, v.Because, v.MayNot = string(may), because, may == match.MayNot
	channels := gear.ChannelName(2*pair) + " and " + gear.ChannelName(2*pair+1)
	switch {
	case v.MayNot:
		p.Verdict = h.Tag + " must never be bridged: " + because + "."
	case may == match.Unproved:
		p.Verdict = "Nothing shows yet that " + h.Tag + " may be bridged: " + because + "."
	default:
		p.Verdict = h.Tag + " bridged on " + channels + ", one of them turned " + string(h.Inverts) + "."
	}
	for _, t := range survey.Of[wire.Verdict](p.Report).Lines {
		if t.At == (rig.Ref{Device: h.Tag, Port: gear.BridgePort(pair)}) && t.Low().Known() {
			v.Reads = t.Low().Text() + " to " + t.High().Text()
		}
	}
	if v.First = stopsOf(p, h); len(v.First) > 0 {
		v.Hold()
		if p.Verdict = h.Tag + " is not to be switched on yet."; v.MayNot {
			p.Verdict = h.Tag + " must never be bridged: " + because + "."
		}
	}
	v.Plate = hookUpPlate(h, m)
	p.Body = v
	s.Render(c, http.StatusOK, "hookup", p)
}

// stopsOf are the findings at stop about an amplifier and the boxes that it drives.
func stopsOf(p *kit.Page, h wire.HookUp) []finding.Finding {
	var stops []finding.Finding
	for _, f := range p.Stops() {
		if f.At.Device == h.Tag || slices.Contains(h.Boxes, f.At.Device) {
			stops = append(stops, f)
		}
	}
	return stops
}

// hookUpPlate draws a bridged load on its amplifier, lead by lead.
func hookUpPlate(h wire.HookUp, m gear.Model) kit.Plate {
	p := kit.Plate{Label: fmt.Sprintf("%s bridged: %s and %s to the two terminals of %s", h.Tag, h.Hot[0], h.Hot[1],
		strings.Join(h.Boxes, ", ")), Width: 790}
	from := 2 * h.Pair
	foot := p.AddBack(m, 88, 8, h.Tag+" "+h.Model, from, from+2)
	p.Height = foot + 14
	var hot [2]*kit.Hole
	inputs := 0
	for i := range p.Holes {
		n := &p.Holes[i]
		switch {
		case n.X == 88+105:
			n.Used, n.Idle = inputs == 0 || h.Inverts != gear.BySwitch, inputs == 1 && h.Inverts == gear.BySwitch
			inputs++
		case n.X < 88+300:
		case n.Sign == "−":
			n.Idle = true
		case hot[0] == nil:
			hot[0], n.Used = n, true
		default:
			hot[1], n.Used = n, true
		}
	}
	for i := range p.Switches {
		for j := range p.Switches[i].Positions {
			p.Switches[i].Positions[j].Set = p.Switches[i].Positions[j].Text == "bridged"
		}
	}
	addLoad(&p, h, hot)
	addInputs(&p, h)
	return p
}

// addLoad draws the box and the two conductors to it.
func addLoad(p *kit.Plate, h wire.HookUp, hot [2]*kit.Hole) {
	const x, w = 610.0, 160.0
	y, title := 26.0, strings.Join(h.Boxes, ", ")
	if title == "" {
		title = "the load"
	}
	p.Cases = append(p.Cases, kit.PlateCase{X: x, Y: y, W: w, H: 112, Tag: words.Shorten(title, 22)})
	for i, sign := range []string{"+", "−"} {
		at := y + 46 + 42*float64(i)
		p.Holes = append(p.Holes, kit.Hole{X: x + 26, Y: at, Sort: "post", Sign: sign, Used: true})
		p.Say(x+50, at+4, "start", "%s", h.Load[i])
		if hot[i] == nil {
			continue
		}
		turn := 520 + 28*float64(i)
		p.Leads = append(p.Leads, kit.PlateLead{Kind: "speaker", Label: h.Hot[i] + " to " + h.Load[i],
			Path: kit.Path("M", hot[i].X+12, hot[i].Y, "C", turn+40, hot[i].Y, turn+40, at, x+14, at)})
	}
}

// addInputs draws the signal's way into the pair.
func addInputs(p *kit.Plate, h wire.HookUp) {
	first, second := 8+30+kit.PlateRow/2-6, 8+30+kit.PlateRow+kit.PlateRow/2-6
	p.Say(4, first-12, "start", "signal")
	p.Leads = append(p.Leads, kit.PlateLead{Kind: "line", Label: "signal, straight",
		Path: kit.Path("M", 4.0, first, "H", 88+92.0)})
	switch h.Inverts {
	case gear.BySwitch:
		return
	case gear.Inside:
		p.Say(4, second-6, "start", "the same")
	case gear.ByStage:
		p.Say(4, second-6, "start", "inverted")
	default:
		p.Say(4, second-6, "start", "2, 3 turned")
	}
	p.Leads = append(p.Leads, kit.PlateLead{Kind: "line", Label: "signal to the second input",
		Path: kit.Path("M", 40.0, first, "V", second, "H", 88+92.0)})
}
