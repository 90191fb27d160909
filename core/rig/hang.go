package rig

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"largo/core/fault"
	"largo/core/gear"
)

// Hang puts boxes on amplifier outputs in one act: so many on each, linked
// through from box to box where the boxes can, each with a lead of its own
// from the output where they cannot. Boxes are pulled off whatever fed them, and of the
// leads that they hung on each gets one that reaches; where none does its lead is left
// open.
type Hang struct {
	Boxes   []string `json:"boxes"`
	Poles   int      `json:"poles,omitempty"` // the pair of poles to feed, from 1; 0: what each box listens on
	Outputs []Ref    `json:"outputs"`
	Each    int      `json:"each,omitempty"`
}

// mostHung bounds the boxes of one act.
const mostHung = 400

// Say tells what the edit does.
func (e Hang) Say() string {
	return fmt.Sprintf("Hung %s on %d outputs", strings.Join(e.Boxes, ", "), (len(e.Boxes)+e.Each-1)/max(e.Each, 1))
}

func (e Hang) change(r *Rig) error {
	if err := e.check(r); err != nil {
		return err
	}
	hung := make(map[Ref]bool, len(e.Boxes))
	for _, tag := range e.Boxes {
		hung[Ref{tag, gear.PoleIn(e.poles(r, tag))}] = true
	}
	x := NewIndex(*r)
	var pulled, links []Link
	var kept []Link
	for _, k := range r.Links {
		if !hung[k.To] {
			kept = append(kept, k)
		} else {
			pulled = append(pulled, k)
		}
	}
	for i, tag := range e.Boxes {
		from := e.Outputs[i/e.Each]
		if i%e.Each > 0 {
			if before := e.Boxes[i-1]; r.linksThrough(before, e.poles(r, before)) {
				from = Ref{before, gear.PoleLink(e.poles(r, before))}
			}
		}
		links = append(links, Link{From: from, To: Ref{tag, gear.PoleIn(e.poles(r, tag))}})
	}
	plugs, _ := x.LeadsAtHand(pulled, nil).Plug(links, x.Spot)
	r.Links = kept
	for i := range r.Links {
		if hung[r.Links[i].Rides] { // what rode in a lead that was pulled has one of its own
			r.Links[i].Rides = Ref{}
		}
	}
	for _, plug := range plugs {
		if err := plug.change(r); err != nil {
			return err
		}
	}
	return nil
}

// poles is the pair that a box is fed on.
func (e Hang) poles(r *Rig, tag string) int {
	if d, ok := r.Device(tag); ok && e.Poles == 0 {
		return d.Poles()
	}
	return max(1, e.Poles)
}

func (e Hang) check(r *Rig) error {
	var l fault.List
	if e.Each < 1 || e.Each > 16 {
		l.Add("each", "%d boxes on an output cannot be right: give 1 to 16.", e.Each)
	}
	if len(e.Boxes) == 0 || len(e.Boxes) > mostHung {
		l.Add("boxes", "Name the boxes to hang, 1 to %d of them.", mostHung)
	}
	if room := len(e.Outputs) * e.Each; e.Each > 0 && len(e.Boxes) > room {
		l.Add("outputs", "%d boxes, %d on each, need %d outputs; %d are named.", len(e.Boxes), e.Each,
			(len(e.Boxes)+e.Each-1)/e.Each, len(e.Outputs))
	}
	seen := map[string]bool{}
	for _, tag := range e.Boxes {
		d, ok := r.Device(tag)
		m, _ := r.Model(d.Model)
		switch {
		case !ok:
			l.Add("boxes", "There is no device %.40q in this rig.", tag)
		case m.Kind != gear.KindLoudspeaker || m.Loudspeaker.Active:
			l.Add("boxes", "%s is no passive box.", tag)
		case e.Poles > m.Loudspeaker.PolePairs():
			l.Add("boxes", "%s has no way on poles %d.", tag, e.Poles)
		case seen[tag]:
			l.Add("boxes", "%s is named twice.", tag)
		}
		seen[tag] = true
	}
	for _, out := range e.Outputs {
		d, _ := r.Device(out.Device)
		m, ok := r.Model(d.Model)
		if !ok {
			l.Add("outputs", "There is no output %s.", clip(out))
			continue
		}
		if p, ok := m.Port(out.Port); !ok || p.Signal != gear.Speaker || p.Dir != gear.Out {
			l.Add("outputs", "There is no speaker output %s.", clip(out))
		}
	}
	return l.Err()
}

// FreeOutputs lists the outputs of an amplifier, as it is set, that nothing hangs on.
func (x *Index) FreeOutputs(tag string) []Ref {
	d, m := x.Device(tag)
	if m == nil || m.Kind != gear.KindAmplifier {
		return nil
	}
	var free []Ref
	for ch := range m.Amplifier.Channels {
		port := gear.ChannelPort(ch)
		if pair := ch / 2; pair < m.Amplifier.Pairs() && d.PairSetting(pair).Output == gear.Bridged {
			if port = gear.BridgePort(pair); ch%2 == 1 {
				continue
			}
		}
		if at := (Ref{tag, port}); len(x.From(at)) == 0 {
			free = append(free, at)
		}
	}
	return free
}

func (r *Rig) linksThrough(tag string, pair int) bool {
	d, _ := r.Device(tag)
	m, ok := r.Model(d.Model)
	return ok && m.Kind == gear.KindLoudspeaker && m.Loudspeaker.LinksOn(pair)
}

// longestRun is how many bytes a run of tags may take: two tags of 24
// characters and what stands between them.
const longestRun = 2*4*24 + 16

// tagRange is a run of tags, as "TOP 1 to 6".
var tagRange = regexp.MustCompile(`^(.*?)(\d{1,4})\s+to\s+(\d{1,4})$`)

// ExpandTags reads tags as they are spoken: "TOP 1 to 6, SUB" is seven tags.
func ExpandTags(text string) ([]string, error) {
	var tags []string
	for part := range strings.SplitSeq(text, ",") {
		part = strings.TrimSpace(part)
		var m []string
		if len(part) <= longestRun {
			m = tagRange.FindStringSubmatch(part)
		}
		switch {
		case len(tags) > mostHung:
			return nil, fault.At("tags", "These are more than %d tags; name fewer at once.", mostHung)
		case part == "":
		case m == nil:
			tags = append(tags, part)
		default:
			from, _ := strconv.Atoi(m[2])
			to, _ := strconv.Atoi(m[3])
			if to < from || to-from >= mostHung {
				return nil, fault.At("tags", "%.40q is no run of tags: it should rise, by %d at most.", part, mostHung)
			}
			for n := from; n <= to; n++ {
				tags = append(tags, m[1]+strconv.Itoa(n))
			}
		}
	}
	return tags, nil
}
