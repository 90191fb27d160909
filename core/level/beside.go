package level

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/sound"
	"largo/core/unit"
)

// Beside is what plays one programme to the same listeners: two ways of a box, two kinds of
// box, passive tops beside an active sub. They are compared from the last stage that they
// have in common, 0 dBu at its outputs.
type Beside struct {
	From string // that stage, by the tag of its device
	Aim  rig.Aim
	Rows []Kind // in the order of the rig
}

// Kind is boxes of one model, or one way of them, within a Beside.
type Kind struct {
	Name  string // as "Keel 12, low"
	First string // the first of the boxes
	Boxes int
	Sub   bool
	// Gives is dB SPL at the listeners with 0 dBu at the common stage: all of its boxes, at
	// their distances, added as powers.
	Gives   unit.Given[unit.Decibel]
	Lacks   string // why that is not known
	Over    unit.Given[unit.Decibel]
	Turn    []Move // the controls that bring it down by Over
	Swapped bool   // an odd number of leads on its way swap polarity
	Arrives unit.Given[unit.Second]
	Late    string                  // why that is not known
	Delay   unit.Given[unit.Second] // by which it has to wait for the last to arrive

	known unit.Given[unit.Second] // the part of Arrives that is known; none without a distance
}

// Polarity is how the leads leave it.
func (k *Kind) Polarity() string {
	if k.Swapped {
		return "swapped by a lead"
	}
	return "straight"
}

// Matched tells whether a kind needs no turning down: it is as loud as the quietest, to half
// a decibel.
func (k *Kind) Matched() bool { return k.Over.Or(0) <= matched }

// besideDegree is the temperature of the air for which arrivals are told, °C.
const besideDegree = 20

// Besides are the programmes that two or more kinds play.
func Besides(x *rig.Index, v Verdict) []Beside {
	b := besides{x: x}
	for i := range v.Lines {
		l := &v.Lines[i]
		box := &l.Output.Boxes[0]
		b.add(OfOutput(x, l.Output, "", nil), box.Device, box.Way, box.Speaker.Sub, box.In(), len(l.Output.Boxes))
	}
	for _, a := range v.Active {
		d, m := x.Device(a.Tag)
		b.add(a.Chain, d, "", m.Loudspeaker.Sub, rig.Ref{Device: a.Tag, Port: gear.PoleIn(1)}, 1)
	}
	list := slices.DeleteFunc(b.list, func(g Beside) bool { return len(g.Rows) < 2 })
	for i := range list {
		list[i].match()
		list[i].wait()
	}
	return list
}

type besides struct {
	x    *rig.Index
	list []Beside
}

// add counts the boxes at the end of a way to their kind.
func (b *besides) add(c Chain, d *rig.Device, way string, sub bool, in rig.Ref, boxes int) {
	if len(c.Steps) == 0 {
		return
	}
	common := 0
	for i, s := range c.Steps {
		if s.Sort == DeskOut {
			common = i
		}
	}
	g := b.group(c.Steps[common].Name, d.Aim())
	_, m := b.x.Device(d.Tag)
	name := m.Name
	if way != "" {
		name += ", " + way
	}
	i := slices.IndexFunc(g.Rows, func(k Kind) bool { return k.Name == name })
	if i < 0 {
		i = len(g.Rows)
		flips, _ := b.x.Flips(in)
		g.Rows = append(g.Rows, Kind{Name: name, First: d.Tag, Sub: sub, Swapped: flips%2 == 1})
		b.arrival(&g.Rows[i], &c, common)
	}
	k := &g.Rows[i]
	k.Boxes += boxes
	after, known1 := c.after(common)
	to, known2 := c.ToSPL.Get()
	switch {
	case !known2:
		k.Gives, k.Lacks = unit.Given[unit.Decibel]{}, c.Lacks
	case !known1:
		k.Gives, k.Lacks = unit.Given[unit.Decibel]{}, "a gain on its way is not on record"
	case k.Lacks == "":
		with := after + to + unit.OfPower(float64(boxes))
		if had, known := k.Gives.Get(); known {
			with = sound.Together(had, with)
		}
		k.Gives = unit.Of(with)
		k.turns(&c)
	}
}

func (b *besides) group(from string, aim rig.Aim) *Beside {
	i := slices.IndexFunc(b.list, func(g Beside) bool { return g.From == from && g.Aim == aim })
	if i < 0 {
		i = len(b.list)
		b.list = append(b.list, Beside{From: from, Aim: aim})
	}
	return &b.list[i]
}

// turns notes the control that brings a way down alone: the amplifier's level control or the
// trim of the active box, which nothing else shares.
func (k *Kind) turns(c *Chain) {
	for i := len(c.Steps) - 1; i >= 0; i-- {
		if s := &c.Steps[i]; (s.Sort == Amplifying || s.Sort == ActiveBox) && s.Move != nil {
			if !slices.ContainsFunc(k.Turn, func(m Move) bool { return m.At == s.Move.At }) {
				k.Turn = append(k.Turn, *s.Move)
			}
			return
		}
	}
}

// arrival is when the sound of a kind is at its listeners, from the common stage on.
func (b *besides) arrival(k *Kind, c *Chain, common int) {
	var lacks []string
	var late unit.Second
	for _, s := range c.Steps[common+1:] {
		d, m := b.x.Device(s.Name)
		own := unit.Given[unit.Second]{}
		switch {
		case d == nil:
			continue
		case s.Sort == Processing:
			own = m.Processor.Latency
		case s.Sort == ActiveBox:
			own = m.Loudspeaker.Latency
		default:
			continue
		}
		if v, known := own.Get(); known {
			late += v
		} else {
			lacks = append(lacks, "how late "+s.Name+" is, is not on record")
		}
	}
	far, known := c.Far.Get()
	if !known {
		lacks = append(lacks, c.Lacks)
	} else {
		k.known = unit.Of(late + unit.Second(float64(far)/sound.Speed(besideDegree)))
	}
	if k.Late = strings.Join(lacks, ", "); k.Late == "" {
		k.Arrives = k.known
	}
}

// match finds how far each is over the quietest, and where its controls have to stand.
func (g *Beside) match() {
	least := unit.Decibel(math.Inf(1))
	for _, k := range g.Rows {
		if v, known := k.Gives.Get(); known {
			least = min(least, v)
		}
	}
	for i := range g.Rows {
		k := &g.Rows[i]
		v, known := k.Gives.Get()
		if !known {
			continue
		}
		k.Over = unit.Of(v - least)
		by := unit.Decibel(math.Round(2*float64(v-least)) / 2) // knobs and trims are read to half a decibel
		if slices.ContainsFunc(k.Turn, func(m Move) bool { return m.Now-by < m.Low }) {
			k.Turn = nil // it goes no lower
		}
		for j := range k.Turn {
			k.Turn[j].Now -= by
		}
	}
}

// wait delays each to the last that arrives, where all are known; what all lack alike, as how
// late the processor before them is, makes no difference between them.
func (g *Beside) wait() {
	if slices.ContainsFunc(g.Rows, func(k Kind) bool { return !k.known.Known() || k.Late != g.Rows[0].Late }) {
		return
	}
	last := slices.MaxFunc(g.Rows, func(a, b Kind) int { return cmp.Compare(a.known.Or(0), b.known.Or(0)) })
	for i := range g.Rows {
		g.Rows[i].Delay = unit.Of(last.known.Or(0) - g.Rows[i].known.Or(0))
	}
}
