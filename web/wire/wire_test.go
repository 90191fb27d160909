package wire_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"

	"largo/core/rig"
	"largo/core/rigtest"
	"largo/store"
	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

func TestStringsAndReadings(t *testing.T) {
	s := webtest.Open(t)
	status, _ := s.Post(webtest.Hall+"/wire/hang", url.Values{"boxes": {"TOP 1 to 3"}, "outputs": {"a1 out a, A1 B"},
		"each": {"2"}})
	if status != 422 { // the tag is A1, as on its tape
		t.Errorf("%d for a tag in the wrong case", status)
	}
	status, page := s.Post(webtest.Hall+"/wire/hang", url.Values{"boxes": {"TOP 1 to 3"}, "outputs": {"A1 out a, A1 B"},
		"each": {"2"}})
	if status != 200 || !strings.Contains(page, "What that changed") {
		t.Errorf("%d: not hung", status)
	}
	if _, page = s.Get(webtest.Hall + "/match"); strings.Contains(page, "drives 2.67 Ω") {
		t.Error("two on each output, and still 2.67 Ω")
	}
	if status, page = s.Post(webtest.Hall+"/wire/reading",
		url.Values{"device": {"A1"}, "port": {"out A"}, "dc": {"6 ohm"}, "list": {"lines"}}); status != 200 ||
		!strings.Contains(page, "reads like 1 of the 2 boxes") {
		t.Errorf("%d: the reading is not judged", status)
	}
}

// Leads of stock, multicores, phantom power, twins and places on the drawing
// are edits like any other.
// A device is put into a case and taken out of it on its form; the place of the
// case is that of its parts.
func TestIntoACaseAndOut(t *testing.T) {
	s := webtest.Open(t)
	wire := webtest.Boathouse + "/wire"
	parts := func() []string {
		_, file := s.Get(webtest.Boathouse + "/rig.json")
		var r rig.Rig
		if err := json.Unmarshal([]byte(file), &r); err != nil {
			t.Fatal(err)
		}
		var in []string
		for _, d := range r.Devices {
			if d.Case != "" {
				in = append(in, d.Tag+" in "+d.Case+" at "+d.Place)
			}
		}
		return in
	}
	for _, c := range []struct {
		tag, name, place string
		want             []string
	}{
		{"DESK", "MIX", "wing", []string{"DESK in MIX at wing"}},
		{"CUES", "MIX", "", []string{"CUES in MIX at wing", "DESK in MIX at wing"}},
		{"CUES", "MIX", "pit", []string{"CUES in MIX at pit", "DESK in MIX at pit"}},
		{"CUES", "", "pit", []string{"DESK in MIX at pit"}},
		{"DESK", "", "pit", nil},
	} {
		status, _ := s.Post(wire+"/device", url.Values{"tag": {c.tag}, "newtag": {c.tag}, "case": {c.name},
			"place": {c.place}})
		got := parts()
		slices.Sort(got)
		if status != 200 || !slices.Equal(got, c.want) {
			t.Errorf("%s into %q: %d, %q, want %q", c.tag, c.name, status, got, c.want)
		}
	}
}

func TestEditsOfTheBoard(t *testing.T) {
	s := webtest.Open(t)
	wire := webtest.Boathouse + "/wire"
	for _, c := range []struct {
		what, path string
		form       url.Values
		says       string
	}{
		{"another lead", "/lead", url.Values{"device": {"DIVIDE"}, "port": {"in 1"}, "first": {"mic-10"},
			"second": {"mic-10"}}, "microphone lead 10 m, microphone lead 10 m"},
		{"no lead of stock", "/lead", url.Values{"device": {"DIVIDE"}, "port": {"in 1"}, "length": {"30 ft"}}, "9.14 m"},
		{"all from stock", "/take", nil, "microphone lead"},
		{"phantom power", "/phantom", url.Values{"device": {"DESK"}, "port": {"in 15"}, "on": {"yes"}}, "does not take it"},
		{"and off again", "/phantom", url.Values{"device": {"DESK"}, "port": {"in 15"}, "on": {"no"}}, "every lead fits"},
		{"a place", "/place", url.Values{"tag": {"CUES"}, "x": {"40"}, "y": {"300"}},
			`data-tag="CUES" data-x="40.0" data-y="300.0"`},
		{"tidy again", "/tidy", nil, `data-tag="CUES" data-x="6.0"`},
		{"a switch", "/pair", url.Values{"tag": {"A1"}, "pair": {"0"}, "output": {"separate"}, "input": {"parallel"}},
			"both on in 1"},
	} {
		if c.form == nil {
			c.form = url.Values{}
		}
		if status, page := s.Post(wire+c.path, c.form); status != 200 || !strings.Contains(page, c.says) {
			t.Errorf("%s: %d without %q", c.what, status, c.says)
		}
	}
	for what, c := range map[string]struct {
		path string
		form url.Values
	}{
		"a lead that is not owned": {"/lead", url.Values{"device": {"DIVIDE"}, "port": {"in 1"}, "first": {"ghost"}}},
		"a place in words":         {"/place", url.Values{"tag": {"CUES"}, "x": {"left"}, "y": {"3"}}},
		"a place far off":          {"/place", url.Values{"tag": {"CUES"}, "x": {"1e9"}, "y": {"3"}}},
		"a twin of nothing":        {"/mirror", url.Values{"tags": {"DESK"}}},
		"phantom at a line input":  {"/phantom", url.Values{"device": {"DIVIDE"}, "port": {"in 1"}, "on": {"yes"}}},
	} {
		before := s.State()
		if status, _ := s.Post(wire+c.path, c.form); status != 422 || s.State() != before {
			t.Errorf("%s: %d, want 422 and nothing changed", what, status)
		}
	}
	if status, page := s.Get("/jobs/saltpan-quay/wire/hookup?amp=A2&pair=0"); status != 200 ||
		!strings.Contains(page, "BRIDGE ONLY") || !strings.Contains(page, "before it is energised") {
		t.Errorf("%d: the hook-up", status)
	}
	if status, page := s.Get(webtest.Hall + "/wire/hookup?amp=A2&pair=0"); status != 200 ||
		!strings.Contains(page, "must never be bridged") {
		t.Errorf("%d: a hook-up of what must not be bridged", status)
	}
	if status, _ := s.Get(webtest.Hall + "/wire/hookup?amp=A2&pair=9"); status != 404 {
		t.Errorf("%d for a pair that is not", status)
	}
}

// BenchmarkBoard draws the wiring board of a rig of 200 devices, page and all;
// the aim is under 50 ms on the server.
func BenchmarkBoard(b *testing.B) {
	s := webtest.Open(b)
	slug, err := s.Store.CreateJob(context.Background(), store.Change{Command: webtest.Fresh(), Rig: rigtest.Large(b),
		Said: "Began", Author: "test"})
	webtest.Must(b, err)
	for b.Loop() {
		if status, _ := s.Get("/jobs/" + slug + "/wire"); status != http.StatusOK {
			b.Fatal(status)
		}
	}
}

// BenchmarkBoardEdit throws a switch on that board, as its page would, and gets
// what the page takes in place.
func BenchmarkBoardEdit(b *testing.B) {
	s := webtest.Open(b)
	slug, err := s.Store.CreateJob(context.Background(), store.Change{Command: webtest.Fresh(), Rig: rigtest.Large(b),
		Said: "Began", Author: "test"})
	webtest.Must(b, err)
	inputs := []string{"parallel", "separate"}
	rev := 1
	_, page := s.Get("/jobs/" + slug + "/wire")
	for b.Loop() {
		page = s.PostInPlace("/jobs/"+slug+"/wire/pair", url.Values{"tag": {"A1"}, "pair": {"0"}, "output": {"separate"},
			"input": {inputs[rev%2]}, "rev": {fmt.Sprint(rev)}, "command": {webtest.CommandOf(page)}})
		rev++
	}
}

// The page that sent an edit is spared what it shows already; a page that is
// not remembered, as after a start of the server, gets all of it.
func TestAnAnswerLeavesOutWhatThePageShows(t *testing.T) {
	s := webtest.Open(t)
	_, page := s.Get(webtest.Boathouse + "/wire")
	whole := func(answer, tag string) bool {
		_, device, ok := strings.Cut(answer, `data-tag="`+tag+`"`)
		if !ok {
			t.Fatalf("no %s in the answer", tag)
		}
		_, inside, _ := strings.Cut(device, ">")
		return !strings.HasPrefix(inside, "</g>")
	}
	edit := func(rev, command, follow string) string {
		return s.PostInPlace(webtest.Boathouse+"/wire/place",
			url.Values{"tag": {"A1"}, "x": {"700"}, "y": {rev + "00"}, "rev": {rev}, "command": {command}, "follow": {follow}})
	}
	answer := edit("1", webtest.CommandOf(page), "")
	if !whole(answer, "A1") || whole(answer, "DESK") {
		t.Errorf("A1, which was moved, is sent whole: %v; DESK, which was not: %v", whole(answer, "A1"),
			whole(answer, "DESK"))
	}
	answer = edit("2", webtest.CommandOf(answer), "DESK\tmon 1")
	if !strings.Contains(answer, `dim-part" data-tag="TOP L1"`) {
		t.Error("what was followed before an edit is not followed after it")
	}
	answer = edit("3", webtest.Fresh(), "")
	if !whole(answer, "A1") || !whole(answer, "DESK") {
		t.Error("a page that is not remembered does not get the whole drawing")
	}
}

// What cannot be plugged, hung, added or read is refused at its field.
func TestRefusedWiring(t *testing.T) {
	const job = webtest.Boathouse
	s := webtest.Open(t)
	lead := func(from, to string) url.Values { return url.Values{"from": {from}, "to": {to}} }
	s.Refuses([]webtest.Refusal{
		webtest.Refused("a box linked to itself", job+"/wire/connect", lead("TOP L2\tlink", "TOP L2\tin"), "to",
			"cannot be linked to itself"),
		webtest.Refused("two outputs joined", job+"/wire/connect", lead("A2\tout B", "TOP L1\tin"), "to",
			"join two outputs"),
		webtest.Refused("nothing chosen", job+"/wire/connect", lead("", ""), "from", "Choose an output"),
		webtest.Refused("a tag used twice", job+"/wire/add", url.Values{"model": {"brackwater-reed-10"}, "tags": {"A1"}},
			"tags", "already bears"),
		webtest.Refused("no model", job+"/wire/add", url.Values{"model": {"ghost"}, "tags": {"Z1"}}, "model",
			"Choose a model"),
		webtest.Refused("boxes on nothing", job+"/wire/hang",
			url.Values{"boxes": {"TOP L1"}, "outputs": {"A9 A"}, "each": {"2"}}, "outputs", "no output"),
		webtest.Refused("a falling run of tags", job+"/wire/hang",
			url.Values{"boxes": {"TOP 6 to 1"}, "outputs": {"A1 A"}, "each": {"2"}}, "boxes", "should rise"),
		webtest.Refused("a reading in volts", job+"/wire/reading",
			url.Values{"device": {"A1"}, "port": {"out A"}, "dc": {"3 V"}, "list": {"lines"}}, "dc", "unit should be Ω"),
	})
	// A ring of link-throughs: the first box of the chain is pulled off its output.
	s.Post(job+"/wire/disconnect", url.Values{"to": {"TOP L1\tin"}})
	if status, page := s.Post(job+"/wire/connect", lead("TOP L2\tlink", "TOP L1\tin")); status != 422 ||
		!strings.Contains(page, "ring of link-throughs") {
		t.Errorf("a ring of link-throughs: %d", status)
	}
}

// A box with a selector offers the poles it is set to, and says when nothing comes there.
func TestASelectorIsSet(t *testing.T) {
	s := webtest.Open(t)
	_, file := s.Get(webtest.Boathouse + "/rig.json")
	file = strings.Replace(file, `"title": "Wherry Lock boathouse"`, `"title": "Selector"`, 1)
	file = strings.Replace(file, `"sub": true`, `"sub": true, "selector": true`, 1)
	if status, page := s.Upload(strings.NewReader(file)); status != 200 {
		t.Fatalf("%d: %s", status, page[:min(len(page), 400)])
	}
	const at = "/jobs/selector/wire"
	if _, page := s.Get(at + "?device=SUB+L1"); !strings.Contains(page, "Its selector is on") {
		t.Fatal("the box does not offer its selector")
	}
	device := url.Values{"tag": {"SUB L1"}, "newtag": {"SUB L1"}, "place": {"left of the slipway doors"}, "poles": {"2"}}
	if status, page := s.Post(at+"/device", device); status != 200 ||
		!strings.Contains(page, "SUB L1 is set to poles 2±, and its lead brings signal on 1± alone.") {
		t.Errorf("%d, and nobody says that it stays silent", status)
	}
	s.Refuses([]webtest.Refusal{webtest.Refused("poles that there are not", at+"/device",
		url.Values{"tag": {"SUB L1"}, "newtag": {"SUB L1"}, "poles": {"3"}}, "poles", "poles 1± or 2±")})
}
