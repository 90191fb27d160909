package feed

import (
	"fmt"

	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/supply"
	"largo/core/unit"
	"largo/core/words"
)

// Watched is a circuit with what a meter read of it during the show.
type Watched struct {
	Circuit
	Flow       []supply.Flow
	Used, Mean reckon.Figure // of the time in which its breaker may trip; its current then
	Says       string        // what is to be done; "" where it holds
	Trips      bool          // it may, at any moment
}

// Bounds of what is said of a circuit during the show.
const (
	usedUp  = 0.5  // of the time in which it may trip, from where on it is told
	planned = 1.25 // times what was planned, from where on something else hangs on it
)

// Watch puts readings beside the circuits that they are of, by name.
func (v Verdict) Watch(flows map[string][]supply.Flow) (list []Watched) {
	for _, c := range v.Circuits {
		flow := flows[c.Name]
		if len(flow) == 0 {
			continue
		}
		w := Watched{Circuit: c, Flow: flow}
		curve := rig.Curve("")
		if c.Part != nil {
			curve = c.Part.Curve
		}
		w.Used, w.Mean = supply.Worn(flow, c.Limit, curve)
		now, most := flow[len(flow)-1].Amps, c.Carries(supply.Dense)
		switch {
		case w.Used.Known() && w.Used.Value >= 1:
			w.Trips, w.Says = true, fmt.Sprintf("%s carried %s for longer than it surely holds: it may trip at any moment. "+
				"Turn down what hangs on it, or move some of it.", words.Capital(c.Name), w.Mean.Text())
		case w.Used.Known() && w.Used.Value >= usedUp:
			w.Says = fmt.Sprintf("%s has used %.0f %% of the time in which it may trip, at %s. Turn down what hangs on it.",
				words.Capital(c.Name), 100*w.Used.Value, w.Mean.Text())
		case float64(now) > planned*float64(most):
			w.Says = fmt.Sprintf("%s carries %s, and all that is planned on it takes %s on dense music: "+
				"something else hangs on it.",
				words.Capital(c.Name), now, most)
		}
		list = append(list, w)
	}
	return list
}

// WatchSays puts what a meter reads into one line.
func WatchSays(list []Watched) string {
	if len(list) == 0 {
		return "No meter has read any circuit yet."
	}
	fullest, part := list[0], 0.0
	said := ""
	for _, w := range list {
		if p := float64(w.Flow[len(w.Flow)-1].Amps / w.Limit); p > part {
			fullest, part = w, p
		}
		if w.Says != "" && (said == "" || w.Trips) {
			said = w.Says
		}
	}
	if said != "" {
		return said
	}
	now := fullest.Flow[len(fullest.Flow)-1].Amps
	return fmt.Sprintf("As read, all circuits hold; %s is the fullest, %s of %s.", fullest.Name, unit.Ampere(now),
		fullest.Limit)
}
