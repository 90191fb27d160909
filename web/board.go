package web

import (
	"net/url"
	"slices"
	"strconv"
	"strings"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/rig"
)

// board is the rig as a drawing: signal runs to the right, one column for
// each part of the chain.
type board struct {
	Width, Height float64
	Nodes         []boardNode
	Leads         []boardLead
	Columns       []tick
}

type boardNode struct {
	X, Y, W, H float64
	Tag, Title string
	TitleAt    [2]float64
	Beside     bool // the title stands beside the connectors, which saves a row
	Href       string
	State      string
	Ports      []boardPort
	Chosen     bool
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

type boardLead struct {
	Path   string
	Kind   string // microphone, line or speaker
	From   string
	To     string
	Series bool
}

const (
	nodeWidth  = 128.0
	nodeHead   = 39.0
	boxHead    = 25.0 // of a loudspeaker, of which a rig has the most
	portStep   = 14.0
	nodeGap    = 11.0
	columnStep = 190.0
)

// drawBoard lays out a rig.
func (p *page) drawBoard(chosen string) board {
	x := p.report.Index
	used := map[string][]string{}
	for _, k := range x.Rig.Links {
		used[k.From.Device] = appendOnce(used[k.From.Device], k.From.Port)
		used[k.To.Device] = appendOnce(used[k.To.Device], k.To.Port)
	}
	columns, titles := columnsOf(x)
	b := board{Columns: titles}
	bottom := map[int]float64{}
	at := map[rig.Ref]boardPort{}
	for _, i := range drawingOrder(x) {
		d, m := x.Rig.Devices[i], x.ModelAt(i)
		col := columns[m.Kind]
		n := boardNode{X: 6 + columnStep*float64(col), Y: 26 + bottom[col], W: nodeWidth, Tag: d.Tag, Title: m.Title(), Chosen: d.Tag == chosen,
			Href: p.Here + "?device=" + url.QueryEscape(d.Tag) + "#device", State: p.stateOf(d.Tag)}
		head := nodeHead
		n.TitleAt = [2]float64{n.X + 8, n.Y + 35}
		if n.Beside = m.Kind == gear.KindLoudspeaker; n.Beside {
			head, n.TitleAt = boxHead, [2]float64{n.X + n.W - 6, n.Y + boxHead + 10}
		}
		ins, outs := 0, 0
		for _, port := range shownPorts(m, d, used[d.Tag]) {
			ref := rig.Ref{Device: d.Tag, Port: port.Name}
			bp := boardPort{Label: port.Name, Out: port.Dir == gear.Out, Starts: port.Dir != gear.In, Ref: refValue(ref),
				Used: slices.Contains(used[d.Tag], port.Name), Says: ref.String() + ", " + string(port.Signal) + " " + string(port.Dir)}
			if bp.Out {
				bp.X, bp.Y = n.X+n.W, n.Y+head+portStep*float64(outs)+6
				outs++
			} else {
				bp.X, bp.Y = n.X, n.Y+head+portStep*float64(ins)+6
				ins++
			}
			n.Ports = append(n.Ports, bp)
			at[ref] = bp
		}
		n.H = head + portStep*float64(max(ins, outs)) + 4
		bottom[col] += n.H + nodeGap
		b.Nodes = append(b.Nodes, n)
		b.Width, b.Height = max(b.Width, n.X+n.W+12), max(b.Height, n.Y+n.H+10)
	}
	for _, k := range x.Rig.Links {
		from, _ := x.Port(k.From)
		b.Leads = append(b.Leads, boardLead{Path: leadPath(at[k.From], at[k.To]), Kind: string(from.Signal), From: k.From.String(), To: k.To.String(), Series: k.Series != ""})
	}
	return b
}

// shownPorts are the connectors worth drawing: what is in use, every output,
// and the next free input, so that a desk of 48 inputs is as tall as what is
// plugged into it. The two hot terminals of a pair stand only where they are
// used or the pair is bridged.
func shownPorts(m *gear.Model, d rig.Device, used []string) []gear.Port {
	var shown []gear.Port
	spare := false
	for _, port := range m.Ports() {
		switch {
		case slices.Contains(used, port.Name):
		case port.Dir == gear.In && spare:
			continue
		case port.Dir == gear.In:
			spare = m.Kind == gear.KindMixer
		case strings.Contains(port.Name, "+") && !bridgedPort(m, d, port.Name):
			continue
		}
		shown = append(shown, port)
	}
	return shown
}

func bridgedPort(m *gear.Model, d rig.Device, port string) bool {
	for pair := range m.Amplifier.Pairs() {
		if gear.BridgePort(pair) == port {
			return d.PairSetting(pair).Output == gear.Bridged
		}
	}
	return false
}

// parts are the columns of the drawing, in the order in which signal runs.
var parts = []struct {
	kind  gear.Kind
	title string
}{{gear.KindSource, "Sources"}, {gear.KindMixer, "Mixer"}, {gear.KindProcessor, "Processing"}, {gear.KindAmplifier, "Amplifiers"}, {gear.KindLoudspeaker, "Boxes"}}

// columnsOf gives each kind in the rig its column, leaving out what it lacks.
func columnsOf(x *rig.Index) (map[gear.Kind]int, []tick) {
	have := map[gear.Kind]bool{}
	for i := range x.Rig.Devices {
		have[x.ModelAt(i).Kind] = true
	}
	columns := map[gear.Kind]int{}
	var titles []tick
	for _, p := range parts {
		if have[p.kind] {
			titles = append(titles, tick{6 + columnStep*float64(len(columns)), p.title})
			columns[p.kind] = len(columns)
		}
	}
	return columns, titles
}

// drawingOrder follows the signal from each source in turn, so that what is
// plugged together stands together.
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
	for i := range x.Rig.Devices {
		if x.ModelAt(i).Kind == gear.KindSource {
			visit(i)
		}
	}
	for i := range x.Rig.Devices {
		visit(i)
	}
	return order
}

// leadPath draws a lead: across to the right, or as a bracket on the left of
// boxes that are linked through.
func leadPath(a, b boardPort) string {
	if a.Out && b.X > a.X {
		mid := (a.X + b.X) / 2
		return svgPath("M", a.X, a.Y, "C", mid, a.Y, mid, b.Y, b.X, b.Y)
	}
	if a.Out { // back to the left, as a return does
		return svgPath("M", a.X, a.Y, "C", a.X+40, a.Y+60, b.X-40, b.Y+60, b.X, b.Y)
	}
	return svgPath("M", a.X, a.Y, "C", a.X-22, a.Y, b.X-22, b.Y, b.X, b.Y)
}

// stateOf is the gravest finding about a device, at any stage.
func (p *page) stateOf(tag string) string {
	worst := finding.Gravity(0)
	for _, f := range p.report.Findings {
		if f.At.Device == tag {
			worst = max(worst, f.Gravity)
		}
	}
	if worst == 0 {
		return "fine"
	}
	return worst.String()
}

func appendOnce(list []string, s string) []string {
	if slices.Contains(list, s) {
		return list
	}
	return append(list, s)
}

// svgPath writes an SVG path of letters and coordinates.
func svgPath(parts ...any) string {
	var b strings.Builder
	for _, part := range parts {
		switch v := part.(type) {
		case string:
			b.WriteString(v)
		case float64:
			b.WriteByte(' ')
			b.WriteString(strconv.FormatFloat(v, 'f', 1, 64))
		}
	}
	return b.String()
}
