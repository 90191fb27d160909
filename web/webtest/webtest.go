// Package webtest runs the interface on the demo tour, for the tests of its rooms.
package webtest

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"log/slog"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"largo/demo/tour"
	"largo/store"
	"largo/store/storetest"
	"largo/web"
)

// MustJob reads a job that has to be there.
func MustJob(t *testing.T, s *Site, slug string) store.Job {
	t.Helper()
	j, err := s.Store.Job(context.Background(), slug)
	Must(t, err)
	return j
}

// Heading is the answer that a page begins with.
func Heading(page string) string {
	_, rest, _ := strings.Cut(page, "<h1>")
	h, _, _ := strings.Cut(rest, "</h1>")
	return h
}

var (
	inputs  = regexp.MustCompile(`<input class="form-control"[^>]*\sname="([^"]*)"\s+value="([^"]*)"`)
	selects = regexp.MustCompile(`(?s)<select class="form-select"[^>]*\sname="([^"]*)".*?</select>`)
)

// FormOf reads the fields of a model's form as they stand on its page.
func FormOf(t *testing.T, s *Site, at string) url.Values {
	t.Helper()
	_, page := s.Get(at)
	_, page, _ = strings.Cut(page, `novalidate>`)
	page, _, _ = strings.Cut(page, `id="save-model"`)
	v := url.Values{}
	for _, m := range inputs.FindAllStringSubmatch(page, -1) {
		v.Set(m[1], strings.NewReplacer("&#34;", `"`, "&amp;", "&").Replace(m[2]))
	}
	for _, m := range selects.FindAllStringSubmatch(page, -1) {
		if chosen := regexp.MustCompile(`<option value="([^"]*)" selected`).FindStringSubmatch(m[0]); chosen != nil {
			v.Set(m[1], chosen[1])
		}
	}
	if len(v) < 5 {
		t.Fatalf("%d fields on %s", len(v), at)
	}
	return v
}

// Site is a running server on the demo tour.
type Site struct {
	T testing.TB
	*httptest.Server
	Store   *store.Store
	Handler *web.Server

	OneAtATime sync.Mutex // edits of a job, where a test sends many
}

const (
	Boathouse = "/jobs/wherry-lock-boathouse"
	Hall      = "/jobs/marigold-roller-hall"
)

// Open runs the interface on a store of its own that holds the demo tour.
func Open(t testing.TB) *Site {
	t.Helper()
	st := storetest.Open(t)
	Must(t, tour.Load(context.Background(), st))
	h, err := web.New(st, slog.New(slog.DiscardHandler))
	Must(t, err)
	s := httptest.NewServer(h)
	t.Cleanup(s.Close)
	return &Site{T: t, Server: s, Store: st, Handler: h}
}

// Must ends a test that cannot go on.
func Must(t testing.TB, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

var commands atomic.Int64

func command(n int) string { return fmt.Sprintf("00000000-0000-4000-8000-%012d", n) }

// Fresh is a command id that was not used before.
func Fresh() string {
	return command(1000 + int(commands.Add(1)))
}

// Get asks for a page, following redirects.
func (s *Site) Get(path string) (int, string) {
	s.T.Helper()
	res, err := s.Client().Get(s.URL + path)
	Must(s.T, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	Must(s.T, err)
	return res.StatusCode, string(b)
}

// Post sends a form on the revision in force and follows to the page.
func (s *Site) Post(path string, form url.Values) (int, string) {
	s.T.Helper()
	if form.Get("rev") == "" {
		form.Set("rev", s.revision(path))
	}
	if form.Get("command") == "" {
		form.Set("command", Fresh())
	}
	if form.Get("base") == "" {
		form.Set("base", s.Base(path))
	}
	res, err := s.Client().PostForm(s.URL+path, form)
	Must(s.T, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	Must(s.T, err)
	return res.StatusCode, string(b)
}

// PostInPlace sends an edit as the page does that takes the answer in place.
func (s *Site) PostInPlace(path string, form url.Values) string {
	s.T.Helper()
	req, err := http.NewRequest(http.MethodPost, s.URL+path, strings.NewReader(form.Encode()))
	Must(s.T, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("X-Alpine-Request", "true")
	res, err := s.Client().Do(req)
	Must(s.T, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	Must(s.T, err)
	if res.StatusCode != http.StatusOK {
		s.T.Fatalf("%s answers %d", path, res.StatusCode)
	}
	return string(b)
}

// CommandOf is the id that the next edit of a page bears.
func CommandOf(page string) string {
	_, rest, _ := strings.Cut(page, `name="command" value="`)
	command, _, _ := strings.Cut(rest, `"`)
	return command
}

var baseForm = regexp.MustCompile(`name="base" value="(\d+)"`)

// Base is what a page of the library or of the stock says that it shows.
func (s *Site) Base(path string) string {
	at := ""
	switch {
	case strings.HasPrefix(path, "/gear/model/"):
		at = strings.Join(strings.Split(path, "/")[:4], "/")
	case strings.HasPrefix(path, "/stock"):
		at = "/stock"
	default:
		return ""
	}
	_, page := s.Get(at)
	if m := baseForm.FindStringSubmatch(page); m != nil {
		return m[1]
	}
	return ""
}

var revForm = regexp.MustCompile(`name="rev" value="(\d+)"`)

func (s *Site) revision(path string) string {
	parts := strings.Split(path, "/")
	if len(parts) < 3 || parts[1] != "jobs" {
		return "0"
	}
	_, page := s.Get("/jobs/" + parts[2] + "/brief")
	if m := revForm.FindStringSubmatch(page); m != nil {
		return m[1]
	}
	return "0"
}

// State is what the database holds, to see that nothing changed.
func (s *Site) State() string {
	jobs, _, err := s.Store.List(context.Background(), store.AtHand, "", "", time.Now(), 0, 1000)
	Must(s.T, err)
	models, err := s.Store.Models(context.Background())
	Must(s.T, err)
	text := fmt.Sprint(len(models))
	for _, j := range jobs {
		text += fmt.Sprintf(" %s:%d", j.Slug, j.Number)
	}
	return text
}

// Upload sends a rig file as a new job.
func (s *Site) Upload(file io.Reader) (int, string) { return s.UploadTo("/jobs/import", file) }

// UploadTo sends a file to a form that takes one, with further fields, each after its name.
func (s *Site) UploadTo(path string, file io.Reader, fields ...string) (int, string) {
	s.T.Helper()
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	for i := 0; i+1 < len(fields); i += 2 {
		Must(s.T, w.WriteField(fields[i], fields[i+1]))
	}
	Must(s.T, w.WriteField("command", Fresh()))
	Must(s.T, w.WriteField("base", s.Base(path)))
	part, err := w.CreateFormFile("file", "rig.json")
	Must(s.T, err)
	_, err = io.Copy(part, file)
	Must(s.T, err)
	Must(s.T, w.Close())
	res, err := s.Client().Post(s.URL+path, w.FormDataContentType(), &body)
	Must(s.T, err)
	defer res.Body.Close()
	b, _ := io.ReadAll(res.Body)
	return res.StatusCode, string(b)
}

// Spaces is a file of spaces without end.
type Spaces struct{}

func (Spaces) Read(b []byte) (int, error) {
	for i := range b {
		b[i] = ' '
	}
	return len(b), nil
}

// Refusal is a form that is refused: at which field, by which sentence; a fault of
// no field stands with the form.
type Refusal struct {
	What, Path string
	Form       url.Values
	Field, Say string
}

// Refused makes a Refusal.
func Refused(what, path string, form url.Values, field, say string) Refusal {
	return Refusal{what, path, form, field, say}
}

// Refuses tells of each form that is not refused as it should be: with 422, its
// sentence where it was typed, nothing of what was typed as markup, and nothing
// changed.
func (s *Site) Refuses(refusals []Refusal) {
	s.T.Helper()
	for _, c := range refusals {
		before := s.State()
		status, page := s.Post(c.Path, c.Form)
		if status != http.StatusUnprocessableEntity {
			s.T.Errorf("%s: %d, want 422", c.What, status)
		}
		at := `(?s)<p class="fault"[^>]*id="[^"]*-` + c.Field + `-fault">[^<]*`
		if c.Field == "" {
			at = `(?s)<p class="fault">[^<]*`
		}
		plain := strings.ReplaceAll(page, "&#34;", `"`)
		if !regexp.MustCompile(at + regexp.QuoteMeta(c.Say)).MatchString(plain) {
			s.T.Errorf("%s: no sentence with %q at field %q", c.What, c.Say, c.Field)
		}
		if strings.Contains(page, "<script>alert") {
			s.T.Errorf("%s: script came back as script", c.What)
		}
		if s.State() != before {
			s.T.Errorf("%s: something was changed", c.What)
		}
	}
}
