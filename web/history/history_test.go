package history_test

import (
	"context"
	"fmt"
	"net/url"
	"strings"
	"testing"

	"largo/store"
	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// A history is shown page by page, whole, with its true count.
func TestALongHistory(t *testing.T) {
	s := webtest.Open(t)
	r := webtest.MustJob(t, s, "saltpan-quay")
	for i := range 260 {
		next := r.Rig.Clone()
		next.Brief.Place = fmt.Sprintf("place %d", i)
		_, err := s.Store.Keep(context.Background(), "saltpan-quay",
			store.Change{Base: i + 1, Command: webtest.Fresh(), Rig: next, Said: fmt.Sprintf("Moved %d", i), Author: "a"})
		webtest.Must(t, err)
	}
	_, page := s.Get("/jobs/saltpan-quay/history")
	if !strings.Contains(page, "261 revisions kept") || !strings.Contains(page, "Moved 259") ||
		strings.Contains(page, "Moved 200<") {
		t.Error("the first page of a long history")
	}
	if _, page = s.Get("/jobs/saltpan-quay/history?page=6"); !strings.Contains(page, "Loaded with the demo tour") ||
		!strings.Contains(page, "Newer") {
		t.Error("the last page of a long history")
	}
}

func TestHistoryIsNamedComparedAndRestored(t *testing.T) {
	s := webtest.Open(t)
	s.Post(webtest.Hall+"/mend", url.Values{"stage": {"match"},
		"finding": {"match.load-below-least@A1@out A"}, "n": {"0"}})
	if status, page := s.Post(webtest.Hall+"/history/name",
		url.Values{"number": {"1"}, "name": {"as it came"}}); status != 200 || !strings.Contains(page, `value="as it came"`) {
		t.Errorf("%d: the name is not shown", status)
	}
	if status, page := s.Post(webtest.Hall+"/history/name",
		url.Values{"number": {"1"}, "name": {"<b>"}}); status != 422 || !strings.Contains(page, "may not hold") {
		t.Errorf("%d: markup for a name", status)
	}
	_, page := s.Get(webtest.Hall + "/history?from=1")
	for _, want := range []string{
		"Since revision 1: one finding gone",
		"2.67 Ω to <b>4 Ω</b>",
		"A1 out A drives 2.67 Ω",
	} {
		if !strings.Contains(page, want) {
			t.Errorf("the comparison lacks %q", want)
		}
	}
	if status, page := s.Post(webtest.Hall+"/history/restore", url.Values{"number": {"1"}}); status != 200 ||
		!strings.Contains(page, "revision 3,") {
		t.Errorf("%d: not restored", status)
	}
	if _, page := s.Get(webtest.Hall + "/match"); !strings.Contains(page, "drives 2.67 Ω") {
		t.Error("the rig is not as it was at revision 1")
	}
	if status, _ := s.Post(webtest.Hall+"/history/restore", url.Values{"number": {"77"}}); status != 422 {
		t.Errorf("a revision that is not: %d, want 422", status)
	}
}
