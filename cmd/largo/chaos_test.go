package main

import (
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"largo/store/cluster"
)

// While editors edit, something dies, again and again. What was confirmed is
// there, once, and nothing is half there. CI runs a few rounds of each, make
// chaos LARGO_CHAOS of them.

func chaosRounds() int {
	if n, err := strconv.Atoi(os.Getenv("LARGO_CHAOS")); err == nil {
		return n
	}
	return 2
}

// served is a Largo in a process of its own that keeps its address.
type served struct {
	t        testing.TB
	addr     string
	args     []string
	mu       sync.Mutex
	cmd      *exec.Cmd
	finished chan error
}

func freeAddress(t testing.TB) string {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	return l.Addr().String()
}

// up starts the program and waits until it answers.
func (s *served) up() {
	s.t.Helper()
	cmd := exec.Command(build(s.t), append(s.args, "--addr", s.addr, "--log", "error")...)
	cmd.Stdout, cmd.Stderr = io.Discard, io.Discard
	if err := cmd.Start(); err != nil {
		s.t.Fatal(err)
	}
	finished := make(chan error, 1)
	go func() { finished <- cmd.Wait() }()
	s.mu.Lock()
	s.cmd, s.finished = cmd, finished
	s.mu.Unlock()
	for range 600 {
		if res, err := http.Get("http://" + s.addr + "/healthz"); err == nil {
			res.Body.Close()
			if res.StatusCode == http.StatusOK {
				return
			}
		}
		time.Sleep(25 * time.Millisecond)
	}
	s.t.Fatal("it did not come up within 15 s")
}

// down ends the program with a signal and waits for its end.
func (s *served) down(with syscall.Signal) {
	s.t.Helper()
	s.mu.Lock()
	cmd, finished := s.cmd, s.finished
	s.mu.Unlock()
	_ = cmd.Process.Signal(with)
	select {
	case <-finished:
	case <-time.After(30 * time.Second):
		_ = cmd.Process.Kill()
		s.t.Fatalf("it did not end within 30 s of %s", with)
	}
}

// storm is a number of editors who edit a job each and never give up on an
// edit before it is answered.
type storm struct {
	t         *testing.T
	servers   []string
	twice     bool // each edit is sent to all servers at once
	confirmed [][]string
	stop      chan struct{}
	all       sync.WaitGroup
	jobs      []string
}

func brew(t *testing.T, editors int, servers ...string) *storm {
	s := &storm{t: t, servers: servers, stop: make(chan struct{}), confirmed: make([][]string, editors)}
	for i := range editors {
		s.jobs = append(s.jobs, s.begin(i))
	}
	return s
}

func (s *storm) begin(i int) string {
	s.t.Helper()
	res, err := http.PostForm("http://"+s.servers[0]+"/jobs",
		url.Values{"title": {fmt.Sprintf("Storm %d", i)}, "command": {uuid.NewString()}})
	if err != nil {
		s.t.Fatal(err)
	}
	defer res.Body.Close()
	if res.StatusCode != http.StatusOK {
		s.t.Fatalf("beginning a job answers %d", res.StatusCode)
	}
	return strings.TrimSuffix(res.Request.URL.Path, "/wire")
}

func (s *storm) rise() {
	for i, job := range s.jobs {
		s.all.Go(func() { s.edit(i, job) })
	}
}

// fall ends the storm; edits under way are finished first.
func (s *storm) fall() {
	close(s.stop)
	s.all.Wait()
}

func (s *storm) edit(i int, job string) {
	client := &http.Client{Timeout: 20 * time.Second}
	rev, command := "", ""
	for n := 0; ; n++ {
		select {
		case <-s.stop:
			return
		default:
		}
		for rev == "" { // its page, from whichever server answers
			page, _ := fetch(client.Get("http://" + s.servers[n%len(s.servers)] + job + "/brief"))
			if m := revField.FindStringSubmatch(page); m != nil {
				rev, command = m[1], commandField.FindStringSubmatch(page)[1]
			}
			time.Sleep(5 * time.Millisecond)
		}
		place := fmt.Sprintf("e%d-%d", i, n)
		form := url.Values{"rev": {rev}, "command": {command}, "stage": {"brief"}, "title": {fmt.Sprintf("Storm %d", i)},
			"place": {place}}
		if s.persist(client, job, form, n) {
			s.confirmed[i] = append(s.confirmed[i], place)
		}
		rev = ""
	}
}

// persist sends an edit until it is answered, and tells whether it was kept.
func (s *storm) persist(client *http.Client, job string, form url.Values, n int) bool {
	for try := 0; ; try++ {
		statuses := make([]int, 1)
		if s.twice {
			statuses = make([]int, len(s.servers))
		}
		var all sync.WaitGroup
		for k := range statuses {
			all.Go(func() {
				req, err := http.NewRequest(http.MethodPost, "http://"+s.servers[(n+try+k)%len(s.servers)]+job+"/brief",
					strings.NewReader(form.Encode()))
				if err != nil {
					return
				}
				req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
				req.Header.Set("X-Alpine-Request", "true")
				res, err := client.Do(req)
				if err != nil {
					return
				}
				defer res.Body.Close()
				if _, err := io.Copy(io.Discard, res.Body); err == nil {
					statuses[k] = res.StatusCode
				}
			})
		}
		all.Wait()
		switch {
		case slices.Contains(statuses, http.StatusOK):
			return true
		case slices.Contains(statuses, http.StatusConflict), slices.Contains(statuses, http.StatusUnprocessableEntity):
			return false
		}
		time.Sleep(20 * time.Millisecond)
	}
}

// count reads the database itself: of what was confirmed, what is lost, what
// is there twice, and what is there by half.
func (s *storm) count(dsn string) {
	s.t.Helper()
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, dsn)
	if err != nil {
		s.t.Fatal(err)
	}
	defer conn.Close(ctx)
	confirmed, lost, doubled, half := 0, 0, 0, 0
	for i, job := range s.jobs {
		rows, err := conn.Query(ctx,
			`SELECT r.brief->>'place' FROM revisions r JOIN jobs j ON j.id = r.job_id WHERE j.slug = $1`,
			strings.TrimPrefix(job, "/jobs/"))
		if err != nil {
			s.t.Fatal(err)
		}
		kept, err := pgx.CollectRows(rows, pgx.RowTo[*string])
		if err != nil {
			s.t.Fatal(err)
		}
		times := map[string]int{}
		for _, p := range kept {
			if p != nil && *p != "" {
				times[*p]++
			}
		}
		for _, place := range s.confirmed[i] {
			confirmed++
			if times[place] == 0 {
				lost++
			}
		}
		for _, n := range times {
			if n > 1 {
				doubled++
			}
		}
	}
	if err := conn.QueryRow(ctx, `SELECT (SELECT count(*) FROM jobs j WHERE NOT EXISTS (SELECT FROM revisions r
		WHERE r.job_id = j.id AND r.number = j.head))
		+ (SELECT count(*) FROM revisions r JOIN jobs j ON j.id = r.job_id WHERE r.number > 1 AND NOT EXISTS (SELECT
			FROM commands c WHERE c.id = r.command))
		+ (SELECT count(*) FROM jobs j JOIN revisions r ON r.job_id = j.id AND r.number = j.head
		WHERE j.place <> coalesce(r.brief->>'place', ''))`).Scan(&half); err != nil {
		s.t.Fatal(err)
	}
	s.t.Logf("%d confirmed, %d lost, %d doubled, %d half", confirmed, lost, doubled, half)
	if lost+doubled+half > 0 {
		s.t.Error("what was confirmed has to be there, once and whole")
	}
	if confirmed == 0 {
		s.t.Error("nothing was confirmed: the storm says nothing")
	}
}

// storms runs one kind of accident, again and again.
func storms(t *testing.T, accident func(s *served, data string, round int)) {
	data := openFolder(t)
	s := &served{t: t, addr: freeAddress(t), args: []string{"serve", "--data", data}}
	s.up()
	weather := brew(t, 4, s.addr)
	weather.rise()
	for round := range chaosRounds() {
		time.Sleep(time.Duration(120+round*37%200) * time.Millisecond)
		accident(s, data, round)
	}
	weather.fall()
	dsn, err := cluster.Running(data, databaseName)
	if err != nil {
		t.Fatal(err)
	}
	weather.count(dsn)
	s.down(syscall.SIGTERM)
}

func TestChaosServerKilled(t *testing.T) {
	storms(t, func(s *served, _ string, _ int) { s.down(syscall.SIGKILL); s.up() })
}

func TestChaosServerStopped(t *testing.T) {
	storms(t, func(s *served, _ string, _ int) { s.down(syscall.SIGTERM); s.up() })
}

func TestChaosPostmasterKilled(t *testing.T) {
	storms(t, func(s *served, data string, _ int) {
		pid := postmaster(t, data)
		_ = syscall.Kill(pid, syscall.SIGKILL)
		awaitDatabase(t, s, data, pid)
	})
}

func TestChaosBackendKilled(t *testing.T) {
	storms(t, func(s *served, data string, round int) {
		if backends := childrenOf(postmaster(t, data)); len(backends) > 0 {
			_ = syscall.Kill(backends[round%len(backends)], syscall.SIGKILL)
		}
		time.Sleep(100 * time.Millisecond)
		awaitDatabase(t, s, data, 0)
	})
}

// postmaster is the process of the database's server.
func postmaster(t *testing.T, data string) int {
	t.Helper()
	for range 400 {
		b, err := os.ReadFile(filepath.Join(data, "data", "postmaster.pid"))
		if pid, bad := strconv.Atoi(strings.SplitN(string(b), "\n", 2)[0]); err == nil && bad == nil {
			return pid
		}
		time.Sleep(50 * time.Millisecond)
	}
	t.Fatal("no database runs")
	return 0
}

// awaitDatabase waits until the server reaches a database again, another
// process than the one that was killed.
func awaitDatabase(t *testing.T, s *served, data string, killed int) {
	t.Helper()
	for range 600 {
		if postmaster(t, data) != killed {
			if res, err := http.Get("http://" + s.addr + "/healthz"); err == nil {
				res.Body.Close()
				if res.StatusCode == http.StatusOK {
					return
				}
			}
		}
		time.Sleep(50 * time.Millisecond)
	}
	t.Fatal("the database did not come back within 30 s")
}

// childrenOf are the processes that another one has started.
func childrenOf(pid int) (children []int) {
	dirs, _ := filepath.Glob("/proc/[0-9]*/stat")
	for _, dir := range dirs {
		b, err := os.ReadFile(dir)
		if err != nil {
			continue
		}
		_, rest, _ := strings.Cut(string(b), ") ")
		fields := strings.Fields(rest)
		if len(fields) > 1 && fields[1] == strconv.Itoa(pid) {
			if child, err := strconv.Atoi(filepath.Base(filepath.Dir(dir))); err == nil {
				children = append(children, child)
			}
		}
	}
	return children
}

// Two servers on one database: every edit is sent to both at once, and they
// are killed by turns.
func TestChaosTwoServers(t *testing.T) {
	data := openFolder(t)
	db, err := cluster.Start(context.Background(), cluster.Options{Dir: data})
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = db.Stop() }()
	if err := db.CreateDatabase(context.Background(), databaseName); err != nil {
		t.Fatal(err)
	}
	args := []string{"serve", "--database", db.DSN(databaseName)}
	a, b := &served{t: t, addr: freeAddress(t), args: args}, &served{t: t, addr: freeAddress(t), args: args}
	a.up()
	b.up()
	weather := brew(t, 4, a.addr, b.addr)
	weather.twice = true
	weather.rise()
	for round := range chaosRounds() {
		time.Sleep(200 * time.Millisecond)
		s := []*served{a, b}[round%2]
		s.down([]syscall.Signal{syscall.SIGKILL, syscall.SIGTERM}[round/2%2])
		s.up()
	}
	weather.fall()
	weather.count(db.DSN(databaseName))
	a.down(syscall.SIGTERM)
	b.down(syscall.SIGTERM)
}

// On a full disk edits are refused with a sentence and nothing is lost; with
// room again it goes on by itself.
func TestChaosFullDisk(t *testing.T) {
	if os.Getenv("LARGO_CHAOS") == "" {
		t.Skip("make chaos runs it, for it mounts a small disk")
	}
	data := openFolder(t)
	if err := os.MkdirAll(data, 0o755); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("mount", "-t", "tmpfs", "-o", "size=180m,mode=755", "tmpfs",
		data).CombinedOutput(); err != nil {
		t.Skipf("no small disk can be mounted here: %s", out)
	}
	defer func() { _ = exec.Command("umount", "-l", data).Run() }()
	s := &served{t: t, addr: freeAddress(t), args: []string{"serve", "--data", data}}
	s.up()
	weather := brew(t, 2, s.addr)
	weather.rise()
	ballast := filepath.Join(data, "ballast")
	said := 0
	for range min(chaosRounds(), 10) {
		time.Sleep(200 * time.Millisecond)
		fill(ballast)
		for range 100 { // until it is said, with an act that needs room
			res, err := http.PostForm("http://"+s.addr+"/jobs",
				url.Values{"title": {strings.Repeat("Full ", 20)}, "command": {uuid.NewString()}})
			if err == nil {
				b, _ := io.ReadAll(res.Body)
				res.Body.Close()
				if strings.Contains(string(b), "disk") && strings.Contains(string(b), "full") {
					said++
					break
				}
			}
			time.Sleep(20 * time.Millisecond)
		}
		if err := os.Remove(ballast); err != nil {
			t.Fatal(err)
		}
		awaitDatabase(t, s, data, 0)
	}
	weather.fall()
	dsn, err := cluster.Running(data, databaseName)
	if err != nil {
		t.Fatal(err)
	}
	weather.count(dsn)
	if said == 0 {
		t.Error("a full disk was never called one")
	}
	s.down(syscall.SIGTERM)
}

// fill writes a file until the disk is full.
func fill(path string) {
	f, err := os.Create(path)
	if err != nil {
		return
	}
	defer f.Close()
	block := make([]byte, 1<<20)
	for {
		if _, err := f.Write(block); err != nil {
			block = block[:len(block)/2]
			if len(block) == 0 {
				return
			}
		}
	}
}
