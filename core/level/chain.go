package level

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"largo/core/drive"
	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// Step is one stage on the way from a source to a listener. Levels are those of a sine, in
// dBu, at the stage's own point: of a microphone its output, of an amplifier its output
// terminals, of a box its terminals.
type Step struct {
	Name   string // the tag, or what it is
	Port   string
	Sort   Sort
	Clip   unit.Given[unit.DBu]
	Noise  unit.Given[unit.DBu] // its own and all before it
	Signal unit.Given[unit.DBu] // the peaks, as the level of a sine with them
	Gain   unit.Given[unit.Decibel]
	Move   *Move    // what turns it, nil for nothing
	Pad    *Move    // the pad in the lead that feeds it, its decibels taken away; nil for none
	Lacks  []string // what its figures leave unknown
}

// Sort is a sort of stage.
type Sort string

// The sorts of stages.
const (
	Microphone Sort = "microphone"
	LineSource Sort = "source"
	DeskIn     Sort = "input"
	DeskOut    Sort = "mix"
	Processing Sort = "processor"
	Amplifying Sort = "amplifier"
	Limited    Sort = "limiter"
	Sounding   Sort = "box"
	ActiveBox  Sort = "active box"
	Boxed      Sort = "DI"
)

// Move is a control: the port that is set, and where it stands.
type Move struct {
	At   Control
	Name string
	Now  unit.Decibel
	Set  bool // it is on record
	Low  unit.Decibel
	High unit.Decibel
	Knob int // channel of an amplifier's level control, −1 for a port
}

// Control names what is set: a port, or the pad in the lead into one.
type Control struct {
	rig.Ref
	Pad bool
}

// Headroom is how far the peaks are from the stage's clip, dB.
func (s Step) Headroom() unit.Given[unit.Decibel] {
	clip, known1 := s.Clip.Get()
	signal, known2 := s.Signal.Get()
	if !known1 || !known2 {
		return unit.Given[unit.Decibel]{}
	}
	return unit.Of(unit.Decibel(clip - signal))
}

// Stop is what a stage lets through to the listeners at the most.
type Stop struct {
	Step  int
	Name  string
	Gives unit.Decibel // dB SPL there, of a sine with its peaks
	Buys  unit.Decibel // what mending it gives until the next one stops
}

// Cost is a thing on the way that stops nothing, and takes level from whatever does: mains,
// lead.
type Cost struct {
	Name  string
	At    string                   // how it is, as "218 V"
	Takes unit.Given[unit.Decibel] // which mending it gives back
}

// Chain is the way from a source to the listeners of one box.
type Chain struct {
	Steps  []Step
	Box    string
	ToSPL  unit.Given[unit.Decibel] // from the level of the last stage, dBu, to dB SPL at the listeners
	Lacks  string                   // why that is not known
	Level  unit.Given[unit.Decibel] // of the peaks at the listeners
	Hiss   unit.Given[unit.Decibel] // of all noise there
	AtBest bool                     // the source's peaks are not on record: it is drawn as loud as it goes
	Open   int                      // microphones open at once that share the mix
	Stops  []Stop                   // the least first, those that are known
	Costs  []Cost                   // what else takes level from all that the amplifier gives
	Far    unit.Given[unit.Metre]
}

// Controls are where gains stand in place of what is on record, by port; of an amplifier's
// input its level control.
type Controls map[Control]unit.Decibel

// way is a walk from a box back to a source.
type way struct {
	x     *rig.Index
	set   Controls
	steps []Step // the last first
	open  int
}

// mostDevices is how many devices a signal passes at the most before it is taken for a ring.
const mostDevices = 24

// OfOutput is the way to the listeners of the first box of an output; follow names the
// source, "" for the first that is plugged.
func OfOutput(x *rig.Index, o *drive.Output, follow string, set Controls) Chain {
	return OfBox(x, o, 0, follow, set)
}

// OfBox is the way to the listeners of one box of an output, by its place in it.
func OfBox(x *rig.Index, o *drive.Output, i int, follow string, set Controls) Chain {
	w := &way{x: x, set: set}
	b := &o.Boxes[i]
	c := Chain{Box: b.Name()}
	w.box(o, b)
	w.amplifier(o)
	w.back(o.Input, follow)
	c.Far = drive.ListeningDistance(x, b.Device)
	c.ToSPL, c.Lacks = toSPL(x, b)
	c.Costs = costs(o, b)
	return w.close(c)
}

// costs are what the mains and the leads take.
func costs(o *drive.Output, b *drive.Box) []Cost {
	mains := Cost{Name: "the mains at " + o.At.Device, At: "not known"}
	if o.Fed.Supply.Known() {
		mains.At, mains.Takes = o.Fed.Supply.Text(), unit.Of(o.MainsTakes())
	}
	leads := Cost{Name: "the leads to " + b.Name(), At: "not on record"}
	if path, loss := b.Path(20), b.Loss(); path.Known() && loss.Known() {
		leads.At, leads.Takes = path.Text(), unit.Of(unit.Decibel(loss.Value))
	}
	return []Cost{mains, leads}
}

// OfActive is the way to an active box.
func OfActive(x *rig.Index, d *rig.Device, m *gear.Loudspeaker, follow string, set Controls) Chain {
	w := &way{x: x, set: set}
	in := rig.Ref{Device: d.Tag, Port: gear.PoleIn(1)}
	trim, move := w.gain(d, in, "trim of "+d.Tag, -40, 10)
	s := Step{Name: d.Tag, Port: in.Port, Sort: ActiveBox, Clip: m.InputClip, Gain: unit.Of(trim), Move: move}
	s.lacking(m.InputClip.Known(), "where its input clips")
	w.steps = append(w.steps, s)
	w.back(in, follow)
	c := Chain{Box: d.Tag, Far: drive.ListeningDistance(x, d)}
	most, known1 := m.MaxSPL.Get()
	r, known2 := c.Far.Get()
	clip, known3 := m.InputClip.Get()
	switch {
	case !known1:
		c.Lacks = "the sheet of " + d.Tag + " gives no largest level"
	case !known2:
		c.Lacks = drive.NoDistance(d)
	case !known3:
		c.Lacks = "where the input of " + d.Tag + " clips is not on record"
	default: // taken so that its largest level, a peak, comes with the level that clips its input
		room, _ := drive.RoomGain(x.Rig.Brief, r)
		c.ToSPL = unit.Of(most - 3.01 - unit.OfVolts(float64(r)) + room - unit.Decibel(clip))
	}
	return w.close(c)
}

// toSPL is from the level at a box's terminals, dBu, to dB SPL at its listeners.
func toSPL(x *rig.Index, b *drive.Box) (unit.Given[unit.Decibel], string) {
	s, z := b.Speaker.OneWattSensitivity(), b.Speaker.NominalZ()
	r, known := drive.ListeningDistance(x, b.Device).Get()
	switch {
	case !s.Known():
		return unit.Given[unit.Decibel]{}, s.Lacks
	case !z.Known():
		return unit.Given[unit.Decibel]{}, z.Lacks
	case !known:
		return unit.Given[unit.Decibel]{}, drive.NoDistance(b.Device)
	}
	room, _ := drive.RoomGain(x.Rig.Brief, r)
	zero := unit.ZeroDBu.Into(unit.Ohm(z.Value)) // W of 0 dBu
	return unit.Of(unit.Decibel(s.Value) + unit.OfPower(float64(zero)) - unit.OfVolts(float64(r)) + room), ""
}

// gain is how a port is set, tried or on record, unity else, with its control.
func (w *way) gain(d *rig.Device, at rig.Ref, name string, low, high unit.Decibel) (unit.Decibel, *Move) {
	on := d.PortSetting(at.Port).Gain
	now := on.Or(0)
	if tried, is := w.set[Control{Ref: at}]; is {
		now = tried
	}
	return now, &Move{At: Control{Ref: at}, Name: name, Now: now, Set: on.Known(), Low: low, High: high, Knob: -1}
}

// box is the loudspeaker: what it stands of peaks, and what the leads take.
func (w *way) box(o *drive.Output, b *drive.Box) {
	s := Step{Name: b.Name(), Sort: Sounding}
	loss := b.Loss()
	if loss.Known() && b.Share > 0 {
		s.Gain = unit.Of(unit.OfVolts(b.Share) - unit.Decibel(loss.Value))
	} else if b.Share > 0 {
		s.Gain = unit.Of(unit.OfVolts(b.Share))
		s.Lacks = append(s.Lacks, "what its leads lose")
	}
	p, z := b.Speaker.ContinuousW(), b.Speaker.RatedOn()
	if p.Known() && z.Known() {
		v := unit.Watt(p.Value).Across(unit.Ohm(z.Value)) // rms of the rating; its peaks, as a sine's
		s.Clip = unit.Of(v.DBu() + unit.DBu(b.Speaker.CrestOr6()) - 3.0103)
	} else {
		s.Lacks = append(s.Lacks, "what it stands")
	}
	w.steps = append(w.steps, s)
}

// amplifier is the output with its limiter, both at its terminals.
func (w *way) amplifier(o *drive.Output) {
	if peak, set := o.Limiter.Peak.Get(); set {
		w.steps = append(w.steps, Step{Name: o.At.String(), Sort: Limited, Gain: unit.Of(unit.Decibel(0)),
			Clip: unit.Of((peak / math.Sqrt2).DBu())})
	}
	s := Step{Name: o.At.Device, Port: o.At.Port, Sort: Amplifying}
	down, noted := o.Device.Knob(o.Channel)
	knob := Control{Ref: rig.Ref{Device: o.At.Device, Port: o.Input.Port}}
	s.Move = &Move{At: knob, Name: "knob " + gear.ChannelName(o.Channel) + " of " + o.At.Device, Now: -down, Set: noted,
		Low: -40, Knob: o.Channel}
	if g, known := o.GainDB(); known {
		if tried, is := w.set[knob]; is {
			g, s.Move.Now = g+down+tried, tried
		}
		s.Gain = unit.Of(g)
	} else {
		s.Lacks = append(s.Lacks, "its gain")
	}
	if clip, known := o.ClipVolts(); known {
		s.Clip = unit.Of(clip.DBu())
		if under, known := o.Amp.NoiseUnder.Get(); known {
			s.Noise = unit.Of(clip.DBu() - unit.DBu(under))
		}
	} else {
		s.Lacks = append(s.Lacks, "where it clips")
	}
	if !s.Noise.Known() {
		s.Lacks = append(s.Lacks, "its noise")
	}
	w.steps = append(w.steps, s)
}

// back walks from an input to what feeds it, and on.
func (w *way) back(input rig.Ref, follow string) {
	for range mostDevices {
		k, fed := w.x.Into(input)
		if !fed {
			return
		}
		d, m := w.x.Device(k.From.Device)
		p, _ := w.x.Port(k.From)
		w.pad(k)
		var next string
		switch {
		case p.Dir == gear.Through:
			next = gear.PoleIn(max(1, gear.PairOf(k.From.Port)))
		case m.Mixer != nil:
			next = w.desk(d, m, k.From, follow)
		case m.Processor != nil:
			next = w.processor(d, m, k.From)
		case m.Feed != nil:
			w.source(d, m, k.From, p)
			return
		default: // a DI, a stage box: what comes in on a number goes out on it
			if next = sameNumber(m, k.From.Port); m.DI != nil {
				s := Step{Name: d.Tag, Port: k.From.Port, Sort: Boxed, Gain: d.PortSetting(k.From.Port).Gain}
				s.lacking(s.Gain.Known(), "what it takes away")
				w.steps = append(w.steps, s)
			}
		}
		if next == "" {
			return
		}
		input = rig.Ref{Device: d.Tag, Port: next}
	}
}

// mostPad is the most that a pad is turned to.
const mostPad unit.Decibel = 40

// pad takes away what a pad in a lead does, before the stage that the lead feeds.
func (w *way) pad(k rig.Link) {
	now, there := k.Pad.Get()
	at := Control{k.To, true}
	if tried, is := w.set[at]; is {
		now, there = max(tried, 0), true
	}
	s := &w.steps[len(w.steps)-1]
	into := s.Sort == Amplifying || s.Sort == ActiveBox
	if s.Pad != nil || !there && !into {
		return
	}
	s.Pad = &Move{At: at, Name: "pad before " + k.To.String(), Now: now, Set: k.Pad.Known(), High: max(mostPad, now),
		Knob: -1}
	if g, known := s.Gain.Get(); known {
		s.Gain = unit.Of(g - now)
	}
}

// sameNumber is the input of a device that has the number of an output.
func sameNumber(m *gear.Model, out string) string {
	number := out[strings.LastIndexByte(out, ' ')+1:]
	for _, p := range m.Ports() {
		if p.Dir == gear.In && strings.HasSuffix(p.Name, " "+number) {
			return p.Name
		}
	}
	return ""
}

// desk is a mixer: its output with the fader, then the channel that is followed.
func (w *way) desk(d *rig.Device, m *gear.Model, out rig.Ref, follow string) (next string) {
	gain, move := w.gain(d, out, out.Port+" of "+d.Tag, -60, 10)
	s := Step{Name: d.Tag, Port: out.Port, Sort: DeskOut, Gain: unit.Of(gain), Clip: m.Mixer.LargestOut,
		Noise: m.Mixer.Noise, Move: move}
	s.lacking(s.Clip.Known(), "its largest level")
	s.lacking(s.Noise.Known(), "its noise")
	w.steps = append(w.steps, s)
	next = w.followed(d, m, follow)
	if next == "" {
		return ""
	}
	gain, move = w.gain(d, rig.Ref{Device: d.Tag, Port: next}, "gain of "+d.Tag+" "+next, -20, 70)
	in := Step{Name: d.Tag, Port: next, Sort: DeskIn, Gain: unit.Of(gain), Clip: m.Mixer.LargestOut, Move: move}
	if p, _ := m.Port(next); p.Signal == gear.Mic {
		if ein, known := m.Mixer.EIN.Get(); known {
			in.Noise = unit.Of(ein + unit.DBu(gain))
		} else {
			in.Lacks = append(in.Lacks, "the noise of its input")
		}
	}
	w.steps = append(w.steps, in)
	return next
}

func (s *Step) lacking(known bool, what string) {
	if !known {
		s.Lacks = append(s.Lacks, what)
	}
}

// followed is the input of a mixer that leads to the source that is followed, else the
// first that anything feeds; and counts the microphones that are open beside it.
func (w *way) followed(d *rig.Device, m *gear.Model, follow string) string {
	first, wanted := "", ""
	for _, p := range m.Ports() {
		if p.Dir != gear.In {
			continue
		}
		k, fed := w.x.Into(rig.Ref{Device: d.Tag, Port: p.Name})
		if !fed {
			continue
		}
		if p.Signal == gear.Mic {
			w.open++
		}
		if first == "" {
			first = p.Name
		}
		if follow != "" && wanted == "" && w.leadsTo(k.From, follow) {
			wanted = p.Name
		}
	}
	if wanted != "" {
		return wanted
	}
	return first
}

// leadsTo tells whether an output is that of a device, or of one behind it.
func (w *way) leadsTo(from rig.Ref, tag string) bool {
	for range mostDevices {
		if from.Device == tag {
			return true
		}
		_, m := w.x.Device(from.Device)
		if m.Mixer != nil || m.Processor != nil || m.Feed != nil {
			return false
		}
		k, fed := w.x.Into(rig.Ref{Device: from.Device, Port: sameNumber(m, from.Port)})
		if !fed {
			return false
		}
		from = k.From
	}
	return false
}

// processor is one: its output's gain, and the lesser of what its inputs and outputs take.
func (w *way) processor(d *rig.Device, m *gear.Model, out rig.Ref) (next string) {
	gain, move := w.gain(d, out, out.Port+" of "+d.Tag, -60, 20)
	s := Step{Name: d.Tag, Port: out.Port, Sort: Processing, Gain: unit.Of(gain), Clip: m.Processor.LargestOut,
		Noise: m.Processor.Noise, Move: move}
	if in, known := m.Processor.LargestIn.Get(); known {
		s.Clip = unit.Of(min(in+unit.DBu(gain), s.Clip.Or(math.MaxFloat64)))
	}
	s.lacking(s.Clip.Known(), "its largest level")
	s.lacking(s.Noise.Known(), "its noise")
	w.steps = append(w.steps, s)
	return w.fedInput(d, m, out.Port)
}

// fedInput is the input of a processor that an output is taken to come from: of its own
// side where the names say one, else the first that is fed.
func (w *way) fedInput(d *rig.Device, m *gear.Model, out string) string {
	var fed []string
	for _, p := range m.Ports() {
		if _, is := w.x.Into(rig.Ref{Device: d.Tag, Port: p.Name}); is && p.Dir == gear.In {
			fed = append(fed, p.Name)
		}
	}
	if len(fed) > 1 && (strings.HasSuffix(out, " R") || strings.HasSuffix(out, " 2")) {
		return fed[1]
	}
	if len(fed) > 0 {
		return fed[0]
	}
	return ""
}

// source is a microphone, or what sends line level.
func (w *way) source(d *rig.Device, m *gear.Model, out rig.Ref, p gear.Port) {
	s := Step{Name: d.Tag, Port: out.Port, Sort: LineSource, Gain: unit.Of(unit.Decibel(0)), Clip: m.Feed.LargestOut}
	peak, known := d.PortSetting(out.Port).Peak.Get()
	if p.Signal == gear.Mic {
		s.Sort, s.Clip = Microphone, unit.Given[unit.DBu]{}
		volts, sensitive := m.Feed.PerPascal.Get()
		at := func(spl unit.Decibel) unit.Given[unit.DBu] { return unit.Of(volts.DBu() + unit.DBu(spl-94)) }
		s.lacking(sensitive, "its sensitivity")
		if most, known := m.Feed.MaxSPL.Get(); known && sensitive {
			s.Clip = at(most)
		}
		if noise, known := m.Feed.SelfNoise.Get(); known && sensitive {
			s.Noise = at(noise)
		}
		if known && sensitive {
			s.Signal = at(peak)
		}
	} else if known {
		s.Signal = unit.Of(unit.DBu(peak))
	}
	s.lacking(s.Clip.Known(), "its largest level")
	w.steps = append(w.steps, s)
}

// close turns the walk round and works out signal, noise, what arrives and what stops it.
func (w *way) close(c Chain) Chain {
	slices.Reverse(w.steps)
	c.Steps, c.Open = w.steps, max(1, w.open)
	c.stops()
	c.signal()
	c.noise()
	return c
}

// after is the gain from a stage's point to the last one, dB; false where a gain between
// is not known.
func (c *Chain) after(i int) (sum unit.Decibel, known bool) {
	for _, s := range c.Steps[i+1:] {
		g, known := s.Gain.Get()
		if !known {
			return 0, false
		}
		sum += g
	}
	return sum, true
}

// stops lines up what each stage lets through at the most.
func (c *Chain) stops() {
	to, known := c.ToSPL.Get()
	if !known {
		return
	}
	for i, s := range c.Steps {
		clip, known1 := s.Clip.Get()
		after, known2 := c.after(i)
		if known1 && known2 {
			c.Stops = append(c.Stops, Stop{Step: i, Name: s.Says(), Gives: unit.Decibel(clip) + after + to})
		}
	}
	slices.SortStableFunc(c.Stops, func(a, b Stop) int {
		switch {
		case a.Gives < b.Gives:
			return -1
		case a.Gives > b.Gives:
			return 1
		}
		return 0
	})
	for i := range c.Stops {
		if i+1 < len(c.Stops) {
			c.Stops[i].Buys = c.Stops[i+1].Gives - c.Stops[i].Gives
		}
	}
}

// Says names a stage as people do.
func (s Step) Says() string {
	switch s.Sort {
	case Limited:
		return "the limiter of " + s.Name
	case Sounding, ActiveBox, Microphone, LineSource:
		return s.Name
	}
	return s.Name + " " + s.Port
}

// signal carries the peaks of the source forward; where they are not on record it is as
// loud as it goes until the first stage stops it.
func (c *Chain) signal() {
	if len(c.Steps) == 0 {
		return
	}
	if !c.Steps[0].Signal.Known() {
		c.atBest()
	} else {
		for i := 1; i < len(c.Steps); i++ {
			before, known1 := c.Steps[i-1].Signal.Get()
			g, known2 := c.Steps[i].Gain.Get()
			if !known1 || !known2 {
				break
			}
			c.Steps[i].Signal = unit.Of(before + unit.DBu(g))
		}
	}
	last, known1 := c.Steps[len(c.Steps)-1].Signal.Get()
	if to, known2 := c.ToSPL.Get(); known1 && known2 {
		c.Level = unit.Of(unit.Decibel(last) + to)
	}
}

// atBest finds the signal with which the least headroom of all stages is 0: as loud as it
// goes.
func (c *Chain) atBest() {
	c.AtBest = true
	least := math.Inf(1) // of the level at the last stage
	for i := range c.Steps {
		clip, known1 := c.Steps[i].Clip.Get()
		after, known2 := c.after(i)
		if known1 && known2 {
			least = min(least, float64(clip)+float64(after))
		}
	}
	if math.IsInf(least, 1) {
		return
	}
	for i := range c.Steps {
		if after, known := c.after(i); known {
			c.Steps[i].Signal = unit.Of(unit.DBu(least) - unit.DBu(after))
		}
	}
}

// noise adds up what each stage hisses, as powers, to the listeners: at the least what is
// known. Preamplifiers of other open microphones hiss along: 10 lg n.
func (c *Chain) noise() {
	sum, any := 0.0, false
	for i := range c.Steps {
		s := &c.Steps[i]
		if g, known := s.Gain.Get(); known {
			sum *= g.Ratio()
		} else {
			sum, any = 0, false
		}
		if own, known := s.Noise.Get(); known {
			sum, any = sum+unit.Decibel(own).Ratio(), true
		}
		if s.Sort == DeskIn && any {
			sum *= float64(c.Open)
		}
		if any {
			s.Noise = unit.Of(unit.DBu(unit.OfPower(sum)))
		}
	}
	if to, known := c.ToSPL.Get(); known && any {
		c.Hiss = unit.Of(unit.OfPower(sum) + to)
	}
}

// Lacking is what of the noise is not known, by stage; "" where all is.
func (c *Chain) Lacking() string {
	var parts []string
	for _, s := range c.Steps {
		for _, l := range s.Lacks {
			parts = append(parts, l+" ("+s.Name+")")
		}
	}
	return strings.Join(parts, ", ")
}

// Reference is where a mixer's meter stands while the first stage after it stops: dBu at
// its output, and dB under its own clip, which is dBFS where full scale is its clip.
func (c *Chain) Reference() (at unit.DBu, under unit.Decibel, says string, known bool) {
	for i, s := range c.Steps {
		clip, known1 := s.Clip.Get()
		after, known2 := c.after(i)
		if s.Sort != DeskOut || !known1 || !known2 {
			continue
		}
		least := math.Inf(1)
		for j := i + 1; j < len(c.Steps); j++ {
			own, k1 := c.Steps[j].Clip.Get()
			on, k2 := c.after(j)
			if k1 && k2 && float64(own)+float64(on) < least {
				least = float64(own) + float64(on)
				says = c.Steps[j].Says()
			}
		}
		if math.IsInf(least, 1) {
			return 0, 0, "", false
		}
		at = unit.DBu(least) - unit.DBu(after)
		return at, unit.Decibel(at - clip), says, true
	}
	return 0, 0, "", false
}

// Clock is where an amplifier's control stands as a clock hand, where its taper is linear
// in dB over 300 degrees from −40 dB: of the knobs that are marked in dB most are about
// so (common practice, no source).
func Clock(down unit.Decibel) string {
	hours := 17 - 10*float64(min(max(down, 0), 40))/40
	hour := int(math.Floor(hours))
	minute := int(math.Round((hours-float64(hour))*2)) * 30
	if minute == 60 {
		hour, minute = hour+1, 0
	}
	return fmt.Sprintf("%d:%02d", (hour+11)%12+1, minute)
}

// lineFigures are those of the line to an output: what stops first and at what level, what
// mending it buys, the desk's meter then, the hiss.
func lineFigures(x *rig.Index, o *drive.Output) []reckon.Figure {
	const stops, buys, meter, hiss = "stopsAt", "stopsBuys", "meterAt", "hiss"
	c := OfOutput(x, o, "", nil)
	fs := make([]reckon.Figure, 0, 4)
	if len(c.Stops) > 0 {
		first := c.Stops[0]
		fs = append(fs, reckon.Of(stops, "Ls", "level at the listeners where "+first.Name+" stops it", first.Gives, ""))
		if len(c.Stops) > 1 {
			fs = append(fs, reckon.Of(buys, "ΔLs", "what mending it buys, until "+c.Stops[1].Name, first.Buys, ""))
		}
	} else {
		fs = append(fs, reckon.Unknown(stops, "Ls", "level at the listeners where the first stage stops it",
			orNothing(c.Lacks)))
	}
	if at, _, says, known := c.Reference(); known {
		fs = append(fs, reckon.Of(meter, "Lm", "desk's output where "+says+" is reached", at, ""))
	}
	if h, known := c.Hiss.Get(); known {
		fs = append(fs, reckon.Of(hiss, "Lh", "hiss at the listeners, at the least", h, ""))
	}
	return fs
}

func orNothing(lacks string) string {
	if lacks == "" {
		return "no stage of the way says where it clips"
	}
	return lacks
}
