package survey_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"largo/core/advise"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/match"
	"largo/core/plan"
	"largo/core/protect"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/survey"
	"largo/core/unit"
	"largo/core/wire"
)

// One quantity is one figure, wherever it is shown: over the demo rigs and 300 random
// ones every place where stages, the output in full, the advice on bridging, the
// adviser, the totals of a plan and the line test speak of one thing is compared.
func TestOneTruth(t *testing.T) {
	all := withRandom(t, 300)
	compared := 0
	for i, r := range all {
		c := comparing{t: t, of: fmt.Sprintf("rig %d (%s)", i, r.Brief.Title), compared: &compared}
		c.rig(survey.Survey(r))
	}
	if compared < 10000/everyRig {
		t.Errorf("only %d figures were compared", compared)
	}
}

// tellingModels have what the demo's have not: a shared supply, a table that falls,
// another supply voltage, one of four channels.
func tellingModels() []gear.Model {
	shared := rigtest.Amp("shared", func(a *gear.Amplifier) {
		a.Channels, a.Together, a.Supply = 4, unit.Of(unit.Watt(1200)), unit.Of(unit.Volt(230))
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 500}, {Mode: gear.Separate, Load: 4, Power: 900}}
		a.OutputZ = unit.Of(unit.Ohm(0.03))
	})
	falls := rigtest.Amp("falls", func(a *gear.Amplifier) {
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 500}, {Mode: gear.Separate, Load: 4, Power: 450},
			{Mode: gear.Separate, Load: 2, Power: 300}, {Mode: gear.Separate, Load: 4, Power: 800, Duration: gear.Burst}}
		a.Damping, a.DampingLoad, a.Supply = unit.Of(unit.Ratio(200)), unit.Of(unit.Ohm(8)), unit.Of(unit.Volt(120))
	})
	down := gear.Model{ID: "down", Kind: gear.KindTransformer, Maker: "Test", Name: "down",
		Supply: &gear.Supply{Outlets: 4, Ratio: unit.Of(unit.Ratio(0.5))}}
	return []gear.Model{shared, falls, down, rigtest.Box("box"), rigtest.Biamped()}
}

// comparing compares the figures of one rig.
type comparing struct {
	t        *testing.T
	of       string
	compared *int
}

func (c comparing) same(what string, a, b reckon.Figure) {
	c.t.Helper()
	*c.compared++
	if a.Known() != b.Known() || a.Known() && math.Abs(a.Value-b.Value) > 1e-9*math.Max(1, math.Abs(b.Value)) {
		c.t.Errorf("%s, %s: %s (%s) and %s (%s)", c.of, what, a.Text(), a.Lacks, b.Text(), b.Lacks)
	}
}

func (c comparing) value(what string, a, b float64) {
	c.t.Helper()
	*c.compared++
	if math.IsNaN(a) || math.Abs(a-b) > 1e-9*math.Max(1, math.Abs(b)) {
		c.t.Errorf("%s, %s: %v and %v", c.of, what, a, b)
	}
}

func (c comparing) rig(p *survey.Report) {
	c.places(p)
	matched := survey.Of[match.Verdict](p)
	held := map[rig.Ref]protect.Output{}
	for _, l := range survey.Of[protect.Verdict](p).Outputs {
		held[l.At] = l
	}
	losses := map[string]wire.Lead{}
	for _, l := range survey.Of[wire.Verdict](p).Leads {
		losses[l.Link.To.String()] = l
	}
	for _, o := range matched.Outputs {
		c.output(p, matched, o)
		if l, limited := held[o.At]; limited {
			c.limits(o, l)
		}
		for _, b := range o.Boxes {
			if l, known := losses[b.Lead.Link.To.String()]; known {
				c.same(b.Name()+" loss at wire", l.Loss, b.Loss())
			}
		}
	}
	for _, pair := range matched.Pairs() {
		c.pair(matched, pair)
	}
	c.totals(p, matched)
	c.sayings(p, matched)
}

// places: whatever two stages say of one place under one key is the same.
func (c comparing) places(p *survey.Report) {
	type key struct{ place, key string }
	seen := map[key]reckon.Figure{}
	for _, place := range p.Places() {
		for _, f := range place.Figures {
			k := key{place.Name, f.Key}
			if before, twice := seen[k]; twice {
				c.same(place.Name+" "+f.Key, f, before)
			}
			seen[k] = f
		}
	}
}

// output: the match board, the output in full, the adviser and the laws that bind
// its figures.
func (c comparing) output(p *survey.Report, v match.Verdict, o match.Output) {
	if len(o.Boxes) == 0 {
		return
	}
	name := o.Name()
	line := advise.LineOf(o, advise.UsualAsk(o))
	c.same(name+" power in full", line.Output.Power, o.Power)
	shown, _ := p.Figure(name, "power")
	c.same(name+" power on the board", shown, o.Power)
	if burst := o.Burst(); burst.Known() && o.Gives().Known() {
		c.value(name+" burst under what it holds", math.Min(burst.Value, o.Gives().Value), o.Gives().Value)
	}
	if o.Gives().Known() {
		c.value(name+" gives more than its power", math.Max(o.Gives().Value, o.Power.Value), o.Power.Value)
		u := o.Volts().Value
		c.value(name+" volts", u*u/o.Nominal.Value, o.Gives().Value)
	}
	for i, b := range line.Boxes {
		at := o.Boxes[i]
		c.same(at.Name()+" power in full", b.Power, at.Power())
		c.same(at.Name()+" volts in full", b.Volts, at.Volts())
		c.same(at.Name()+" loss in full", b.Loss, at.Loss())
		c.same(at.Name()+" damping in full", b.Damping, at.Damping())
		if b.Power.Known() {
			c.value(at.Name()+" U²/Z", b.Volts.Value*b.Volts.Value/at.Speaker.NominalZ().Value, b.Power.Value)
		}
		if f, known := p.Figure(at.Name(), "boxPower"); known && onOneOutput(v, at.Name()) {
			c.same(at.Name()+" power among the figures", f, at.Power())
		}
	}
	if o.Live && o.Mode == gear.Separate && o.Dead == "" {
		if a := advise.Advise(p.Index, v, o, nil); len(a.Choices) > 0 && o.Power.Known() {
			c.value(name+" at the adviser", a.Choices[0].Power.Terms[0].Value, o.Power.Value)
			c.same(name+" ratio at the adviser", a.Choices[0].Ratio, o.Ratio)
		}
	}
}

// onOneOutput tells whether a box hangs on one output alone, as by a slip it may
// not.
func onOneOutput(v match.Verdict, name string) bool {
	n := 0
	for _, o := range v.Outputs {
		for _, b := range o.Boxes {
			if b.Name() == name {
				n++
			}
		}
	}
	return n == 1
}

func (c comparing) limits(o match.Output, l protect.Output) {
	name := o.Name()
	if l.Clip().Known() {
		c.value(name+" clip", l.Clip().Value*l.Clip().Value/o.Nominal.Value, o.Alone().Value)
	}
	if l.Long.Known() && l.Clip().Known() {
		c.value(name+" limit over its clip", math.Max(l.Long.Value, l.Clip().Value), l.Clip().Value)
	}
}

// pair: the advice on bridging counts what the outputs give as they are, where no
// limiter holds one of those that share a supply.
func (c comparing) pair(v match.Verdict, pair match.Bridge) {
	var sum float64
	known, limited := true, false
	for _, o := range v.Outputs {
		if o.At.Device == pair.Tag && o.Live {
			limited = limited || o.Limited
		}
		if o.At.Device != pair.Tag || o.Pair != pair.Pair || len(o.Boxes) == 0 {
			continue
		}
		if !o.Live || o.Dead != "" || o.Mode != gear.Separate {
			return
		}
		known = known && o.Power.Known()
		sum += o.Power.Value
	}
	if known && !limited && pair.Now.Known() {
		c.value(pair.Name()+" separate", pair.Now.Value, sum)
	}
}

func (c comparing) totals(p *survey.Report, v match.Verdict) {
	least := math.Inf(1)
	for _, o := range v.Outputs {
		if o.Live && o.Ratio.Known() && len(o.Boxes) > 0 {
			least = math.Min(least, o.Ratio.Value)
		}
	}
	if t := plan.AsItIs(p.Index, v.Outputs, plan.WishesOf(p.Rig())); !math.IsInf(least, 1) {
		c.value("least ratio of the totals", t.Ratio, least)
	}
}

// sayings: nothing is to spare, and nothing fine, over a stop, a silent box or an
// unknown that decides.
func (c comparing) sayings(p *survey.Report, v match.Verdict) {
	spare, known := p.Figure("job", "spare")
	decides := v.Decides()
	if known {
		c.same("spare of the job", spare, decides.Spare)
	}
	if decides.Partial() && decides.Spare.Known() {
		c.t.Errorf("%s: %s are silent or unknown, and %s is to spare", c.of, decides.Silent, decides.Spare.Text())
	}
	stopped := finding.Worst(p.Findings) == finding.Stop
	for _, s := range []finding.Stage{finding.Brief, finding.Match} {
		if said := p.Says(s); stopped && strings.Contains(said, "to spare") {
			c.t.Errorf("%s is at stop, and %s says %q", c.of, s, said)
		}
	}
}

// A printed sum comes out with the digits that are printed: over the demo rigs, every
// figure whose formula can be worked out again from what stands there.
func TestPrintedSumsComeOut(t *testing.T) {
	worked, all := 0, 0
	for _, r := range rigs(t) {
		for _, place := range survey.Survey(r).Places() {
			for _, f := range place.Figures {
				if f.Formula == "" || !f.Known() {
					continue
				}
				all++
				came, can := reckon.WorkedAgain(f)
				if !can {
					continue
				}
				if worked++; came != f.Text() {
					t.Errorf("%s: %s comes out as %s", place.Name, f.Working(), came)
				}
			}
		}
	}
	if 3*worked < 2*all {
		t.Errorf("only %d of %d sums can be worked again", worked, all)
	}
}
