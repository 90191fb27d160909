package kit

import (
	"html/template"
	"net/url"

	"largo/core/reckon"
)

// Sum is a figure that shows its working when asked.
type Sum struct {
	Href, Text, Name string
	Known            bool
	Lacks            string
}

// HTML writes the figure as a link to its working. A page has hundreds of
// them, so the template leaves this to Go.
func (s Sum) HTML() template.HTML {
	var w Pen
	if s.Known {
		w.Put(`<a class="sum" href="{}" title="How {} was worked out">{}</a>`, s.Href, s.Name, s.Text)
	} else {
		w.Put(`<a class="sum unknown" href="{}" title="{}">unknown</a>`, s.Href, s.Lacks)
	}
	return w.HTML()
}

// Sum shows a figure of a place; its working is asked for on this page.
func (p *Page) Sum(place string, f reckon.Figure) Sum {
	q := url.Values{"sum": {place}, "figure": {f.Key}}
	return Sum{Href: p.Here + "?" + q.Encode(), Text: f.Text(), Name: f.Name, Known: f.Known(), Lacks: f.Lacks}
}
