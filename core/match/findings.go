package match

import (
	"fmt"
	"maps"
	"slices"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
	"largo/core/words"
)

// touchVolts is the largest audio voltage that may be touched: ES1 reaches to
// 71 V rms (IEC 62368-1, table of audio signal sources; from memory).
const touchVolts unit.Volt = 71

func outputFindings(x *rig.Index, o Output, all []Output) []finding.Finding {
	if len(o.Boxes) == 0 {
		return nil
	}
	if !o.Live {
		if f, both := atOnce(x, o, all); both {
			return []finding.Finding{f}
		}
		return []finding.Finding{notLive(x, o)}
	}
	var fs []finding.Finding
	if o.Under {
		fs = append(fs, underLoad(x, o))
	}
	fs = append(fs, unturned(x, o)...)
	fs = append(fs, missing(o)...)
	if f, ok := strength(x, o); ok {
		fs = append(fs, f)
	}
	if f, ok := touch(o); ok {
		fs = append(fs, f)
	}
	return fs
}

func at(o Output, code string, danger finding.Danger, gravity finding.Gravity) finding.Finding {
	return finding.Finding{Code: code, Stage: finding.Match, Danger: danger, Gravity: gravity, At: o.At}
}

// underLoad: compared as nominal with nominal, since an amplifier's least
// load is a nominal figure too (common practice, no source).
func underLoad(x *rig.Index, o Output) finding.Finding {
	f := at(o, "match.load-below-least", finding.Gear, finding.Stop)
	f.What = fmt.Sprintf("%s drives %s, below its least of %s.", o.Name(), o.Nominal.Text(), o.Limit.Text())
	f.Why = "It would overheat, or switch itself off, in the first loud minute."
	if o.Mode == gear.Bridged {
		f.What = fmt.Sprintf("%s bridged drives %s; the least is %s.", o.Name(), o.Nominal.Text(), o.Limit.Text())
		f.Why = fmt.Sprintf("Each side sees half of it, %s. ", unit.Ohm(o.Nominal.Value/2)) + f.Why
	}
	f.Figures = []reckon.Figure{o.Nominal, o.Limit}
	f.Mends = lighten(x, o)
	if len(f.Mends) == 0 {
		f.Advice = "Take boxes off this output and give them one of their own."
	}
	return f
}

// lighten finds edits that bring an overloaded output back above its least:
// out of bridge, or half of its boxes over to the pair's free channel.
func lighten(x *rig.Index, o Output) []finding.Way {
	if o.Pair < 0 {
		return nil
	}
	first, second := gear.ChannelPort(2*o.Pair), gear.ChannelPort(2*o.Pair+1)
	keep, move := halves(o.Hung())
	if len(move) == 0 || gear.Below(min(parallel(keep), parallel(move)), o.Amp.LeastLoad(gear.Separate).Value) {
		return nil
	}
	var way finding.Way
	tag := o.At.Device
	setting := rig.SetPair{Tag: tag, Pair: o.Pair, Set: rig.Pair{Output: gear.Separate, Input: rig.ParallelIn}}
	switch {
	case o.Mode == gear.Bridged:
		way = rehang(x, tag, keep, first, move, second).way(fmt.Sprintf("Separate: %s on each channel",
			words.Count(len(keep), "box", "boxes")), "Took "+tag+" out of bridge", setting)
	default:
		other := second
		if o.At.Port == second {
			other = first
		}
		if len(x.From(rig.Ref{Device: tag, Port: other})) > 0 {
			return nil
		}
		boxes := words.Count(len(move), "box", "boxes")
		way = rehang(x, tag, keep, o.At.Port, move, other).way(fmt.Sprintf("Move %s to %s", boxes, other),
			fmt.Sprintf("Moved %s of %s to %s", boxes, o.Name(), other), setting)
	}
	return []finding.Way{way}
}

func halves(boxes []load.Box) (keep, move []load.Box) {
	half := (len(boxes) + 1) / 2
	return boxes[:half], boxes[half:]
}

func parallel(boxes []load.Box) float64 {
	zs := make([]unit.Ohm, len(boxes))
	for i, b := range boxes {
		zs[i] = unit.Ohm(b.Speaker.NominalZ().Value)
	}
	return float64(unit.Parallel(zs...))
}

// rehung is boxes hung anew, and the links that no lead at hand reaches for.
type rehung struct {
	edits []rig.Edit
	short []string // the leads that it takes, as "25 m to TOP 3"
}

// rehang pulls the leads of two sets of boxes and hangs each on a port of an
// amplifier, linked through from box to box where the boxes can, with those of the
// leads that reach.
func rehang(x *rig.Index, amp string, a []load.Box, portA string, b []load.Box, portB string) (h rehung) {
	var pulled, links []rig.Link
	for _, set := range []struct {
		boxes []load.Box
		port  string
	}{{a, portA}, {b, portB}} {
		from := rig.Ref{Device: amp, Port: set.port}
		for _, box := range set.boxes {
			k, _ := x.Into(box.In())
			pulled, links = append(pulled, k), append(links, rig.Link{From: from, To: box.In()})
			h.edits = append(h.edits, rig.Disconnect{To: box.In()})
			if box.Speaker.LinksOn(box.Poles) {
				from = box.Through()
			}
		}
	}
	plugs, short := x.LeadsAtHand(pulled, nil).Plug(links, x.Spot)
	h.edits = append(h.edits, plugs...)
	for _, k := range short {
		way, _ := x.Ground(gear.Speaker).Between(k.From.Device, k.To.Device)
		h.short = append(h.short, fmt.Sprintf("%s to %s", way, k.To.Device))
	}
	return h
}

// way is the mend that hangs the boxes so, after other edits; its label says which leads
// it takes that are not there.
func (h rehung) way(label, saying string, first ...rig.Edit) finding.Way {
	if len(h.short) > 0 {
		label += "; it takes a longer lead: " + words.List(h.short)
	}
	return finding.Way{Label: label, Edit: rig.Batch{Saying: saying, Edits: slices.Concat(first, h.edits)}}
}

func notLive(x *rig.Index, o Output) finding.Finding {
	if o.Mode == gear.Separate {
		f := at(o, "match.one-hot-terminal", finding.Gear, finding.Stop)
		port := gear.BridgePort(o.Pair)
		f.What = fmt.Sprintf("%s is bridged, but %s on one hot terminal alone.", o.At.Device, hangs(len(o.Boxes), o.At.Port))
		f.Why = "A bridged load belongs between the two hot terminals; on one side it gets half the volts and the bridge " +
			"does nothing for it."
		f.Mends = []finding.Way{rehang(x, o.At.Device, o.Hung(), port, nil, "").way("Hang the load on "+port,
			"Moved the load of "+o.Name()+" to "+port), unbridge(o)}
		return f
	}
	f := at(o, "match.bridge-not-set", finding.Gear, finding.Stop)
	first := gear.ChannelPort(2 * o.Pair)
	f.What = fmt.Sprintf("%s is set separate, but %s between its hot terminals.", o.At.Device,
		hangs(len(o.Boxes), o.At.Port))
	f.Why = "Both channels in step give such a load nothing; out of step they give it twice the volts. Either way it " +
		"is not what was planned."
	f.Mends = []finding.Way{rehang(x, o.At.Device, o.Hung(), first, nil, "").way("Hang the load on "+first,
		"Moved the load of "+o.Name()+" to "+first)}
	return f
}

func hangs(n int, port string) string {
	if n == 1 {
		return "1 box hangs on " + port
	}
	return fmt.Sprintf("%d boxes hang on %s", n, port)
}

func unbridge(o Output) finding.Way {
	return finding.Way{Label: "Set " + o.At.Device + " separate", Edit: rig.SetPair{Tag: o.At.Device, Pair: o.Pair,
		Set: rig.Pair{Output: gear.Separate, Input: rig.ParallelIn}}}
}

// missing reports what is not known: unknown is never zero, and never fine.
func missing(o Output) []finding.Finding {
	var fs []finding.Finding
	add := func(code, what, why, advice string) {
		f := at(o, code, finding.Gear, finding.Mend)
		f.What, f.Why, f.Advice = what, why, advice
		fs = append(fs, f)
	}
	switch {
	case !o.Nominal.Known():
		add("match.unknown-impedance", fmt.Sprintf("The load on %s is unknown: %s.", o.Name(), o.Nominal.Lacks),
			"Nobody can say whether the amplifier stands it.",
			"Read the plate, or measure the DC resistance and reckon 5 to 7 Ω for an 8 Ω box.")
	case !o.Under && !o.Power.Known() && o.Dead == "" && o.Fed.Refuses() == "":
		add("match.unknown-power", fmt.Sprintf("The power of %s into %s is unknown: %s.", o.Name(), o.Nominal.Text(),
			o.Power.Lacks),
			"Neither its strength nor its limiter can be judged.", "Enter the ratings from the amplifier's back or its manual.")
	}
	for _, b := range o.Boxes {
		if !b.Continuous().Known() {
			add("match.unknown-rating", fmt.Sprintf("%s has no power rating on record.", b.Name()),
				"What it stands cannot be judged, and no limiter can be set for it.",
				"Read its plate or its sheet; a bare figure is taken as peak.")
			fs[len(fs)-1].At = rig.Ref{Device: b.Tag}
		}
	}
	return fs
}

// strength judges the worst box of an output against its policy: too strong by what
// it could be given alone, for other channels may rest; too weak by what is left
// while all are driven.
func strength(x *rig.Index, o Output) (finding.Finding, bool) {
	if !o.Ratio.Known() {
		return finding.Finding{}, false
	}
	alone := o.AloneOver()
	strongest, weakest := -1, -1
	for i := range o.Boxes {
		b := &o.Boxes[i]
		low, high := Band(PolicyAt(x.Rig, *b.Box.Box))
		if r := b.Ratio.Value * alone; TooStrong(r, high) && (strongest < 0 || r > o.Boxes[strongest].Ratio.Value*alone) {
			strongest = i
		}
		if r := b.Ratio.Value; TooWeak(r, low) && (weakest < 0 || r < o.Boxes[weakest].Ratio.Value) {
			weakest = i
		}
	}
	switch {
	case strongest >= 0:
		return tooStrong(x, o, &o.Boxes[strongest]), true
	case weakest >= 0:
		return tooWeak(o, &o.Boxes[weakest]), true
	}
	return finding.Finding{}, false
}

func tooStrong(x *rig.Index, o Output, b *Box) finding.Finding {
	policy := PolicyAt(x.Rig, *b.Box.Box)
	_, high := Band(policy)
	r, watts := b.Ratio.Value*o.AloneOver(), unit.Watt(b.Offer().Value*o.AloneOver())
	f := at(o, "match.too-strong", finding.Gear, finding.Mend)
	f.What = fmt.Sprintf("%s can give %s %s, %s times its continuous %s.", o.Name(), b.Name(), watts, unit.Fixed(r, 2),
		b.Continuous().Text())
	f.Why = fmt.Sprintf("The policy %q asks for at most %s times; above it one careless fader burns a coil.", policy,
		unit.Number(high))
	f.Figures = []reckon.Figure{b.Ratio, b.Offer()}
	f.Mends = stronger(x, o, b, r)
	f.Advice = "Put more boxes on this output, or give them a smaller amplifier. A limiter under the rating is the least."
	return f
}

func tooWeak(o Output, b *Box) finding.Finding {
	f := at(o, "match.too-weak", finding.Sound, finding.Mind)
	f.What = fmt.Sprintf("%s gives %s %s, %s times its continuous %s.", o.Name(), b.Name(), b.Offer().Text(),
		unit.Fixed(b.Ratio.Value, 2), b.Continuous().Text())
	f.Why = "It works, and distorts before the box has given what it could. Below its clip point it harms nothing; " +
		"pushed far over it, some say that tweeters burn."
	f.Figures = []reckon.Figure{b.Ratio, b.Offer()}
	return f
}

// stronger offers what an edit can do about too strong an amplifier: another
// policy under which the same ratio is wanted.
func stronger(x *rig.Index, o Output, b *Box, r float64) []finding.Way {
	var ways []finding.Way
	if o.Mode == gear.Bridged {
		keep, move := halves(o.Hung())
		first, second := gear.ChannelPort(2*o.Pair), gear.ChannelPort(2*o.Pair+1)
		set := rig.SetPair{Tag: o.At.Device, Pair: o.Pair, Set: rig.Pair{Output: gear.Separate, Input: rig.ParallelIn}}
		ways = append(ways, rehang(x, o.At.Device, keep, first, move, second).way("Take "+o.At.Device+" out of bridge",
			"Took "+o.At.Device+" out of bridge", set))
	}
	if _, high := Band(rig.Headroom); !TooStrong(r, high) && PolicyAt(x.Rig, *b.Box.Box) != rig.Headroom {
		ways = append(ways, finding.Way{Label: "Take the headroom policy, with limiters set",
			Edit: headroom(x.Rig, b.Part())})
	}
	return ways
}

// headroom is the edit that gives a part the policy of headroom: its own where it has
// one, else that of the rig.
func headroom(r rig.Rig, part rig.Part) rig.Edit {
	if _, own := r.Policies[part]; !own {
		return rig.SetWishes{Policy: rig.Headroom, Bridging: r.Bridging}
	}
	policies := maps.Clone(r.Policies)
	policies[part] = rig.Headroom
	return rig.SetPolicies{Policies: policies}
}

func touch(o Output) (finding.Finding, bool) {
	if volts, known := o.ClipVolts(); !known || volts <= touchVolts {
		return finding.Finding{}, false
	}
	u := o.Clip()
	f := at(o, "match.touch-voltage", finding.People, finding.Mind)
	f.What = fmt.Sprintf("The terminals of %s can stand at %s.", o.Name(), u.Text())
	f.Why = "Above 71 V rms, and less when wet, audio is no longer safe to touch. Connect with the amplifier off and " +
		"cover bare terminals."
	f.Figures = []reckon.Figure{u.Called("terminalVolts", "U", "voltage at the terminals").
		Because("ES1 reaches to 71 V rms for audio: IEC 62368-1 (from memory)")}
	return f, true
}
