package wire

import (
	"fmt"
	"slices"
	"strings"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/rig"
	"largo/core/words"
)

// silentWays finds the poles that feed nothing: a way of a box left silent
// while another of its ways is fed.
func silentWays(x *rig.Index) []finding.Finding {
	var fs []finding.Finding
	for i := range x.Rig.Devices {
		d, m := &x.Rig.Devices[i], x.ModelAt(i)
		if m.Kind != gear.KindLoudspeaker || len(m.Loudspeaker.Ways) == 0 {
			continue
		}
		var fed, silent []int
		for pair := 1; pair <= m.Loudspeaker.Pairs(); pair++ {
			if _, ok := x.Into(rig.Ref{Device: d.Tag, Port: gear.PoleIn(pair)}); ok {
				fed = append(fed, pair)
			} else {
				silent = append(silent, pair)
			}
		}
		if len(fed) == 0 {
			continue // the whole box is unfed, which is said elsewhere
		}
		for _, pair := range silent {
			fs = append(fs, silentWay(x, d, m, fed[0], pair))
		}
	}
	return fs
}

func silentWay(x *rig.Index, d *rig.Device, m *gear.Model, fed, pair int) finding.Finding {
	way := m.Loudspeaker.Ways[pair-1].Name
	in := rig.Ref{Device: d.Tag, Port: gear.PoleIn(pair)}
	f := at(in, "wire.way-silent", finding.Sound, finding.Mend)
	f.What = fmt.Sprintf("Nothing feeds poles %d± of %s: its %s way stays silent.", pair, d.Tag, way)
	f.Why = "A two-pole lead carries only the first way of a box that needs more."
	up, _ := x.Into(rig.Ref{Device: d.Tag, Port: gear.PoleIn(fed)})
	through := rig.Ref{Device: up.From.Device, Port: gear.PoleLink(pair)}
	from, ok := x.Port(up.From)
	if _, has := x.Port(through); ok && has && from.Dir == gear.Through {
		f.Mends, f.Advice = morePoles(x, up, rig.Link{From: through, To: in}, pair)
		return f
	}
	f.Advice = fmt.Sprintf("Feed poles %d± from the amplifier channel for the %s way.", pair, way)
	return f
}

// morePoles are the edits that take a pair of poles on in the lead of a link that is
// there: as it is where it has the conductors, else by another lead of the rig that
// has, fits and is no shorter; where there is none, that is said.
func morePoles(x *rig.Index, host, k rig.Link, pair int) ([]finding.Way, string) {
	k.Rides = host.To
	plug := rig.Connect{Link: k}
	if polesOf(x, host) == 0 || polesOf(x, host) >= 2*pair {
		return []finding.Way{{Label: "Take the other poles on in the same lead from " + host.From.Device, Edit: plug}}, ""
	}
	if m := otherLead(x, host, pair); m != nil {
		return []finding.Way{{Label: "Take " + m.Name + " from " + host.From.Device, Edit: rig.Batch{
			Saying: "Took a lead with all poles from " + host.From.Device, Edits: []rig.Edit{
				rig.SetLead{To: host.To, Stock: []gear.Model{*m}, Via: host.Via, Swapped: host.Swapped}, plug}}}}, ""
	}
	return nil, fmt.Sprintf("The lead from %s has %d conductors, and no other of this rig has %d: take one from stock.",
		host.From.Device, polesOf(x, host), 2*pair)
}

// polesOf is how many conductors a link's lead has, the least of its pieces; 0 where
// it is not known.
func polesOf(x *rig.Index, k rig.Link) int {
	least := 0
	for _, c := range x.Pieces(k) {
		if c.Poles == 0 {
			return 0
		}
		if least == 0 || c.Poles < least {
			least = c.Poles
		}
	}
	return least
}

// otherLead is a lead of the rig's models with more conductors that fits where a link's
// does, and is no shorter; nil where there is none.
func otherLead(x *rig.Index, k rig.Link, pair int) *gear.Model {
	from, _ := x.Port(k.From)
	to, _ := x.Port(k.To)
	length := x.LeadLength(k).Or(0)
	for i := range x.Rig.Models {
		m := &x.Rig.Models[i]
		if c := m.Cable; c != nil && c.Sort == gear.SpeakerCable && c.Poles >= 2*pair && c.Length.Or(0) >= length &&
			c.Fits(from.Connector, to.Connector) {
			return m
		}
	}
	return nil
}

// otherPoles finds boxes whose selector is on poles that nothing feeds, while others
// are fed.
func otherPoles(x *rig.Index) []finding.Finding {
	var fs []finding.Finding
	for i := range x.Rig.Devices {
		d, m := &x.Rig.Devices[i], x.ModelAt(i)
		if m.Kind != gear.KindLoudspeaker || !m.Loudspeaker.Selector {
			continue
		}
		in := rig.Ref{Device: d.Tag, Port: gear.PoleIn(d.Poles())}
		if _, fed := x.Into(in); fed {
			continue
		}
		for pair := 1; pair <= m.Loudspeaker.PolePairs(); pair++ {
			if _, fed := x.Into(rig.Ref{Device: d.Tag, Port: gear.PoleIn(pair)}); !fed {
				continue
			}
			f := at(in, "wire.poles-unfed", finding.Sound, finding.Mend)
			f.What = fmt.Sprintf("%s is set to poles %d±, and its lead brings signal on %d± alone.", d.Tag, d.Poles(), pair)
			f.Why = "It stays silent, and passes on what is meant for it."
			set := d.Change()
			set.Poles = pair
			f.Mends = []finding.Way{{Label: fmt.Sprintf("Set its selector to %d±", pair), Edit: set}}
			fs = append(fs, f)
			break
		}
	}
	return fs
}

// fewPoles finds pairs of poles that go through a lead without the conductors for
// them.
func fewPoles(x *rig.Index) []finding.Finding {
	var fs []finding.Finding
	for _, k := range x.Rig.Links {
		pair := gear.PairOf(k.To.Port)
		from, _ := x.Port(k.From)
		if poles := polesOf(x, k); from.Signal != gear.Speaker || pair < 2 || poles == 0 || poles >= 2*pair {
			continue
		}
		f := at(k.To, "wire.lead-poles", finding.Sound, finding.Mend)
		f.What = fmt.Sprintf("The lead from %s to %s has %d conductors; poles %d± need %d.", k.From.Device, k.To.Device,
			polesOf(x, k), pair, 2*pair)
		f.Why = "That way stays silent, or hangs on poles that are another's."
		if m := otherLead(x, k, pair); m != nil {
			host := k
			if k.Rides != (rig.Ref{}) {
				host, _ = x.Into(k.Rides)
			}
			f.Mends = []finding.Way{{Label: "Take " + m.Name, Edit: rig.SetLead{To: host.To, Stock: []gear.Model{*m},
				Via: host.Via, Swapped: host.Swapped}}}
		} else {
			f.Advice = fmt.Sprintf("No lead of this rig has %d conductors and fits: take one from stock.", 2*pair)
		}
		fs = append(fs, f)
	}
	return fs
}

// mixedWays finds outputs that drive one way of one box and another way of
// the next: a crossed lead.
func mixedWays(outs []drive.Output) []finding.Finding {
	var fs []finding.Finding
	for _, o := range outs {
		for _, b := range o.Boxes {
			first := o.Boxes[0]
			if b.Way == first.Way || b.Way == "" || first.Way == "" {
				continue
			}
			f := at(b.In(), "wire.ways-crossed", finding.Gear, finding.Stop)
			f.What = fmt.Sprintf("%s drives %s and %s.", o.At, first.Name(), b.Name())
			f.Why = "What is meant for the one burns or starves the other: a lead on the way has its poles crossed."
			f.Advice = "Check the lead pole by pole, 1± to 1± and 2± to 2±, before anything is switched on."
			f.Mends = []finding.Way{{Label: "Unplug " + b.Name(), Edit: rig.Disconnect{To: b.In()}}}
			fs = append(fs, f)
			break
		}
	}
	return fs
}

// joinedMinus finds what ties the minus terminals of two channels together on
// an amplifier whose outputs have no common return.
func joinedMinus(x *rig.Index, outs []drive.Output) []finding.Finding {
	by := map[string][]string{} // what joins them, by device
	type joint struct{ amp, by string }
	seen := map[joint]string{}
	var fs []finding.Finding
	for _, o := range outs {
		if o.Mode != gear.Separate || o.Amp.Bridging.Joined() == gear.Yes && o.Amp.Bridging.Inverted != gear.Yes {
			continue
		}
		for _, b := range joiners(x, o) {
			j := joint{o.At.Device, b}
			other, twice := seen[j]
			if !twice {
				seen[j] = o.At.Port
				continue
			}
			if other == o.At.Port || slices.Contains(by[j.amp], b) {
				continue
			}
			by[j.amp] = append(by[j.amp], b)
			fs = append(fs, minusFinding(o, other, b))
		}
	}
	return fs
}

// joiners names what on an output's line joins the minus terminals of all
// that it is plugged to.
func joiners(x *rig.Index, o drive.Output) []string {
	var names []string
	for _, b := range o.Boxes {
		if b.Speaker.JoinedMinus == gear.Yes {
			names = append(names, b.Tag)
		}
	}
	for _, k := range x.From(o.At) {
		for _, c := range x.Pieces(*k) {
			if c.JoinedMinus == gear.Yes {
				names = append(names, "the lead to "+k.To.Device)
			}
		}
	}
	return names
}

func minusFinding(o drive.Output, other, by string) finding.Finding {
	f := at(o.At, "wire.minus-joined", finding.Gear, finding.Stop)
	f.What = fmt.Sprintf("%s joins the minus terminals of %s and %s.", words.Capital(by), other, o.At)
	f.Why = "This amplifier's minus terminals carry signal of their own; tied together they short one channel " +
		"through the other."
	if o.Amp.Bridging.Joined() == "" {
		f.Why = "Nobody knows if this amplifier's minus terminals are one; if they are not, that is a short across " +
			"its outputs."
		f.Advice = "Make the ohmmeter check first: amplifier off, mains out, meter on ohms between the two minus terminals."
	} else {
		f.Advice = "Take leads and a box with a minus of its own for each channel."
	}
	return f
}

// loops finds signal that comes back to where it was. Through a desk it is a
// send and its return, which can be right; without one it is a mistake.
func loops(x *rig.Index) []finding.Finding {
	if !x.Rings() {
		return nil
	}
	reach := x.Reach()
	seen := make([]bool, len(reach))
	var fs []finding.Finding
	for i := range reach {
		if seen[i] || !reach[i].Has(i) {
			continue
		}
		var tags []string
		desk := false
		for j := range reach {
			if reach[i].Has(j) && reach[j].Has(i) {
				seen[j] = true
				tags = append(tags, x.Rig.Devices[j].Tag)
				desk = desk || x.ModelAt(j).Kind == gear.KindMixer
			}
		}
		f := at(rig.Ref{Device: tags[0]}, "wire.loop", finding.Sound, finding.Mend)
		f.What = fmt.Sprintf("Signal goes round through %s.", strings.Join(tags, ", "))
		f.Why = "It feeds itself and howls without a microphone."
		f.Advice = "Pull the lead that brings it back."
		if desk {
			f.Gravity = finding.Mind
			f.Why = "A send with its return is right as long as the return is never sent to itself; else it howls without a " +
				"microphone."
			f.Advice = "On the return's channel keep that send at zero."
		}
		fs = append(fs, f)
	}
	return fs
}

// oneSided finds desks of which one half of a stereo pair reaches boxes and
// the other does not.
func oneSided(x *rig.Index) []finding.Finding {
	var fs []finding.Finding
	for i := range x.Rig.Devices {
		d, m := &x.Rig.Devices[i], x.ModelAt(i)
		if m.Kind != gear.KindMixer && m.Kind != gear.KindProcessor {
			continue
		}
		for _, p := range m.Ports() {
			right, pair := rig.RightOf(p.Name)
			if _, has := m.Port(right); p.Dir != gear.Out || !pair || !has {
				continue
			}
			l, r := reachesBox(x, rig.Ref{Device: d.Tag, Port: p.Name}), reachesBox(x, rig.Ref{Device: d.Tag, Port: right})
			if l == r {
				continue
			}
			there, missing := p.Name, right
			if r {
				there, missing = right, p.Name
			}
			f := at(rig.Ref{Device: d.Tag, Port: missing}, "wire.one-sided", finding.Sound, finding.Mend)
			f.What = fmt.Sprintf("%s of %s reaches boxes, and %s reaches none.", words.Capital(there), d.Tag, missing)
			f.Why = "Half of what is mixed in stereo is heard by nobody."
			f.Advice = fmt.Sprintf("Plug %s on as well, or mix in mono and say so to whoever mixes.", missing)
			if m.Kind == gear.KindProcessor {
				f.Gravity = finding.Mind
				f.Why = "That is right where its inputs are added up inside, as for a row of subs; else half of the signal is " +
					"heard by nobody."
				f.Advice = "Look at its settings."
			}
			fs = append(fs, f)
		}
	}
	return fs
}

// reachesBox tells whether signal of an output ends at a box, walking on
// through whatever takes it.
func reachesBox(x *rig.Index, from rig.Ref) bool {
	return walksToBox(x, from, map[rig.Ref]bool{})
}

func walksToBox(x *rig.Index, from rig.Ref, seen map[rig.Ref]bool) bool {
	if seen[from] {
		return false
	}
	seen[from] = true
	for _, k := range x.From(from) {
		d, m := x.Device(k.To.Device)
		if m.Kind == gear.KindLoudspeaker {
			return true
		}
		for _, out := range answersTo(d, m, k.To.Port) {
			if walksToBox(x, rig.Ref{Device: d.Tag, Port: out}, seen) {
				return true
			}
		}
	}
	return false
}

// answersTo are the outputs that what enters at an input may leave by: of an
// amplifier those of its channels, of a processor all, of a desk none, for
// what a desk does with a return is its mix.
func answersTo(d *rig.Device, m *gear.Model, input string) []string {
	var outs []string
	switch m.Kind {
	case gear.KindAmplifier:
		for ch := range m.Amplifier.Channels {
			set := rig.Pair{}
			if ch/2 < m.Amplifier.Pairs() {
				set = d.PairSetting(ch / 2)
			}
			listens := ch
			if set.Output == gear.Bridged || set.Input == rig.ParallelIn {
				listens = ch / 2 * 2
			}
			if gear.InputPort(listens) == input {
				outs = append(outs, gear.ChannelPort(ch))
				if set.Output == gear.Bridged {
					outs = append(outs, gear.BridgePort(ch/2))
				}
			}
		}
	case gear.KindProcessor, gear.KindDI:
		for _, p := range m.Ports() {
			if p.Dir == gear.Out {
				outs = append(outs, p.Name)
			}
		}
	}
	return outs
}

// withoutMains finds what has no mains lead, once the rig's mains is drawn at
// all.
func withoutMains(x *rig.Index) []finding.Finding {
	drawn := slices.ContainsFunc(x.Rig.Links, func(k rig.Link) bool {
		p, _ := x.Port(k.From)
		return p.Signal == gear.Mains
	})
	if !drawn {
		return nil
	}
	var fs []finding.Finding
	for i := range x.Rig.Devices {
		d, m := &x.Rig.Devices[i], x.ModelAt(i)
		in := rig.Ref{Device: d.Tag, Port: gear.MainsPort}
		if _, has := x.Port(in); !has {
			continue
		}
		if _, fed := x.Inlet(d); fed || x.OutletOf(d) != "" || x.InCase(i)[0] != i { // one inlet feeds a whole case
			continue
		}
		f := at(in, "wire.no-mains", finding.Sound, finding.Mend)
		what, name := "The "+string(m.Kind), d.Tag
		switch {
		case d.Case != "":
			what, name = "The case", d.Case
		case m.Kind == gear.KindLoudspeaker:
			what = "The active box"
		}
		f.What = fmt.Sprintf("%s %s has no mains lead.", what, name)
		f.Why = "It stays dead, and with it all behind it."
		f.Advice = "Plug it into an outlet, and pack the lead."
		fs = append(fs, f)
	}
	return fs
}

// Through counts the links that run in a stage box or multicore: lines to the
// desk, and returns from it.
func Through(x *rig.Index, tag string) (lines, returns int) {
	for _, k := range x.Rig.Links {
		if k.Via != tag {
			continue
		}
		if _, m := x.Device(k.From.Device); m.Kind == gear.KindMixer || m.Kind == gear.KindProcessor {
			returns++
		} else {
			lines++
		}
	}
	return lines, returns
}

// fullMulticores finds more lines or returns than a multicore has.
func fullMulticores(x *rig.Index) []finding.Finding {
	var fs []finding.Finding
	for i := range x.Rig.Devices {
		d, m := &x.Rig.Devices[i], x.ModelAt(i)
		if m.Kind != gear.KindStageBox {
			continue
		}
		lines, returns := Through(x, d.Tag)
		if s := m.StageBox; lines > s.Lines {
			fs = append(fs, tooMany(d.Tag, "lines to the desk", lines, s.Lines))
		}
		if s := m.StageBox; returns > s.Returns {
			fs = append(fs, tooMany(d.Tag, "returns from the desk", returns, s.Returns))
		}
	}
	return fs
}

func tooMany(tag, what string, n, has int) finding.Finding {
	f := at(rig.Ref{Device: tag}, "wire.multicore-full", finding.Sound, finding.Mend)
	f.What = fmt.Sprintf("%d %s are planned through %s, and it has %d.", n, what, tag, has)
	f.Why = "The rest has no way across the room."
	f.Advice = "Take a larger multicore, run single leads beside it, or send the mains from a processor on the stage."
	return f
}
