package match

import (
	"fmt"
	"strings"

	"largo/core/finding"
	"largo/core/stage"
	"largo/core/unit"
	"largo/core/words"
)

// says how the rig is matched, the gravest first.
func says(j stage.Judged) string {
	v, _ := j.Result.(Verdict)
	if v.Passive == 0 && len(v.Outputs) == 0 {
		return "There is nothing to match yet. Add amplifiers and boxes at Wire."
	}
	under, unknown := v.unsure()
	worst := finding.Worst(j.Findings)
	var parts []string
	switch {
	case under > 0:
		parts = append(parts, words.Spell(under, "output runs", "outputs run")+" below the least load.")
	case worst == finding.Stop:
		parts = append(parts, "Do not energise: "+words.Small(j.Findings[0].What))
	}
	parts = append(parts, v.driven()+v.spare(j.Stopped()))
	if strong := j.Count("match.too-strong"); strong > 0 && worst < finding.Stop {
		parts = append(parts, words.Spell(strong, "output is", "outputs are")+" stronger than the policy allows.")
	}
	if n := len(unknown); n > 0 {
		gives := map[bool]string{true: " gives", false: " give"}[n == 1]
		parts = append(parts, "What "+words.List(unknown)+gives+" is not known.")
	}
	return strings.Join(parts, " ")
}

// unsure is how many outputs run below their least load, and which drive something
// that nobody knows the power into.
func (v Verdict) unsure() (under int, unknown []string) {
	for _, o := range v.Outputs {
		switch {
		case o.Under:
			under++
		case o.Live && len(o.Boxes) > 0 && !o.Power.Known():
			unknown = append(unknown, o.Name())
		}
	}
	return under, unknown
}

func (v Verdict) driven() string {
	switch {
	case v.Passive == 0:
		return "No passive box; " + words.Small(words.Spell(len(v.Active), "active one", "active ones"))
	case v.Driven == v.Passive:
		if v.Passive == 1 {
			return "The one box is driven"
		}
		return fmt.Sprintf("All %d boxes driven", v.Passive)
	}
	return fmt.Sprintf("%d of %s driven", v.Driven, words.Count(v.Passive, "box", "boxes"))
}

// spare ends the sentence of driven with how the level compares: nothing is to
// spare while something is at stop.
func (v Verdict) spare(stopped bool) string {
	a := v.Decides()
	where := ""
	if a.Name != "" {
		where = " for " + a.Whom()
	}
	switch {
	case !a.Spare.Known() || stopped && a.Spare.Value >= 0:
		return "."
	case a.Spare.Value >= 0:
		return fmt.Sprintf(", with %s to spare%s.", unit.Decibel(a.Spare.Value), where)
	}
	return fmt.Sprintf(", %s short of the wanted level%s.", unit.Decibel(-a.Spare.Value), where)
}
