package gear

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"largo/core/fault"
	"largo/core/reckon"
	"largo/core/unit"
)

// Mode is how the two outputs of a pair of channels are used.
type Mode string

// The output modes.
const (
	Separate Mode = "separate"
	Bridged  Mode = "bridged"
)

// Driven tells how many channels worked when a rating was taken.
const (
	AllDriven = "all"
	OneDriven = "one"
)

// Durations of a rating.
const (
	Continuous = "continuous"
	Burst      = "burst"
)

// Rating is one line of an amplifier's power table.
type Rating struct {
	Mode     Mode      `json:"mode"` // a channel on its own, or a bridged pair
	Load     unit.Ohm  `json:"load"`
	Power    unit.Watt `json:"power"`
	Driven   string    `json:"driven,omitempty"`   // AllDriven, OneDriven or unsaid
	Duration string    `json:"duration,omitempty"` // Continuous, Burst or unsaid
	From     string    `json:"from,omitempty"`     // where this line comes from
}

// Bridging is the evidence on whether two channels may be bridged.
type Bridging struct {
	Switch   Answer               `json:"switch,omitempty"`   // a bridge switch or setting
	Manual   string               `json:"manual,omitempty"`   // ManualAllows, ManualForbids, or silent
	Common   Answer               `json:"common,omitempty"`   // ohmmeter finds the minus terminals joined
	Between  unit.Given[unit.Ohm] `json:"between,omitzero"`   // what it read from one minus terminal to the other
	Inverted Answer               `json:"inverted,omitempty"` // one channel of the pair is inverted inside
	Least    unit.Given[unit.Ohm] `json:"least,omitzero"`     // the maker's least bridged load
	Pairs    []string             `json:"pairs,omitempty"`    // which pairs bridge, as "A+B"; none named: all
}

// PairBridges tells whether a pair of channels is among those that bridge.
func (b Bridging) PairBridges(pair int) bool {
	return len(b.Pairs) == 0 || slices.Contains(b.Pairs, PairName(pair))
}

// PairName is the two letters of a pair of channels, as "A+B".
func PairName(pair int) string { return ChannelName(2*pair) + "+" + ChannelName(2*pair+1) }

// joinedBelow is the reading between two minus terminals under which they count
// as one: the resistance of the meter's own leads (common practice, no source).
const joinedBelow unit.Ohm = 1

// Joined is what the ohmmeter check says of the minus terminals: its reading
// where one was taken, else what was answered.
func (b Bridging) Joined() Answer {
	z, read := b.Between.Get()
	switch {
	case !read:
		return b.Common
	case z < joinedBelow:
		return Yes
	}
	return No
}

// What a manual says of bridging.
const (
	ManualAllows  = "allows"
	ManualForbids = "forbids"
)

// Amplifier is a power amplifier of two or more channels.
type Amplifier struct {
	Channels    int                      `json:"channels"`
	Ratings     []Rating                 `json:"ratings"`
	Least       unit.Given[unit.Ohm]     `json:"least,omitzero"` // the maker's least load per channel
	Gain        unit.Given[unit.Decibel] `json:"gain,omitzero"`
	Sensitivity unit.Given[unit.Volt]    `json:"sensitivity,omitzero"` // rms input for rated power at SensLoad
	SensLoad    unit.Given[unit.Ohm]     `json:"sensitivityLoad,omitzero"`
	OutputZ     unit.Given[unit.Ohm]     `json:"outputImpedance,omitzero"`
	Bridging    Bridging                 `json:"bridging,omitzero"`
	Limits      Answer                   `json:"limits,omitempty"` // has limiters that can be set
	Class       string                   `json:"class,omitempty"`  // as AB, H, D
	Damping     unit.Given[unit.Ratio]   `json:"damping,omitzero"` // damping factor as the sheet states it
	DampingLoad unit.Given[unit.Ohm]     `json:"dampingLoad,omitzero"`
	DampingAt   unit.Given[unit.Hertz]   `json:"dampingAt,omitzero"`
	Supply      unit.Given[unit.Volt]    `json:"supply,omitzero"`     // that the ratings were taken at
	Together    unit.Given[unit.Watt]    `json:"together,omitzero"`   // what all channels give where they share a supply
	LargestOut  unit.Given[unit.Volt]    `json:"largestOut,omitzero"` // rms, of one channel
	NoiseUnder  unit.Given[unit.Decibel] `json:"noiseUnder,omitzero"` // its noise below its full output
	Relay       Answer                   `json:"relay,omitempty"`     // a muting relay holds the waking thump back
	Sockets     Sockets                  `json:"sockets,omitzero"`
}

// mostChannels is the largest amplifier the library takes.
const mostChannels = 16

// The names of all ports, made once: they are asked for on every walk.
var channelPorts, inputPorts, bridgePorts = portNames()

func portNames() (channel, input, bridge [mostChannels]string) {
	for i := range mostChannels {
		channel[i] = "out " + ChannelName(i)
		input[i] = fmt.Sprintf("in %d", i+1)
		bridge[i] = "out " + ChannelName(2*i) + "+" + ChannelName(2*i+1)
	}
	return channel, input, bridge
}

// ChannelName is the letter of a channel, 0 is A.
func ChannelName(i int) string { return string(rune('A' + i)) }

// ChannelPort is the port of a channel's own output; i is 0 to 15.
func ChannelPort(i int) string { return channelPorts[i] }

// InputPort is the port of a channel's input; i is 0 to 15.
func InputPort(i int) string { return inputPorts[i] }

// BridgePort is the pair of hot terminals of channels 2p and 2p+1.
func BridgePort(pair int) string { return bridgePorts[pair] }

// Pairs is how many pairs of channels there are; an odd last channel has none.
func (a *Amplifier) Pairs() int { return a.Channels / 2 }

func (a *Amplifier) ports() []Port {
	ports := make([]Port, 0, 2*a.Channels+a.Pairs()+1)
	for i := range a.Channels {
		ports = append(ports, Port{Name: InputPort(i), Signal: Line, Dir: In, Connector: a.Sockets.In,
			Balanced: a.Sockets.Balanced})
	}
	for i := range a.Channels {
		ports = append(ports, Port{Name: ChannelPort(i), Signal: Speaker, Dir: Out, Connector: a.Sockets.Out})
	}
	for p := range a.Pairs() {
		ports = append(ports, Port{Name: BridgePort(p), Signal: Speaker, Dir: Out, Connector: a.Sockets.Out})
	}
	return ports
}

// usualRatings is how many ratings of a mode most sheets have room for.
const usualRatings = 8

// table gives the ratings of a mode that may be planned with, by rising load:
// continuous ones, and of these the ones with all channels driven where any
// are. The note says when that had to be relaxed. The rows lie in buf while they
// have room there: they are asked for several times for each output.
func (a *Amplifier) table(mode Mode, buf []Rating) (rows []Rating, note string) {
	rows = buf[:0]
	var one []Rating
	bursts := 0
	for _, r := range a.Ratings {
		switch {
		case r.Mode != mode:
		case r.Duration == Burst:
			bursts++
		case r.Driven == OneDriven && mode == Separate:
			one = append(one, r)
		default:
			rows = append(rows, r)
		}
	}
	if len(rows) == 0 && len(one) > 0 {
		rows, note = one, "The sheet rates one channel driven; with all driven it may give less."
	}
	if len(rows) == 0 && bursts > 0 {
		note = "The sheet gives burst power alone, which says nothing of what it holds."
	}
	slices.SortStableFunc(rows, func(x, y Rating) int {
		if x.Load < y.Load {
			return -1
		} else if x.Load > y.Load {
			return 1
		}
		return int(x.Power - y.Power)
	})
	return rows, note
}

// OneDrivenAlone tells whether all continuous ratings of a mode were taken with one
// channel driven.
func (a *Amplifier) OneDrivenAlone(mode Mode) bool {
	one := false
	for _, r := range a.Ratings {
		if r.Mode != mode || r.Duration == Burst {
			continue
		}
		if r.Driven != OneDriven {
			return false
		}
		one = true
	}
	return one
}

// LeastLoad is the smallest load in Ω that a mode may drive: the maker's, or
// else the smallest rated one. Bridged it is never under twice the channel's,
// since each side sees half the load.
func (a *Amplifier) LeastLoad(mode Mode) reckon.Figure {
	if mode == Separate {
		if z, known := a.Least.Get(); known {
			return reckon.Of("limit", "Zleast", "least load", z, "").Because(origin(a.Least.Origin()))
		}
		var buf [usualRatings]Rating
		rows, _ := a.table(Separate, buf[:])
		if len(rows) == 0 {
			return reckon.Unknown("limit", "Zleast", "least load", "the amplifier has no ratings on record")
		}
		return reckon.Of("limit", "Zleast", "least load", rows[0].Load, "").
			Noting("The sheet gives no least load; the smallest rated one is taken.").Because("ratings table")
	}
	channel := a.LeastLoad(Separate)
	if !channel.Known() {
		return channel
	}
	twice := unit.Ohm(2 * channel.Value)
	if z, known := a.Bridging.Least.Get(); known && z > twice {
		return reckon.Of("limit", "Zleast", "least bridged load", z, "").Because(origin(a.Bridging.Least.Origin()))
	}
	return reckon.Of("limit", "Zleast", "least bridged load", twice, "2 × {Z}", channel.As("Z")).
		Because("each side of a bridge sees half the load")
}

// LoadTolerance is how far a load may lie under a rated one and still count
// as it: 0.5 %, the rounding of figures such as 2.67 Ω for three 8 Ω boxes.
const LoadTolerance = 0.005

// Below tells whether a load lies under a least one beyond the rounding of
// such figures.
func Below[T ~float64](z, least T) bool { return float64(z) < (1-LoadTolerance)*float64(least) }

// constantVoltageSlack is how far a rating may lie over what constant voltage
// gives after the next higher load: sheets round their figures to 2 %.
const constantVoltageSlack = 0.02

// PowerInto is the continuous power in W that one channel, or one bridged
// pair, gives into a load. As listed at a listed load; between two, a straight
// line of ln P over ln Z; above the highest, constant voltage; below the
// lowest, unknown: it is not rated there. A bridge is never credited with more
// than twice a channel into half the load.
func (a *Amplifier) PowerInto(mode Mode, z unit.Ohm) reckon.Figure {
	var buf [usualRatings]Rating
	rows, note := a.table(mode, buf[:])
	listed := a.fromTable(rows, z).Noting(note)
	if mode == Separate {
		return listed
	}
	honest := a.twiceHalf(z)
	switch {
	case !honest.Known() && listed.Known():
		return listed.Noting("The channels' own rating into half the load is unknown, so the maker's bridged figure " +
			"stands unchecked.")
	case honest.Known() && len(rows) == 0:
		return honest.Noting("The maker gives no bridged rating.")
	case honest.Known() && listed.Known() && honest.Value < listed.Value*(1-LoadTolerance):
		return honest.Noting(fmt.Sprintf("The maker claims %s bridged; two channels into half the load give less, and "+
			"that is counted.", listed.Text()))
	case !listed.Known():
		return listed
	}
	return listed
}

// twiceHalf is the honest bridged power: twice what a channel gives into half
// the load with both driven.
func (a *Amplifier) twiceHalf(z unit.Ohm) reckon.Figure {
	channel := a.PowerInto(Separate, z/2)
	if !channel.Known() {
		return channel
	}
	return reckon.Of("power", "P", "amplifier power", unit.Watt(2*channel.Value), "2 × {Phalf}",
		reckon.In("Phalf", "one channel into "+(z/2).String(), unit.Watt(channel.Value), "sheet")).
		Noting(channel.Note).Because("each side of a bridge sees half the load")
}

// BurstInto is the burst power in W into a load, from the ratings that the
// sheet calls so: how loud a drum may be, and nothing of what it holds. A burst
// rated at one load says nothing of loads beyond those rated, and a burst is
// never less than what is held.
func (a *Amplifier) BurstInto(mode Mode, z unit.Ohm) reckon.Figure {
	const key, symbol, name = "burst", "Pburst", "burst power"
	bursts := *a
	bursts.Ratings = nil
	for _, r := range a.Ratings {
		if r.Duration == Burst && r.Mode == mode {
			r.Duration = ""
			bursts.Ratings = append(bursts.Ratings, r)
		}
	}
	if len(bursts.Ratings) == 0 {
		return reckon.Unknown(key, symbol, name, "the sheet gives no burst rating in this mode")
	}
	rows, _ := bursts.table(mode, nil)
	if most := rows[len(rows)-1].Load; float64(z/most) > 1+LoadTolerance {
		return reckon.Unknown(key, symbol, name, fmt.Sprintf("bursts are not rated above %s", most))
	}
	burst := bursts.fromTable(rows, z).Called(key, symbol, name)
	if held := a.PowerInto(mode, z); burst.Known() && held.Known() && burst.Value < held.Value {
		return held.Called(key, symbol, name).Noting(fmt.Sprintf("The sheet's burst of %s is less than what is held.",
			burst.Text()))
	}
	return burst
}

// The supply that an amplifier without a range on its sheet is taken to work
// on, over the one it was rated at: a tenth more (IEC 60038, from memory) down to
// where mains are a brown-out (common practice, no source).
const supplyOver, supplyUnder = 1.1, 0.75

// AtSupply is a power at another supply voltage than the ratings were taken
// at: as the square of the voltage where the supply is not regulated, the same
// where it is and the voltage lies in its range. Beyond what it works on it is
// unknown.
func (m *Model) AtSupply(power reckon.Figure, volts unit.Volt) reckon.Figure {
	if !power.Known() {
		return power
	}
	if why := m.RefusesSupply(volts); why != "" {
		return reckon.Unknown(power.Key, power.Symbol, power.Name, why)
	}
	rated, known := m.Amplifier.Supply.Get()
	switch {
	case !known:
		return power.Noting("The sheet does not say at what supply it was rated; as rated is assumed.")
	case volts == rated:
		return power
	case m.Intake.Corrected == Yes && m.Intake.VoltsLow.Known() && m.Intake.VoltsHigh.Known():
		return power.Noting("Its supply is regulated; within its range the power stays.")
	}
	return reckon.Of(power.Key, power.Symbol, power.Name, unit.Watt(power.Value*math.Pow(float64(volts/rated), 2)),
		"{P0} × ({U} / {U0})²", power.As("P0"),
		reckon.In("U", "supply", volts, ""), reckon.In("U0", "supply of the ratings", rated, m.Amplifier.Supply.Origin())).
		Noting(power.Note).
		Noting("Its supply is taken as not regulated: the rails follow the mains.").Because("power goes as the square of " +
		"the voltage")
}

// RefusesSupply says why a model does not work on a supply voltage; "" where it
// does, or where nothing is known against it.
func (m *Model) RefusesSupply(volts unit.Volt) string {
	low, known1 := m.Intake.VoltsLow.Get()
	high, known2 := m.Intake.VoltsHigh.Get()
	switch {
	case known1 && volts < low:
		return fmt.Sprintf("it works from %s, and the mains give %s", mains(low), mains(volts))
	case known2 && volts > high:
		return fmt.Sprintf("it works up to %s, and the mains give %s", mains(high), mains(volts))
	case m.Amplifier == nil:
		return ""
	}
	rated, known := m.Amplifier.Supply.Get()
	if known && (!known1 && volts < supplyUnder*rated || !known2 && volts > supplyOver*rated) {
		return fmt.Sprintf("it is rated at %s, and whether it works on %s is not on record", mains(rated), mains(volts))
	}
	return ""
}

// mains says a supply voltage as the trade does, in whole volts.
func mains(v unit.Volt) string { return fmt.Sprintf("%.0f V", float64(v)) }

func (a *Amplifier) fromTable(rows []Rating, z unit.Ohm) reckon.Figure {
	const key, symbol, name = "power", "P", "amplifier power"
	if len(rows) == 0 {
		return reckon.Unknown(key, symbol, name, "the sheet has no continuous rating in this mode")
	}
	for _, r := range rows {
		if math.Abs(float64(z/r.Load-1)) <= LoadTolerance {
			return reckon.Of(key, symbol, name, r.Power, "as rated into {Z}",
				reckon.In("Z", "load", r.Load, "sheet")).Because("ratings table")
		}
	}
	low, high := rows[0], rows[len(rows)-1]
	switch {
	case z < low.Load:
		return reckon.Unknown(key, symbol, name, fmt.Sprintf("not rated below %s", low.Load))
	case z > high.Load:
		return reckon.Of(key, symbol, name, high.Power*unit.Watt(high.Load/z), "{P1} × {Z1} / {Z}",
			reckon.In("P1", "rated power", high.Power, "sheet"), reckon.In("Z1", "rated load", high.Load, "sheet"),
			reckon.In("Z", "load", z, "")).
			Noting("Above the highest rated load the voltage stays the same.").Because("P = U²/Z at constant voltage")
	}
	i := slices.IndexFunc(rows, func(r Rating) bool { return r.Load > z })
	a1, a2 := rows[i-1], rows[i]
	t := math.Log(float64(z/a1.Load)) / math.Log(float64(a2.Load/a1.Load))
	p := unit.Watt(math.Exp(math.Log(float64(a1.Power))*(1-t) + math.Log(float64(a2.Power))*t))
	return reckon.Of(key, symbol, name, p, "{P1} × ({P2} / {P1})^(ln({Z}/{Z1}) / ln({Z2}/{Z1}))",
		reckon.In("P1", "rated power", a1.Power, "sheet"), reckon.In("Z1", "rated load", a1.Load, "sheet"),
		reckon.In("P2", "next rated power", a2.Power, "sheet"), reckon.In("Z2", "next rated load", a2.Load, "sheet"),
		reckon.In("Z", "load", z, "")).
		Noting("Between two rated loads.").Because("straight line of ln P over ln Z")
}

// VoltageGain is the gain in dB of one channel with its level control fully
// up. From a sensitivity it is 20 lg(sqrt(P Z)/U), with P at the load that the
// sensitivity is stated for: taken at another load it puts every limiter off.
func (a *Amplifier) VoltageGain() reckon.Figure {
	if g, known := a.Gain.Get(); known {
		return reckon.Of("gain", "G", "amplifier gain", g, "").Because(origin(a.Gain.Origin()))
	}
	u, known := a.Sensitivity.Get()
	if !known {
		return reckon.Unknown("gain", "G", "amplifier gain",
			"the sheet gives neither gain nor input sensitivity; read it from the manual or measure it")
	}
	z, known := a.SensLoad.Get()
	if !known {
		return reckon.Unknown("gain", "G", "amplifier gain", "the sensitivity is known, but not the load it is stated for")
	}
	p := a.PowerInto(Separate, z)
	if !p.Known() {
		return reckon.Unknown("gain", "G", "amplifier gain", "the amplifier is not rated at the load of its sensitivity")
	}
	return reckon.Of("gain", "G", "amplifier gain", unit.OfVolts(float64(unit.Watt(p.Value).Across(z)/u)),
		"20 lg(sqrt({P} × {Z}) / {U})",
		p.As("P"), reckon.In("Z", "load of the sensitivity", z, a.SensLoad.Origin()),
		reckon.In("U", "input sensitivity", u, a.Sensitivity.Origin())).
		Because("definition of gain")
}

func (a Amplifier) check() fault.List {
	var l fault.List
	if len(a.Ratings) > 60 {
		l.Add("ratings", "%d ratings are more than any sheet has; keep at most 60.", len(a.Ratings))
		return l
	}
	l.AddAll("", checkRows(&a, powerRows, gainRows, outputRows, bridgingRows, ampSocketRows))
	if j := a.Bridging.Joined(); a.Bridging.Common != "" && j != a.Bridging.Common {
		l.Add("bridging.common", "The reading of %s says %s, and the answer beside it says %s. Near 0 Ω they are joined; "+
			"keep one of the two.", a.Bridging.Between, j, a.Bridging.Common)
	}
	for _, name := range a.Bridging.Pairs {
		if !slices.ContainsFunc(bridgePorts[:max(0, min(a.Pairs(), mostChannels/2))],
			func(port string) bool { return port == "out "+name }) {
			l.Add("bridging.pairs", "%.20q is no pair of its channels; write them as A+B, C+D.", name)
		}
	}
	for i, r := range a.Ratings {
		l.AddAll(fmt.Sprintf("ratings[%d]", i), r.check())
	}
	if len(l) == 0 {
		a.checkRise(&l)
	}
	return l
}

func (r Rating) check() fault.List {
	var l fault.List
	l.CheckName("from", "Where a rating comes from", r.From, unit.MostOrigin, false)
	if r.Mode != Separate && r.Mode != Bridged {
		l.Add("mode", "A rating is of a channel on its own (separate) or of a pair (bridged), not %q.", r.Mode)
	}
	switch {
	case !(r.Load > 0):
		l.Add("load", "A load of %s cannot be: a rating needs a load above 0 Ω.", r.Load)
	case r.Load < 0.5 || r.Load > 128:
		l.Add("load", "A rated load of %s cannot be right: give 0.5 Ω to 128 Ω.", r.Load)
	}
	switch {
	case !(r.Power > 0):
		l.Add("power", "A power of %s cannot be: leave the line out if it is unknown.", r.Power)
	case r.Power < 10:
		l.Add("power", "%s into %s is too little for a power amplifier. If the sheet says %s kW, write %s kW.", r.Power,
			r.Load, unit.Number(float64(r.Power)), unit.Number(float64(r.Power)))
	case r.Power > 20000:
		l.Add("power", "%s into %s is more than any amplifier gives. If the sheet says W, write W.", r.Power, r.Load)
	}
	if r.Driven != "" && r.Driven != AllDriven && r.Driven != OneDriven {
		l.Add("driven", "%q: say all or one.", r.Driven)
	}
	l.CheckName("from", "Where a rating comes from", r.From, 60, false)
	if strings.ContainsAny(r.From, ",;[]") {
		l.Add("from", "Where a rating comes from is written without commas, semicolons and square brackets.")
	}
	if r.Duration != "" && r.Duration != Continuous && r.Duration != Burst {
		l.Add("duration", "%q: say continuous or burst.", r.Duration)
	}
	return l
}

// checkRise faults a table that no amplifier has: one that gives more into a
// lower load than constant voltage allows, or less than constant current does.
// Between the two a table may stay level or fall towards low loads, as those of
// amplifiers do that are short of current.
func (a *Amplifier) checkRise(l *fault.List) {
	for _, mode := range []Mode{Separate, Bridged} {
		var buf [usualRatings]Rating
		rows, _ := a.table(mode, buf[:])
		for i := 1; i < len(rows); i++ {
			lower, higher := rows[i-1], rows[i]
			steps := float64(higher.Load / lower.Load)
			switch {
			case lower.Load == higher.Load:
				l.Add("ratings", "%s is rated twice, at %s and %s; keep one.", lower.Load, lower.Power, higher.Power)
			case float64(higher.Power/lower.Power) > (1+constantVoltageSlack)*steps:
				l.Add("ratings", "The table falls more than constant current does: %s into %s, but only %s into the lower %s. "+
					"Are two figures exchanged?", higher.Power, higher.Load, lower.Power, lower.Load)
			case float64(lower.Power/higher.Power) > (1+constantVoltageSlack)*steps:
				l.Add("ratings", "%s into %s is more than constant voltage gives after %s into %s; no amplifier does that. Is "+
					"one of them a burst or a bridged figure?", lower.Power, lower.Load, higher.Power, higher.Load)
			}
		}
	}
}

// Falls is the pair of ratings between which a table gives less into the lower
// load, false where it gives more or as much all the way: short of current, or
// two figures exchanged.
func (a *Amplifier) Falls(mode Mode) (lower, higher Rating, falls bool) {
	var buf [usualRatings]Rating
	rows, _ := a.table(mode, buf[:])
	for i := 1; i < len(rows); i++ {
		if rows[i-1].Power < rows[i].Power {
			return rows[i-1], rows[i], true
		}
	}
	return Rating{}, Rating{}, false
}

// amplifierSheet is what is known of an amplifier.
var amplifierSheet = []Section{
	{Title: "Power", Entries: lift("amplifier", "", theAmplifier, powerRows)},
	{Title: "Gain", Note: "One of the two is enough. A sensitivity counts only with its load.",
		Entries: lift("amplifier", "", theAmplifier, gainRows)},
	{Title: "Output", Later: true, Note: "Output impedance, or damping factor with its load and frequency.",
		Entries: lift("amplifier", "", theAmplifier, outputRows)},
	{Title: "Its sockets", Later: true, Entries: lift("amplifier", "", theAmplifier, ampSocketRows)},
	{Title: "May it be bridged?",
		Note: "The ohmmeter check shows whether the minus terminals are joined inside. That is needed for a bridge made " +
			"by hand, and not enough on its own.",
		Steps: []string{"Switch the amplifier off.", "Pull its mains plug, and all leads from its outputs.",
			"Wait a minute. Set a meter to ohms and touch its leads together: that is its zero.",
			"Hold one lead to the minus terminal of channel A, the other to that of channel B.",
			"Enter what it reads. Near 0 Ω they are joined; open, or some ohms, they are not."},
		Entries: lift("amplifier", "", theAmplifier, bridgingRows)},
}

func theAmplifier(m *Model) *Amplifier { return m.Amplifier }

var ampSocketRows = socketRows(func(a *Amplifier) *Sockets { return &a.Sockets },
	"Inputs", "Speaker outputs", "Inputs balanced")

var powerRows = []row[Amplifier]{
	count("channels", "channels", "Channels", "channels", 1, mostChannels, func(a *Amplifier) *int { return &a.Channels }),
	ratingsRow,
	figure("least", "least_ohm", "Least load a channel", "as on its back",
		"A least load", 0.5, 64, func(a *Amplifier) *ohms { return &a.Least }),
	figure("supply", "rated_at_v", "Rated at a supply of", "as 230 V",
		"A supply voltage", 50, 500, func(a *Amplifier) *volts { return &a.Supply }),
	figure("together", "together_w", "All channels together", "W, where they share a supply",
		"The power of all channels", 20, 100000, func(a *Amplifier) *watts { return &a.Together }),
	figure("noiseUnder", "noise_under_db", "Noise under its full output", "dB, as 104", "A noise distance", 50, 140,
		func(a *Amplifier) *decibels { return &a.NoiseUnder }),
	figure("largestOut", "largest_out_v", "Largest output", "V rms of one channel",
		"A largest output voltage", 5, 400, func(a *Amplifier) *volts { return &a.LargestOut }),
	words("class", "class", "Class", "as AB, H, D", "The class", 12, func(a *Amplifier) *string { return &a.Class }),
}

var gainRows = []row[Amplifier]{
	figure("gain", "gain_db", "Gain", "dB", "A gain", 0, 60, func(a *Amplifier) *decibels { return &a.Gain }),
	figure("sensitivity", "sensitivity_v", "Input sensitivity", "as 1 V or 775 mV",
		"An input sensitivity", 0.05, 20, func(a *Amplifier) *volts { return &a.Sensitivity }),
	figure("sensitivityLoad", "sensitivity_load_ohm", "stated for", "Ω",
		"The load of the sensitivity", 0.5, 64, func(a *Amplifier) *ohms { return &a.SensLoad }),
	answer("limits", "limiters", "Has limiters of its own", func(a *Amplifier) *Answer { return &a.Limits }),
}

var outputRows = []row[Amplifier]{
	figure("outputImpedance", "output_ohm", "Output impedance", "Ω",
		"An output impedance", 0, 4, func(a *Amplifier) *ohms { return &a.OutputZ }),
	figure("damping", "damping", "Damping factor", "",
		"A damping factor", 1, 20000, func(a *Amplifier) *ratios { return &a.Damping }),
	figure("dampingLoad", "damping_load_ohm", "into", "Ω",
		"The load of the damping factor", 0.5, 64, func(a *Amplifier) *ohms { return &a.DampingLoad }),
	figure("dampingAt", "damping_at_hz", "at", "Hz",
		"The frequency of the damping factor", 1, 20000, func(a *Amplifier) *hertz { return &a.DampingAt }),
	answer("relay", "relay", "Muting relay at its outputs", func(a *Amplifier) *Answer { return &a.Relay }),
}

var bridgingRows = []row[Amplifier]{
	figure("bridging.between", "bridge_between_ohm", "Reading, minus to minus", "as 0.1 Ω [measured], or 10 Mohm for open",
		"A reading between the minus terminals", 0, 100e6, func(a *Amplifier) *ohms { return &a.Bridging.Between }),
	answer("bridging.common", "bridge_common", "or: minus terminals joined",
		func(a *Amplifier) *Answer { return &a.Bridging.Common }),
	answer("bridging.switch", "bridge_switch", "Bridge switch", func(a *Amplifier) *Answer { return &a.Bridging.Switch }),
	choice("bridging.manual", "bridge_manual", "The manual", func(a *Amplifier) *string { return &a.Bridging.Manual },
		checkManual, Option{"", "says nothing"}, Option{ManualAllows, "allows it"}, Option{ManualForbids, "forbids it"}),
	pairsRow,
	answer("bridging.inverted", "bridge_inverted", "Second channel inverted inside",
		func(a *Amplifier) *Answer { return &a.Bridging.Inverted }),
	figure("bridging.least", "bridge_least_ohm", "Least bridged load", "Ω",
		"A least bridged load", 1, 128, func(a *Amplifier) *ohms { return &a.Bridging.Least }),
}

func checkManual(l *fault.List, field, manual string) {
	if manual != "" && manual != ManualAllows && manual != ManualForbids {
		l.Add(field, "The manual allows or forbids bridging; %q is neither.", manual)
	}
}

// ratingsRow is the power table, one rating a line or as a sheet prints it, which
// also tells the channels.
var ratingsRow = row[Amplifier]{
	is: Entry{Key: "ratings", Column: "ratings", Label: "Ratings, as the sheet prints them", Form: Lines,
		Hint: "as 2 x 700 W into 4 ohm, bridged 1400 W into 8 ohm; words: one driven, all driven, burst"},
	typed: func(a *Amplifier) string { return strings.Join(a.ratingLines(), "\n") },
	read: func(a *Amplifier, s string) error {
		sheet, err := ParseSheet(s)
		a.Ratings, a.Channels = sheet.Ratings, max(a.Channels, sheet.Channels)
		return err
	},
	cell: func(a *Amplifier) string { return strings.Join(a.ratingLines(), "; ") },
	fill: func(a *Amplifier, s string) error {
		sheet, err := ParseSheet(s)
		a.Ratings = sheet.Ratings
		return err
	},
	check: func(*Amplifier, *fault.List) {},
}

func (a *Amplifier) ratingLines() []string {
	lines := make([]string, len(a.Ratings))
	for i, r := range a.Ratings {
		lines[i] = r.Line()
	}
	return lines
}

// pairsRow names the pairs of channels that bridge.
var pairsRow = row[Amplifier]{
	is: Entry{Key: "bridging.pairs", Column: "bridge_pairs", Label: "Pairs that bridge",
		Hint: "as A+B, C+D; empty: all"},
	typed: func(a *Amplifier) string { return strings.Join(a.Bridging.Pairs, ", ") },
	read: func(a *Amplifier, s string) error {
		a.Bridging.Pairs = strings.FieldsFunc(strings.ToUpper(s), func(r rune) bool { return r == ',' || r == ' ' })
		return nil
	},
	cell:  func(a *Amplifier) string { return strings.Join(a.Bridging.Pairs, " ") },
	fill:  func(a *Amplifier, s string) error { a.Bridging.Pairs = strings.Fields(s); return nil },
	check: func(*Amplifier, *fault.List) {},
}
