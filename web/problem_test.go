package web

import (
	"bytes"
	"context"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"largo/core/finding"
	"largo/demo/tour"
	"largo/store/storetest"
	"largo/web/kit"
)

// withWire is a site whose Wire page is drawn by a view of the test.
func withWire(t *testing.T, log io.Writer, view func(*kit.Server, *kit.Page) error) (*httptest.Server, *Server) {
	t.Helper()
	st := storetest.Open(t)
	if err := tour.Load(context.Background(), st); err != nil {
		t.Fatal(err)
	}
	all := rooms()
	for i := range all {
		if all[i].Name == string(finding.Wire) {
			all[i].View = view
		}
	}
	s, err := newServer(st, slog.New(slog.NewTextHandler(log, nil)), all)
	if err != nil {
		t.Fatal(err)
	}
	server := httptest.NewServer(s)
	t.Cleanup(server.Close)
	return server, s
}

// After an edit that was kept nothing ever says that it was not: a page that
// cannot be drawn says that it was kept, offers undo and other pages, and its
// stack is in the log.
func TestAPageThatCannotBeDrawn(t *testing.T) {
	var log bytes.Buffer
	server, s := withWire(t, &log, func(*kit.Server, *kit.Page) error { var none []int; _ = none[3]; return nil })
	const job = "/jobs/wherry-lock-boathouse"
	edit := url.Values{"rev": {"1"}, "command": {uuid.NewString()}, "stage": {"wire"}, "to": {"TOP L2\tin"}}
	req, err := http.NewRequest(http.MethodPost, server.URL+job+"/wire/disconnect", strings.NewReader(edit.Encode()))
	if err != nil {
		t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("X-Alpine-Request", "true")
	page := answered(t, server.Client(), req, http.StatusInternalServerError)
	for _, want := range []string{"Your edit was kept, as revision 2.", `id="kept"`, `action="` + job + `/undo"`,
		`name="rev" value="2"`, job + `/match"`, job + `/history"`} {
		if !strings.Contains(page, want) {
			t.Errorf("after an edit that was kept the page lacks %q", want)
		}
	}
	if strings.Contains(page, "not kept") {
		t.Error("it says not kept of what was kept")
	}
	if j, err := s.Store.Job(context.Background(), "wherry-lock-boathouse"); err != nil || j.Number != 2 {
		t.Errorf("revision %d, %v", j.Number, err)
	}
	req, _ = http.NewRequest(http.MethodGet, server.URL+job+"/wire", nil)
	page = answered(t, server.Client(), req, http.StatusInternalServerError)
	if !strings.Contains(page, `id="undo"`) || strings.Contains(page, "kept") &&
		!strings.Contains(page, "Nothing of it was changed") && strings.Contains(page, `id="kept"`) {
		t.Error("a page that cannot be drawn offers no undo, or speaks of an edit")
	}
	if !strings.Contains(log.String(), "problem_test.go") || !strings.Contains(log.String(), "goroutine") {
		t.Errorf("no stack in the log: %.300s", log.String())
	}
	undo := url.Values{"rev": {"2"}, "command": {uuid.NewString()}, "stage": {"match"}}
	res, err := server.Client().PostForm(server.URL+job+"/undo", undo)
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	if j, err := s.Store.Job(context.Background(), "wherry-lock-boathouse"); err != nil || j.Number != 1 {
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

// A request whose asker goes away ends what it waits for (the engine hands the
// request's context on).
func TestWhoeverGoesAwayCancels(t *testing.T) {
	cancelled := make(chan bool, 1)
	server, _ := withWire(t, io.Discard, func(_ *kit.Server, p *kit.Page) error {
		select {
		case <-p.Gin.Done():
			cancelled <- true
		case <-time.After(5 * time.Second):
			cancelled <- false
		}
		return nil
	})
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
	s, err := New(st, slog.New(slog.DiscardHandler),
		WithDatabase(func() string { return "The database has ended and is being started again." }))
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
	if page := answered(t, server.Client(), req, http.StatusServiceUnavailable); !strings.Contains(page,
		"is being started again") || strings.Contains(page, "not kept") {
		t.Error("the page does not say what happens to the database")
	}
}
