package feed

import (
	"fmt"
	"math"

	"largo/core/finding"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/unit"
)

// DewPoint is the temperature at which water settles out of air, °C, by the formula of
// Magnus with 17.62 and 243.12 °C (over water, −45 to 60 °C: WMO guide, from memory).
func DewPoint(air unit.Celsius, humidity unit.Ratio) reckon.Figure {
	const a, b = 17.62, 243.12
	g := math.Log(float64(humidity)) + a*float64(air)/(b+float64(air))
	return reckon.Of("dew", "Td", "dew point of the place", unit.Celsius(b*g/(a-g)), "").Because("Magnus")
}

// damp finds gear that arrives colder than the dew point of the place.
func damp(b rig.Brief) []finding.Finding {
	air, k1 := b.Air.Get()
	humidity, k2 := b.Humidity.Get()
	gear, k3 := b.Arrives.Get()
	if !k1 || !k2 || !k3 {
		return nil
	}
	dew := DewPoint(air, humidity)
	if float64(gear) >= dew.Value {
		return nil
	}
	f := at(nil, "feed.damp", finding.Gear, finding.Mind)
	f.What = fmt.Sprintf("The gear arrives at %s, and in air of %s and %s %% water settles on all that is below %s.",
		gear, air,
		unit.Number(math.Round(100*float64(humidity))), dew.Text())
	f.Why = "Water on a board that is switched on is a short."
	f.Figures = []reckon.Figure{dew}
	f.Advice = "Leave it closed, off and unplugged until it has come above that; an hour or two in its cases."
	return []finding.Finding{f}
}
