package survey

import (
	"largo/core/finding"
	"largo/core/reckon"
)

// Changes is what differs between two reports.
type Changes struct {
	Gone    []finding.Finding // findings that are no more
	New     []finding.Finding // findings that were not there
	Figures []Change
}

// Change is one figure before and after.
type Change struct {
	Place  string
	Before reckon.Figure // without a key where it was not there
	After  reckon.Figure // without a key where it is no more
}

// Compare tells what an edit changed: findings first, then every figure that
// reads otherwise than before.
func Compare(before, after *Report) Changes {
	c := Changes{Gone: without(before.Findings, after.Findings), New: without(after.Findings, before.Findings)}
	type key struct{ place, figure string }
	places := before.Places()
	old := make(map[key]*reckon.Figure, 8*len(places))
	order := make([]key, 0, 8*len(places))
	for _, p := range places {
		for i := range p.Figures {
			if f := &p.Figures[i]; f.Key != "" {
				k := key{p.Name, f.Key}
				old[k] = f
				order = append(order, k)
			}
		}
	}
	for _, p := range after.Places() {
		for i := range p.Figures {
			f := &p.Figures[i]
			k := key{p.Name, f.Key}
			switch was, there := old[k]; {
			case f.Key == "" || there && same(was, f):
			case there:
				c.Figures = append(c.Figures, Change{p.Name, *was, *f})
			default:
				c.Figures = append(c.Figures, Change{Place: p.Name, After: *f})
			}
			delete(old, k)
		}
	}
	for _, k := range order {
		if was, gone := old[k]; gone {
			c.Figures = append(c.Figures, Change{Place: k.place, Before: *was})
		}
	}
	return c
}

func same(a, b *reckon.Figure) bool {
	return a.Known() == b.Known() && (!a.Known() || a.Text() == b.Text()) // what is shown alike has not changed
}

func without(fs, others []finding.Finding) []finding.Finding {
	have := make(map[string]bool, len(others))
	for _, f := range others {
		have[f.ID()] = true
	}
	var out []finding.Finding
	for _, f := range fs {
		if !have[f.ID()] {
			out = append(out, f)
		}
	}
	return out
}
