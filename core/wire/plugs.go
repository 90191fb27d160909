package wire

import (
	"fmt"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
)

// longestUnbalanced is how far an unbalanced line may run without a DI, m
// (common practice, no source).
const longestUnbalanced unit.Metre = 6

// plugs judges each lead by its plugs, its sort, and what its two ends are.
func plugs(x *rig.Index) []finding.Finding {
	var fs []finding.Finding
	for _, k := range x.Rig.Links {
		from, _ := x.Port(k.From)
		to, _ := x.Port(k.To)
		pieces := x.Pieces(k)
		for _, f := range []finding.Finding{thinCore(k, from, to, pieces), wrongSort(k, from, pieces),
			misfit(k, from, to, pieces), unbalanced(x, k, from, to, pieces)} {
			if f.Code != "" {
				fs = append(fs, f)
			}
		}
	}
	return fs
}

// thinCore finds an instrument lead where a speaker lead belongs.
func thinCore(k rig.Link, from, to gear.Port, pieces []*gear.Cable) finding.Finding {
	if from.Signal != gear.Speaker || to.Signal != gear.Speaker {
		return finding.Finding{}
	}
	for _, c := range pieces {
		if c.Sort == gear.SpeakerCable {
			continue
		}
		f := at(k.To, "wire.instrument-lead", finding.Gear, finding.Stop)
		f.What = fmt.Sprintf("An %s lead carries the power from %s to %s.", c.Sort, k.From, k.To.Device)
		if c.Sort != gear.InstrumentCable {
			f.What = fmt.Sprintf("A %s lead carries the power from %s to %s.", c.Sort, k.From, k.To.Device)
		}
		f.Why = "Its thin core gets hot, loses power, and can melt into a short across the amplifier."
		f.Advice = "Take a speaker lead with the same plugs: two equal conductors, no screen."
		return f
	}
	return finding.Finding{}
}

// wrongSort finds the other leads that are not made for what they carry.
func wrongSort(k rig.Link, from gear.Port, pieces []*gear.Cable) finding.Finding {
	for _, c := range pieces {
		if c.Carries(from.Signal) || from.Signal == gear.Speaker {
			continue
		}
		f := at(k.To, "wire.lead-sort", finding.Sound, finding.Mend)
		f.What = fmt.Sprintf("A %s lead carries %s level from %s to %s.", c.Sort, from.Signal, k.From, k.To)
		f.Why = "It is not screened for a small signal, and picks up hum and radio."
		f.Advice = "Take a screened signal lead."
		if !from.Signal.Audio() {
			f.Why = "It does not carry that."
			f.Advice = fmt.Sprintf("Take a %s lead.", from.Signal)
		}
		return f
	}
	return finding.Finding{}
}

// misfit finds leads whose plugs do not go into the sockets, and sockets of
// two kinds where no lead is chosen yet. A link-through socket joins two
// pieces by the plug of one and the socket of the other, which is taken to
// fit where both are of one connector.
func misfit(k rig.Link, from, to gear.Port, pieces []*gear.Cable) finding.Finding {
	bad := ""
	switch {
	case len(pieces) == 0:
		return finding.Finding{}
	case len(pieces) == 1 && !pieces[0].Fits(from.Connector, to.Connector):
		c := pieces[0]
		bad = fmt.Sprintf("it has %s and %s; the sockets are %s and %s", orUnknown(c.Ends[0]), orUnknown(c.Ends[1]),
			orUnknown(from.Connector), orUnknown(to.Connector))
	case len(pieces) > 1:
		bad = brokenJoin(from, to, pieces)
	}
	if bad == "" {
		return finding.Finding{}
	}
	f := at(k.To, "wire.plug-misfit", finding.Sound, finding.Mend)
	f.What = fmt.Sprintf("The lead chosen for %s to %s does not fit: %s.", k.From, k.To, bad)
	f.Why = "It cannot be plugged, or only through an adapter that somebody has to have."
	f.Advice = "Choose a lead with these plugs, or pack the adapter and write it on the list."
	return f
}

func brokenJoin(from, to gear.Port, pieces []*gear.Cable) string {
	first, last := pieces[0], pieces[len(pieces)-1]
	if !from.Connector.Takes(first.Ends[0]) {
		return fmt.Sprintf("its first piece has %s; the output is %s", first.Ends[0], from.Connector)
	}
	if !to.Connector.Takes(last.Ends[1]) {
		return fmt.Sprintf("its last piece has %s; the input is %s", last.Ends[1], to.Connector)
	}
	for i := 1; i < len(pieces); i++ {
		if a, b := pieces[i-1].Ends[1], pieces[i].Ends[0]; a != "" && b != "" && a != b {
			return fmt.Sprintf("its pieces meet as %s and %s", a, b)
		}
	}
	return ""
}

func orUnknown(c gear.Connector) string {
	if c == "" {
		return "not known"
	}
	return string(c)
}

// unbalanced finds long runs that are not balanced all the way.
func unbalanced(x *rig.Index, k rig.Link, from, to gear.Port, pieces []*gear.Cable) finding.Finding {
	if !from.Signal.Audio() || from.Signal == gear.Speaker {
		return finding.Finding{}
	}
	because := ""
	switch {
	case from.Balanced == gear.No:
		because = k.From.String() + " is unbalanced"
	case to.Balanced == gear.No:
		because = k.To.String() + " is unbalanced"
	}
	for _, c := range pieces {
		if because == "" && !c.Balanced() && c.Sort == gear.InstrumentCable {
			because = "an instrument lead has no second conductor"
		}
	}
	length := x.LeadLength(k)
	if m, known := length.Get(); because == "" || !known || m <= longestUnbalanced {
		return finding.Finding{}
	}
	f := at(k.To, "wire.unbalanced-run", finding.Sound, finding.Mend)
	f.What = fmt.Sprintf("%s to %s runs %s unbalanced: %s.", k.From, k.To, length, because)
	f.Why = fmt.Sprintf("Over more than %s it picks up hum, and a high-impedance source loses its treble.",
		longestUnbalanced)
	f.Advice = "Put a DI near the source and go on balanced from there."
	return f
}

// phantom finds phantom power that harms, and microphones that go without.
func phantom(x *rig.Index) []finding.Finding {
	var fs []finding.Finding
	for _, k := range x.Rig.Links {
		from, _ := x.Port(k.From)
		to, _ := x.Port(k.To)
		d, m := x.Device(k.To.Device)
		if m.Kind != gear.KindMixer || to.Signal != gear.Mic {
			continue
		}
		on := d.GivesPhantom(k.To.Port)
		switch {
		case on && (from.Phantom == gear.Harmed || from.Signal == gear.Line && from.Phantom == ""):
			f := at(k.To, "wire.phantom-harms", finding.Gear, finding.Stop)
			f.What = fmt.Sprintf("Phantom power is on at %s, and %s does not take it.", k.To, k.From)
			f.Why = "48 V on its output can destroy it; an unbalanced or ribbon source most of all."
			f.Mends = []finding.Way{{Label: "Phantom off at " + k.To.String(), Edit: rig.SetPhantom{At: k.To}}}
			f.Advice = "Never plug or unplug with phantom power on."
			fs = append(fs, f)
		case !on && from.Phantom == gear.Needs:
			f := at(k.To, "wire.phantom-missing", finding.Sound, finding.Mend)
			f.What = fmt.Sprintf("%s needs phantom power, and it is off at %s.", k.From, k.To)
			f.Why = "It stays silent, or nearly."
			if m.Mixer.Phantom != gear.No {
				f.Mends = []finding.Way{{Label: "Phantom on at " + k.To.String(), Edit: rig.SetPhantom{At: k.To, On: true}}}
			} else {
				f.Advice = "This desk gives none: put a phantom supply in the line."
			}
			fs = append(fs, f)
		}
	}
	return fs
}
