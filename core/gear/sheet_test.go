package gear

import (
	"reflect"
	"strings"
	"testing"
	"testing/quick"

	"largo/core/unit"
)

func TestParseSheet(t *testing.T) {
	ch := func(p unit.Watt, z unit.Ohm) Rating { return Rating{Mode: Separate, Load: z, Power: p} }
	br := func(p unit.Watt, z unit.Ohm) Rating { return Rating{Mode: Bridged, Load: z, Power: p} }
	for text, want := range map[string]Sheet{
		"2 x 900 W into 4 ohm, 2 x 550 W into 8 ohm, bridged 1800 W into 8 ohm": {[]Rating{ch(900, 4), ch(550, 8),
			br(1800, 8)}, 2},
		"8 Ω 420 W\n4 Ω 700 W\n\nbridged 8 Ω 1400 W": {[]Rating{ch(420, 8), ch(700, 4), br(1400, 8)}, 0},
		"4 × 1,2 kW @ 2,7Ω; 4×600W/8ohms":            {[]Rating{ch(1200, 2.7), ch(600, 8)}, 4},
		"500 W into 8 ohm one channel driven":        {[]Rating{{Mode: Separate, Load: 8, Power: 500, Driven: OneDriven}}, 0},
		"900 W into 4 ohm (20 ms burst)":             {[]Rating{{Mode: Separate, Load: 4, Power: 900, Duration: Burst}}, 0},
		"":                                           {},
	} {
		got, err := ParseSheet(text)
		if err != nil || !reflect.DeepEqual(got, want) {
			t.Errorf("%q: %+v, %v; want %+v", text, got, err, want)
		}
	}
	for text, say := range map[string]string{
		"plenty":                     "neither a load nor a power",
		"8 ohm":                      "needs a load and a power",
		"900 W":                      "needs a load and a power",
		"900 W into 4 ohm, 8 ohm":    "Entry 2",
		"900 W into 4 ohm bananas":   `"bananas"`,
		"1.2.3 W into 4 ohm":         "not a number",
		"900 W into 4 ohm and 8 ohm": "neither",
	} {
		if s, err := ParseSheet(text); err == nil || !strings.Contains(err.Error(), say) {
			t.Errorf("%q: %+v, %v; want a sentence with %q", text, s, err, say)
		}
	}
}

func TestRatingLineIsReadBack(t *testing.T) {
	law := func(p, z uint16, bridged, one, burst bool) bool {
		r := Rating{Mode: Separate, Load: unit.Ohm(z)/8 + 0.5, Power: unit.Watt(p) + 10}
		if bridged {
			r.Mode = Bridged
		}
		if one {
			r.Driven = OneDriven
		}
		if burst {
			r.Duration = Burst
		}
		s, err := ParseSheet(r.Line())
		return err == nil && len(s.Ratings) == 1 && s.Ratings[0] == r
	}
	if err := quick.Check(law, nil); err != nil {
		t.Error(err)
	}
}
