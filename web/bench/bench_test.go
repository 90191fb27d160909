package bench_test

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"largo/core/bench"
	"largo/store/storetest"
	room "largo/web/bench"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// begun begins a session of a Keel 12 as its form sends it, and gives its address.
func begun(t *testing.T, s *webtest.Site, with url.Values) string {
	t.Helper()
	v := url.Values{"command": {webtest.Fresh()}, "model": {"brackwater-keel-12"}, "way": {"0"}, "zone": {"3600"},
		"box": {"number 7"}, "probe1": {"magnet"}, "coil": {"copper"}, "re": {"5.6 ohm"}, "cold": {"68 F"},
		"onLine": {"7.1"}, "low": {"45 Hz"}, "high": {"120 Hz"}, "into": {"5 dB"}}
	for k, x := range with {
		v[k] = x
	}
	status, page := s.Post("/bench", v)
	_, rest, _ := strings.Cut(page, `data-session="`)
	at, _, found := strings.Cut(rest, `"`)
	if status != http.StatusOK || !found {
		t.Fatalf("%d: %s", status, webtest.Heading(page))
	}
	return at
}

func happens(s *webtest.Site, at, kind string, fields ...string) (int, string) {
	v := url.Values{"command": {webtest.Fresh()}, "kind": {kind}}
	for i := 0; i < len(fields); i += 2 {
		v.Set(fields[i], fields[i+1])
	}
	return s.Post(at, v)
}

// A session as somebody new would do it: no power before the cautions, then a step, then
// readings; what cannot be is refused where it was typed, and can be said again.
func TestASessionByHand(t *testing.T) {
	s := webtest.Open(t)
	at := begun(t, s, nil)
	if status, page := happens(s, at, "step", "volts", "24 V"); status != http.StatusUnprocessableEntity ||
		!strings.Contains(page, "extinguisher") || !strings.Contains(page, `value="24 V"`) {
		t.Errorf("%d: power before the cautions", status)
	}
	ready := url.Values{"command": {webtest.Fresh()}, "box": {"number 7"}, "probe1": {"magnet"}, "coil": {"copper"},
		"re": {"5.6"}, "cold": {"20"}, "onLine": {"7.1"}}
	for _, c := range bench.Cautions {
		ready.Add("ready", c.Key)
	}
	if status, page := s.Post(at+"/setup", ready); status != http.StatusOK || !strings.Contains(webtest.Heading(page),
		"Begin at a quarter of the rating: limiter at 24.5 V") {
		t.Errorf("%d: %s", status, webtest.Heading(page))
	}
	for _, e := range [][]string{{"reading", "probe1", "20", "air", "20"}, {"step", "volts", "24.4 V"}} {
		if status, page := happens(s, at, e[0], e[1:]...); status != http.StatusOK {
			t.Fatalf("%s: %d %s", e, status, page)
		}
	}
	soon := fmt.Sprint(time.Now().Unix() + 60)
	status, page := happens(s, at, "reading", "probe1", "75", "pressed", soon)
	if status != http.StatusUnprocessableEntity || !strings.Contains(page, "write 75 F") || !strings.Contains(page,
		`name="sure"`) || !strings.Contains(page, `value="75"`) {
		t.Errorf("%d: 75 °C a minute after 20", status)
	}
	if status, page = happens(s, at, "reading", "probe1", "75 F", "pressed", soon); status != http.StatusOK ||
		!strings.Contains(page, "Magnet 23.9 °C") {
		t.Errorf("%d: 75 F", status)
	}
	if _, page = happens(s, at, "withdraw", "of", "3"); !strings.Contains(page, "<s>Magnet 23.9 °C</s>") ||
		!strings.Contains(page, "Withdrew number 3") {
		t.Error("number 3 is not withdrawn")
	}
	if status, page = happens(s, at, "reading", "probe1", "21", "at", "quarter past"); status !=
		http.StatusUnprocessableEntity || !strings.Contains(page, "no time of day") {
		t.Errorf("%d: a time that is none", status)
	}
	happens(s, at, "end", "said", "rain")
	if status, page = s.Post(at+"/limit", url.Values{"command": {webtest.Fresh()}}); status !=
		http.StatusUnprocessableEntity || !strings.Contains(page, "proves no limit") {
		t.Errorf("%d: a session of a minute sets a limit", status)
	}
	if _, csv := s.Get(at + "/readings.csv"); !strings.Contains(csv, ",reading,,23.88") || !strings.Contains(csv,
		",yes,") ||
		strings.Count(csv, "\n") != 6 {
		t.Errorf("%s", csv)
	}
}

// The demo's finished session sets the limit of its model, with its evidence, and the next
// session of that model begins with what it taught.
func TestAFinishedSessionSetsTheLimit(t *testing.T) {
	s := webtest.Open(t)
	status, page := s.Post("/bench/session/1/limit", url.Values{"command": {webtest.Fresh()}})
	if status != http.StatusOK || !strings.Contains(page, "32.4 V") {
		t.Fatalf("%d: %s", status, webtest.Heading(page))
	}
	m, err := s.Store.Model(t.Context(), "brackwater-keel-12")
	webtest.Must(t, err)
	if v, known := m.Loudspeaker.Tested.Get(); !known || v != 32.4 || !strings.Contains(m.Loudspeaker.Tested.Origin(),
		"thermal test of number 3") {
		t.Errorf("%s, %q", m.Loudspeaker.Tested, m.Loudspeaker.Tested.Origin())
	}
	if _, page := s.Get("/bench/new?model=brackwater-keel-12"); !strings.Contains(page, "the session of number 3") {
		t.Error("the next session begins with nothing")
	}
	if status, _ := s.Post("/bench/session/3/limit", url.Values{"command": {webtest.Fresh()}}); status !=
		http.StatusUnprocessableEntity {
		t.Errorf("%d: a spoiled session sets a limit", status)
	}
}

// A probe is asked without any page open; two servers that ask at once keep one answer;
// one that answers nonsense, or not, leaves nothing.
func TestAProbeIsAsked(t *testing.T) {
	s := webtest.Open(t)
	answer := `{"n": 1, "probe1": 21.5, "air": 20.5}`
	probe := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, answer) }))
	defer probe.Close()
	at := begun(t, s, url.Values{"ask": {probe.URL}})
	when := time.Now()
	for range 2 {
		room.AskAll(t.Context(), s.Handler.Server, when)
	}
	_, page := s.Get(at)
	if strings.Count(page, "Magnet 21.5 °C, air 20.5 °C") != 1 || !strings.Contains(page, "the probe") {
		t.Error("asked twice within one slot: not kept once")
	}
	answer = `{"probe1": 2000}`
	room.AskAll(t.Context(), s.Handler.Server, when.Add(time.Minute))
	answer = "<html>"
	room.AskAll(t.Context(), s.Handler.Server, when.Add(2*time.Minute))
	probe.Close()
	room.AskAll(t.Context(), s.Handler.Server, when.Add(3*time.Minute))
	if _, page = s.Get(at); !strings.Contains(page, `data-events="1"`) {
		t.Error("nonsense is kept")
	}
	if status, page := s.Post("/bench", url.Values{"command": {webtest.Fresh()}, "model": {"brackwater-keel-12"},
		"probe1": {
			"magnet"}, "ask": {"http://10.1.2.3:80"}}); status != http.StatusUnprocessableEntity || !strings.Contains(page,
		"on this machine alone") {
		t.Errorf("%d: a probe elsewhere", status)
	}
}

func TestWhatIsNotHere(t *testing.T) {
	s := webtest.Open(t)
	for _, path := range []string{"/bench/session/99", "/bench/session/x", "/bench/session/99/readings.csv",
		"/bench/new?model=nothing"} {
		if status, _ := s.Get(path); status != http.StatusNotFound {
			t.Errorf("%s: %d", path, status)
		}
	}
	if status, page := s.Get("/bench/new?model=lapwell-heron"); status != http.StatusUnprocessableEntity ||
		!strings.Contains(page, "no passive box") {
		t.Errorf("%d: an active box", status)
	}
}

// A photograph is kept with what it shows, comes back as a picture of its session, and of no
// other; what is none is refused by its field, and keeps nothing.
func TestPhotographs(t *testing.T) {
	s := webtest.Open(t)
	at, other := begun(t, s, nil), begun(t, s, nil)
	if status, page := s.UploadTo(at+"/photo", strings.NewReader("volts 24")); status != http.StatusUnprocessableEntity ||
		!strings.Contains(page, "no photograph") {
		t.Errorf("%d: a text was taken for a photograph", status)
	}
	var file bytes.Buffer
	webtest.Must(t, png.Encode(&file, image.NewGray(image.Rect(0, 0, 1600, 800))))
	status, page := s.UploadTo(at+"/photo", &file)
	_, rest, found := strings.Cut(page, `<img class="heat-shot" src="`)
	address, _, _ := strings.Cut(rest, `"`)
	if status != http.StatusOK || !found {
		t.Fatalf("%d, no picture on the page", status)
	}
	if status, jpeg := s.Get(address); status != http.StatusOK || !strings.HasPrefix(jpeg, "\xff\xd8") {
		t.Errorf("%d: no JPEG", status)
	}
	if status, _ := s.Get(strings.Replace(address, at, other, 1)); status != http.StatusNotFound {
		t.Errorf("%d: it is shown in another session", status)
	}
}
