package load_test

import (
	"fmt"
	"math"
	"testing"

	"largo/core/gear"
	"largo/core/load"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
)

func first(t *testing.T, r *rigtest.Rig) load.Output {
	t.Helper()
	for _, o := range load.Outputs(rig.NewIndex(r.Rig)) {
		if len(o.Boxes) > 0 {
			return o
		}
	}
	t.Fatal("no output drives anything")
	return load.Output{}
}

func near(t *testing.T, what string, got, want float64) {
	t.Helper()
	if math.IsNaN(got) || math.Abs(got-want) > 1e-3 {
		t.Errorf("%s = %.4f, want %.4f", what, got, want)
	}
}

// The handbook law: parallel 1/Z = Σ 1/Zi, series Z = Σ Zi; n boxes of 8 Ω
// linked through give 8/n.
func TestLinkedThroughIsParallel(t *testing.T) {
	for n, want := range map[int]float64{1: 8, 2: 4, 3: 2.6667, 4: 2} {
		r := rigtest.Driven(t, rigtest.Amp("amp"))
		from := "A1/out A"
		for i := range n {
			tag := fmt.Sprintf("B%d", i+1)
			r.Add(rigtest.Box("box"), tag).Plug(from, tag+"/in")
			from = tag + "/link"
		}
		o := first(t, r)
		near(t, fmt.Sprintf("%d boxes", n), o.Nominal.Value, want)
		// IEC 60268-5: an unknown least is taken as 80 % of nominal (from memory).
		near(t, "least", o.Least().Value, 0.8*want)
		if o.Arrives != "main L" {
			t.Errorf("programme %q, want main L", o.Arrives)
		}
	}
}

func TestSeriesParallel(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1", "B2", "B3", "B4")
	for i, series := range []string{"s1", "s1", "s2", "s2"} {
		r.Do(rig.Connect{Link: rig.Link{From: rigtest.Ref("A1/out A"),
			To: rig.Ref{Device: fmt.Sprintf("B%d", i+1), Port: "in"}, Series: series}})
	}
	o := first(t, r)
	// Two strings of 8 + 8 Ω side by side: 8 Ω, each box at half the volts.
	near(t, "series-parallel", o.Nominal.Value, 8)
	for _, b := range o.Boxes {
		near(t, b.Tag+" share", b.Share, 0.5)
	}
	if o.Nominal.Working() != "Z = 1 / (1/(Z1 + Z2) + 1/(Z3 + Z4)) = 1 / (1/(8 Ω + 8 Ω) + 1/(8 Ω + 8 Ω)) = 8 Ω" {
		t.Error(o.Nominal.Working())
	}
}

func TestUnlikeBoxesInSeries(t *testing.T) {
	four := rigtest.Box("four", func(s *gear.Loudspeaker) { s.Nominal = unit.Of(unit.Ohm(4)) })
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1").Add(four, "B2")
	for _, tag := range []string{"B1", "B2"} {
		r.Do(rig.Connect{Link: rig.Link{From: rigtest.Ref("A1/out A"), To: rig.Ref{Device: tag, Port: "in"}, Series: "s"}})
	}
	o := first(t, r)
	near(t, "8 + 4 ohm", o.Nominal.Value, 12)
	near(t, "8 ohm share of the volts", o.Boxes[0].Share, 2.0/3)
	near(t, "4 ohm share of the volts", o.Boxes[1].Share, 1.0/3)
}

func TestUnknownBoxMakesTheLoadUnknown(t *testing.T) {
	blank := rigtest.Box("blank", func(s *gear.Loudspeaker) { s.Nominal = unit.Given[unit.Ohm]{} })
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1").Add(blank, "B2").Plug("A1/out A",
		"B1/in").Plug("B1/link", "B2/in")
	o := first(t, r)
	if o.Nominal.Known() || o.Least().Known() {
		t.Errorf("an unknown box gave a load of %s", o.Nominal.Text())
	}
	if len(o.Boxes) != 2 {
		t.Errorf("%d boxes, want both", len(o.Boxes))
	}
}

func TestModesDecideWhichOutputsLive(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1").Plug("A1/out A", "B1/in").
		Do(rig.SetPair{Tag: "A1", Pair: 0, Set: rig.Pair{Output: gear.Bridged, Input: rig.ParallelIn}})
	var live, dead []string
	for _, o := range load.Outputs(rig.NewIndex(r.Rig)) {
		if o.Live {
			live = append(live, o.At.Port)
		} else {
			dead = append(dead, o.At.Port)
		}
	}
	if fmt.Sprint(live, dead) != "[out A+B] [out A]" {
		t.Errorf("live %v, dead %v: a bridged pair has one output, and the box hangs beside it", live, dead)
	}
}

func TestParallelInputTakesTheFirst(t *testing.T) {
	r := rigtest.New(t).Add(rigtest.Desk(), "DESK").Add(rigtest.Amp("amp"), "A1").Add(rigtest.Box("box"), "B1").
		Plug("DESK/main R", "A1/in 1").Plug("A1/out B", "B1/in")
	if p := first(t, r).Arrives; p != "" {
		t.Errorf("separate: B hears %q, though nothing enters in 2", p)
	}
	r.Do(rig.SetPair{Tag: "A1", Pair: 0, Set: rig.Pair{Output: gear.Separate, Input: rig.ParallelIn}})
	if p := first(t, r).Arrives; p != "main R" {
		t.Errorf("parallel: B hears %q, want main R", p)
	}
}

// In a string of a box with another linked on from it (8 ∥ 8 = 4 Ω) and one alone
// (8 Ω), the first two get a third of the volts and the last two thirds (voltage
// divider).
func TestAStringOfABoxWithAnotherLinkedOn(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1", "B2", "B3")
	for _, tag := range []string{"B1", "B3"} {
		r.Do(rig.Connect{Link: rig.Link{From: rigtest.Ref("A1/out A"), To: rig.Ref{Device: tag, Port: "in"}, Series: "s"}})
	}
	o := first(t, r.Plug("B1/link", "B2/in"))
	near(t, "load", o.Nominal.Value, 12)
	for _, b := range o.Boxes {
		near(t, b.Tag, b.Share, map[string]float64{"B1": 1.0 / 3, "B2": 1.0 / 3, "B3": 2.0 / 3}[b.Tag])
	}
}

// A bridge that no switch turns gives nothing unless its second input gets the signal
// turned (IEC 60268-12 pins, from memory): each way it may be fed wrongly has its own
// word, for each has its own mend.
func TestABridgeThatIsNotTurned(t *testing.T) {
	byHand := rigtest.Amp("amp", func(a *gear.Amplifier) {
		a.Bridging.Switch, a.Bridging.Inverted = gear.No, gear.No
	})
	bridged := func() *rigtest.Rig {
		return rigtest.Driven(t, byHand).Add(rigtest.Box("box"), "B1").Plug("A1/out A+B", "B1/in").
			Do(rig.SetPair{Tag: "A1", Set: rig.Pair{Output: gear.Bridged, Input: rig.SeparateIn}})
	}
	second := rig.Ref{Device: "A1", Port: "in 2"}
	parallel := bridged()
	parallel.Do(rig.SetPair{Tag: "A1", Set: rig.Pair{Output: gear.Bridged, Input: rig.ParallelIn}})
	crossed := bridged()
	crossed.Do(rig.SetSwapped{To: second, Swapped: true})
	for what, c := range map[string]struct {
		rig  *rigtest.Rig
		want string
	}{
		"parallel":        {parallel, "its inputs are parallel, so both sides get the same signal"},
		"second unfed":    {bridged().Do(rig.Disconnect{To: second}), "nothing feeds A1 in 2"},
		"fed straight":    {bridged(), "both inputs get the signal the same way round"},
		"by crossed lead": {crossed, ""},
	} {
		if got := first(t, c.rig).Dead; got != c.want {
			t.Errorf("%s: %q, want %q", what, got, c.want)
		}
	}
}
