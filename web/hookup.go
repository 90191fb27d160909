package web

import (
	"net/http"
	"net/url"
	"strconv"

	"github.com/gin-gonic/gin"

	"largo/core/gear"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/wire"
	"largo/store"
)

// hookUpView is how a bridged load is connected, drawn and in steps.
type hookUpView struct {
	wire.HookUp
	Plate   plate
	May     string
	Because string
	MayNot  bool
	Bridged bool // it is set bridged in the rig
	Reads   string
}

func hookUpHref(slug, tag string, pair int) string {
	return "/jobs/" + slug + "/wire/hookup?" + url.Values{"amp": {tag}, "pair": {strconv.Itoa(pair)}}.Encode()
}

// hookUp shows how a pair of channels is bridged.
func (s *Server) hookUp(c *gin.Context) {
	p, err := s.aside(c, "Hook-up")
	if err != nil {
		s.fail(c, err)
		return
	}
	pair, err := strconv.Atoi(c.Query("pair"))
	h, m, ok := p.hookUpOf(c.Query("amp"), pair)
	if err != nil || !ok {
		s.fail(c, store.ErrNotFound)
		return
	}
	d, _ := p.job.Rig.Device(h.Tag)
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
	for _, t := range survey.Of[wire.Verdict](p.report).Lines {
		if t.At == (rig.Ref{Device: h.Tag, Port: gear.BridgePort(pair)}) && t.Low.Known() {
			v.Reads = t.Low.Text() + " to " + t.High.Text()
		}
	}
	v.Plate = hookUpPlate(h, m)
	p.Body = v
	s.render(c, http.StatusOK, "hookup", p)
}
