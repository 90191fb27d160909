package wire_test

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"largo/core/drive"
	"largo/core/finding"
	"largo/core/gear"
	"largo/core/load"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/unit"
	"largo/core/wire"
)

func judge(r rig.Rig) ([]wire.Lead, []finding.Finding) {
	x := rig.NewIndex(r)
	return wire.Judge(x, drive.Outputs(x, load.Outputs(x)))
}

func active() gear.Model {
	return gear.Model{ID: "active", Kind: gear.KindLoudspeaker, Maker: "Test", Name: "active",
		Loudspeaker: &gear.Loudspeaker{Active: true, Link: true}}
}

func mic() gear.Model {
	return gear.Model{ID: "mic", Kind: gear.KindSource, Maker: "Test", Name: "mic",
		Feed: &gear.Source{Outputs: []gear.Outlet{{Name: "out", Signal: gear.Mic}}}}
}

func poweredMixer() gear.Model {
	return gear.Model{ID: "pm", Kind: gear.KindMixer, Maker: "Test", Name: "pm",
		Mixer: &gear.Mixer{Inputs: 4,
			Outputs: []gear.Outlet{{Name: "main", Signal: gear.Line}, {Name: "speaker A", Signal: gear.Speaker}}}}
}

func TestLevelAgainstLevel(t *testing.T) {
	base := func() *rigtest.Rig { return rigtest.Driven(t, rigtest.Amp("amp")) }
	box := rigtest.Box("box")
	for _, c := range []struct {
		what    string
		rig     *rigtest.Rig
		code    string
		gravity finding.Gravity
	}{
		{"speaker output into an active box", base().Add(active(), "P").Plug("A1/out A", "P/in"), "wire.speaker-into-line",
			finding.Stop},
		{"link-through into an active box",
			base().Add(box, "B1").Add(active(), "P").Plug("A1/out A", "B1/in").Plug("B1/link", "P/in"),
			"wire.speaker-into-line", finding.Stop},
		{"speaker output into a desk", base().Plug("A1/out A", "DESK/in 5"), "wire.speaker-into-line", finding.Stop},
		{"line into a passive box", base().Add(rigtest.Player(), "P2").Add(box, "B1").Plug("P2/out", "B1/in"),
			"wire.line-into-passive", finding.Mend},
		{"microphone into an amplifier", rigtest.New(t).Add(mic(), "M").Add(rigtest.Amp("amp"), "A1").Plug("M/out",
			"A1/in 1"), "wire.mic-into-line", finding.Mend},
		{"a powered mixer, whose amplifier nobody has entered",
			base().Add(poweredMixer(), "PM").Add(box, "B1").Plug("PM/speaker A", "B1/in"), "wire.amplifier-inside",
			finding.Mend},
		{"a box that nothing feeds", base().Add(box, "B1"), "wire.box-unfed", finding.Mend},
		{"an output without a programme", rigtest.New(t).Add(rigtest.Amp("amp"), "A1").Add(box, "B1").Plug("A1/out A",
			"B1/in"), "wire.output-unfed", finding.Mend},
		{"a chain of active boxes that nothing feeds", base().Add(active(), "P1", "P2").Plug("P1/link", "P2/in"),
			"wire.chain-unfed", finding.Mend},
	} {
		_, fs := judge(c.rig.Rig)
		i := slices.IndexFunc(fs, func(f finding.Finding) bool { return f.Code == c.code })
		if i < 0 || fs[i].Gravity != c.gravity {
			t.Errorf("%s: %+v, want %s", c.what, fs, c.code)
		}
	}
	sound := base().Add(box, "B1", "B2").Plug("A1/out B", "B2/in").Add(active(), "P1", "P2").Add(rigtest.Player(),
		"P3").Add(mic(), "M").
		Plug("A1/out A", "B1/in").Plug("P3/out", "P1/in").Plug("P1/link", "P2/in").Plug("M/out", "DESK/in 3")
	if _, fs := judge(sound.Rig); len(fs) > 0 {
		t.Errorf("a sound rig is complained of: %+v", fs)
	}
}

func TestLeadLoss(t *testing.T) {
	lead := func(boxes int) wire.Lead {
		r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1")
		r.Do(rig.Connect{Link: rig.Link{From: rigtest.Ref("A1/out A"), To: rigtest.Ref("B1/in"),
			Length: unit.Of(unit.Metre(20)), Area: unit.Of(unit.SquareMillimetre(2.5))}})
		for i, tag := range []string{"B2", "B3", "B4"}[:boxes-1] {
			r.Add(rigtest.Box("box"), tag).Plug([]string{"B1", "B2", "B3"}[i]+"/link", tag+"/in")
		}
		leads, _ := judge(r.Rig)
		return leads[0]
	}
	// 2.5 mm², 20 m, copper of IEC 60028 at 20 °C: loop 0.27586 Ω; into 8 Ω
	// −0.2945 dB, into 2 Ω −1.1223 dB (voltage divider).
	for boxes, loss := range map[int]float64{1: 0.2945, 4: 1.1223} {
		l := lead(boxes)
		if math.Abs(l.Resistance.Value-0.27586) > 1e-5 || math.Abs(l.Loss.Value-loss) > 1e-4 {
			t.Errorf("%d boxes: %.5f Ω, %.4f dB, want 0.27586 Ω, %.4f dB", boxes, l.Resistance.Value, l.Loss.Value, loss)
		}
	}
}

func TestLineTest(t *testing.T) {
	// An 8 Ω box shows 5 to 7 Ω DC, n in parallel the nth part; one of n
	// missing reads n/(n−1) times as much (common practice, no source).
	for _, c := range []struct {
		boxes int
		read  unit.DC
		says  string
		wrong bool
	}{
		{1, 5.8, "as it should be", false}, {1, 6.9, "as it should be", false}, {1, 0.3, "near a short", true},
		{1, 3.1, "one more hangs", true},
		{1, 9000, "open", true}, {2, unit.Open, "open: nothing is connected", true}, {1, 12, "bad contact", true},
		{2, 2.9, "as it should be", false}, {2, 5.8, "reads like 1 of the 2", true},
		{3, 2.9, "reads like 2 of the 3", true}, {4, 1.5, "as it should be", false}, {4, 3, "reads like 2 of the 4", true},
	} {
		r := rigtest.Driven(t, rigtest.Amp("amp"))
		from := "A1/out A"
		for _, tag := range []string{"B1", "B2", "B3", "B4"}[:c.boxes] {
			r.Add(rigtest.Box("box"), tag).Plug(from, tag+"/in")
			from = tag + "/link"
		}
		r.Do(rig.RecordReading{At: rigtest.Ref("A1/out A"), DC: unit.Of(c.read)})
		x := rig.NewIndex(r.Rig)
		tests, fs := lineTests(x, load.Outputs(x))
		got := tests[0]
		if !strings.Contains(got.Says, c.says) || got.Wrong != c.wrong || len(fs) > 0 != c.wrong {
			t.Errorf("%d boxes read %v: %q, wrong %v; want %q, %v", c.boxes, c.read, got.Says, got.Wrong, c.says, c.wrong)
		}
		if want := 5.0 / float64(c.boxes); math.Abs(got.Low().Value-want) > 1e-9 {
			t.Errorf("%d boxes: at least %.3f Ω, want %.3f Ω", c.boxes, got.Low().Value, want)
		}
	}
}

func TestListsThatFollow(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1", "B2", "B3")
	for i, tag := range []string{"B1", "B2"} {
		r.Do(rig.Connect{Link: rig.Link{From: rig.Ref{Device: "A1", Port: gear.ChannelPort(i)},
			To:     rig.Ref{Device: tag, Port: "in"},
			Length: unit.From(unit.Metre(10), "label"), Area: unit.Of(unit.SquareMillimetre(2.5))}})
	}
	r.Plug("B1/link", "B3/in")
	x := rig.NewIndex(r.Rig)
	var got []string
	sum := 0
	for _, c := range wire.Cables(x) {
		got = append(got, fmt.Sprintf("%d %s %s %s", c.Count, c.Carries, c.Length, c.Area))
		sum += c.Count
	}
	if want := "3 line unknown unknown; 2 speaker 10 m 2.5 mm²; 1 speaker unknown unknown"; strings.Join(got,
		"; ") != want {
		t.Errorf("%s, want %s", strings.Join(got, "; "), want)
	}
	patch := wire.PatchList(x)
	if sum != len(r.Links) || len(patch) != len(r.Links) {
		t.Errorf("%d cables and %d patches for %d leads", sum, len(patch), len(r.Links))
	}
	if patch[0].To.Device != "B1" || patch[len(patch)-1].From.Device != "PLAYER" {
		t.Errorf("from %v back to %v: not against the signal flow", patch[0], patch[len(patch)-1])
	}
}

func TestPolarityOfAPair(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "TOP L", "TOP R", "TOP R2").
		Plug("A1/out A", "TOP L/in").Plug("A1/out B", "TOP R/in").Plug("TOP R/link", "TOP R2/in")
	count := func() (n int, f finding.Finding) {
		_, fs := judge(r.Rig)
		for _, x := range fs {
			if x.Code == "wire.polarity" {
				n, f = n+1, x
			}
		}
		return n, f
	}
	if n, _ := count(); n != 0 {
		t.Error("straight leads are complained of")
	}
	r.Do(rig.SetSwapped{To: rigtest.Ref("TOP L/in"), Swapped: true})
	n, f := count()
	if n != 1 || f.At.Device != "TOP L" || len(f.Mends) != 1 {
		t.Fatalf("one swapped lead: %d findings, %+v", n, f)
	}
	// Twice swapped is straight again: at the amplifier's input and at the box.
	r.Do(rig.SetSwapped{To: rigtest.Ref("A1/in 1"), Swapped: true})
	if n, _ := count(); n != 0 {
		t.Error("a lead swapped twice over is complained of")
	}
	// Swapped before the link-through, both boxes behind it are turned.
	r.Do(rig.SetSwapped{To: rigtest.Ref("TOP R/in"), Swapped: true})
	if n, f := count(); n != 1 || f.At.Device != "TOP L" || f.Advice == "" && len(f.Mends) == 0 {
		t.Errorf("%d findings at %s: TOP L is the one against two", n, f.At.Device)
	}
}
