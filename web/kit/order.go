package kit

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"largo/core/order"
	"largo/core/reckon"
	"largo/core/unit"
)

// Order is a power-up or shutdown.
type Order struct {
	Picture timeline
	Total   Sum
	Steps   []stepView
	Free    []order.Step
	Own     bool
}

type stepView struct {
	order.Step
	Clock   string
	Earlier string // the order with this step one place earlier, as sent
	Later   string
	Wrong   bool
	Sharing bool
	Why     string // it stands here
	Inrush  string // what it takes for an instant, and what its breaker holds
}

// OrderOf is what an order is shown of.
type OrderOf struct {
	Steps []order.Step
	Free  []order.Step // at any time
	Total reckon.Figure
	Verb  string // as "Switch on"
	Place string // of its figures
	Own   bool   // the crew's
	Wrong map[string]bool
	Why   []string // of each step
	Waits [][]int  // by step, the places in the order of those that hold it up
	// what a step takes for an instant, by its switch
	Inrush map[string]string
}

// Order shows the steps of a power-up or shutdown.
func (p *Page) Order(of OrderOf) Order {
	steps := of.Steps
	v := Order{Picture: drawTimeline(of), Total: p.Sum(of.Place, of.Total), Own: of.Own, Free: of.Free}
	names := make([]string, len(steps))
	for i, st := range steps {
		names[i] = st.Switch
	}
	for i, st := range steps {
		sv := stepView{Step: st, Clock: clock(st.At), Sharing: len(st.Items) > 1, Inrush: of.Inrush[st.Switch]}
		if i < len(of.Why) {
			sv.Why = of.Why[i]
		}
		for _, item := range st.Items {
			sv.Wrong = sv.Wrong || of.Wrong[item.Tag]
		}
		if i > 0 {
			sv.Earlier = swapped(names, i-1)
		}
		if i < len(steps)-1 {
			sv.Later = swapped(names, i)
		}
		v.Steps = append(v.Steps, sv)
	}
	return v
}

// swapped is an order with two neighbours exchanged, one name a line.
func swapped(names []string, i int) string {
	out := slices.Clone(names)
	out[i], out[i+1] = out[i+1], out[i]
	return strings.Join(out, "\n")
}

// timeline is a power-up or shutdown on a clock: one row a switch.
type timeline struct {
	Width, Height float64
	Rows          []timeRow
	Arrows        []string // from what is waited for to what waits
	Ticks         []Tick
	Label         string
}

type timeRow struct {
	Y, X, W float64
	Number  int
	Tag     string
	Loud    bool
	Assumed bool
	Text    string
}

func drawTimeline(of OrderOf) timeline {
	const left, width, row = 150.0, 640.0, 30.0
	steps := of.Steps
	var last unit.Second
	for _, s := range steps {
		last = max(last, s.Done)
	}
	last = max(last, 10)
	t := timeline{Width: left + width + 120, Height: 34 + row*float64(len(steps)), Label: of.Verb}
	x := func(at unit.Second) float64 { return left + width*float64(at/last) }
	stride := tickStride(last)
	for at := unit.Second(0); at <= last; at += stride {
		t.Ticks = append(t.Ticks, Tick{x(at), clock(at)})
	}
	for i, s := range steps {
		t.Rows = append(t.Rows, timeRow{Y: 30 + row*float64(i), X: x(s.At), W: max(x(s.Done)-x(s.At), 3), Number: s.Number,
			Tag:  s.Switch,
			Loud: s.Loud, Assumed: s.Assumed, Text: s.Takes().String()})
	}
	middle := func(i int) float64 { return 30 + row*float64(i) + 11.5 }
	for i, firsts := range of.Waits {
		for _, first := range firsts {
			from := min(steps[i].At, steps[first].Done)
			t.Arrows = append(t.Arrows, fmt.Sprintf("M%.1f %.1fV%.1fl-3 -5m3 5l3 -5", x(from), middle(first)+7.5, middle(i)-8.5))
		}
	}
	return t
}

func tickStride(last unit.Second) unit.Second {
	for _, stride := range []unit.Second{5, 10, 15, 30, 60, 120, 300, 600} {
		if last/stride <= 9 {
			return stride
		}
	}
	return last / 6
}

// clock writes seconds as m:ss.
func clock(s unit.Second) string {
	n := int(s + 0.5)
	sec := strconv.Itoa(n % 60)
	if len(sec) < 2 {
		sec = "0" + sec
	}
	return strconv.Itoa(n/60) + ":" + sec
}
