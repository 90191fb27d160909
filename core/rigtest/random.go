package rigtest

import (
	"fmt"
	"math/rand/v2"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
)

// Random is a rig of random devices of the models, plugged, set and limited at
// random as far as a rig can be: the same for the same seed. Most of what it
// holds is wrong in some way.
func Random(models []gear.Model, seed uint64) rig.Rig {
	g := generator{rand.New(rand.NewPCG(seed, 42)), rig.NewRig(rig.Brief{Title: fmt.Sprintf("Random %d", seed)})}
	g.brief()
	g.devices(models)
	if g.IntN(3) > 0 {
		g.mains()
	}
	for range 4 * len(g.rig.Devices) {
		g.lead()
	}
	for range len(g.rig.Devices) {
		g.setting()
	}
	return g.rig
}

type generator struct {
	*rand.Rand
	rig rig.Rig
}

// try makes an edit where it can be made.
func (g *generator) try(e rig.Edit) {
	if next, err := rig.Apply(g.rig, e); err == nil {
		g.rig = next
	}
}

func one[T any](g *generator, of []T) T { return of[g.IntN(len(of))] }

func (g *generator) brief() {
	b := g.rig.Brief
	b.Listeners, b.Outdoors = g.IntN(500), g.IntN(2) == 0
	b.Programme, b.Region = one(g, rig.Programmes), one(g, rig.Regions)
	if g.IntN(4) > 0 {
		b.Wanted, b.Distance = unit.Of(unit.Decibel(85+g.IntN(25))), unit.Of(unit.Metre(3+g.IntN(40)))
	}
	g.try(rig.SetBrief{Brief: b})
	g.try(rig.SetWishes{Policy: one(g, rig.Policies), Bridging: one(g, rig.Schools)})
}

func (g *generator) devices(models []gear.Model) {
	for i := range 4 + g.IntN(50) {
		m := one(g, models)
		e := rig.AddDevices{Model: m, Tags: []string{fmt.Sprintf("D%d", i)}, Place: one(g, []string{"", "stage left", "mix"})}
		if g.IntN(4) == 0 {
			e.Aim = rig.OnStage
		}
		g.try(e)
	}
}

// mains is a supply of random parts, with some of the devices on it.
func (g *generator) mains() {
	maybe := func(a float64) unit.Given[unit.Ampere] {
		if g.IntN(4) == 0 {
			return unit.Given[unit.Ampere]{}
		}
		return unit.Of(unit.Ampere(a))
	}
	parts := []rig.Supply{{Name: "house", Sort: rig.Source, Phases: one(g, []int{0, 1, 3}), Current: maybe(32),
		Earth: one(g, []gear.Answer{"", gear.Yes, gear.No})}}
	for i := range 1 + g.IntN(6) {
		k := rig.Supply{Name: fmt.Sprintf("D%d", i), Sort: rig.Breaker, From: "house", Phase: g.IntN(4),
			// as a device is called
			Current: maybe(one(g, []float64{2, 6, 16})), Curve: one(g, rig.Curves), Residual: maybe(0.03)}
		if k.Residual.Known() {
			k.Type = one(g, rig.ResidualTypes)
		}
		lead := rig.Supply{Name: fmt.Sprintf("lead %d", i), Sort: rig.Feeder, From: k.Name, Current: maybe(16),
			Length: unit.Of(unit.Metre(5 + g.IntN(60))), Area: unit.Of(unit.SquareMillimetre(1.5)), OnReel: g.IntN(3) == 0}
		wall := rig.Supply{Name: fmt.Sprintf("wall %d", i), Sort: rig.Outlet, From: one(g, []string{k.Name, lead.Name}),
			Earth: one(g, []gear.Answer{"", gear.Yes, gear.No}), Lamps: one(g, []rig.Lamps{"", "110", "100"})}
		if g.IntN(3) == 0 {
			wall.Volts, wall.Loaded, wall.LoadedBy = unit.Of(unit.Volt(230)), unit.Of(unit.Volt(215+g.IntN(15))), maybe(9)
		}
		if !wall.LoadedBy.Known() {
			wall.Loaded = unit.Given[unit.Volt]{}
		}
		parts = append(parts, k, lead, wall)
	}
	g.try(rig.SetSupplies{Supplies: parts})
	for _, d := range g.rig.Devices {
		g.try(rig.PlugMains{Tag: d.Tag, Outlet: fmt.Sprintf("wall %d", g.IntN(6))})
	}
}

// port is a random port of a random device, of one direction or another.
func (g *generator) port(in bool) (rig.Ref, bool) {
	if len(g.rig.Devices) == 0 {
		return rig.Ref{}, false
	}
	d := one(g, g.rig.Devices)
	m, _ := g.rig.Model(d.Model)
	var fit []string
	for _, p := range m.Ports() {
		if (p.Dir == gear.In) == in {
			fit = append(fit, p.Name)
		}
	}
	if len(fit) == 0 {
		return rig.Ref{}, false
	}
	return rig.Ref{Device: d.Tag, Port: one(g, fit)}, true
}

func (g *generator) lead() {
	from, ok := g.port(false)
	to, also := g.port(true)
	if !ok || !also {
		return
	}
	k := rig.Link{From: from, To: to, Swapped: g.IntN(20) == 0}
	if g.IntN(2) == 0 {
		k.Length, k.Area = unit.Of(unit.Metre(1+g.IntN(60))), unit.Of(one(g, []unit.SquareMillimetre{0.75, 1.5, 2.5, 4}))
	}
	if g.IntN(10) == 0 {
		k.Series = "string"
	}
	g.try(rig.Connect{Link: k})
}

func (g *generator) setting() {
	if len(g.rig.Devices) == 0 {
		return
	}
	d := one(g, g.rig.Devices)
	switch g.IntN(5) {
	case 0:
		g.try(rig.SetPair{Tag: d.Tag, Set: rig.Pair{Output: one(g, []gear.Mode{gear.Separate, gear.Bridged}),
			Input: one(g, []rig.InputMode{rig.SeparateIn, rig.ParallelIn})}})
	case 1:
		volts := unit.Volt(10 + g.IntN(90))
		g.try(rig.SetLimiter{Tag: d.Tag, Set: rig.Limiter{Port: gear.ChannelPort(g.IntN(2)), RMS: unit.Of(volts),
			Peak: unit.Of(2 * volts)}})
	case 2:
		g.try(rig.SetKnob{Tag: d.Tag, Set: rig.Knob{Channel: g.IntN(2), Down: unit.Decibel(g.IntN(12))}})
	case 3:
		g.try(rig.RecordReading{At: rig.Ref{Device: d.Tag, Port: gear.ChannelPort(g.IntN(2))},
			DC: unit.Of(unit.DC(g.IntN(12)))})
	case 4:
		g.try(rig.ChangeDevice{Tag: d.Tag, NewTag: d.Tag, Place: d.Place,
			Switch: one(g, []string{"", "strip 1", "strip 2"}), Aim: d.Aim()})
	}
}
