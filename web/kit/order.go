package kit

import (
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
	Own     bool
}

type stepView struct {
	order.Step
	Clock   string
	Earlier string // the order with this step one place earlier, as sent
	Later   string
	Wrong   bool
	Sharing bool
}

// Order shows the steps of a power-up or shutdown; wrong names the devices whose
// step is at stop.
func (p *Page) Order(steps []order.Step, total reckon.Figure, verb, place string, own bool,
	wrong map[string]bool) Order {
	v := Order{Picture: drawTimeline(steps, verb), Total: p.Sum(place, total), Own: own}
	names := make([]string, len(steps))
	for i, st := range steps {
		names[i] = st.Switch
	}
	for i, st := range steps {
		sv := stepView{Step: st, Clock: clock(st.At), Sharing: len(st.Items) > 1}
		for _, item := range st.Items {
			sv.Wrong = sv.Wrong || wrong[item.Tag]
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

func drawTimeline(steps []order.Step, label string) timeline {
	const left, width, row = 150.0, 640.0, 30.0
	var last unit.Second
	for _, s := range steps {
		last = max(last, s.Done)
	}
	last = max(last, 10)
	t := timeline{Width: left + width + 120, Height: 34 + row*float64(len(steps)), Label: label}
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
