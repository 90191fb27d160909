package wire

import (
	"fmt"
	"net/url"
	"slices"
	"strings"
	"unicode/utf8"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/wire"
	"largo/core/words"
	"largo/web/kit"
)

// board is the rig as a drawing: signal runs to the right, one column for
// each part of the chain. Where there are more columns than a page is wide, what makes
// the signal stands above what drives the boxes, and a lead from the one band to the
// other is named at both of its ends instead of drawn.
type board struct {
	Width, Height float64
	Nodes         []boardNode
	Leads         []boardLead
	Columns       []boardColumn
	Follow        []kit.Choice // programmes that can be followed
	Kinds         []string     // of leads that are drawn, for the legend
	Moved         bool         // some device stands where a hand put it
	Parts         []boardPart
	Devices       []boardDevice // the same as a list, for a narrow screen; none where it would be long
}

// boardDevice is a device with what is plugged into it.
type boardDevice struct {
	Tag, Title, Href, State string
	Plugs                   []string
}

// mostListed is how many devices a narrow screen lists in place of the drawing.
const mostListed = 80

// boardColumn is the heading of a column.
type boardColumn struct {
	X, Y  float64
	Label string
}

type boardNode struct {
	X, Y, W, H float64
	Tag, Title string
	TitleAt    [2]float64
	Beside     bool    // the title stands beside the tape, which saves a row
	TapeW      float64 // width of the tape
	Href       string
	State      string
	Ports      []boardPort
	Throws     []boardThrow
	Chosen     bool
	Dim        bool     // not on the programme that is followed
	Notes      []string // of a multicore: how full it is
	column     column
	moved      bool // to where a hand put it
}

// boardPort is a connector that can be picked to plug a lead.
type boardPort struct {
	X, Y   float64
	Ref    string // device and port, as the form sends them
	Label  string
	Says   string // for those who cannot see it
	Out    bool   // on the right
	Starts bool   // a lead starts here: an output or a link-through
	Used   bool
}

// boardThrow is a switch of a pair of channels that is thrown on the drawing.
type boardThrow struct {
	X, Y, W       float64
	Text, Says    string
	Set           bool // not as it comes from the box
	Tag           string
	Pair          int
	Output, Input string // what throwing it sets
}

type boardLead struct {
	Path   string
	Ends   []boardEnd // where it is named and not drawn
	Kind   string     // what it carries
	Href   string
	Says   string
	Series bool
	Dim    bool
	Chosen bool
	Stop   bool // something is at stop where it ends
}

// boardEnd names, at one end of a lead, where it goes or comes from.
type boardEnd struct {
	X, Y float64
	Out  bool
	Text string
}

// drafting is a board while it is laid out.
type drafting struct {
	p       *kit.Page
	x       *rig.Index
	b       board
	used    map[string][]string
	column  []column // by device
	wide    int      // columns of a block of the lower band; 0: there is none
	last    int      // the last column of the upper one
	blocks  int      // of the lower band
	depth   []int    // how many boxes stand before a box on its chain
	bottom  map[column]float64
	at      map[rig.Ref]boardPort
	ends    map[rig.Ref]int // how many leads to the other band leave a port
	node    map[string]int
	loads   map[rig.Ref]string
	mains   bool // the mains is drawn
	path    *wire.Path
	chosen  string
	leadTo  rig.Ref
	worstAt map[string]finding.Gravity
	stopAt  map[rig.Ref]bool // inputs with something at stop
}

// drawBoard lays out a rig. Chosen is a device, leadTo the input of a lead
// that is looked at; follow is an output whose programme is followed.
func drawBoard(p *kit.Page, chosen string, leadTo, follow rig.Ref) board {
	d := drafting{p: p, x: p.Report.Index, used: map[string][]string{}, bottom: map[column]float64{},
		at: map[rig.Ref]boardPort{}, ends: map[rig.Ref]int{},
		node: map[string]int{}, loads: map[rig.Ref]string{}, chosen: chosen, leadTo: leadTo,
		worstAt: map[string]finding.Gravity{}, stopAt: map[rig.Ref]bool{}}
	for _, k := range d.x.Rig.Links {
		d.used[k.From.Device] = appendOnce(d.used[k.From.Device], k.From.Port)
		d.used[k.To.Device] = appendOnce(d.used[k.To.Device], k.To.Port)
	}
	for _, o := range survey.Of[match.Verdict](p.Report).Outputs {
		if len(o.Boxes) > 0 && o.Nominal.Known() {
			d.loads[o.At] = o.Nominal.Text()
		}
	}
	for _, f := range p.Report.Findings {
		d.worstAt[f.At.Device] = max(d.worstAt[f.At.Device], f.Gravity)
		d.stopAt[f.At] = d.stopAt[f.At] || f.Stage == finding.Wire && f.Gravity == finding.Stop
	}
	if _, ok := d.x.Port(follow); ok {
		path := wire.Follow(d.x, follow)
		d.path = &path
	}
	d.place()
	for _, k := range d.x.Rig.Links {
		if d.broken(k) {
			d.ends[k.From]++
		}
	}
	for _, k := range d.x.Rig.Links {
		d.addLead(k)
	}
	for _, kind := range []gear.Signal{gear.Mic, gear.Line, gear.Speaker, gear.Mains, gear.Data} {
		if slices.ContainsFunc(d.b.Leads, func(l boardLead) bool { return l.Kind == string(kind) }) {
			d.b.Kinds = append(d.b.Kinds, string(kind))
		}
	}
	if len(d.b.Nodes) <= mostListed {
		d.list()
	}
	d.b.Follow = d.followChoices(follow)
	d.b.Parts = boardParts(p, d.b)
	return d.b
}

// list gives the devices in the order of the drawing, each with what is plugged into it.
func (d *drafting) list() {
	for _, n := range d.b.Nodes {
		_, m := d.x.Device(n.Tag)
		item := boardDevice{Tag: n.Tag, Title: m.Title(), Href: n.Href, State: n.State}
		for _, port := range m.Ports() {
			at := rig.Ref{Device: n.Tag, Port: port.Name}
			if k, fed := d.x.Into(at); fed {
				item.Plugs = append(item.Plugs, port.Name+" from "+k.From.String())
			}
			for _, k := range d.x.From(at) {
				item.Plugs = append(item.Plugs, port.Name+" to "+k.To.String())
			}
		}
		d.b.Devices = append(d.b.Devices, item)
	}
}

func (d *drafting) followChoices(follow rig.Ref) []kit.Choice {
	list := []kit.Choice{{Label: "everything"}}
	for _, ref := range wire.Programmes(d.x) {
		list = append(list, kit.Choice{Value: kit.RefValue(ref), Label: ref.String(), Chosen: ref == follow})
	}
	return list
}

// furnish gives a node its connectors and switches, and so its height.
func (d *drafting) furnish(n *boardNode, dev *rig.Device, m *gear.Model) {
	head := nodeHead
	n.TitleAt, n.TapeW = [2]float64{n.X + 8, n.Y + 35}, n.W-12
	if n.Beside = m.Kind == gear.KindLoudspeaker; n.Beside {
		n.TapeW = min(n.TapeW, 12+7.2*float64(utf8.RuneCountInString(dev.Tag)))
		head, n.TitleAt = boxHead, [2]float64{n.X + n.TapeW + 11, n.Y + 18}
		n.Title = words.Shorten(m.Name, int((n.W-n.TapeW-14)/titleChar))
	} else if most := int((n.W - 12) / titleChar); utf8.RuneCountInString(n.Title) > most {
		n.Title = words.Shorten(m.Name, most) // the maker is the smaller loss
	}
	ins, outs := 0, 0
	for _, port := range d.shownPorts(m, dev) {
		ref := rig.Ref{Device: dev.Tag, Port: port.Name}
		bp := boardPort{Label: port.Name, Out: port.Dir != gear.In, Starts: port.Dir != gear.In, Ref: kit.RefValue(ref),
			Used: slices.Contains(d.used[dev.Tag], port.Name), Says: ref.String() + ", " + string(port.Signal) + " " +
				string(port.Dir)}
		if load := d.loads[ref]; load != "" {
			bp.Label += " · " + load
			bp.Says += ", drives " + load
		}
		row := &ins
		if bp.X = n.X; bp.Out {
			bp.X, row = n.X+n.W, &outs
		}
		bp.Y = n.Y + head + portStep*float64(*row) + 6
		*row++
		n.Ports = append(n.Ports, bp)
		d.at[ref] = bp
	}
	n.H = head + portStep*float64(max(ins, outs)) + 4
	if m.Kind == gear.KindAmplifier {
		d.addThrows(n, dev, m)
	}
	if m.Kind == gear.KindStageBox {
		lines, returns := wire.Through(d.x, dev.Tag)
		n.Notes = []string{fmt.Sprintf("%d of %d lines", lines, m.StageBox.Lines),
			fmt.Sprintf("%d of %d returns", returns, m.StageBox.Returns)}
		n.H += noteStep * float64(len(n.Notes))
	}
}

// addThrows puts the switches of each pair of channels on an amplifier.
func (d *drafting) addThrows(n *boardNode, dev *rig.Device, m *gear.Model) {
	for pair := range m.Amplifier.Pairs() {
		set := dev.PairSetting(pair)
		y := n.Y + n.H - 2
		name := gear.ChannelName(2*pair) + gear.ChannelName(2*pair+1)
		out := boardThrow{X: n.X + 6, Y: y, W: 48, Text: string(set.Output), Set: set.Output == gear.Bridged, Tag: dev.Tag,
			Pair: pair, Output: string(gear.Bridged), Input: string(set.Input)}
		out.Says = fmt.Sprintf("separate: outputs %s of %s; set them bridged", name, dev.Tag)
		if out.Set {
			out.Output, out.Says = string(gear.Separate),
				fmt.Sprintf("bridged: outputs %s of %s; set them separate", name, dev.Tag)
		}
		in := boardThrow{X: n.X + 56, Y: y, W: 61, Text: "own inputs", Tag: dev.Tag, Pair: pair, Output: string(set.Output),
			Input: string(rig.ParallelIn)}
		in.Says = fmt.Sprintf("own inputs: channels %s of %s; set both on input %d", name, dev.Tag, 2*pair+1)
		if set.Input == rig.ParallelIn || set.Output == gear.Bridged {
			in.Text, in.Set, in.Input = fmt.Sprintf("both on in %d", 2*pair+1), true, string(rig.SeparateIn)
			in.Says = fmt.Sprintf("%s: channels %s of %s; set an input each", in.Text, name, dev.Tag)
		}
		n.Throws = append(n.Throws, out, in)
		n.H += throwStep
	}
}

// shownPorts are the connectors worth drawing: what is in use, every output of
// signal, and the next free input or outlet, so that a desk of 48 inputs is as
// tall as what is plugged into it. The two hot terminals of a pair stand only where they are
// used or the pair is bridged, mains inlets only once the mains is drawn.
func (d *drafting) shownPorts(m *gear.Model, dev *rig.Device) []gear.Port {
	var shown []gear.Port
	spare, outlet := map[gear.Signal]bool{}, false // whether a free one is shown
	for _, port := range m.Ports() {
		switch {
		case slices.Contains(d.used[dev.Tag], port.Name):
		case port.Signal == gear.Mains && port.Dir == gear.In && !d.mains:
			continue
		case port.Dir == gear.In && spare[port.Signal]:
			continue
		case port.Signal == gear.Mains && port.Dir == gear.Out:
			if outlet {
				continue
			}
			outlet = true
		case port.Dir == gear.In:
			spare[port.Signal] = m.Kind == gear.KindMixer
		case strings.Contains(port.Name, "+") && !bridgedPort(m, dev, port.Name):
			continue
		}
		shown = append(shown, port)
	}
	return shown
}

func bridgedPort(m *gear.Model, d *rig.Device, port string) bool {
	for pair := range m.Amplifier.Pairs() {
		if gear.BridgePort(pair) == port {
			return d.PairSetting(pair).Output == gear.Bridged
		}
	}
	return false
}

// drawingOrder follows the signal from each source in turn, so that what is
// plugged together stands together; a box stands after the one that feeds it.
func drawingOrder(x *rig.Index) []int {
	at := make(map[string]int, len(x.Rig.Devices))
	for i, d := range x.Rig.Devices {
		at[d.Tag] = i
	}
	seen := make([]bool, len(x.Rig.Devices))
	order := make([]int, 0, len(seen))
	var visit func(int)
	visit = func(i int) {
		if seen[i] {
			return
		}
		seen[i] = true
		order = append(order, i)
		for _, port := range x.ModelAt(i).Ports() {
			for _, k := range x.From(rig.Ref{Device: x.Rig.Devices[i].Tag, Port: port.Name}) {
				visit(at[k.To.Device])
			}
		}
	}
	begin := func(wanted func(int) bool) {
		for i := range x.Rig.Devices {
			if wanted(i) {
				visit(i)
			}
		}
	}
	begin(func(i int) bool { return x.ModelAt(i).Kind.Sends() })
	begin(func(i int) bool { k := x.ModelAt(i).Kind; return k != gear.KindLoudspeaker && !k.Supplies() })
	begin(func(i int) bool { return !fedByLink(x, i) && !x.ModelAt(i).Kind.Supplies() })
	begin(func(int) bool { return true })
	return order
}

func fedByLink(x *rig.Index, i int) bool {
	for _, port := range x.ModelAt(i).Ports() {
		if k, fed := x.Into(rig.Ref{Device: x.Rig.Devices[i].Tag, Port: port.Name}); fed {
			if from, _ := x.Port(k.From); from.Dir == gear.Through {
				return true
			}
		}
	}
	return false
}

func (d *drafting) addLead(k rig.Link) {
	from, _ := d.x.Port(k.From)
	l := boardLead{Kind: string(from.Signal), Series: k.Series != "",
		Chosen: k.To == d.leadTo,
		Dim:    d.path != nil && !d.path.Leads[k.To] || d.path == nil && from.Signal == gear.Mains,
		Href:   d.p.Here + "?" + url.Values{"lead": {kit.RefValue(k.To)}}.Encode() + "#lead",
		Says:   fmt.Sprintf("%s to %s, %s level", k.From, k.To, from.Signal)}
	if !from.Signal.Audio() {
		l.Says = fmt.Sprintf("%s to %s, %s", k.From, k.To, from.Signal)
	}
	if l.Stop = d.stopAt[k.To]; d.broken(k) {
		l.Ends = d.endsOf(k)
	} else {
		l.Path = leadPath(d.at[k.From], d.at[k.To])
	}
	d.b.Leads = append(d.b.Leads, l)
}

// leadPath draws a lead: across to the right, or round the end where it goes
// back.
func leadPath(a, b boardPort) string {
	if b.X > a.X+8 {
		mid := (a.X + b.X) / 2
		return kit.Path("M", a.X, a.Y, "C", mid, a.Y, mid, b.Y, b.X, b.Y)
	}
	low := max(a.Y, b.Y) - 8
	if b.Y > a.Y+30 {
		low = (a.Y + b.Y) / 2
	}
	return kit.Path("M", a.X, a.Y, "C", a.X+26, a.Y, a.X+26, low, (a.X+b.X)/2, low, "S", b.X-26, b.Y, b.X, b.Y)
}

func gravityWord(g finding.Gravity) string {
	if g == 0 {
		return "fine"
	}
	return g.String()
}

func appendOnce(list []string, s string) []string {
	if slices.Contains(list, s) {
		return list
	}
	return append(list, s)
}
