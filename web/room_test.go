package web

import (
	"context"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"

	"largo/core/rig"
	"largo/demo/tour"
	"largo/store/storetest"
	"largo/web/kit"
)

// A room of nothing is its own folder and one line in the list: its page under
// its own address, its edit, its line in the finder, its part of the sheet, its
// style and its script come out without another line anywhere.
func TestARoomOfNothing(t *testing.T) {
	nothing := kit.Room{
		Name: "nothing",
		Files: fstest.MapFS{
			"nothing.html": {Data: []byte(`{{define "page"}}<h1>Nothing {{.Body}}</h1>{{end}}`)},
			"onsheet.html": {Data: []byte(`{{define "on-sheet"}}<p>{{.}} on paper</p>{{end}}`)},
			"nothing.css":  {Data: []byte(".nothing {\n  color: red;\n}\n")},
			"nothing.js":   {Data: []byte("// nothing\n")},
		},
		View:  func(_ *kit.Server, p *kit.Page) error { p.Body = "<at all>"; return nil },
		Finds: []kit.FindItem{{Label: "Find nothing", Note: "act", Href: "/nothing#at-all"}},
		Keys:  []kit.KeyHelp{{Key: "n", Does: "nothing"}},
		Sheet: func(*kit.Page) any { return "Nothing" },
		Routes: func(r *kit.Routes) {
			r.Edit("/jobs/:job/nothing/done", func(rig.Rig, *kit.Form) rig.Edit { return rig.TidyDrawing{} }, "done")
		},
	}
	st := storetest.Open(t)
	if err := tour.Load(context.Background(), st); err != nil {
		t.Fatal(err)
	}
	h, err := newServer(st, slog.New(slog.DiscardHandler), append(rooms(), nothing))
	if err != nil {
		t.Fatal(err)
	}
	server := httptest.NewServer(h)
	defer server.Close()
	const job = "/jobs/wherry-lock-boathouse"
	page := fetched(t, server, job+"/nothing")
	for _, want := range []string{"<h1>Nothing &lt;at all&gt;</h1>", `href="` + job + `/nothing#at-all"`, "<kbd>n</kbd>",
		"scripts/nothing.js"} {
		if !strings.Contains(page, want) {
			t.Errorf("its page lacks %s", want)
		}
	}
	if !strings.Contains(fetched(t, server, job+"/sheet"), "<p>Nothing on paper</p>") {
		t.Error("its part of the sheet is lost")
	}
	_, at, _ := strings.Cut(page, `href="/static/`)
	digest, _, _ := strings.Cut(at, "/")
	if !strings.Contains(fetched(t, server, "/static/"+digest+"/styles/largo.css"), ".nothing {") {
		t.Error("its style is not joined")
	}
	if res, err := server.Client().PostForm(server.URL+job+"/nothing/done", nil); err != nil ||
		res.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("its edit without a revision: %v, %v", res.Status, err)
	}
}

// A room that lacks a part ends the start with a sentence that names it.
func TestARoomThatLacksAPart(t *testing.T) {
	st, log := storetest.Open(t), slog.New(slog.DiscardHandler)
	for want, change := range map[string]func([]kit.Room) []kit.Room{
		"the stage wire has no room in the web": func(all []kit.Room) []kit.Room {
			return append(all[:2:2], all[3:]...)
		},
		"the room brief has no page brief.html": func(all []kit.Room) []kit.Room {
			all[0].Files = fstest.MapFS{}
			return all
		},
		"the room brief puts something on the sheet and has no": func(all []kit.Room) []kit.Room {
			all[0].Sheet = func(*kit.Page) any { return nil }
			return all
		},
		"the room sums: another room has a page sums": func(all []kit.Room) []kit.Room {
			return append(all, all[len(all)-1])
		},
		"the room twin: template: twin.html:1: unclosed action": func(all []kit.Room) []kit.Room {
			return append(all, kit.Room{Name: "twin", Files: fstest.MapFS{"twin.html": {Data: []byte("{{")}}})
		},
	} {
		if _, err := newServer(st, log, change(rooms())); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %s", err, want)
		}
	}
}

func fetched(t *testing.T, server *httptest.Server, path string) string {
	t.Helper()
	res, err := server.Client().Get(server.URL + path)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	if err != nil || res.StatusCode != http.StatusOK {
		t.Errorf("%s: %d, %v", path, res.StatusCode, err)
	}
	return string(b)
}
