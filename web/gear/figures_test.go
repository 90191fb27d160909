package gear

import (
	"strings"
	"testing"

	"largo/core/gear"
)

// The library says of a power what Match takes: with all channels driven, no burst, and
// nothing for a load that no sheet rates.
func TestThePowerOfTheLibraryIsThatOfMatch(t *testing.T) {
	m := gear.Model{Kind: gear.KindAmplifier, Amplifier: &gear.Amplifier{Channels: 2, Ratings: []gear.Rating{
		{Mode: gear.Separate, Load: 8, Power: 500, Driven: gear.OneDriven},
		{Mode: gear.Separate, Load: 8, Power: 400, Driven: gear.AllDriven},
		{Mode: gear.Separate, Load: 4, Power: 900, Duration: gear.Burst}}}}
	if says := summary(m); !strings.Contains(says, "Into 8 Ω 400 W") || strings.Contains(says, "900") {
		t.Errorf("it says %q", says)
	}
}
