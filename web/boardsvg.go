package web

import (
	"html/template"
	"strconv"
	"strings"
)

// The drawing has some thousand small parts on a large rig. It is written
// here rather than by the template, which takes ten times as long; whatever
// is not a number of ours is escaped on its way in.

// pen writes SVG.
type pen struct{ strings.Builder }

// put writes pieces: strings as they are, which are ours, numbers with one
// decimal, and said text escaped.
func (w *pen) put(pieces ...any) {
	for _, p := range pieces {
		switch v := p.(type) {
		case string:
			w.WriteString(v)
		case float64:
			var b [24]byte
			w.Write(strconv.AppendFloat(b[:0], v, 'f', 1, 64))
		case said:
			template.HTMLEscape(w, []byte(v))
		}
	}
}

// said is text that somebody else wrote.
type said string

// when gives a class where it applies.
func when(is bool, class string) string {
	if is {
		return class
	}
	return ""
}

// SVG writes the drawing.
func (b board) SVG() template.HTML {
	var w pen
	w.Grow(900 * (len(b.Nodes) + len(b.Leads)))
	w.put(`<svg x-ignore class="board" viewBox="0 0 `, b.Width, ` `, b.Height, `" width="`, b.Width, `" data-width="`, b.Width, `" data-height="`, b.Height,
		`" aria-label="The rig as a drawing; the tables below say the same">`)
	for _, c := range b.Columns {
		w.put(`<text class="column" x="`, c.X, `" y="13">`, said(c.Label), `</text>`)
	}
	for _, part := range b.Parts {
		if part.Known { // the page has it already
			w.put(part.stub, ` data-is="`, part.Mark, `"></`, part.name, `>`)
		} else {
			w.put(`<`, part.name, ` data-is="`, part.Mark, `" `, part.rest)
		}
	}
	w.put(`</svg>`)
	return template.HTML(w.String())
}

// boardPart is one lead or device of the drawing, written.
type boardPart struct {
	part
	name, rest, stub string
}

// boardParts writes the leads and devices of a drawing.
func (p *page) boardParts(b board) []boardPart {
	parts := make([]boardPart, 0, len(b.Leads)+len(b.Nodes))
	for _, l := range b.Leads {
		var stub pen
		stub.put(`<a href="`, said(l.Href), `"`)
		parts = append(parts, p.boardPart(stub.String(), func(w *pen) { w.lead(l) }))
	}
	for _, n := range b.Nodes {
		var stub pen
		stub.put(`<g data-tag="`, said(n.Tag), `"`)
		parts = append(parts, p.boardPart(stub.String(), func(w *pen) { w.node(n) }))
	}
	return parts
}

func (p *page) boardPart(stub string, draw func(*pen)) boardPart {
	var w pen
	draw(&w)
	name, rest, _ := strings.Cut(w.String(), " ")
	return boardPart{p.part(w.String()), name[1:], rest, stub}
}

func (w *pen) lead(l boardLead) {
	w.put(`<a class="lead-link`, when(l.Dim, " dim-part"), when(l.Chosen, " chosen"), when(l.Stop, " is-stop"), `" href="`, said(l.Href), `" tabindex="-1" aria-label="`, said(l.Says), `">`,
		`<path class="lead-hit" d="`, l.Path, `"/><path class="lead lead-`, said(l.Kind), when(l.Series, " series"), `" d="`, l.Path, `"><title>`, said(l.Says), `</title></path>`)
	if l.Kind == "speaker" {
		w.put(`<path class="lead-core" d="`, l.Path, `"/>`)
	}
	w.put(`</a>`)
}

func (w *pen) node(n boardNode) {
	w.put(`<g class="device`, when(n.Dim, " dim-part"), `" data-tag="`, said(n.Tag), `" data-x="`, n.X, `" data-y="`, n.Y, `"><a href="`, said(n.Href), `" tabindex="-1"><g class="node is-`, n.State, when(n.Chosen, " chosen"), `">`,
		`<rect class="case" x="`, n.X, `" y="`, n.Y, `" width="`, n.W, `" height="`, n.H, `"/>`,
		`<rect class="label" x="`, n.X+6, `" y="`, n.Y+5, `" width="`, n.TapeW, `" height="18"/>`,
		`<text class="tag" x="`, n.X+12, `" y="`, n.Y+19, `">`, said(n.Tag), `</text>`,
		`<text class="model`, when(n.Beside, " beside"), `" x="`, n.TitleAt[0], `" y="`, n.TitleAt[1], `">`, said(n.Title), `</text>`)
	for i, note := range n.Notes {
		w.put(`<text class="model" x="`, n.X+8, `" y="`, n.TitleAt[1]+noteStep*float64(i+1), `">`, said(note), `</text>`)
	}
	for _, p := range n.Ports {
		x := p.X + 7
		if p.Out {
			x = p.X - 7
		}
		w.put(`<text class="port-name`, when(p.Out, " out"), when(!p.Used, " free"), `" x="`, x, `" y="`, p.Y+3.5, `">`, said(p.Label), `</text>`)
	}
	w.put(`</g></a>`)
	for _, t := range n.Throws {
		w.throw(t)
	}
	for _, p := range n.Ports {
		w.put(`<g class="jack`, when(p.Used, " used"), `" role="button" tabindex="-1" aria-pressed="false" aria-label="`, said(p.Says), `" data-ref="`, said(p.Ref), `" data-starts="`, strconv.FormatBool(p.Starts), `">`,
			`<circle class="hit" cx="`, p.X, `" cy="`, p.Y, `" r="8"/><circle class="port" cx="`, p.X, `" cy="`, p.Y, `" r="3.4"/></g>`)
	}
	w.put(`</g>`)
}

func (w *pen) throw(t boardThrow) {
	set := when(t.Set, " set")
	w.put(`<g class="throw-switch`, set, `" role="button" tabindex="-1" aria-label="`, said(t.Says), `" data-tag="`, said(t.Tag), `" data-pair="`, strconv.Itoa(t.Pair), `" data-output="`, said(t.Output), `" data-input="`, said(t.Input), `">`,
		`<rect class="throw`, set, `" x="`, t.X, `" y="`, t.Y, `" width="`, t.W, `" height="14"/><text class="throw-name`, set, `" x="`, t.X+t.W/2, `" y="`, t.Y+10, `">`, said(t.Text), `</text></g>`)
}
