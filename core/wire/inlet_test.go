package wire_test

import (
	"strings"
	"testing"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

// What a device works on decides, at the mains of its inlet: outside its range it is
// a stop, outside a tenth over or a quarter under what an amplifier was rated at
// nothing shows that it works (IEC 60038 lets mains be a tenth off; from memory); a
// turntable for 50 Hz on 60 Hz plays a fifth too fast.
func TestWhatAnInletGets(t *testing.T) {
	ranged := func(low, high float64) *rigtest.Rig {
		m := rigtest.Amp("amp")
		m.Intake.VoltsLow, m.Intake.VoltsHigh = unit.Of(unit.Volt(low)), unit.Of(unit.Volt(high))
		return rigtest.New(t).Add(m, "A1")
	}
	rated := func(volts unit.Volt) *rigtest.Rig {
		return rigtest.New(t).Add(rigtest.Amp("amp", func(a *gear.Amplifier) { a.Supply = unit.Of(volts) }), "A1")
	}
	deck := rigtest.Player()
	deck.Intake.TiedTo = unit.Of(unit.Hertz(50))
	tied := func(region rig.Region) *rigtest.Rig {
		r := rigtest.New(t)
		b := r.Brief
		b.Region = region
		return r.Do(rig.SetBrief{Brief: b}).Add(deck, "DECK")
	}
	behind := func(ratio unit.Ratio) *rigtest.Rig {
		down := gear.Model{ID: "down", Kind: gear.KindTransformer, Maker: "Test", Name: "down",
			Supply: &gear.Supply{Outlets: 1, Ratio: unit.Of(ratio)}}
		return ranged(100, 125).Add(down, "T1").Plug("T1/outlet 1", "A1/mains")
	}
	for what, c := range map[string]struct {
		rig     *rigtest.Rig
		code    string
		gravity finding.Gravity
	}{
		"within": {ranged(200, 250), "", 0}, "too much": {ranged(100, 127), "wire.mains-voltage", finding.Stop},
		"too little": {ranged(380, 420), "wire.mains-voltage", finding.Stop}, "rated here": {rated(230), "", 0},
		"rated at 240": {rated(240), "", 0}, "rated at 120": {rated(120), "wire.mains-unproved", finding.Mend},
		"through a transformer": {behind(0.5), "", 0}, "through another": {behind(0.9), "wire.mains-voltage", finding.Stop},
		"50 Hz on 50": {tied(rig.Region230), "", 0}, "50 Hz on 60": {tied(rig.Region120), "wire.mains-frequency",
			finding.Stop},
		"50 Hz on either": {tied(rig.Region100), "", 0},
	} {
		_, fs := judge(c.rig.Rig)
		var got finding.Finding
		for _, f := range fs {
			if strings.HasPrefix(f.Code, "wire.mains-") {
				got = f
			}
		}
		if got.Code != c.code || got.Gravity != c.gravity {
			t.Errorf("%s: %q at %s, want %q at %s (%s)", what, got.Code, got.Gravity, c.code, c.gravity, got.What)
		}
	}
}
