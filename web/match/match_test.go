package match_test

import (
	"context"
	"fmt"
	"html"
	"net/url"
	"strings"
	"testing"

	"largo/core/rig"
	"largo/store"
	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// A plan of more than is in stock any more is never shown, proved or not.
func TestAPlanIsThatOfTodaysStock(t *testing.T) {
	s := webtest.Open(t)
	const at = "/jobs/saltpan-quay/match/plan"
	_, before := s.Get(at)
	if !strings.Contains(before, "proved") {
		t.Fatal("no plan to begin with")
	}
	held, err := s.Store.Stock(context.Background())
	webtest.Must(t, err)
	for _, h := range held {
		if h.Model.Amplifier != nil {
			if status, _ := s.Post("/stock",
				url.Values{"model": {h.Model.ID}, "place": {h.Place}, "count": {"0"}}); status != 200 {
				t.Fatalf("%d", status)
			}
		}
	}
	if _, after := s.Get(at); webtest.Heading(after) == webtest.Heading(before) {
		t.Errorf("with nothing in stock it still says: %s", webtest.Heading(after))
	}
}

// The best amplifiers are planned, compared with the rig as it is, taken as
// one edit and undone.
func TestPlanIsTakenAndUndone(t *testing.T) {
	s := webtest.Open(t)
	quay := "/jobs/saltpan-quay"
	status, page := s.Get(quay + "/match/plan")
	if status != 200 || !strings.Contains(page, "Three amplifiers and 36 kg for 8 boxes, fewest amplifiers: proved.") ||
		!strings.Contains(page, "as it is") {
		t.Fatalf("%d: no proved plan", status)
	}
	if _, page = s.Get(quay + "/match/plan?why=0+bridged"); !strings.Contains(page, "times its rating") {
		t.Error("no word on why not")
	}
	used := 0
	for m := range 8 {
		_, page = s.Get(fmt.Sprintf("%s/match/plan?why=%d+separate", quay, m))
		if strings.Contains(page, "This plan uses it.") {
			used++
		}
	}
	if used == 0 {
		t.Error("the plan uses no amplifier at all")
	}
	if _, page = s.Get(quay + "/match/plan?spare=3"); !strings.Contains(page, "this is proved") ||
		!strings.Contains(page, "spare amplifiers in the truck") {
		t.Error("no word on what to give up")
	}
	if status, page = s.Get(quay + "/match/plan?margin=many&circuits=x"); status != 422 ||
		!strings.Contains(page, "no current of a circuit") {
		t.Errorf("%d for wishes in prose", status)
	}
	if _, page = s.Get(quay + "/match/plan/progress?aim=lightest"); !strings.Contains(page, "event: done") ||
		!strings.Contains(page, `"proved":true`) {
		t.Errorf("the stream ends with %q", page)
	}
	if status, page = s.Post(quay+"/match/plan", url.Values{"aim": {"fewest amplifiers"}}); status != 200 ||
		!strings.Contains(page, "What that changed") || !strings.Contains(page, "All 8 boxes driven") {
		t.Errorf("%d: the plan was not taken", status)
	}
	if _, page = s.Get(quay + "/match/plan"); !strings.Contains(page, "This is how the rig is already") {
		t.Error("planned again, the rig is another")
	}
	s.Post(quay+"/undo", url.Values{"stage": {"match"}, "rev": {"2"}})
	if _, page = s.Get(quay + "/match/plan"); strings.Contains(page, "This is how the rig is already") {
		t.Error("the plan was not undone")
	}
	if status, _ = s.Post(webtest.Hall+"/match/plan",
		url.Values{"aim": {"fewest amplifiers"}, "spare": {"9"}}); status != 422 {
		t.Errorf("%d for a plan that is not, want 422", status)
	}
	_, err := s.Store.CreateJob(context.Background(), store.Change{
		Command: webtest.Fresh(), Rig: rig.Rig{Brief: rig.Brief{Title: "Nothing Yet"}}, Said: "x", Author: "y",
	})
	webtest.Must(t, err)
	if _, page = s.Get("/jobs/nothing-yet/match/plan"); !strings.Contains(page, "There is no box to plan for.") {
		t.Error("no word on a rig without boxes")
	}
}

// All of an output, and what if: figures with their sums, and requests that
// make no sense.
func TestOutputsInFullAndWhatIf(t *testing.T) {
	s := webtest.Open(t)
	status, page := s.Get(webtest.Boathouse + "/match/output?at=A2%09out+A")
	for _, want := range []string{"A2 out A drives 4 Ω, which dips to", "small-signal figures of its cone",
		"Leave it separate", "twice the boxes", "stock has"} {
		if status != 200 || !strings.Contains(page, want) {
			t.Errorf("%d: the output in full lacks %q", status, want)
		}
	}
	if _, page = s.Get(webtest.Boathouse + "/match/output?at=A1%09out+A"); !strings.Contains(page, "measured curve") ||
		!strings.Contains(page, "peak limiter on record") {
		t.Error("no curve, or a burst that the limiter does not hold")
	}
	if status, page = s.Get(webtest.Boathouse +
		"/match/output?at=A2%09out+A&loss=9&celsius=warm&circuit=x"); status != 422 ||
		!strings.Contains(page, "cannot be wanted") || !strings.Contains(page, "no temperature of a lead") {
		t.Errorf("%d for an ask in prose", status)
	}
	if status, _ = s.Get(webtest.Boathouse + "/match/output?at=A9%09out+A"); status != 404 {
		t.Errorf("%d for an output that is not", status)
	}
	_, now := s.Get(webtest.Boathouse + "/match/whatif")
	const notKnown = "What the rig gives is not known. Boxes such as these would give"
	if _, page := s.Get(webtest.Hall + "/match/whatif"); !strings.Contains(page, notKnown) || strings.Contains(now,
		notKnown) {
		t.Error("what is made up passes for the rig, or the rig for made up")
	}
	_, far := s.Get(webtest.Boathouse + "/match/whatif?distance=22")
	if !strings.Contains(now, "107.2 dB at 11 m") || !strings.Contains(far, "101.1 dB at 22 m") ||
		!strings.Contains(far, "first guess by listeners is 140 W") {
		t.Error("twice the distance is not 6 dB less, or the guess is not explained")
	}
}

// The adviser weighs any amplifier of the library with any boxes.
func TestAdviserForAnyPair(t *testing.T) {
	s := webtest.Open(t)
	ask := url.Values{"amp": {"fennholt-1400"}, "box": {"brackwater-keel-18"}, "boxes": {"1"}}
	if status, page := s.Get("/advise?" + ask.Encode()); status != 200 ||
		!strings.Contains(page, "both channels bridged") || !strings.Contains(page, "5.2 dB") {
		t.Errorf("%d: 1400 W bridged into 8 Ω are 5.2 dB over 420 W", status)
	}
	ask.Set("school", "never")
	if _, page := s.Get("/advise?" + ask.Encode()); !strings.Contains(page, "the school chosen is never to bridge") {
		t.Error("the school is not heard")
	}
	ask.Set("boxes", "99")
	if status, page := s.Get("/advise?" + ask.Encode()); status != 422 || !strings.Contains(page, "cannot be right") {
		t.Errorf("%d for 99 boxes on a channel", status)
	}
	if status, page := s.Get("/advise"); status != 200 || !strings.Contains(page, "The first case at hand") ||
		!strings.Contains(page, "over one channel") {
		t.Errorf("%d, and it opens on no case", status)
	}
	if status, page := s.Get("/advise?amp=gone"); status != 200 || !strings.Contains(page, "choose an amplifier") &&
		strings.Contains(page, "May it be bridged?") {
		t.Errorf("%d for an amplifier that is not there", status)
	}
}

// Bridge it? opens on the case of a pair of a job, and on the first box where an
// amplifier alone is named.
func TestBridgeItOpensOnTheCaseOfAJob(t *testing.T) {
	w := webtest.Open(t)
	_, page := w.Get(webtest.Boathouse + "/match")
	i := strings.Index(page, `href="/advise?`)
	if i < 0 {
		t.Fatal("no pair of the job offers its case")
	}
	href := html.UnescapeString(page[i+len(`href="`):][:strings.IndexByte(page[i+len(`href="`):], '"')])
	for _, at := range []string{href, "/advise?amp=fennholt-1400"} {
		if status, page := w.Get(at); status != 200 || !strings.Contains(page, "May it be bridged?") ||
			strings.Contains(page, "choose an amplifier") {
			t.Errorf("%s: %d", at, status)
		}
	}
}
