package feed

import (
	"html/template"
	"math"

	"largo/core/feed"
	"largo/core/gear"
	"largo/core/rig"
	"largo/core/supply"
	"largo/core/unit"
	"largo/web/kit"
)

// The picture, in its units: a row a part, its ruler in amperes, its breaker the line.
const (
	treeWidth              = 800.0
	rowHigh                = 52.0
	treeTop                = 30.0
	boxWide, boxHigh       = 158.0, 38.0
	indent                 = 20.0
	rulerLeft, rulerWide   = 262.0, 240.0
	tapesLeft, tapeHigh    = 524.0, 20.0
	perLetter, tapePadding = 6.6, 14.0
)

// row is a part of the picture.
type row struct {
	node, depth int
	loads       []int  // of its own, and of the outlets that feed from it and have nothing else
	outlet      string // that a device which is dragged here is plugged into; "" for none
	y, high     float64
}

// rows are the parts from the source down; an outlet without figures of its own stands with
// what feeds it.
func rows(v *feed.Verdict) (list []row) {
	var walk func(i, depth int)
	walk = func(i, depth int) {
		n := &v.Nodes[i]
		r := row{node: i, depth: depth, loads: n.Loads}
		if n.Part != nil && n.Part.Sort == rig.Outlet {
			r.outlet = n.Name
		}
		var below []int
		for _, d := range n.Down {
			if plain(&v.Nodes[d]) {
				if r.outlet == "" {
					r.outlet = v.Nodes[d].Name
				}
				r.loads = append(append([]int{}, r.loads...), v.Nodes[d].Loads...)
			} else {
				below = append(below, d)
			}
		}
		list = append(list, r)
		for _, d := range below {
			walk(d, depth+1)
		}
	}
	for _, root := range v.Roots() {
		walk(root, 0)
	}
	return list
}

// plain tells whether an outlet says nothing that its breaker does not.
func plain(n *supply.Node) bool {
	return n.Part != nil && n.Part.Sort == rig.Outlet && n.Limit == 0 && !n.Part.Residual.Known() && len(n.Down) == 0
}

// lay gives each row its height: tapes wrap.
func lay(v *feed.Verdict, list []row) (high float64) {
	y := treeTop
	for i := range list {
		lines, x := 1, tapesLeft
		for _, l := range list[i].loads {
			w := tapeWide(v.Taken[l].Tag)
			if x+w > treeWidth && x > tapesLeft {
				lines, x = lines+1, tapesLeft
			}
			x += w + 6
		}
		list[i].y, list[i].high = y, max(rowHigh, float64(lines)*(tapeHigh+5)+14)
		y += list[i].high
	}
	return y + 6
}

func tapeWide(tag string) float64 { return tapePadding + perLetter*float64(len([]rune(tag))) }

// picture is the supply as a tree.
func picture(p *kit.Page, v *feed.Verdict) template.HTML {
	list := rows(v)
	high := lay(v, list)
	var w kit.Pen
	w.Put(`<svg class="feed-tree" viewBox="0 0 {} {}" role="group" aria-label="The supply, from the source down">`,
		treeWidth,
		high)
	w.Put(`<defs><pattern id="feed-hatch" width="6" height="6" patternUnits="userSpaceOnUse" ` +
		`patternTransform="rotate(45)"><path class="hatch" d="M0 0V6"/></pattern></defs>`)
	w.Put(`<text class="head" x="0" y="14">Source and circuits</text><text class="head" x="{}" y="14">Amperes: `+
		`filled music, hollow dense</text><text class="head" x="{}" y="14">Hangs on it</text>`,
		rulerLeft,
		tapesLeft)
	at := map[int]float64{}
	for i := range list {
		r := &list[i]
		middle := r.y + boxHigh/2
		x := indent * float64(r.depth)
		if up := v.Nodes[r.node].Up; up >= 0 {
			if from, drawn := at[up]; drawn {
				w.Put(`<path class="rule" d="M{} {}V{}H{}"/>`, x-indent/2, from+boxHigh/2, middle, x)
			}
		}
		at[r.node] = middle
		n := &v.Nodes[r.node]
		w.Put(`<g data-row="{}" data-outlet="{}" data-feeds="{}"><rect class="place" x="0" y="{}" width="{}" height="{}"/>`,
			n.Name, r.outlet, kit.When(n.Part != nil && n.Part.Sort != rig.Outlet, "yes"), r.y-4, treeWidth, r.high)
		box(&w, p, &v.Nodes[r.node], x, r.y)
		bar(&w, &v.Nodes[r.node], middle)
		tapes(&w, v, r)
		w.Put(`</g>`)
	}
	w.Put(`</svg>`)
	return w.HTML()
}

// box is a part with what it is; one of the house leads to its form.
func box(w *kit.Pen, p *kit.Page, n *supply.Node, x, y float64) {
	class := kit.Markup("part")
	if n.Part == nil {
		class = "part is-gear"
	}
	if n.Part != nil {
		w.Put(`<a href="{}" data-part="{}">`, partHref(p, n.Name), n.Name)
	}
	w.Put(`<rect class="{}" x="{}" y="{}" width="{}" height="{}"/>`, class, x, y, boxWide, boxHigh)
	w.Put(`<text class="name" x="{}" y="{}">{}</text><text class="what" x="{}" y="{}">{}</text>`, x+8, y+16,
		short(n.Name, 22), x+8, y+31, short(describe(n), 21))
	if n.Part != nil {
		w.Put(`</a>`)
	}
}

// short cuts a text to what fits.
func short(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return s
}

// bar is the ruler of a part: as long as half over its limit.
func bar(w *kit.Pen, n *supply.Node, y float64) {
	music, dense := float64(n.Carries(supply.Ordinary)), float64(n.Carries(supply.Dense))
	limit := float64(n.Limit)
	top := nice(max(1.5*limit, 1.1*music))
	if limit == 0 {
		top = nice(max(1.3*dense, 4))
	}
	x := func(a float64) float64 { return rulerLeft + rulerWide*min(max(a/top, 0), 1) }
	w.Put(`<path class="rule" d="M{} {}H{}"/>`, rulerLeft, y, rulerLeft+rulerWide)
	for i := range 5 {
		a := top * float64(i) / 4
		w.Put(`<path class="rule" d="M{} {}v4"/><text class="tick" x="{}" y="{}">{}</text>`, x(a), y, x(a), y+15,
			unit.Number(a))
	}
	if limit > 0 {
		w.Put(`<rect class="over" x="{}" y="{}" width="{}" height="8" fill="url(#feed-hatch)"/>`, x(limit), y-8,
			rulerLeft+rulerWide-x(limit))
		w.Put(`<path class="limit" d="M{} {}v20"/>`, x(limit), y-14)
	}
	if music > 0 {
		w.Put(`<rect class="carried" x="{}" y="{}" width="{}" height="8"/>`, rulerLeft, y-8, x(music)-rulerLeft)
		w.Put(`<path class="mark" d="M{} {}l-5 -9h10z"/>`, x(music), y)
	}
	if dense > 0 {
		wrong := limit > 0 && dense > limit
		w.Put(`<path class="dense{}" d="M{} {}l-5 -9h10z"/>`, kit.When(wrong, " wrong"), x(dense), y)
		if wrong {
			w.Put(`<text class="value" x="{}" y="{}">{} dense</text>`, min(x(dense), rulerLeft+rulerWide-30), y-13,
				unit.Ampere(dense).String())
		}
	}
	if limit == 0 {
		w.Put(`<text class="tick none" x="{}" y="{}">limit not known</text>`, rulerLeft+rulerWide-46, y-13)
	}
}

// nice is a round end of a ruler.
func nice(a float64) float64 {
	for _, step := range []float64{4, 8, 12, 16, 20, 24, 32, 40, 48, 64, 80, 96, 120, 160, 200, 240, 320, 400} {
		if a <= step {
			return step
		}
	}
	return 400 * math.Ceil(a/400)
}

// tapes are the devices that hang on a part.
func tapes(w *kit.Pen, v *feed.Verdict, r *row) {
	x, y := tapesLeft, r.y+8
	for _, l := range r.loads {
		t := &v.Taken[l]
		wide := tapeWide(t.Tag)
		if x+wide > treeWidth && x > tapesLeft {
			x, y = tapesLeft, y+tapeHigh+5
		}
		w.Put(`<a href="{}" data-load="{}"><rect class="{}" x="{}" y="{}" width="{}" height="{}"/>`+
			`<text class="on-tape" x="{}" `+
			`y="{}">{}</text></a>`, kit.Markup("#"+kit.Ident("plug-"+t.Tag)), t.Tag, kit.Markup(tapeClass(t)), x, y, wide,
			tapeHigh,
			x+wide/2, y+14.5, t.Tag)
		x += wide + 6
	}
}

// tapeClass tells loads that make no sound apart.
func tapeClass(t *supply.Taken) string {
	if t.Model.Kind == gear.KindAppliance {
		return "taped is-load"
	}
	return "taped"
}
