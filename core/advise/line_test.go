package advise_test

import (
	"math"
	"strings"
	"testing"

	"largo/core/advise"
	"largo/core/drive"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

func verdict(x *rig.Index) match.Verdict {
	v, _ := match.Judge(x, drive.Outputs(x, load.Outputs(x)))
	return v
}

// judged gives an output of a rig as match judges it.
func judged(t *testing.T, x *rig.Index, at string) match.Output {
	t.Helper()
	for _, o := range verdict(x).Outputs {
		if o.At == rigtest.Ref(at) {
			return o
		}
	}
	t.Fatalf("no output %s", at)
	return match.Output{}
}

func plugLead(r *rigtest.Rig, from, to string, length, area float64) *rigtest.Rig {
	return r.Do(rig.Connect{Link: rig.Link{From: rigtest.Ref(from), To: rigtest.Ref(to),
		Length: unit.Of(unit.Metre(length)), Area: unit.Of(unit.SquareMillimetre(area))}})
}

// A lead's figures by hand: 30 m of 2.5 mm² copper are 2 × 30/(58 × 2.5) =
// 0.4138 Ω (IEC 60028); into 8 Ω it loses 20 lg(1 + 0.4138/8) = 0.438 dB, and a
// damping of 8/(0.02 + 0.4138) = 18.44 is left. For 0.5 dB 2.18 mm² would do.
func TestALineByHand(t *testing.T) {
	amp := rigtest.Amp("amp", func(a *gear.Amplifier) {
		a.Damping, a.DampingLoad = unit.Of(unit.Ratio(400)), unit.Of(unit.Ohm(8))
	})
	r := plugLead(rigtest.New(t).Add(amp, "A1").Add(rigtest.Box("box"), "B1"), "A1/out A", "B1/in", 30, 2.5)
	x := rig.NewIndex(r.Rig)
	l := advise.LineOf(judged(t, x, "A1/out A"), advise.UsualAsk(judged(t, x, "A1/out A")))
	b := l.Boxes[0]
	for what, c := range map[string][2]float64{
		"resistance": {b.Path.Value, 0.41379}, "loss": {b.Loss.Value, 0.43810}, "damping": {b.Damping.Value, 18.4420},
		"conductor for 0.5 dB": {b.Need.Value, 2.1823}, "power at the box": {b.Power.Value, 350 / math.Pow(1+0.41379/8, 2)},
		"inside": {l.Output.Inside().Value, 0.02}, "ripple of a resistance": {b.Ripple.Value, 0},
		"wall": {l.Wall.Value, (230*16*0.7 - 0.05*1400) * 0.6},
	} {
		if math.Abs(c[0]-c[1]) > 2e-4*math.Max(1, c[1]) {
			t.Errorf("%s: %.5f, want %.5f", what, c[0], c[1])
		}
	}
	warm := advise.UsualAsk(judged(t, x, "A1/out A"))
	warm.Celsius = 70 // 8.2517 over 6.8966 Ω/km (IEC 60028)
	if got := advise.LineOf(judged(t, x, "A1/out A"),
		warm).Boxes[0].Path.Value; math.Abs(got/0.41379-8.2517/6.8966) > 1e-4 {
		t.Errorf("at 70 °C the lead has %.4f Ω", got)
	}
	if l.Burst.Known() || !strings.Contains(l.Output.Power.Note, "at what supply") {
		t.Errorf("what the sheet does not say is known: %s, %q", l.Burst.Text(), l.Output.Power.Note)
	}
}

// A cone makes the lead's loss uneven: the ripple of a high Q on a long lead.
func TestRippleOfACone(t *testing.T) {
	d := &gear.Driver{Re: unit.Of(unit.Ohm(6)), Resonance: unit.Of(unit.Hertz(60)), Qms: unit.Of(unit.Ratio(6)),
		Qes: unit.Of(unit.Ratio(0.4))}
	box := rigtest.Box("box", func(s *gear.Loudspeaker) { s.Driver = d })
	r := plugLead(rigtest.New(t).Add(rigtest.Amp("amp"), "A1").Add(box, "B1"), "A1/out A", "B1/in", 30, 2.5)
	x := rig.NewIndex(r.Rig)
	l := advise.LineOf(judged(t, x, "A1/out A"), advise.UsualAsk(judged(t, x, "A1/out A")))
	// from |Z| = 96 Ω at resonance to nearly 6 Ω above: 20 lg of the two shares
	want := 20 * math.Log10((96/(96+0.41379))/(6/(6+0.41379)))
	if got := l.Boxes[0].Ripple.Value; math.Abs(got-want) > 0.01 {
		t.Errorf("ripple %.3f dB, want %.3f", got, want)
	}
	if math.Abs(l.Dip.Value-6.414) > 0.01 {
		t.Errorf("it dips to %.3f Ω, want 6.414", l.Dip.Value)
	}
}

// The honest bridge: twice a channel into half the load. A stiff amplifier of
// 350 W into 8 Ω and 700 W into 4 Ω gives 1400 W bridged into 8 Ω, 6.02 dB more
// than one channel; twice the boxes bring 3.01 dB, subwoofers 6.02.
func TestAdviser(t *testing.T) {
	quiet := rigtest.Box("quiet", func(s *gear.Loudspeaker) { s.Continuous = unit.Of(unit.Watt(1000)) })
	keen := rigtest.Box("keen", func(s *gear.Loudspeaker) {
		s.Sensitivity, s.Continuous = unit.Of(unit.Decibel(103)), unit.Of(unit.Watt(300))
	})
	big := rigtest.Amp("big", func(a *gear.Amplifier) {
		a.Ratings = []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 1000}}
	})
	r := rigtest.New(t).Add(rigtest.Desk(), "DESK").Add(rigtest.Amp("amp"), "A1").Add(quiet, "B1").Plug("DESK/main L",
		"A1/in 1").Plug("A1/out A", "B1/in")
	owned := []gear.Holding{{Model: big, Count: 1}, {Model: keen, Count: 2}}
	x := rig.NewIndex(r.Rig)
	a := advise.Advise(x, verdict(x), judged(t, x, "A1/out A"), owned)
	gains := map[string]float64{}
	for _, c := range a.Choices {
		gains[c.Name] = c.Gain.Value
	}
	for name, want := range map[string]float64{"one channel": 0, "both channels bridged": 6.0206,
		"one channel of Test big": 10 * math.Log10(1000.0/350), "as many Test keen": 6,
		"twice the boxes, a channel for each half": 3.0103} {
		if got, ok := gains[name]; !ok || math.Abs(got-want) > 0.001 {
			t.Errorf("%s: %.4f dB (%v), want %.4f", name, got, ok, want)
		}
	}
	if math.Abs(a.Stiff.Value-0) > 1e-9 && a.Stiff.Known() && a.Stiff.Value != 2 {
		t.Errorf("stiffness %s", a.Stiff.Text())
	}
	for school, say := range map[rig.School]string{rig.AsRated: "Rather as many Test keen",
		rig.Never: "the school chosen is never to bridge"} {
		other := r.Rig
		other.Bridging = school
		x := rig.NewIndex(other)
		if got := advise.Advise(x, verdict(x), judged(t, x, "A1/out A"), owned).Verdict; !strings.Contains(got, say) {
			t.Errorf("%s: %q, want %q in it", school, got, say)
		}
	}
	x = rig.NewIndex(r.Rig)
	if got := advise.Advise(x, verdict(x), judged(t, x, "A1/out A"), nil).Verdict; !strings.Contains(got, "Bridge it") {
		t.Errorf("with nothing else in stock: %q", got)
	}
	// +10 dB is commonly called twice as loud: +6.02 dB 1.52 times
	if got := a.Choices[1].Louder.Value; math.Abs(got-1.5178) > 0.001 {
		t.Errorf("6 dB are %.4f times as loud", got)
	}
}
