package store_test

import (
	"bytes"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"reflect"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5/pgconn"

	"largo/core/rig"
	"largo/core/unit"
	"largo/exchange"
	"largo/store"
	"largo/store/storetest"
)

// rounds is how often a race is run: more with LARGO_ROUNDS, as make chaos does.
func rounds(usual int) int {
	if n, err := strconv.Atoi(os.Getenv("LARGO_ROUNDS")); err == nil {
		return n
	}
	return usual
}

// Four servers that start at once on an empty database wait for each other.
func TestServersStartTogether(t *testing.T) {
	for round := range rounds(2) {
		name := fmt.Sprintf("together_%d", round)
		must(t, storetest.Cluster.CreateDatabase(ctx, name))
		errs := make([]error, 4)
		var all sync.WaitGroup
		for i := range errs {
			all.Go(func() {
				s, err := store.Open(ctx, storetest.Cluster.DSN(name))
				if errs[i] = err; err == nil {
					errs[i] = s.Ping(ctx)
					s.Close()
				}
			})
		}
		all.Wait()
		if err := errors.Join(errs...); err != nil {
			t.Fatalf("round %d: %v", round, err)
		}
	}
}

// Whatever writes bears a command and is made once, however many send it at once.
func TestEveryActIsMadeOnce(t *testing.T) {
	s := filled(t)
	slug := "wherry-lock-boathouse"
	db, err := sql.Open("pgx", storetest.DSN(s))
	must(t, err)
	defer db.Close()
	r := tour(t)
	m, err := s.Model(ctx, "fennholt-1400")
	must(t, err)
	head, err := s.StockHead(ctx)
	must(t, err)
	for what, act := range map[string]func() error{
		"begin a job": func() error {
			_, err := s.CreateJob(ctx, store.Change{Command: command(701), Rig: r, Said: "s", Author: "a"})
			return err
		},
		"edit": func() error {
			return kept(s.Keep(ctx, slug, store.Change{Base: 1, Command: command(702), Rig: titled(r, "Edit"), Said: "s",
				Author: "a"}))
		},
		"name": func() error { return s.NameRevision(ctx, slug, 1, "n", by(703)) },
		"save model": func() error {
			return s.SaveModels(ctx, by(704), "s", store.ModelChange{Model: m.Model, Base: m.Head})
		},
		"set stock":  func() error { return s.SetStock(ctx, by(705), "s", head) },
		"move a job": func() error { return s.MoveJob(ctx, slug, store.AtHand, by(706)) },
		"archive":    func() error { return s.ArchiveModel(ctx, "fennholt-1400", true, by(707)) },
	} {
		count := func() (n int) {
			for _, table := range []string{"jobs", "revisions", "moves", "model_revisions", "stock_acts"} {
				var rows int
				must(t, db.QueryRow(`SELECT count(*) FROM `+table).Scan(&rows))
				n += rows
			}
			return n
		}
		before := count()
		var all sync.WaitGroup
		errs := make([]error, 6)
		for i := range errs {
			all.Go(func() { errs[i] = act() })
		}
		all.Wait()
		if err := errors.Join(errs...); err != nil {
			t.Errorf("%s, sent six times at once: %v", what, err)
		}
		// a new job is a row of its own beside its first revision
		if n := count() - before; n > 2 || n == 2 && what != "begin a job" {
			t.Errorf("%s, sent six times at once, made %d rows", what, n)
		}
	}
	if err := kept(s.Keep(ctx, slug, store.Change{Base: 1, Command: command(701), Rig: r, Said: "s",
		Author: "a"})); !errors.Is(err, store.ErrReused) {
		t.Errorf("the id of another act: %v", err)
	}
}

// A document of an earlier form is read by its upgrades. From the first: a text
// that could turn the direction of writing is cut, and so is an endless origin. From
// the second: settings go to their kind, words become places and switches. Nothing
// else is touched, and nothing is refused.
func TestAnOlderDocumentIsUpgraded(t *testing.T) {
	s := storetest.Open(t)
	slug := create(t, s, tour(t))
	db, err := sql.Open("pgx", storetest.DSN(s))
	must(t, err)
	defer db.Close()
	doc, err := os.ReadFile("../exchange/testdata/largo-rig-1.json") // forms 1 and 2 held what this format holds
	must(t, err)
	want, err := exchange.ReadRig(bytes.NewReader(doc))
	must(t, err)
	_, err = db.Exec(`UPDATE revisions SET version = 2, rig = $1::jsonb - 'format'`, string(doc))
	must(t, err)
	j, err := s.Job(ctx, slug)
	must(t, err)
	if !reflect.DeepEqual(j.Rig, want) {
		t.Error("form 2 is read as another rig")
	}
	_, err = db.Exec(`UPDATE revisions
		SET version = 1, rig = jsonb_set(jsonb_set(rig, '{brief,place}', $1::jsonb), '{brief,wanted}', $2::jsonb)`,
		`"Quay`+"\u202e"+` 4"`, `{"value": 96, "from": "`+strings.Repeat("x", 900)+`"}`)
	must(t, err)
	j, err = s.Job(ctx, slug)
	must(t, err)
	v, known := j.Rig.Brief.Wanted.Get()
	if j.Rig.Brief.Place != "Quay 4" || !known || v != 96 || len([]rune(j.Rig.Brief.Wanted.Origin())) != unit.MostOrigin {
		t.Errorf("%q, %v from %d characters", j.Rig.Brief.Place, v, len(j.Rig.Brief.Wanted.Origin()))
	}
	if !reflect.DeepEqual(j.Rig.Devices, want.Devices) {
		t.Error("form 1 is read with other devices")
	}
}

// A full disk is called that (PostgreSQL's class 53, appendix A of its manual).
func TestAFullDiskIsCalledThat(t *testing.T) {
	for code, want := range map[string]error{"53100": store.ErrFull, "53300": store.ErrDown, "57P01": store.ErrDown,
		"08006": store.ErrDown, "22021": store.ErrNotFound} {
		if got := store.Known(fmt.Errorf("wrapped: %w", &pgconn.PgError{Code: code})); !errors.Is(got, want) {
			t.Errorf("%s is %v, want %v", code, got, want)
		}
	}
}

// Whoever listens hears of what is kept by another connection, and is told to
// ask anew when it may have missed something.
func TestListen(t *testing.T) {
	s := storetest.Open(t)
	listening, end := context.WithCancel(ctx)
	defer end()
	heard, missed := make(chan store.Event, 10), make(chan bool, 10)
	go s.Listen(listening, slog.New(slog.DiscardHandler), func(e store.Event) { heard <- e }, func() { missed <- true })
	<-missed
	slug := create(t, s, tour(t))
	select {
	case e := <-heard:
		if e.Job != slug || e.Head != 1 || e.Author != "test" {
			t.Errorf("%+v", e)
		}
	case <-time.After(3 * time.Second):
		t.Fatal("nothing is heard")
	}
	db, err := sql.Open("pgx", storetest.DSN(s))
	must(t, err)
	defer db.Close()
	_, err = db.Exec(`SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database()
		AND query LIKE 'LISTEN%'`)
	must(t, err)
	select {
	case <-missed:
	case <-time.After(5 * time.Second):
		t.Fatal("it did not come back")
	}
	must(t, s.Undo(ctx, slug, 1, by(1))) // nothing to undo, nothing to hear
	must(t, kept(s.Keep(ctx, slug, store.Change{Base: 1, Command: command(2), Rig: rig.NewRig(tour(t).Brief), Said: "s",
		Author: "b"})))
	if e := <-heard; e.Head != 2 || e.Author != "b" {
		t.Errorf("%+v", e)
	}
}

// BenchmarkList lists a thousand jobs; the aim is 50 ms with the page.
func BenchmarkList(b *testing.B) {
	s := storetest.Open(b)
	r := rigs(b)[0]
	for i := range 1000 {
		_, err := s.CreateJob(ctx, store.Change{Command: command(i), Rig: titled(r, fmt.Sprintf("Job %d", i)), Said: "s",
			Author: "a", Verdict: store.Verdict{Rules: "r", Says: "fine"}})
		if err != nil {
			b.Fatal(err)
		}
	}
	for b.Loop() {
		if _, n, err := s.List(ctx, store.AtHand, "", "r", time.Now(), 0, 50); err != nil || n.All != 1000 {
			b.Fatal(n, err)
		}
	}
}
