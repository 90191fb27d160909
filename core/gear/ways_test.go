package gear_test

import (
	"reflect"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/unit"
)

func TestWaysAreReadAsWritten(t *testing.T) {
	ways, err := gear.ParseWays("low: 8 ohm, least 6,4 ohm, 400 W, IEC 60268-5, 97 dB, for 1 W, high-pass 45 "+
		"Hz\n\nhigh: 16 ohm, 60 W, 120 W programme, 107 dB, capacitor", nil)
	if err != nil {
		t.Fatal(err)
	}
	low, high := ways[0], ways[1]
	if low.Nominal.Or(0) != 8 || low.Least.Or(0) != 6.4 || low.Continuous.Or(0) != 400 || low.Standard != gear.IEC ||
		low.HighPass.Or(0) != 45 || low.SensitivityRef != gear.OneWatt {
		t.Errorf("low: %+v", low)
	}
	if high.Programme.Or(0) != 120 || high.Blocked != gear.Yes || high.Least.Known() {
		t.Errorf("high: %+v", high)
	}
	again, err := gear.ParseWays(low.Line()+"\n"+high.Line(), nil)
	if err != nil || !reflect.DeepEqual(again, ways) {
		t.Errorf("%v: written and read again %+v", err, again)
	}
	for bad, say := range map[string]string{"low: loud": "Line 1", "low: 8 W\nhigh: 3 bananas": "Line 2",
		"low: least W": "unit should be"} {
		if _, err := gear.ParseWays(bad, nil); err == nil || !strings.Contains(err.Error(), say) {
			t.Errorf("%q: %v, want a sentence with %q", bad, err, say)
		}
	}
}

func TestAFigureKeepsItsOrigin(t *testing.T) {
	for in, want := range map[string][2]string{"6.4 ohm [measured]": {"6.4 ohm", "measured"}, "8 Ω": {"8 Ω", ""},
		"[plate]": {"", "plate"}, "12 [a] b": {"12 [a] b", ""}} {
		if figure, origin := gear.CutOrigin(in); figure != want[0] || origin != want[1] {
			t.Errorf("%q is %q from %q", in, figure, origin)
		}
	}
	s, err := gear.ParseSheet("2 x 700 W into 4 ohm [bench]\n420 W into 8 ohm")
	if err != nil || s.Ratings[0].From != "bench" || s.Ratings[1].From != "" ||
		!strings.HasSuffix(s.Ratings[0].Line(), "[bench]") {
		t.Errorf("%+v, %v", s, err)
	}
}

// The meter's own leads read some tenths of an ohm (common practice, no
// source): below 1 Ω the minus terminals are one.
func TestTheOhmmeterCheckDecides(t *testing.T) {
	for reading, want := range map[unit.Ohm]gear.Answer{0.2: gear.Yes, 0.9: gear.Yes, 1.5: gear.No, 10e6: gear.No} {
		if got := (gear.Bridging{Between: unit.Of(reading)}).Joined(); got != want {
			t.Errorf("%s between the minus terminals: %q, want %q", reading, got, want)
		}
	}
	if got := (gear.Bridging{Common: gear.Yes}).Joined(); got != gear.Yes {
		t.Errorf("answered without a reading: %q", got)
	}
	m := gear.Model{ID: "a", Kind: gear.KindAmplifier, Maker: "A", Name: "a",
		Amplifier: &gear.Amplifier{Channels: 2, Bridging: gear.Bridging{Common: gear.Yes, Between: unit.Of(unit.Ohm(1e6))}}}
	if err := m.Check(); err == nil || !strings.Contains(err.Error(), "keep one of the two") {
		t.Errorf("a reading against the answer: %v", err)
	}
}
