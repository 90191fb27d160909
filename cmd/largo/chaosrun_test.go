package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"mime/multipart"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"largo/core/order"
	"largo/core/rig"
	"largo/core/rigtest"
	powerup "largo/core/run"
	"largo/core/unit"
	"largo/exchange"
	"largo/store/cluster"
)

// runners are people who run power-ups while the server and its database die, and never give up
// on a tap before it is answered.
type runners struct {
	t         *testing.T
	addr, job string
	mu        sync.Mutex
	confirmed map[string]bool // commands that were answered as taken
	stop      chan struct{}
	all       sync.WaitGroup
}

// quick is a rig whose sources settle at once: two of them reach what makes sound.
func quick(t *testing.T) rig.Rig {
	player, desk, amp := rigtest.Player(), rigtest.Desk(), rigtest.Amp("amp")
	player.Wake.Settle, desk.Wake.Settle = unit.Of(unit.Second(0)), unit.Of(unit.Second(0))
	amp.Wake.Settle = unit.Of(unit.Second(0))
	r := rigtest.New(t).Add(player, "P1", "P2", "P3", "P4", "P5").Add(desk, "DESK").Add(amp, "A1").
		Plug("P1/out", "DESK/in 1").Plug("P2/out", "DESK/in 2").Plug("DESK/main L", "A1/in 1")
	return r.Rig
}

func (s *runners) post(path string, form url.Values) (status int, body string) {
	client := &http.Client{Timeout: 20 * time.Second}
	for {
		res, err := client.PostForm("http://"+s.addr+path, form)
		if err == nil {
			b, cut := io.ReadAll(res.Body)
			res.Body.Close()
			if cut == nil && res.StatusCode < 500 {
				return res.StatusCode, string(b)
			}
		}
		time.Sleep(20 * time.Millisecond)
	}
}

// tap runs orders one after the other: whatever a hand might tap, in any order.
func (s *runners) tap(seed uint64) {
	r := rand.New(rand.NewPCG(seed, 9))
	kinds := []powerup.Kind{powerup.Throw, powerup.Throw, powerup.Throw, powerup.See, powerup.See, powerup.Trouble,
		powerup.Again, powerup.Hold, powerup.Resume}
	for {
		_, page := s.post(s.job+"/run", url.Values{"sort": {"start"}, "command": {uuid.NewString()}})
		_, rest, found := strings.Cut(page, `data-here="`)
		at, _, _ := strings.Cut(rest, `"`)
		if !found {
			s.t.Errorf("a run does not begin: %.300s", page)
			return
		}
		// most go by the order, now and then somebody taps whatever there is
		order := []int{0, 1, 2, 3, 4, 5, 6}
		for begun := time.Now(); time.Since(begun) < 20*time.Second; {
			select {
			case <-s.stop:
				return
			default:
			}
			command := uuid.NewString()
			kind, step := kinds[r.IntN(len(kinds))], r.IntN(len(order))
			if r.IntN(20) > 0 {
				kind = []powerup.Kind{powerup.Throw, powerup.See, powerup.Resume}[r.IntN(3)]
			}
			status, _ := s.post(at+"/event", url.Values{"kind": {string(kind)}, "command": {command},
				"step": {strconv.Itoa(step)}, "wrong": {string(powerup.NoLamp)}, "ago": {"0"}, "by": {fmt.Sprint("P", seed)}})
			if status == http.StatusOK {
				s.mu.Lock()
				s.confirmed[command] = true
				s.mu.Unlock()
			}
		}
	}
}

// count reads the database itself: of what was confirmed, what is lost or there twice; and each
// run is gone through again: nothing loud was thrown before what reaches it was seen.
func (s *runners) count(dsn string) {
	s.t.Helper()
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, dsn)
	if err != nil {
		s.t.Fatal(err)
	}
	defer conn.Close(ctx)
	rows, err := conn.Query(ctx, `SELECT r.id, r.setup, e.seq, e.command::text, e.event FROM run_events e
		JOIN runs r ON r.id = e.run ORDER BY r.id, e.seq`)
	if err != nil {
		s.t.Fatal(err)
	}
	type row struct {
		ID      int64
		Setup   []byte
		Seq     int
		Command string
		Event   []byte
	}
	all, err := pgx.CollectRows(rows, pgx.RowToStructByPos[row])
	if err != nil {
		s.t.Fatal(err)
	}
	times, loud := map[string]int{}, 0
	runs := map[int64]*powerup.Run{}
	for _, at := range all {
		times[at.Command]++
		one := runs[at.ID]
		if one == nil {
			one = &powerup.Run{}
			if err := json.Unmarshal(at.Setup, &one.Setup); err != nil {
				s.t.Fatal(err)
			}
			runs[at.ID] = one
		}
		var e powerup.Event
		if err := json.Unmarshal(at.Event, &e); err != nil || at.Seq != len(one.Events)+1 {
			s.t.Fatalf("run %d: event %d after %d, %v", at.ID, at.Seq, len(one.Events), err)
		}
		if e.Kind == powerup.Throw && one.Steps[e.Step].Loud {
			loud++
			states := one.States(e.At)
			for _, w := range one.Waits {
				if w.Then == e.Step && w.Why == order.Kicks && states[w.First].Status != powerup.Done {
					s.t.Errorf("run %d: %s was thrown while %s is %s", at.ID, one.Steps[e.Step].Switch, one.Steps[w.First].Switch,
						states[w.First].Status)
				}
			}
		}
		one.Events = append(one.Events, e)
	}
	lost, doubled := 0, 0
	for command := range s.confirmed { // what another did before is kept as done, and is no event
		var kept int
		if err := conn.QueryRow(ctx, `SELECT count(*) FROM commands WHERE id = $1`, command).Scan(&kept); err != nil {
			s.t.Fatal(err)
		}
		lost += 1 - kept
	}
	for _, n := range times {
		if n > 1 {
			doubled++
		}
	}
	s.t.Logf("%d runs, %d taps confirmed, %d lost, %d doubled; %d times something loud", len(runs), len(s.confirmed), lost,
		doubled, loud)
	if lost+doubled > 0 || len(s.confirmed) == 0 {
		s.t.Error("what was confirmed has to be there, once")
	}
}

// While people run power-ups, the server is killed, and the database, in turns. What was confirmed
// is there once, and nothing loud went on before its time.
func TestChaosRuns(t *testing.T) {
	data := openFolder(t)
	s := &served{t: t, addr: freeAddress(t), args: []string{"serve", "--data", data}}
	s.up()
	var file, form bytes.Buffer
	if err := exchange.WriteRig(&file, quick(t)); err != nil {
		t.Fatal(err)
	}
	w := multipart.NewWriter(&form)
	_ = w.WriteField("command", uuid.NewString())
	part, err := w.CreateFormFile("file", "quick.json")
	if err != nil {
		t.Fatal(err)
	}
	_, _ = part.Write(file.Bytes())
	w.Close()
	res, err := http.Post("http://"+s.addr+"/jobs/import", w.FormDataContentType(), &form)
	if err != nil || res.StatusCode != http.StatusOK {
		t.Fatalf("the rig is not taken: %v, %v", res.StatusCode, err)
	}
	res.Body.Close()
	job := strings.Join(strings.Split(res.Request.URL.Path, "/")[:3], "/")
	people := &runners{t: t, addr: s.addr, job: job, confirmed: map[string]bool{}, stop: make(chan struct{})}
	for i := range 4 {
		people.all.Go(func() { people.tap(uint64(i)) })
	}
	for round := range chaosRounds() {
		time.Sleep(time.Duration(300+round*71%400) * time.Millisecond)
		if round%3 == 2 {
			pid := postmaster(t, data)
			_ = syscall.Kill(pid, syscall.SIGKILL)
			awaitDatabase(t, s, data, pid)
			continue
		}
		s.down(syscall.SIGKILL)
		s.up()
	}
	close(people.stop)
	people.all.Wait()
	dsn, err := cluster.Running(data, databaseName)
	if err != nil {
		t.Fatal(err)
	}
	people.count(dsn)
	s.down(syscall.SIGTERM)
}
