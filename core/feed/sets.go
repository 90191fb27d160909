package feed

import (
	"fmt"
	"math"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/supply"
	"largo/core/unit"
	"largo/core/words"
)

// Bounds of a set.
const (
	// a set of performance class G2 takes some 60 % of its power at once within the dip of
	// frequency that the class allows (ISO 8528-5, from memory)
	mostStep = 0.6
	// what an alternator gives for an instant, in times of its rating (common practice, no source)
	setInstant = 3
)

// set judges a generator or a battery: what it gives here, what is thrown onto it, how long it
// lasts.
func (v Verdict) set(s supply.Set, b rig.Brief) (fs []finding.Finding) {
	if s.Asked[supply.Ordinary] == 0 {
		return nil
	}
	return append(append(v.power(s), v.step(s)...), lasting(s, b)...)
}

// power judges what it gives here, in W and VA.
func (v Verdict) power(s supply.Set) []finding.Finding {
	if !s.Gives.Known() {
		return nil // that its rating is not known is told of the circuit
	}
	watts, va := float64(s.Asked[supply.Ordinary]), s.VA[supply.Ordinary]
	hard := s.Asked[supply.Dense]
	f := at(s.Node, "feed.set", finding.Sound, finding.Mend)
	f.Figures = []reckon.Figure{s.Gives, s.Apparent}
	f.Advice = "Less on it, a larger set, or a second one for what makes no sound."
	f.Why = "It slows down, its volts and hertz wander, and it cuts out in the middle of the show."
	switch {
	case watts > s.Gives.Value:
		f.What = fmt.Sprintf("%s is asked for %s with ordinary programme, and gives %s here.", s.Name, rounded(watts),
			rounded(s.Gives.Value))
	case s.Apparent.Known() && va > s.Apparent.Value:
		f.What = fmt.Sprintf("%s is asked for %s VA with ordinary programme, and gives %s VA here.", s.Name,
			unit.Number(math.Round(va/10)*10), unit.Number(math.Round(s.Apparent.Value/10)*10))
	case float64(hard) > s.Gives.Value:
		f.Gravity = finding.Mind
		f.What = fmt.Sprintf("%s is asked for %s on dense music, and gives %s here.", s.Name, rounded(float64(hard)),
			rounded(s.Gives.Value))
	default:
		return nil
	}
	return []finding.Finding{f}
}

// rounded writes watts as they are known.
func rounded(w float64) string { return unit.Watt(math.Round(w/10) * 10).String() }

// step judges what is thrown onto a generator at once: music out of silence, a switch.
func (v Verdict) step(s supply.Set) []finding.Finding {
	f := at(s.Node, "feed.step", finding.Sound, finding.Mind)
	volts := s.Volts.Value
	switch instant := float64(s.Wakes.Peak) / math.Sqrt2 * volts; {
	case s.Apparent.Known() && s.Volts.Known() && instant > setInstant*s.Apparent.Value:
		f.What = fmt.Sprintf("%s takes %s for an instant when it wakes: %s VA, and %s gives some %s VA for an instant.",
			words.Capital(s.Wakes.Switch), s.Wakes.Peak, unit.Number(math.Round(instant/100)*100), s.Name,
			unit.Number(math.Round(setInstant*s.Apparent.Value/100)*100))
		f.Why = "Its volts dip, and what runs on it already starts anew."
		f.Advice = "Wake it first, before anything that boots; or one device after the other."
	case s.Gives.Known() && s.Model.Kind == gear.KindGenerator && float64(s.Step) > mostStep*s.Gives.Value:
		f.What = fmt.Sprintf("Dense music out of silence throws %s onto %s, which gives %s here.",
			rounded(float64(s.Step)), s.Name,
			rounded(s.Gives.Value))
		f.Why = "Over some 60 % at once its speed dips, and the hertz with it."
		f.Advice = "A larger set, less on it, or limiters."
	default:
		return nil
	}
	return []finding.Finding{f}
}

// lasting judges the tank or the battery against the show.
func lasting(s supply.Set, b rig.Brief) []finding.Finding {
	show, said := b.Lasts.Get()
	if !said || !s.Lasts.Known() || s.Lasts.Value >= float64(show) {
		return nil
	}
	lasts := hours(unit.Second(s.Lasts.Value))
	if s.Model.Kind == gear.KindGenerator {
		f := at(s.Node, "feed.fuel", finding.People, finding.Mind)
		f.What = fmt.Sprintf("A tank of %s lasts %s with ordinary programme, and the show is %s.", s.Name, lasts, hours(show))
		f.Why = "Who fills a set that runs or is hot sets it on fire; who does not stands in the dark."
		f.Advice = "Plan a break: sound off, loads off, stop it, let it cool, fill it, start it empty. " +
			"Fuel stands apart from it."
		f.Figures = []reckon.Figure{s.Lasts}
		if s.Fuel.Known() {
			f.Figures = append(f.Figures, s.Fuel)
		}
		return []finding.Finding{f}
	}
	f := at(s.Node, "feed.battery", finding.Sound, finding.Mend)
	f.What = fmt.Sprintf("The battery of %s lasts %s with ordinary programme, and the show is %s.", s.Name, lasts,
		hours(show))
	f.Why = "All that hangs on it falls silent before the end, without a warning that anybody hears."
	f.Advice = "Less on it, a larger one, or a second one to change to in the interval."
	f.Figures = []reckon.Figure{s.Lasts}
	return []finding.Finding{f}
}

// hours writes a time as a day is planned.
func hours(s unit.Second) string {
	if s < 7200 {
		return unit.Number(math.Round(float64(s)/60)) + " min"
	}
	return unit.Number(math.Round(float64(s)/360)/10) + " h"
}

// lifted finds gear whose earth somebody lifted.
func lifted(r rig.Rig) (fs []finding.Finding) {
	for i := range r.Devices {
		d := &r.Devices[i]
		if !d.Lifted {
			continue
		}
		f := finding.Finding{Code: "feed.lifted", Stage: finding.Feed, Danger: finding.People, Gravity: finding.Stop,
			At: rig.Ref{Device: d.Tag}}
		f.What = fmt.Sprintf("The protective earth of %s is lifted, by an adapter, a loose tail or a cut pin.", d.Tag)
		f.Why = "After a fault inside, its case is live at the full mains, and nothing switches off."
		f.Advice = "Take it off. A hum is cured in the signal: an isolating transformer, " +
			"a balanced lead, one circuit for both."
		f.Mends = []finding.Way{{Label: "It is plugged in with its earth: record it", Edit: rig.LiftEarth{Tag: d.Tag}}}
		fs = append(fs, f)
	}
	return fs
}

// selective finds what below a part trips as late as the part itself, or later.
func (v Verdict) selective(i int) []finding.Finding {
	n := &v.Nodes[i]
	trip, guards := n.Part.Residual.Get()
	guards = guards && !n.Part.Delayed
	var residual, current []string
	for _, below := range v.Below(i)[1:] {
		b := v.Nodes[below].Part
		if b == nil {
			continue
		}
		if guards && b.Residual.Known() {
			residual = append(residual, b.Name)
		}
		if n.Part.Sort == rig.Breaker && b.Sort == rig.Breaker && n.Limit > 0 && b.Current.Or(0) >= n.Limit {
			current = append(current, b.Name)
		}
	}
	f := at(n, "feed.selective", finding.Sound, finding.Mind)
	f.Why = fmt.Sprintf("A fault on one circuit may switch off all that hangs on %s.", n.Name)
	f.Advice = "Know where they stand before the show. A delayed one above (type S) lets the lower one go first: an " +
		"electrician's work."
	switch {
	case len(residual) > 0:
		f.What = fmt.Sprintf("%s trips by %s without a delay, and %s below it trips as well.", words.Capital(n.Name), trip,
			words.List(shortened(residual)))
	case len(current) > 0:
		f.What = fmt.Sprintf("%s is for %s, and %s below it for no less.", words.Capital(n.Name), n.Limit,
			words.List(shortened(current)))
	default:
		return nil
	}
	return []finding.Finding{f}
}

// sleepers finds what goes into standby by itself in a quiet scene.
func (v Verdict) sleepers() (fs []finding.Finding) {
	for i := range v.Taken {
		t := &v.Taken[i]
		after, does := t.Model.Wake.Sleeps.Get()
		if !does {
			continue
		}
		f := finding.Finding{Code: "feed.sleeps", Stage: finding.Feed, Danger: finding.Sound, Gravity: finding.Mind,
			At: rig.Ref{Device: t.Tag}}
		f.What = fmt.Sprintf("%s goes into standby by itself after %s of silence.", t.Tag, hours(after))
		if settles, known := t.Model.Wake.Settle.Get(); known {
			f.What = fmt.Sprintf("%s goes into standby by itself after %s of silence, and takes %s to come back.", t.Tag,
				hours(after), settles)
		}
		f.Why = "The first words after a quiet scene are lost, and it wakes with whatever it sends then."
		f.Advice = "Switch that off in it where it can be, or keep something quiet playing."
		fs = append(fs, f)
	}
	return fs
}
