package bench

import (
	"fmt"
	"html/template"
	"math"
	"slices"

	"largo/core/bench"
	"largo/core/thermal"
	"largo/web/kit"
)

// The chart: degrees over the time of day. Readings are dots, what the fit makes of them a
// line, what is to come a fan; steps stand above as tape.
const (
	wide, narrow, chartHeight = 760.0, 372.0, 400.0
	chartLeft, chartRight     = 46.0, 14.0
	chartTop, chartFoot       = 46.0, 30.0
	fanPoints                 = 48
	frameTooHot, frameUnder   = 100.0, 60.0 // the lines, °C
	leastAhead, mostAhead     = 3600.0, 9000.0
)

type drawing struct {
	kit.Pen
	class     string
	width     float64
	st        *bench.Study
	from, to  float64 // s
	low, high float64 // °C
}

func (d *drawing) x(s float64) float64 {
	return chartLeft + (d.width-chartLeft-chartRight)*(s-d.from)/(d.to-d.from)
}

func (d *drawing) y(t float64) float64 {
	return chartTop + (chartHeight-chartTop-chartFoot)*(1-(t-d.low)/(d.high-d.low))
}

// chart draws a session, in the class and width of a screen.
func chart(st *bench.Study, class string, width float64) template.HTML {
	d := &drawing{st: st, class: class, width: width}
	d.bounds()
	d.Put(`<svg class="heat {}" viewBox="0 0 {} {}" role="img" aria-label="{}">`, class, d.width, chartHeight, d.label())
	d.Put(`<defs><pattern id="hot-{}" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">`+
		`<path class="hatch" d="M0 0V7"/></pattern></defs>`, class)
	d.grid()
	d.limits()
	if st.Known {
		d.forecast()
	}
	d.air()
	d.readings()
	d.steps()
	d.Put(`</svg>`)
	return d.HTML()
}

func (d *drawing) label() string {
	if !d.st.Known {
		return "Temperature over time; nothing was read yet"
	}
	return fmt.Sprintf("Temperature over time: now %.0f °C, ends at %.0f, %.0f to %.0f °C", d.st.NowIs.Mid, d.st.End.Mid,
		d.st.End.Low, d.st.End.High)
}

// bounds chooses what of time and temperature is drawn.
func (d *drawing) bounds() {
	st := d.st
	now := st.Seconds(st.Now)
	d.to = max(now, 600)
	if _, over := st.Ended(); !over {
		ahead := leastAhead
		if st.Known {
			ahead = min(max(1.5*st.Learnt.Body.Slow(), leastAhead), mostAhead)
		}
		d.to += ahead
	} else {
		d.to *= 1.12
	}
	d.low, d.high = 10*math.Floor((st.Air-4)/10), 110
	for _, e := range st.InForce() {
		for _, p := range e.Probe {
			if t, known := p.Get(); known {
				d.low, d.high = min(d.low, 10*math.Floor(float64(t)/10)), max(d.high, 10*math.Ceil(float64(t)/10))
			}
		}
	}
	if st.Known {
		d.high = max(d.high, min(10*math.Ceil(max(st.NowCoil.Mid, st.EndCoil.Mid)/10), 180))
	}
}

func (d *drawing) grid() {
	every := 10.0
	if d.high-d.low > 140 {
		every = 20
	}
	for t := math.Ceil(d.low/every) * every; t <= d.high; t += every {
		d.Put(`<path class="grid" d="M{} {}H{}"/><text class="tick" x="{}" y="{}" text-anchor="end">{}</text>`, chartLeft,
			d.y(t), d.width-chartRight, chartLeft-7, d.y(t)+3.5, int(t))
	}
	apart := 900.0
	for (d.to-d.from)/apart > d.width/84 {
		apart *= 2
	}
	zero := float64(d.st.Now) - d.st.Seconds(d.st.Now) + float64(d.st.Setup.Zone)
	for s := math.Ceil(zero/apart)*apart - zero; s < d.to; s += apart {
		d.Put(`<path class="grid" d="M{} {}V{}"/><text class="tick" x="{}" y="{}" text-anchor="middle">{}</text>`, d.x(s),
			chartTop, chartHeight-chartFoot, d.x(s), chartHeight-chartFoot+16, d.st.Clock(int64(s+zero)-int64(d.st.Setup.Zone)))
	}
}

func (d *drawing) limits() {
	right := d.width - chartRight
	d.Put(`<rect class="hot" x="{}" y="{}" width="{}" height="{}" fill="url(#hot-{})"/>`, chartLeft, d.y(d.high),
		right-chartLeft, d.y(frameTooHot)-d.y(d.high), d.class)
	d.Put(`<path class="limit" d="M{} {}H{}"/><text class="says" x="{}" y="{}" text-anchor="end">{}</text>`, chartLeft,
		d.y(frameTooHot), right, right-8, d.y(frameTooHot)+14, d.st.Setup.Probes[0]+" 100 °C: down")
	d.Put(`<path class="under" d="M{} {}H{}"/><text class="says" x="{}" y="{}" text-anchor="end">{}</text>`, chartLeft,
		d.y(frameUnder), right, right-8, d.y(frameUnder)+15, d.says("settles under 60 °C: up, 3 dB at the most",
			"under 60: up"))
}

// says chooses the shorter words where there is no room.
func (d *drawing) says(long, short string) string {
	if d.width < wide {
		return short
	}
	return long
}

// forecast draws what the fit makes of the past, and the fan of what is to come.
func (d *drawing) forecast() {
	st := d.st
	now := st.Seconds(st.Now)
	begin := st.Seconds(st.Began)
	past, ahead := d.times(begin, now), d.times(now, d.to)
	frame, coil := st.Learnt.Ahead(past)
	d.line("fit", past, frame, mid)
	d.line("coil", past, coil, mid)
	_, over := st.Ended()
	if over {
		d.nameCoil(past, coil)
		return
	}
	frame, coil2 := st.Learnt.Ahead(ahead)
	d.fan(ahead, frame)
	d.line("ahead", ahead, frame, mid)
	d.line("coil", ahead, coil2, mid)
	d.nameCoil(past, coil)
	end := st.End
	x := d.width - chartRight
	d.Put(`<path class="end" d="M{} {}V{}"/>`, x, d.y(min(end.High, d.high)), d.y(min(max(end.Low, d.low), d.high)))
	above := d.y(min(end.High, d.high-8)) - 9
	if near := above - d.y(frameUnder); near > -5 && near < 26 { // it has its own words
		above = d.y(frameUnder) - 6
	}
	d.Put(`<text class="ends" x="{}" y="{}" text-anchor="end">{}</text>`, x-8, above,
		fmt.Sprintf(d.says("ends %.0f °C, %.0f to %.0f", "%.0f °C, %.0f to %.0f"), end.Mid, end.Low, end.High))
	d.Put(`<path class="now" d="M{} {}V{}"/><text class="name" x="{}" y="{}">{}</text>`, d.x(now), chartTop-10,
		chartHeight-chartFoot, d.x(now)+5, chartHeight-chartFoot-7, "now, "+st.Clock(st.Now))
}

// times are those at which a line is drawn: evenly, and closer where the volts change, for
// a coil follows in seconds.
func (d *drawing) times(from, to float64) (at []float64) {
	for i := range fanPoints + 1 {
		at = append(at, from+(to-from)*float64(i)/fanPoints)
	}
	for _, e := range d.st.InForce() {
		if s := d.st.Seconds(e.At); e.Kind == bench.Step && s >= from && s < to {
			for _, after := range []float64{0, 8, 20, 40, 80} {
				if s+after < to {
					at = append(at, s+after)
				}
			}
		}
	}
	slices.Sort(at)
	return at
}

// nameCoil writes what the coil's line is beside its middle.
func (d *drawing) nameCoil(at []float64, coil []thermal.Range) {
	i := 2 * len(at) / 3
	t := min(coil[i].Mid, d.high-6)
	d.Put(`<text class="says" x="{}" y="{}" text-anchor="end">coil, by the model</text>`, d.x(at[i])-4, d.y(t)-7)
}

func mid(r thermal.Range) float64 { return r.Mid }

func (d *drawing) line(class kit.Markup, at []float64, of []thermal.Range, which func(thermal.Range) float64) {
	d.Put(`<path class="{}" d="`, class)
	for i, s := range at {
		letter := kit.Markup("L")
		if i == 0 {
			letter = "M"
		}
		d.Put(`{}{} {}`, letter, d.x(s), d.y(min(which(of[i]), d.high)))
	}
	d.Put(`"/>`)
}

func (d *drawing) fan(at []float64, of []thermal.Range) {
	d.Put(`<path class="fan" d="`)
	for i, s := range at {
		letter := kit.Markup("L")
		if i == 0 {
			letter = "M"
		}
		d.Put(`{}{} {}`, letter, d.x(s), d.y(min(of[i].High, d.high)))
	}
	for i := len(at) - 1; i >= 0; i-- {
		d.Put(`L{} {}`, d.x(at[i]), d.y(min(max(of[i].Low, d.low), d.high)))
	}
	d.Put(`Z"/>`)
}

// air draws the air as it was read.
func (d *drawing) air() {
	first := true
	d.Put(`<path class="air" d="`)
	var lastX, lastY float64
	for _, e := range d.st.InForce() {
		if t, known := e.Air.Get(); known {
			letter := kit.Markup("L")
			if first {
				letter, first = "M", false
			}
			lastX, lastY = d.x(d.st.Seconds(e.At)), d.y(float64(t))
			d.Put(`{}{} {}`, letter, lastX, lastY)
		}
	}
	d.Put(`"/>`)
	if !first {
		d.Put(`<text class="says" x="{}" y="{}">air</text>`, lastX+5, lastY+4)
	}
}

// readings are dots: the probe that is believed full, the other hollow, what is not
// believed crossed out.
func (d *drawing) readings() {
	for _, e := range d.st.InForce() {
		for p, g := range e.Probe {
			t, known := g.Get()
			if !known || e.Kind != bench.Read {
				continue
			}
			x, y := d.x(d.st.Seconds(e.At)), d.y(float64(t))
			switch {
			case d.st.Unsound(e, p):
				d.Put(`<path class="unsound" d="M{} {}l6 6m0 -6l-6 6"/>`, x-3, y-3)
			case p == d.st.Believed:
				d.Put(`<circle class="dot" cx="{}" cy="{}" r="2.6"/>`, x, y)
			default:
				d.Put(`<circle class="other" cx="{}" cy="{}" r="2.6"/>`, x, y)
			}
		}
	}
	for _, m := range d.st.Measured {
		if m.Degrees < d.high && m.Degrees > d.low {
			x, y := d.x(d.st.Seconds(m.At)), d.y(m.Degrees)
			d.Put(`<path class="ohms" d="M{} {}l4 4l-4 4l-4 -4z"/>`, x, y-4)
		}
	}
}

// steps are the limiter's, as tape above the chart, each as wide as it was held.
func (d *drawing) steps() {
	type on struct {
		at   float64
		says string
	}
	var list []on
	for _, e := range d.st.InForce() {
		switch e.Kind {
		case bench.Step:
			says := e.Volts.String()
			if w, known := d.st.Setup.Watts(e.Volts.Or(0)).Get(); known {
				says = d.says(fmt.Sprintf("%.0f W · ", float64(w))+says, says)
			}
			list = append(list, on{d.st.Seconds(e.At), says})
		case bench.Sun, bench.Shade:
			x := d.x(d.st.Seconds(e.At))
			d.Put(`<path class="sun" d="M{} {}V{}"/><text class="says" x="{}" y="{}">{}</text>`, x, chartHeight-chartFoot-26,
				chartHeight-chartFoot, x+4, chartHeight-chartFoot-18, string(e.Kind))
		}
	}
	for i, s := range list {
		x := d.x(s.at)
		end := d.x(d.st.Seconds(d.st.Now))
		if i+1 < len(list) {
			end = d.x(list[i+1].at)
		}
		width := max(end-x-6, d.width/9)
		d.Put(`<path class="step" d="M{} {}V{}"/>`, x, chartTop-18, chartHeight-chartFoot)
		d.Put(`<rect class="taped" x="{}" y="{}" width="{}" height="22"/><text class="on-tape" x="{}" y="{}">{}</text>`, x,
			chartTop-40, width, x+8, chartTop-24.5, s.says)
	}
}
