// Package rigtest builds small rigs for the tests of the stages.
package rigtest

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
)

// Box is a passive 8 Ω box, 350 W by IEC 60268-5, 97 dB for 1 W at 1 m.
func Box(id string, change ...func(*gear.Loudspeaker)) gear.Model {
	s := &gear.Loudspeaker{Link: true,
		Drive: gear.Drive{Nominal: unit.Of(unit.Ohm(8)), Continuous: unit.Of(unit.Watt(350)), Standard: gear.IEC,
			Sensitivity: unit.Of(unit.Decibel(97)), SensitivityRef: gear.OneWatt}}
	for _, c := range change {
		c(s)
	}
	return gear.Model{ID: id, Kind: gear.KindLoudspeaker, Maker: "Test", Name: id, Loudspeaker: s}
}

// Biamped is a box with two ways on a 4-pole twist-lock, low on poles 1± and
// high on poles 2±.
func Biamped(change ...func(*gear.Loudspeaker)) gear.Model {
	low := gear.Drive{Nominal: unit.Of(unit.Ohm(8)), Continuous: unit.Of(unit.Watt(400)),
		Sensitivity: unit.Of(unit.Decibel(98)), SensitivityRef: gear.OneWatt}
	high := gear.Drive{Nominal: unit.Of(unit.Ohm(16)), Continuous: unit.Of(unit.Watt(60)),
		Sensitivity: unit.Of(unit.Decibel(108)), SensitivityRef: gear.OneWatt, Blocked: gear.Yes}
	return Box("biamped", append([]func(*gear.Loudspeaker){func(s *gear.Loudspeaker) {
		s.Ways, s.Sockets = []gear.Way{{Name: "low", Drive: low}, {Name: "high", Drive: high}},
			gear.Sockets{In: gear.TwistLock4, Out: gear.TwistLock4}
	}}, change...)...)
}

// Amp is a two-channel amplifier that holds its voltage: 350 W into 8 Ω, 700 W
// into 4 Ω, 32 dB of gain, rated bridged.
func Amp(id string, change ...func(*gear.Amplifier)) gear.Model {
	a := &gear.Amplifier{Channels: 2, Gain: unit.Of(unit.Decibel(32)),
		Ratings: []gear.Rating{{Mode: gear.Separate, Load: 8, Power: 350}, {Mode: gear.Separate, Load: 4, Power: 700},
			{Mode: gear.Bridged, Load: 8, Power: 1400}},
		Bridging: gear.Bridging{Switch: gear.Yes, Manual: gear.ManualAllows, Common: gear.Yes}}
	for _, c := range change {
		c(a)
	}
	return gear.Model{ID: id, Kind: gear.KindAmplifier, Maker: "Test", Name: id, Amplifier: a}
}

// Desk is a digital mixer that takes 90 s to settle.
func Desk() gear.Model {
	return gear.Model{ID: "desk", Kind: gear.KindMixer, Maker: "Test", Name: "desk",
		Wake: gear.Wake{Settle: unit.Of(unit.Second(90))},
		Mixer: &gear.Mixer{Inputs: 8,
			Outputs: []gear.Outlet{{Name: "main L", Signal: gear.Line}, {Name: "main R", Signal: gear.Line}}}}
}

// Player is a source with a switch of its own.
func Player() gear.Model {
	return gear.Model{ID: "player", Kind: gear.KindSource, Maker: "Test", Name: "player",
		Wake: gear.Wake{Settle: unit.Of(unit.Second(20))},
		Feed: &gear.Source{Powered: true, Outputs: []gear.Outlet{{Name: "out", Signal: gear.Line}}}}
}

// Rig is a rig under construction.
type Rig struct {
	t testing.TB
	rig.Rig
}

// New begins a rig with its brief: 100 listeners, 95 dB at 10 m.
func New(t testing.TB) *Rig {
	return &Rig{t, rig.NewRig(rig.Brief{Title: "Test", Listeners: 100, Wanted: unit.Of(unit.Decibel(95)),
		Distance: unit.Of(unit.Metre(10)), Region: rig.Region230})}
}

// Do applies an edit that must succeed.
func (r *Rig) Do(e rig.Edit) *Rig {
	r.t.Helper()
	next, err := rig.Apply(r.Rig, e)
	if err != nil {
		r.t.Fatalf("%s: %v", e.Say(), err)
	}
	r.Rig = next
	return r
}

// Add brings in devices of a model.
func (r *Rig) Add(m gear.Model, tags ...string) *Rig {
	r.t.Helper()
	return r.Do(rig.AddDevices{Model: m, Tags: tags})
}

// Plug links ports written as "A1/out A" to "B1/in".
func (r *Rig) Plug(from, to string) *Rig {
	r.t.Helper()
	return r.Do(rig.Connect{Link: rig.Link{From: Ref(from), To: Ref(to)}})
}

// Ref reads a port written as "A1/out A".
func Ref(s string) rig.Ref {
	device, port, _ := strings.Cut(s, "/")
	return rig.Ref{Device: device, Port: port}
}

// Driven is a rig with player, desk and amplifier A1 driven on both channels,
// its outputs still free.
func Driven(t testing.TB, amp gear.Model) *Rig {
	return New(t).Add(Player(), "PLAYER").Add(Desk(), "DESK").Add(amp, "A1").
		Plug("PLAYER/out", "DESK/in 1").Plug("DESK/main L", "A1/in 1").Plug("DESK/main R", "A1/in 2")
}

// Crossover divides the bands of its inputs.
func Crossover() gear.Model {
	return gear.Model{ID: "crossover", Kind: gear.KindProcessor, Maker: "Test", Name: "crossover",
		Wake:      gear.Wake{Settle: unit.Of(unit.Second(20))},
		Processor: &gear.Processor{Inputs: 2, Outputs: []string{"low", "high"}}}
}

// Divided is a rig whose amplifier A1 gets the lows on its first channel and the
// highs on its second, its outputs still free.
func Divided(t testing.TB, amp gear.Model) *Rig {
	return New(t).Add(Player(), "PLAYER").Add(Desk(), "DESK").Add(Crossover(), "X").Add(amp, "A1").
		Plug("PLAYER/out", "DESK/in 1").Plug("DESK/main L", "X/in 1").Plug("DESK/main R", "X/in 2").Plug("X/low",
		"A1/in 1").Plug("X/high", "A1/in 2")
}

// Near tells a test of a figure that lies further from what is wanted than the
// tolerance, or is no number.
func Near(t testing.TB, what string, got, want, tolerance float64) {
	t.Helper()
	if math.IsNaN(got) || math.Abs(got-want) > tolerance {
		t.Errorf("%s = %.4f, want %.4f", what, got, want)
	}
}

// Hung is an amplifier with n boxes side by side on its first output, B1 to Bn.
func Hung(t testing.TB, amp, box gear.Model, n int) *Rig {
	r := Driven(t, amp)
	from := "A1/out A"
	for i := range n {
		tag := fmt.Sprintf("B%d", i+1)
		r.Add(box, tag).Plug(from, tag+"/in")
		from = tag + "/link"
	}
	return r
}

// Large is a rig of 200 devices: a player, a desk, 48 amplifiers and 150 boxes.
func Large(t testing.TB) rig.Rig {
	t.Helper()
	r := New(t)
	r.Brief.Title = "Two hundred"
	r.Add(Player(), "PLAYER").Add(Desk(), "DESK").Plug("PLAYER/out", "DESK/in 1")
	var amps, boxes []string
	for i := range 48 {
		amps = append(amps, fmt.Sprintf("A%d", i+1))
	}
	for i := range 150 {
		boxes = append(boxes, fmt.Sprintf("B%d", i+1))
	}
	r.Add(Amp("amp"), amps...).Add(Box("box"), boxes...)
	var outs []rig.Ref
	var leads []rig.Edit
	for _, a := range amps {
		for ch := range 2 {
			outs = append(outs, rig.Ref{Device: a, Port: gear.ChannelPort(ch)})
			leads = append(leads, rig.Connect{Link: rig.Link{From: Ref("DESK/main L"),
				To: rig.Ref{Device: a, Port: gear.InputPort(ch)}}})
		}
	}
	return r.Do(rig.Batch{Saying: "leads", Edits: leads}).Do(rig.Hang{Boxes: boxes, Outputs: outs, Each: 2}).Rig
}
