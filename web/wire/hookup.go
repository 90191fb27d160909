package wire

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/gear"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/wire"
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
}

// showHookUp shows how a pair of channels is bridged.
func showHookUp(s *kit.Server, c *gin.Context) {
	p, err := s.Aside(c, "Hook-up")
	if err != nil {
		s.Fail(c, err)
		return
	}
	pair, err := strconv.Atoi(c.Query("pair"))
	h, m, ok := p.HookUpOf(c.Query("amp"), pair)
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
	v.Plate = hookUpPlate(h, m)
	p.Body = v
	s.Render(c, http.StatusOK, "hookup", p)
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
			n.Used, n.Idle = inputs == 0 || h.Inverts != wire.BySwitch, inputs == 1 && h.Inverts == wire.BySwitch
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
	p.AddLoad(h, hot)
	p.AddInputs(h)
	return p
}
