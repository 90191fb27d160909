package kit

import (
	"fmt"

	"largo/core/gear"
)

// Plate is the back of an amplifier or the terminal plate of a box, drawn from
// its figures: sockets, terminals, switches and poles. What is not known is
// drawn dashed.
type Plate struct {
	Label         string // for those who cannot see it
	Width, Height float64
	Cases         []PlateCase
	Holes         []Hole
	Switches      []plateSwitch
	Texts         []plateText
	Leads         []PlateLead
}

// PlateCase is the outline of a device on a plate.
type PlateCase struct {
	X, Y, W, H float64
	Tag        string
}

// Hole is a socket or a terminal. Its sort is one that the template knows.
type Hole struct {
	X, Y float64
	Sort string // xlr, jack, phono, twist, post, screw, mains, unknown
	Sign string // + or −, or nothing
	Used bool   // this hook-up uses it
	Idle bool   // this hook-up leaves it empty
}

type plateSwitch struct {
	X, Y      float64
	Positions []switchPosition
}

type switchPosition struct {
	X    float64
	Text string
	Set  bool
}

type plateText struct {
	X, Y   float64
	Text   string
	Anchor string // start, middle or end
}

// PlateLead is a lead drawn on a plate.
type PlateLead struct {
	Path  string
	Kind  string // speaker or line
	Label string
}

const (
	PlateRow  = 58.0 // height of a channel
	plateWide = 470.0
)

// Say writes words on a plate.
func (p *Plate) Say(x, y float64, anchor, format string, args ...any) {
	p.Texts = append(p.Texts, plateText{x, y, fmt.Sprintf(format, args...), anchor})
}

// backPlate draws the back of an amplifier.
func backPlate(m gear.Model) Plate {
	p := Plate{Label: "The back of " + m.Title(), Width: plateWide + 16}
	p.Height = p.AddBack(m, 8, 8, m.Title(), 0, m.Amplifier.Channels) + 10
	return p
}

// AddBack draws channels from one to before another, and gives the foot of
// the case.
func (p *Plate) AddBack(m gear.Model, x, y float64, tag string, from, to int) float64 {
	a := m.Amplifier
	rows := float64(to - from)
	high := 30 + rows*PlateRow + 6
	p.Cases = append(p.Cases, PlateCase{x, y, plateWide, high, tag})
	p.Holes = append(p.Holes, Hole{X: x + 34, Y: y + 30 + rows*PlateRow/2, Sort: "mains"})
	p.Say(x+34, y+30+rows*PlateRow/2+24, "middle", "mains")
	for ch := from; ch < to; ch++ {
		mid := y + 30 + float64(ch-from)*PlateRow + PlateRow/2 - 6
		p.Holes = append(p.Holes, Hole{X: x + 105, Y: mid, Sort: socketSort(a.Sockets.In)})
		p.Say(x+105, mid+27, "middle", "in %d%s", ch+1, balancedNote(a.Sockets.Balanced))
		p.addOutput(a.Sockets.Out, x+384, mid)
		p.Say(x+338, mid+4, "end", "out %s", gear.ChannelName(ch))
		if ch%2 == 0 && ch+1 < a.Channels {
			p.addBridging(a, x+222, mid+PlateRow/2, ch)
		}
	}
	return y + high
}

// addBridging draws the switch between two channels, or says that there is
// none.
func (p *Plate) addBridging(a *gear.Amplifier, x, y float64, ch int) {
	if a.Bridging.Switch != gear.Yes {
		said := "no bridge switch"
		if a.Bridging.Switch == "" {
			said = "bridge switch: not known"
		}
		p.Say(x, y-2, "middle", "%s", said)
		if a.Bridging.Inverted == gear.Yes {
			p.Say(x, y+11, "middle", "%s is inverted inside", gear.ChannelName(ch+1))
		}
		return
	}
	s := plateSwitch{X: x, Y: y - 4}
	for i, text := range []string{"separate", "parallel", "bridged"} {
		s.Positions = append(s.Positions, switchPosition{X: x + float64(i-1)*50, Text: text})
	}
	p.Switches = append(p.Switches, s)
}

func balancedNote(a gear.Answer) string {
	switch a {
	case gear.Yes:
		return ", balanced"
	case gear.No:
		return ", unbalanced"
	}
	return ""
}

// addOutput draws the terminals of one channel.
func (p *Plate) addOutput(c gear.Connector, x, y float64) {
	switch c {
	case gear.Posts, gear.Screws:
		sort := "post"
		if c == gear.Screws {
			sort = "screw"
		}
		p.Holes = append(p.Holes,
			Hole{X: x - 16, Y: y, Sort: sort, Sign: "+"},
			Hole{X: x + 16, Y: y, Sort: sort, Sign: "−"})
	default:
		p.Holes = append(p.Holes, Hole{X: x, Y: y, Sort: socketSort(c)})
		if poles := polesOf(c); poles != "" {
			p.Say(x, y+29, "middle", "%s", poles)
		}
	}
}

func polesOf(c gear.Connector) string {
	switch c {
	case gear.TwistLock4:
		return "1± 2±"
	case gear.TwistLock8:
		return "1± 2± 3± 4±"
	}
	return ""
}

// socketSort is how a connector is drawn.
func socketSort(c gear.Connector) string {
	switch c {
	case gear.XLR, gear.Combo:
		return "xlr"
	case gear.Jack:
		return "jack"
	case gear.Phono:
		return "phono"
	case gear.TwistLock4, gear.TwistLock8:
		return "twist"
	case gear.Posts:
		return "post"
	case gear.Screws, gear.BareEnds:
		return "screw"
	}
	return "unknown"
}

// boxPlate draws the terminal plate of a box: what goes in, what is linked
// on, and which poles drive which way.
func boxPlate(m gear.Model) Plate {
	s := m.Loudspeaker
	p := Plate{Label: "The terminal plate of " + m.Title(), Width: 336}
	rows := float64(s.Pairs())
	p.Height = max(130, 76+22*rows)
	p.Cases = []PlateCase{{8, 8, 320, p.Height - 18, m.Title()}}
	through := s.Sockets.Out
	if through == "" {
		through = s.Sockets.In
	}
	p.addOutput(s.Sockets.In, 70, 62)
	p.Say(70, 106, "middle", "in")
	if s.Link {
		p.addOutput(through, 160, 62)
		p.Say(160, 106, "middle", "link")
	}
	for pair := 1; pair <= s.Pairs(); pair++ {
		way, name := s.WayAt(pair)
		y := 50 + 20*float64(pair-1)
		switch {
		case s.Active:
			p.Say(222, y, "start", "line level in")
		case name == "":
			p.Say(222, y, "start", "%s all of it, %s", poleName(s.Sockets.In, pair), way.NominalZ().Text())
		default:
			p.Say(222, y, "start", "%s %s, %s", poleName(s.Sockets.In, pair), name, way.NominalZ().Text())
		}
	}
	if s.JoinedMinus == gear.Yes {
		p.Say(222, 50+20*rows, "start", "the minus poles are one")
	}
	return p
}

func poleName(c gear.Connector, pair int) string {
	if polesOf(c) == "" && pair == 1 {
		return "+ −:"
	}
	return fmt.Sprintf("%d±:", pair)
}

// ModelPlate is the drawing of a model, false where its kind has none.
func ModelPlate(m gear.Model) (Plate, bool) {
	switch m.Kind {
	case gear.KindAmplifier:
		return backPlate(m), true
	case gear.KindLoudspeaker:
		return boxPlate(m), true
	}
	return Plate{}, false
}
