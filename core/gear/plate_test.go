package gear

import (
	"strings"
	"testing"
)

// What a plate says in one line, and nothing more: a bare figure of watts is taken as
// peak, a sensitivity goes with the one rating beside it.
func TestPlates(t *testing.T) {
	amp, err := FromPlate("2 x 700 W 4 ohm, 1 V")
	if err != nil || amp.Kind != KindAmplifier || amp.Amplifier.Channels != 2 || amp.Amplifier.Ratings[0].Power != 700 ||
		amp.Amplifier.Sensitivity.Or(0) != 1 || amp.Amplifier.SensLoad.Or(0) != 4 {
		t.Errorf("%v, %+v", err, amp.Amplifier)
	}
	if g := amp.Amplifier.VoltageGain(); g.Value < 34.4 || g.Value > 34.5 { // 20 lg(sqrt(700 × 4)/1)
		t.Errorf("gain %s", g.Text())
	}
	four, err := FromPlate("4 x 500 W 8 ohm, 4 x 900 W 4 ohm, bridged 1800 W 8 ohm, 32 dB, class D")
	if err != nil || four.Amplifier.Channels != 4 || len(four.Amplifier.Ratings) != 3 || four.Amplifier.Gain.Or(0) != 32 ||
		four.Amplifier.Class != "D" || four.Amplifier.SensLoad.Known() {
		t.Errorf("%v, %+v", err, four.Amplifier)
	}
	box, err := FromPlate("12 inch 8 ohm 300 W AES 98 dB")
	if s := box.Loudspeaker; err != nil || s.Nominal.Or(0) != 8 || s.Continuous.Or(0) != 300 || s.Standard != AES1984 ||
		s.Sensitivity.Or(0) != 98 || s.Sub || s.Active {
		t.Errorf("%v, %+v", err, s)
	}
	bare, err := FromPlate("18 inch 4 ohm 1200 W")
	if s := bare.Loudspeaker; err != nil || !s.Sub || s.Bare.Or(0) != 1200 || s.Continuous.Known() {
		t.Errorf("%v, %+v", err, s)
	}
	active, err := FromPlate("active 10 inch 128 dB")
	if s := active.Loudspeaker; err != nil || !s.Active || s.MaxSPL.Or(0) != 128 {
		t.Errorf("%v, %+v", err, s)
	}
	desk, err := FromPlate("mixer 24 in")
	if err != nil || desk.Kind != KindMixer || desk.Mixer.Inputs != 24 {
		t.Errorf("%v, %+v", err, desk.Mixer)
	}
	for text, want := range map[string]string{"blue": "neither in the library", "2 x 700 W": "is no rating",
		"": "neither"} {
		if _, err := FromPlate(text); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v", text, err)
		}
	}
}

// Ratings as sheets print them: with distortion and band, with words for what they
// are not, and as a table of loads over powers.
func TestRatingsAsSheetsPrintThem(t *testing.T) {
	for text, want := range map[string]string{
		"2 x 700 W into 4 ohm, 1 kHz, 1 % THD":         "700 W into 4 Ω",
		"700 W @ 4 ohm (20 Hz - 20 kHz, 0.1% THD+N)":   "700 W into 4 Ω",
		"1400 W max into 4 ohm":                        "1400 W into 4 Ω burst",
		"900 W program 8 ohm":                          "900 W into 8 Ω burst",
		"Load | 8 ohm | 4 ohm\nStereo | 350 W | 600 W": "350 W into 8 Ω; 600 W into 4 Ω",
		"\t8 Ω\t4 Ω\nstereo\t350 W\t600 W\nbridged\t1200 W\t1600 W": "350 W into 8 Ω; 600 W into 4 Ω; " +
			"bridged 1200 W into 8 Ω; bridged 1600 W into 4 Ω",
	} {
		s, err := ParseSheet(text)
		var lines []string
		for _, r := range s.Ratings {
			lines = append(lines, r.Line())
		}
		if got := strings.Join(lines, "; "); err != nil || got != want {
			t.Errorf("%q: %q, %v; want %q", text, got, err, want)
		}
	}
}
