package wire

import (
	"largo/core/gear"
	"largo/core/rig"
)

// Path is what a programme goes through: devices by tag, leads by the input
// that they end at.
type Path struct {
	Devices map[string]bool
	Leads   map[rig.Ref]bool
}

// Follow walks one programme from where it begins, through the output named,
// to every box that may hear it. What a desk mixes into an output is its
// mixer's business, so all that enters a desk counts as upstream of each of
// its outputs, and a source is followed on through all of them.
func Follow(x *rig.Index, from rig.Ref) Path {
	p := Path{map[string]bool{from.Device: true}, map[rig.Ref]bool{}}
	p.down(x, from)
	p.up(x, from.Device, map[string]bool{})
	return p
}

func (p Path) down(x *rig.Index, from rig.Ref) {
	for _, k := range x.From(from) {
		if p.Leads[k.To] {
			continue
		}
		p.Leads[k.To], p.Devices[k.To.Device] = true, true
		d, m := x.Device(k.To.Device)
		for _, out := range goesOn(d, m, k.To.Port) {
			p.down(x, rig.Ref{Device: d.Tag, Port: out})
		}
	}
}

// goesOn are the outputs by which a signal that enters at an input may leave.
func goesOn(d *rig.Device, m *gear.Model, input string) []string {
	switch m.Kind {
	case gear.KindLoudspeaker:
		if pair := gear.PairOf(input); pair > 0 {
			return []string{gear.PoleLink(pair)}
		}
		return nil
	case gear.KindMixer, gear.KindTransformer, gear.KindDistro, gear.KindConditioner, gear.KindSequencer:
		var outs []string
		for _, port := range m.Ports() {
			if port.Dir == gear.Out {
				outs = append(outs, port.Name)
			}
		}
		return outs
	}
	return answersTo(d, m, input)
}

func (p Path) up(x *rig.Index, tag string, seen map[string]bool) {
	if seen[tag] {
		return
	}
	seen[tag] = true
	_, m := x.Device(tag)
	for _, port := range m.Ports() {
		if port.Dir != gear.In || !port.Signal.Audio() {
			continue
		}
		if k, fed := x.Into(rig.Ref{Device: tag, Port: port.Name}); fed {
			p.Leads[k.To], p.Devices[k.From.Device] = true, true
			p.up(x, k.From.Device, seen)
		}
	}
}

// Programmes lists the outputs that can be followed: those of desks and
// sources with something plugged in, and of whatever passes mains on.
func Programmes(x *rig.Index) []rig.Ref {
	var list []rig.Ref
	for i := range x.Rig.Devices {
		m := x.ModelAt(i)
		if m.Kind != gear.KindMixer && !m.Kind.Sends() && !m.Kind.Supplies() {
			continue
		}
		for _, port := range m.Ports() {
			ref := rig.Ref{Device: x.Rig.Devices[i].Tag, Port: port.Name}
			if port.Dir == gear.Out && len(x.From(ref)) > 0 {
				list = append(list, ref)
			}
		}
	}
	return list
}
