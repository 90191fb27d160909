package jobs_test

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"largo/demo"
	"largo/store"
	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// The list counts all jobs, page by page, the next first, and says what is wrong
// with those on other pages too.
func TestManyJobs(t *testing.T) {
	s := webtest.Open(t)
	rigs, err := demo.Rigs()
	webtest.Must(t, err)
	for i := range 130 {
		r := rigs[0].Clone() // fine
		if i < 2 {
			r = rigs[2].Clone() // at stop
		}
		r.Brief.Title, r.Brief.Date = fmt.Sprintf("Date %03d", i), fmt.Sprintf("2030-%02d-%02d", 1+i/28, 1+i%28)
		_, err := s.Store.CreateJob(context.Background(),
			store.Change{Command: webtest.Fresh(), Rig: r, Said: "x", Author: "y"})
		webtest.Must(t, err)
	}
	for range 3 { // each page judges its own; together they judge all
		s.Get("/")
		s.Get("/?page=2")
		s.Get("/?page=3")
	}
	_, first := s.Get("/")
	if !strings.Contains(first, "134 jobs; four must not be energised as they stand.") ||
		!strings.Contains(first, "1 to 50 of 134") || strings.Index(first, "Date 001") > strings.Index(first, "Date 002") ||
		strings.Contains(first, "Date 129") {
		t.Error("the first page of many jobs")
	}
	if _, last := s.Get("/?page=3"); !strings.Contains(last, "101 to 134 of 134") ||
		!strings.Contains(last, "Date 129") || !strings.Contains(last, "four must not") {
		t.Error("the last page of many jobs")
	}
	if _, found := s.Get("/?q=DATE+129"); !strings.Contains(found, "One job with &#34;DATE 129&#34;; nothing at stop.") {
		t.Error("the search")
	}
	slug := "date-000"
	if status, page := s.Post("/jobs/"+slug+"/shelf", url.Values{"to": {"archived"}}); status != 200 ||
		!strings.Contains(page, "133 jobs; three must") {
		t.Errorf("%d: archived", status)
	}
	if _, page := s.Get("/?shelf=archived"); !strings.Contains(page,
		"One job in the archive; one must not be energised") || !strings.Contains(page, "Date 000") {
		t.Error("the archive")
	}
	s.Post("/jobs/"+slug+"/shelf", url.Values{"to": {"deleted"}})
	if status, page := s.Post("/jobs/"+slug+"/shelf", url.Values{"to": {"nowhere"}}); status != 422 ||
		!strings.Contains(page, "Tick the box") {
		t.Errorf("%d: taken away for good without a tick", status)
	}
	if status, page := s.Post("/jobs/"+slug+"/shelf", url.Values{"to": {"list"}}); status != 200 ||
		!strings.Contains(page, "134 jobs; four must") {
		t.Errorf("%d: taken back", status)
	}
	if status, _ := s.Post("/jobs/"+slug+"/shelf",
		url.Values{"to": {"nowhere"}, "sure": {"yes"}}); status != http.StatusConflict {
		t.Errorf("%d: what was not deleted first went for good", status)
	}
	s.Post("/jobs/"+slug+"/shelf", url.Values{"to": {"deleted"}})
	s.Post("/jobs/"+slug+"/shelf", url.Values{"to": {"nowhere"}, "sure": {"yes"}})
	if status, _ := s.Get("/jobs/" + slug + "/brief"); status != http.StatusNotFound {
		t.Errorf("%d: it is still there", status)
	}
}

// BenchmarkThousandJobs lists a thousand jobs, page and all; the aim is 50 ms.
func BenchmarkThousandJobs(b *testing.B) {
	s := webtest.Open(b)
	rigs, err := demo.Rigs()
	webtest.Must(b, err)
	for i := range 1000 {
		r := rigs[i%len(rigs)].Clone()
		r.Brief.Title = fmt.Sprintf("Job %d", i)
		_, err := s.Store.CreateJob(context.Background(),
			store.Change{Command: webtest.Fresh(), Rig: r, Said: "x", Author: "y"})
		webtest.Must(b, err)
	}
	ctx, end := context.WithCancel(context.Background())
	defer end()
	go s.Handler.Run(ctx)
	for {
		if _, page := s.Get("/"); !strings.Contains(page, "not judged yet") {
			break
		}
		time.Sleep(50 * time.Millisecond)
	}
	for b.Loop() {
		if status, _ := s.Get("/"); status != http.StatusOK {
			b.Fatal(status)
		}
	}
}

func TestImport(t *testing.T) {
	s := webtest.Open(t)
	_, file := s.Get(webtest.Hall + "/rig.json")
	status, page := s.Upload(strings.NewReader(file))
	if status != http.StatusOK || !strings.Contains(page, "Marigold Roller Hall") {
		t.Fatalf("%d: an exported rig is not taken back", status)
	}
	_, again := s.Get("/jobs/marigold-roller-hall-2/rig.json")
	if again != file {
		t.Error("exported, imported and exported again, the rig is another")
	}
	for what, c := range map[string]struct {
		file   io.Reader
		status int
		say    string
	}{
		"50 MB":          {io.LimitReader(webtest.Spaces{}, 50<<20), http.StatusRequestEntityTooLarge, "larger than 4 MiB"},
		"another format": {strings.NewReader(`{"format":"pictures/3"}`), 422, "pictures/3"},
		"half a file":    {strings.NewReader(file[:len(file)/2]), 422, "ends in the middle"},
		"no file at all": {strings.NewReader(""), 422, "empty"},
		"script": {strings.NewReader(strings.Replace(file, "Marigold Roller Hall", "<script>alert(1)</script>", 1)),
			422, "may not hold"},
	} {
		before := s.State()
		status, page := s.Upload(c.file)
		if status != c.status || !strings.Contains(page, c.say) || s.State() != before {
			t.Errorf("%s: %d, changed %v; want %d and a sentence with %q", what, status, s.State() != before, c.status, c.say)
		}
	}
}
