package protect_test

import (
	"math"
	"strings"
	"testing"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/protect"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

func limits(t *testing.T, r *rigtest.Rig) (protect.Output, []finding.Finding) {
	t.Helper()
	x := rig.NewIndex(r.Rig)
	ls, fs := protect.Judge(drive.Outputs(x, load.Outputs(x)), r.Limits)
	if len(ls) != 1 {
		t.Fatalf("%d outputs limited, want 1", len(ls))
	}
	return ls[0], fs
}

// big never clips before a box is at its limit.
func big(change ...func(*gear.Amplifier)) gear.Model {
	return rigtest.Amp("big", append([]func(*gear.Amplifier){func(a *gear.Amplifier) {
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 4500}, {Mode: gear.Bridged, Load: 16, Power: 9000}}
		a.Gain = unit.Of(unit.Decibel(0))
	}}, change...)...)
}

func box(w float64, change ...func(*gear.Loudspeaker)) gear.Model {
	rated := func(s *gear.Loudspeaker) { s.Continuous = unit.Of(unit.Watt(w)) }
	return rigtest.Box("box", append([]func(*gear.Loudspeaker){rated}, change...)...)
}

func on(t *testing.T, amp, b gear.Model) *rigtest.Rig {
	return rigtest.Driven(t, amp).Add(b, "B1").Plug("A1/out A", "B1/in")
}

func TestThresholds(t *testing.T) {
	// V = sqrt(P Z); dBu = 20 lg(V/0.7746) − gain: 1000 W at 8 Ω is 89.443 V
	// and 41.249 dBu; half of it 38.239, a quarter 35.229 (defining formulas).
	for watts, dbu := range map[float64]float64{1000: 41.249, 500: 38.239, 250: 35.229} {
		l, _ := limits(t, on(t, big(), box(watts)))
		rigtest.Near(t, "long", l.Long.Value, math.Sqrt(watts*8), 1e-9)
		rigtest.Near(t, "at the input", l.LongIn().Value, dbu, 1e-3)
		// At 6 dB crest the peak is twice the rms (AES2-1984, IEC 60268-5).
		rigtest.Near(t, "peak", l.Peak.Value, 2*l.Long.Value, 0.01*l.Long.Value)
		// A sine of that peak lies 3.01 dB under it: 2/√2 is +2.99 dB at 6.00 dB crest.
		rigtest.Near(t, "peak at the input", l.PeakIn().Value-l.LongIn().Value, 6-3.0103, 1e-3)
	}
	// Half of 500 W at 8 Ω through 32 dB of gain: +3.229 dBu... for 250 W.
	l, _ := limits(t, on(t, big(func(a *gear.Amplifier) { a.Gain = unit.Of(unit.Decibel(32)) }), box(250)))
	rigtest.Near(t, "with gain", l.LongIn().Value, 3.229, 1e-3)
}

func TestImpedanceOfTheRating(t *testing.T) {
	least := func(s *gear.Loudspeaker) { s.Least = unit.Of(unit.Ohm(6.4)) }
	iec, _ := limits(t, on(t, big(), box(400, least)))
	aes, _ := limits(t, on(t, big(), box(400, least, func(s *gear.Loudspeaker) { s.Standard = gear.AES1984 })))
	// The two conventions lie 10 lg(8/6.4) = 0.97 dB apart.
	rigtest.Near(t, "apart", iec.LongIn().Value-aes.LongIn().Value, 0.9691, 1e-3)
	if aes.RatedOn() == iec.RatedOn() {
		t.Errorf("both are said to be rated on %q", aes.RatedOn())
	}
}

func TestPerBoxNotPerPile(t *testing.T) {
	one, _ := limits(t, on(t, big(), box(400)))
	r := on(t, rigtest.Amp("big", func(a *gear.Amplifier) {
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 2, Power: 9000}}
	}), box(400)).
		Add(rigtest.Box("small", func(s *gear.Loudspeaker) { s.Continuous = unit.Of(unit.Watt(100)) }), "B2").
		Plug("B1/link", "B2/in")
	two, _ := limits(t, r)
	rigtest.Near(t, "one box", one.Long.Value, math.Sqrt(400*8), 1e-9)
	rigtest.Near(t, "the weaker of two side by side", two.Long.Value, math.Sqrt(100*8), 1e-9)
	if two.Governs != "B2" {
		t.Errorf("%s governs, want B2", two.Governs)
	}
}

func TestSeriesBoxesAllowTwiceTheVolts(t *testing.T) {
	r := rigtest.Driven(t, big()).Add(box(400), "B1", "B2")
	for _, tag := range []string{"B1", "B2"} {
		r.Do(rig.Connect{Link: rig.Link{From: rigtest.Ref("A1/out A"), To: rig.Ref{Device: tag, Port: "in"}, Series: "s"}})
	}
	l, _ := limits(t, r)
	rigtest.Near(t, "two in series", l.Long.Value, 2*math.Sqrt(400*8), 1e-9)
}

func TestNeverAboveClip(t *testing.T) {
	l, fs := limits(t, on(t, rigtest.Amp("amp"), box(1000)))
	rigtest.Near(t, "long", l.Long.Value, math.Sqrt(350*8), 1e-9)
	rigtest.Near(t, "peak is a sine's", l.Peak.Value, math.Sqrt2*math.Sqrt(350*8), 1e-9)
	if len(fs) > 0 {
		t.Errorf("an amplifier that cannot harm was complained of: %+v", fs)
	}
}

func TestBridgeAndKnobChangeTheGain(t *testing.T) {
	bridged := rigtest.Driven(t, big()).
		Add(box(400, func(s *gear.Loudspeaker) { s.Nominal = unit.Of(unit.Ohm(16)) }), "B1").Plug("A1/out A+B", "B1/in").
		Do(rig.SetPair{Tag: "A1", Set: rig.Pair{Output: gear.Bridged, Input: rig.ParallelIn}})
	l, _ := limits(t, bridged)
	rigtest.Near(t, "bridged gain, twice the volts", l.Gain().Value, 6.0206, 1e-4)
	turned := on(t, big(), box(400)).Do(rig.SetKnob{Tag: "A1", Set: rig.Knob{Channel: 0, Down: 6}})
	l, _ = limits(t, turned)
	rigtest.Near(t, "turned down", l.Gain().Value, -6, 1e-9)
}

func TestLimiterFindings(t *testing.T) {
	v := func(x float64) unit.Given[unit.Volt] { return unit.Of(unit.Volt(x)) }
	for _, c := range []struct {
		what      string
		rms, peak unit.Given[unit.Volt]
		want      string
	}{
		{"none", unit.Given[unit.Volt]{}, unit.Given[unit.Volt]{}, "protect.limiter-unset"},
		{"only one of two", v(50), unit.Given[unit.Volt]{}, "protect.limiter-unset"},
		{"as derived", v(56.5), v(112), ""},
		{"long too high", v(60), v(112), "protect.limiter-high"},
		{"peak too high", v(50), v(130), "protect.limiter-high"},
	} {
		r := on(t, big(), box(400))
		r.Do(rig.SetLimiter{Tag: "A1", Set: rig.Limiter{Port: "out A", RMS: c.rms, Peak: c.peak}})
		_, fs := limits(t, r)
		switch {
		case c.want == "" && len(fs) != 0, c.want != "" && (len(fs) != 1 || fs[0].Code != c.want):
			t.Errorf("%s: %+v, want %q", c.what, fs, c.want)
		case c.want != "":
			r.Do(fs[0].Mends[0].Edit)
			if _, fs := limits(t, r); len(fs) != 0 {
				t.Errorf("%s: after the mend %+v", c.what, fs)
			}
		}
	}
}

func TestUnknownGivesNoLimit(t *testing.T) {
	l, fs := limits(t, on(t, big(func(a *gear.Amplifier) { a.Gain = unit.Given[unit.Decibel]{} }), box(400)))
	if l.LongIn().Known() || !l.Long.Known() || fs[len(fs)-1].Code != "protect.gain-unknown" {
		t.Errorf("no gain: volts %s, dBu %s, %+v", l.Long.Text(), l.LongIn().Text(), fs)
	}
	l, fs = limits(t, on(t, big(),
		rigtest.Box("box", func(s *gear.Loudspeaker) { s.Continuous = unit.Given[unit.Watt]{} })))
	if l.Long.Known() || l.Peak.Known() || fs[0].Code != "protect.unknown" {
		t.Errorf("no rating: %s, %+v", l.Long.Text(), fs)
	}
}

// What a mend records is rounded down to what a limiter shows: never over the
// figure. 350 W into 8 Ω are 52.915 V rms, 105.83 V peak (sqrt(P Z), 6 dB).
func TestAMendRecordsNoMoreThanTheFigure(t *testing.T) {
	l, fs := limits(t, on(t, big(), box(350)))
	for _, f := range fs {
		for _, m := range f.Mends {
			set, ok := m.Edit.(rig.SetLimiter)
			if !ok {
				continue
			}
			rms, _ := set.Set.RMS.Get()
			peak, _ := set.Set.Peak.Get()
			if float64(rms) > l.Long.Value || float64(peak) > l.Peak.Value || rms < 52.8 || peak < 105 {
				t.Errorf("%s: %s rms and %s peak for %s and %s", m.Label, rms, peak, l.Long.Text(), l.Peak.Text())
			}
			return
		}
	}
	t.Error("no mend records a limiter")
}

// A box that was tested to less than its rating is held to that, for long; its peaks and
// the parts of its rating are those of the rating. In series it sees half of the volts.
func TestWhatTheBenchFoundGoverns(t *testing.T) {
	was := func(v unit.Volt) func(*gear.Loudspeaker) {
		return func(s *gear.Loudspeaker) { s.Tested = unit.From(v, "thermal test of number 3") }
	}
	l, _ := limits(t, on(t, big(), box(300, was(32.4))))
	rigtest.Near(t, "long", l.Long.Value, 32.4, 1e-9)
	rigtest.Near(t, "peak", l.Peak.Value, math.Pow(10, 6.0/20)*math.Sqrt(2400), 1e-9)
	rigtest.Near(t, "half the rating", l.Steps()[1].Volts.Value, math.Sqrt(1200), 1e-9)
	if l.Long.Source != "thermal test of number 3" {
		t.Errorf("from %q", l.Long.Source)
	}
	if m, err := l.Means("40 V"); err != nil || !m.Wrong {
		t.Errorf("%+v, %v", m, err)
	}
	l, _ = limits(t, on(t, big(), box(300, was(60))))
	rigtest.Near(t, "tested to more", l.Long.Value, math.Sqrt(2400), 1e-9)
}

// A rig that holds its limiters to a quarter of the rating asks for half the volts, says
// that it is its own wish, and its mend is that; peaks stay those of the rating.
func TestHowLow(t *testing.T) {
	r := on(t, big(), box(300)).Do(rig.SetLimits{Limits: rig.QuarterRating})
	l, fs := limits(t, r)
	rigtest.Near(t, "long", l.Long.Value, math.Sqrt(600), 1e-9)
	rigtest.Near(t, "peak", l.Peak.Value, math.Pow(10, 6.0/20)*math.Sqrt(2400), 1e-9)
	if len(fs) == 0 || !strings.Contains(fs[0].What, "this rig holds B1 to a quarter of the rating, 24.5 V") {
		t.Fatalf("%+v", fs)
	}
	if _, fs = limits(t, r.Do(fs[0].Mends[0].Edit)); len(fs) > 0 {
		t.Errorf("the mend does not mend: %+v", fs)
	}
}

// A lamp and a fuse hide different things; nothing, and what is not known, say nothing.
func TestGuards(t *testing.T) {
	for guard, want := range map[gear.Guard]string{gear.LampGuard: "the highs fall", gear.FuseGuard: "the highs are gone",
		gear.ResettingFuse: "come and go", gear.NoGuard: "", "": ""} {
		_, fs := limits(t, on(t, rigtest.Amp("amp"), box(400, func(s *gear.Loudspeaker) { s.Guard = guard })))
		said := ""
		for _, f := range fs {
			if f.Code == "protect.guard" {
				said += f.Why
			}
		}
		if want == "" && said != "" || !strings.Contains(said, want) {
			t.Errorf("%q: %q", guard, said)
		}
	}
}
