package web

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"largo/core/finding"
	"largo/demo/tour"
	"largo/store"
	"largo/store/storetest"
)

// broken is a site whose Wire page cannot be drawn.
func broken(t *testing.T, log io.Writer) (*httptest.Server, *Server) {
	t.Helper()
	st := storetest.Open(t)
	if err := tour.Load(context.Background(), st); err != nil {
		t.Fatal(err)
	}
	s, err := New(st, slog.New(slog.NewTextHandler(log, nil)))
	if err != nil {
		t.Fatal(err)
	}
	s.paths[finding.Wire] = stage{func(*Server, *page) error { var none []int; _ = none[3]; return nil }}
	server := httptest.NewServer(s)
	t.Cleanup(server.Close)
	return server, s
}

// After an edit that was kept nothing ever says that it was not: a page that
// cannot be drawn says that it was kept, offers undo and other pages, and its
// stack is in the log.
func TestAPageThatCannotBeDrawn(t *testing.T) {
	var log bytes.Buffer
	server, s := broken(t, &log)
	const job = "/jobs/wherry-lock-boathouse"
	edit := url.Values{"rev": {"1"}, "command": {newCommand()}, "stage": {"wire"}, "to": {"TOP L2\tin"}}
	req, err := http.NewRequest(http.MethodPost, server.URL+job+"/wire/disconnect", strings.NewReader(edit.Encode()))
	if err != nil {
		t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("X-Alpine-Request", "true")
	page := answered(t, server.Client(), req, http.StatusInternalServerError)
	for _, want := range []string{"Your edit was kept, as revision 2.", `id="kept"`, `action="` + job + `/undo"`, `name="rev" value="2"`, job + `/match"`, job + `/history"`} {
		if !strings.Contains(page, want) {
			t.Errorf("after an edit that was kept the page lacks %q", want)
		}
	}
	if strings.Contains(page, "not kept") {
		t.Error("it says not kept of what was kept")
	}
	if j, err := s.store.Job(context.Background(), "wherry-lock-boathouse"); err != nil || j.Number != 2 {
		t.Errorf("revision %d, %v", j.Number, err)
	}
	req, _ = http.NewRequest(http.MethodGet, server.URL+job+"/wire", nil)
	page = answered(t, server.Client(), req, http.StatusInternalServerError)
	if !strings.Contains(page, `id="undo"`) || strings.Contains(page, "kept") && !strings.Contains(page, "Nothing of it was changed") && strings.Contains(page, `id="kept"`) {
		t.Error("a page that cannot be drawn offers no undo, or speaks of an edit")
	}
	if !strings.Contains(log.String(), "problem_test.go") || !strings.Contains(log.String(), "goroutine") {
		t.Errorf("no stack in the log: %.300s", log.String())
	}
	undo := url.Values{"rev": {"2"}, "command": {newCommand()}, "stage": {"match"}}
	res, err := server.Client().PostForm(server.URL+job+"/undo", undo)
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	if j, err := s.store.Job(context.Background(), "wherry-lock-boathouse"); err != nil || j.Number != 1 {
		t.Errorf("undone to revision %d, %v", j.Number, err)
	}
}

func answered(t *testing.T, c *http.Client, req *http.Request, want int) string {
	t.Helper()
	res, err := c.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	if err != nil {
		t.Fatal(err)
	}
	if res.StatusCode != want {
		t.Errorf("%s %s: %d, want %d", req.Method, req.URL.Path, res.StatusCode, want)
	}
	return string(b)
}

// At most one search goes on for a job, and few in all; the next one is told.
func TestOneSearchAtATime(t *testing.T) {
	var s searches
	done, ok := s.begin("a")
	if !ok {
		t.Fatal("the first was refused")
	}
	if _, ok := s.begin("a"); ok {
		t.Error("two searches for one job")
	}
	other, ok := s.begin("b")
	if !ok {
		t.Error("another job was refused")
	}
	if _, ok := s.begin("c"); ok {
		t.Error("more searches than are allowed in all")
	}
	short, cancel := context.WithTimeout(context.Background(), 50*time.Millisecond)
	defer cancel()
	if _, ok := s.shortly(short, "a"); ok {
		t.Error("it did not wait")
	}
	done()
	other()
	if again, ok := s.shortly(context.Background(), "a"); !ok {
		t.Error("the place was not given back")
	} else {
		again()
	}
}

// A request whose asker goes away ends what it waits for (the engine hands the
// request's context on).
func TestWhoeverGoesAwayCancels(t *testing.T) {
	server, s := broken(t, io.Discard)
	cancelled := make(chan bool, 1)
	s.paths[finding.Wire] = stage{func(_ *Server, p *page) error {
		select {
		case <-p.gin.Done():
			cancelled <- true
		case <-time.After(5 * time.Second):
			cancelled <- false
		}
		return nil
	}}
	ctx, cancel := context.WithTimeout(context.Background(), 100*time.Millisecond)
	defer cancel()
	req, _ := http.NewRequestWithContext(ctx, http.MethodGet, server.URL+"/jobs/wherry-lock-boathouse/wire", nil)
	if res, err := server.Client().Do(req); err == nil {
		res.Body.Close()
	}
	if !<-cancelled {
		t.Error("the asker went away, and the work went on")
	}
}

// While the database is away a page says what is known of it.
func TestTheDatabaseIsAway(t *testing.T) {
	st := storetest.Open(t)
	s, err := New(st, slog.New(slog.DiscardHandler), WithDatabase(func() string { return "The database has ended and is being started again." }))
	if err != nil {
		t.Fatal(err)
	}
	server := httptest.NewServer(s)
	defer server.Close()
	if err := storetest.Cluster.Kill(); err != nil {
		t.Fatal(err)
	}
	defer func() {
		if err := storetest.Cluster.Restart(context.Background()); err != nil {
			t.Fatal(err)
		}
	}()
	req, _ := http.NewRequest(http.MethodGet, server.URL+"/", nil)
	if page := answered(t, server.Client(), req, http.StatusServiceUnavailable); !strings.Contains(page, "is being started again") || strings.Contains(page, "not kept") {
		t.Error("the page does not say what happens to the database")
	}
}

// Where the word that something was kept is lost, nobody says that it was not.
func TestPerhapsKept(t *testing.T) {
	var s Server
	p := s.explain(fmt.Errorf("%w: %w", store.ErrUnsure, store.ErrDown), true)
	if strings.Contains(p.Say, "not kept") || !strings.Contains(p.Say, "not known whether") {
		t.Error(p.Say)
	}
}

// Every style sheet is in the list of those that are joined, once.
func TestEveryStyleSheetIsJoined(t *testing.T) {
	entries, err := files.ReadDir("static/styles")
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range entries {
		n := 0
		for _, name := range styleSheets {
			if name+".css" == e.Name() {
				n++
			}
		}
		if n != 1 {
			t.Errorf("%s is joined %d times", e.Name(), n)
		}
	}
	if len(entries) != len(styleSheets) {
		t.Errorf("%d sheets lie there, %d are joined", len(entries), len(styleSheets))
	}
}
