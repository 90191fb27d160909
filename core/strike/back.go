package strike

import (
	"cmp"
	"fmt"
	"slices"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/words"
)

// Back is a model of the rig that has to come back.
type Back struct {
	Model *gear.Model
	Out   int    // how many went out
	How   string // it is coiled, cased or carried; "" for nothing to say
}

// CountBack is what went out, leads first by their sort, then what they joined.
func CountBack(x *rig.Index) (list []Back) {
	used := x.Used()
	for i := range x.Rig.Models {
		m := &x.Rig.Models[i]
		if n := used[m.ID]; n > 0 {
			list = append(list, Back{m, n, packed(m)})
		}
	}
	slices.SortStableFunc(list, func(a, b Back) int {
		return cmp.Or(leads(b)-leads(a), cmp.Compare(slices.Index(gear.Kinds, a.Model.Kind),
			slices.Index(gear.Kinds, b.Model.Kind)), cmp.Compare(a.Model.Title(), b.Model.Title()))
	})
	return list
}

func leads(b Back) int {
	if b.Model.Kind == gear.KindCable {
		return 1
	}
	return 0
}

// packed is how something is coiled, cased or carried (common practice, no source).
func packed(m *gear.Model) string {
	switch {
	case m.Cable != nil && m.Cable.Sort == gear.MainsCable:
		return "Cold first, then in large loops; tied, never wound tight."
	case m.Cable != nil && m.Cable.Sort == gear.SpeakerCable:
		return "Over and under, both plugs looked at; tied."
	case m.Cable != nil:
		return "Over and under in hand-wide loops, its ends together; tied."
	case m.Amplifier != nil:
		return "Hot for half an hour: its fans run, or its lid stays open; then into its case."
	case m.Loudspeaker != nil:
		if w, known := m.Body.Weight.Get(); known && w > heavy {
			return fmt.Sprintf("%s: two lift it. Its driver is hot; nothing is laid on its front.", w)
		}
		return "Its driver is hot; nothing is laid on its front."
	case m.Kind == gear.KindGenerator:
		return "Cold before it is filled, tilted or loaded."
	case m.Kind == gear.KindMicrophone:
		return "Into its own box, its switch off."
	}
	return ""
}

// heavy is from where on two lift, kg (ISO 11228-1 and common practice, from memory).
const heavy = 25

// Missing says what did not come back, or came back faulty.
func Missing(list []Back, came func(id string) (back, faulty int, counted bool)) string {
	missing, faulty, open := 0, 0, 0
	for _, b := range list {
		back, bad, counted := came(b.Model.ID)
		if !counted {
			open++
			continue
		}
		missing += max(0, b.Out-back)
		faulty += bad
	}
	switch {
	case open == len(list) && open > 0:
		return "Nothing is counted back yet."
	case missing > 0 && open > 0:
		return fmt.Sprintf("%s so far; %s still to be counted.", words.Spell(missing, "piece is missing",
			"pieces are missing"),
			words.Small(words.Spell(open, "kind is", "kinds are")))
	case missing > 0:
		return words.Spell(missing, "piece is missing", "pieces are missing") + "."
	case open > 0:
		return words.Spell(open, "kind is", "kinds are") + " still to be counted."
	case faulty > 0:
		return "All is back; " + words.Small(words.Spell(faulty, "piece is faulty", "pieces are faulty")) + "."
	}
	return "All is back."
}
