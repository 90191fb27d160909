package match_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

func judge(r rig.Rig) (match.Verdict, []finding.Finding) {
	x := rig.NewIndex(r)
	return match.Judge(x, drive.Outputs(x, load.Outputs(x)))
}

func codes(fs []finding.Finding) []string {
	var out []string
	for _, f := range fs {
		out = append(out, f.Code)
	}
	return out
}

// The usual rule of live sound: 350 W continuous, amplifier up to 700 W at
// the same load (common practice, no source).
func TestPolicies(t *testing.T) {
	amp := func(w unit.Watt) gear.Model {
		return rigtest.Amp("amp", func(a *gear.Amplifier) {
			a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: w}}
		})
	}
	for _, c := range []struct {
		policy rig.Policy
		watts  unit.Watt
		code   string // "" for no complaint of strength
	}{
		{rig.Headroom, 700, ""}, {rig.Headroom, 350, ""}, {rig.Headroom, 720, "match.too-strong"},
		{rig.Headroom, 200, "match.too-weak"},
		{rig.Within, 350, ""}, {rig.Within, 100, ""}, {rig.Within, 400, "match.too-strong"},
		{rig.TenthOver, 380, ""}, {rig.TenthOver, 400, "match.too-strong"}, {rig.TenthOver, 300, "match.too-weak"},
		{rig.LevelFirst, 200, ""}, {rig.LevelFirst, 400, "match.too-strong"},
	} {
		r := rigtest.Hung(t, amp(c.watts), rigtest.Box("box"), 1).Do(rig.SetWishes{Policy: c.policy, Bridging: rig.AsRated})
		v, fs := judge(r.Rig)
		rigtest.Near(t, "ratio", v.Outputs[0].Ratio.Value, float64(c.watts)/350, 1e-9)
		got := slices.DeleteFunc(codes(fs), func(s string) bool { return !strings.Contains(s, "too-") })
		if c.code == "" && len(got) > 0 || c.code != "" && !slices.Contains(got, c.code) {
			t.Errorf("%s at %v: %v, want %q", c.policy, c.watts, got, c.code)
		}
	}
}

func TestPowerSumsOverBoxes(t *testing.T) {
	four := rigtest.Box("four", func(s *gear.Loudspeaker) { s.Nominal = unit.Of(unit.Ohm(4)) })
	amp := rigtest.Amp("amp", func(a *gear.Amplifier) {
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 350}, {Mode: gear.Separate, Load: 2, Power: 1200}}
	})
	r := rigtest.Driven(t, amp).Add(rigtest.Box("box"), "B1").Add(four, "B2").Plug("A1/out A",
		"B1/in").Plug("B1/link", "B2/in")
	v, _ := judge(r.Rig)
	o := v.Outputs[0]
	rigtest.Near(t, "load 8 ∥ 4 ohm", o.Nominal.Value, 8.0/3, 1e-9)
	// Side by side power divides as 1/Z: the 4 Ω box takes two thirds.
	rigtest.Near(t, "share of the 4 ohm box", o.Boxes[1].Power().Value/o.Power.Value, 2.0/3, 1e-9)
	rigtest.Near(t, "sum", o.Boxes[0].Power().Value+o.Boxes[1].Power().Value, o.Power.Value, 1e-9)
	if o.Ratio.Value != o.Boxes[1].Ratio.Value {
		t.Error("the worst box decides")
	}
}

// A box of two ways is one box, and as loud as its weaker way: the ways carry
// bands of their own and add nothing to each other (common practice, no source).
func TestABoxOfTwoWaysIsOneBox(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Biamped(), "B1", "B2")
	for i, tag := range []string{"B1", "B2"} {
		r.Plug([]string{"A1/out A", "B1/link"}[i], tag+"/in").Plug([]string{"A1/out B", "B1/link 2"}[i], tag+"/in 2")
	}
	v, _ := judge(r.Do(rig.SetBrief{Brief: rig.Brief{Title: "Two ways", Distance: unit.Of(unit.Metre(10))}}).Rig)
	if v.Passive != 2 || v.Driven != 2 {
		t.Errorf("%d of %d boxes driven", v.Driven, v.Passive)
	}
	// Low ways: 98 dB + 10 lg 350 W − 20 dB = 103.44 dB each; the high ways
	// could do 108 dB + 10 lg 120 W − 20 dB. Two boxes add 3.01 dB.
	rigtest.Near(t, "level of both", v.Decides().Level.Value, 98+10*math.Log10(350)-20+10*math.Log10(2), 1e-3)
	k, _ := rig.NewIndex(r.Rig).Into(rig.Ref{Device: "B2", Port: "in 2"})
	if v, _ = judge(r.Do(rig.Disconnect{To: k.To}).Rig); v.Driven != 1 {
		t.Errorf("%d of 2 boxes driven while a way of one is silent", v.Driven)
	}
}

func TestLevel(t *testing.T) {
	v, _ := judge(rigtest.Hung(t, rigtest.Amp("amp"), rigtest.Box("box"), 1).Rig)
	// L = S + 10 lg P − 20 lg r: 97 + 25.44 − 20 = 102.44 dB.
	rigtest.Near(t, "one box", v.Decides().Level.Value, 102.4407, 1e-3)
	rigtest.Near(t, "average, 1/8 power", v.Decides().Average.Value, 102.4407-9.03, 1e-3)
	rigtest.Near(t, "spare over 95 dB", v.Decides().Spare.Value, 102.4407-9.03-95, 1e-3)
	v, _ = judge(rigtest.Hung(t, rigtest.Amp("amp"), rigtest.Box("box"), 2).Rig)
	// Two boxes at the same power each: +3.01 dB as powers.
	rigtest.Near(t, "two boxes", v.Decides().Level.Value, 102.4407+3.0103, 1e-3)
}

func TestOverloadIsStoppedAndMended(t *testing.T) {
	r := rigtest.Hung(t, rigtest.Amp("amp"), rigtest.Box("box"), 4)
	v, fs := judge(r.Rig)
	if o := v.Outputs[0]; !o.Under || o.Power.Known() || v.Driven != 0 {
		t.Errorf("2 Ω on a 4 Ω amplifier: under %v, power %s, driven %d", o.Under, o.Power.Text(), v.Driven)
	}
	f := fs[0]
	if f.Code != "match.load-below-least" || f.Gravity != finding.Stop || len(f.Mends) != 1 {
		t.Fatalf("%+v", f)
	}
	mended, err := rig.Apply(r.Rig, f.Mends[0].Edit)
	if err != nil {
		t.Fatal(err)
	}
	v, fs = judge(mended)
	if slices.Contains(codes(fs), "match.load-below-least") || v.Driven != 4 {
		t.Errorf("after the mend: driven %d, %v", v.Driven, codes(fs))
	}
	for _, o := range v.Outputs {
		rigtest.Near(t, o.Name(), o.Nominal.Value, 4, 1e-9)
	}
	// Amplifier minima are nominal figures: a box whose least impedance dips
	// below 4 Ω is no stop while its nominal load is 4 Ω (common practice).
	dips := rigtest.Box("dips", func(s *gear.Loudspeaker) { s.Least = unit.Of(unit.Ohm(6.4)) })
	if _, fs := judge(rigtest.Hung(t, rigtest.Amp("amp"), dips, 2).Rig); slices.Contains(codes(fs),
		"match.load-below-least") {
		t.Error("least was compared with a nominal minimum")
	}
}

func TestMayBridge(t *testing.T) {
	rated := []gear.Rating{{Mode: gear.Bridged, Load: 8, Power: 1000}}
	for _, c := range []struct {
		what string
		amp  gear.Amplifier
		want match.May
	}{
		{"rated, with a switch", gear.Amplifier{Ratings: rated, Bridging: gear.Bridging{Switch: gear.Yes}}, match.MayAsRated},
		{"rated, but another pair", gear.Amplifier{Ratings: rated,
			Bridging: gear.Bridging{Switch: gear.Yes, Pairs: []string{"C+D"}}}, match.MayNot},
		{"rated, no switch", gear.Amplifier{Ratings: rated}, match.MayAsRated},
		{"rated, yet forbidden", gear.Amplifier{Ratings: rated, Bridging: gear.Bridging{Manual: gear.ManualForbids}},
			match.MayNot},
		{"no common return", gear.Amplifier{Bridging: gear.Bridging{Common: gear.No, Manual: gear.ManualAllows}},
			match.MayNot},
		{"common return alone is not enough", gear.Amplifier{Bridging: gear.Bridging{Common: gear.Yes}}, match.Unproved},
		{"common return and manual", gear.Amplifier{Bridging: gear.Bridging{Common: gear.Yes, Manual: gear.ManualAllows}},
			match.Unproved},
		{"and one polarity", gear.Amplifier{Bridging: gear.Bridging{Common: gear.Yes, Inverted: gear.No}}, match.MayByHand},
		{"one polarity alone", gear.Amplifier{Bridging: gear.Bridging{Inverted: gear.No, Manual: gear.ManualAllows}},
			match.Unproved},
		{"two polarities", gear.Amplifier{Bridging: gear.Bridging{Common: gear.Yes, Inverted: gear.Yes}}, match.Unproved},
		{"nothing known", gear.Amplifier{}, match.Unproved},
	} {
		if got, because := match.MayBridge(&c.amp, 0); got != c.want || because == "" {
			t.Errorf("%s: %s (%s), want %s", c.what, got, because, c.want)
		}
	}
}

func TestBridgingFindingsFollowTheSchool(t *testing.T) {
	byHand := rigtest.Amp("amp", func(a *gear.Amplifier) {
		a.Ratings, a.Bridging.Switch, a.Bridging.Inverted = a.Ratings[:2], "", gear.No
	})
	halfUnrated := rigtest.Amp("amp", func(a *gear.Amplifier) {
		a.Ratings, a.Bridging.Switch, a.Bridging.Inverted = a.Ratings[:1], "", gear.No
	})
	unsaid := rigtest.Amp("amp", func(a *gear.Amplifier) { a.Ratings, a.Bridging.Switch = a.Ratings[:2], "" })
	for _, c := range []struct {
		amp    gear.Model
		school rig.School
		want   string
	}{
		{rigtest.Amp("amp"), rig.AsRated, ""}, {rigtest.Amp("amp"), rig.Freely, ""},
		{rigtest.Amp("amp"), rig.Never, "match.bridge-school"},
		{byHand, rig.AsRated, "match.bridge-school"}, {byHand, rig.Freely, "match.bridge-home-made"},
		{unsaid, rig.Freely, "match.bridge-unproved"}, {halfUnrated, rig.Freely, "match.bridge-unproved"},
		{rigtest.Amp("amp", func(a *gear.Amplifier) { a.Bridging.Manual = gear.ManualForbids }), rig.Freely,
			"match.bridge-forbidden"},
		{rigtest.Amp("amp", func(a *gear.Amplifier) { a.Ratings, a.Bridging = a.Ratings[:2], gear.Bridging{} }), rig.Freely,
			"match.bridge-unproved"},
	} {
		r := rigtest.Driven(t, c.amp).Add(rigtest.Box("box"), "B1").Plug("A1/out A+B", "B1/in").
			Do(rig.SetPair{Tag: "A1", Set: rig.Pair{Output: gear.Bridged, Input: rig.ParallelIn}}).
			Do(rig.SetWishes{Policy: rig.Headroom, Bridging: c.school})
		_, fs := judge(r.Rig)
		got := ""
		for _, f := range fs {
			if strings.HasPrefix(f.Code, "match.bridge-") && f.Code != "match.bridge-unturned" {
				if got = f.Code; f.Gravity == finding.Mind {
					continue
				}
				after, err := rig.Apply(r.Rig, f.Mends[0].Edit)
				if err != nil {
					t.Errorf("%s: mend: %v", f.Code, err)
				} else if d, _ := after.Device("A1"); d.PairSetting(0).Output != gear.Separate {
					t.Errorf("%s: still bridged after the mend", f.Code)
				}
			}
		}
		if got != c.want {
			t.Errorf("school %q: %q, want %q", c.school, got, c.want)
		}
	}
}

func TestProposal(t *testing.T) {
	weak := rigtest.Amp("amp", func(a *gear.Amplifier) {
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 150}, {Mode: gear.Separate, Load: 4, Power: 280},
			{Mode: gear.Bridged, Load: 8, Power: 560}}
	})
	r := rigtest.Hung(t, weak, rigtest.Box("box"), 1)
	v, _ := judge(r.Rig)
	p := v.Pairs()[0]
	if p.Proposed.Output != gear.Bridged {
		t.Fatalf("150 W on a 350 W box, 560 W bridged: proposed %s: %s", p.Proposed.Output, p.Reason)
	}
	// 560 W over 150 W is 5.72 dB, under the 6 dB of theory.
	rigtest.Near(t, "buys", p.Buys.Value, 5.7206, 1e-3)
	r.Do(p.Adopt(rig.NewIndex(r.Rig)))
	v, fs := judge(r.Rig)
	if v.Driven != 1 || finding.Worst(fs) == finding.Stop || v.Pairs()[0].Adopt(rig.NewIndex(r.Rig)) != nil {
		t.Errorf("adopted: driven %d, %v", v.Driven, codes(fs))
	}
	r.Do(rig.SetWishes{Policy: rig.Headroom, Bridging: rig.Never})
	if v, _ := judge(r.Rig); v.Pairs()[0].Proposed.Output != gear.Separate {
		t.Error("the school forbids it and it is proposed all the same")
	}
	strong := rigtest.Hung(t, rigtest.Amp("amp"), rigtest.Box("box"), 1)
	if v, _ := judge(strong.Rig); v.Pairs()[0].Proposed.Output != gear.Separate {
		t.Error("a bridge was proposed where nothing is missing")
	}
}

func TestLoadOnTheWrongTerminals(t *testing.T) {
	one := rigtest.Hung(t, rigtest.Amp("amp"), rigtest.Box("box"),
		1).Do(rig.SetPair{Tag: "A1", Set: rig.Pair{Output: gear.Bridged, Input: rig.ParallelIn}})
	across := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1").Plug("A1/out A+B", "B1/in")
	for want, r := range map[string]*rigtest.Rig{"match.one-hot-terminal": one, "match.bridge-not-set": across} {
		v, fs := judge(r.Rig)
		if len(fs) == 0 || fs[0].Code != want || fs[0].Gravity != finding.Stop || v.Driven != 0 {
			t.Fatalf("%v, driven %d, want %s", codes(fs), v.Driven, want)
		}
		for _, m := range fs[0].Mends {
			after, err := rig.Apply(r.Rig, m.Edit)
			if err != nil {
				t.Fatal(err)
			}
			if v, fs := judge(after); v.Driven != 1 || slices.Contains(codes(fs), want) {
				t.Errorf("%s: after %q driven %d, %v", want, m.Label, v.Driven, codes(fs))
			}
		}
	}
}

// The jacks of a powered mixer: 8 Ω on the bridge and 8 Ω on channel A at once load
// that channel with 8 ∥ 4 = 2.667 Ω (Ohm's law).
func TestBridgeAndJacksAtOnce(t *testing.T) {
	for _, set := range []rig.Pair{{Output: gear.Bridged, Input: rig.ParallelIn}, {}} {
		r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1", "B2").
			Plug("A1/out A+B", "B1/in").Plug("A1/out A", "B2/in").Do(rig.SetPair{Tag: "A1", Set: set})
		_, fs := judge(r.Rig)
		i := slices.Index(codes(fs), "match.bridge-and-jacks")
		if i < 0 || fs[i].Gravity != finding.Stop || len(fs[i].Figures) != 1 || len(fs[i].Mends) == 0 {
			t.Fatalf("%v: %v", set, fs)
		}
		rigtest.Near(t, "load of channel A", fs[i].Figures[0].Value, 8.0/3, 1e-9)
		for _, m := range fs[i].Mends {
			after, err := rig.Apply(r.Rig, m.Edit)
			if err != nil {
				t.Fatal(err)
			}
			if v, fs := judge(after); v.Driven != 2 || finding.Worst(fs) == finding.Stop {
				t.Errorf("after %q driven %d, %v", m.Label, v.Driven, codes(fs))
			}
		}
	}
}

// What another amplifier drives is no bridge used beside a jack of this one.
func TestAnotherAmplifierIsNotAtOnce(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Amp("amp"), "A2").Add(rigtest.Box("box"), "B1", "B2").
		Plug("A1/out A", "B1/in").Plug("A2/out A", "B2/in").
		Do(rig.SetPair{Tag: "A1", Set: rig.Pair{Output: gear.Bridged, Input: rig.ParallelIn}})
	if _, fs := judge(r.Rig); !slices.Contains(codes(fs), "match.one-hot-terminal") {
		t.Error(codes(fs))
	}
}

// With all three in use nothing is advised but to mend it.
func TestAllJacksOfABridgeAtOnce(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1", "B2", "B3").
		Plug("A1/out A+B", "B1/in").Plug("A1/out A", "B2/in").Plug("A1/out B", "B3/in")
	v, fs := judge(r.Rig)
	if !slices.Contains(codes(fs), "match.bridge-and-jacks") || len(v.Pairs()) != 0 {
		t.Errorf("%v, %d advised", codes(fs), len(v.Pairs()))
	}
	r.Do(rig.SetPair{Tag: "A1", Set: rig.Pair{Output: gear.Bridged, Input: rig.ParallelIn}})
	if v, fs := judge(r.Rig); !slices.Contains(codes(fs), "match.bridge-and-jacks") || len(v.Pairs()) != 1 {
		t.Errorf("bridged: %v", codes(fs))
	}
}

func TestTouchVoltage(t *testing.T) {
	// 630 W into 8 Ω is 71.0 V rms, the end of ES1 for audio (IEC 62368-1;
	// from memory).
	for watts, want := range map[unit.Watt]bool{630: false, 640: true} {
		amp := rigtest.Amp("amp", func(a *gear.Amplifier) {
			a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: watts}}
		})
		_, fs := judge(rigtest.Hung(t, amp, rigtest.Box("box"), 1).Rig)
		if got := slices.Contains(codes(fs), "match.touch-voltage"); got != want {
			t.Errorf("%v into 8 Ω: warned %v, want %v", watts, got, want)
		}
	}
}

func TestUnknownIsAFinding(t *testing.T) {
	for code, box := range map[string]gear.Model{
		"match.unknown-impedance": rigtest.Box("box", func(s *gear.Loudspeaker) { s.Nominal = unit.Given[unit.Ohm]{} }),
		"match.unknown-rating":    rigtest.Box("box", func(s *gear.Loudspeaker) { s.Continuous = unit.Given[unit.Watt]{} }),
	} {
		v, fs := judge(rigtest.Hung(t, rigtest.Amp("amp"), box, 1).Rig)
		if !slices.Contains(codes(fs), code) || v.Outputs[0].Ratio.Known() {
			t.Errorf("%v, want %s and no ratio", codes(fs), code)
		}
	}
	bare := rigtest.Amp("amp", func(a *gear.Amplifier) { a.Ratings = nil })
	if _, fs := judge(rigtest.Hung(t, bare, rigtest.Box("box"), 1).Rig); !slices.Contains(codes(fs),
		"match.unknown-power") {
		t.Errorf("%v, want match.unknown-power", codes(fs))
	}
}
