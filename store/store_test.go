package store_test

import (
	"context"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"sync"
	"testing"
	"time"

	"largo/core/gear"
	"largo/core/rig"
	"largo/demo"
	"largo/store"
	"largo/store/storetest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

var ctx = context.Background()

// command makes an id as a client would.
func command(n int) string { return fmt.Sprintf("00000000-0000-4000-8000-%012d", n) }

func rigs(t testing.TB) []rig.Rig {
	t.Helper()
	rs, err := demo.Rigs()
	if err != nil {
		t.Fatal(err)
	}
	return rs
}

func tour(t testing.TB) rig.Rig { return rigs(t)[0] }

func titled(r rig.Rig, title string) rig.Rig {
	r = r.Clone()
	r.Brief.Title = title
	return r
}

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

// kept is the error of a change alone.
func kept(_ store.Done, err error) error { return err }

// by is an act of the tests.
func by(n int) store.Command { return store.Command{ID: command(5000 + n), Author: "test"} }

// save keeps models that the library should not have yet.
func save(t testing.TB, s *store.Store, models ...gear.Model) {
	t.Helper()
	changes := make([]store.ModelChange, len(models))
	for i, m := range models {
		changes[i].Model = m
	}
	if err := s.SaveModels(ctx, by(9000), "Entered", changes...); err != nil {
		t.Fatal(err)
	}
}

// named is the name of a revision in a history.
func named(lines []store.Line, number int) string {
	for _, l := range lines {
		if l.Number == number && !l.Move {
			return l.Name
		}
	}
	return "none"
}

func create(t *testing.T, s *store.Store, r rig.Rig) string {
	t.Helper()
	slug, err := s.CreateJob(ctx, store.Change{Command: command(1), Rig: r, Said: "Made", Author: "test"})
	must(t, err)
	return slug
}

func TestAJobComesBackAsItWas(t *testing.T) {
	s := storetest.Open(t)
	r := tour(t)
	slug := create(t, s, r)
	if slug != "wherry-lock-boathouse" {
		t.Errorf("slug %q", slug)
	}
	j, err := s.Job(ctx, slug)
	must(t, err)
	if !reflect.DeepEqual(j.Rig, r) || j.Number != 1 || j.CanUndo || j.CanRedo {
		t.Errorf("read back %+v", j)
	}
	again, err := s.CreateJob(ctx, store.Change{Command: command(1), Rig: r, Said: "Made", Author: "test"})
	if err != nil || again != slug {
		t.Errorf("the same command made %q, %v", again, err)
	}
	second, err := s.CreateJob(ctx, store.Change{Command: command(2), Rig: r, Said: "Made", Author: "test"})
	if err != nil || second != slug+"-2" {
		t.Errorf("a second job of the same title is %q, %v", second, err)
	}
	if jobs, n, err := s.List(ctx, store.AtHand, "", "rules", time.Now(), 0, 50); err != nil || len(jobs) != 2 ||
		n.All != 2 || n.Unjudged != 2 {
		t.Errorf("%d jobs, %+v, %v", len(jobs), n, err)
	}
	if _, err := s.Job(ctx, "nowhere"); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("%v, want ErrNotFound", err)
	}
}

func TestUndoAndRedo(t *testing.T) {
	s := storetest.Open(t)
	r := tour(t)
	slug := create(t, s, r)
	title := func(want string, undo, redo bool) {
		t.Helper()
		j, err := s.Job(ctx, slug)
		must(t, err)
		if j.Rig.Brief.Title != want || j.CanUndo != undo || j.CanRedo != redo {
			t.Errorf("%q, undo %v, redo %v; want %q, %v, %v", j.Rig.Brief.Title, j.CanUndo, j.CanRedo, want, undo, redo)
		}
	}
	must(t, kept(s.Keep(ctx, slug, store.Change{Base: 1, Command: command(2), Rig: titled(r, "Two"), Said: "s",
		Author: "a"})))
	must(t, kept(s.Keep(ctx, slug, store.Change{Base: 2, Command: command(3), Rig: titled(r, "Three"), Said: "s",
		Author: "a"})))
	title("Three", true, false)
	must(t, s.Undo(ctx, slug, 3, by(51)))
	title("Two", true, true)
	must(t, s.Undo(ctx, slug, 2, by(52)))
	must(t, s.Undo(ctx, slug, 1, by(53))) // at the beginning: nothing to do
	title("Wherry Lock boathouse", false, true)
	must(t, s.Redo(ctx, slug, 1, by(54)))
	must(t, s.Redo(ctx, slug, 2, by(55)))
	must(t, s.Redo(ctx, slug, 3, by(56))) // at the end: nothing to do
	title("Three", true, false)
	must(t, s.Undo(ctx, slug, 3, by(57)))
	must(t, kept(s.Keep(ctx, slug, store.Change{Base: 2, Command: command(4), Rig: titled(r, "Four"), Said: "s",
		Author: "a"})))
	title("Four", true, false)
	history, all, err := s.History(ctx, slug, 0, 50)
	if err != nil || all != 4 || len(history) != 4+5 || history[0].Number != 4 || history[1].Said != "Undid: s" ||
		!history[1].Move {
		t.Errorf("history %+v, %v: nothing may be lost by undo", history, err)
	}
	must(t, s.NameRevision(ctx, slug, 3, "soundcheck", by(80)))
	if history, _, err = s.History(ctx, slug, 0, 50); err != nil || named(history, 3) != "soundcheck" ||
		named(history, 4) != "" {
		t.Errorf("named %+v, %v", history, err)
	}
	if err := s.NameRevision(ctx, slug, 99, "nowhere", by(81)); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("naming a revision that is not: %v", err)
	}
	if r, err := s.RevisionRig(ctx, slug, 3); err != nil || r.Brief.Title != "Three" {
		t.Errorf("revision 3 reads %q, %v", r.Brief.Title, err)
	}
}

func TestConflictAndRepeat(t *testing.T) {
	s := storetest.Open(t)
	r := tour(t)
	slug := create(t, s, r)
	mine := store.Change{Base: 1, Command: command(2), Rig: titled(r, "Mine"), Said: "s", Author: "a"}
	must(t, kept(s.Keep(ctx, slug, mine)))
	if err := kept(s.Keep(ctx, slug, mine)); err != nil {
		t.Errorf("a repeated command is harmless, not %v", err)
	}
	yours := store.Change{Base: 1, Command: command(3), Rig: titled(r, "Yours"), Said: "s", Author: "b"}
	if err := kept(s.Keep(ctx, slug, yours)); !errors.Is(err, store.ErrConflict) {
		t.Errorf("%v, want ErrConflict", err)
	}
	if err := s.Undo(ctx, slug, 1, by(58)); !errors.Is(err, store.ErrConflict) {
		t.Errorf("undo on an old base: %v, want ErrConflict", err)
	}
	if j, _ := s.Job(ctx, slug); j.Rig.Brief.Title != "Mine" || j.Number != 2 {
		t.Errorf("%q at %d: somebody was overwritten", j.Rig.Brief.Title, j.Number)
	}
}

// Of many who edit the same revision at once, exactly one wins.
func TestManyEditorsOneWins(t *testing.T) {
	s := storetest.Open(t)
	r := tour(t)
	slug := create(t, s, r)
	var wg sync.WaitGroup
	errs := make([]error, 12)
	for i := range errs {
		wg.Go(func() {
			errs[i] = kept(s.Keep(ctx, slug, store.Change{Base: 1, Command: command(10 + i), Rig: r, Said: "s", Author: "a"}))
		})
	}
	wg.Wait()
	won := 0
	for _, err := range errs {
		switch {
		case err == nil:
			won++
		case !errors.Is(err, store.ErrConflict):
			t.Error(err)
		}
	}
	if won != 1 {
		t.Errorf("%d won", won)
	}
}

func TestLibrary(t *testing.T) {
	s := storetest.Open(t)
	models, err := demo.Gear()
	must(t, err)
	save(t, s, models...)
	got, err := s.Models(ctx)
	if err != nil || len(got) != len(models) {
		t.Fatalf("%d models, %v", len(got), err)
	}
	one, err := s.Model(ctx, models[0].ID)
	if err != nil || !reflect.DeepEqual(one.Model, models[0]) {
		t.Errorf("read back %+v, %v", one, err)
	}
}

func TestSearchHoldsEveryWord(t *testing.T) {
	s := storetest.Open(t)
	models, err := demo.Gear()
	must(t, err)
	save(t, s, models...)
	boxes := 0
	for _, m := range models {
		if m.Maker == "Brackwater" && m.Kind == "loudspeaker" {
			boxes++
		}
	}
	for typed, want := range map[string]int{"": len(models), "FENN 29": 1, "loudspeaker brack": boxes,
		"nothing of the kind": 0, "%": 0, "_": 0, `\`: 0} {
		f, err := s.SearchModels(ctx, store.Wanted{Typed: typed}, 2)
		if err != nil || f.All != want || len(f.Models) != min(want, 2) || len(f.Unread) > 0 {
			t.Errorf("%q: %d of %d, %v; want %d", typed, len(f.Models), f.All, err, want)
		}
	}
}

// The list is a book of dates: the next first, then what has no date, then the past.
func TestTheBookOfDates(t *testing.T) {
	s := storetest.Open(t)
	for i, date := range []string{"2027-06-10", "", "2027-08-01", "2027-06-11", "2027-05-01"} {
		r := titled(tour(t), "On "+date)
		r.Brief.Date = date
		_, err := s.CreateJob(ctx, store.Change{Command: command(i + 1), Rig: r, Said: "Made", Author: "test"})
		must(t, err)
	}
	jobs, _, err := s.List(ctx, store.AtHand, "", "rules", time.Date(2027, 6, 11, 9, 0, 0, 0, time.UTC), 0, 50)
	must(t, err)
	var dates []string
	for _, j := range jobs {
		dates = append(dates, j.Brief.Date)
	}
	if want := []string{"2027-06-11", "2027-08-01", "", "2027-06-10", "2027-05-01"}; !slices.Equal(dates, want) {
		t.Errorf("%q, want %q", dates, want)
	}
}

// The database is killed and comes back: acts fail as ErrDown and then work
// again on the same Store, and what was acknowledged is still there.
func TestDatabaseGoneAndBack(t *testing.T) {
	s := storetest.Open(t)
	r := tour(t)
	slug := create(t, s, r)
	must(t, storetest.Cluster.Kill())
	for range 3 {
		if err := kept(s.Keep(ctx, slug, store.Change{Base: 1, Command: command(2), Rig: titled(r, "Lost"), Said: "s",
			Author: "a"})); !errors.Is(err, store.ErrDown) {
			t.Errorf("%v, want ErrDown", err)
		}
	}
	if err := s.Ping(ctx); !errors.Is(err, store.ErrDown) {
		t.Errorf("ping: %v, want ErrDown", err)
	}
	must(t, storetest.Cluster.Restart(ctx))
	j, err := s.Job(ctx, slug)
	if err != nil || j.Number != 1 || j.Rig.Brief.Title != r.Brief.Title {
		t.Fatalf("after the restart: revision %d, %v", j.Number, err)
	}
	must(t, kept(s.Keep(ctx, slug, store.Change{Base: 1, Command: command(2), Rig: titled(r, "Kept"), Said: "s",
		Author: "a"})))
}

func TestStock(t *testing.T) {
	s := storetest.Open(t)
	models, err := demo.Gear()
	must(t, err)
	save(t, s, models...)
	a, b := models[0], models[1]
	must(t, s.SetStock(ctx, by(1), "s", 0, gear.Holding{Model: a, Place: "Truck", Count: 4},
		gear.Holding{Model: a, Place: "Store", Count: 2}, gear.Holding{Model: b, Place: "Truck", Count: 1}))
	head, err := s.StockHead(ctx)
	must(t, err)
	must(t, s.SetStock(ctx, by(2), "s", head, gear.Holding{Model: a, Place: "Store"}))
	err = s.SetStock(ctx, by(3), "s", head, gear.Holding{Model: b, Place: "Truck", Count: 9},
		gear.Holding{Model: gear.Model{ID: "not here"}, Place: "Truck", Count: 1})
	if !errors.Is(err, store.ErrNotFound) {
		t.Errorf("stock of a model that is not there: %v", err)
	}
	held, err := s.Stock(ctx)
	must(t, err)
	if len(held) != 2 || held[0].Model.ID != a.ID || held[0].Count != 4 || held[1].Count != 1 {
		t.Errorf("%+v", held)
	}
}
