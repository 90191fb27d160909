package match_test

import (
	"slices"
	"testing"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/rigtest"
	"largo/core/unit"
)

// What a sheet leaves open or claims too much of is said once a model, at mind: a
// rating with one channel driven, a table that falls, more claimed than the plate takes
// in (2 × 700 W and a plate of 1000 W), watts without a word, and a power outside what
// the box's maker recommends.
func TestDoubtsAboutSheets(t *testing.T) {
	box := func(change func(*gear.Loudspeaker)) gear.Model { return rigtest.Box("box", change) }
	plain := rigtest.Box("box")
	plate := func(most unit.Watt) gear.Model {
		m := rigtest.Amp("amp")
		m.Intake.Most = unit.Of(most)
		return m
	}
	ratings := func(rs ...gear.Rating) gear.Model {
		return rigtest.Amp("amp", func(a *gear.Amplifier) { a.Ratings = rs })
	}
	one := gear.Rating{Mode: gear.Separate, Load: 8, Power: 350, Driven: gear.OneDriven}
	for what, c := range map[string]struct {
		amp, box gear.Model
		want     string
	}{
		"nothing":     {rigtest.Amp("amp"), plain, ""},
		"one driven":  {ratings(one), plain, "match.one-driven"},
		"one and all": {ratings(one, gear.Rating{Mode: gear.Separate, Load: 4, Power: 600}), plain, ""},
		"a table that falls": {ratings(gear.Rating{Mode: gear.Separate, Load: 8, Power: 500},
			gear.Rating{Mode: gear.Separate, Load: 4, Power: 400}), plain, "match.table-falls"},
		"over the plate":   {plate(1000), plain, "match.claim-over-plate"},
		"within the plate": {plate(2000), plain, ""},
		"bare watts": {rigtest.Amp("amp"), box(func(s *gear.Loudspeaker) {
			s.Bare, s.Continuous = unit.Of(unit.Watt(1400)), unit.Given[unit.Watt]{}
		}), "match.bare-watts"},
		"more than recommended": {rigtest.Amp("amp"), box(func(s *gear.Loudspeaker) { s.AmpTo = unit.Of(unit.Watt(300)) }),
			"match.not-recommended"},
		"less than recommended": {rigtest.Amp("amp"), box(func(s *gear.Loudspeaker) { s.AmpFrom = unit.Of(unit.Watt(400)) }),
			"match.not-recommended"},
		"as recommended": {rigtest.Amp("amp"), box(func(s *gear.Loudspeaker) {
			s.AmpFrom, s.AmpTo = unit.Of(unit.Watt(300)), unit.Of(unit.Watt(400))
		}), ""},
	} {
		_, fs := judge(rigtest.Hung(t, c.amp, c.box, 1).Rig)
		doubts := slices.DeleteFunc(fs, func(f finding.Finding) bool {
			return f.Gravity != finding.Mind ||
				f.Code == "match.too-weak" || f.Code == "match.touch-voltage"
		})
		switch {
		case c.want == "" && len(doubts) > 0:
			t.Errorf("%s: %+v", what, doubts)
		case c.want != "" && (len(doubts) != 1 || doubts[0].Code != c.want):
			t.Errorf("%s: %+v, want %s", what, doubts, c.want)
		}
	}
}
