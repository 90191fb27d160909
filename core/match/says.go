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
	if unknown > 0 {
		parts = append(parts, words.Spell(unknown, "load is", "loads are")+" unknown.")
	}
	return strings.Join(parts, " ")
}

// unsure is how many outputs run below their least load, and how many drive
// something that nobody knows the power into.
func (v Verdict) unsure() (under, unknown int) {
	for _, o := range v.Outputs {
		switch {
		case o.Under:
			under++
		case o.Live && len(o.Boxes) > 0 && !o.Power.Known():
			unknown++
		}
	}
	return under, unknown
}

func (v Verdict) driven() string {
	switch {
	case v.Passive == 0:
		return "No passive box; " + words.Small(words.Spell(len(v.Active), "active one", "active ones"))
	case v.Driven == v.Passive:
		return fmt.Sprintf("All %d boxes driven", v.Passive)
	}
	return fmt.Sprintf("%d of %d boxes driven", v.Driven, v.Passive)
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
