package drive

import (
	"fmt"
	"math"

	"largo/core/gear"
	"largo/core/load"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// Output is what one output really gives into what hangs on it.
type Output struct {
	*load.Output               // everybody's: who wants to change it takes a copy
	Fed          Amp           // its amplifier on the mains it is on
	Limit        reckon.Figure // least load of this mode, Ω
	Under        bool          // the load is below it
	Power        reckon.Figure // W into the nominal load, with all its amplifier's outputs driven
	Held         Holder
	Limiter      rig.Limiter // on record
	Limited      bool        // there is one
	Limitable    bool        // something on its way has a limiter that can be set, or nothing is known against it
	Boxes        []Box

	seen  unit.Ohm             // leads and all, 0 while the load is not known
	alone unit.Watt            // into the nominal load, its supply its own; 0 while not known
	fedBy string               // what sends to its input; "" where nothing does
	most  unit.Given[unit.DBu] // that it can send
	// what pads between it and the input take away
	padded unit.Decibel
	reach  unit.Volt // rms that this level makes of the output; 0 while not known
}

// Holder is what holds an output back.
type Holder string

// The holders: of an output that nothing else holds, its ratings do.
const (
	Ratings  Holder = "its ratings"
	Mains    Holder = "the mains it is on"
	Sharing  Holder = "the supply that its channels share"
	Limiting Holder = "the limiter on record"
	Driving  Holder = "what feeds it, at its level control"
)

// Box is what arrives at one box of an output.
type Box struct {
	*load.Box
	out    *Output
	number int     // in its output
	share  float64 // of the open volts that arrives there, leads and all; 0 while not known
	damped float64 // the same behind the output impedance
}

// Outputs works out all outputs of a rig, which are those of outs.
func Outputs(x *rig.Index, outs []load.Output) []Output {
	all := make([]Output, len(outs))
	for i := range outs {
		all[i].begin(x, &outs[i])
	}
	for i := 0; i < len(all); {
		j := i + 1
		for j < len(all) && all[j].At.Device == all[i].At.Device {
			j++
		}
		share(all[i:j])
		i = j
	}
	for i := range all {
		all[i].hold()
		all[i].carry()
	}
	return all
}

// begin works an output out as if its amplifier had no other.
func (o *Output) begin(x *rig.Index, of *load.Output) {
	o.Output = of
	_, m := x.Device(of.At.Device)
	o.Fed = Amp{m, AtInlet(x, of.Device)}
	o.Limit = of.Amp.LeastLoad(of.Mode)
	o.Limiter, o.Limited = of.Device.Limiter(of.At.Port)
	o.Limitable = limitable(x, of)
	o.reachFor(x)
	o.Power = o.Alone()
	if o.Power.Known() {
		o.alone = unit.Watt(o.Power.Value)
	}
}

// limitable tells whether a limiter can be set for an output: in its amplifier, or in
// a processor that feeds it. What nobody said has none may have one.
func limitable(x *rig.Index, o *load.Output) bool {
	if o.Amp.Limits != gear.No {
		return true
	}
	input := o.Input
	for range x.Rig.Links {
		k, fed := x.Into(input)
		if !fed {
			return false
		}
		_, m := x.Device(k.From.Device)
		switch m.Kind {
		case gear.KindProcessor:
			return m.Processor.Limits != gear.No
		case gear.KindLoudspeaker:
			input = rig.Ref{Device: k.From.Device, Port: gear.PoleIn(max(1, gear.PairOf(k.From.Port)))}
		default:
			return false
		}
	}
	return false
}

// Alone is the power in W into the nominal load, its supply its own.
func (o *Output) Alone() reckon.Figure {
	lacks := func(why string) reckon.Figure { return reckon.Unknown("power", "P", "amplifier power", why) }
	switch {
	case len(o.Output.Boxes) == 0:
		return lacks("nothing hangs on this output")
	case !o.Nominal.Known():
		return lacks(o.Nominal.Lacks)
	case o.Dead != "":
		return lacks("the bridge gives nothing: " + o.Dead)
	}
	o.Under = o.Limit.Known() && gear.Below(o.Nominal.Value, o.Limit.Value)
	power := o.Fed.PowerInto(o.Mode, unit.Ohm(o.Nominal.Value))
	if o.Under && power.Known() {
		return lacks("the load is below the least that the maker allows")
	}
	return power
}

// AloneOver is what the output gives while the other channels rest, over what it
// gives while all are driven: 1 unless they share a supply.
func (o *Output) AloneOver() float64 {
	if !o.Power.Known() || o.Power.Value == 0 {
		return 1
	}
	return float64(o.alone) / o.Power.Value
}

// rmsWatts is what the limiter on record lets through for long into the load.
func (o *Output) rmsWatts() unit.Given[unit.Watt] {
	v, set := o.Limiter.RMS.Get()
	if !set || !o.Nominal.Known() {
		return unit.Given[unit.Watt]{}
	}
	return unit.Of(v.Into(unit.Ohm(o.Nominal.Value)))
}

// Demand is what the output asks of a supply that several share.
func (o *Output) Demand() Demand {
	most := o.rmsWatts()
	if reach, known := o.reachWatts().Get(); known && reach < most.Or(reach+1) {
		most = unit.Of(reach)
	}
	return Demand{o.alone, most}
}

// share lets the outputs of one amplifier share its supply. One whose power is
// not known takes nothing here: it has a finding of its own.
func share(outs []Output) {
	if !outs[0].Fed.Model.Amplifier.Together.Known() {
		return
	}
	demands, alone := make([]Demand, len(outs)), make([]reckon.Figure, len(outs))
	for i := range outs {
		if o := &outs[i]; o.Live {
			demands[i] = o.Demand()
		}
		alone[i] = outs[i].Power
	}
	for i, power := range Share(outs[0].Fed, demands, alone) {
		if outs[i].Live {
			outs[i].Power = power
		}
	}
}

// Share is what outputs give of their own power while all demands are made of
// the supply of an amplifier at once.
func Share(a Amp, demands []Demand, alone []reckon.Figure) []reckon.Figure {
	most := a.Together()
	if !most.Known() {
		return alone
	}
	part := Shared(demands, unit.Watt(most.Value))
	if part == 1 {
		return alone
	}
	powers := make([]reckon.Figure, len(alone))
	for i, p := range alone {
		if powers[i] = p; !p.Known() {
			continue
		}
		powers[i] = reckon.Of(p.Key, p.Symbol, p.Name, unit.Watt(p.Value*part), "{Palone} × {s}",
			p.As("Palone"), reckon.Count("s", "part that the shared supply leaves each", part)).
			Noting(p.Note).
			Noting(fmt.Sprintf("Its channels share a supply of %s; all driven at once they get no more.", most.Text())).
			Because("the rails sag for all channels alike")
	}
	return powers
}

// hold names what holds the output.
func (o *Output) hold() {
	o.Held = Ratings
	if !o.Power.Known() {
		return
	}
	limit, set := o.rmsWatts().Get()
	reach, known := o.reachWatts().Get()
	switch {
	case set && float64(limit) < o.Power.Value && (!known || limit <= reach):
		o.Held = Limiting
	case known && float64(reach) < o.Power.Value:
		o.Held = Driving
	case o.Power.Value != float64(o.alone):
		o.Held = Sharing
	case o.Fed.Supply.Known() && float64(o.alone) < o.ratedWatts():
		o.Held = Mains
	}
}

// Gives is the power in W that the output gives for long: held by the limiter on
// record too.
func (o *Output) Gives() reckon.Figure {
	const key, symbol, name = "gives", "Pg", "what it gives for long"
	if !o.Power.Known() {
		return reckon.Unknown(key, symbol, name, o.Power.Lacks)
	}
	switch o.Held {
	case Limiting:
	case Driving:
		return o.Reach().Called(key, symbol, name)
	default:
		return o.Power.Called(key, symbol, name)
	}
	return reckon.Of(key, symbol, name, o.rmsWatts().Or(0), "{Vrms}² / {Zload}",
		reckon.In("Vrms", "limiter on record", o.Limiter.RMS.Or(0), "rig"), o.Nominal.As("Zload")).Because("P = U²/Z")
}

// reachFor finds the largest level that arrives at the input, and the volts that the
// output makes of it as its level control stands, fully up where that is not on record.
func (o *Output) reachFor(x *rig.Index) {
	input := o.Input
	for range x.Rig.Links {
		k, fed := x.Into(input)
		if !fed {
			return
		}
		o.padded += k.Pad.Or(0)
		d, m := x.Device(k.From.Device)
		p, _ := x.Port(k.From)
		if p.Dir == gear.Through {
			input = rig.Ref{Device: d.Tag, Port: gear.PoleIn(max(1, gear.PairOf(k.From.Port)))}
			continue
		}
		if o.fedBy = d.Tag; p.Signal != gear.Line {
			return
		}
		o.most = m.LargestLine()
		if most, known := o.most.Get(); known {
			if gain, known := o.GainDB(); known {
				o.reach = (most - unit.DBu(o.padded) + unit.DBu(gain)).Volt()
			}
		}
		return
	}
}

// FedBy is what sends to the output's amplifier, "" where nothing does.
func (o *Output) FedBy() string { return o.fedBy }

// Sent is the largest level that what feeds the output can send, dBu.
func (o *Output) Sent() reckon.Figure {
	const key, symbol, name = "sent", "Lmost", "largest level of what feeds it"
	switch most, known := o.most.Get(); {
	case o.fedBy == "":
		return reckon.Unknown(key, symbol, name, "nothing feeds it")
	case !known:
		return reckon.Unknown(key, symbol, name, "the largest level of "+o.fedBy+" is not on record")
	case o.padded > 0:
		return reckon.Of(key, symbol, name, most-unit.DBu(o.padded), "{Lout} − {Dpad}",
			reckon.In("Lout", "largest level of "+o.fedBy, most, o.most.Origin()),
			reckon.In("Dpad", "pad in the lead", o.padded, "rig")).Noting("As it arrives at the input.")
	default:
		return reckon.Of(key, symbol, name, most, "").Because(o.most.Origin())
	}
}

// Padded is what pads in the leads between what feeds the output and its input take away.
func (o *Output) Padded() unit.Decibel { return o.padded }

// ClipIn is the level of a sine at the amplifier's input with which the output clips,
// dBu, as its level control stands.
func (o *Output) ClipIn() reckon.Figure {
	const key, symbol, name = "clipIn", "Lclip", "level at the input that clips it"
	clip, gain := o.Clip(), o.Gain()
	switch {
	case !clip.Known():
		return reckon.Unknown(key, symbol, name, clip.Lacks)
	case !gain.Known():
		return reckon.Unknown(key, symbol, name, gain.Lacks)
	}
	level, _ := o.clipIn()
	return reckon.Of(key, symbol, name, level, "20 lg({Vclip} / 0.7746 V) − {G}", clip.As("Vclip"), gain.As("G")).
		Because("0 dBu = sqrt(0.6) V")
}

// clipIn is the same without its working.
func (o *Output) clipIn() (unit.DBu, bool) {
	clip, known1 := o.ClipVolts()
	gain, known2 := o.GainDB()
	return clip.DBu() - unit.DBu(gain), known1 && known2
}

// SentOver is how far the largest level of what feeds the output lies over the one that
// clips it, dB; below 0 the feeder clips first. False where it is not known.
func (o *Output) SentOver() (unit.Decibel, bool) {
	most, known1 := o.most.Get()
	clip, known2 := o.clipIn()
	return unit.Decibel(most-clip) - o.padded, known1 && known2
}

// reachWatts is what the largest sine that arrives makes of the output, W.
func (o *Output) reachWatts() unit.Given[unit.Watt] {
	if o.reach == 0 || !o.Nominal.Known() {
		return unit.Given[unit.Watt]{}
	}
	return unit.Of(o.reach.Into(unit.Ohm(o.Nominal.Value)))
}

// Reach is the power in W of the largest sine that arrives at the input, as the output
// would make it were there no other bound.
func (o *Output) Reach() reckon.Figure {
	const key, symbol, name = "reach", "Preach", "power of the largest sine that arrives"
	w, known := o.reachWatts().Get()
	if !known {
		return reckon.Unknown(key, symbol, name, "the largest level of what feeds it, or its gain, is not on record")
	}
	return reckon.Of(key, symbol, name, w, "{Ureach}² / {Zload}", reckon.In("Ureach", "largest level of "+o.fedBy+
		" times the gain", o.reach, ""), o.Nominal.As("Zload")).Because("P = U²/Z")
}

// ratedWatts is what the table says at the supply it was made at.
func (o *Output) ratedWatts() float64 {
	return o.Amp.PowerInto(o.Mode, unit.Ohm(o.Nominal.Value)).Value * (1 - 1e-9)
}

// carry works out what arrives at the boxes.
func (o *Output) carry() {
	o.Boxes = make([]Box, len(o.Output.Boxes))
	for i := range o.Boxes {
		o.Boxes[i] = Box{Box: &o.Output.Boxes[i], out: o, number: i}
	}
	if !o.Nominal.Known() || len(o.Boxes) == 0 {
		return
	}
	leads := o.LeadsAt(referenceDegree)
	a := o.Nominally(leads)
	o.seen = a.Seen
	part := 1.0
	if z, known := o.Amp.OutputImpedance(o.Mode); known {
		part = float64(a.Seen / (a.Seen + z))
	}
	for i, k := range a.Share {
		o.Boxes[i].share, o.Boxes[i].damped = k, k*part
	}
}

// referenceDegree is the temperature of the leads' copper where none is asked
// for, °C: that of every table of conductors.
const referenceDegree = 20

// Inside is the resistance that the output has inside, Ω.
func (o *Output) Inside() reckon.Figure {
	const key, symbol, name = "inside", "Zo", "output impedance"
	z, known := o.Amp.OutputImpedance(o.Mode)
	switch {
	case !known:
		return reckon.Unknown(key, symbol, name,
			"the sheet gives neither output impedance nor a damping factor with its load")
	case o.Mode == gear.Bridged:
		return reckon.Of(key, symbol, name, z, "").Noting("Twice that of one channel, in bridge.")
	}
	return reckon.Of(key, symbol, name, z, "")
}

// Burst is the burst power in W that the output gives into its load, held by the
// peak limiter on record: how loud a drum may be, and nothing of what it holds.
func (o *Output) Burst() reckon.Figure {
	const key, symbol, name = "burst", "Pburst", "burst power"
	if !o.Power.Known() {
		return reckon.Unknown(key, symbol, name, o.Power.Lacks)
	}
	burst := o.Fed.BurstInto(o.Mode, unit.Ohm(o.Nominal.Value))
	if peak, set := o.peakWatts().Get(); set && burst.Known() && float64(peak) < burst.Value {
		return o.heldPeak(key, symbol, name, peak)
	}
	return burst
}

// peakWatts is the power of a sine whose peaks the limiter on record just lets
// through, into the load.
func (o *Output) peakWatts() unit.Given[unit.Watt] {
	v, set := o.Limiter.Peak.Get()
	if !set || !o.Nominal.Known() {
		return unit.Given[unit.Watt]{}
	}
	return unit.Of((v / math.Sqrt2).Into(unit.Ohm(o.Nominal.Value)))
}

func (o *Output) heldPeak(key, symbol, name string, w unit.Watt) reckon.Figure {
	return reckon.Of(key, symbol, name, w, "({Vpk} / √2)² / {Zload}",
		reckon.In("Vpk", "peak limiter on record", o.Limiter.Peak.Or(0), "rig"), o.Nominal.As("Zload")).
		Because("P = U²/Z of a sine with that peak")
}

// Top is the power in W of a full sine with the highest peaks that the output
// lets through: what level is reckoned from, for programme lives on its peaks.
func (o *Output) Top() reckon.Figure {
	const key, symbol, name = "top", "Ptop", "power of its highest peaks, as a sine"
	if !o.Power.Known() {
		return reckon.Unknown(key, symbol, name, o.Power.Lacks)
	}
	peak, set := o.peakWatts().Get()
	if reach, known := o.reachWatts().Get(); known && float64(reach) < o.Power.Value && (!set || reach < peak) {
		return o.Reach().Called(key, symbol, name)
	}
	if set && float64(peak) < o.Power.Value {
		return o.heldPeak(key, symbol, name, peak)
	}
	// A limiter of rms alone lets the peaks of a rating through, 6 dB of crest:
	// those of a sine of twice its power.
	if rms, set := o.rmsWatts().Get(); set && !o.Limiter.Peak.Known() && float64(2*rms) < o.Power.Value {
		return reckon.Of(key, symbol, name, 2*rms, "2 × {Vrms}² / {Zload}",
			reckon.In("Vrms", "limiter on record", o.Limiter.RMS.Or(0), "rig"), o.Nominal.As("Zload")).
			Noting("No peak limiter is on record; peaks of 6 dB crest over the rms limit are taken.").
			Because("P = U²/Z")
	}
	return o.Power.Called(key, symbol, name)
}

// topW is the same without its working; where it is not known, what it lacks.
func (o *Output) topW() (w unit.Watt, lacks string) {
	if !o.Power.Known() {
		return 0, o.Power.Lacks
	}
	if o.Limited || o.reach > 0 {
		return unit.Watt(o.Top().Value), ""
	}
	return unit.Watt(o.Power.Value), ""
}

// Seen is the load with the resistance of all leads, every box at its nominal
// impedance, Ω.
func (o *Output) Seen() reckon.Figure {
	const key, symbol, name = "seen", "Zseen", "load with its leads"
	if o.seen == 0 {
		return reckon.Unknown(key, symbol, name, o.Nominal.Lacks)
	}
	return reckon.Of(key, symbol, name, o.seen, "").Because("network of boxes and leads")
}

// Volts is the rms voltage at the output's terminals while it gives what it
// gives for long.
func (o *Output) Volts() reckon.Figure {
	const key, symbol, name = "volts", "U", "volts at its terminals"
	gives := o.Gives()
	if !gives.Known() {
		return reckon.Unknown(key, symbol, name, gives.Lacks)
	}
	return reckon.Of(key, symbol, name, unit.Watt(gives.Value).Across(unit.Ohm(o.Nominal.Value)), "sqrt({Pg} × {Zload})",
		gives.As("Pg"), o.Nominal.As("Zload")).Because("P = U²/Z")
}

// MainsTakes is what the volts at its inlet take from the output's power, dB: against what
// the maker rates it on. 0 where they are not known.
func (o *Output) MainsTakes() unit.Decibel {
	if !o.Fed.Supply.Known() || !o.Power.Known() || o.alone <= 0 {
		return 0
	}
	return max(0, unit.OfPower(o.ratedWatts()/float64(o.alone)))
}

// Clip is the rms voltage of the largest sine that the output gives into its
// load, the other channels at rest.
func (o *Output) Clip() reckon.Figure {
	const key, symbol, name = "clip", "Vclip", "clip point of the amplifier"
	if !o.Nominal.Known() {
		return reckon.Unknown(key, symbol, name, o.Nominal.Lacks)
	}
	alone := o.Power
	if alone.Known() && alone.Value != float64(o.alone) {
		alone = o.Alone()
	}
	volts, known := o.ClipVolts()
	if !known {
		return reckon.Unknown(key, symbol, name, alone.Lacks)
	}
	return reckon.Of(key, symbol, name, volts, "sqrt({P} × {Z})", alone.As("P"), o.Nominal.As("Z")).Because("P = U²/Z")
}

// ClipVolts is the same without its working, for it is asked for at every output; false
// where it is not known.
func (o *Output) ClipVolts() (unit.Volt, bool) {
	return o.alone.Across(unit.Ohm(o.Nominal.Value)), o.Nominal.Known() && o.Power.Known()
}

// Gain is in dB from the amplifier's input to this output, as bridged and as its
// level control stands.
func (o *Output) Gain() reckon.Figure {
	g := o.Amp.VoltageGain()
	if !g.Known() {
		return g
	}
	down, noted := o.Device.Knob(o.Channel)
	v := o.gain(g)
	formula, terms := "{G}", []reckon.Term{g.As("G")}
	if o.Mode == gear.Bridged {
		formula, terms = formula+" + {b}", append(terms, reckon.In("b", "twice the voltage in bridge", bridgeGain, "20 lg 2"))
	}
	if down != 0 {
		formula, terms = formula+" − {k}", append(terms, reckon.In("k", "level control turned down", down, "rig"))
	}
	note := "No position of its level control is on record; fully up is taken."
	if noted {
		note = "With the level control as noted."
	}
	if len(terms) == 1 {
		return g.Called("gain", "G", "gain from input to output").Noting(note)
	}
	return reckon.Of("gain", "G", "gain from input to output", v, formula, terms...).Noting(note).Because(g.Source)
}

// gain is the same without its working, of the amplifier's gain.
func (o *Output) gain(of reckon.Figure) unit.Decibel {
	down, _ := o.Device.Knob(o.Channel)
	if o.Mode == gear.Bridged {
		return unit.Decibel(of.Value) - down + bridgeGain
	}
	return unit.Decibel(of.Value) - down
}

// GainDB is the gain without its working; false where it is not known.
func (o *Output) GainDB() (unit.Decibel, bool) {
	g := o.Amp.VoltageGain()
	return o.gain(g), g.Known()
}

// bridgeGain is what a bridge adds: twice the voltage.
const bridgeGain unit.Decibel = 6.0206
