package web_test

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

func TestEveryPageAnswers(t *testing.T) {
	s := webtest.Open(t)
	paths := []string{"/", "/gear", "/gear/new/amplifier", "/gear/new/loudspeaker", "/gear/new/mixer",
		"/gear/new/processor", "/gear/new/source", "/gear/new/microphone", "/gear/new/receiver", "/gear/new/DI",
		"/gear/new/stage box", "/gear/new/network switch", "/gear/new/cable", "/gear/new/generator",
		"/gear/new/distro", "/stock",
		"/gear/model/fennholt-1400", "/gear/model/osierby-divide", "/gear/model/lapwell-lark"}
	for _, job := range []string{webtest.Boathouse, webtest.Hall, "/jobs/saltpan-quay", "/jobs/copperas-meadow"} {
		for _, page := range []string{"brief", "match", "wire", "wire?device=A1", "protect", "start", "strike", "sheet",
			"history", "rig.json", "match?sum=A1+out+A&figure=load"} {
			paths = append(paths, job+"/"+page)
		}
	}
	for _, p := range paths {
		status, body := s.Get(p)
		if status != http.StatusOK || len(body) < 200 {
			t.Errorf("%s: %d, %d bytes", p, status, len(body))
		}
		for _, sign := range []string{"{{", "%!", "<nil>", "ZgotmplZ", " style=", "<script>", "http://", "https://"} {
			if strings.Contains(body, sign) {
				t.Errorf("%s holds %q", p, sign)
			}
		}
	}
	for _, p := range []string{"/nope", "/jobs/nope/brief", webtest.Boathouse + "/nope", "/gear/model/nope",
		"/gear/new/toaster", "/static/nope.css"} {
		if status, _ := s.Get(p); status != http.StatusNotFound {
			t.Errorf("%s: %d, want 404", p, status)
		}
	}
}

func TestASumIsShownWhenAsked(t *testing.T) {
	s := webtest.Open(t)
	_, page := s.Get(webtest.Boathouse + "/protect?sum=A1+out+A&figure=long")
	for _, want := range []string{"Vrms = sqrt(Pc × Z)", "Vrms = sqrt(300 W × 8 Ω)", "Vrms = 49.0 V", "rated impedance"} {
		if !strings.Contains(page, want) {
			t.Errorf("the sum lacks %q", want)
		}
	}
}

func TestAMendIsPreviewedAppliedAndUndone(t *testing.T) {
	s := webtest.Open(t)
	const id = "match.load-below-least@A1@out A"
	_, page := s.Get(webtest.Hall + "/match?" + url.Values{"mend": {id}, "n": {"0"}}.Encode())
	if !strings.Contains(page, "2.67 Ω to <b>4 Ω</b>") {
		t.Error("the preview does not show the load before and after")
	}
	if _, now := s.Get(webtest.Hall + "/match"); !strings.Contains(now, "drives 2.67 Ω") {
		t.Error("looking at a mend changed the rig")
	}
	status, page := s.Post(webtest.Hall+"/mend", url.Values{"stage": {"match"}, "finding": {id}, "n": {"0"}})
	if status != http.StatusOK || strings.Contains(page, "drives 2.67 Ω, below its least of 4 Ω.</b>") ||
		!strings.Contains(page, "What that changed") {
		t.Errorf("%d: the mend was not made, or its effect not shown", status)
	}
	if _, page = s.Post(webtest.Hall+"/undo", url.Values{"stage": {"match"}}); !strings.Contains(page, "drives 2.67 Ω") {
		t.Error("undo did not bring the overload back")
	}
	if _, page = s.Post(webtest.Hall+"/redo", url.Values{"stage": {"match"}}); strings.Contains(page,
		"One output runs below") {
		t.Error("redo did not mend again")
	}
}

func TestConflictOfTwoEditors(t *testing.T) {
	s := webtest.Open(t)
	wishes := func(policy string) url.Values {
		return url.Values{"policy": {policy}, "bridging": {"never"}, "rev": {"1"}, "command": {webtest.Fresh()}}
	}
	first := wishes("within")
	if status, _ := s.Post(webtest.Boathouse+"/match/wishes", first); status != http.StatusOK {
		t.Fatalf("first: %d", status)
	}
	status, page := s.Post(webtest.Boathouse+"/match/wishes", wishes("tenth over"))
	if status != http.StatusConflict || !strings.Contains(page, "Somebody else has changed this rig") ||
		!strings.Contains(page, "What somebody else changed") {
		t.Errorf("second: %d, want 409 and what the first changed", status)
	}
	again := regexp.MustCompile(`(?s)<form class="again".*?</form>`).FindString(page)
	if !strings.Contains(again, `name="policy" value="tenth over"`) || !strings.Contains(again, `name="rev" value="2"`) {
		t.Errorf("the second edit cannot be made on top: %q", again)
	}
	if status, _ := s.Post(webtest.Boathouse+"/match/wishes", first); status != http.StatusOK {
		t.Errorf("the first again, as a bad line repeats it: %d, want 200", status)
	}
	if j, _ := s.Store.Job(context.Background(), "wherry-lock-boathouse"); j.Number != 2 {
		t.Errorf("revision %d, want 2", j.Number)
	}
}

func TestStrangersAreKeptOut(t *testing.T) {
	s := webtest.Open(t)
	req, _ := http.NewRequest("POST", s.URL+webtest.Boathouse+"/undo", strings.NewReader("rev=1"))
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("Origin", "http://elsewhere.example")
	res, err := s.Client().Do(req)
	webtest.Must(t, err)
	res.Body.Close()
	if res.StatusCode != http.StatusForbidden {
		t.Errorf("a post from another site: %d, want 403", res.StatusCode)
	}
	for host, want := range map[string]int{"evil.example:80": 421, "192.0.2.7": 421, "localhost:8035": 200,
		"127.0.0.1": 200, "[::1]:8035": 200} {
		req, _ := http.NewRequest("GET", s.URL+"/", nil)
		req.Host = host
		res, err := s.Client().Do(req)
		webtest.Must(t, err)
		res.Body.Close()
		if res.StatusCode != want {
			t.Errorf("asked for as %s: %d, want %d", host, res.StatusCode, want)
		}
	}
	res, err = s.Client().Get(s.URL + "/")
	webtest.Must(t, err)
	res.Body.Close()
	if csp := res.Header.Get("Content-Security-Policy"); !strings.Contains(csp, "default-src 'self'") ||
		strings.Contains(strings.ReplaceAll(csp, "'wasm-unsafe-eval'", ""), "unsafe") {
		t.Errorf("policy %q", csp)
	}
	long := url.Values{"title": {strings.Repeat("x", 300<<10)}}
	if status, page := s.Post(webtest.Boathouse+"/brief", long); status != http.StatusRequestEntityTooLarge ||
		!strings.Contains(page, "larger than Largo takes") {
		t.Errorf("a form of 300 kB: %d, want 413", status)
	}
}

// The database dies in the middle of an edit: the page says that the edit was
// not kept, and the same server works again when it is back.
func TestDatabaseGoneAndBack(t *testing.T) {
	s := webtest.Open(t)
	form := func() url.Values {
		return url.Values{"policy": {"within"}, "bridging": {"never"}, "rev": {"1"}, "command": {webtest.Fresh()}}
	}
	webtest.Must(t, storetest.Cluster.Kill())
	status, page := s.Post(webtest.Boathouse+"/match/wishes", form())
	if status != http.StatusServiceUnavailable ||
		!strings.Contains(page, "The edit was not kept. The database does not answer") {
		t.Errorf("%d while the database is away", status)
	}
	if status, _ := s.Get("/healthz"); status != http.StatusServiceUnavailable {
		t.Errorf("healthz %d while the database is away", status)
	}
	webtest.Must(t, storetest.Cluster.Restart(context.Background()))
	if status, page := s.Post(webtest.Boathouse+"/match/wishes", form()); status != http.StatusOK ||
		!strings.Contains(page, `value="within" selected`) {
		t.Errorf("%d after it came back", status)
	}
	if status, _ := s.Get("/healthz"); status != http.StatusOK {
		t.Errorf("healthz %d after it came back", status)
	}
}

// BenchmarkPages renders every page of the demo; the median should stay under
// 15 ms. It prints the median of each.
func BenchmarkPages(b *testing.B) {
	s := webtest.Open(b)
	for _, path := range []string{"/", webtest.Boathouse + "/brief", webtest.Boathouse + "/match", webtest.Boathouse +
		"/wire", webtest.Boathouse + "/protect", webtest.Boathouse + "/start",
		webtest.Boathouse + "/strike", webtest.Boathouse + "/sheet", webtest.Boathouse + "/history",
		webtest.Hall + "/match", "/gear", "/gear/model/fennholt-1400"} {
		b.Run(strings.Trim(path, "/"), func(b *testing.B) {
			var took []time.Duration
			for b.Loop() {
				begun := time.Now()
				if status, _ := s.Get(path); status != http.StatusOK {
					b.Fatal(status)
				}
				took = append(took, time.Since(begun))
			}
			slices.Sort(took)
			b.ReportMetric(float64(took[len(took)/2].Microseconds())/1000, "ms-median")
		})
	}
}

// BenchmarkEdit makes an edit and gets the page with its consequences.
func BenchmarkEdit(b *testing.B) {
	s := webtest.Open(b)
	policies := []string{"within", "headroom"}
	rev := 1
	for b.Loop() {
		status, _ := s.Post(webtest.Boathouse+"/match/wishes",
			url.Values{"policy": {policies[rev%2]}, "bridging": {"never"}, "rev": {fmt.Sprint(rev)},
				"command": {webtest.Fresh()}})
		if status != http.StatusOK {
			b.Fatal(status)
		}
		rev++
	}
}

// Findings that are alike are mended at one stroke, which one undo takes back.
func TestAllAlikeAreMendedTogether(t *testing.T) {
	s := webtest.Open(t)
	meadow := "/jobs/copperas-meadow"
	for _, port := range []string{"out A", "out B"} { // of an amplifier whose limiters can be set
		s.Post(meadow+"/protect/limiter", url.Values{"tag": {"A3"}, "port": {port}, "rms": {""}, "peak": {""}})
	}
	_, page := s.Get(meadow + "/protect")
	if !strings.Contains(page, "Nothing on its way has a limiter") {
		t.Error("A4, whose limiters cannot be set, is offered to record one")
	}
	if !strings.Contains(page, "Both of these") {
		t.Fatal("two limiters that are not set are not offered together")
	}
	q := url.Values{"finding": {"protect.limiter-unset@A3@out A"}, "n": {"all"}, "stage": {"protect"}}
	if _, page := s.Get(meadow + "/protect?mend=" + url.QueryEscape(q.Get("finding")) +
		"&n=all"); !strings.Contains(page, "SUB R stands") || !strings.Contains(page, "Do it") {
		t.Error("what it would do is not shown")
	}
	if status, page := s.Post(meadow+"/mend", q); status != http.StatusOK ||
		!strings.Contains(page, "<s>A3 out B can give more") {
		t.Errorf("%d: they were not mended together", status)
	}
	if _, page := s.Get(meadow + "/history"); !strings.Contains(page, "and 1 more alike") {
		t.Error("the history does not say that there were two")
	}
	if _, page := s.Post(meadow+"/undo", url.Values{"stage": {"protect"}}); !strings.Contains(page, "Both of these") {
		t.Error("one undo does not take it back")
	}
}

// Two edits that a page sends before it has an answer are both kept; the same
// one sent twice is kept once.
func TestAPageIsQuickerThanItsAnswer(t *testing.T) {
	s := webtest.Open(t)
	_, page := s.Get(webtest.Boathouse + "/wire")
	send := func(tag, x string) {
		s.PostInPlace(webtest.Boathouse+"/wire/place", url.Values{"tag": {tag}, "x": {x}, "y": {"300"}, "rev": {"1"},
			"command": {webtest.CommandOf(page)}})
	}
	var sent sync.WaitGroup
	for _, tag := range []string{"A1", "A1", "DESK", "A3"} {
		sent.Go(func() { send(tag, "700") })
	}
	sent.Wait()
	_, history := s.Get(webtest.Boathouse + "/history")
	for _, said := range []string{"Moved A1", "Moved DESK", "Moved A3"} {
		if n := strings.Count(history, said); n != 1 {
			t.Errorf("%q stands %d times in the history", said, n)
		}
	}
	_, other := s.Get(webtest.Boathouse + "/wire")
	if status, _ := s.Post(webtest.Boathouse+"/wire/place",
		url.Values{"tag": {"CUES"}, "x": {"9"}, "y": {"300"}, "rev": {"1"},
			"command": {webtest.CommandOf(other)}}); status != http.StatusConflict {
		t.Errorf("%d: another page's edit was made on a state that it had not seen", status)
	}
}
