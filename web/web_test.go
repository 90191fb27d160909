package web_test

import (
	"bytes"
	"context"
	"fmt"
	"html"
	"io"
	"log/slog"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"largo/core/gear"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/demo"
	"largo/demo/tour"
	"largo/store"
	"largo/store/storetest"
	"largo/web"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// site is a running server on the demo tour.
type site struct {
	t testing.TB
	*httptest.Server
	store   *store.Store
	handler *web.Server

	oneAtATime sync.Mutex // edits of a job, where a test sends many
}

const (
	boathouse = "/jobs/wherry-lock-boathouse"
	hall      = "/jobs/marigold-roller-hall"
)

func open(t testing.TB) *site {
	t.Helper()
	st := storetest.Open(t)
	must(t, tour.Load(context.Background(), st))
	h, err := web.New(st, slog.New(slog.DiscardHandler))
	must(t, err)
	s := httptest.NewServer(h)
	t.Cleanup(s.Close)
	return &site{t: t, Server: s, store: st, handler: h}
}

func must(t testing.TB, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

var commands atomic.Int64

func command(n int) string { return fmt.Sprintf("00000000-0000-4000-8000-%012d", n) }

// fresh is a command id that was not used before.
func fresh() string {
	return command(1000 + int(commands.Add(1)))
}

func (s *site) get(path string) (int, string) {
	s.t.Helper()
	res, err := s.Client().Get(s.URL + path)
	must(s.t, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	must(s.t, err)
	return res.StatusCode, string(b)
}

// post sends a form on the revision in force and follows to the page.
func (s *site) post(path string, form url.Values) (int, string) {
	s.t.Helper()
	if form.Get("rev") == "" {
		form.Set("rev", s.revision(path))
	}
	if form.Get("command") == "" {
		form.Set("command", fresh())
	}
	if form.Get("base") == "" {
		form.Set("base", s.base(path))
	}
	res, err := s.Client().PostForm(s.URL+path, form)
	must(s.t, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	must(s.t, err)
	return res.StatusCode, string(b)
}

// BenchmarkThousandJobs lists a thousand jobs, page and all; the aim is 50 ms.
func BenchmarkThousandJobs(b *testing.B) {
	s := open(b)
	rigs, err := demo.Rigs()
	must(b, err)
	for i := range 1000 {
		r := rigs[i%len(rigs)].Clone()
		r.Brief.Title = fmt.Sprintf("Job %d", i)
		_, err := s.store.CreateJob(context.Background(), store.Change{Command: fresh(), Rig: r, Said: "x", Author: "y"})
		must(b, err)
	}
	ctx, end := context.WithCancel(context.Background())
	defer end()
	go s.handler.Run(ctx)
	for {
		if _, page := s.get("/"); !strings.Contains(page, "not judged yet") {
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	for b.Loop() {
		if status, _ := s.get("/"); status != http.StatusOK {
			b.Fatal(status)
		}
	}
}

// postInPlace sends an edit as the page does that takes the answer in place.
func (s *site) postInPlace(path string, form url.Values) string {
	s.t.Helper()
	req, err := http.NewRequest(http.MethodPost, s.URL+path, strings.NewReader(form.Encode()))
	must(s.t, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("X-Alpine-Request", "true")
	res, err := s.Client().Do(req)
	must(s.t, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	must(s.t, err)
	if res.StatusCode != http.StatusOK {
		s.t.Fatalf("%s answers %d", path, res.StatusCode)
	}
	return string(b)
}

// commandOf is the id that the next edit of a page bears.
func commandOf(page string) string {
	_, rest, _ := strings.Cut(page, `name="command" value="`)
	command, _, _ := strings.Cut(rest, `"`)
	return command
}

var baseForm = regexp.MustCompile(`name="base" value="(\d+)"`)

// base is what a page of the library or of the stock says that it shows.
func (s *site) base(path string) string {
	at := ""
	switch {
	case strings.HasPrefix(path, "/gear/model/"):
		at = strings.Join(strings.Split(path, "/")[:4], "/")
	case strings.HasPrefix(path, "/stock"):
		at = "/stock"
	default:
		return ""
	}
	_, page := s.get(at)
	if m := baseForm.FindStringSubmatch(page); m != nil {
		return m[1]
	}
	return ""
}

var revForm = regexp.MustCompile(`name="rev" value="(\d+)"`)

func (s *site) revision(path string) string {
	parts := strings.Split(path, "/")
	if len(parts) < 3 || parts[1] != "jobs" {
		return "0"
	}
	_, page := s.get("/jobs/" + parts[2] + "/brief")
	if m := revForm.FindStringSubmatch(page); m != nil {
		return m[1]
	}
	return "0"
}

func TestEveryPageAnswers(t *testing.T) {
	s := open(t)
	paths := []string{"/", "/gear", "/gear/new/amplifier", "/gear/new/loudspeaker", "/gear/new/mixer", "/gear/new/processor", "/gear/new/source", "/gear/new/microphone", "/gear/new/receiver", "/gear/new/DI", "/gear/new/stage box", "/gear/new/network switch", "/gear/new/cable", "/gear/new/generator", "/gear/new/distro", "/stock",
		"/gear/model/fennholt-1400", "/gear/model/osierby-divide", "/gear/model/lapwell-lark"}
	for _, job := range []string{boathouse, hall, "/jobs/saltpan-quay", "/jobs/copperas-meadow"} {
		for _, page := range []string{"brief", "match", "wire", "wire?device=A1", "protect", "start", "strike", "sheet", "history", "rig.json", "match?sum=A1+out+A&figure=load"} {
			paths = append(paths, job+"/"+page)
		}
	}
	for _, p := range paths {
		status, body := s.get(p)
		if status != http.StatusOK || len(body) < 200 {
			t.Errorf("%s: %d, %d bytes", p, status, len(body))
		}
		for _, sign := range []string{"{{", "%!", "<nil>", "ZgotmplZ", " style=", "<script>", "http://", "https://"} {
			if strings.Contains(body, sign) {
				t.Errorf("%s holds %q", p, sign)
			}
		}
	}
	for _, p := range []string{"/nope", "/jobs/nope/brief", boathouse + "/nope", "/gear/model/nope", "/gear/new/toaster", "/static/nope.css"} {
		if status, _ := s.get(p); status != http.StatusNotFound {
			t.Errorf("%s: %d, want 404", p, status)
		}
	}
}

func TestASumIsShownWhenAsked(t *testing.T) {
	s := open(t)
	_, page := s.get(boathouse + "/protect?sum=A1+out+A&figure=long")
	for _, want := range []string{"Vrms = sqrt(Pc × Z)", "Vrms = sqrt(300 W × 8 Ω)", "Vrms = 49.0 V", "rated impedance"} {
		if !strings.Contains(page, want) {
			t.Errorf("the sum lacks %q", want)
		}
	}
}

func TestAMendIsPreviewedAppliedAndUndone(t *testing.T) {
	s := open(t)
	const id = "match.load-below-least@A1@out A"
	_, page := s.get(hall + "/match?" + url.Values{"mend": {id}, "n": {"0"}}.Encode())
	if !strings.Contains(page, "2.67 Ω to <b>4 Ω</b>") {
		t.Error("the preview does not show the load before and after")
	}
	if _, now := s.get(hall + "/match"); !strings.Contains(now, "drives 2.67 Ω") {
		t.Error("looking at a mend changed the rig")
	}
	status, page := s.post(hall+"/mend", url.Values{"stage": {"match"}, "finding": {id}, "n": {"0"}})
	if status != http.StatusOK || strings.Contains(page, "drives 2.67 Ω, below its least of 4 Ω.</b>") || !strings.Contains(page, "What that changed") {
		t.Errorf("%d: the mend was not made, or its effect not shown", status)
	}
	if _, page = s.post(hall+"/undo", url.Values{"stage": {"match"}}); !strings.Contains(page, "drives 2.67 Ω") {
		t.Error("undo did not bring the overload back")
	}
	if _, page = s.post(hall+"/redo", url.Values{"stage": {"match"}}); strings.Contains(page, "One output runs below") {
		t.Error("redo did not mend again")
	}
}

func TestRefusedFormsSayWhyAtTheField(t *testing.T) {
	s := open(t)
	amp := func(change ...string) url.Values {
		v := url.Values{"maker": {"Test"}, "name": {"N"}, "channels": {"2"}, "ratings": {"8 ohm 400 W\n4 ohm 700 W"}}
		for i := 0; i+1 < len(change); i += 2 {
			v.Set(change[i], change[i+1])
		}
		return v
	}
	box := func(name, value string) url.Values {
		return url.Values{"maker": {"Test"}, "name": {"B"}, "link": {"true"}, name: {value}}
	}
	brief := func(name, value string) url.Values {
		v := url.Values{"title": {"T"}}
		v.Set(name, value)
		return v
	}
	lead := func(from, to string) url.Values { return url.Values{"from": {from}, "to": {to}} }
	for _, c := range []struct {
		what, path string
		form       url.Values
		field, say string
	}{
		{"0 ohms", "/gear/new/amplifier", amp("ratings", "0 ohm 400 W"), "ratings", "above 0 Ω"},
		{"negative ohms", "/gear/new/amplifier", amp("ratings", "-8 ohm 400 W"), "ratings", "above 0 Ω"},
		{"8 kW typed as W", "/gear/new/amplifier", amp("ratings", "8 ohm 8 W"), "ratings", "write 8 kW"},
		{"a falling table", "/gear/new/amplifier", amp("ratings", "8 ohm 700 W\n4 ohm 400 W"), "ratings", "falls where it should rise"},
		{"a rating in prose", "/gear/new/amplifier", amp("ratings", "plenty"), "ratings", "neither a load nor a power"},
		{"half a rating", "/gear/new/amplifier", amp("ratings", "8 ohm"), "ratings", "a load and a power"},
		{"gain in ohms", "/gear/new/amplifier", amp("gain", "32 ohm"), "gain", "unit should be dB"},
		{"no maker", "/gear/new/amplifier", amp("maker", ""), "maker", "missing"},
		{"a name of 10,000", "/gear/new/amplifier", amp("name", strings.Repeat("x", 10000)), "name", "10000 characters"},
		{"script in a name", "/gear/new/amplifier", amp("name", "<script>alert(1)</script>"), "name", "may not hold"},
		{"a model twice", "/gear/new/amplifier", amp("maker", "Fennholt", "name", "1400"), "name", "already has"},
		{"a box of 0 ohm", "/gear/new/loudspeaker", box("nominal", "0"), "nominal", "0 Ω cannot be right"},
		{"a box of 8 kW", "/gear/new/loudspeaker", box("continuous", "8 kW"), "continuous", "8000 W cannot be right"},
		{"a level of 300 dB", boathouse + "/brief", brief("wanted", "300"), "wanted", "cannot be right"},
		{"a title of script", boathouse + "/brief", brief("title", "<b>x</b>"), "title", "may not hold"},
		{"a date of nowhere", boathouse + "/brief", brief("date", "yesterday"), "date", "not a date"},
		{"half a listener", boathouse + "/brief", brief("listeners", "1.5"), "listeners", "not a whole number"},
		{"a box linked to itself", boathouse + "/wire/connect", lead("TOP L2\tlink", "TOP L2\tin"), "to", "cannot be linked to itself"},
		{"two outputs joined", boathouse + "/wire/connect", lead("A2\tout B", "TOP L1\tin"), "to", "join two outputs"},
		{"nothing chosen", boathouse + "/wire/connect", lead("", ""), "from", "Choose an output"},
		{"a tag used twice", boathouse + "/wire/add", url.Values{"model": {"brackwater-reed-10"}, "tags": {"A1"}}, "tags", "already bears"},
		{"no model", boathouse + "/wire/add", url.Values{"model": {"ghost"}, "tags": {"Z1"}}, "model", "Choose a model"},
		{"boxes on nothing", boathouse + "/wire/hang", url.Values{"boxes": {"TOP L1"}, "outputs": {"A9 A"}, "each": {"2"}}, "outputs", "no output"},
		{"a falling run of tags", boathouse + "/wire/hang", url.Values{"boxes": {"TOP 6 to 1"}, "outputs": {"A1 A"}, "each": {"2"}}, "boxes", "should rise"},
		{"a reading in volts", boathouse + "/wire/reading", url.Values{"device": {"A1"}, "port": {"out A"}, "dc": {"3 V"}, "list": {"lines"}}, "dc", "unit should be Ω"},
		{"a peak under rms", boathouse + "/protect/limiter", url.Values{"tag": {"A1"}, "port": {"out A"}, "rms": {"50"}, "peak": {"40"}}, "", "never less than its rms"},
	} {
		before := s.state()
		status, page := s.post(c.path, c.form)
		if status != http.StatusUnprocessableEntity {
			t.Errorf("%s: %d, want 422", c.what, status)
		}
		plain := strings.ReplaceAll(page, "&#34;", `"`)
		at := regexp.MustCompile(`(?s)<p class="fault"[^>]*id="[^"]*-` + c.field + `-fault">[^<]*` + regexp.QuoteMeta(c.say))
		if c.field == "" {
			at = regexp.MustCompile(`(?s)<p class="fault">[^<]*` + regexp.QuoteMeta(c.say))
		}
		if !at.MatchString(plain) {
			t.Errorf("%s: no sentence with %q at field %q", c.what, c.say, c.field)
		}
		if strings.Contains(page, "<script>alert") {
			t.Errorf("%s: script came back as script", c.what)
		}
		if s.state() != before {
			t.Errorf("%s: something was changed", c.what)
		}
	}
	// A ring of link-throughs: the first box of the chain is pulled off its output.
	s.post(boathouse+"/wire/disconnect", url.Values{"to": {"TOP L1\tin"}})
	if status, page := s.post(boathouse+"/wire/connect", lead("TOP L2\tlink", "TOP L1\tin")); status != 422 || !strings.Contains(page, "ring of link-throughs") {
		t.Errorf("a ring of link-throughs: %d", status)
	}
}

// state is what the database holds, to see that nothing changed.
func (s *site) state() string {
	jobs, _, err := s.store.List(context.Background(), store.AtHand, "", "", 0, 1000)
	must(s.t, err)
	models, err := s.store.Models(context.Background())
	must(s.t, err)
	text := fmt.Sprint(len(models))
	for _, j := range jobs {
		text += fmt.Sprintf(" %s:%d", j.Slug, j.Number)
	}
	return text
}

func (s *site) upload(file io.Reader) (int, string) { return s.uploadTo("/jobs/import", file) }

func (s *site) uploadTo(path string, file io.Reader) (int, string) {
	s.t.Helper()
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	must(s.t, w.WriteField("command", fresh()))
	must(s.t, w.WriteField("base", s.base(path)))
	part, err := w.CreateFormFile("file", "rig.json")
	must(s.t, err)
	_, err = io.Copy(part, file)
	must(s.t, err)
	must(s.t, w.Close())
	res, err := s.Client().Post(s.URL+path, w.FormDataContentType(), &body)
	must(s.t, err)
	defer res.Body.Close()
	b, _ := io.ReadAll(res.Body)
	return res.StatusCode, string(b)
}

func TestImport(t *testing.T) {
	s := open(t)
	_, file := s.get(hall + "/rig.json")
	status, page := s.upload(strings.NewReader(file))
	if status != http.StatusOK || !strings.Contains(page, "Marigold Roller Hall") {
		t.Fatalf("%d: an exported rig is not taken back", status)
	}
	_, again := s.get("/jobs/marigold-roller-hall-2/rig.json")
	if again != file {
		t.Error("exported, imported and exported again, the rig is another")
	}
	for what, c := range map[string]struct {
		file   io.Reader
		status int
		say    string
	}{
		"50 MB":          {io.LimitReader(spaces{}, 50<<20), http.StatusRequestEntityTooLarge, "larger than 4 MiB"},
		"another format": {strings.NewReader(`{"format":"pictures/3"}`), 422, "pictures/3"},
		"half a file":    {strings.NewReader(file[:len(file)/2]), 422, "ends in the middle"},
		"no file at all": {strings.NewReader(""), 422, "empty"},
		"script":         {strings.NewReader(strings.Replace(file, "Marigold Roller Hall", "<script>alert(1)</script>", 1)), 422, "may not hold"},
	} {
		before := s.state()
		status, page := s.upload(c.file)
		if status != c.status || !strings.Contains(page, c.say) || s.state() != before {
			t.Errorf("%s: %d, changed %v; want %d and a sentence with %q", what, status, s.state() != before, c.status, c.say)
		}
	}
}

func TestGearInAndOut(t *testing.T) {
	s := open(t)
	_, table := s.get("/gear.csv")
	_, file := s.get("/gear.json")
	for what, f := range map[string]string{"table": table, "JSON": file} {
		if status, page := s.uploadTo("/gear/import", strings.NewReader(f)); status != 200 || !strings.Contains(page, "No models new, no models changed, 116 models as they are") {
			t.Errorf("%s back again: %d", what, status)
		}
	}
	changed := strings.Replace(table, "420 W into 8 Ω", "430 W into 8 Ω", 1) + "\n"
	changed = strings.Replace(changed, "fennholt-2900,", "quern-9,", 1)
	before := s.state()
	status, page := s.uploadTo("/gear/import", strings.NewReader(changed))
	if status != 200 || !strings.Contains(page, "One model new, one model changed") || !strings.Contains(page, "430 W into 8 Ω") || s.state() != before {
		t.Fatalf("%d: the dry run does not show what would change, or changed it", status)
	}
	id := regexp.MustCompile(`name="import" value="([^"]+)"`).FindStringSubmatch(page)
	if status, page = s.post("/gear/import/take", url.Values{"import": {id[1]}}); status != 200 || !strings.Contains(page, "117 models in the library") {
		t.Errorf("%d: not taken", status)
	}
	if status, page := s.post("/gear/import/take", url.Values{"import": {"nothing"}}); status != 422 || !strings.Contains(page, "No import is named") {
		t.Errorf("%d for an import that is not one, want 422", status)
	}
	for what, c := range map[string]struct {
		file   io.Reader
		status int
		say    string
	}{
		"a fault in a row": {strings.NewReader(strings.Replace(table, "420 W into 8 Ω", "plenty", 1)), 422, "column ratings"},
		"50 MB":            {io.LimitReader(spaces{}, 50<<20), 413, "larger than 4 MiB"},
		"empty":            {strings.NewReader(""), 422, "empty"},
	} {
		before := s.state()
		if status, page := s.uploadTo("/gear/import", c.file); status != c.status || !strings.Contains(page, c.say) || s.state() != before {
			t.Errorf("%s: %d, want %d and %q", what, status, c.status, c.say)
		}
	}
}

type spaces struct{}

func (spaces) Read(b []byte) (int, error) {
	for i := range b {
		b[i] = ' '
	}
	return len(b), nil
}

func TestConflictOfTwoEditors(t *testing.T) {
	s := open(t)
	wishes := func(policy string) url.Values {
		return url.Values{"policy": {policy}, "bridging": {"never"}, "rev": {"1"}, "command": {fresh()}}
	}
	first := wishes("within")
	if status, _ := s.post(boathouse+"/match/wishes", first); status != http.StatusOK {
		t.Fatalf("first: %d", status)
	}
	status, page := s.post(boathouse+"/match/wishes", wishes("tenth over"))
	if status != http.StatusConflict || !strings.Contains(page, "Somebody else has changed this rig") || !strings.Contains(page, "What somebody else changed") {
		t.Errorf("second: %d, want 409 and what the first changed", status)
	}
	again := regexp.MustCompile(`(?s)<form class="again".*?</form>`).FindString(page)
	if !strings.Contains(again, `name="policy" value="tenth over"`) || !strings.Contains(again, `name="rev" value="2"`) {
		t.Errorf("the second edit cannot be made on top: %q", again)
	}
	if status, _ := s.post(boathouse+"/match/wishes", first); status != http.StatusOK {
		t.Errorf("the first again, as a bad line repeats it: %d, want 200", status)
	}
	if j, _ := s.store.Job(context.Background(), "wherry-lock-boathouse"); j.Number != 2 {
		t.Errorf("revision %d, want 2", j.Number)
	}
}

func TestStringsAndReadings(t *testing.T) {
	s := open(t)
	status, _ := s.post(hall+"/wire/hang", url.Values{"boxes": {"TOP 1 to 3"}, "outputs": {"a1 out a, A1 B"}, "each": {"2"}})
	if status != 422 { // the tag is A1, as on its tape
		t.Errorf("%d for a tag in the wrong case", status)
	}
	status, page := s.post(hall+"/wire/hang", url.Values{"boxes": {"TOP 1 to 3"}, "outputs": {"A1 out a, A1 B"}, "each": {"2"}})
	if status != 200 || !strings.Contains(page, "What that changed") {
		t.Errorf("%d: not hung", status)
	}
	if _, page = s.get(hall + "/match"); strings.Contains(page, "drives 2.67 Ω") {
		t.Error("two on each output, and still 2.67 Ω")
	}
	if status, page = s.post(hall+"/wire/reading", url.Values{"device": {"A1"}, "port": {"out A"}, "dc": {"6 ohm"}, "list": {"lines"}}); status != 200 || !strings.Contains(page, "reads like 1 of the 2 boxes") {
		t.Errorf("%d: the reading is not judged", status)
	}
}

// Workbooks, curves and stock lists go in whole or not at all.
func TestWorkbooksCurvesAndStock(t *testing.T) {
	s := open(t)
	_, book := s.get("/gear.xlsx")
	if status, page := s.uploadTo("/gear/import", strings.NewReader(book)); status != 200 || !strings.Contains(page, "No models new, no models changed, 116 models as they are") {
		t.Errorf("%d: the workbook came back changed", status)
	}
	box := "/gear/model/brackwater-reed-12"
	if status, page := s.uploadTo(box+"/curve/impedance", strings.NewReader("* bench\n20 9 20\n100 7.1 -5\n1000 6.6 0\n")); status != 200 || !strings.Contains(page, "3 points, 6.6 Ω at least, at 1000 Hz") {
		t.Errorf("%d: the curve is not there", status)
	}
	if status, text := s.get(box + "/curve/impedance"); status != 200 || !strings.Contains(text, "100\t7.1\t-5") {
		t.Errorf("%d: %q", status, text)
	}
	if status, page := s.uploadTo(box+"/curve/impedance", strings.NewReader("20 9\n100 plenty\n")); status != 422 || !strings.Contains(page, "Line 2") || !strings.Contains(page, "3 points") {
		t.Errorf("%d: a broken curve", status)
	}
	if status, page := s.post("/stock", url.Values{"model": {"fennholt-1400"}, "place": {"Van"}, "count": {"3"}}); status != 200 || !strings.Contains(page, "Barge, Store, Van") {
		t.Errorf("%d: the stock was not kept", status)
	}
	for field, c := range map[string][2]string{"count": {"-1", "cannot be right"}, "place": {"", "missing"}, "model": {"ghost", "Choose a model"}} {
		v := url.Values{"model": {"fennholt-1400"}, "place": {"Van"}, "count": {"3"}}
		v.Set(field, c[0])
		if status, page := s.post("/stock", v); status != 422 || !strings.Contains(page, c[1]) {
			t.Errorf("%d for %s %q", status, field, c[0])
		}
	}
	if status, page := s.uploadTo("/stock/import", strings.NewReader("id,place,count\nfennholt-1400,Van,9\nghost,Van,1\n")); status != 422 || !strings.Contains(page, "Row 3, column id") {
		t.Errorf("%d: a stock list with a ghost", status)
	}
	if _, list := s.get("/stock.csv"); !strings.Contains(list, "fennholt-1400,Fennholt,1400,Van,3") {
		t.Error("half of the refused list was taken")
	}
	status, page := s.uploadTo("/stock/import", strings.NewReader("id,place,count\nfennholt-1400,Van,9\n"))
	if status != 200 || !strings.Contains(page, "One entry changed, no entries as they are. Nothing is taken yet.") {
		t.Errorf("%d: what a stock list would change is not shown", status)
	}
	if _, list := s.get("/stock.csv"); !strings.Contains(list, "Van,3") {
		t.Error("a list that was only looked at was taken")
	}
	_, rest, _ := strings.Cut(page, `name="list" value="`)
	shown, _, _ := strings.Cut(rest, `"`)
	if status, page = s.post("/stock/import/take", url.Values{"list": {html.UnescapeString(shown)}}); status != 200 || !strings.Contains(page, "Barge, Store, Van") {
		t.Errorf("%d: the list was not taken", status)
	}
	if _, book := s.get("/stock.xlsx"); !strings.HasPrefix(book, "PK") {
		t.Error("no workbook of the stock")
	}
	if _, list := s.get("/stock.csv"); !strings.Contains(list, "Van,9") {
		t.Error("the list that was taken is not in stock")
	}
}

// Leads of stock, multicores, phantom power, twins and places on the drawing
// are edits like any other.
func TestEditsOfTheBoard(t *testing.T) {
	s := open(t)
	wire := boathouse + "/wire"
	for _, c := range []struct {
		what, path string
		form       url.Values
		says       string
	}{
		{"another lead", "/lead", url.Values{"device": {"DIVIDE"}, "port": {"in 1"}, "first": {"mic-10"}, "second": {"mic-10"}}, "microphone lead 10 m, microphone lead 10 m"},
		{"no lead of stock", "/lead", url.Values{"device": {"DIVIDE"}, "port": {"in 1"}, "length": {"30 ft"}}, "9.14 m"},
		{"all from stock", "/take", nil, "microphone lead"},
		{"phantom power", "/phantom", url.Values{"device": {"DESK"}, "port": {"in 15"}, "on": {"yes"}}, "does not take it"},
		{"and off again", "/phantom", url.Values{"device": {"DESK"}, "port": {"in 15"}, "on": {"no"}}, "every lead fits"},
		{"a place", "/place", url.Values{"tag": {"CUES"}, "x": {"40"}, "y": {"300"}}, `data-tag="CUES" data-x="40.0" data-y="300.0"`},
		{"tidy again", "/tidy", nil, `data-tag="CUES" data-x="6.0"`},
		{"a switch", "/pair", url.Values{"tag": {"A1"}, "pair": {"0"}, "output": {"separate"}, "input": {"parallel"}}, "both on in 1"},
	} {
		if c.form == nil {
			c.form = url.Values{}
		}
		if status, page := s.post(wire+c.path, c.form); status != 200 || !strings.Contains(page, c.says) {
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
		before := s.state()
		if status, _ := s.post(wire+c.path, c.form); status != 422 || s.state() != before {
			t.Errorf("%s: %d, want 422 and nothing changed", what, status)
		}
	}
	if status, page := s.get("/jobs/saltpan-quay/wire/hookup?amp=A2&pair=0"); status != 200 || !strings.Contains(page, "BRIDGE ONLY") || !strings.Contains(page, "before it is energised") {
		t.Errorf("%d: the hook-up", status)
	}
	if status, page := s.get(hall + "/wire/hookup?amp=A2&pair=0"); status != 200 || !strings.Contains(page, "must never be bridged") {
		t.Errorf("%d: a hook-up of what must not be bridged", status)
	}
	if status, _ := s.get(hall + "/wire/hookup?amp=A2&pair=9"); status != 404 {
		t.Errorf("%d for a pair that is not", status)
	}
}

// The best amplifiers are planned, compared with the rig as it is, taken as
// one edit and undone.
func TestPlanIsTakenAndUndone(t *testing.T) {
	s := open(t)
	quay := "/jobs/saltpan-quay"
	status, page := s.get(quay + "/match/plan")
	if status != 200 || !strings.Contains(page, "Three amplifiers and 36 kg for 8 boxes, fewest amplifiers: proved.") || !strings.Contains(page, "as it is") {
		t.Fatalf("%d: no proved plan", status)
	}
	if _, page = s.get(quay + "/match/plan?why=0+bridged"); !strings.Contains(page, "times its rating") {
		t.Error("no word on why not")
	}
	used := 0
	for m := range 8 {
		_, page = s.get(fmt.Sprintf("%s/match/plan?why=%d+separate", quay, m))
		if strings.Contains(page, "This plan uses it.") {
			used++
		}
	}
	if used == 0 {
		t.Error("the plan uses no amplifier at all")
	}
	if _, page = s.get(quay + "/match/plan?spare=3"); !strings.Contains(page, "this is proved") || !strings.Contains(page, "spare amplifiers in the truck") {
		t.Error("no word on what to give up")
	}
	if status, page = s.get(quay + "/match/plan?margin=many&circuits=x"); status != 422 || !strings.Contains(page, "no current of a circuit") {
		t.Errorf("%d for wishes in prose", status)
	}
	if _, page = s.get(quay + "/match/plan/progress?aim=lightest"); !strings.Contains(page, "event: done") || !strings.Contains(page, `"proved":true`) {
		t.Errorf("the stream ends with %q", page)
	}
	if status, page = s.post(quay+"/match/plan", url.Values{"aim": {"fewest amplifiers"}}); status != 200 || !strings.Contains(page, "What that changed") || !strings.Contains(page, "All 8 boxes driven") {
		t.Errorf("%d: the plan was not taken", status)
	}
	if _, page = s.get(quay + "/match/plan"); !strings.Contains(page, "This is how the rig is already") {
		t.Error("planned again, the rig is another")
	}
	s.post(quay+"/undo", url.Values{"stage": {"match"}, "rev": {"2"}})
	if _, page = s.get(quay + "/match/plan"); strings.Contains(page, "This is how the rig is already") {
		t.Error("the plan was not undone")
	}
	if status, _ = s.post(hall+"/match/plan", url.Values{"aim": {"fewest amplifiers"}, "spare": {"9"}}); status != 422 {
		t.Errorf("%d for a plan that is not, want 422", status)
	}
	_, err := s.store.CreateJob(context.Background(), store.Change{
		Command: fresh(), Rig: rig.Rig{Brief: rig.Brief{Title: "Nothing Yet"}}, Said: "x", Author: "y",
	})
	must(t, err)
	if _, page = s.get("/jobs/nothing-yet/match/plan"); !strings.Contains(page, "There is no box to plan for.") {
		t.Error("no word on a rig without boxes")
	}
}

// All of an output, and what if: figures with their sums, and requests that
// make no sense.
func TestOutputsInFullAndWhatIf(t *testing.T) {
	s := open(t)
	status, page := s.get(boathouse + "/match/output?at=A2%09out+A")
	for _, want := range []string{"A2 out A drives 4 Ω, which dips to", "small-signal figures of its cone", "Leave it separate", "twice the boxes", "stock has"} {
		if status != 200 || !strings.Contains(page, want) {
			t.Errorf("%d: the output in full lacks %q", status, want)
		}
	}
	if _, page = s.get(boathouse + "/match/output?at=A1%09out+A"); !strings.Contains(page, "measured curve") || !strings.Contains(page, "950 W") {
		t.Error("no curve or no burst power of A1")
	}
	if status, page = s.get(boathouse + "/match/output?at=A2%09out+A&loss=9&celsius=warm&circuit=x"); status != 422 || !strings.Contains(page, "cannot be wanted") || !strings.Contains(page, "no temperature of a lead") {
		t.Errorf("%d for an ask in prose", status)
	}
	if status, _ = s.get(boathouse + "/match/output?at=A9%09out+A"); status != 404 {
		t.Errorf("%d for an output that is not", status)
	}
	_, now := s.get(boathouse + "/match/whatif")
	_, far := s.get(boathouse + "/match/whatif?distance=22")
	if !strings.Contains(now, "107.5 dB at 11 m") || !strings.Contains(far, "101.4 dB at 22 m") || !strings.Contains(far, "first guess by listeners is 140 W") {
		t.Error("twice the distance is not 6 dB less, or the guess is not explained")
	}
}

// The adviser weighs any amplifier of the library with any boxes.
func TestAdviserForAnyPair(t *testing.T) {
	s := open(t)
	ask := url.Values{"amp": {"fennholt-1400"}, "box": {"brackwater-keel-18"}, "boxes": {"1"}}
	if status, page := s.get("/advise?" + ask.Encode()); status != 200 || !strings.Contains(page, "both channels bridged") || !strings.Contains(page, "5.2 dB") {
		t.Errorf("%d: 1400 W bridged into 8 Ω are 5.2 dB over 420 W", status)
	}
	ask.Set("school", "never")
	if _, page := s.get("/advise?" + ask.Encode()); !strings.Contains(page, "the school chosen is never to bridge") {
		t.Error("the school is not heard")
	}
	ask.Set("boxes", "99")
	if status, page := s.get("/advise?" + ask.Encode()); status != 422 || !strings.Contains(page, "cannot be right") {
		t.Errorf("%d for 99 boxes on a channel", status)
	}
	if status, page := s.get("/advise"); status != 200 || !strings.Contains(page, "Choose an amplifier") {
		t.Errorf("%d with nothing chosen", status)
	}
}

func TestHistoryIsNamedComparedAndRestored(t *testing.T) {
	s := open(t)
	s.post(hall+"/mend", url.Values{"stage": {"match"}, "finding": {"match.load-below-least@A1@out A"}, "n": {"0"}})
	if status, page := s.post(hall+"/history/name", url.Values{"number": {"1"}, "name": {"as it came"}}); status != 200 || !strings.Contains(page, `value="as it came"`) {
		t.Errorf("%d: the name is not shown", status)
	}
	if status, page := s.post(hall+"/history/name", url.Values{"number": {"1"}, "name": {"<b>"}}); status != 422 || !strings.Contains(page, "may not hold") {
		t.Errorf("%d: markup for a name", status)
	}
	_, page := s.get(hall + "/history?from=1")
	for _, want := range []string{"Since revision 1: one finding gone", "2.67 Ω to <b>4 Ω</b>", "A1 out A drives 2.67 Ω"} {
		if !strings.Contains(page, want) {
			t.Errorf("the comparison lacks %q", want)
		}
	}
	if status, page := s.post(hall+"/history/restore", url.Values{"number": {"1"}}); status != 200 || !strings.Contains(page, "revision 3,") {
		t.Errorf("%d: not restored", status)
	}
	if _, page := s.get(hall + "/match"); !strings.Contains(page, "drives 2.67 Ω") {
		t.Error("the rig is not as it was at revision 1")
	}
	if status, _ := s.post(hall+"/history/restore", url.Values{"number": {"77"}}); status != 422 {
		t.Errorf("a revision that is not: %d, want 422", status)
	}
}

func TestStrangersAreKeptOut(t *testing.T) {
	s := open(t)
	req, _ := http.NewRequest("POST", s.URL+boathouse+"/undo", strings.NewReader("rev=1"))
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("Origin", "http://elsewhere.example")
	res, err := s.Client().Do(req)
	must(t, err)
	res.Body.Close()
	if res.StatusCode != http.StatusForbidden {
		t.Errorf("a post from another site: %d, want 403", res.StatusCode)
	}
	for host, want := range map[string]int{"evil.example:80": 421, "192.0.2.7": 421, "localhost:8035": 200, "127.0.0.1": 200, "[::1]:8035": 200} {
		req, _ := http.NewRequest("GET", s.URL+"/", nil)
		req.Host = host
		res, err := s.Client().Do(req)
		must(t, err)
		res.Body.Close()
		if res.StatusCode != want {
			t.Errorf("asked for as %s: %d, want %d", host, res.StatusCode, want)
		}
	}
	res, err = s.Client().Get(s.URL + "/")
	must(t, err)
	res.Body.Close()
	if csp := res.Header.Get("Content-Security-Policy"); !strings.Contains(csp, "default-src 'self'") || strings.Contains(csp, "unsafe") {
		t.Errorf("policy %q", csp)
	}
	long := url.Values{"title": {strings.Repeat("x", 300<<10)}}
	if status, page := s.post(boathouse+"/brief", long); status != http.StatusRequestEntityTooLarge || !strings.Contains(page, "larger than Largo takes") {
		t.Errorf("a form of 300 kB: %d, want 413", status)
	}
}

// The database dies in the middle of an edit: the page says that the edit was
// not kept, and the same server works again when it is back.
func TestDatabaseGoneAndBack(t *testing.T) {
	s := open(t)
	form := func() url.Values {
		return url.Values{"policy": {"within"}, "bridging": {"never"}, "rev": {"1"}, "command": {fresh()}}
	}
	must(t, storetest.Cluster.Kill())
	status, page := s.post(boathouse+"/match/wishes", form())
	if status != http.StatusServiceUnavailable || !strings.Contains(page, "The edit was not kept. The database does not answer") {
		t.Errorf("%d while the database is away", status)
	}
	if status, _ := s.get("/healthz"); status != http.StatusServiceUnavailable {
		t.Errorf("healthz %d while the database is away", status)
	}
	must(t, storetest.Cluster.Restart(context.Background()))
	if status, page := s.post(boathouse+"/match/wishes", form()); status != http.StatusOK || !strings.Contains(page, `value="within" selected`) {
		t.Errorf("%d after it came back", status)
	}
	if status, _ := s.get("/healthz"); status != http.StatusOK {
		t.Errorf("healthz %d after it came back", status)
	}
}

// BenchmarkPages renders every page of the demo; the median should stay under
// 15 ms. It prints the median of each.
func BenchmarkPages(b *testing.B) {
	s := open(b)
	for _, path := range []string{"/", boathouse + "/brief", boathouse + "/match", boathouse + "/wire", boathouse + "/protect", boathouse + "/start",
		boathouse + "/strike", boathouse + "/sheet", boathouse + "/history", hall + "/match", "/gear", "/gear/model/fennholt-1400"} {
		b.Run(strings.Trim(path, "/"), func(b *testing.B) {
			var took []time.Duration
			for b.Loop() {
				begun := time.Now()
				if status, _ := s.get(path); status != http.StatusOK {
					b.Fatal(status)
				}
				took = append(took, time.Since(begun))
			}
			slices.Sort(took)
			b.ReportMetric(float64(took[len(took)/2].Microseconds())/1000, "ms-median")
		})
	}
}

// BenchmarkBoard draws the wiring board of a rig of 200 devices, page and all;
// the aim is under 50 ms on the server.
func BenchmarkBoard(b *testing.B) {
	s := open(b)
	slug, err := s.store.CreateJob(context.Background(), store.Change{Command: fresh(), Rig: rigtest.Large(b), Said: "Began", Author: "test"})
	must(b, err)
	for b.Loop() {
		if status, _ := s.get("/jobs/" + slug + "/wire"); status != http.StatusOK {
			b.Fatal(status)
		}
	}
}

// BenchmarkBoardEdit throws a switch on that board, as its page would, and gets
// what the page takes in place.
func BenchmarkBoardEdit(b *testing.B) {
	s := open(b)
	slug, err := s.store.CreateJob(context.Background(), store.Change{Command: fresh(), Rig: rigtest.Large(b), Said: "Began", Author: "test"})
	must(b, err)
	inputs := []string{"parallel", "separate"}
	rev := 1
	_, page := s.get("/jobs/" + slug + "/wire")
	for b.Loop() {
		page = s.postInPlace("/jobs/"+slug+"/wire/pair", url.Values{"tag": {"A1"}, "pair": {"0"}, "output": {"separate"}, "input": {inputs[rev%2]}, "rev": {fmt.Sprint(rev)}, "command": {commandOf(page)}})
		rev++
	}
}

// BenchmarkSearch searches a library of 5,000 models as somebody types; the
// aim is under 50 ms on the server.
func BenchmarkSearch(b *testing.B) {
	s := open(b)
	models, err := demo.Gear()
	must(b, err)
	many := make([]gear.Model, 5000)
	for i := range many {
		many[i] = models[i%len(models)]
		many[i].ID, many[i].Name = fmt.Sprintf("m%d", i), fmt.Sprintf("%s no %d", many[i].Name, i)
	}
	changes := make([]store.ModelChange, len(many))
	for i, m := range many {
		changes[i].Model = m
	}
	must(b, s.store.SaveModels(context.Background(), store.Command{ID: fresh(), Author: "test"}, "Entered", changes...))
	for _, typed := range []string{"", "f", "fennholt", "brackwater 49"} {
		b.Run("q="+typed, func(b *testing.B) {
			for b.Loop() {
				if status, _ := s.get("/gear?q=" + url.QueryEscape(typed)); status != http.StatusOK {
					b.Fatal(status)
				}
			}
		})
	}
}

// BenchmarkEdit makes an edit and gets the page with its consequences.
func BenchmarkEdit(b *testing.B) {
	s := open(b)
	policies := []string{"within", "headroom"}
	rev := 1
	for b.Loop() {
		status, _ := s.post(boathouse+"/match/wishes", url.Values{"policy": {policies[rev%2]}, "bridging": {"never"}, "rev": {fmt.Sprint(rev)}, "command": {fresh()}})
		if status != http.StatusOK {
			b.Fatal(status)
		}
		rev++
	}
}

// The page that sent an edit is spared what it shows already; a page that is
// not remembered, as after a start of the server, gets all of it.
func TestAnAnswerLeavesOutWhatThePageShows(t *testing.T) {
	s := open(t)
	_, page := s.get(boathouse + "/wire")
	whole := func(answer, tag string) bool {
		_, device, ok := strings.Cut(answer, `data-tag="`+tag+`"`)
		if !ok {
			t.Fatalf("no %s in the answer", tag)
		}
		_, inside, _ := strings.Cut(device, ">")
		return !strings.HasPrefix(inside, "</g>")
	}
	edit := func(rev, command, follow string) string {
		return s.postInPlace(boathouse+"/wire/place", url.Values{"tag": {"A1"}, "x": {"700"}, "y": {rev + "00"}, "rev": {rev}, "command": {command}, "follow": {follow}})
	}
	answer := edit("1", commandOf(page), "")
	if !whole(answer, "A1") || whole(answer, "DESK") {
		t.Errorf("A1, which was moved, is sent whole: %v; DESK, which was not: %v", whole(answer, "A1"), whole(answer, "DESK"))
	}
	answer = edit("2", commandOf(answer), "DESK\tmon 1")
	if !strings.Contains(answer, `dim-part" data-tag="TOP L1"`) {
		t.Error("what was followed before an edit is not followed after it")
	}
	answer = edit("3", fresh(), "")
	if !whole(answer, "A1") || !whole(answer, "DESK") {
		t.Error("a page that is not remembered does not get the whole drawing")
	}
}

// Findings that are alike are mended at one stroke, which one undo takes back.
func TestAllAlikeAreMendedTogether(t *testing.T) {
	s := open(t)
	meadow := "/jobs/copperas-meadow"
	_, page := s.get(meadow + "/protect")
	if !strings.Contains(page, "Both of these") {
		t.Fatal("two limiters that are not set are not offered together")
	}
	q := url.Values{"finding": {"protect.limiter-unset@A4@out A"}, "n": {"all"}, "stage": {"protect"}}
	if _, page := s.get(meadow + "/protect?mend=" + url.QueryEscape(q.Get("finding")) + "&n=all"); !strings.Contains(page, "WEDGE 2 stands") || !strings.Contains(page, "Do it") {
		t.Error("what it would do is not shown")
	}
	if status, page := s.post(meadow+"/mend", q); status != http.StatusOK || strings.Contains(page, "no complete limiter is on record.</b>") {
		t.Errorf("%d: they were not mended together", status)
	}
	if _, page := s.get(meadow + "/history"); !strings.Contains(page, "and 1 more alike") {
		t.Error("the history does not say that there were two")
	}
	if _, page := s.post(meadow+"/undo", url.Values{"stage": {"protect"}}); !strings.Contains(page, "Both of these") {
		t.Error("one undo does not take it back")
	}
}

// Two edits that a page sends before it has an answer are both kept; the same
// one sent twice is kept once.
func TestAPageIsQuickerThanItsAnswer(t *testing.T) {
	s := open(t)
	_, page := s.get(boathouse + "/wire")
	send := func(tag, x string) {
		s.postInPlace(boathouse+"/wire/place", url.Values{"tag": {tag}, "x": {x}, "y": {"300"}, "rev": {"1"}, "command": {commandOf(page)}})
	}
	var sent sync.WaitGroup
	for _, tag := range []string{"A1", "A1", "DESK", "A3"} {
		sent.Go(func() { send(tag, "700") })
	}
	sent.Wait()
	_, history := s.get(boathouse + "/history")
	for _, said := range []string{"Moved A1", "Moved DESK", "Moved A3"} {
		if n := strings.Count(history, said); n != 1 {
			t.Errorf("%q stands %d times in the history", said, n)
		}
	}
	_, other := s.get(boathouse + "/wire")
	if status, _ := s.post(boathouse+"/wire/place", url.Values{"tag": {"CUES"}, "x": {"9"}, "y": {"300"}, "rev": {"1"}, "command": {commandOf(other)}}); status != http.StatusConflict {
		t.Errorf("%d: another page's edit was made on a state that it had not seen", status)
	}
}
