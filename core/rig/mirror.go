package rig

import (
	"fmt"
	"slices"
	"strings"

	"largo/core/fault"
	"largo/core/gear"
)

// MirrorLeft makes a right side like the left one in one act: each named
// device with an L in its tag gets a twin with an R, set alike, and its leads
// are plugged alike on the other side. What both sides share gives its other
// half: main R for main L, channel B for A, input 2 for 1.
type MirrorLeft struct{ Tags []string }

// Say tells what the edit does.
func (e MirrorLeft) Say() string { return "Duplicated " + strings.Join(e.Tags, ", ") + " to the right" }

func (e MirrorLeft) change(r *Rig) error {
	var l fault.List
	if len(e.Tags) == 0 {
		l.Add("tags", "Name the devices of the left side; their tags hold an L.")
	}
	twins := make(map[string]string, len(e.Tags))
	for _, tag := range e.Tags {
		twin, ok := RightOf(tag)
		if _, here := r.Device(tag); !here {
			l.Add("tags", "There is no device %.40q in this rig.", tag)
		} else if !ok {
			l.Add("tags", "%s has no L in its tag that an R could stand for.", tag)
		}
		twins[tag] = twin
	}
	if len(l) > 0 {
		return l
	}
	for _, tag := range e.Tags {
		if _, have := r.Device(twins[tag]); !have {
			r.addTwin(tag, twins[tag])
		}
	}
	for _, k := range slices.Clone(r.Links) {
		if twins[k.From.Device] == "" && twins[k.To.Device] == "" {
			continue
		}
		if err := r.plugTwin(k, twins); err != nil {
			return err
		}
	}
	return nil
}

func (r *Rig) addTwin(tag, twin string) {
	d, _ := r.Device(tag)
	d.Tag, d.Spot = twin, nil
	if place, ok := RightOf(d.Place); ok {
		d.Place = place
	}
	d.Place = strings.ReplaceAll(d.Place, "left", "right")
	if d.Switch != "" {
		if name, ok := RightOf(d.Switch); ok {
			d.Switch = name
		}
	}
	d.Case, d.Outlet = "", ""                           // it is a thing of its own, and plugged in elsewhere
	d.setAmp(func(a *AmpSettings) { a.Readings = nil }) // a reading is of one line alone
	r.Devices = append(r.Devices, d)
	r.settle()
}

// plugTwin copies a lead to the other side.
func (r *Rig) plugTwin(k Link, twins map[string]string) error {
	twin := k
	twin.references(func(tag *string) {
		if other := twins[*tag]; other != "" {
			*tag = other
		}
	})
	twin.From, twin.To = r.otherHalf(k.From, twins), r.otherHalf(k.To, twins)
	for _, have := range r.Links {
		if have.To == twin.To {
			if have.From == twin.From {
				return nil // it is there already
			}
			return fault.At("tags", "%s cannot be fed like %s: %s is already fed by %s.", twin.To.Device, k.To.Device,
				twin.To, have.From)
		}
	}
	if _, ok := r.port(twin.From); !ok {
		return fault.At("tags", "The twin of %s would need %s, which is not there.", k, twin.From)
	}
	if _, ok := r.port(twin.To); !ok {
		return fault.At("tags", "The twin of %s would need %s, which is not there.", k, twin.To)
	}
	r.Links = append(r.Links, twin)
	r.setLike(k.From, twin.From)
	return nil
}

// setLike sets the pair of a mirrored output of one amplifier as its model.
func (r *Rig) setLike(left, right Ref) {
	i := r.find(right.Device)
	m, _ := r.Model(r.Devices[i].Model)
	if left.Device != right.Device || m.Kind != gear.KindAmplifier {
		return
	}
	d := &r.Devices[i]
	from, to := -1, -1
	for pair := range m.Amplifier.Pairs() {
		if gear.BridgePort(pair) == left.Port {
			from = pair
		}
		if gear.BridgePort(pair) == right.Port {
			to = pair
		}
	}
	if from < 0 || to < 0 {
		return
	}
	d.setPair(to, d.PairSetting(from))
}

func (r *Rig) port(ref Ref) (gear.Port, bool) {
	d, _ := r.Device(ref.Device)
	m, ok := r.Model(d.Model)
	if !ok {
		return gear.Port{}, false
	}
	return m.Port(ref.Port)
}

// otherHalf is where the other side plugs: the same port of the twin, or the
// other half of what both sides share. An output without another half, as a
// mono sub send, serves both.
func (r *Rig) otherHalf(ref Ref, twins map[string]string) Ref {
	if twin := twins[ref.Device]; twin != "" {
		return Ref{twin, ref.Port}
	}
	for _, half := range halves(ref.Port) {
		if p, ok := r.port(Ref{ref.Device, half}); ok && half != ref.Port && (p.Dir != gear.Through) {
			return Ref{ref.Device, half}
		}
	}
	return ref
}

// halves are the ports that may be the other half of one, the likeliest first.
func halves(port string) []string {
	var list []string
	if right, ok := RightOf(port); ok {
		return append(list, right)
	}
	for pair := range 8 {
		if gear.BridgePort(pair) == port && pair%2 == 0 {
			list = append(list, gear.BridgePort(pair+1))
		}
	}
	for ch := 0; ch < 16; ch += 2 {
		if gear.ChannelPort(ch) == port {
			list = append(list, gear.ChannelPort(ch+1))
		}
	}
	var n int
	if _, err := fmt.Sscanf(port, "in %d", &n); err == nil && n%2 == 1 {
		list = append(list, fmt.Sprintf("in %d", n+1))
	}
	return list
}

// RightOf is a tag with its L as a word of its own, or at the end of a word
// after a digit, made an R; false when it has none.
func RightOf(tag string) (string, bool) { return swapSide(tag, 'L', 'R') }

func swapSide(tag string, from, to byte) (string, bool) {
	for i := 0; i < len(tag); i++ {
		if tag[i] != from {
			continue
		}
		before := i == 0 || !letter(tag[i-1])
		after := i+1 == len(tag) || !letter(tag[i+1])
		if before && after {
			return tag[:i] + string(to) + tag[i+1:], true
		}
	}
	return tag, false
}

func letter(b byte) bool { return b >= 'a' && b <= 'z' || b >= 'A' && b <= 'Z' || b >= 0x80 }

// LeftSide lists the devices that have an L in their tag and no twin yet.
func (r Rig) LeftSide() []string {
	var tags []string
	for _, d := range r.Devices {
		if twin, ok := RightOf(d.Tag); ok {
			if _, have := r.Device(twin); !have {
				tags = append(tags, d.Tag)
			}
		}
	}
	return tags
}
