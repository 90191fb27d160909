package drive

import (
	"math"

	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/unit"
)

// Offer is the amplifier's power at a box as policies compare it with its rating:
// nominal loads, no leads and no limiter, W.
func (b *Box) Offer() reckon.Figure {
	o, f := b.out, b.OfferW()
	if !f.Known() || len(o.Boxes) == 1 {
		return f
	}
	z := b.Speaker.NominalZ()
	if b.Share == 1 {
		f.Formula, f.Terms = "{P} × {Zload} / {Zbox}", []reckon.Term{o.Power.As("P"), o.Nominal.As("Zload"), z.As("Zbox")}
		return f.Because("side by side, power divides as 1/Z")
	}
	f.Formula, f.Terms = "{P} × {k}² × {Zload} / {Zbox}", []reckon.Term{o.Power.As("P"),
		reckon.Count("k", "share of the volts", b.Share), o.Nominal.As("Zload"), z.As("Zbox")}
	return f.Because("P = U²/Z at each box")
}

// OfferW is the same without its working, for it is asked for with every box.
func (b *Box) OfferW() reckon.Figure {
	const key, symbol, name = "offer", "Pbox", "amplifier power at the box"
	o := b.out
	if !o.Power.Known() {
		return reckon.Unknown(key, symbol, name, o.Power.Lacks)
	}
	if len(o.Boxes) == 1 {
		return o.Power.Called(key, symbol, name)
	}
	return reckon.Of(key, symbol, name,
		unit.Watt(o.Power.Value*b.Share*b.Share*o.Nominal.Value/float64(b.Speaker.Nominal.Or(0))), "")
}

// lacksPath is the piece on the way whose length or conductor is not known, as a
// sentence; "" where all are.
func (b *Box) lacksPath() string {
	for i := b.number; i >= 0; i = b.out.Boxes[i].Lead.Before {
		if !b.out.Boxes[i].Lead.Known() {
			return "the length or the conductor of the lead to " + b.out.Boxes[i].Name() + " is not on record"
		}
	}
	return ""
}

// Path is the resistance of all pieces of lead to the box, there and back, at a
// temperature in °C, Ω.
func (b *Box) Path(celsius float64) reckon.Figure {
	const key, symbol, name = "path", "R", "leads to the box, there and back"
	if lacks := b.lacksPath(); lacks != "" {
		return reckon.Unknown(key, symbol, name, lacks)
	}
	var r unit.Ohm
	for i := b.number; i >= 0; i = b.out.Boxes[i].Lead.Before {
		r += b.out.Boxes[i].Lead.Ohms(celsius)
	}
	return reckon.Of(key, symbol, name, r, "Σ 2 ρ l / A").
		Noting("ρ = 1/58 Ω mm²/m at 20 °C, 0.393 % more for each kelvin; flexible lead may be 11 to 16 % worse.").
		Because("IEC 60028")
}

// Length is of all pieces of lead to the box, unknown while one is.
func (b *Box) Length() unit.Given[unit.Metre] {
	var whole unit.Metre
	for i := b.number; i >= 0; i = b.out.Boxes[i].Lead.Before {
		m, known := b.out.Boxes[i].Lead.Length.Get()
		if !known {
			return unit.Given[unit.Metre]{}
		}
		whole += m
	}
	return unit.Of(whole)
}

// Arrives is the share of the output's volts at the box, leads and all, with the
// copper at a temperature in °C; 0 while the load is not known.
func (b *Box) shareAt(celsius float64) float64 {
	if celsius == referenceDegree || b.share == 0 {
		return b.share
	}
	return b.out.Nominally(b.out.LeadsAt(celsius)).Share[b.number]
}

// WantedLoss is what the leads to a box may lose where nobody asks for another
// figure, dB (common practice, no source).
const WantedLoss unit.Decibel = 0.5

// Loss is the level lost in the leads to the box, all pieces of them and with all
// boxes on the line, dB. How a string divides the volts is no loss.
func (b *Box) Loss() reckon.Figure { return b.LossAt(referenceDegree) }

// LossAt is the loss with the copper at a temperature in °C.
func (b *Box) LossAt(celsius float64) reckon.Figure {
	const key, symbol, name = "loss", "ΔL", "level lost in the leads"
	lacks := b.lacksPath()
	if b.share == 0 {
		lacks = b.out.Nominal.Lacks
	}
	if lacks != "" {
		return reckon.Unknown(key, symbol, name, lacks)
	}
	k := b.shareAt(celsius) / b.Share
	loss := math.Max(0, -20*math.Log10(k))
	if len(b.out.Boxes) == 1 {
		return reckon.Of(key, symbol, name, unit.Decibel(loss), "20 lg(1 + {R} / {Z})", b.Path(celsius).As("R"),
			b.Speaker.NominalZ().As("Z")).Because("voltage divider")
	}
	return reckon.Of(key, symbol, name, unit.Decibel(loss), "−20 lg {k}",
		reckon.Count("k", "volts that arrive, over those without leads", k)).
		Because("network of leads and nominal loads, with all boxes on the line")
}

// Loses tells whether the leads to the box, as far as their figures are known, lose
// more than so many dB.
func (b *Box) Loses(more unit.Decibel) bool {
	return b.share != 0 && b.share < b.Share*math.Pow(10, -float64(more)/20) && b.lacksPath() == ""
}

// TopW is the power at the box of a sine with the highest peaks that reach it, in W,
// without its working; where it is not known, what it lacks.
func (b *Box) TopW() (w unit.Watt, lacks string) {
	top, lacks := b.out.topW()
	return top * unit.Watt(b.share*b.share*b.out.Nominal.Value/float64(b.Speaker.Nominal.Or(0))), lacks
}

// Power is what reaches the box for long, W: after leads and limiter.
func (b *Box) Power() reckon.Figure {
	return b.carried(b.out.Gives(), "boxPower", "Pbox", "power that reaches the box")
}

// Top is the power at the box of a sine with the highest peaks that reach it, W.
func (b *Box) Top() reckon.Figure {
	return b.carried(b.out.Top(), "boxTop", "Ptop", "power of the highest peaks at the box, as a sine")
}

// carried is a power at the output as it arrives at the box. Leads that are not
// known take nothing, which is said.
func (b *Box) carried(p reckon.Figure, key, symbol, name string) reckon.Figure {
	if !p.Known() {
		return reckon.Unknown(key, symbol, name, p.Lacks)
	}
	z := b.Speaker.NominalZ()
	f := reckon.Of(key, symbol, name, unit.Watt(p.Value*b.share*b.share*b.out.Nominal.Value/z.Value),
		"{k}² × {P} × {Zload} / {Zbox}", reckon.Count("k", "share of the volts that arrives", b.share), p.As("P"),
		b.out.Nominal.As("Zload"), z.As("Zbox")).Because("P = U²/Z at each box")
	if b.lacksPath() != "" {
		f = f.Noting("A lead on the way is not on record; what it loses is left out.")
	}
	return f
}

// Volts is the rms voltage at the box while the output gives what it gives for
// long.
func (b *Box) Volts() reckon.Figure {
	const key, symbol, name = "boxVolts", "U", "volts at the box"
	at := b.out.Volts()
	if !at.Known() {
		return reckon.Unknown(key, symbol, name, at.Lacks)
	}
	return reckon.Of(key, symbol, name, unit.Volt(at.Value*b.share), "{k} × {U0}",
		reckon.Count("k", "share that arrives", b.share), at.As("U0")).Because("Ohm's law")
}

// Damping is the damping factor at the box: Z over all that stands between it and
// a stiff voltage while all boxes move in step, R = (open volts − volts at the
// box) / its current. Boxes that share a lead see as many times its resistance,
// and the other coils of a string count in full.
func (b *Box) Damping() reckon.Figure {
	const key, symbol, name = "boxDamping", "D", "damping at the box"
	lacks := b.lacksPath()
	if inside := b.out.Inside(); !inside.Known() {
		lacks = inside.Lacks
	}
	if b.share == 0 {
		lacks = b.out.Nominal.Lacks
	}
	if lacks != "" {
		return reckon.Unknown(key, symbol, name, lacks)
	}
	z := b.Speaker.NominalZ()
	r := unit.Ohm(z.Value * (1 - b.damped) / b.damped)
	return reckon.Ratio(key, symbol, name, z.Value/float64(r), "{Z} / {R}", z.As("Z"),
		reckon.In("R", "between it and a stiff voltage, all boxes in step", r, "")).
		Noting("Above about 20 nothing changes that is heard (common practice, no source).").
		Because("R = (open volts − volts at the box) / its current")
}

// Number is the place of the box in its output.
func (b *Box) Number() int { return b.number }

// Blame is the piece of lead on the way to the box, by the box it ends at, across
// which most volts are lost. The load has to be known.
func (b *Box) Blame() int { return b.blame(b.out.On(b.number), b.out.LeadsAt(referenceDegree)) }

// Thin is the piece of lead that loses most on the way to a box, and the least
// conductor with which that box would lose no more than wanted.
type Thin struct {
	Box   int // that the piece ends at, in its output
	Alone bool
	// Need is the conductor of that piece in mm² where the others stay as they
	// are; of all pieces on the way where none alone would do.
	Need reckon.Figure
}

// Conductor is what the leads to a box take to lose no more than wanted, dB, with
// the copper at a temperature in °C.
func (b *Box) Conductor(wanted unit.Decibel, celsius float64) Thin {
	const key, symbol, name = "need", "A", "conductor for the wanted loss"
	way := b.out.On(b.number)
	t := Thin{Box: b.number}
	lacks := b.lacksPath()
	if b.share == 0 {
		lacks = b.out.Nominal.Lacks
	}
	if lacks != "" {
		t.Need = reckon.Unknown(key, symbol, name, lacks)
		return t
	}
	leads := b.out.LeadsAt(celsius)
	t.Box = b.blame(way, leads)
	loss := func(lead func(int) unit.Ohm) float64 {
		return -20 * math.Log10(b.out.Nominally(lead).Share[b.number]/b.Share)
	}
	with := func(changed []int, area unit.SquareMillimetre) float64 {
		return loss(func(i int) unit.Ohm {
			for _, c := range changed {
				if c == i {
					return gear.LoopResistance(b.out.Boxes[i].Lead.Length.Or(0), area, celsius)
				}
			}
			return leads(i)
		})
	}
	changed := []int{t.Box}
	if t.Alone = with(changed, largestArea) <= float64(wanted); !t.Alone {
		changed = way
	}
	least := leastArea(func(a unit.SquareMillimetre) bool { return with(changed, a) <= float64(wanted) })
	if least == 0 {
		t.Need = reckon.Unknown(key, symbol, name, "other leads on the line lose more than that already")
		return t
	}
	of := "the lead to " + b.out.Boxes[t.Box].Name()
	if !t.Alone && len(way) > 1 {
		of = "every lead on the way"
	}
	t.Need = reckon.Of(key, symbol, name, least, "least A with −20 lg {k} ≤ {ΔL}",
		reckon.Count("k", "volts that arrive, over those without leads", math.Pow(10, -float64(wanted)/20)),
		reckon.In("ΔL", "wanted loss", wanted, "")).
		Noting("Of " + of + ".").Because("IEC 60028, network of leads and nominal loads")
	return t
}

// blame is the piece on the way across which most volts are lost.
func (b *Box) blame(way []int, leads func(int) unit.Ohm) int {
	share := b.out.Nominally(leads).Share
	without := b.out.Boxes
	worst, most := way[len(way)-1], -1.0
	before := 1.0
	for _, i := range way {
		at := share[i] / without[i].Share
		if lost := before - at; lost > most {
			worst, most = i, lost
		}
		before = at
	}
	return worst
}

// The conductors between which one is sought, mm².
const largestArea, smallestArea unit.SquareMillimetre = 1000, 0.01

// leastArea is the least conductor that does, 0 where none does.
func leastArea(does func(unit.SquareMillimetre) bool) unit.SquareMillimetre {
	low, high := smallestArea, largestArea
	if !does(high) {
		return 0
	}
	for range 60 {
		if mid := unit.SquareMillimetre(math.Sqrt(float64(low * high))); does(mid) {
			high = mid
		} else {
			low = mid
		}
	}
	return high
}
