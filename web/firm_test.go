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
	"largo/web/webtest"
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
var stagePages = []string{"brief", "match", "wire", "wire?list=pack", "wire?list=lines", "wire?list=devices",
	"feed", "feed?visit=next", "feed/show", "level", "protect", "start", "strike", "strike/back", "run", "card", "sheet",
	"history", "match/plan", "match/whatif", "rig.json"}

// Every page is drawn with the longest tags, names, places and titles, in any
// script, on the device, its output and its lead too.
func TestEveryPageTakesTheLongestNames(t *testing.T) {
	s := webtest.Open(t)
	rigs, err := demo.Rigs()
	webtest.Must(t, err)
	for n, c := range longNames {
		for i, r := range rigs {
			slug, err := s.Store.CreateJob(context.Background(),
				store.Change{Command: webtest.Fresh(), Rig: renamed(t, r, c.tag, c.model, c.place, c.title), Said: "x",
					Author: "y"})
			webtest.Must(t, err)
			at := "/jobs/" + url.PathEscape(slug) + "/"
			pages := append([]string(nil), stagePages...)
			j, err := s.Store.Job(context.Background(), slug)
			webtest.Must(t, err)
			for k, d := range j.Rig.Devices { // a third of them with each name, another third with the next
				if k%3 != n%3 {
					continue
				}
				pages = append(pages, "wire?device="+url.QueryEscape(d.Tag), "match/output?at="+url.QueryEscape(d.Tag+"\tout A"),
					"wire/hookup?amp="+url.QueryEscape(d.Tag)+"&pair=0")
			}
			for l, k := range j.Rig.Links {
				if l%3 != n%3 {
					continue
				}
				pages = append(pages, "wire?lead="+url.QueryEscape(k.To.Device+"\t"+k.To.Port))
			}
			if testing.Short() {
				pages = pages[:len(stagePages)]
			}
			for _, page := range pages {
				if status, body := s.Get(at + page); status >= 500 || strings.Contains(body, "\ufffd") {
					t.Errorf("%s, rig %d, %s: %d", c.what, i+1, page, status)
				}
			}
		}
	}
	if status, body := s.Get("/"); status != http.StatusOK || strings.Contains(body, "\ufffd") {
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
		r, err = rig.Apply(r, rig.ChangeDevice{Tag: d.Tag, NewTag: own, Place: place, Switch: d.Switch, Aim: d.Aim(),
			Distance: d.Distance()})
		webtest.Must(t, err)
	}
	for i := range r.Models {
		m := r.Models[i].Clone()
		m.Name, m.Maker = model, model
		r.Models[i] = m
	}
	webtest.Must(t, r.Check())
	return r
}

func TestHEADAnswersWhereverGETDoes(t *testing.T) {
	s := webtest.Open(t)
	for _, path := range []string{"/", "/healthz", "/gear", "/gear.csv", "/gear.xlsx", "/gear.json", "/stock",
		"/stock.csv", "/advise", "/gear/new/amplifier", "/gear/model/fennholt-1400", webtest.Boathouse, webtest.Boathouse +
			"/match", webtest.Boathouse + "/sheet", webtest.Boathouse + "/rig.json", webtest.Boathouse + "/events",
		webtest.Boathouse + "/match/plan/progress?aim=fewest+amplifiers", staticPath(s)} {
		res, err := s.Client().Head(s.URL + path)
		webtest.Must(t, err)
		b, _ := io.ReadAll(res.Body)
		res.Body.Close()
		if res.StatusCode != http.StatusOK || len(b) > 0 {
			t.Errorf("HEAD %s: %d, %d bytes", path, res.StatusCode, len(b))
		}
	}
}

// staticPath is the address of the style sheet as a page names it.
func staticPath(s *webtest.Site) string {
	_, page := s.Get("/")
	return regexp.MustCompile(`/static/[0-9a-f]+/styles/largo\.css`).FindString(page)
}

// Files are named by what is in them and kept for good; under an old name comes
// what is now, and is not kept. No folder is listed.
func TestStaticFilesAreNamedByContent(t *testing.T) {
	s := webtest.Open(t)
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
		webtest.Must(t, err)
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
	s := webtest.Open(t)
	for _, path := range []string{
		"/jobs/a%00b/brief", "/jobs/%ff%fe/brief", "/jobs/a%E2%80%AEb/brief", "/gear/model/%00", "/gear/model/%ff",
		"/gear/new/%00",
		webtest.Boathouse + "/%00", webtest.Boathouse + "/history?from=99999999999999999999", webtest.Boathouse +
			"/history?from=2147483648", webtest.Boathouse + "/history?from=-1",
		webtest.Boathouse + "/history?page=99999999999999999999", webtest.Boathouse + "/history?page=-3",
		webtest.Boathouse + "/match?since=3000000000", webtest.Boathouse + "/wire?device=%00", webtest.Boathouse +
			"/wire?lead=%ff",
		webtest.Boathouse + "/match/output?amp=%00&port=x", webtest.Boathouse + "/wire/hookup?amp=A1&pair=99999999999",
		webtest.Boathouse + "/wire/hookup?amp=A1&pair=-1", webtest.Boathouse + "/match/plan?margin=%00", webtest.Boathouse +
			"/match/plan?aim=%ff",
		webtest.Boathouse + "/match/plan/progress?aim=nonsense", webtest.Boathouse + "/match/whatif?boxes=%00", "/?q=%00",
		"/?q=%ff", "/?page=1e9", "/?shelf=nowhere", "/gear?q=%00", "/gear?q=%25%5f", "/stock?q=%ff", "/advise?box=%00",
		"/gear/model/fennholt-1400/curve/%00", "/?q=" + strings.Repeat("x", 9000), "/" + strings.Repeat("x", 9000),
		"/static/x/%00",
	} {
		status, body := s.Get(path)
		if status >= 500 || strings.Contains(body, "\x00") {
			t.Errorf("%.80s: %d", path, status)
		}
	}
}

// Only our own pages are come back to.
func TestBackGoesToOurOwnPages(t *testing.T) {
	s := webtest.Open(t)
	client := *s.Client()
	client.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	for back, want := range map[string]string{
		"/jobs/x/match?since=3": "/jobs/x/match?since=3", "/": "/", "/gear": "/gear",
		"//evil.example": "/", "/\\evil.example": "/", "https://evil.example/": "/", "/\t/evil.example": "/",
		"/\n/evil.example":    "/",
		"javascript:alert(1)": "/", "": "/", "/nowhere": "/", "/%2f/evil.example": "/", "/\u202egro.live": "/",
		"evil.example": "/",
	} {
		res, err := client.PostForm(s.URL+"/scheme", url.Values{"scheme": {"dark"}, "back": {back}})
		webtest.Must(t, err)
		res.Body.Close()
		if got := res.Header.Get("Location"); got != want {
			t.Errorf("back to %q went to %q, want %q", back, got, want)
		}
	}
}

// One act sent twice at once is made once; several of one title get a name
// each.
func TestTwoAtOnce(t *testing.T) {
	s := webtest.Open(t)
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
		_, n, err := s.Store.List(context.Background(), store.AtHand, title, "", time.Now(), 0, 10)
		webtest.Must(t, err)
		return n.All
	}
	one := url.Values{"title": {"Twice Over"}, "command": {webtest.Fresh()}}
	together(4, func(int) {
		if status, page := post("/jobs", one); status != http.StatusOK || !strings.HasPrefix(page, "/jobs/twice-over/") {
			t.Errorf("%d %.60s", status, page)
		}
	})
	if n := count("twice over"); n != 1 {
		t.Errorf("one command made %d jobs", n)
	}
	other := url.Values{"title": {"Another Title"}, "command": one["command"]}
	if status, page := post("/jobs", other); status != http.StatusConflict ||
		!strings.Contains(page, "has begun a job already") || !strings.Contains(page, `value="Another Title"`) {
		t.Errorf("%d: another title under one command is neither refused nor kept on the form", status)
	}
	commands := make([]string, 8)
	for i := range commands {
		commands[i] = webtest.Fresh()
	}
	together(8, func(i int) {
		if status, page := post("/jobs",
			url.Values{"title": {"Eight Alike"}, "command": {commands[i]}}); status != http.StatusOK {
			t.Errorf("%d: %.200s", status, page)
		}
	})
	if n := count("eight alike"); n != 8 {
		t.Errorf("%d of eight jobs of one title", n)
	}
	undo := url.Values{"rev": {"1"}, "command": {webtest.Fresh()}}
	s.Post(webtest.Boathouse+"/brief", url.Values{"title": {"Changed"}})
	undo.Set("rev", "2")
	together(4, func(int) {
		if status, _ := post(webtest.Boathouse+"/undo", undo); status != http.StatusOK {
			t.Errorf("undo sent again: %d", status)
		}
	})
	if j, err := s.Store.Job(context.Background(), "wherry-lock-boathouse"); err != nil || j.Number != 1 {
		t.Errorf("one undo sent four times came to revision %d, %v", j.Number, err)
	}
	if _, page := s.Get(webtest.Boathouse + "/history"); strings.Count(page, "Undid: Changed the brief") != 1 {
		t.Error("the history has not one line for one undo")
	}
}

// What lies in the database and cannot be read is one line of the list that
// says so; what was judged of another document is not shown for it.
func TestAJobThatCannotBeRead(t *testing.T) {
	s := webtest.Open(t)
	s.Get("/") // all are judged
	db, err := sql.Open("pgx", storetest.DSN(s.Store))
	webtest.Must(t, err)
	defer db.Close()
	spoil := func(slug, with string) {
		t.Helper()
		_, err := db.Exec(`UPDATE revisions r SET rig = `+with+
			` FROM jobs j WHERE j.id = r.job_id AND r.number = j.head AND j.slug = $1`, slug)
		webtest.Must(t, err)
	}
	spoil("wherry-lock-boathouse", `'{"brief":{"title":"Wherry"},"devices":[{"tag":"A","model":"none"}]}'::jsonb`)
	spoil("saltpan-quay", `'"text"'::jsonb`)
	status, page := s.Get("/")
	if status != http.StatusOK || strings.Count(page, "This job cannot be read") != 2 ||
		!strings.Contains(page, "two cannot be read") || !strings.Contains(page, "Marigold Roller Hall") {
		t.Errorf("%d: the list of jobs: %s", status, webtest.Heading(page))
	}
	if status, page := s.Get(webtest.Boathouse + "/match"); status != http.StatusInternalServerError ||
		!strings.Contains(page, "cannot be read") || !strings.Contains(page, `id="undo"`) {
		t.Errorf("%d: a page of it", status)
	}
	if status, page := s.Get(webtest.Hall + "/match"); status != http.StatusOK || !strings.Contains(page, "2.67") {
		t.Errorf("%d: the others", status)
	}
	_, err = db.Exec(`UPDATE revisions SET version = 99 WHERE number = 1
		AND job_id = (SELECT id FROM jobs
		WHERE slug = 'marigold-roller-hall')`)
	webtest.Must(t, err)
	st := storetest.Beside(t, s.Store) // one that remembers nothing
	if _, err := st.Job(context.Background(), "marigold-roller-hall"); err == nil ||
		!strings.Contains(err.Error(), "a newer Largo wrote it") {
		t.Errorf("a document of the future: %v", err)
	}
	_, err = db.Exec(`UPDATE models SET doc = '{"id":"fennholt-1400","kind":"amplifier"}' WHERE id = 'fennholt-1400'`)
	webtest.Must(t, err)
	if status, page := s.Get("/gear?q=fennholt"); status != http.StatusOK ||
		!strings.Contains(page, "The model fennholt-1400 cannot be read") {
		t.Errorf("%d: a model that cannot be read", status)
	}
}

// An edit made on one server is heard on the other at once, and two quick edits
// of one page, sent to both, are both kept.
func TestTwoServers(t *testing.T) {
	a := webtest.Open(t)
	second := storetest.Beside(t, a.Store)
	h, err := web.New(second, slog.New(slog.DiscardHandler))
	webtest.Must(t, err)
	ctx, end := context.WithCancel(context.Background())
	ran := make(chan struct{})
	go func() { h.Run(ctx); close(ran) }()
	defer func() { end(); <-ran }()
	b := &webtest.Site{T: t, Server: httptest.NewServer(h), Store: second}
	defer b.Close()
	defer h.EndStreams()

	heard := hear(b, webtest.Boathouse)
	if e := <-heard; e.Head != 1 {
		t.Fatalf("at first it hears of revision %d", e.Head)
	}
	time.Sleep(150 * time.Millisecond) // until its listener listens, which has no sign of its own
	_, page := a.Get(webtest.Boathouse + "/match")
	command := webtest.CommandOf(page)
	a.PostInPlace(webtest.Boathouse+"/match/wishes", url.Values{"rev": {"1"}, "command": {command}, "stage": {"match"},
		"policy": {"within"}, "bridging": {"never"}})
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
	b.PostInPlace(webtest.Boathouse+"/match/wishes", url.Values{"rev": {"1"}, "command": {command}, "stage": {"match"},
		"policy": {"tenth over"}, "bridging": {"never"}})
	if j := webtest.MustJob(t, a, "wherry-lock-boathouse"); j.Number != 3 || j.Rig.Policy != rig.TenthOver {
		t.Errorf("revision %d, %s: of two quick edits over two servers one is lost", j.Number, j.Rig.Policy)
	}
}

// hear listens to the events of a job.
func hear(s *webtest.Site, job string) <-chan store.Event {
	s.T.Helper()
	res, err := http.Get(s.URL + job + "/events")
	webtest.Must(s.T, err)
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
				if _, data, ok := strings.Cut(event, "data: "); ok && strings.HasPrefix(event, "event: head") &&
					json.Unmarshal([]byte(data), &e) == nil {
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
	s := webtest.Open(t)
	client := *s.Client()
	client.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	for old, now := range map[string]string{
		"/plan?aim=lightest":          "/match/plan?aim=lightest",
		"/plan/progress?aim=lightest": "/match/plan/progress?aim=lightest",
		"/output?at=A1%09out+A":       "/match/output?at=A1%09out+A",
		"/whatif?distance=22":         "/match/whatif?distance=22", "/hookup?amp=A1&pair=0": "/wire/hookup?amp=A1&pair=0",
	} {
		res, err := client.Get(s.URL + webtest.Boathouse + old)
		webtest.Must(t, err)
		res.Body.Close()
		if got := res.Header.Get("Location"); res.StatusCode != http.StatusPermanentRedirect || got != webtest.Boathouse+now {
			t.Errorf("%s: %d to %q, want %q", old, res.StatusCode, got, webtest.Boathouse+now)
		}
	}
	if status, page := s.Post("/jobs/saltpan-quay/plan",
		url.Values{"aim": {"fewest amplifiers"}}); status != http.StatusOK || !strings.Contains(page, "What that changed") {
		t.Errorf("%d: a plan sent to its old address", status)
	}
}

// What is kept of an edit is enough to make it again: made on the revision
// before, it gives the revision that was kept.
func TestEditsAreKeptAsData(t *testing.T) {
	s := webtest.Open(t)
	for path, form := range map[string]url.Values{
		"/match/wishes":    {"policy": {"within"}, "bridging": {"never"}},
		"/wire/disconnect": {"to": {"TOP L2\tin"}},
		"/wire/add":        {"model": {"brackwater-reed-10"}, "tags": {"NEW 1 to 3"}, "place": {"left"}},
		"/wire/hang":       {"boxes": {"NEW 1 to 2"}, "outputs": {"A3 B"}, "each": {"2"}},
		"/protect/limiter": {"tag": {"A1"}, "port": {"out A"}, "rms": {"40"}, "peak": {"80"}},
		"/wire/reading":    {"device": {"A1"}, "port": {"out A"}, "dc": {"open"}},
	} {
		if status, page := s.Post(webtest.Boathouse+path, form); status >= 500 {
			t.Fatalf("%s: %d %.200s", path, status, webtest.Heading(page))
		}
	}
	db, err := sql.Open("pgx", storetest.DSN(s.Store))
	webtest.Must(t, err)
	defer db.Close()
	rows, err := db.Query(`SELECT r.number, r.parent, r.edit FROM revisions r JOIN jobs j ON j.id = r.job_id
		WHERE j.slug = 'wherry-lock-boathouse' AND r.number > 1 ORDER BY 1`)
	webtest.Must(t, err)
	defer rows.Close()
	n := 0
	for rows.Next() {
		var number, parent int
		var edit []byte
		webtest.Must(t, rows.Scan(&number, &parent, &edit))
		n++
		e, err := rig.UnmarshalEdit(edit)
		webtest.Must(t, err)
		before, err := s.Store.RevisionRig(context.Background(), "wherry-lock-boathouse", parent)
		webtest.Must(t, err)
		again, err := rig.Apply(before, e)
		webtest.Must(t, err)
		after, err := s.Store.RevisionRig(context.Background(), "wherry-lock-boathouse", number)
		webtest.Must(t, err)
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
