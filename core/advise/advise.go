package advise

import (
	"fmt"
	"slices"

	"largo/core/gear"
	"largo/core/match"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/sound"
	"largo/core/unit"
)

// Choice is one way to make the boxes of an output louder, or the way they are
// driven now.
type Choice struct {
	Name    string
	Power   reckon.Figure // at each box, W
	Gain    reckon.Figure // level over the way it is now, dB
	Louder  reckon.Figure // times as loud as people would call it
	Ratio   reckon.Figure // power over rating
	Damping reckon.Figure // at the amplifier's terminals
	Draw    reckon.Figure // of the amplifier on ordinary music, W
	Heat    reckon.Figure // in it, W
	Least   reckon.Figure // least load of that mode, Ω
	Noise   unit.Decibel  // more than a channel alone
	Fails   string        // what one fault takes with it
	Allowed bool          // by rating, policy and school
	Why     string        // why not, or at what price

	total reckon.Figure // of the output, W
}

// Advice weighs the ways side by side.
type Advice struct {
	Output  match.Output
	Choices []Choice
	Verdict string
	Stiff   reckon.Figure
	May     match.May
	Because string
}

func louder(gain reckon.Figure) reckon.Figure {
	if !gain.Known() {
		return reckon.Unknown("louder", "N", "as loud as people would call it", gain.Lacks)
	}
	return reckon.Ratio("louder", "N", "as loud as people would call it", float64(sound.Louder(unit.Decibel(gain.Value))),
		"2^({ΔL} / 10 dB)", gain.As("ΔL")).
		Noting("Some say twice at 6 dB; in the deep bass 5 to 6 dB are.").Because("sone scale")
}

// Advise weighs bridging for an output against a bigger amplifier of stock, a
// more sensitive box of stock, and a second set of boxes.
func Advise(x *rig.Index, v match.Verdict, o match.Output, owned []gear.Holding) Advice {
	a := Advice{Output: o, Stiff: reckon.Unknown("stiff", "s", "stiffness", "the load is not known")}
	a.May, a.Because = match.MayNot, "it has no second channel to bridge with"
	if o.Pair >= 0 {
		a.May, a.Because = match.MayBridge(o.Amp, o.Pair)
	}
	if len(o.Boxes) == 0 || !o.Nominal.Known() {
		a.Verdict = "There is no load here to weigh anything for."
		return a
	}
	a.Stiff = stiffness(o.Fed, unit.Ohm(o.Nominal.Value))
	on := match.Beside(v.Outputs, o, gear.Separate)
	hung := loadOf(o)
	base := choose("one channel", hung, on, gear.Separate)
	base.Fails = "the boxes of this channel"
	base.judge(policyOf(x, o), hung)
	a.Choices = append(a.Choices, base)
	if bridged, ok := a.bridged(x, o, match.Beside(v.Outputs, o, gear.Bridged)); ok {
		a.Choices = append(a.Choices, bridged)
	}
	if c, ok := biggerAmp(x, o, owned); ok && c.Power.Value > base.Power.Value {
		a.Choices = append(a.Choices, c)
	}
	if c, ok := keenerBox(x, o, on, owned); ok {
		a.Choices = append(a.Choices, c)
	}
	a.Choices = append(a.Choices, secondSet(x, o, on))
	for i := range a.Choices {
		a.Choices[i].compare(a.Choices[0])
	}
	a.Verdict = a.verdict(x)
	return a
}

// policyOf is the policy of an output's boxes, that of the first.
func policyOf(x *rig.Index, o match.Output) rig.Policy {
	return match.PolicyAt(x.Rig, *o.Boxes[0].Box.Box)
}

// hung is boxes as a mode would find them: their load together, and what each
// takes of the power.
type hung struct {
	z     unit.Ohm
	boxes []hungBox
}

type hungBox struct {
	name   string
	part   float64 // of the output's power that it takes
	rating reckon.Figure
}

func loadOf(o match.Output) hung {
	h := hung{z: unit.Ohm(o.Nominal.Value)}
	for i := range o.Boxes {
		b := &o.Boxes[i]
		h.boxes = append(h.boxes, hungBox{b.Name(), b.Share * b.Share * o.Nominal.Value / b.Speaker.NominalZ().Value,
			b.Continuous()})
	}
	return h
}

// choose works out an amplifier and a mode for the boxes of an output. Power and
// ratio are those of the box that gets most for its rating.
func choose(name string, h hung, on match.Tried, mode gear.Mode) Choice {
	c := Choice{Name: name, Allowed: true}
	amp := on.Model.Amplifier
	c.Least = amp.LeastLoad(mode)
	power := on.Gives(mode, h.z)
	c.Power = reckon.Unknown("boxPower", "Pbox", "power at each box", power.Lacks)
	if power.Known() {
		c.total = power
		worst := h.worst()
		c.Power = reckon.Of("boxPower", "Pbox", "power at "+worst.name, unit.Watt(power.Value*worst.part), "{P} × {k}",
			power.As("P"), reckon.Count("k", "part that it takes", worst.part)).Because("ratings table")
		c.mains(on.Model, power, mode)
	} else {
		c.Draw, c.Heat = reckon.Unknown("draw", "Pin", "taken from the mains on music", power.Lacks),
			reckon.Unknown("heat", "Ph", "heat in it on music", power.Lacks)
	}
	if inside, known := amp.OutputImpedance(mode); known {
		c.Damping = reckon.Ratio("damping", "D", "damping at its terminals", float64(h.z/inside), "{Z} / {Zo}",
			reckon.In("Z", "load", h.z, ""), reckon.In("Zo", "output impedance", inside, ""))
	} else {
		c.Damping = reckon.Unknown("damping", "D", "damping at its terminals",
			"the sheet gives neither output impedance nor a damping factor with its load")
	}
	return c
}

// worst is the box that gets most for its rating; one without a rating before all
// others, for nobody knows what it stands.
func (h hung) worst() hungBox {
	worst := h.boxes[0]
	for _, b := range h.boxes[1:] {
		switch {
		case !worst.rating.Known():
		case !b.rating.Known() || b.part/b.rating.Value > worst.part/worst.rating.Value:
			worst = b
		}
	}
	return worst
}

// mains works out draw and heat on ordinary music, an eighth of the power. A
// bridge is both channels, so a channel alone counts half the idle draw.
func (c *Choice) mains(m *gear.Model, power reckon.Figure, mode gear.Mode) {
	t := m.Draw()
	channels := 1.0
	if mode == gear.Bridged {
		channels = 2
	}
	idle := t.Idle * unit.Watt(channels/float64(m.Amplifier.Channels))
	out := unit.Watt(power.Value * match.ProgrammePart)
	taken := idle + t.Above(out)
	c.Draw = reckon.Of("draw", "Pin", "taken from the mains on music", taken, "{P0} + {P} / 8 / {η}",
		reckon.In("P0", "idle, its channels' part", idle, ""), power.As("P"),
		reckon.Count("η", "efficiency at an eighth", float64(t.Programme))).
		Noting(t.Assumed).Because("IEC 62368-1, an eighth of the rated power (from memory)")
	c.Heat = reckon.Of("heat", "Ph", "heat in it on music", taken-out, "{Pin} − {P} / 8", c.Draw.As("Pin"),
		power.As("P")).Because("what is taken and not given out")
}

// judge holds a choice against the policy, for every box.
func (c *Choice) judge(policy rig.Policy, h hung) {
	c.Ratio = match.RatioOf(c.Power, h.worst().rating)
	_, high := match.Band(policy)
	switch {
	case !c.Power.Known():
		c.Allowed, c.Why = false, c.Power.Lacks
	case c.Ratio.Known() && c.Ratio.Value > high*(1+match.BandTolerance):
		c.Allowed, c.Why = false, fmt.Sprintf("it would give %s %s times its rating; the policy %q allows %s",
			h.worst().name, unit.Fixed(c.Ratio.Value, 2), policy, unit.Number(high))
	}
}

func (a *Advice) bridged(x *rig.Index, o match.Output, on match.Tried) (Choice, bool) {
	if o.Pair < 0 {
		return Choice{}, false
	}
	h := loadOf(o)
	c := choose("both channels bridged", h, on, gear.Bridged)
	c.Noise = 3.01 // two uncorrelated sources of noise
	c.Fails = "all boxes of both channels"
	if c.judge(policyOf(x, o), h); c.Allowed {
		switch o.Amp.Inverts() {
		case gear.BySwitch:
		case gear.Inside:
			c.Why = "both inputs take the same signal: its second channel is turned inside"
		default:
			c.Why = "its second input is turned " + string(o.Amp.Inverts())
		}
	}
	if !a.May.Under(x.Rig.Bridging) {
		c.Allowed, c.Why = false, a.Because
		if x.Rig.Bridging == rig.Never {
			c.Why = "the school chosen is never to bridge"
		}
	}
	return c, true
}

// biggerAmp is the strongest amplifier of stock, on one channel, that the
// policy allows.
func biggerAmp(x *rig.Index, o match.Output, owned []gear.Holding) (Choice, bool) {
	var best Choice
	found := false
	h := loadOf(o)
	for i := range owned {
		m := owned[i].Model
		if m.Kind != gear.KindAmplifier || m.ID == o.Fed.Model.ID {
			continue
		}
		c := choose("one channel of "+m.Title(), h, match.Alone(&m, o.Fed.Supply), gear.Separate)
		c.Fails = "the boxes of this channel"
		if c.judge(policyOf(x, o), h); c.Allowed && (!found || c.Power.Value > best.Power.Value) {
			best, found = c, true
		}
	}
	return best, found
}

// keenerBox is the most sensitive box of stock of the same sort, on the channel as
// it is. It is offered in place of boxes that are all of one kind.
func keenerBox(x *rig.Index, o match.Output, on match.Tried, owned []gear.Holding) (Choice, bool) {
	now := o.Boxes[0].Speaker
	s0, z0 := now.OneWattSensitivity(), now.NominalZ()
	mixed := slices.ContainsFunc(o.Boxes, func(b match.Box) bool { return b.Device.Model != o.Boxes[0].Device.Model })
	if !s0.Known() || mixed {
		return Choice{}, false
	}
	var best Choice
	most := s0.Value
	for i := range owned {
		b := owned[i].Model.Loudspeaker
		if b == nil || b.Active || len(b.Ways) > 0 || b.Sub != now.Sub || b.Transformer {
			continue
		}
		s, z := b.OneWattSensitivity(), b.NominalZ()
		if !s.Known() || !z.Known() || s.Value <= most {
			continue
		}
		h := loadOf(o)
		h.z *= unit.Ohm(z.Value / z0.Value)
		for j := range h.boxes {
			h.boxes[j].rating = b.ContinuousW()
		}
		c := choose("as many "+owned[i].Model.Title(), h, on, gear.Separate)
		c.Fails = "the boxes of this channel"
		if c.judge(policyOf(x, o), h); !c.Allowed {
			continue
		}
		c.Gain = reckon.Of("gain", "ΔL", "more sensitive", unit.Decibel(s.Value-s0.Value), "{S2} − {S1}",
			s.As("S2"), s0.As("S1"))
		best, most = c, s.Value
	}
	return best, best.Name != ""
}

// secondSet is the same boxes once more on a second channel, which asks the same of
// the supply once more.
func secondSet(x *rig.Index, o match.Output, on match.Tried) Choice {
	h := loadOf(o)
	c := choose("twice the boxes, a channel for each half", h, on.Twice(gear.Separate, h.z), gear.Separate)
	c.Fails = "half of the boxes"
	c.judge(policyOf(x, o), h)
	gain := unit.Decibel(3.01)
	why := "two sources that do not add in step"
	if o.Boxes[0].Speaker.Sub {
		gain, why = 6.02, "subwoofers close together add in step"
	}
	c.Gain = reckon.Of("gain", "ΔL", "twice the boxes", gain, "").Because(why)
	return c
}

// compare gives a choice its level over the way it is now.
func (c *Choice) compare(now Choice) {
	switch {
	case !c.Power.Known() || !now.Power.Known():
		c.Gain = reckon.Unknown("gain", "ΔL", "level over one channel", firstLack(c.Power, now.Power))
	case c.Gain.Key == "":
		c.Gain = reckon.Of("gain", "ΔL", "level over one channel", unit.OfPower(c.total.Value/now.total.Value),
			"10 lg({P2} / {P1})", c.total.As("P2"), now.total.As("P1")).Because("level follows power")
	default:
		own := c.Gain
		c.Gain = reckon.Of("gain", "ΔL", "level over one channel", unit.Decibel(own.Value)+
			unit.OfPower(c.total.Value/now.total.Value), "{Δ} + 10 lg({P2} / {P1})",
			own.As("Δ"), c.total.As("P2"), now.total.As("P1")).Because(own.Source + "; level follows power")
	}
	c.Louder = louder(c.Gain)
}

// verdict says what to do, under the school chosen, and why.
func (a *Advice) verdict(x *rig.Index) string {
	now := a.Choices[0]
	low, _ := match.Band(policyOf(x, a.Output))
	var bridge, other *Choice
	for i := range a.Choices[1:] {
		c := &a.Choices[i+1]
		switch {
		case c.Name == "both channels bridged":
			bridge = c
		case c.Allowed && c.Gain.Known() && (other == nil || c.Gain.Value > other.Gain.Value):
			other = c
		}
	}
	enough := now.Allowed && now.Ratio.Known() && now.Ratio.Value >= low
	better := ""
	if other != nil {
		better = fmt.Sprintf(" For more, %s brings %s.", other.Name, unit.Decibel(other.Gain.Value).Signed())
	}
	switch {
	case bridge == nil:
		return "It has no second channel to bridge with." + better
	case !bridge.Allowed && enough:
		return fmt.Sprintf("Leave it separate: one channel gives the boxes %s times their rating, and bridging is out: %s.",
			unit.Fixed(now.Ratio.Value, 2), bridge.Why) + better
	case !bridge.Allowed:
		return fmt.Sprintf("Do not bridge: %s.", bridge.Why) + better
	case enough:
		return fmt.Sprintf("Leave it separate: one channel gives the boxes what they are rated for. Bridging would bring "+
			"%s, %s times as loud, and halve the damping.", unit.Decibel(bridge.Gain.Value).Signed(),
			unit.Fixed(bridge.Louder.Value, 2)) + better
	case other != nil && other.Gain.Value >= bridge.Gain.Value-0.5:
		return fmt.Sprintf("Rather %s: it brings %s, as much as the bridge's %s, and leaves the damping as it is.",
			other.Name, unit.Decibel(other.Gain.Value).Signed(), unit.Decibel(bridge.Gain.Value).Signed())
	}
	return fmt.Sprintf("Bridge it: that brings %s, %s times as loud, within what the policy allows.",
		unit.Decibel(bridge.Gain.Value).Signed(), unit.Fixed(bridge.Louder.Value, 2)) + better
}
