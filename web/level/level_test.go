package level_test

import (
	"bytes"
	"net/url"
	"strings"
	"testing"

	"largo/core/rig"
	"largo/exchange"
	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// A level control that is recorded moves what clips the amplifier, and bad ones are
// refused where they were typed.
func TestAKnobIsRecordedAtLevel(t *testing.T) {
	s := webtest.Open(t)
	const at = webtest.Boathouse + "/level"
	_, before := s.Get(at)
	knob := func(down string) url.Values {
		return url.Values{"tag": {"A1"}, "port": {"out A"}, "channel": {"0"}, "down": {down}}
	}
	status, after := s.Post(at+"/knob", knob("12 dB"))
	if status != 200 || !strings.Contains(before, "1.4 dBu") || !strings.Contains(after, "13.4 dBu") {
		t.Errorf("%d: 12 dB down the amplifier clips 12 dB later", status)
	}
	s.Refuses([]webtest.Refusal{
		webtest.Refused("200 dB down", at+"/knob", knob("200 dB"), "down", "0 to 100 dB below fully up"),
		webtest.Refused("no figure", at+"/knob", knob("half"), "down", ""),
	})
}

// The level line is drawn from source to listeners; a control that is turned moves it, and
// is kept when it is recorded; a peak and a low cut are kept, and what cannot be is refused.
func TestTheLevelLine(t *testing.T) {
	s := webtest.Open(t)
	const job = "/jobs/wherry-lock-boathouse"
	_, page := s.Get(job + "/level")
	for _, want := range []string{"The limiter of A1 out A stops you first, at 101.3 dB", `<svg class="line"`,
		"its sensitivity (RADIO)", "the empty room has 34.0 dB"} {
		if !strings.Contains(page, want) {
			t.Errorf("lacks %q", want)
		}
	}
	turned := url.Values{"of": {"A1\tout A"}, "set DESK\tmain L": {"-10"}, "set A1\tin 1": {"-12"}}
	if _, page = s.Get(job + "/level?" + turned.Encode()); !strings.Contains(page, "Record the controls") ||
		!strings.Contains(page, "−12.0 dB, 2:00 o&#39;clock") {
		t.Error("what is tried is not shown")
	}
	turned.Del("of")
	if status, page := s.Post(job+"/level/controls", turned); status != 200 {
		t.Errorf("%d: %s", status, webtest.Heading(page))
	}
	if _, page := s.Get(job + "/level?" + url.Values{"of": {"A1\tout A\tTOP L2"}}.Encode()); !strings.Contains(page,
		"The level line to TOP L2") || !strings.Contains(page, "The leads to TOP L2") {
		t.Error("the second box of an output is not followed")
	}
	r := webtest.MustJob(t, s, "wherry-lock-boathouse").Rig
	desk, _ := r.Device("DESK")
	amp, _ := r.Device("A1")
	if down, _ := amp.Knob(0); down != 12 || desk.PortSetting("main L").Gain.Or(0) != -10 {
		t.Errorf("%v, %+v", down, desk.Ports)
	}
	s.Post(job+"/level/channel", url.Values{"tag": {"DESK"}, "port": {"in 1"}, "kind": {"keys"}, "lowCut": {"100"}})
	if _, page = s.Get(job + "/level"); !strings.Contains(page,
		"DESK in 1 cuts below 100 Hz, which takes away part of its keys") {
		t.Error("keys with a low cut at 100 Hz are not found")
	}
	s.Refuses([]webtest.Refusal{
		webtest.Refused("a gain of 200 dB", job+"/level/controls", url.Values{"set DESK\tin 1": {"200"}}, "", "cannot be"),
		webtest.Refused("a peak at a desk", job+"/level/peak", url.Values{"tag": {"DESK"}, "port": {"in 1"}, "peak": {"120"}},
			"peak", "those of a source"),
		webtest.Refused("a low cut at 9 kHz", job+"/level/channel", url.Values{"tag": {"DESK"}, "port": {"in 1"}, "lowCut": {
			"9 kHz"}}, "lowCut", "cannot be"),
		webtest.Refused("no control", job+"/level/controls", url.Values{}, "", "No control was turned"),
	})
}

// What clipping does, in figures: a sine 10 dB over its clip has 1.7 times the power of one
// at it (closed form 1.728); the questions lead to the stage; a bad figure is the usual one.
func TestWhatClippingDoes(t *testing.T) {
	s := webtest.Open(t)
	const at = "/jobs/saltpan-quay/level/clip?"
	for query, want := range map[string]string{"over=10": "gives 173 % of its rated power",
		"over=x":             "6.0 dB over its clip",
		"signal=pink&over=6": "because the clipped lows are held", "squash=3": "2.00 times the average power",
		"channel=yes":                         "before the desk&#39;s fader",
		"channel=no&mix=no&knob=no&volts=yes": "The amplifier clips, into this load"} {
		if status, page := s.Get(at + query); status != 200 || !strings.Contains(page, want) {
			t.Errorf("%s: %d, lacks %q", query, status, want)
		}
	}
}

// The field method is ticked off and kept, with who did it; the knob that is recorded
// twice names its drift; nothing is lined up while something is at stop.
func TestByEar(t *testing.T) {
	s := webtest.Open(t)
	const at = webtest.Boathouse + "/level/byear"
	of := url.Values{"of": {"A1\tout A"}}
	_, page := s.Get(at + "?" + of.Encode())
	if !strings.Contains(page, "peaks to 1.4 dBu on its meter") || !strings.Contains(page,
		"limiter on record: 48.9 V rms") {
		t.Error("the values to expect are missing")
	}
	for _, item := range []string{"down", "mark", "up", "loudest", "leave"} {
		s.Post(at, url.Values{"command": {webtest.Fresh()}, "of": of["of"], "item": {item}, "on": {"yes"}})
	}
	if _, page = s.Get(at + "?" + of.Encode()); webtest.Heading(page) != "A1 out A is lined up." {
		t.Error(webtest.Heading(page))
	}
	s.Post(at, url.Values{"command": {webtest.Fresh()}, "of": of["of"], "item": {"loudest"}, "on": {"no"}})
	for _, down := range []string{"12", "9"} {
		s.Post(webtest.Boathouse+"/level/knob", url.Values{"tag": {"A1"}, "port": {"out A"}, "channel": {"0"},
			"down": {down}})
	}
	_, page = s.Get(at + "?" + of.Encode())
	if !strings.Contains(page, "left it at −12.0 dB: it stands 3.0 dB further up now") || !strings.Contains(
		webtest.Heading(page), "Lining up") {
		t.Error("the drift is not named, or what was taken back is done")
	}
	last := webtest.MustJob(t, s, "wherry-lock-boathouse").Rig // as it stood here a year before
	last.Brief.Date = "2025-06-01"
	last, err := rig.Apply(last, rig.SetKnob{Tag: "A1", Set: rig.Knob{Down: 7}})
	webtest.Must(t, err)
	var file bytes.Buffer
	webtest.Must(t, exchange.WriteRig(&file, last))
	s.Upload(&file)
	if _, page = s.Get(at + "?" + of.Encode()); !strings.Contains(page,
		"1 June 2025, it stood at −7.0 dB: it stands 2.0 dB further down now.") {
		t.Error("the last visit is not told of")
	}
	if status, _ := s.Post(at, url.Values{"command": {webtest.Fresh()}, "of": of["of"],
		"item": {"dance"}}); status != 404 {
		t.Errorf("%d: a step that is none", status)
	}
	if _, page = s.Get(webtest.Hall + "/level/byear"); strings.Contains(webtest.Heading(page), "Lining") ||
		strings.Contains(page, "slowly until it is as loud") {
		t.Error("lined up at stop")
	}
}
