package rig

import "largo/core/gear"

// Flips counts the leads that swap polarity between a box and the desk,
// through link-throughs and the amplifier's inputs.
func (x *Index) Flips(input Ref) (n int, fed bool) {
	for range x.Rig.Links {
		k, ok := x.Into(input)
		if !ok {
			return n, fed
		}
		fed = true
		if k.Swapped {
			n++
		}
		d, m := x.Device(k.From.Device)
		switch m.Kind {
		case gear.KindLoudspeaker:
			input = Ref{k.From.Device, gear.PoleIn(max(1, gear.PairOf(k.From.Port)))}
		case gear.KindAmplifier:
			input = x.ChannelInput(d, channelOf(m.Amplifier, k.From.Port), m.Amplifier.Channels)
		default:
			return n, fed
		}
	}
	return n, fed
}

// channelOf is the channel that an output of an amplifier belongs to, the
// first of a bridged pair.
func channelOf(a *gear.Amplifier, port string) int {
	for ch := range a.Channels {
		if gear.ChannelPort(ch) == port || gear.BridgePort(ch/2) == port {
			return ch
		}
	}
	return 0
}
