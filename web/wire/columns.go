package wire

import (
	"fmt"
	"net/url"
	"slices"
	"strings"
	"unicode/utf8"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/words"
)

// Lengths of the drawing, whose letters are 11 px and more at its own size.
const (
	nodeWidth  = 122.0
	nodeHead   = 39.0
	boxHead    = 25.0 // of a loudspeaker, of which a rig has the most
	portStep   = 14.0
	throwStep  = 18.0
	noteStep   = 13.0
	titleChar  = 5.9 // width of a character of a title
	endChar    = 4.9 // of one of the name of a lead's end
	tagChar    = 6.0 // and of one of a tag
	nodeGap    = 11.0
	columnStep = 150.0 // at the least
	widestStep = 190.0
	bandGap    = 26.0 // between the bands
	endMargin  = 84.0 // left of a block of the lower band, for the names of what comes from above
	pageWidth  = 776.0
	// mostColumns stand beside each other on a page of that width.
	mostColumns = 5
	// mostInRow is how many boxes of one chain stand beside each other; the
	// rest of a longer one goes below.
	mostInRow = 3
)

// parts are the columns of the drawing, in the order in which signal runs.
var parts = []struct {
	title string
	kinds []gear.Kind
}{
	{"Mains", []gear.Kind{gear.KindGenerator, gear.KindBattery, gear.KindTransformer, gear.KindDistro,
		gear.KindConditioner, gear.KindSequencer, gear.KindAppliance}},
	{"Sources", []gear.Kind{gear.KindMicrophone, gear.KindReceiver, gear.KindSource}},
	{"DI and multicore", []gear.Kind{gear.KindDI, gear.KindStageBox}},
	{"Mixer", []gear.Kind{gear.KindMixer}},
	{"Processing", []gear.Kind{gear.KindProcessor, gear.KindSwitch}},
	{"Amplifiers", []gear.Kind{gear.KindAmplifier}},
	{"Boxes", []gear.Kind{gear.KindLoudspeaker}},
}

// lower is the first part that stands in the lower band.
const lower = 5

func partOfKind(k gear.Kind) int {
	return slices.IndexFunc(parts, func(p struct {
		title string
		kinds []gear.Kind
	}) bool {
		return slices.Contains(p.kinds, k)
	})
}

// column is where a device stands: so many columns into a block. Block 0 is the upper
// band, or the only one; the others stand side by side below it.
type column struct{ block, n int }

// left is where a block begins.
func (d *drafting) left(block int) float64 {
	if block == 0 {
		return 6
	}
	return 6 + endMargin + float64(block-1)*(endMargin+d.step(block)*float64(d.wide))
}

// step is from one column of a block to the next, as wide as the page lets it be.
func (d *drafting) step(block int) float64 {
	room, columns := pageWidth-18, d.last
	switch {
	case block > 0:
		room, columns = room/float64(d.blocks)-endMargin, d.wide-1
	case d.wide > 0:
		room -= 40 // where leads are named on the right
	}
	if columns < 1 {
		return columnStep
	}
	return min(max((room-nodeWidth)/float64(columns), columnStep), widestStep)
}

// place gives every device its column and its height in it, block by block.
func (d *drafting) place() {
	order := drawingOrder(d.x)
	d.columns(order)
	d.placeBlock(order, 0, 0)
	below := d.b.Height + bandGap
	for _, block := range []int{1, 2} {
		d.placeBlock(order, block, below)
	}
}

// placeBlock places the devices of a block from a height on.
func (d *drafting) placeBlock(order []int, block int, top float64) {
	for _, i := range order {
		col := d.column[i]
		if col.block != block {
			continue
		}
		dev, m := &d.x.Rig.Devices[i], d.x.ModelAt(i)
		n := boardNode{W: nodeWidth, Tag: dev.Tag, Title: m.Title(), Chosen: dev.Tag == d.chosen, column: col,
			Dim:  d.path != nil && !d.path.Devices[dev.Tag],
			Href: d.p.Here + "?device=" + url.QueryEscape(dev.Tag) + "#device", State: gravityWord(d.worstAt[dev.Tag])}
		n.X, n.Y = d.left(block)+d.step(block)*float64(col.n), top+26+d.bottom[col]
		if title := parts[partOfKind(m.Kind)].title; d.depth[i] == 0 && d.bottom[col] == 0 {
			d.b.Columns = append(d.b.Columns, boardColumn{n.X, top + 13, title})
		}
		if d.depth[i] > 0 && d.depth[i] < mostInRow {
			n.Y = max(n.Y, d.b.Nodes[d.node[d.feeder(i)]].Y)
		}
		if dev.Spot != nil {
			n.X, n.Y, n.moved, d.b.Moved = dev.Spot.X, dev.Spot.Y, true, true
		}
		d.furnish(&n, dev, m)
		if dev.Spot == nil {
			d.bottom[col] = n.Y + n.H + nodeGap - 26 - top
		}
		d.node[dev.Tag] = len(d.b.Nodes)
		d.b.Nodes = append(d.b.Nodes, n)
		right := n.X + n.W + 12
		if col.block == 0 && d.wide > 0 {
			right += 28 // where its leads are named
		}
		d.b.Width, d.b.Height = max(d.b.Width, right), max(d.b.Height, n.Y+n.H+10)
	}
}

// columns gives each device its column, leaving out parts that the rig lacks;
// boxes that are linked on from another stand to the right of it. Where that is wider
// than a page, amplifiers and boxes stand in a band below, in two blocks where that has
// room for them.
func (d *drafting) columns(order []int) {
	at := make(map[string]int, len(order))
	have := make([]bool, len(parts))
	for i, dev := range d.x.Rig.Devices {
		at[dev.Tag] = i
		have[partOfKind(d.x.ModelAt(i).Kind)] = true
	}
	d.mains = have[0]
	deepest := d.depths(order, at)
	var before [2]int // columns above and below
	of := make([]int, len(parts))
	for i := range parts {
		of[i] = before[i/lower]
		if have[i] {
			before[i/lower]++
		}
	}
	wrapped := before[0] > 0 && before[1] > 0 && before[0]+before[1]+deepest > mostColumns
	d.blocks, d.last = 1, before[0]+before[1]+deepest-1
	if wrapped {
		d.wide, d.last = before[1]+deepest, before[0]-1
	}
	d.column = make([]column, len(order))
	for i := range d.x.Rig.Devices {
		part := partOfKind(d.x.ModelAt(i).Kind)
		c := column{n: of[part] + min(d.depth[i], mostInRow-1)}
		switch {
		case wrapped && part >= lower:
			if c.block = 1; d.active(i) {
				c.n -= before[1] - 1 // active boxes are fed as amplifiers are
			}
		case part >= lower:
			c.n += before[0]
		}
		d.column[i] = c
	}
	if wrapped && 2*(endMargin+columnStep*float64(d.wide)) <= pageWidth+columnStep-nodeWidth {
		d.fold(order, at)
	}
}

// active tells whether a device is an active box, fed at line level.
func (d *drafting) active(i int) bool {
	s := d.x.ModelAt(i).Loudspeaker
	return s != nil && s.Active
}

// depths counts the boxes before each on its chain, and tells how many columns they
// take at the most.
func (d *drafting) depths(order []int, at map[string]int) (deepest int) {
	d.depth = make([]int, len(order))
	for _, i := range order { // a box comes after the one that feeds it
		if feeder := d.feeder(i); feeder != "" {
			d.depth[i] = d.depth[at[feeder]] + 1
			deepest = max(deepest, min(d.depth[i], mostInRow-1))
		}
	}
	return deepest
}

// fold moves the last of what stands below into a second block, so that the taller of
// the two is least; what is joined by leads stays together.
func (d *drafting) fold(order []int, at map[string]int) {
	joined := d.joined(order, at)
	heights := func(sets [][]int) float64 {
		tall := map[column]float64{}
		most := 0.0
		for _, set := range sets {
			for _, i := range set {
				n := boardNode{W: nodeWidth}
				d.furnish(&n, &d.x.Rig.Devices[i], d.x.ModelAt(i))
				tall[d.column[i]] += n.H + nodeGap
				most = max(most, tall[d.column[i]])
			}
		}
		return most
	}
	best, cut := heights(joined), len(joined)
	for i := 1; i < len(joined); i++ {
		if h := max(heights(joined[:i]), heights(joined[i:])); h < best {
			best, cut = h, i
		}
	}
	if cut < len(joined) {
		d.blocks = 2
	}
	for _, set := range joined[cut:] {
		for _, i := range set {
			d.column[i].block = 2
		}
	}
}

// joined are the devices below, those that leads join together, in the order of the
// drawing.
func (d *drafting) joined(order []int, at map[string]int) (sets [][]int) {
	set := make([]int, len(order)) // the first device of each one's set
	for i := range set {
		set[i] = i
	}
	root := func(i int) int {
		for set[i] != i {
			i = set[i]
		}
		return i
	}
	for _, k := range d.x.Rig.Links {
		if a, b := at[k.From.Device], at[k.To.Device]; d.column[a].block > 0 && d.column[b].block > 0 {
			set[root(a)] = root(b)
		}
	}
	of := map[int]int{}
	for _, i := range order {
		if d.column[i].block == 0 {
			continue
		}
		n, known := of[root(i)]
		if !known {
			n = len(sets)
			of[root(i)] = n
			sets = append(sets, nil)
		}
		sets[n] = append(sets[n], i)
	}
	return sets
}

// feeder is the box that a box is linked on from, "" for any other device.
func (d *drafting) feeder(i int) string {
	m := d.x.ModelAt(i)
	if m.Kind != gear.KindLoudspeaker {
		return ""
	}
	for pair := 1; pair <= m.Loudspeaker.PolePairs(); pair++ {
		k, fed := d.x.Into(rig.Ref{Device: d.x.Rig.Devices[i].Tag, Port: gear.PoleIn(pair)})
		if from, _ := d.x.Port(k.From); fed && from.Dir == gear.Through {
			return k.From.Device
		}
	}
	return ""
}

// broken tells whether a lead goes from one block to another; what a hand has placed is
// joined by a line.
func (d *drafting) broken(k rig.Link) bool {
	a, b := &d.b.Nodes[d.node[k.From.Device]], &d.b.Nodes[d.node[k.To.Device]]
	return a.column.block != b.column.block && !a.moved && !b.moved
}

// endsOf names a lead at both of its ends, as far as there is room: in the gap before
// the next column, and left of a block.
func (d *drafting) endsOf(k rig.Link) []boardEnd {
	from, to := d.at[k.From], d.at[k.To]
	into := k.To.Device + " " + strings.TrimPrefix(k.To.Port, "in ")
	if k.To.Port == gear.MainsPort || k.To.Port == "in" {
		into = k.To.Device
	}
	gap := d.step(d.b.Nodes[d.node[k.From.Device]].column.block) - nodeWidth - 6
	var ends []boardEnd
	if n := d.ends[k.From]; n > 0 { // else the first of its leads has named them all
		room := gap - 6
		if d.b.Nodes[d.node[k.From.Device]].column.n == d.last {
			room = gap + 12
		}
		text := into
		if utf8.RuneCountInString(text) > roomFor(room) {
			text = words.Shorten(k.To.Device, roomFor(room))
		}
		if n > 1 {
			text = fmt.Sprintf("%d leads", n)
		}
		ends = append(ends, boardEnd{X: from.X + 6, Y: from.Y, Out: true, Text: text})
		d.ends[k.From] = 0
	}
	came := k.From.Device + " " + strings.TrimPrefix(strings.TrimPrefix(k.From.Port, "outlet "), "out ")
	if gap = d.step(1) - nodeWidth - 6; d.b.Nodes[d.node[k.To.Device]].column.n == 0 {
		gap = endMargin - 6
	}
	if most := roomFor(gap); utf8.RuneCountInString(came) > most {
		came = words.Shorten(k.From.Device, most)
	}
	return append(ends, boardEnd{X: to.X - 6, Y: to.Y, Text: came})
}

// roomFor is how many characters of an end's name go into a width.
func roomFor(width float64) int { return int(width / endChar) }
