package advise_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"largo/core/advise"
	"largo/core/gear"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/survey"
	"largo/core/unit"
	"largo/demo"
)

// Two channels carry noise of their own: a bridge adds them as powers, 3.01 dB
// (uncorrelated sources).
func TestTheNoiseOfABridge(t *testing.T) {
	r := rigtest.New(t).Add(rigtest.Desk(), "DESK").Add(rigtest.Amp("amp"),
		"A1").Add(rigtest.Box("box", func(s *gear.Loudspeaker) { s.Continuous = unit.Of(unit.Watt(1000)) }), "B1").
		Plug("DESK/main L", "A1/in 1").Plug("A1/out A", "B1/in")
	x := rig.NewIndex(r.Rig)
	for _, c := range advise.Advise(x, verdict(x), judged(t, x, "A1/out A"), nil).Choices {
		want := 0.0
		if strings.Contains(c.Name, "bridged") {
			want = 10 * math.Log10(2)
		}
		rigtest.Near(t, c.Name, float64(c.Noise), want, 0.005)
	}
}

// The adviser weighs an amplifier with a load 0.5 % under its least as one that
// fits, and below that as one that does not; and lets no choice pass that a
// policy forbids (350 W boxes, headroom: at most 700 W).
func TestTheAdviserKeepsTheRules(t *testing.T) {
	weigh := func(z unit.Ohm, watts unit.Watt) (fits, allowed bool) {
		amp := rigtest.Amp("amp", func(a *gear.Amplifier) {
			a.Ratings, a.Least, a.Bridging = []gear.Rating{{Mode: gear.Separate, Load: 4, Power: watts},
				{Mode: gear.Separate, Load: 2, Power: watts}}, unit.Of(unit.Ohm(4)), gear.Bridging{}
		})
		box := rigtest.Box("box", func(s *gear.Loudspeaker) { s.Nominal = unit.Of(z) })
		r := rigtest.Hung(t, amp, box, 1)
		x := rig.NewIndex(r.Rig)
		c := advise.Advise(x, verdict(x), judged(t, x, "A1/out A"), nil).Choices[0]
		return c.Power.Known(), c.Allowed
	}
	for z, want := range map[unit.Ohm]bool{4: true, 3.985: true, 3.97: false, 2.5: false} {
		if fits, _ := weigh(z, 300); fits != want {
			t.Errorf("%s on a least of 4 Ω: fits %v", z, fits)
		}
	}
	for watts, want := range map[unit.Watt]bool{690: true, 700: true, 702: false, 1000: false} {
		if _, allowed := weigh(4, watts); allowed != want {
			t.Errorf("%s on a box of 350 W: allowed %v", watts, allowed)
		}
	}
}

// The outputs of a survey are everybody's: who weighs other boxes on one leaves it
// as it is.
func TestAdvisingChangesNoOutput(t *testing.T) {
	rigs, err := demo.Rigs()
	if err != nil {
		t.Fatal(err)
	}
	models, err := demo.Gear()
	if err != nil {
		t.Fatal(err)
	}
	var owned []gear.Holding
	for _, m := range models {
		owned = append(owned, gear.Holding{Model: m, Place: "store", Count: 8})
	}
	for _, r := range rigs {
		report := survey.Survey(r)
		outs := survey.Of[match.Verdict](report).Outputs
		said := func() string {
			var b strings.Builder
			for _, o := range outs {
				fmt.Fprintln(&b, o.At, o.Nominal, o.Least(), o.Power, o.Boxes)
			}
			return b.String()
		}
		before := said()
		for _, o := range outs {
			if len(o.Boxes) > 0 {
				advise.Advise(report.Index, survey.Of[match.Verdict](report), o, owned)
				advise.LineOf(o, advise.UsualAsk(o))
			}
		}
		if said() != before {
			t.Errorf("%s: its outputs are others after the advice", r.Brief.Title)
		}
	}
}
