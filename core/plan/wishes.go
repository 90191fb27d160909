package plan

import (
	"fmt"

	"largo/core/drive"
	"largo/core/gear"
	"largo/core/match"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
	"largo/core/words"
)

// Wishes is what a plan of amplifiers is to keep to.
type Wishes struct {
	Policy   rig.Policy
	School   rig.School
	Margin   unit.Ratio               // how far a load stays over the least, as 0.25
	Mirrors  bool                     // left is driven like right
	Spare    int                      // of each model that is used, kept in the truck
	Circuits []unit.Ampere            // what each circuit may carry; none: not known
	Supply   reckon.Figure            // mains of the place, V; not known: amplifiers give what they are rated for
	Wanted   unit.Given[unit.Decibel] // LAeq where it is read, for the policy of level first
	Distance unit.Given[unit.Metre]   // from the boxes to there
	Keep     []rig.Ref                // outputs that stay as they are
	Weak     bool                     // weaker than the policy asks for is allowed, at a price
	Loud     bool                     // up to twice the rating is, with limiters set
}

// Volts are the mains that current is reckoned at, 230 V where they are not known.
func (w Wishes) Volts() unit.Volt {
	if !w.Supply.Known() || w.Supply.Value == 0 {
		return 230
	}
	return unit.Volt(w.Supply.Value)
}

// Aim is what a plan makes best; what is left open it makes best by the next.
type Aim string

// The aims.
const (
	Fewest       Aim = "fewest amplifiers"
	Lightest     Aim = "lightest"
	LeastDraw    Aim = "least current"
	LeastHire    Aim = "least hire cost"
	MostHeadroom Aim = "most headroom"
	NoneBridged  Aim = "nothing bridged"
)

// Aims lists the choices.
var Aims = []Aim{Fewest, Lightest, LeastDraw, LeastHire, MostHeadroom, NoneBridged}

// Stocked is an amplifier model with how many may be used.
type Stocked struct {
	Model gear.Model
	Owned int                    // ours, whether in the rig or not
	Hire  int                    // more that could be hired
	Price unit.Given[unit.Money] // of hiring one
	Fixed int                    // in the rig, with outputs that are kept
	Taken int                    // channels of those that are not free
	Cut   int                    // pairs of those that cannot be bridged any more
	Held  map[string]unit.Watt   // by tag, what their kept outputs need of a supply that channels share
}

// Count is how many there are at most.
func (s Stocked) Count() int { return s.Owned + s.Hire }

// Group is boxes of one model on one programme, to be driven alike.
type Group struct {
	Name    string
	Boxes   []string // tags; of the left side where it is mirrored
	Mirror  []string // tags of the right side, box by box; none: not mirrored
	Poles   int
	Way     string     // what those drive, where the boxes have several ways
	Feed    rig.Ref    // what is plugged into the amplifier's input; zero: nothing yet
	Right   rig.Ref    // the same for the right side
	Stage   bool       // for the stage and not the audience
	Policy  rig.Policy // of its part of the rig; "": that of the wishes
	Speaker *gear.Loudspeaker
	Z       unit.Ohm
	Rating  unit.Watt
	Least   unit.Watt // that a box needs for the level wanted; 0: not asked
}

// sides is how many outputs each choice for the group takes.
func (g Group) sides() int {
	if len(g.Mirror) > 0 {
		return 2
	}
	return 1
}

// Option is one way to drive boxes of a group: so many of them on an output of
// an amplifier in a mode.
type Option struct {
	Amp, Group int
	Mode       gear.Mode
	Boxes      int       // on one output
	Load       unit.Ohm  // nominal
	Power      unit.Watt // of the output
	Ratio      float64   // power at a box over its rating
	Needs      unit.Watt // of the output, for what the policy asks at the least
	Weak       bool      // it gives less than the policy asks
}

// channels that one output of the option takes.
func (o Option) channels() int {
	if o.Mode == gear.Bridged {
		return 2
	}
	return 1
}

// refusal says why an output of an amplifier may not drive so many boxes of a
// group in a mode; "" when it may.
func refusal(s *Stocked, g *Group, mode gear.Mode, boxes int, w Wishes) (Option, string) {
	a := s.Model.Amplifier
	o := Option{Mode: mode, Boxes: boxes, Load: g.Z / unit.Ohm(boxes)}
	if mode == gear.Bridged {
		if why := bridgeRefusal(a, w.School); why != "" {
			return o, why
		}
	}
	limit := a.LeastLoad(mode)
	if !limit.Known() {
		return o, limit.Lacks
	}
	if least := unit.Ohm(limit.Value) * unit.Ohm(1+w.Margin); gear.Below(o.Load, least) {
		if mode == gear.Bridged {
			return o, fmt.Sprintf("bridged into %s it would see %s a side, below its least of %s", o.Load, o.Load/2, least/2)
		}
		return o, fmt.Sprintf("%s would be %s, below its least of %s", words.Count(boxes, "box", "boxes"), o.Load, least)
	}
	power := drive.Amp{Model: &s.Model, Supply: w.Supply}.PowerInto(mode, o.Load)
	if !power.Known() {
		return o, power.Lacks
	}
	o.Power = unit.Watt(power.Value)
	each := o.Power / unit.Watt(boxes)
	o.Ratio = float64(each / g.Rating)
	policy := w.policyOf(g)
	low, high := w.band(g)
	least := max(g.Least*unit.Watt(boxes), unit.Watt(low)*g.Rating*unit.Watt(boxes))
	o.Needs = min(o.Power, least)
	o.Weak = o.Power < least*(1-match.BandTolerance)
	switch {
	case o.Ratio > high*(1+match.BandTolerance):
		return o, fmt.Sprintf("it would give each box %s, %s times its rating; the policy %q allows %s", each,
			unit.Fixed(o.Ratio, 2), policy, unit.Number(high))
	case w.Weak:
	case o.Ratio < low*(1-match.BandTolerance):
		return o, fmt.Sprintf("it would give each box only %s, %s times its rating; the policy %q asks for %s", each,
			unit.Fixed(o.Ratio, 2), policy, unit.Number(low))
	case o.Weak:
		return o, fmt.Sprintf("it would give each box %s, and the level wanted takes %s", each, g.Least)
	}
	return o, ""
}

// policyOf is the policy that a group is planned by.
func (w Wishes) policyOf(g *Group) rig.Policy {
	if g.Policy != "" {
		return g.Policy
	}
	return w.Policy
}

// band is what a group is to be given of its rating.
func (w Wishes) band(g *Group) (low, high float64) {
	low, high = match.Band(w.policyOf(g))
	if w.Loud {
		high = max(high, 2)
	}
	return low, high
}

// bridgeRefusal says why a model may not be bridged under a school; "" when it
// may. Models of an odd number of channels are not bridged.
func bridgeRefusal(a *gear.Amplifier, school rig.School) string {
	if a.Channels%2 != 0 {
		return "with an odd number of channels it is not bridged here"
	}
	pair := 0
	for pair < a.Pairs() && !a.Bridging.PairBridges(pair) {
		pair++
	}
	if pair == a.Pairs() {
		return "it has no pair of channels that bridges"
	}
	may, because := match.MayBridge(a, pair)
	switch {
	case school == rig.Never:
		return "the school chosen is never to bridge"
	case !may.Under(school) && may == match.MayByHand:
		return "the school chosen bridges only what the maker rates, and " + because
	case !may.Under(school):
		return because
	}
	return ""
}

// bridgeable is how many pairs of a model may be bridged.
func bridgeable(a *gear.Amplifier) (pairs int) {
	for p := range a.Pairs() {
		if a.Bridging.PairBridges(p) {
			pairs++
		}
	}
	return pairs
}
