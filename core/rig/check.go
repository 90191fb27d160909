package rig

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/unit"
	"largo/core/words"
)

// Bounds on the size of one rig; far above any that tours.
const (
	MostDevices = 1000
	MostLinks   = 4000
	mostModels  = 400
)

// MostOf bounds the lists of a rig file by their names.
var MostOf = map[string]int{"models": mostModels, "devices": MostDevices, "links": MostLinks, "places": MostDevices,
	"switches": MostDevices, "cases": MostDevices, "supplies": MostDevices, "people": MostDevices}

// tagForm is what can be written on tape and read aloud.
var tagForm = regexp.MustCompile(`^[\p{L}\p{N}](?:[\p{L}\p{N} ._+#/()-]{0,22}[\p{L}\p{N})+#.])?$`)

// Check faults whatever cannot be in a rig: unknown devices and ports, an
// input fed twice, a device linked to itself, a ring of link-throughs,
// settings that no device has. What can be but should not is no fault; the
// stages report it as a finding.
func (r Rig) Check() error {
	var l fault.List
	l.AddAll("brief", r.Brief.check())
	oneOf(&l, "policy", r.Policy, Policies)
	r.checkPolicies(&l)
	oneOf(&l, "bridging", r.Bridging, Schools)
	oneOf(&l, "limits", r.Limits, LimitPolicies)
	if len(r.Devices) > MostDevices || len(r.Links) > MostLinks || len(r.Models) > mostModels {
		l.Add("", "A rig holds at most %d devices, %d links and %d models.", MostDevices, MostLinks, mostModels)
		return l
	}
	if n := max(len(r.Places), len(r.Switches), len(r.Cases), len(r.Supplies), len(r.People)); n > MostDevices {
		l.Add("", "A rig holds at most %d places, switches, cases, supplies or people.", MostDevices)
		return l
	}
	if r.checkModels(&l); len(l) > 0 {
		return l // nothing is derived from a model that was refused
	}
	r.checkNamed(&l)
	r.checkDevices(&l)
	if len(l) > 0 {
		return l // the links would only repeat what is wrong above
	}
	r.checkLinks(&l)
	r.checkOrder(&l)
	return l.Err()
}

func (r Rig) checkModels(l *fault.List) {
	seen := make(map[string]bool, len(r.Models))
	for i := range r.Models {
		m := &r.Models[i]
		path := fmt.Sprintf("models[%d]", i)
		if seen[m.ID] {
			l.Add(path, "Two models have the id %.40q.", m.ID)
		}
		seen[m.ID] = true
		if err := m.Check(); err != nil {
			l.AddAll(path, err.(fault.List))
		}
	}
}

// CheckTag faults a tag that could not be written on tape.
func CheckTag(l *fault.List, field, tag string) {
	if !tagForm.MatchString(tag) {
		l.Add(field, "A tag is what stands on the tape: 1 to 24 letters, digits, spaces and . _ + # / ( ) -, beginning "+
			"with a letter or digit.")
	}
}

func (r Rig) checkDevices(l *fault.List) {
	seen := make(map[string]bool, len(r.Devices))
	models := make(map[string]*gear.Model, len(r.Models))
	for i := range r.Models {
		models[r.Models[i].ID] = &r.Models[i]
	}
	for i := range r.Devices {
		d := &r.Devices[i]
		var own fault.List
		CheckTag(&own, "tag", d.Tag)
		if key := strings.ToLower(d.Tag); seen[key] {
			own.Add("tag", "Another device already bears the tag %q.", d.Tag)
		} else {
			seen[key] = true
		}
		r.checkWhere(&own, d)
		if m := models[d.Model]; m == nil {
			own.Add("model", "There is no model %.60q in this rig.", d.Model)
		} else if m.Kind == gear.KindCable {
			own.Add("model", "%s is a lead: take it where a lead is plugged, not as a device.", m.Title())
		} else {
			d.checkSettings(&own, m)
			d.checkDrawn(&own, m)
		}
		if len(own) > 0 {
			l.AddAll(fmt.Sprintf("devices[%d]", i), own)
		}
	}
}

// checkSettings faults settings of another kind than the device's, and such as
// its kind cannot have.
func (d *Device) checkSettings(l *fault.List, m *gear.Model) {
	if d.Amp != nil && m.Kind != gear.KindAmplifier {
		l.Add("amplifier", "%s is a %s; channels, limiters and lines are set at an amplifier.", d.Tag, m.Kind)
	}
	if d.Box != nil && m.Kind != gear.KindLoudspeaker {
		l.Add("loudspeaker", "%s is a %s; only a loudspeaker is aimed at somebody.", d.Tag, m.Kind)
	}
	if d.Desk != nil && m.Kind != gear.KindMixer {
		l.Add("mixer", "%s is a %s; phantom power is given by a mixer.", d.Tag, m.Kind)
	}
	if d.Amp != nil && m.Kind == gear.KindAmplifier {
		var own fault.List
		d.Amp.check(&own, d.Tag, m)
		l.AddAll("amplifier", own)
	}
	if d.Box != nil {
		var own fault.List
		d.Box.check(&own, d.Tag, m)
		l.AddAll("loudspeaker", own)
	}
}

func (b BoxSettings) check(l *fault.List, tag string, m *gear.Model) {
	l.CheckName("aim", "Whom a loudspeaker is for", string(b.Aim), 40, false)
	if m, known := b.Distance.Get(); known && (m < 0.2 || m > 500) {
		l.Add("distance", "A distance of %s cannot be right: give 0.2 m to 500 m.", m)
	}
	switch s := m.Loudspeaker; {
	case b.Poles == 0:
	case s == nil || !s.Selector:
		l.Add("poles", "%s has no selector for its poles.", tag)
	case b.Poles < 0 || b.Poles > s.PolePairs():
		l.Add("poles", "%s listens on poles 1± or 2±.", tag)
	}
}

func (a AmpSettings) check(l *fault.List, tag string, m *gear.Model) {
	channels := m.Amplifier.Channels
	if len(a.Pairs) > channels/2 {
		l.Add("pairs", "%s has %d channels, so at most %d pairs can be set.", tag, channels, channels/2)
	}
	for _, p := range a.Pairs {
		oneOf(l, "pairs", p.Output, []gear.Mode{gear.Separate, gear.Bridged})
		oneOf(l, "pairs", p.Input, []InputMode{SeparateIn, ParallelIn})
	}
	for _, k := range a.Knobs {
		if k.Channel < 0 || k.Channel >= channels || k.Down < 0 || k.Down > 100 {
			l.Add("knobs", "%s: a level control of channels 1 to %d stands 0 to 100 dB below fully up.", tag, channels)
		}
	}
	a.checkReadings(l, tag, m)
	a.checkLimiters(l, tag, m)
}

func (a AmpSettings) checkReadings(l *fault.List, tag string, m *gear.Model) {
	read := map[string]bool{}
	for _, r := range a.Readings {
		if read[r.Port] {
			l.Add("readings", "%s has two readings on record at %.40q.", tag, r.Port)
		}
		read[r.Port] = true
		if p, ok := m.Port(r.Port); !ok || p.Dir != gear.Out {
			l.Add("readings", "%s has no output %.40q to read at.", tag, r.Port)
		}
		if !(r.DC >= 0 && r.DC <= 1e7 || r.DC == unit.Open) {
			l.Add("readings", "A reading of %s cannot be right: give 0 Ω to 10 MΩ, or open.", r.DC)
		}
	}
}

func (a AmpSettings) checkLimiters(l *fault.List, tag string, m *gear.Model) {
	seen := map[string]bool{}
	for _, lim := range a.Limiters {
		if p, ok := m.Port(lim.Port); !ok || p.Dir != gear.Out {
			l.Add("limiters", "%s has no output %.40q to limit.", tag, lim.Port)
		}
		if seen[lim.Port] {
			l.Add("limiters", "%s %s has two limiters on record.", tag, lim.Port)
		}
		seen[lim.Port] = true
		rms, rmsKnown := lim.RMS.Get()
		peak, peakKnown := lim.Peak.Get()
		if rmsKnown && (rms <= 0 || rms > 400) || peakKnown && (peak <= 0 || peak > 600) {
			l.Add("limiters", "A limiter of %s rms, %s peak cannot be right.", lim.RMS, lim.Peak)
		}
		if rmsKnown && peakKnown && peak < rms {
			l.Add("limiters", "A peak limit of %s under a long-term limit of %s cannot be right: the peak of a signal is "+
				"never less than its rms.", peak, rms)
		}
	}
}

func (r Rig) checkLinks(l *fault.List) {
	x := NewIndex(r)
	fed := make(map[Ref]Ref, len(r.Links))
	for i, k := range r.Links {
		path := fmt.Sprintf("links[%d]", i)
		from, fromOK := x.port(k.From)
		to, toOK := x.port(k.To)
		switch {
		case !fromOK:
			l.Add(path+".from", "There is no %s to plug into.", clip(k.From))
			continue
		case !toOK:
			l.Add(path+".to", "There is no %s to plug into.", clip(k.To))
			continue
		case k.From.Device == k.To.Device:
			l.Add(path+".to", "%s cannot be linked to itself.", k.From.Device)
			continue
		case from.Dir == gear.In:
			l.Add(path+".from", "%s is an input; a lead starts at an output.", k.From)
			continue
		case to.Dir != gear.In:
			l.Add(path+".to", "%s and %s are both outputs: joining them can destroy them.", k.From, k.To)
			continue
		}
		if other, taken := fed[k.To]; taken {
			l.Add(path+".to", "%s is already fed by %s. Feeding it from %s too would join two outputs.", k.To, other, k.From)
			continue
		}
		fed[k.To] = k.From
		if k.Series != "" && from.Signal != gear.Speaker {
			l.Add(path+".series", "Only loudspeakers are wired in series; %s is %s level.", k.From, from.Signal)
		}
		r.checkLead(l, path, k)
		checkPad(l, path, k, from.Signal)
		if from.Signal.Audio() != to.Signal.Audio() || !from.Signal.Audio() && from.Signal != to.Signal {
			l.Add(path+".to", "%s carries %s and %s takes %s: no lead joins them.", k.From, from.Signal, k.To, to.Signal)
		}
		l.CheckName(path+".series", "The name of a series string", k.Series, 24, false)
		if m, known := k.Length.Get(); known && (m <= 0 || m > 500) {
			l.Add(path+".length", "A lead of %s cannot be right: give 0.1 m to 500 m.", m)
		}
		if a, known := k.Area.Get(); known && (a < 0.1 || a > 50) {
			l.Add(path+".area", "A conductor of %s cannot be right: give 0.1 mm² to 50 mm².", a)
		}
	}
	if len(*l) == 0 {
		x.checkRings(l)
	}
}

func clip(r Ref) string { return strconv.Quote(words.Shorten(r.String(), 60)) }

// checkRings faults boxes that feed each other through their link-throughs:
// each input has one feed, so walking up from any box either ends or comes
// round.
func (x *Index) checkRings(l *fault.List) {
	for i, k := range x.Rig.Links {
		at := k.From
		for range x.Rig.Links {
			if p, _ := x.port(at); p.Dir != gear.Through {
				break
			}
			up, fed := x.Into(Ref{at.Device, gear.PoleIn(gear.PairOf(at.Port))})
			if !fed {
				break
			}
			if at = up.From; at == k.From {
				l.Add(fmt.Sprintf("links[%d].to", i), "%s to %s would close a ring of link-throughs: each box would feed itself.",
					k.From, k.To)
				return
			}
		}
	}
}

func (r Rig) checkOrder(l *fault.List) {
	switches := map[string]bool{}
	for _, d := range r.Devices {
		switches[d.SwitchName()] = true
	}
	seen := map[string]bool{}
	for _, name := range r.Order {
		if !switches[name] {
			l.Add("order", "The order names a switch %.40q that is not in the rig.", name)
		} else if seen[name] {
			l.Add("order", "The order names the switch %q twice.", name)
		}
		seen[name] = true
	}
}
