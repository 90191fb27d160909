package level_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/level"
	"largo/core/load"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/survey"
	"largo/core/unit"
	"largo/core/wire"
)

func judge(r rig.Rig) (level.Verdict, []finding.Finding) {
	x := rig.NewIndex(r)
	return level.Judge(x, drive.Outputs(x, load.Outputs(x)))
}

// sending is a desk whose outputs go up to a level, that drives B1 and B2 from both
// channels of one amplifier.
func sending(t *testing.T, most unit.DBu) *rigtest.Rig {
	desk := rigtest.Desk()
	if !math.IsNaN(float64(most)) {
		desk.Mixer.LargestOut = unit.Of(most)
	}
	return rigtest.New(t).Add(rigtest.Player(), "PLAYER").Add(desk, "DESK").Add(rigtest.Amp("amp"), "A1").
		Add(rigtest.Box("box"), "B1", "B2").Plug("PLAYER/out", "DESK/in 1").Plug("DESK/main L", "A1/in 1").
		Plug("DESK/main R", "A1/in 2").Plug("A1/out A", "B1/in").Plug("A1/out B", "B2/in")
}

func has(fs []finding.Finding, code string) int {
	return slices.IndexFunc(fs, func(f finding.Finding) bool { return f.Code == code })
}

// 350 W into 8 Ω are √2800 = 52.92 V, 36.69 dBu; less 32 dB of gain the amplifier clips
// with +4.69 dBu at its input (0 dBu = √0.6 V). A desk of +22 dBu has 17.31 dB to spare,
// and its knob matches it 17 dB down; one of 0 dBu clips 4.69 dB before.
func TestWhatClipsFirst(t *testing.T) {
	r := sending(t, 22)
	v, fs := judge(r.Rig)
	rigtest.Near(t, "clip at the input", v.Lines[0].ClipIn().Value, 4.69, 0.005)
	rigtest.Near(t, "to spare", v.Lines[0].Spare().Value, 17.31, 0.005)
	i := has(fs, "level.source-hot")
	if i < 0 || fs[i].Gravity != finding.Mind || !strings.Contains(fs[i].What, "With knob A of A1 fully up") {
		t.Fatalf("%+v", fs)
	}
	for has(fs, "level.source-hot") >= 0 {
		r.Do(fs[has(fs, "level.source-hot")].Mends[0].Edit)
		_, fs = judge(r.Rig)
	}
	if d, _ := r.Device("A1"); len(d.Amp.Knobs) != 2 || d.Amp.Knobs[0].Down != 17 {
		t.Errorf("%+v", d.Amp)
	}
	short, fs := judge(sending(t, 0).Rig)
	rigtest.Near(t, "the desk clips first", short.Lines[0].Spare().Value, -4.69, 0.005)
	if i := has(fs, "level.source-short"); i < 0 || len(fs[i].Mends) > 0 || !strings.Contains(fs[i].What,
		"DESK clips 4.7 dB before A1 out A does.") {
		t.Errorf("%+v", fs)
	}
}

// A knob that is down is turned up by as much as is lacking, and no further.
func TestAKnobIsTurnedUp(t *testing.T) {
	r := sending(t, 4).Do(rig.SetKnob{Tag: "A1", Set: rig.Knob{Channel: 0, Down: 12}})
	_, fs := judge(r.Rig)
	i := has(fs, "level.source-short") // +4 − (4.69 + 12) = −12.69 dB
	if i < 0 || len(fs[i].Mends) != 1 {
		t.Fatalf("%+v", fs)
	}
	v, _ := judge(r.Do(fs[i].Mends[0].Edit).Rig)
	rigtest.Near(t, "fully up", v.Lines[0].Spare().Value, -0.69, 0.005)
}

// Boxes of one model for the same listeners are driven alike, to half a decibel; what is
// not on record says nothing.
func TestGainsAreMatched(t *testing.T) {
	knob := func(a, b unit.Decibel) []finding.Finding {
		_, fs := judge(sending(t, 12).Do(rig.SetKnob{Tag: "A1", Set: rig.Knob{Channel: 0, Down: a}}).
			Do(rig.SetKnob{Tag: "A1", Set: rig.Knob{Channel: 1, Down: b}}).Rig)
		return fs
	}
	if fs := knob(3, 3.5); has(fs, "level.unlike") >= 0 {
		t.Errorf("half a decibel: %+v", fs)
	}
	fs := knob(3, 6)
	i := has(fs, "level.unlike")
	if i < 0 || fs[i].At.Port != gear.ChannelPort(0) || !strings.Contains(fs[i].What, "3.0 dB louder") {
		t.Fatalf("%+v", fs)
	}
	if e := fs[i].Mends[0].Edit.(rig.SetKnob); e.Set.Down != 6 {
		t.Errorf("turned to %s", e.Set.Down)
	}
	_, fs = judge(sending(t, 12).Do(rig.SetKnob{Tag: "A1", Set: rig.Knob{Channel: 0, Down: 9}}).Rig)
	if has(fs, "level.unlike") >= 0 {
		t.Error("a knob that nobody noted is taken as fully up")
	}
}

// Nothing is fine of which nothing is known.
func TestUnknownIsNotFine(t *testing.T) {
	report := survey.Survey(sending(t, unit.DBu(math.NaN())).Rig)
	if !report.Empty(finding.Level) || !strings.Contains(report.Says(finding.Level), "Nobody knows what clips first") {
		t.Error(report.Says(finding.Level))
	}
	if said := survey.Survey(sending(t, 12).Rig).Says(finding.Level); !strings.Contains(said, "7.3 dB to spare") {
		t.Error(said)
	}
	stopped := survey.Survey(sending(t, 12).Add(rigtest.Box("box"), "B3", "B4").Plug("B1/link", "B3/in").
		Plug("B3/link", "B4/in").Rig)
	said, worst := stopped.Says(finding.Level), stopped.Worst(finding.Level)
	if strings.Contains(said, "to spare") || worst < finding.Mend {
		t.Errorf("at stop: %q, %s", said, worst)
	}
}

// sung is a microphone into a desk into A1, with all of their figures: 1.8 mV at 94 dB, an
// EIN of −128 dBu, a desk of +22 dBu that hisses −84 dBu.
func sung(t *testing.T) *rigtest.Rig {
	mic := gear.Model{ID: "mic", Maker: "Test", Name: "Stick", Kind: gear.KindMicrophone, Feed: &gear.Source{
		Outputs: []gear.Outlet{{Name: "out", Signal: gear.Mic}}, PerPascal: unit.Of(unit.Volt(0.0018)),
		SelfNoise: unit.Of(unit.Decibel(18)), MaxSPL: unit.Of(unit.Decibel(150))}}
	desk := rigtest.Desk()
	desk.Mixer.LargestOut, desk.Mixer.Noise, desk.Mixer.EIN = unit.Of(unit.DBu(22)), unit.Of(unit.DBu(-84)),
		unit.Of(unit.DBu(-128))
	amp := rigtest.Amp("amp", func(a *gear.Amplifier) { a.NoiseUnder = unit.Of(unit.Decibel(104)) })
	r := rigtest.New(t).Add(mic, "VOX", "VOX2").Add(desk, "DESK").Add(amp, "A1").Add(rigtest.Box("box"), "B1").
		Plug("VOX/out", "DESK/in 1").Plug("VOX2/out", "DESK/in 2").Plug("DESK/main L", "A1/in 1").Plug("A1/out A", "B1/in")
	brief := r.Brief
	brief.Distance = unit.Of(unit.Metre(10))
	return r.Do(rig.SetBrief{Brief: brief})
}

func chain(r rig.Rig, set level.Controls) level.Chain {
	x := rig.NewIndex(r)
	outs := drive.Outputs(x, load.Outputs(x))
	for i := range outs {
		if len(outs[i].Boxes) > 0 {
			return level.OfOutput(x, &outs[i], "", set)
		}
	}
	return level.Chain{}
}

func given[T unit.Quantity](g unit.Given[T]) float64 { return float64(g.Or(T(math.NaN()))) }

// The sums of the line, by their definitions: 128 dB at 1.8 mV/Pa are 1.8 mV × 10^(34/20) =
// 90.21 mV, −18.68 dBu; +38 dB of gain make +19.32, a fader at −6 dB +13.32, 32 dB of
// amplifier 45.32 dBu, 8.63 dB over its clip at 36.69 (52.92 V). What stops first lets
// 36.69 dBu through: 97 dB + 10 lg(52.92²/8) − 20 lg 10 at 10 m.
func TestTheLevelLine(t *testing.T) {
	r := sung(t).Do(rig.SetPort{Tag: "VOX", Set: rig.PortSetting{Port: "out", Peak: unit.Of(unit.Decibel(128))}}).
		Do(rig.SetPort{Tag: "DESK", Set: rig.PortSetting{Port: "in 1", Gain: unit.Of(unit.Decibel(38))}}).
		Do(rig.SetPort{Tag: "DESK", Set: rig.PortSetting{Port: "main L", Gain: unit.Of(unit.Decibel(-6))}})
	c := chain(r.Rig, nil)
	if len(c.Steps) != 5 || c.AtBest || c.Open != 2 {
		t.Fatalf("%d steps, %d open: %+v", len(c.Steps), c.Open, c.Steps)
	}
	for i, want := range []float64{-18.68, 19.32, 13.32, 45.32} {
		rigtest.Near(t, c.Steps[i].Says(), given(c.Steps[i].Signal), want, 0.01)
	}
	rigtest.Near(t, "over the amplifier's clip", given(c.Steps[3].Headroom()), -8.63, 0.01)
	// 350 W into 8 Ω with peaks of 6 dB: a sine of 36.69 + 6 − 3.01 dBu
	rigtest.Near(t, "what the box stands", given(c.Steps[4].Clip), 39.68, 0.01)
	rigtest.Near(t, "to spare at the microphone", given(c.Steps[0].Headroom()), 22, 1e-9)
	if c.Stops[0].Step != 3 {
		t.Errorf("%+v stops first", c.Stops[0])
	}
	rigtest.Near(t, "it gives", float64(c.Stops[0].Gives), 97+10*math.Log10(350)-20, 0.01)
	// the meter, with A1 at its clip: 36.69 − 32 = +4.69 dBu, 17.31 under the desk's own
	at, under, says, known := c.Reference()
	if !known || says != "A1 out A" {
		t.Errorf("%q, %t", says, known)
	}
	rigtest.Near(t, "the meter", float64(at), 4.69, 0.01)
	rigtest.Near(t, "under its clip", float64(under), -17.31, 0.01)
	// noise: 18 dB(A) in 1.8 mV/Pa is −128.68 dBu; with the EIN −125.32; two open 3.01 more;
	// + 38 = −84.31; − 6 = −90.31, with the desk's −84: −83.08; + 32 = −51.08, with the
	// amplifier's 36.69 − 104 = −67.31: −50.98
	rigtest.Near(t, "noise at the box", given(c.Steps[3].Noise), -50.98, 0.02)
	knob, gain := level.Control{Ref: rigtest.Ref("A1/in 1")}, level.Control{Ref: rigtest.Ref("DESK/in 1")}
	tried := chain(r.Rig, level.Controls{knob: -10, gain: 28})
	rigtest.Near(t, "10 dB off the knob and the gain", given(tried.Steps[3].Signal), 25.32, 0.01)
}

// Without a peak on record the line is drawn as loud as it goes: the least headroom is 0.
// What is not known is told, and no more is promised than what is.
func TestAsLoudAsItGoes(t *testing.T) {
	c := chain(sung(t).Rig, nil)
	least := math.Inf(1)
	for _, s := range c.Steps {
		least = min(least, given(s.Headroom()))
	}
	if !c.AtBest || math.Abs(least) > 1e-9 {
		t.Errorf("least headroom %g", least)
	}
	bare := chain(sending(t, unit.DBu(math.NaN())).Rig, nil)
	if lacks := bare.Lacking(); !strings.Contains(lacks, "its largest level (DESK)") || !strings.Contains(lacks,
		"its noise (A1)") || bare.Hiss.Known() {
		t.Errorf("%q", lacks)
	}
}

// A voice asks for a low cut at 120 Hz; keys for none; each mend mends.
func TestLowCuts(t *testing.T) {
	channel := func(kind rig.SourceKind, cut unit.Given[unit.Hertz]) *rigtest.Rig {
		return sung(t).Do(rig.SetPort{Tag: "DESK", Set: rig.PortSetting{Port: "in 1", Kind: kind, LowCut: cut}})
	}
	for kind, cut := range map[rig.SourceKind]unit.Given[unit.Hertz]{rig.Voice: {}, rig.Keys: unit.Of(unit.Hertz(100)),
		rig.Bass: unit.Of(unit.Hertz(120)), rig.LowVoice: unit.Of(unit.Hertz(20))} {
		r := channel(kind, cut)
		_, fs := judge(r.Rig)
		i := has(fs, "level.low-cut")
		if i < 0 {
			t.Errorf("%s with %s says nothing", kind, cut)
			continue
		}
		if _, fs = judge(r.Do(fs[i].Mends[0].Edit).Rig); has(fs, "level.low-cut") >= 0 {
			t.Errorf("%s: the mend does not mend", kind)
		}
	}
	if _, fs := judge(channel(rig.Voice, unit.Of(unit.Hertz(100))).Rig); has(fs, "level.low-cut") >= 0 {
		t.Error("100 Hz is near enough for a voice")
	}
	if _, fs := judge(sung(t).Rig); has(fs, "level.low-cut") >= 0 {
		t.Error("a channel of no kind is judged")
	}
}

// A desk of +22 dBu before an active box that clips at +4: 18 dB more than it takes.
func TestActiveBoxesAreTrimmed(t *testing.T) {
	desk := rigtest.Desk()
	desk.Mixer.LargestOut = unit.Of(unit.DBu(22))
	active := rigtest.Box("active", func(s *gear.Loudspeaker) {
		s.Active, s.InputClip, s.MaxSPL = true, unit.Of(unit.DBu(4)), unit.Of(unit.Decibel(126))
	})
	r := rigtest.New(t).Add(desk, "DESK").Add(active, "H1").Plug("DESK/main L", "H1/in")
	v, fs := judge(r.Rig)
	i := has(fs, "level.trim")
	if i < 0 || !strings.Contains(fs[i].What, "DESK could send 18.0 dB more than H1 takes") {
		t.Fatalf("%+v %+v", v.Active, fs)
	}
	mends := fs[i].Mends
	v, fs = judge(r.Do(mends[0].Edit).Rig)
	if has(fs, "level.trim") >= 0 || given(v.Active[0].Over) != 0 {
		t.Errorf("%+v", v.Active)
	}
	if says := survey.Survey(r.Rig).Says(finding.Level); !strings.Contains(says, "0.0 dB to spare") {
		t.Error(says)
	}
	padded := r.Do(rig.SetPort{Tag: "H1",
		Set: rig.PortSetting{Port: "in"}}).Do(mends[1].Edit) // 18 dB too much: a pad of 15 leaves 3
	if v, fs = judge(padded.Rig); has(fs, "level.trim") >= 0 || math.Abs(given(v.Active[0].Over)-3) > 1e-9 {
		t.Errorf("%+v", v.Active)
	}
}

// Passive tops beside an active sub: gain from the desk on, to the listeners at 10 m. Of one
// box 32 + 97 + 10 lg(0.6 V² / 8 Ω / 1 W) − 20 = 97.75 dB for 0 dBu, of two 3.01 more; of the
// sub, whose largest level comes with +4 dBu, 126 − 3.01 − 4 − 20 = 98.99. Sound takes
// 10 m / 343.2 m/s = 29.14 ms (REFERENCE.md, Place), and the sub 3 ms more.
func TestBesideEachOther(t *testing.T) {
	active := rigtest.Box("active", func(s *gear.Loudspeaker) {
		s.Active, s.Sub, s.InputClip, s.MaxSPL = true, true, unit.Of(unit.DBu(4)), unit.Of(unit.Decibel(126))
		s.Latency = unit.Of(unit.Second(0.003))
	})
	r := sung(t).Add(active, "S1").Add(rigtest.Box("box"), "B2").Plug("DESK/main R", "S1/in").Plug("B1/link", "B2/in")
	besides := func() []level.Beside {
		x := rig.NewIndex(r.Rig)
		v, _ := level.Judge(x, drive.Outputs(x, load.Outputs(x)))
		return level.Besides(x, v)
	}
	all := besides()
	if len(all) != 1 || len(all[0].Rows) != 2 || all[0].From != "DESK" {
		t.Fatalf("%+v", all)
	}
	tops, sub := all[0].Rows[0], all[0].Rows[1]
	rigtest.Near(t, "two boxes", given(tops.Gives), 100.76, 0.01)
	rigtest.Near(t, "the sub", given(sub.Gives), 98.99, 0.01)
	rigtest.Near(t, "the boxes over it", given(tops.Over), 1.77, 0.01)
	if tops.Matched() || !sub.Matched() || tops.Boxes != 2 || tops.Swapped || len(tops.Turn) != 1 {
		t.Errorf("%+v", tops)
	}
	rigtest.Near(t, "the knob", float64(tops.Turn[0].Now), -2, 1e-9)
	rigtest.Near(t, "the tops wait", float64(tops.Delay.Or(-1)), 0.003, 1e-9)
	rigtest.Near(t, "at their listeners", float64(tops.Arrives.Or(-1)), 0.02914, 1e-5)
	r.Do(rig.SetKnob{Tag: "A1", Set: rig.Knob{Down: -tops.Turn[0].Now}}).
		Do(rig.SetSwapped{To: rigtest.Ref("S1/in"), Swapped: true})
	if all = besides(); !all[0].Rows[0].Matched() || !all[0].Rows[1].Matched() || !all[0].Rows[1].Swapped {
		t.Errorf("turned down as said: %+v", all[0].Rows)
	}
	// a third box on an output of its own: 4.77 dB over one, less the knob of the first two
	r.Add(rigtest.Box("box"), "B3").Plug("DESK/main L", "A1/in 2").Plug("A1/out B", "B3/in")
	rigtest.Near(t, "on two outputs, as powers", given(besides()[0].Rows[0].Gives),
		97.75+10*math.Log10(1+2*math.Pow(10, -0.2)), 0.01)
	none := r.Brief
	none.Distance = unit.Given[unit.Metre]{}
	r.Do(rig.SetBrief{Brief: none})
	if k := besides()[0].Rows[0]; k.Gives.Known() || k.Arrives.Known() || k.Delay.Known() || k.Lacks == "" ||
		k.Late == "" {
		t.Errorf("without a distance: %+v", k)
	}
}

// A pad of 20 dB before an amplifier takes 20 dB from what arrives, and from what the desk
// can make of it, on the line, in Level and in what Protect says of a limiter before it; one
// in a speaker lead would burn, and is refused.
func TestPads(t *testing.T) {
	r := sung(t)
	in, plain := rigtest.Ref("A1/in 1"), r.Rig
	padded := r.Do(rig.SetPad{To: in, Pad: unit.Of(unit.Decibel(20))})
	before, _ := judge(plain)
	after, _ := judge(padded.Rig)
	rigtest.Near(t, "sent, less", float64(before.Lines[0].Over-after.Lines[0].Over), 20, 1e-9)
	rigtest.Near(t, "as its working has it", float64(after.Lines[0].Spare().Value), float64(after.Lines[0].Over), 1e-9)
	c, turned := chain(padded.Rig, nil), chain(plain, level.Controls{level.Control{Ref: in, Pad: true}: 20})
	if says := wire.Pads(padded.Rig); says != "1 of 20.0 dB" {
		t.Errorf("to pack: %q", says)
	}
	at, _, _, _ := c.Reference()
	rigtest.Near(t, "the meter at the amplifier's clip", float64(at), 24.69, 0.01) // 4.69 without it
	if moved, _, _, _ := turned.Reference(); moved != at {
		t.Errorf("turned to 20 dB the meter shows %s, on record %s", moved, at)
	}
	for to, pad := range map[string]unit.Decibel{"B1/in": 20, "A1/in 1": 0, "DESK/in 1": 300} {
		if _, err := rig.Apply(r.Rig, rig.SetPad{To: rigtest.Ref(to), Pad: unit.Of(pad)}); err == nil {
			t.Errorf("a pad of %s before %s", pad, to)
		}
	}
}

// Hiss is found where the room's noise is known: fully up, two microphones open.
func TestHiss(t *testing.T) {
	r := sung(t).Do(rig.SetPort{Tag: "DESK", Set: rig.PortSetting{Port: "in 1", Gain: unit.Of(unit.Decibel(50))}})
	if _, fs := judge(r.Rig); has(fs, "level.hiss") >= 0 {
		t.Error("a room of which nothing is known")
	}
	quiet := r.Brief
	quiet.Noise = unit.Of(unit.Decibel(30))
	if _, fs := judge(r.Do(rig.SetBrief{Brief: quiet}).Rig); has(fs, "level.hiss") < 0 {
		t.Errorf("%v dB of hiss", chain(r.Rig, nil).Hiss)
	}
}

func TestAKnobAsAClock(t *testing.T) {
	for down, want := range map[unit.Decibel]string{0: "5:00", 40: "7:00", 20: "12:00", 10: "2:30"} {
		if got := level.Clock(down); got != want {
			t.Errorf("%s down is %s, want %s", down, got, want)
		}
	}
}

func BenchmarkLevelLines(b *testing.B) {
	r := sung(&testing.T{}).Rig
	x := rig.NewIndex(r)
	outs := drive.Outputs(x, load.Outputs(x))
	for b.Loop() {
		for range 40 { // about as many outputs as 200 devices have
			level.OfOutput(x, &outs[0], "", nil)
		}
	}
}

// Every answer that tells ends the questions at the stage it points to; the others ask on.
func TestDistortionIsLocated(t *testing.T) {
	for _, c := range []struct {
		a     level.Answers
		stage string
		next  int
	}{
		{level.Answers{}, "", 0}, {level.Answers{Channel: level.Yes}, "source", -1}, {level.Answers{Channel: level.No}, "",
			1},
		{level.Answers{Channel: level.No, Mix: level.Yes}, "desk", -1},
		{level.Answers{Channel: level.No, Mix: level.No}, "", 2},
		{level.Answers{Channel: level.No, Mix: level.No, Knob: level.Yes}, "processor", -1},
		{level.Answers{Channel: level.No, Mix: level.No, Knob: level.No}, "", 3},
		{level.Answers{Channel: level.No, Mix: level.No, Knob: level.No, Volts: level.Yes}, "amplifier", -1},
		{level.Answers{Channel: level.No, Mix: level.No, Knob: level.No, Volts: level.No}, "loudspeaker", -1},
	} {
		if l, next := level.Locate(c.a); l.Stage != c.stage || next != c.next || (l.Stage != "" && l.Proof == "") {
			t.Errorf("%+v: %q, %d", c.a, l.Stage, next)
		}
	}
}
