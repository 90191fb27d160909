package feed

import (
	"fmt"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/finding"
	"largo/core/rig"
	"largo/core/unit"
	"largo/core/words"
	"largo/exchange"
	"largo/web/kit"
)

// loadedFrom is the current from which a reading counts as one under load, A.
const loadedFrom unit.Ampere = 1

// askMeter asks a meter and keeps what it reads of the parts of the supply that it names.
func askMeter(s *kit.Server, c *gin.Context) {
	read, err := exchange.AskMeter(c, strings.TrimSpace(c.PostForm("meter")))
	s.Edit(c, finding.Feed, "meter", func(r rig.Rig, f *kit.Form) rig.Edit {
		if err != nil {
			f.Fault("meter", "%s.", words.Capital(err.Error()))
			return nil
		}
		return metered(r, f, read)
	})
}

// metered is the edit that keeps readings: at rest, or under the load that flowed.
func metered(r rig.Rig, f *kit.Form, read []exchange.Metered) rig.Edit {
	all := rig.Batch{}
	for _, m := range read {
		i := slices.IndexFunc(r.Supplies, func(s rig.Supply) bool { return s.Name == m.Name })
		volts, known := m.Volts.Get()
		if i < 0 || !known {
			continue
		}
		s := r.Supplies[i]
		if amps, flows := m.Amps.Get(); flows && amps >= loadedFrom {
			s.Loaded, s.LoadedBy = unit.From(volts, byMeter), unit.From(amps, byMeter)
		} else {
			s.Volts = unit.From(volts, byMeter)
		}
		if s.Sort == rig.Source && m.Hertz.Known() {
			s.Hertz = unit.From(m.Hertz.Or(0), byMeter)
		}
		all.Edits = append(all.Edits, rig.ChangeSupply{Name: s.Name, To: s})
	}
	if len(all.Edits) == 0 {
		names := make([]string, 0, len(read))
		for _, m := range read {
			names = append(names, m.Name)
		}
		f.Fault("meter", "It reads %s, and no part of the supply is called so.", words.List(append(names, "nothing else")))
		return nil
	}
	all.Saying = fmt.Sprintf("Read the meter: %s", words.Spell(len(all.Edits), "circuit", "circuits"))
	return all
}

const byMeter = "the meter"
