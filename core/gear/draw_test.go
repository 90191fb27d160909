package gear_test

import (
	"math"
	"testing"

	"largo/core/gear"
	"largo/core/rigtest"
	"largo/core/unit"
)

// Where the sheet is silent the careful side of common practice is taken (no
// source): an idle draw of 5 % of what all channels give, an efficiency above
// idle of 60 % for the linear classes and 85 % for class D, a power factor of
// 0.7.
func TestTakesWhereTheSheetIsSilent(t *testing.T) {
	for class, efficiency := range map[string]float64{"": 0.6, "AB": 0.6, "H": 0.6, "D": 0.85, "d": 0.85} {
		m := rigtest.Amp("amp", func(a *gear.Amplifier) {
			a.Class, a.Ratings = class, []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 400}}
		})
		got := m.Draw()
		if math.Abs(float64(got.Efficiency)-efficiency) > 1e-9 || math.Abs(float64(got.Idle)-0.05*2*400) > 1e-9 ||
			got.Factor != 0.7 || got.Assumed == "" {
			t.Errorf("class %q takes %+v", class, got)
		}
		m.Intake = gear.Intake{Idle: unit.Of(unit.Watt(33)), Efficiency: unit.Of(unit.Ratio(0.7)),
			Factor: unit.Of(unit.Ratio(0.9))}
		if got := m.Draw(); got.Idle != 33 || got.Efficiency != 0.7 || got.Factor != 0.9 || got.Assumed != "" {
			t.Errorf("what the sheet says is not taken: %+v", got)
		}
	}
}
