package wire

import (
	"fmt"
	"html/template"
	"strings"
	"unicode/utf8"

	"largo/web/kit"
)

// SVG writes the drawing.
func (b board) SVG() template.HTML {
	var w kit.Pen
	w.Grow(900 * (len(b.Nodes) + len(b.Leads)))
	w.Put(`<svg x-ignore class="board" viewBox="0 0 {} {}" width="{}" data-width="{}" data-height="{}"`+
		` aria-label="The rig as a drawing; the tables below say the same">`, b.Width, b.Height, b.Width, b.Width, b.Height)
	for _, c := range b.Columns {
		w.Put(`<text class="column" x="{}" y="{}">{}</text>`, c.X, c.Y, c.Label)
	}
	for _, part := range b.Parts {
		if part.Known { // the page has it already
			w.Put(`{} data-is="{}"></{}>`, part.stub, part.Mark, part.name)
		} else {
			w.Put(`<{} data-is="{}" {}`, part.name, part.Mark, part.rest)
		}
	}
	w.Put(`</svg>`)
	return w.HTML()
}

// boardPart is one lead or device of the drawing, written.
type boardPart struct {
	kit.Part
	name, rest, stub kit.Markup
}

// boardParts writes the leads and devices of a drawing.
func boardParts(p *kit.Page, b board) []boardPart {
	parts := make([]boardPart, 0, len(b.Leads)+len(b.Nodes))
	for _, l := range b.Leads {
		var stub, whole kit.Pen
		stub.Put(`<a href="{}"`, l.Href)
		l.write(&whole)
		parts = append(parts, partOf(p, stub.Markup(), whole.Markup()))
	}
	for _, n := range b.Nodes {
		var stub, whole kit.Pen
		stub.Put(`<g data-tag="{}"`, n.Tag)
		n.write(&whole)
		parts = append(parts, partOf(p, stub.Markup(), whole.Markup()))
	}
	return parts
}

// partOf marks a part of the drawing; whole begins with the name of its element.
func partOf(p *kit.Page, stub, whole kit.Markup) boardPart {
	name, rest, _ := strings.Cut(string(whole), " ")
	return boardPart{p.Part(string(whole)), kit.Markup(name[1:]), kit.Markup(rest), stub}
}

func (l boardLead) write(w *kit.Pen) {
	class := kit.When(l.Dim, " dim-part") + kit.When(l.Chosen, " chosen") + kit.When(l.Stop, " is-stop")
	if l.Path == "" {
		w.Put(`<a class="lead-link{}" href="{}" tabindex="-1"><title>{}</title>`, class, l.Href, l.Says)
		for _, e := range l.Ends {
			e.write(w, l.Kind)
		}
		w.Put(`</a>`)
		return
	}
	w.Put(`<a class="lead-link{}" href="{}" tabindex="-1" aria-label="{}">`, class, l.Href, l.Says)
	w.Put(`<path class="lead-hit" d="{}"/><path class="lead lead-{}{}" d="{}"><title>{}</title></path>`,
		l.Path, l.Kind, kit.When(l.Series, " series"), l.Path, l.Says)
	if l.Kind == "speaker" {
		w.Put(`<path class="lead-core" d="{}"/>`, l.Path)
	}
	w.Put(`</a>`)
}

// write draws a stub at a connector with the name of the other end.
func (e boardEnd) write(w *kit.Pen, kind string) {
	stub, gap := 6.0, -2.0
	if e.Out {
		stub, gap = -6, 2
	}
	w.Put(`<path class="lead lead-{}" d="M{} {}h{}"/><text class="lead-end{}" x="{}" y="{}">{}</text>`, kind, e.X, e.Y,
		stub, kit.When(e.Out, " out"), e.X+gap, e.Y+3.5, e.Text)
}

func (n boardNode) write(w *kit.Pen) {
	w.Put(`<g class="device{}" data-tag="{}" data-x="{}" data-y="{}">`, kit.When(n.Dim, " dim-part"), n.Tag, n.X, n.Y)
	w.Put(`<a href="{}" tabindex="-1"><g class="node is-{}{}">`, n.Href, n.State, kit.When(n.Chosen, " chosen"))
	w.Put(`<rect class="case" x="{}" y="{}" width="{}" height="{}"/>`, n.X, n.Y, n.W, n.H)
	w.Put(`<rect class="label" x="{}" y="{}" width="{}" height="18"/>`, n.X+6, n.Y+5, n.TapeW)
	w.Put(`<text class="tag" x="{}" y="{}"{}>{}</text>`, n.X+12, n.Y+19, n.squeezed(), n.Tag)
	w.Put(`<text class="model{}" x="{}" y="{}">{}</text>`, kit.When(n.Beside, " beside"), n.TitleAt[0],
		n.TitleAt[1], n.Title)
	for i, note := range n.Notes {
		w.Put(`<text class="model" x="{}" y="{}">{}</text>`, n.X+8, n.TitleAt[1]+noteStep*float64(i+1), note)
	}
	for _, p := range n.Ports {
		x := p.X + 7
		if p.Out {
			x = p.X - 7
		}
		w.Put(`<text class="port-name{}{}" x="{}" y="{}">{}</text>`,
			kit.When(p.Out, " out"), kit.When(!p.Used, " free"), x, p.Y+3.5, p.Label)
	}
	w.Put(`</g></a>`)
	for _, t := range n.Throws {
		t.write(w)
	}
	for _, p := range n.Ports {
		p.write(w)
	}
	w.Put(`</g>`)
}

// squeezed holds a long tag within its tape.
func (n boardNode) squeezed() kit.Markup {
	room := n.TapeW - 12
	if tagChar*float64(utf8.RuneCountInString(n.Tag)) <= room {
		return ""
	}
	return kit.Markup(fmt.Sprintf(` textLength="%g" lengthAdjust="spacingAndGlyphs"`, room))
}

// write draws the connector itself, which is picked to plug a lead.
func (p boardPort) write(w *kit.Pen) {
	w.Put(`<g class="jack{}" role="button" tabindex="-1" aria-pressed="false" aria-label="{}"`+
		` data-ref="{}" data-starts="{}">`,
		kit.When(p.Used, " used"), p.Says, p.Ref, p.Starts)
	w.Put(`<circle class="hit" cx="{}" cy="{}" r="8"/><circle class="port" cx="{}" cy="{}" r="3.4"/></g>`, p.X,
		p.Y, p.X, p.Y)
}

func (t boardThrow) write(w *kit.Pen) {
	set := kit.When(t.Set, " set")
	w.Put(`<g class="throw-switch{}" role="button" tabindex="-1" aria-label="{}" data-tag="{}" data-pair="{}"`+
		` data-output="{}" data-input="{}">`, set, t.Says, t.Tag, t.Pair, t.Output, t.Input)
	w.Put(`<rect class="throw{}" x="{}" y="{}" width="{}" height="14"/>`+
		`<text class="throw-name{}" x="{}" y="{}">{}</text></g>`,
		set, t.X, t.Y, t.W, set, t.X+t.W/2, t.Y+10, t.Text)
}
