package web_test

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"largo/core/rig"
	"largo/demo"
	"largo/store"
	"largo/store/storetest"
	"largo/web"
)

// longNames are the longest texts that a rig takes, in several scripts.
var longNames = []struct{ what, tag, model, place, title string }{
	{"Latin", "ABCDEFGHIJKLMNOPQRSTUVWX", strings.Repeat("M", 60), strings.Repeat("p", 80), strings.Repeat("T", 120)},
	{"umlauts", "ÄÖÜÄÖÜÄÖÜÄÖÜÄÖÜÄÖÜÄÖÜÄÖÜ", strings.Repeat("ü", 60), strings.Repeat("ß", 80), strings.Repeat("Ö", 120)},
	{"Cyrillic", "ЖЖЖЖЖЖЖЖЖЖЖЖЖЖЖЖЖЖЖЖЖЖЖЖ", strings.Repeat("д", 60), strings.Repeat("ы", 80), strings.Repeat("Ю", 120)},
	{"Arabic", strings.Repeat("م", 24), strings.Repeat("س", 60), strings.Repeat("ع", 80), strings.Repeat("ن", 120)},
	{"emoji", "LOUD 14 LETTERS", strings.Repeat("🎚", 60), strings.Repeat("🔊", 80), strings.Repeat("🎪", 120)},
	{"14 letters", "ABCDEFGHIJKLMN", "N", "p", "T"},
}

// stagePages are the pages of a job.
var stagePages = []string{"brief", "match", "wire", "wire?list=pack", "wire?list=lines", "wire?list=devices", "protect", "start", "strike", "sheet", "history", "match/plan", "match/whatif", "rig.json"}

// Every page is drawn with the longest tags, names, places and titles, in any
// script, on the device, its output and its lead too.
func TestEveryPageTakesTheLongestNames(t *testing.T) {
	s := open(t)
	rigs, err := demo.Rigs()
	must(t, err)
	for _, c := range longNames {
		for i, r := range rigs {
			slug, err := s.store.CreateJob(context.Background(), store.Change{Command: fresh(), Rig: renamed(t, r, c.tag, c.model, c.place, c.title), Said: "x", Author: "y"})
			must(t, err)
			at := "/jobs/" + url.PathEscape(slug) + "/"
			pages := append([]string(nil), stagePages...)
			j, err := s.store.Job(context.Background(), slug)
			must(t, err)
			for _, d := range j.Rig.Devices {
				pages = append(pages, "wire?device="+url.QueryEscape(d.Tag), "match/output?at="+url.QueryEscape(d.Tag+"\tout A"), "wire/hookup?amp="+url.QueryEscape(d.Tag)+"&pair=0")
			}
			for _, k := range j.Rig.Links {
				pages = append(pages, "wire?lead="+url.QueryEscape(k.To.Device+"\t"+k.To.Port))
			}
			if testing.Short() {
				pages = pages[:len(stagePages)]
			}
			for _, page := range pages {
				if status, body := s.get(at + page); status >= 500 || strings.Contains(body, "\ufffd") {
					t.Errorf("%s, rig %d, %s: %d", c.what, i+1, page, status)
				}
			}
		}
	}
	if status, body := s.get("/"); status != http.StatusOK || strings.Contains(body, "\ufffd") {
		t.Errorf("the list of jobs: %d", status)
	}
}

// renamed gives all devices of a rig tags like one, and long names.
func renamed(t *testing.T, r rig.Rig, tag, model, place, title string) rig.Rig {
	t.Helper()
	r = r.Clone()
	r.Brief.Title, r.Brief.Place = title, title
	for i, d := range r.Devices {
		runes := []rune(tag)
		number := fmt.Sprint(i)
		own := string(runes[:min(len(runes), 24-len(number))]) + number
		var err error
		r, err = rig.Apply(r, rig.ChangeDevice{Tag: d.Tag, NewTag: own, Place: place, Switch: d.Switch, Aim: d.Aim, Distance: d.Distance})
		must(t, err)
	}
	for i := range r.Models {
		m := r.Models[i].Clone()
		m.Name, m.Maker = model, model
		r.Models[i] = m
	}
	must(t, r.Check())
	return r
}

func TestHEADAnswersWhereverGETDoes(t *testing.T) {
	s := open(t)
	for _, path := range []string{"/", "/healthz", "/gear", "/gear.csv", "/gear.xlsx", "/gear.json", "/stock", "/stock.csv", "/advise", "/gear/new/amplifier", "/gear/model/fennholt-1400", boathouse, boathouse + "/match", boathouse + "/sheet", boathouse + "/rig.json", boathouse + "/events", boathouse + "/match/plan/progress?aim=fewest+amplifiers", staticPath(s)} {
		res, err := s.Client().Head(s.URL + path)
		must(t, err)
		b, _ := io.ReadAll(res.Body)
		res.Body.Close()
		if res.StatusCode != http.StatusOK || len(b) > 0 {
			t.Errorf("HEAD %s: %d, %d bytes", path, res.StatusCode, len(b))
		}
	}
}

// staticPath is the address of the style sheet as a page names it.
func staticPath(s *site) string {
	_, page := s.get("/")
	return regexp.MustCompile(`/static/[0-9a-f]+/styles/largo\.css`).FindString(page)
}

// Files are named by what is in them and kept for good; under an old name comes
// what is now, and is not kept. No folder is listed.
func TestStaticFilesAreNamedByContent(t *testing.T) {
	s := open(t)
	path := staticPath(s)
	for at, want := range map[string]struct {
		status int
		cache  string
	}{
		path: {200, "public, max-age=31536000, immutable"},
		"/static/0000000000000000/styles/largo.css": {200, "no-store"},
		"/static/":        {404, ""},
		"/static/styles/": {404, ""},
		strings.TrimSuffix(path, "styles/largo.css"):       {404, ""},
		strings.TrimSuffix(path, "largo.css"):              {404, ""},
		strings.TrimSuffix(path, "styles/largo.css") + "x": {404, ""},
	} {
		res, err := s.Client().Get(s.URL + at)
		must(t, err)
		b, _ := io.ReadAll(res.Body)
		res.Body.Close()
		if res.StatusCode != want.status || want.cache != "" && res.Header.Get("Cache-Control") != want.cache {
			t.Errorf("%s: %d, %q", at, res.StatusCode, res.Header.Get("Cache-Control"))
		}
		if want.status == 404 && strings.Contains(string(b), "patch.js</a>") {
			t.Errorf("%s lists what lies there", at)
		}
	}
}

// What cannot be the name of anything is not found, and what cannot be typed is
// refused: never a fault of ours.
func TestStrangeAddresses(t *testing.T) {
	s := open(t)
	for _, path := range []string{
		"/jobs/a%00b/brief", "/jobs/%ff%fe/brief", "/jobs/a%E2%80%AEb/brief", "/gear/model/%00", "/gear/model/%ff", "/gear/new/%00",
		boathouse + "/%00", boathouse + "/history?from=99999999999999999999", boathouse + "/history?from=2147483648", boathouse + "/history?from=-1",
		boathouse + "/history?page=99999999999999999999", boathouse + "/history?page=-3", boathouse + "/match?since=3000000000", boathouse + "/wire?device=%00", boathouse + "/wire?lead=%ff",
		boathouse + "/match/output?amp=%00&port=x", boathouse + "/wire/hookup?amp=A1&pair=99999999999", boathouse + "/wire/hookup?amp=A1&pair=-1", boathouse + "/match/plan?margin=%00", boathouse + "/match/plan?aim=%ff",
		boathouse + "/match/plan/progress?aim=nonsense", boathouse + "/match/whatif?boxes=%00", "/?q=%00", "/?q=%ff", "/?page=1e9", "/?shelf=nowhere", "/gear?q=%00", "/gear?q=%25%5f", "/stock?q=%ff", "/advise?box=%00",
		"/gear/model/fennholt-1400/curve/%00", "/?q=" + strings.Repeat("x", 9000), "/" + strings.Repeat("x", 9000), "/static/x/%00",
	} {
		status, body := s.get(path)
		if status >= 500 || strings.Contains(body, "\x00") {
			t.Errorf("%.80s: %d", path, status)
		}
	}
}

// Only our own pages are come back to.
func TestBackGoesToOurOwnPages(t *testing.T) {
	s := open(t)
	client := *s.Client()
	client.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	for back, want := range map[string]string{
		"/jobs/x/match?since=3": "/jobs/x/match?since=3", "/": "/", "/gear": "/gear",
		"//evil.example": "/", "/\\evil.example": "/", "https://evil.example/": "/", "/\t/evil.example": "/", "/\n/evil.example": "/",
		"javascript:alert(1)": "/", "": "/", "/nowhere": "/", "/%2f/evil.example": "/", "/\u202egro.live": "/", "evil.example": "/",
	} {
		res, err := client.PostForm(s.URL+"/scheme", url.Values{"scheme": {"dark"}, "back": {back}})
		must(t, err)
		res.Body.Close()
		if got := res.Header.Get("Location"); got != want {
			t.Errorf("back to %q went to %q, want %q", back, got, want)
		}
	}
}

// One act sent twice at once is made once; several of one title get a name
// each.
func TestTwoAtOnce(t *testing.T) {
	s := open(t)
	post := func(path string, v url.Values) (int, string) {
		res, err := s.Client().PostForm(s.URL+path, v)
		if err != nil {
			return 0, err.Error()
		}
		defer res.Body.Close()
		b, _ := io.ReadAll(res.Body)
		return res.StatusCode, res.Request.URL.Path + "\n" + string(b)
	}
	together := func(n int, act func(i int)) {
		var all sync.WaitGroup
		for i := range n {
			all.Go(func() { act(i) })
		}
		all.Wait()
	}
	count := func(title string) int {
		_, n, err := s.store.List(context.Background(), store.AtHand, title, "", 0, 10)
		must(t, err)
		return n.All
	}
	one := url.Values{"title": {"Twice Over"}, "command": {fresh()}}
	together(4, func(int) {
		if status, page := post("/jobs", one); status != http.StatusOK || !strings.HasPrefix(page, "/jobs/twice-over/") {
			t.Errorf("%d %.60s", status, page)
		}
	})
	if n := count("twice over"); n != 1 {
		t.Errorf("one command made %d jobs", n)
	}
	other := url.Values{"title": {"Another Title"}, "command": one["command"]}
	if status, page := post("/jobs", other); status != http.StatusConflict || !strings.Contains(page, "has begun a job already") || !strings.Contains(page, `value="Another Title"`) {
		t.Errorf("%d: another title under one command is neither refused nor kept on the form", status)
	}
	commands := make([]string, 8)
	for i := range commands {
		commands[i] = fresh()
	}
	together(8, func(i int) {
		if status, page := post("/jobs", url.Values{"title": {"Eight Alike"}, "command": {commands[i]}}); status != http.StatusOK {
			t.Errorf("%d: %.200s", status, page)
		}
	})
	if n := count("eight alike"); n != 8 {
		t.Errorf("%d of eight jobs of one title", n)
	}
	undo := url.Values{"rev": {"1"}, "command": {fresh()}}
	s.post(boathouse+"/brief", url.Values{"title": {"Changed"}})
	undo.Set("rev", "2")
	together(4, func(int) {
		if status, _ := post(boathouse+"/undo", undo); status != http.StatusOK {
			t.Errorf("undo sent again: %d", status)
		}
	})
	if j, err := s.store.Job(context.Background(), "wherry-lock-boathouse"); err != nil || j.Number != 1 {
		t.Errorf("one undo sent four times came to revision %d, %v", j.Number, err)
	}
	if _, page := s.get(boathouse + "/history"); strings.Count(page, "Undid: Changed the brief") != 1 {
		t.Error("the history has not one line for one undo")
	}
}

// The list counts all jobs, page by page, newest first, and says what is wrong
// with those on other pages too.
func TestManyJobs(t *testing.T) {
	s := open(t)
	rigs, err := demo.Rigs()
	must(t, err)
	for i := range 130 {
		r := rigs[0].Clone() // fine
		if i < 2 {
			r = rigs[2].Clone() // at stop
		}
		r.Brief.Title, r.Brief.Date = fmt.Sprintf("Date %03d", i), fmt.Sprintf("2030-%02d-%02d", 1+i/28, 1+i%28)
		_, err := s.store.CreateJob(context.Background(), store.Change{Command: fresh(), Rig: r, Said: "x", Author: "y"})
		must(t, err)
	}
	for range 3 { // each page judges its own; together they judge all
		s.get("/")
		s.get("/?page=2")
		s.get("/?page=3")
	}
	_, first := s.get("/")
	if !strings.Contains(first, "134 jobs; four must not be energised as they stand.") || !strings.Contains(first, "1 to 50 of 134") || strings.Index(first, "Date 129") > strings.Index(first, "Date 128") || strings.Contains(first, "Date 001") {
		t.Error("the first page of many jobs")
	}
	if _, last := s.get("/?page=3"); !strings.Contains(last, "101 to 134 of 134") || !strings.Contains(last, "Date 001") || !strings.Contains(last, "four must not") {
		t.Error("the last page of many jobs")
	}
	if _, found := s.get("/?q=DATE+129"); !strings.Contains(found, "One job with &#34;DATE 129&#34;; nothing at stop.") {
		t.Error("the search")
	}
	slug := "date-000"
	if status, page := s.post("/jobs/"+slug+"/shelf", url.Values{"to": {"archived"}}); status != 200 || !strings.Contains(page, "133 jobs; three must") {
		t.Errorf("%d: archived", status)
	}
	if _, page := s.get("/?shelf=archived"); !strings.Contains(page, "One job in the archive; one must not be energised") || !strings.Contains(page, "Date 000") {
		t.Error("the archive")
	}
	s.post("/jobs/"+slug+"/shelf", url.Values{"to": {"deleted"}})
	if status, page := s.post("/jobs/"+slug+"/shelf", url.Values{"to": {"nowhere"}}); status != 422 || !strings.Contains(page, "Tick the box") {
		t.Errorf("%d: taken away for good without a tick", status)
	}
	if status, page := s.post("/jobs/"+slug+"/shelf", url.Values{"to": {"list"}}); status != 200 || !strings.Contains(page, "134 jobs; four must") {
		t.Errorf("%d: taken back", status)
	}
	if status, _ := s.post("/jobs/"+slug+"/shelf", url.Values{"to": {"nowhere"}, "sure": {"yes"}}); status != http.StatusConflict {
		t.Errorf("%d: what was not deleted first went for good", status)
	}
	s.post("/jobs/"+slug+"/shelf", url.Values{"to": {"deleted"}})
	s.post("/jobs/"+slug+"/shelf", url.Values{"to": {"nowhere"}, "sure": {"yes"}})
	if status, _ := s.get("/jobs/" + slug + "/brief"); status != http.StatusNotFound {
		t.Errorf("%d: it is still there", status)
	}
}

// A history is shown page by page, whole, with its true count.
func TestALongHistory(t *testing.T) {
	s := open(t)
	r := mustJob(t, s, "saltpan-quay")
	for i := range 260 {
		next := r.Rig.Clone()
		next.Brief.Place = fmt.Sprintf("place %d", i)
		_, err := s.store.Keep(context.Background(), "saltpan-quay", store.Change{Base: i + 1, Command: fresh(), Rig: next, Said: fmt.Sprintf("Moved %d", i), Author: "a"})
		must(t, err)
	}
	_, page := s.get("/jobs/saltpan-quay/history")
	if !strings.Contains(page, "261 revisions kept") || !strings.Contains(page, "Moved 259") || strings.Contains(page, "Moved 200<") {
		t.Error("the first page of a long history")
	}
	if _, page = s.get("/jobs/saltpan-quay/history?page=6"); !strings.Contains(page, "Loaded with the demo tour") || !strings.Contains(page, "Newer") {
		t.Error("the last page of a long history")
	}
}

func mustJob(t *testing.T, s *site, slug string) store.Job {
	t.Helper()
	j, err := s.store.Job(context.Background(), slug)
	must(t, err)
	return j
}

// What lies in the database and cannot be read is one line of the list that
// says so; what was judged of another document is not shown for it.
func TestAJobThatCannotBeRead(t *testing.T) {
	s := open(t)
	s.get("/") // all are judged
	db, err := sql.Open("pgx", storetest.DSN(s.store))
	must(t, err)
	defer db.Close()
	spoil := func(slug, with string) {
		t.Helper()
		_, err := db.Exec(`UPDATE revisions r SET rig = `+with+` FROM jobs j WHERE j.id = r.job_id AND r.number = j.head AND j.slug = $1`, slug)
		must(t, err)
	}
	spoil("wherry-lock-boathouse", `'{"brief":{"title":"Wherry"},"devices":[{"tag":"A","model":"none"}]}'::jsonb`)
	spoil("saltpan-quay", `'"text"'::jsonb`)
	status, page := s.get("/")
	if status != http.StatusOK || strings.Count(page, "This job cannot be read") != 2 || !strings.Contains(page, "two cannot be read") || !strings.Contains(page, "Marigold Roller Hall") {
		t.Errorf("%d: the list of jobs: %s", status, heading(page))
	}
	if status, page := s.get(boathouse + "/match"); status != http.StatusInternalServerError || !strings.Contains(page, "cannot be read") || !strings.Contains(page, `id="undo"`) {
		t.Errorf("%d: a page of it", status)
	}
	if status, page := s.get(hall + "/match"); status != http.StatusOK || !strings.Contains(page, "2.67") {
		t.Errorf("%d: the others", status)
	}
	_, err = db.Exec(`UPDATE revisions SET version = 99 WHERE number = 1 AND job_id = (SELECT id FROM jobs WHERE slug = 'marigold-roller-hall')`)
	must(t, err)
	st := storetest.Beside(t, s.store) // one that remembers nothing
	if _, err := st.Job(context.Background(), "marigold-roller-hall"); err == nil || !strings.Contains(err.Error(), "a newer Largo wrote it") {
		t.Errorf("a document of the future: %v", err)
	}
	_, err = db.Exec(`UPDATE models SET doc = '{"id":"fennholt-1400","kind":"amplifier"}' WHERE id = 'fennholt-1400'`)
	must(t, err)
	if status, page := s.get("/gear?q=fennholt"); status != http.StatusOK || !strings.Contains(page, "The model fennholt-1400 cannot be read") {
		t.Errorf("%d: a model that cannot be read", status)
	}
}

func heading(page string) string {
	_, rest, _ := strings.Cut(page, "<h1>")
	h, _, _ := strings.Cut(rest, "</h1>")
	return h
}

// Of two who change one model the second sees what the first did, keeps what was
// typed, and can keep it on top; both are in the history and can be undone.
func TestTwoEditorsOfTheLibrary(t *testing.T) {
	s := open(t)
	const at = "/gear/model/brackwater-reed-12"
	old := s.base(at)
	form := func(note string) url.Values {
		v := formOf(t, s, at)
		v.Set("note", note)
		v.Set("base", old)
		v.Set("command", fresh())
		return v
	}
	if status, _ := s.post(at, form("first")); status != http.StatusOK {
		t.Fatalf("%d: the first", status)
	}
	second := form("second")
	status, page := s.post(at, second)
	if status != http.StatusConflict || !strings.Contains(page, "Somebody else has changed this model") || !strings.Contains(page, `value="second"`) || !strings.Contains(page, "first to <b>second</b>") {
		t.Errorf("%d: the second was not told", status)
	}
	if m, err := s.store.Model(context.Background(), "brackwater-reed-12"); err != nil || m.Note != "first" {
		t.Errorf("%q, %v: the first was overwritten", m.Note, err)
	}
	second.Set("base", s.base(at))
	second.Set("command", fresh())
	if status, page = s.post(at, second); status != http.StatusOK || strings.Count(page, "<td>Changed</td>") != 2 {
		t.Errorf("%d: kept on top", status)
	}
	s.post(at+"/undo", url.Values{})
	if m, _ := s.store.Model(context.Background(), "brackwater-reed-12"); m.Note != "first" || !m.CanRedo {
		t.Errorf("undone to %q", m.Note)
	}
	s.post(at+"/redo", url.Values{})
	if m, _ := s.store.Model(context.Background(), "brackwater-reed-12"); m.Note != "second" {
		t.Errorf("made again to %q", m.Note)
	}
	s.post(at+"/archive", url.Values{"to": {"archive"}})
	if _, page := s.get("/gear?q=reed+12"); strings.Contains(page, "brackwater-reed-12") {
		t.Error("an archived model is offered")
	}
	if _, page := s.get("/gear?archived=yes"); !strings.Contains(page, "brackwater-reed-12") || !strings.Contains(page, "in the archive") {
		t.Error("the archive of the library")
	}
	s.post(at+"/archive", url.Values{"to": {"library"}})
	if _, page := s.get("/gear?q=reed+12"); !strings.Contains(page, "brackwater-reed-12") {
		t.Error("it did not come back")
	}
}

// formOf reads the fields of a model's form as they stand on its page.
func formOf(t *testing.T, s *site, at string) url.Values {
	t.Helper()
	_, page := s.get(at)
	_, page, _ = strings.Cut(page, `novalidate><input type="hidden" name="command"`)
	page, _, _ = strings.Cut(page, `id="save-model"`)
	v := url.Values{}
	for _, m := range regexp.MustCompile(`<input class="form-control"[^>]* name="([^"]*)" value="([^"]*)"`).FindAllStringSubmatch(page, -1) {
		v.Set(m[1], strings.NewReplacer("&#34;", `"`, "&amp;", "&").Replace(m[2]))
	}
	for _, m := range regexp.MustCompile(`(?s)<select class="form-select"[^>]* name="([^"]*)".*?</select>`).FindAllStringSubmatch(page, -1) {
		if chosen := regexp.MustCompile(`<option value="([^"]*)" selected`).FindStringSubmatch(m[0]); chosen != nil {
			v.Set(m[1], chosen[1])
		}
	}
	if len(v) < 5 {
		t.Fatalf("%d fields on %s", len(v), at)
	}
	return v
}

// A file that is taken writes back only what differed when it was shown, and
// nothing where somebody else has changed one of its models since.
func TestTakingAFileLosesNobodysWork(t *testing.T) {
	s := open(t)
	_, table := s.get("/gear.csv")
	changed := strings.Replace(table, "brackwater-reed-10,loudspeaker,Brackwater,Reed 10,", "brackwater-reed-10,loudspeaker,Brackwater,Reed 10 b,", 1)
	_, shown := s.uploadTo("/gear/import", strings.NewReader(changed))
	id := regexp.MustCompile(`name="import" value="([^"]+)"`).FindStringSubmatch(shown)
	if id == nil || !strings.Contains(shown, "One model changed") && !strings.Contains(shown, "one model changed") {
		t.Fatalf("the import: %s", heading(shown))
	}
	other := formOf(t, s, "/gear/model/fennholt-1400")
	other.Set("note", "changed meanwhile")
	s.post("/gear/model/fennholt-1400", other)
	if status, _ := s.post("/gear/import/take", url.Values{"import": {id[1]}}); status != http.StatusOK {
		t.Errorf("%d: the file was not taken", status)
	}
	if m, _ := s.store.Model(context.Background(), "fennholt-1400"); m.Note != "changed meanwhile" {
		t.Error("a model that did not differ was written back over a newer one")
	}
	if m, _ := s.store.Model(context.Background(), "brackwater-reed-10"); m.Name != "Reed 10 b" {
		t.Error("the changed model was not taken")
	}
	_, shown = s.uploadTo("/gear/import", strings.NewReader(table))
	id = regexp.MustCompile(`name="import" value="([^"]+)"`).FindStringSubmatch(shown)
	mine := formOf(t, s, "/gear/model/brackwater-reed-10")
	mine.Set("note", "mine")
	s.post("/gear/model/brackwater-reed-10", mine)
	status, page := s.post("/gear/import/take", url.Values{"import": {id[1]}})
	if status != http.StatusConflict || !strings.Contains(page, "somebody else has changed the library") {
		t.Errorf("%d: taken over somebody's work", status)
	}
	if m, _ := s.store.Model(context.Background(), "brackwater-reed-10"); m.Note != "mine" {
		t.Error("somebody's work is lost")
	}
}

// Of two who count the same shelf the second is told; each act is in the history
// and is taken back as long as nothing of it changed since.
func TestTwoWhoCountTheStock(t *testing.T) {
	s := open(t)
	old := s.base("/stock")
	count := func(n, base string) (int, string) {
		return s.post("/stock", url.Values{"model": {"fennholt-1400"}, "place": {"Van"}, "count": {n}, "base": {base}})
	}
	if status, _ := count("3", old); status != http.StatusOK {
		t.Fatalf("%d", status)
	}
	if status, page := count("5", old); status != http.StatusConflict || !strings.Contains(page, "somebody else has changed how many") {
		t.Errorf("%d: the second overwrote the first", status)
	}
	if status, page := count("5", s.base("/stock")); status != http.StatusOK || !strings.Contains(page, "5 of Fennholt 1400 in Van") {
		t.Errorf("%d: kept on top", status)
	}
	_, page := s.get("/stock")
	acts := regexp.MustCompile(`name="act" value="(\d+)"`).FindAllStringSubmatch(page, -1)
	if len(acts) < 2 {
		t.Fatalf("%d acts to undo", len(acts))
	}
	if status, _ := s.post("/stock/undo", url.Values{"act": {acts[1][1]}}); status != http.StatusConflict {
		t.Errorf("%d: an act was undone over a newer one", status)
	}
	s.post("/stock/undo", url.Values{"act": {acts[0][1]}})
	if _, list := s.get("/stock.csv"); !strings.Contains(list, "Van,3") {
		t.Error("not undone")
	}
	if _, page := s.get("/stock"); !strings.Contains(page, "Undid: 5 of Fennholt 1400 in Van") {
		t.Error("the undoing has no line")
	}
}

// A plan of more than is in stock any more is never shown, proved or not.
func TestAPlanIsThatOfTodaysStock(t *testing.T) {
	s := open(t)
	const at = "/jobs/saltpan-quay/match/plan"
	_, before := s.get(at)
	if !strings.Contains(before, "proved") {
		t.Fatal("no plan to begin with")
	}
	held, err := s.store.Stock(context.Background())
	must(t, err)
	for _, h := range held {
		if h.Model.Amplifier != nil {
			if status, _ := s.post("/stock", url.Values{"model": {h.Model.ID}, "place": {h.Place}, "count": {"0"}}); status != 200 {
				t.Fatalf("%d", status)
			}
		}
	}
	if _, after := s.get(at); heading(after) == heading(before) {
		t.Errorf("with nothing in stock it still says: %s", heading(after))
	}
}

// An edit made on one server is heard on the other at once, and two quick edits
// of one page, sent to both, are both kept.
func TestTwoServers(t *testing.T) {
	a := open(t)
	second := storetest.Beside(t, a.store)
	h, err := web.New(second, slog.New(slog.DiscardHandler))
	must(t, err)
	ctx, end := context.WithCancel(context.Background())
	ran := make(chan struct{})
	go func() { h.Run(ctx); close(ran) }()
	defer func() { end(); <-ran }()
	b := &site{t: t, Server: httptest.NewServer(h), store: second}
	defer b.Close()
	defer h.EndStreams()

	heard := b.hear(boathouse)
	if e := <-heard; e.Head != 1 {
		t.Fatalf("at first it hears of revision %d", e.Head)
	}
	time.Sleep(150 * time.Millisecond) // until its listener listens, which has no sign of its own
	_, page := a.get(boathouse + "/match")
	command := commandOf(page)
	a.postInPlace(boathouse+"/match/wishes", url.Values{"rev": {"1"}, "command": {command}, "stage": {"match"}, "policy": {"within"}, "bridging": {"never"}})
	for e := (store.Event{}); e.Head != 2; {
		select {
		case e = <-heard: // the first revision once more, when it began to listen
			if e.Head == 2 && e.Page != command {
				t.Errorf("heard %+v", e)
			}
		case <-time.After(3 * time.Second):
			t.Fatal("an edit on one server was not heard on the other")
		}
	}
	// the page has had no answer yet and sends a second edit to the other server
	b.postInPlace(boathouse+"/match/wishes", url.Values{"rev": {"1"}, "command": {command}, "stage": {"match"}, "policy": {"tenth over"}, "bridging": {"never"}})
	if j := mustJob(t, a, "wherry-lock-boathouse"); j.Number != 3 || j.Rig.Policy != rig.TenthOver {
		t.Errorf("revision %d, %s: of two quick edits over two servers one is lost", j.Number, j.Rig.Policy)
	}
}

// hear listens to the events of a job.
func (s *site) hear(job string) <-chan store.Event {
	s.t.Helper()
	res, err := http.Get(s.URL + job + "/events")
	must(s.t, err)
	heard := make(chan store.Event, 10)
	go func() {
		defer res.Body.Close()
		b := make([]byte, 0, 4096)
		buf := make([]byte, 1024)
		for {
			n, err := res.Body.Read(buf)
			b = append(b, buf[:n]...)
			for {
				event, rest, whole := strings.Cut(string(b), "\n\n")
				if !whole {
					break
				}
				b = []byte(rest)
				var e store.Event
				if _, data, ok := strings.Cut(event, "data: "); ok && strings.HasPrefix(event, "event: head") && json.Unmarshal([]byte(data), &e) == nil {
					heard <- e
				}
			}
			if err != nil {
				return
			}
		}
	}()
	return heard
}

// The old addresses of pages that lie under their stage now lead there, with
// what was asked and what was sent.
func TestOldAddressesLeadOn(t *testing.T) {
	s := open(t)
	client := *s.Client()
	client.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	for old, now := range map[string]string{
		"/plan?aim=lightest": "/match/plan?aim=lightest", "/plan/progress?aim=lightest": "/match/plan/progress?aim=lightest", "/output?at=A1%09out+A": "/match/output?at=A1%09out+A",
		"/whatif?distance=22": "/match/whatif?distance=22", "/hookup?amp=A1&pair=0": "/wire/hookup?amp=A1&pair=0",
	} {
		res, err := client.Get(s.URL + boathouse + old)
		must(t, err)
		res.Body.Close()
		if got := res.Header.Get("Location"); res.StatusCode != http.StatusPermanentRedirect || got != boathouse+now {
			t.Errorf("%s: %d to %q, want %q", old, res.StatusCode, got, boathouse+now)
		}
	}
	if status, page := s.post("/jobs/saltpan-quay/plan", url.Values{"aim": {"fewest amplifiers"}}); status != http.StatusOK || !strings.Contains(page, "What that changed") {
		t.Errorf("%d: a plan sent to its old address", status)
	}
}

// What is kept of an edit is enough to make it again: made on the revision
// before, it gives the revision that was kept.
func TestEditsAreKeptAsData(t *testing.T) {
	s := open(t)
	for path, form := range map[string]url.Values{
		"/match/wishes":    {"policy": {"within"}, "bridging": {"never"}},
		"/wire/disconnect": {"to": {"TOP L2\tin"}},
		"/wire/add":        {"model": {"brackwater-reed-10"}, "tags": {"NEW 1 to 3"}, "place": {"left"}},
		"/wire/hang":       {"boxes": {"NEW 1 to 2"}, "outputs": {"A3 B"}, "each": {"2"}},
		"/protect/limiter": {"tag": {"A1"}, "port": {"out A"}, "rms": {"40"}, "peak": {"80"}},
		"/wire/reading":    {"device": {"A1"}, "port": {"out A"}, "dc": {"open"}},
	} {
		if status, page := s.post(boathouse+path, form); status >= 500 {
			t.Fatalf("%s: %d %.200s", path, status, heading(page))
		}
	}
	db, err := sql.Open("pgx", storetest.DSN(s.store))
	must(t, err)
	defer db.Close()
	rows, err := db.Query(`SELECT r.number, r.parent, r.edit FROM revisions r JOIN jobs j ON j.id = r.job_id WHERE j.slug = 'wherry-lock-boathouse' AND r.number > 1 ORDER BY 1`)
	must(t, err)
	defer rows.Close()
	n := 0
	for rows.Next() {
		var number, parent int
		var edit []byte
		must(t, rows.Scan(&number, &parent, &edit))
		n++
		e, err := rig.UnmarshalEdit(edit)
		must(t, err)
		before, err := s.store.RevisionRig(context.Background(), "wherry-lock-boathouse", parent)
		must(t, err)
		again, err := rig.Apply(before, e)
		must(t, err)
		after, err := s.store.RevisionRig(context.Background(), "wherry-lock-boathouse", number)
		must(t, err)
		x, _ := json.Marshal(again)
		y, _ := json.Marshal(after)
		if string(x) != string(y) {
			t.Errorf("revision %d, %s, made again is another", number, e.Say())
		}
	}
	if n < 4 {
		t.Errorf("only %d edits were kept", n)
	}
}
