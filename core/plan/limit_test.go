package plan

import (
	"testing"

	"largo/core/unit"
)

// No more outputs are limited than a shared supply asks for: three that could give
// 500 W each, and need 300, on 1,300 W go with one of them limited; on 1,100 W with two.
func TestNoMoreIsLimitedThanTheSupplyAsks(t *testing.T) {
	for most, want := range map[unit.Watt]int{1500: 0, 1300: 1, 1100: 2, 900: 3} {
		a := PlannedAmp{Tag: "A1", Outputs: make([]PlannedOutput, 3)}
		for i := range a.Outputs {
			a.Outputs[i] = PlannedOutput{Option: Option{Power: 500, Needs: 300, Load: 4, Ratio: 1}}
		}
		a.limit(most, 0)
		limited := 0
		for _, o := range a.Outputs {
			if v, is := o.Limit.Get(); is {
				limited++
				if v < 34.6 || v > 34.8 { // √(300 W × 4 Ω) = 34.64 V
					t.Errorf("limited to %s", v)
				}
			}
		}
		if limited != want || a.Short != "" {
			t.Errorf("on %s %d are limited, want %d; %q", most, limited, want, a.Short)
		}
	}
}
