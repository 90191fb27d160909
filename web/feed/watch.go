package feed

import (
	"context"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"largo/core/feed"
	"largo/core/rig"
	"largo/core/supply"
	"largo/core/survey"
	"largo/core/unit"
	"largo/core/words"
	"largo/exchange"
	"largo/store"
	"largo/web/kit"
)

// meteredEvery is how often a meter is asked; of two servers one keeps its answer.
const meteredEvery = 30 * time.Second

// watchedFor is how far back the page looks: the hour that breakers are judged by.
const watchedFor = time.Hour

// watchView is what a meter reads during the show.
type watchView struct {
	Back     string
	Rows     []watchRow
	Address  string // of the meter that is asked; "" for none
	Heard    string
	Meter    kit.Field
	Reading  []kit.Field
	Loose    map[string][]string
	Circuits bool
}

// watchRow is a circuit of it.
type watchRow struct {
	Name, Is, Now, Volts, Hertz, Mean, Used, Last, Says string
	Trips                                               bool
	Chart                                               template.HTML
}

func showWatch(s *kit.Server, c *gin.Context) { watched(s, c, http.StatusOK, nil) }

// watched answers with the circuits as a meter reads them, and what was wrong with a form.
func watched(s *kit.Server, c *gin.Context, status int, wrong *kit.Refused) {
	p, err := s.Aside(c, "Circuits during the show")
	if err != nil {
		s.Fail(c, err)
		return
	}
	p.Refused = wrong
	if wrong != nil {
		p.Typed = c.Request.PostForm
	}
	now := time.Now()
	read, err := s.Store.Readings(c, p.Job.Slug, now.Add(-watchedFor))
	if err != nil {
		s.Fail(c, err)
		return
	}
	v := watchView{Back: "/jobs/" + p.Job.Slug + "/feed"}
	if v.Address, err = s.Store.MeterOf(c, p.Job.Slug); err != nil {
		s.Fail(c, err)
		return
	}
	judged := survey.Of[feed.Verdict](p.Report)
	list := judged.Watch(flowsOf(read))
	for _, w := range list {
		v.Rows = append(v.Rows, rowOf(w, read, now))
	}
	p.Verdict = feed.WatchSays(list)
	if n := len(read); n > 0 {
		v.Heard = kit.Ago(now.Sub(read[n-1].At))
	}
	v.Meter = p.Field("watch", "meter", "A meter to be read every half minute", v.Address, "as http://127.0.0.1:9032")
	v.Reading = []kit.Field{p.Choose("reading", "part", "Circuit", "", circuitChoices(judged)...),
		p.Field("reading", "amps", "Amperes", "", "9.5 A"), p.Field("reading", "volts", "Volts", "", "may be left out")}
	v.Circuits = len(judged.Circuits) > 0
	v.Loose = map[string][]string{"watch": p.Loose("watch", "meter"), "reading": p.Loose("reading", "part", "amps",
		"volts")}
	p.Here = v.Back + "/show"
	p.Body = v
	s.Render(c, status, "watch", p)
}

// flowsOf are the currents that were read, by part.
func flowsOf(read []store.MeterReading) map[string][]supply.Flow {
	flows := map[string][]supply.Flow{}
	for _, r := range read {
		if a, known := r.Amps.Get(); known {
			flows[r.Part] = append(flows[r.Part], supply.Flow{At: float64(r.At.Unix()), Amps: a})
		}
	}
	return flows
}

func rowOf(w feed.Watched, read []store.MeterReading, now time.Time) watchRow {
	last := w.Flow[len(w.Flow)-1]
	row := watchRow{Name: w.Name, Is: describe(w.Node), Now: last.Amps.String(), Says: w.Says, Trips: w.Trips,
		Mean: "not enough was read", Used: "not known", Chart: chart(w, now),
		Last: kit.Ago(now.Sub(time.Unix(int64(last.At), 0)))}
	if w.Used.Known() {
		row.Mean, row.Used = w.Mean.Text(), fmt.Sprintf("%.0f %%", 100*w.Used.Value)
		if w.Used.Value == 0 {
			row.Used = "none: it holds that"
		}
	}
	for _, r := range slices.Backward(read) {
		if r.Part == w.Name {
			row.Volts, row.Hertz = orUnread(r.Volts), orUnread(r.Hertz)
			break
		}
	}
	return row
}

func orUnread[T unit.Quantity](g unit.Given[T]) string {
	if v, known := g.Get(); known {
		return v.String()
	}
	return "not read"
}

func circuitChoices(v feed.Verdict) (list []kit.Choice) {
	for _, c := range v.Circuits {
		list = append(list, kit.Choice{Value: c.Name, Label: c.Name})
	}
	return list
}

// chart is the hour of a circuit: its current as a line, its breaker as the limit.
func chart(w feed.Watched, now time.Time) template.HTML {
	const wide, high, left = 300.0, 64.0, 34.0
	top := nice(max(1.3*float64(w.Limit), 1.1*float64(slices.MaxFunc(w.Flow,
		func(a, b supply.Flow) int { return int(1000 * (a.Amps - b.Amps)) }).Amps)))
	x := func(at float64) float64 { return left + (wide-left)*(1-(float64(now.Unix())-at)/watchedFor.Seconds()) }
	y := func(a float64) float64 { return 6 + (high-20)*(1-a/top) }
	var p kit.Pen
	p.Put(`<svg class="feed-hour" viewBox="0 0 {} {}" role="img" `+
		`aria-label="{} over the last hour, its breaker at {}">`, wide,
		high, w.Name, w.Limit.String())
	p.Put(`<rect class="over" x="{}" y="6" width="{}" height="{}"/>`, left, wide-left, y(float64(w.Limit))-6)
	p.Put(`<path class="limit" d="M{} {}H{}"/><path class="rule" d="M{} {}H{}"/>`, left, y(float64(w.Limit)), wide,
		left, y(0),
		wide)
	p.Put(`<text class="tick" x="{}" y="{}">{} A</text><text class="tick" x="{}" y="{}">0</text>`, left-4,
		y(float64(w.Limit))+4, unit.Number(float64(w.Limit)), left-4, y(0)+4)
	p.Put(`<text class="tick foot" x="{}" y="{}">an hour ago</text>`+
		`<text class="tick foot now" x="{}" y="{}">now</text>`, left,
		high-2, wide, high-2)
	p.Put(`<polyline class="flow" points="`)
	for _, f := range w.Flow {
		p.Put(`{},{} `, x(f.At), y(float64(f.Amps)))
	}
	p.Put(`"/></svg>`)
	return p.HTML()
}

// setWatch has a meter asked from now on, or no longer.
func setWatch(s *kit.Server, c *gin.Context, f *kit.Form) {
	address := strings.TrimSpace(f.Text("meter"))
	if f.Text("stop") != "" {
		address = ""
	} else if _, err := exchange.AskMeter(c, address); err != nil {
		f.Fault("meter", "%s.", words.Capital(err.Error()))
	}
	kept(s, c, f, "watch", func(slug string) error { return s.Store.SetMeter(c, f.Act(), slug, address) })
}

// typeReading keeps what was read off a meter in the hand.
func typeReading(s *kit.Server, c *gin.Context, f *kit.Form) {
	r := store.MeterReading{Part: f.Text("part"), At: time.Now(), Amps: kit.Given(f, "amps", unit.ParseAmpere),
		Volts: kit.Given(f, "volts", unit.ParseVolt)}
	if a, known := r.Amps.Get(); !known && len(f.Faults) == 0 {
		f.Fault("amps", "Give what flows, as 9.5 A.")
	} else if known && (a < 0 || a > 2000) {
		f.Fault("amps", "A current of %s cannot be right: give 0 A to 2000 A.", a)
	}
	if u, known := r.Volts.Get(); known && (u < 20 || u > 1000) {
		f.Fault("volts", "A voltage of %s cannot be right: give 20 V to 1000 V.", u)
	}
	j, err := s.Store.Job(c, c.Param("job"))
	if err == nil && !slices.ContainsFunc(j.Rig.Supplies, func(p rig.Supply) bool { return p.Name == r.Part }) {
		f.Fault("part", "There is no part %.60q of the supply any more.", r.Part)
	}
	kept(s, c, f, "reading", func(slug string) error {
		return s.Store.AddReadings(c, f.Act(), slug, []store.MeterReading{r})
	})
}

// kept keeps what a form says, or shows what is wrong with it.
func kept(s *kit.Server, c *gin.Context, f *kit.Form, name string, keep func(slug string) error) {
	if len(f.Faults) > 0 {
		watched(s, c, http.StatusUnprocessableEntity, &kit.Refused{Form: name, Faults: f.Faults})
		return
	}
	if err := keep(c.Param("job")); err != nil {
		s.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/jobs/"+c.Param("job")+"/feed/show")
}

// followMeters asks the meters that are set until the context ends, whoever looks on or nobody.
func followMeters(ctx context.Context, s *kit.Server) {
	kit.Every(ctx, meteredEvery, func(at time.Time) { AskMeters(ctx, s, at) })
}

// AskMeters asks every meter that is set, once, and keeps what it answers.
func AskMeters(ctx context.Context, s *kit.Server, at time.Time) {
	meters, err := s.Store.Meters(ctx)
	if err != nil {
		if ctx.Err() == nil {
			s.Log.WarnContext(ctx, "no meter is asked", "error", err)
		}
		return
	}
	for _, m := range meters {
		if err := askOne(ctx, s.Store, m, at); err != nil && ctx.Err() == nil {
			s.Log.WarnContext(ctx, "a meter was not read", "job", m.Slug, "error", err)
		}
	}
}

func askOne(ctx context.Context, st *store.Store, m store.Meter, at time.Time) error {
	read, err := exchange.AskMeter(ctx, m.Address)
	if err != nil {
		return err
	}
	list := make([]store.MeterReading, len(read))
	for i, r := range read {
		list[i] = store.MeterReading{Part: r.Name, At: at.Truncate(meteredEvery), Volts: r.Volts, Amps: r.Amps,
			Hertz: r.Hertz}
	}
	err = st.AddReadings(ctx, store.Command{ID: kit.SlotID("meter "+m.Slug, meteredEvery, at), Author: byMeter}, m.Slug,
		list)
	if errors.Is(err, store.ErrNotFound) {
		return nil // it was deleted meanwhile
	}
	return err
}
