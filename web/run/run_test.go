package run_test

import (
	"bufio"
	"context"
	"encoding/json"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"largo/core/order"
	"largo/core/rig"
	"largo/core/run"
	"largo/store"
	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// begun begins a run and gives its address.
func begun(t *testing.T, s *webtest.Site, job, sort string) string {
	t.Helper()
	status, page := s.Post(job+"/run", url.Values{"sort": {sort}, "command": {webtest.Fresh()}})
	_, rest, found := strings.Cut(page, `data-here="`)
	at, _, _ := strings.Cut(rest, `"`)
	if status != http.StatusOK || !found {
		t.Fatalf("%d: %s", status, webtest.Heading(page))
	}
	return at
}

type state struct {
	Seq    int
	Says   string
	Events []struct {
		Kind, By string
		Step     int
	}
}

func tell(t *testing.T, s *webtest.Site, at, kind string, step int, more ...string) (int, state) {
	t.Helper()
	form := url.Values{"kind": {kind}, "step": {strconv.Itoa(step)}, "by": {"Ines"}, "command": {webtest.Fresh()},
		"ago": {"0"}}
	for i := 0; i < len(more); i += 2 {
		form.Set(more[i], more[i+1])
	}
	status, answer := s.Post(at+"/event", form)
	var st state
	if err := json.Unmarshal([]byte(answer), &st); err != nil {
		t.Fatalf("%d: %s", status, answer)
	}
	return status, st
}

// A run of the tour: the first switch is thrown; what comes too early is refused with its reason;
// trouble has a way on; the list says how it stands; stopped, it is over.
func TestARun(t *testing.T) {
	s := webtest.Open(t)
	at := begun(t, s, webtest.Boathouse, "start")
	_, page := s.Get(at)
	for _, want := range []string{`id="run-plan"`, `"switch":"RADIO"`, "V peak at TOP L1", "run.js"} {
		if !strings.Contains(page, want) {
			t.Errorf("the phone lacks %q", want)
		}
	}
	if status, st := tell(t, s, at, "thrown", 4); status != 422 || !strings.Contains(st.Says, "Not yet: A1 waits for") {
		t.Errorf("%d: an amplifier first: %s", status, st.Says)
	}
	if status, st := tell(t, s, at, "thrown", 0); status != 200 || st.Seq != 1 || st.Events[0].By != "Ines" {
		t.Errorf("%d: %+v", status, st)
	}
	if status, st := tell(t, s, at, "thrown", 0, "by", "Otto"); status != 200 || st.Seq != 1 { // another phone
		t.Errorf("%d: thrown twice: %+v", status, st)
	}
	if status, st := tell(t, s, at, "seen", 0); status != 422 || !strings.Contains(st.Says, "s are left") {
		t.Errorf("%d: seen at once: %s", status, st.Says)
	}
	if status, st := tell(t, s, at, "trouble", 0, "wrong", "no lamp"); status != 200 || st.Seq != 2 {
		t.Errorf("%d: %+v", status, st)
	}
	tell(t, s, at, "left", 0)
	if _, page := s.Get(webtest.Boathouse + "/run"); !strings.Contains(page,
		"Power-up is under way: 1 of 7 switches are through.") {
		t.Error(webtest.Heading(page))
	}
	tell(t, s, at, "stopped", -1)
	if status, st := tell(t, s, at, "thrown", 1); status != 422 || st.Says != "This run is over." {
		t.Errorf("%d: %s", status, st.Says)
	}
	for _, other := range []string{"/jobs/saltpan-quay" + at[strings.Index(at, "/run"):], webtest.Boathouse + "/run/99",
		webtest.Boathouse + "/run/x"} {
		if status, _ := s.Get(other); status != http.StatusNotFound {
			t.Errorf("%s: %d", other, status)
		}
	}
}

// Nothing is powered up while the rig is at stop; it may always be shut down; what is no event
// leaves nothing.
func TestWhatIsNotRun(t *testing.T) {
	s := webtest.Open(t)
	const hall = "/jobs/marigold-roller-hall"
	if status, page := s.Post(hall+"/run", url.Values{"sort": {"start"}, "command": {webtest.Fresh()}}); status != 422 ||
		!strings.Contains(page, "Do not energise") {
		t.Errorf("%d: a rig at stop is powered up", status)
	}
	if status, _ := s.Post(hall+"/run", url.Values{"sort": {"show"}, "command": {webtest.Fresh()}}); status != 422 {
		t.Errorf("%d: no sort", status)
	}
	at := begun(t, s, hall, "strike")
	for what, form := range map[string][]string{"no such step": {"step", "99"}, "no number": {"step", "x"},
		"no kind": {"kind", "danced"}, "a long name": {"by", strings.Repeat("x", 60)}} {
		if status, st := tell(t, s, at, "thrown", 0, form...); status != 422 || st.Says == "" {
			t.Errorf("%s: %d %+v", what, status, st)
		}
	}
	if _, page := s.Get(at + "/state"); !strings.Contains(page, `"seq":0,"events":[]`) {
		t.Errorf("something was left: %s", page)
	}
	if status, script := s.Get("/run-worker.js"); status != 200 || !strings.Contains(script, "skipWaiting") {
		t.Errorf("%d: no worker", status)
	}
}

// A rig that comes to stop while it is powered up goes no further; it may be shut down.
func TestStoppedOnTheWay(t *testing.T) {
	s := webtest.Open(t)
	up, down := begun(t, s, webtest.Boathouse, "start"), begun(t, s, webtest.Boathouse, "strike")
	if status, st := tell(t, s, up, "thrown", 0); status != 200 {
		t.Fatalf("%d: %s", status, st.Says)
	}
	s.Post(webtest.Boathouse+"/feed/lift", url.Values{"tag": {"A1"}, "lifted": {"yes"}})
	if status, st := tell(t, s, up, "thrown", 1); status != 422 || !strings.Contains(st.Says,
		"at stop since this run began") {
		t.Errorf("%d: %s", status, st.Says)
	}
	if status, st := tell(t, s, down, "thrown", 0); status != 200 {
		t.Errorf("%d: it is not shut down: %s", status, st.Says)
	}
}

// Whoever looks hears at once what another did.
func TestTheOthersHear(t *testing.T) {
	s := webtest.Open(t)
	ctx, end := context.WithTimeout(t.Context(), 20*time.Second)
	defer end()
	go s.Handler.Run(ctx)
	at := begun(t, s, webtest.Boathouse, "start")
	ask, err := http.NewRequestWithContext(ctx, http.MethodGet, s.URL+at+"/events", nil)
	webtest.Must(t, err)
	res, err := http.DefaultClient.Do(ask)
	webtest.Must(t, err)
	defer res.Body.Close()
	lines := bufio.NewScanner(res.Body)
	next := func() (st state) {
		for lines.Scan() {
			if data, found := strings.CutPrefix(lines.Text(), "data: {"); found {
				webtest.Must(t, json.Unmarshal([]byte("{"+data), &st))
				return st
			}
		}
		t.Fatal("the stream ended")
		return st
	}
	heard := next() // at once, or as the server begins to listen
	for tell(t, s, at, "thrown", 0); heard.Seq == 0; {
		heard = next()
	}
	if heard.Seq != 1 || heard.Events[0].Kind != "thrown" {
		t.Errorf("%+v", heard)
	}
}

// The card says both orders, the emergency and where the run is; of a rig at stop it is none.
func TestTheCard(t *testing.T) {
	s := webtest.Open(t)
	_, page := s.Get(webtest.Boathouse + "/card")
	for _, want := range []string{"On, 119 s", "One act silences all", `class="card-code"`, webtest.Boathouse + "/run"} {
		if !strings.Contains(page, want) {
			t.Errorf("lacks %q", want)
		}
	}
	if _, page = s.Get("/jobs/marigold-roller-hall/card"); !strings.Contains(page, "Do not energise") {
		t.Error("a card of a rig at stop")
	}
}

// A run against its plan: what a model did not say is noted from it when somebody wishes so.
func TestTimesAreNoted(t *testing.T) {
	s := webtest.Open(t)
	const quay = "/jobs/saltpan-quay" // a run in the middle
	_, page := s.Get(quay + "/run/4/times")
	if !strings.Contains(page, "RADIO") || !strings.Contains(page, "Isold Farrow") {
		t.Error(webtest.Heading(page))
	}
	const meadow = "/jobs/copperas-meadow"
	at := begun(t, s, meadow, "strike")
	tell(t, s, at, "left", 0)
	if status, page := s.Post(at+"/note", url.Values{"tag": {"A1"}}); status != 422 || !strings.Contains(page,
		"tells no time") {
		t.Errorf("%d: %s", status, webtest.Heading(page))
	}
	job := webtest.MustJob(t, s, "marigold-roller-hall").Rig
	i := slices.IndexFunc(job.Devices, func(d rig.Device) bool {
		m, _ := job.Model(d.Model)
		return m.Powered() && !m.Wake.Drain.Known()
	})
	tag, begun := job.Devices[i].Tag, time.Now().Add(-time.Hour)
	ran := run.Run{Setup: run.Setup{Sort: run.Strike, Title: "T", Steps: []run.Step{{Step: order.Step{Switch: tag,
		Items: []order.Item{{Tag: tag, Takes: 5}}}}}}}
	for _, e := range []run.Event{{Kind: run.Throw, At: begun.UnixMilli()}, {Kind: run.See,
		At: begun.UnixMilli() + 22_000}} {
		webtest.Must(t, ran.Take(e, e.At))
	}
	id, err := s.Store.KeepRun(t.Context(), store.Command{ID: webtest.Fresh(), Author: "Ines"}, "marigold-roller-hall",
		ran,
		begun)
	webtest.Must(t, err)
	at = "/jobs/marigold-roller-hall/run/" + strconv.FormatInt(id, 10)
	if _, page := s.Get(at + "/times"); !strings.Contains(page, "Note 22 s for") {
		t.Error("nothing is offered")
	}
	s.Post(at+"/note", url.Values{"tag": {tag}})
	job = webtest.MustJob(t, s, "marigold-roller-hall").Rig
	if m, _ := job.Model(job.Devices[i].Model); m.Wake.Drain.Or(0) != 22 || !strings.Contains(m.Wake.Drain.Origin(),
		"timed in the run") {
		t.Errorf("%+v", m.Wake)
	}
}
