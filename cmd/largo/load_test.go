package main

import (
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"
)

// TestLoad lets 50 readers and 10 editors at the program for 30 s and prints
// what pages and edits took. The aim on two cores: pages under 700 ms and edits
// under 900 ms at the 99th percentile, and no error. make load runs it.
func TestLoad(t *testing.T) {
	if os.Getenv("LARGO_LOAD") == "" {
		t.Skip("make load runs it")
	}
	const readers, editors, during = 50, 10, 30 * time.Second
	l := startDemo(t, openFolder(t))
	jobs := make([]string, editors)
	for i := range jobs {
		jobs[i] = l.importRig(t, "../../demo/rigs/3-marigold-roller-hall.json", i)
	}
	client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: readers + editors}, Timeout: 30 * time.Second}
	paths := []string{"/", "/gear", "/stock"}
	for _, job := range append([]string{"/jobs/wherry-lock-boathouse", "/jobs/saltpan-quay", "/jobs/copperas-meadow"},
		jobs...) {
		for _, page := range []string{"brief", "match", "wire", "protect", "start", "strike", "sheet", "history"} {
			paths = append(paths, job+"/"+page)
		}
	}
	var mu sync.Mutex
	var pages, edits []time.Duration
	errs := map[string]int{}
	took := func(of *[]time.Duration, begun time.Time, fault string) {
		mu.Lock()
		defer mu.Unlock()
		*of = append(*of, time.Since(begun))
		if fault != "" {
			errs[fault]++
		}
	}
	until := time.Now().Add(during)
	var all sync.WaitGroup
	for i := range readers {
		all.Go(func() {
			r := rand.New(rand.NewPCG(1, uint64(i)))
			for time.Now().Before(until) {
				begun := time.Now()
				_, fault := fetch(client.Get(l.url + paths[r.IntN(len(paths))]))
				took(&pages, begun, fault)
			}
		})
	}
	for i := range editors {
		all.Go(func() {
			e := editor{client: client, url: l.url + jobs[i], seed: i}
			for time.Now().Before(until) {
				begun := time.Now()
				fault := e.edit()
				took(&edits, begun, fault)
			}
		})
	}
	all.Wait()
	for what, of := range map[string][]time.Duration{"pages": pages, "edits": edits} {
		slices.Sort(of)
		at := func(p float64) time.Duration {
			return of[min(len(of)-1, int(p*float64(len(of))))].Round(time.Millisecond)
		}
		t.Logf("%s: %d, median %s, p90 %s, p99 %s, most %s", what, len(of), at(0.5), at(0.9), at(0.99),
			of[len(of)-1].Round(time.Millisecond))
	}
	if len(errs) > 0 {
		t.Errorf("errors: %v", errs)
	}
}

func fetch(res *http.Response, err error) (body, fault string) {
	if err != nil {
		return "", err.Error()
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	switch {
	case err != nil:
		return "", err.Error()
	case res.StatusCode >= 400:
		return "", fmt.Sprintf("%s: %d", res.Request.Method, res.StatusCode)
	}
	return string(b), ""
}

// editor is somebody who changes a rig as a page does, one edit after the
// other.
type editor struct {
	client   *http.Client
	url      string
	seed     int
	n        int
	rev, now string // the revision and the command of the page
}

var (
	revField     = regexp.MustCompile(`name="rev" value="(\d+)"`)
	commandField = regexp.MustCompile(`name="command" value="([^"]+)"`)
)

func (e *editor) read(page string) bool {
	rev, command := revField.FindStringSubmatch(page), commandField.FindStringSubmatch(page)
	if rev == nil || command == nil {
		return false
	}
	e.rev, e.now = rev[1], command[1]
	return true
}

func (e *editor) edit() (fault string) {
	if e.rev == "" {
		page, fault := fetch(e.client.Get(e.url + "/match"))
		if fault != "" || !e.read(page) {
			return "no page to edit: " + fault
		}
	}
	e.n++
	policy := []string{"within", "tenth over", "headroom"}[e.n%3]
	form := url.Values{"rev": {e.rev}, "command": {e.now}, "stage": {"match"}, "policy": {policy}, "bridging": {"never"}}
	req, err := http.NewRequest(http.MethodPost, e.url+"/match/wishes", strings.NewReader(form.Encode()))
	if err != nil {
		return err.Error()
	}
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("X-Alpine-Request", "true")
	page, fault := fetch(e.client.Do(req))
	if fault != "" {
		e.rev = ""
		return fault
	}
	if !e.read(page) {
		return "an answer without a revision"
	}
	return ""
}

// openFolder is a folder that the database's user can reach.
func openFolder(t testing.TB) string {
	t.Helper()
	dir := t.TempDir()
	for at := dir; at != "/" && strings.HasPrefix(at, os.TempDir()+"/"); at = filepath.Dir(at) {
		_ = os.Chmod(at, 0o755)
	}
	return filepath.Join(dir, "db")
}
