package match

import (
	"fmt"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// doubts are what the sheets of the gear leave open, or claim too much of: once a
// model, at the first device of it.
func doubts(x *rig.Index, outs []Output) []finding.Finding {
	var fs []finding.Finding
	seen := map[*gear.Model]bool{}
	for i := range outs {
		o := &outs[i]
		if len(o.Boxes) == 0 || !o.Live {
			continue
		}
		if m := o.Fed.Model; !seen[m] {
			seen[m] = true
			fs = append(fs, ampDoubts(o)...)
		}
		for j := range o.Boxes {
			if m := modelOf(x, &o.Boxes[j]); !seen[m] {
				seen[m] = true
				fs = append(fs, boxDoubts(&o.Boxes[j], m)...)
			}
		}
	}
	return fs
}

func modelOf(x *rig.Index, b *Box) *gear.Model {
	_, m := x.Device(b.Tag)
	return m
}

func ampDoubts(o *Output) []finding.Finding {
	var fs []finding.Finding
	m := o.Fed.Model
	add := func(code, what, why, advice string, figures ...reckon.Figure) {
		f := at(*o, code, finding.Gear, finding.Mind)
		f.At = rig.Ref{Device: o.At.Device}
		f.What, f.Why, f.Advice, f.Figures = what, why, advice, figures
		fs = append(fs, f)
	}
	if m.Amplifier.OneDrivenAlone(o.Mode) && m.Amplifier.Channels > 1 {
		add("match.one-driven", fmt.Sprintf("%s is rated with one channel driven, and more of its channels drive boxes.",
			m.Title()), "With all driven it may give less, by as much as its supply lacks.",
			"Look for a rating with all channels driven.")
	}
	if low, high, falls := m.Amplifier.Falls(gear.Separate); falls {
		add("match.table-falls", fmt.Sprintf("By its sheet %s gives %s into %s and only %s into %s.", m.Title(), high.Power,
			high.Load, low.Power, low.Load), "That is an amplifier short of current, or two figures exchanged.",
			"Hold the sheet against it once more.")
	}
	if claim, known := claimOf(m); known {
		if most, told := m.Intake.Most.Get(); told && claim.Value > float64(most) {
			add("match.claim-over-plate", fmt.Sprintf("%s claims %s in all, and its plate takes in %s at most.", m.Title(),
				claim.Text(), most), "No amplifier gives more than it takes: that holds for bursts alone.",
				"Reckon its average output from what it takes in.", claim,
				reckon.Of("plate", "Pin", "most that its plate takes in", most, ""))
		}
	}
	return fs
}

// claimOf is what all channels of a model are said to give together, W.
func claimOf(m *gear.Model) (reckon.Figure, bool) {
	limit := m.Amplifier.LeastLoad(gear.Separate)
	if !limit.Known() {
		return reckon.Figure{}, false
	}
	each := m.Amplifier.PowerInto(gear.Separate, unit.Ohm(limit.Value))
	if !each.Known() {
		return reckon.Figure{}, false
	}
	n := float64(m.Amplifier.Channels)
	return reckon.Of("claim", "Pall", "claim of all channels", unit.Watt(each.Value*n), "{n} × {P}",
		reckon.Count("n", "channels", n), each.As("P")), true
}

func boxDoubts(b *Box, m *gear.Model) []finding.Finding {
	var fs []finding.Finding
	add := func(code, what, why, advice string) {
		fs = append(fs, finding.Finding{Code: code, Stage: finding.Match, Danger: finding.Gear, Gravity: finding.Mind,
			At: rig.Ref{Device: b.Tag}, What: what, Why: why, Advice: advice})
	}
	s := b.Speaker
	if bare, known := s.Bare.Get(); known && !s.Continuous.Known() && !s.Programme.Known() && !s.Peak.Known() {
		add("match.bare-watts", fmt.Sprintf("The sheet of %s says %s without a word; it is taken as peak, %s continuous.",
			m.Title(), bare, b.Continuous().Text()), "Taken as continuous where it is peak, four times too much goes in.",
			"Find out by what standard it is rated, and note it with the model.")
	}
	offer := b.Offer()
	from, low := s.AmpFrom.Get()
	to, high := s.AmpTo.Get()
	if !offer.Known() || !low && !high {
		return fs
	}
	switch {
	case high && TooStrong(offer.Value, float64(to)):
		add("match.not-recommended", fmt.Sprintf("%s can be given %s; its maker recommends at most %s.", b.Name(),
			offer.Text(), to), "The maker's figure knows the box; a policy does not.",
			"A limiter within it, or a smaller amplifier.")
	case low && TooWeak(offer.Value, float64(from)):
		add("match.not-recommended", fmt.Sprintf("%s can be given %s; its maker recommends at least %s.", b.Name(),
			offer.Text(), from), "It works, and distorts before the box has given what it could.", "")
	}
	return fs
}
