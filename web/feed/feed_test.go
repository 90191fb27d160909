package feed_test

import (
	"bytes"
	"image"
	"image/png"
	"math"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"largo/core/rig"
	"largo/exchange"
	"largo/standin"
	"largo/store"
	"largo/store/storetest"
	room "largo/web/feed"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// The tour's supplies are drawn; a part is changed on its form, added, taken out; a device is
// plugged elsewhere; each shows at once what comes of it.
func TestTheSupply(t *testing.T) {
	s := webtest.Open(t)
	const job = webtest.Boathouse
	_, page := s.Get(job + "/feed")
	for _, want := range []string{"All circuits hold on dense music; east wall is the fullest", `class="feed-tree"`,
		"loft stairs", "C16 A, 30 mA A", "licensed work"} {
		if !strings.Contains(page, want) {
			t.Errorf("lacks %q", want)
		}
	}
	part := url.Values{"name": {"east wall"}, "to": {"wall east"}, "sort": {"breaker"}, "from": {"boathouse"},
		"current": {"6"},
		"curve":   {"C"}, "residual": {"30 mA"}, "type": {"A"}}
	if status, page := s.Post(job+"/feed/part", with(part)); status != 200 || !strings.Contains(page,
		"One circuit holds with ordinary programme, and not on dense music.") {
		t.Errorf("%d: %s", status, webtest.Heading(page))
	}
	r := webtest.MustJob(t, s, "wherry-lock-boathouse").Rig
	if r.Supplies[1].Name != "wall east" || r.Supplies[2].From != "wall east" || r.Supplies[1].Residual.Or(0) != 0.03 {
		t.Errorf("%+v", r.Supplies[1:3])
	}
	s.Post(job+"/feed/part", url.Values{"name": {""}, "to": {"kitchen"}, "sort": {"outlet"}, "from": {"loft stairs"},
		"earth": {"no"}})
	_, page = s.Post(job+"/feed/plug", url.Values{"tag": {"A1"}, "outlet": {"kitchen"}})
	if !strings.Contains(page, "Kitchen has no protective earth, and A1 must have it.") {
		t.Error("an amplifier without earth")
	}
	if _, page = s.Post(job+"/feed/remove", url.Values{"name": {"kitchen"}}); !strings.Contains(page,
		"On which outlet A1 stands is not on record") {
		t.Error("A1 hangs on what is gone")
	}
	s.Refuses([]webtest.Refusal{
		webtest.Refused("a breaker of 0 A", job+"/feed/part", with(part, "name", "wall east", "current", "0 A"), "current",
			"cannot be right"),
		webtest.Refused("a loop", job+"/feed/part", with(part, "name", "wall east", "from", "east wall outlet"), "from",
			"is an outlet"),
		webtest.Refused("no name", job+"/feed/part", with(part, "name", "wall east", "to", ""), "to",
			"as it is called on site"),
		webtest.Refused("a load without its volts", job+"/feed/part", with(part, "name", "wall east", "loadedBy", "8 A"),
			"loaded",
			"give both, or neither"),
	})
}

func with(v url.Values, pairs ...string) url.Values {
	next := url.Values{}
	for k, x := range v {
		next[k] = x
	}
	for i := 0; i < len(pairs); i += 2 {
		next.Set(pairs[i], pairs[i+1])
	}
	return next
}

// The crest of a recording takes the place of the eighth: a sine has 3 dB, all of its power.
func TestARecordingIsTaken(t *testing.T) {
	s := webtest.Open(t)
	tone := make([]float64, 24000)
	for i := range tone {
		tone[i] = 0.5 * math.Sin(float64(i)/10)
	}
	var file bytes.Buffer
	webtest.Must(t, exchange.WriteWAV(&file, 48000, tone))
	const at = webtest.Boathouse + "/feed/recording"
	if status, page := s.UploadTo(at, &file, "rev", "1"); status != 200 || !strings.Contains(page,
		"with 3.0 dB of crest, a part of 1.00 of the rated sine power, from a recording") {
		t.Errorf("%d: the crest is not taken", status)
	}
	if status, page := s.UploadTo(at, strings.NewReader("ID3"), "rev", "2"); status != 422 || !strings.Contains(page,
		"The recording was not taken: this is no WAV file.") {
		t.Errorf("%d: what is no recording", status)
	}
}

// A meter's readings are kept with the parts that it names, at rest or under what flows.
func TestAMeterIsRead(t *testing.T) {
	s := webtest.Open(t)
	m := &standin.Meter{Volts: 231, Hertz: 49.8}
	m.Add("L1", 0.5, 0)
	m.Add("L2", 0.5, 8)
	m.Add("barge", 0, 0)
	meter := httptest.NewServer(m)
	defer meter.Close()
	const at = "/jobs/saltpan-quay/feed/meter"
	s.Post(at, url.Values{"meter": {meter.URL}})
	r := webtest.MustJob(t, s, "saltpan-quay").Rig
	if r.Supplies[1].Volts.Or(0) != 231 || r.Supplies[3].Loaded.Or(0) != 227 || r.Supplies[3].LoadedBy.Or(0) != 8 ||
		r.Supplies[0].Hertz.Or(0) != 49.8 || r.Supplies[1].Volts.Origin() != "the meter" {
		t.Errorf("%+v", r.Supplies[:4])
	}
	m.Fault = standin.Nonsense
	s.Refuses([]webtest.Refusal{webtest.Refused("nonsense", at, url.Values{"meter": {meter.URL}}, "meter",
		"cannot be read"),
		webtest.Refused("far away", at, url.Values{"meter": {"http://10.0.0.1:9"}}, "meter", "no address of a meter")})
}

// The plan is shown before it is made, and made in one edit; made again it says so.
func TestPlugsArePlanned(t *testing.T) {
	s := webtest.Open(t)
	const job = "/jobs/saltpan-quay"
	if _, page := s.Get(job + "/feed?plan=all"); !strings.Contains(page, "Three circuits hold it on dense music") {
		t.Error("no plan")
	}
	s.Post(job+"/feed/plan", url.Values{"plan": {"all"}})
	if _, page := s.Get(job + "/feed?plan=all"); !strings.Contains(page, "It is plugged in so already.") {
		t.Error("not plugged in as planned")
	}
	if status, page := s.Post(job+"/feed/plan", url.Values{"plan": {"rest"}}); status != 422 || !strings.Contains(page,
		"Nothing to plug in otherwise: Every device stands on an outlet already.") {
		t.Errorf("%d: planned again", status)
	}
}

// The check of the site goes from outlet to outlet; a fault that the tester shows is at stop.
func TestTheSiteIsChecked(t *testing.T) {
	s := webtest.Open(t)
	const job = "/jobs/saltpan-quay"
	if _, page := s.Get(job + "/feed?visit=next"); !strings.Contains(page, "0 of 3 outlets") || !strings.Contains(page,
		"<b>L1 outlets</b>, barge hold") {
		t.Error("the first outlet is not asked for")
	}
	_, page := s.Post(job+"/feed/visit", url.Values{"name": {"L1 outlets"}, "lamps": {"110"}, "volts": {"231"},
		"loaded":   {"227"},
		"loadedBy": {"8"}, "button": {"yes"}, "visit": {"next"}})
	if !strings.Contains(page, "1 of 3 outlets") || !strings.Contains(page, "<b>L2 outlets</b>") {
		t.Error("the next outlet is not asked for")
	}
	if _, page = s.Get(job + "/feed?visit=L1+outlets"); !strings.Contains(page, "0.5 Ω stand behind it") {
		t.Error("what stands behind it is not told")
	}
	if _, page = s.Post(job+"/feed/visit", url.Values{"name": {"L2 outlets"}, "lamps": {"101"},
		"volts": {"230"}}); !strings.Contains(
		page, "The tester at L2 outlets shows a fault: line and neutral exchanged.") {
		t.Error("exchanged conductors are not at stop")
	}
	s.Refuses([]webtest.Refusal{webtest.Refused("400 V", job+"/feed/visit", url.Values{"name": {"L3?"}}, "", "no outlet"),
		webtest.Refused("9000 V", job+"/feed/visit", url.Values{"name": {"quay outlets"}, "volts": {"9000"}}, "volts",
			"cannot be right")})
}

// Where nothing is drawn the circuits at hand are begun at one stroke: of three phases they
// take turns.
func TestBegun(t *testing.T) {
	s := webtest.Open(t)
	s.Post("/jobs", url.Values{"title": {"Mill"}, "region": {string(rig.RegionWye)}})
	if _, page := s.Get("/jobs/mill/feed"); !strings.Contains(page, "Begin with the circuits at hand") ||
		!strings.Contains(page,
			`value="20 A"`) || !strings.Contains(page, `value="6 mA"`) {
		t.Error("the circuits of the region are not offered")
	}
	if status, _ := s.Post("/jobs/mill/feed/begin", url.Values{"circuits": {"4"}, "amps": {"20 A"}, "phases": {"3"},
		"curve": {string(rig.CurveAmerican)}}); status != 200 {
		t.Fatal(status)
	}
	r := webtest.MustJob(t, s, "mill").Rig
	if len(r.Supplies) != 9 || r.Supplies[7].Phase != 1 || r.Supplies[5].Phase != 3 || r.Supplies[0].Phases != 3 {
		t.Errorf("%+v", r.Supplies)
	}
	s.Post("/jobs", url.Values{"title": {"Loft"}})
	s.Refuses([]webtest.Refusal{webtest.Refused("none", "/jobs/loft/feed/begin", url.Values{"circuits": {"0"}}, "circuits",
		"1 to 60")})
}

// A circuit is watched by a meter that is asked by itself, by two servers once; what is typed
// stands beside it; what it carries for longer than it surely holds is said.
func TestCircuitsDuringTheShow(t *testing.T) {
	s := webtest.Open(t)
	const at, slug = "/jobs/saltpan-quay/feed", "saltpan-quay"
	if _, page := s.Get(at + "/show"); !strings.Contains(page, "No meter has read any circuit yet.") {
		t.Error("nothing was read")
	}
	m := &standin.Meter{Volts: 231, Hertz: 49.8}
	m.Add("L1", 0.5, 5)
	m.Add("L2", 0.5, 24)
	meter := httptest.NewServer(m)
	defer meter.Close()
	if status, page := s.Post(at+"/watch", url.Values{"meter": {meter.URL}}); status != 200 ||
		!strings.Contains(page, "Read every half minute at "+meter.URL) {
		t.Fatalf("%d: %s", status, webtest.Heading(page))
	}
	begun := time.Now().Add(-20 * time.Minute).Truncate(30 * time.Second)
	for i := range 41 { // both servers ask
		room.AskMeters(t.Context(), s.Handler.Server, begun.Add(time.Duration(i)*30*time.Second))
		room.AskMeters(t.Context(), s.Handler.Server, begun.Add(time.Duration(i)*30*time.Second))
	}
	read, err := s.Store.Readings(t.Context(), slug, begun)
	if webtest.Must(t, err); len(read) != 82 || read[0].Author != "the meter" || read[0].Hertz.Or(0) != 49.8 {
		t.Errorf("%d readings, want 82: %+v", len(read), read[0])
	}
	_, page := s.Get(at + "/show")
	for _, want := range []string{"L2 carried 24 A for longer than it surely holds", `class="feed-hour"`,
		"none: it holds that"} {
		if !strings.Contains(page, want) {
			t.Errorf("lacks %q", want)
		}
	}
	if _, page = s.Post(at+"/reading", url.Values{"part": {"L3"}, "amps": {"9.5"},
		"volts": {"228"}}); !strings.Contains(page,
		"9.5 A") {
		t.Error("a reading that was typed is not shown")
	}
	s.Post(at+"/watch", url.Values{"stop": {"yes"}})
	if meters, err := s.Store.Meters(t.Context()); err != nil || len(meters) != 0 {
		t.Errorf("%v, %v", meters, err)
	}
	m.Fault = standin.Nonsense
	s.Refuses([]webtest.Refusal{webtest.Refused("nonsense", at+"/watch", url.Values{"meter": {meter.URL}}, "meter",
		"cannot be read"),
		webtest.Refused("nothing flows", at+"/reading", url.Values{"part": {"L1"}, "amps": {""}}, "amps", "Give what flows"),
		webtest.Refused("too much", at+"/reading", url.Values{"part": {"L1"}, "amps": {"9000"}}, "amps", "cannot be right"),
		webtest.Refused("no such part", at+"/reading", url.Values{"part": {"L9"}, "amps": {"1"}}, "part", "any more")})
}

// An outlet is photographed; at the next visit its photograph and its readings stand beside those
// of the day, and its circuits are drawn as they were, without what was read of them.
func TestTheNextVisit(t *testing.T) {
	s := webtest.Open(t)
	const first = webtest.Boathouse + "/feed"
	var shot bytes.Buffer
	webtest.Must(t, png.Encode(&shot, image.NewGray(image.Rect(0, 0, 1600, 800))))
	status, page := s.UploadTo(first+"/photo", &shot, "rev", "1", "part", "east wall outlet")
	if status != 200 || !strings.Contains(page, `alt="east wall outlet, photographed by`) {
		t.Fatalf("%d: the photograph is not shown", status)
	}
	if status, page = s.UploadTo(first+"/photo", strings.NewReader("GIF"), "rev", "1", "part",
		"east wall outlet"); status !=
		422 || !strings.Contains(page, "The photograph was not kept") {
		t.Errorf("%d: what is no photograph", status)
	}
	shot.Reset()
	webtest.Must(t, png.Encode(&shot, image.NewGray(image.Rect(0, 0, 16, 8))))
	if status, page = s.UploadTo(first+"/photo", &shot, "rev", "1", "part", "ghost"); status != 422 ||
		!strings.Contains(page, "no part") {
		t.Errorf("%d: of a part that is not there", status)
	}
	brief := webtest.MustJob(t, s, "wherry-lock-boathouse").Rig.Brief
	next := rig.NewRig(brief)
	next.Brief.Date = "2028-06-10"
	slug, err := s.Store.CreateJob(t.Context(), store.Change{Command: webtest.Fresh(), Rig: next, Said: "x",
		Author: "Ines"})
	webtest.Must(t, err)
	at := "/jobs/" + slug + "/feed"
	if _, page = s.Get(at); !strings.Contains(page,
		"As it was at the last visit here: Wherry Lock boathouse, 2027-06-12") {
		t.Fatal("the last visit is not offered")
	}
	s.Post(at+"/again", url.Values{})
	parts := webtest.MustJob(t, s, slug).Rig.Supplies
	if len(parts) != 5 || parts[2].Volts.Known() || parts[2].Lamps != "" || parts[1].Residual.Or(0) != 0.03 {
		t.Errorf("%+v", parts)
	}
	_, page = s.Get(at + "?visit=east+wall+outlet")
	for _, want := range []string{"12 June 2027", "0.4 Ω", "photographed by"} {
		if !strings.Contains(page, want) {
			t.Errorf("the check lacks %q", want)
		}
	}
	src := regexp.MustCompile(`<img src="([^"]+)"`).FindStringSubmatch(page)
	if status, jpeg := s.Get(src[1]); status != 200 || !strings.HasPrefix(jpeg, "\xff\xd8") {
		t.Errorf("%d: the photograph of the visit before", status)
	}
	if status, _ := s.Get("/jobs/saltpan-quay/feed/photo/" + src[1][strings.LastIndex(src[1], "/")+1:]); status != 404 {
		t.Errorf("%d: a photograph of another place", status)
	}
}
