package typed_test

import (
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/survey"
	"largo/core/typed"
)

func none(string) (gear.Model, bool) { return gear.Model{}, false }

const rigLines = `RADIO: receiver
DESK: mixer 12 in
A1: 2 x 700 W 4 ohm, 2 x 420 W 8 ohm, 32 dB
TOP 1 to 4: 12 inch 8 ohm 300 W AES 98 dB
FILL: 8 ohm 200 W IEC 95 dB for front rows at 3 m

RADIO > DESK > A1 > TOP 1 to 4`

// A rig said in eight lines is the rig: its devices by what their plates say, each box
// on an output, as many on each, both sides of the desk plugged.
func TestARigAsItIsSaid(t *testing.T) {
	e, made, err := typed.Read(rigtest.New(t).Rig, none, rigLines)
	if err != nil {
		t.Fatal(err)
	}
	r, err := rig.Apply(rigtest.New(t).Rig, e)
	if err != nil {
		t.Fatal(err)
	}
	if len(r.Devices) != 8 || len(made) != 5 || len(r.Links) != 7 {
		t.Errorf("%d devices, %d models of plates, %d links", len(r.Devices), len(made), len(r.Links))
	}
	v := survey.Of[match.Verdict](survey.Survey(r))
	for i, want := range []float64{4, 4} {
		if o := v.Outputs[i]; o.Nominal.Value != want || len(o.Boxes) != 2 || o.Power.Value != 700 {
			t.Errorf("%s drives %s, %d boxes", o.Name(), o.Nominal.Text(), len(o.Boxes))
		}
	}
	fill, _ := r.Device("FILL")
	if fill.Aim() != "front rows" || fill.Distance().Or(0) != 3 {
		t.Errorf("the fill is for %q at %s", fill.Aim(), fill.Distance())
	}
	again, made, err := typed.Read(r, none, "FILL > nothing\nX\nQ: blue\nA1 > RADIO")
	if err == nil || again != nil || made != nil {
		t.Fatal("nonsense was taken")
	}
	for _, want := range []string{"Line 1", "no device", "Line 2", "write a device as", "Line 3", "neither in the library",
		"Line 4", "no output that fits"} {
		if !strings.Contains(err.Error(), want) {
			t.Errorf("%v lacks %q", err, want)
		}
	}
}

// What the library means goes before a plate, and two amplifiers share the boxes.
func TestLibraryGoesFirst(t *testing.T) {
	library := func(text string) (gear.Model, bool) {
		switch text {
		case "our amp":
			return rigtest.Amp("amp"), true
		case "our box":
			return rigtest.Box("box"), true
		}
		return gear.Model{}, false
	}
	e, made, err := typed.Read(rigtest.New(t).Rig, library, "A1, A2: our amp\nB 1 to 6: our box\nA1, A2 > B 1 to 6")
	if err != nil || len(made) != 0 {
		t.Fatalf("%v, %d made", err, len(made))
	}
	r, err := rig.Apply(rigtest.New(t).Rig, e)
	if err != nil {
		t.Fatal(err)
	}
	on := map[string]int{}
	for _, o := range survey.Of[match.Verdict](survey.Survey(r)).Outputs {
		on[o.Name()] = len(o.Boxes)
	}
	if on["A1 out A"] != 2 || on["A1 out B"] != 2 || on["A2 out A"] != 2 {
		t.Errorf("six boxes on four outputs: %v", on)
	}
}
