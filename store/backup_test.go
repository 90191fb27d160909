package store_test

import (
	"bytes"
	"compress/gzip"
	"database/sql"
	"errors"
	"io"
	"regexp"
	"strings"
	"testing"
	"time"

	"largo/core/bench"
	"largo/core/gear"
	"largo/demo"
	"largo/store"
	"largo/store/storetest"
)

var photographed = []byte{0xff, 0xd8, 0, '\\', 1}

// filled is a store with something of everything that backups hold.
func filled(t *testing.T) *store.Store {
	t.Helper()
	s := storetest.Open(t)
	models, err := demo.Gear()
	must(t, err)
	save(t, s, models...)
	changed := models[0].Clone()
	changed.Note = "changed"
	must(t, s.SaveModels(ctx, by(1), "Changed", store.ModelChange{Model: changed, Base: 1}))
	must(t, s.SetStock(ctx, by(2), "s", 0, gear.Holding{Model: models[0], Place: "Truck", Count: 4}))
	must(t, s.ArchiveModel(ctx, models[1].ID, true, by(3)))
	r := tour(t)
	slug := create(t, s, r)
	must(t, kept(s.Keep(ctx, slug, store.Change{Base: 1, Command: command(2), Rig: titled(r, "Two"), Said: "s",
		Author: "a", Verdict: store.Verdict{Rules: "r", Says: "fine"}})))
	must(t, s.Undo(ctx, slug, 2, by(4)))
	must(t, s.NameRevision(ctx, slug, 2, "soundcheck", by(5)))
	must(t, s.MoveJob(ctx, slug, store.Archived, by(6)))
	must(t, s.SetTick(ctx, by(7), slug, "by ear", "down", true))
	sessions, err := demo.Sessions(benchNow)
	must(t, err)
	id, err := s.KeepSession(ctx, by(8), sessions[1], benchNow)
	must(t, err)
	must(t, s.AddSeen(ctx, by(9), id, bench.Event{Kind: bench.Note, At: benchNow}, photographed, benchNow))
	return s
}

func backedUp(t *testing.T, s *store.Store) []byte {
	t.Helper()
	var b bytes.Buffer
	rows, err := s.Backup(ctx, &b)
	must(t, err)
	if rows < 100 {
		t.Fatalf("%d rows", rows)
	}
	return b.Bytes()
}

// lines are the lines of a backup but for the first, which bears its time.
func lines(t *testing.T, b []byte) (head, rest string) {
	t.Helper()
	z, err := gzip.NewReader(bytes.NewReader(b))
	must(t, err)
	text, err := io.ReadAll(z)
	must(t, err)
	head, rest, _ = strings.Cut(string(text), "\n")
	rest, _, _ = strings.Cut(rest, `{"foot"`)
	return head, rest
}

func TestABackupComesBackWhole(t *testing.T) {
	s := filled(t)
	if _, made, err := s.LastBackup(ctx); made || err != nil {
		t.Errorf("a backup before there was one: %v", err)
	}
	b := backedUp(t, s)
	must(t, s.NoteBackup(ctx, "x"))
	if at, made, err := s.LastBackup(ctx); !made || err != nil || time.Since(at) > time.Minute {
		t.Errorf("the last backup: %v, %v, %v", at, made, err)
	}
	twin := storetest.Open(t)
	done, err := twin.Restore(ctx, bytes.NewReader(b), false)
	must(t, err)
	if p, err := twin.Photo(ctx, 1); err != nil || !bytes.Equal(p.JPEG, photographed) {
		t.Errorf("the photograph came back as %v, %v", p.JPEG, err)
	}
	if done.Rows["revisions"] != 2 || done.Rows["moves"] != 2 || done.Rows["models"] < 100 ||
		done.Rows["stock_changes"] != 1 || done.Rows["ticks"] != 1 {
		t.Errorf("%v", done.Rows)
	}
	_, before := lines(t, b)
	_, after := lines(t, backedUp(t, twin))
	if before != after {
		t.Error("what came back is another")
	}
	r := tour(t)
	if slug, err := twin.CreateJob(ctx,
		store.Change{Command: command(90), Rig: r, Said: "s", Author: "a"}); err != nil || slug == "" {
		t.Errorf("a new job after a restore: %v", err)
	}
	must(t, kept(twin.Keep(ctx, "wherry-lock-boathouse",
		store.Change{Base: 1, Command: command(91), Rig: titled(r, "Three"), Said: "s", Author: "a"})))
	if _, err := twin.Restore(ctx, bytes.NewReader(b), false); !errors.Is(err, store.ErrNotEmpty) {
		t.Errorf("over something: %v", err)
	}
	if _, err := twin.Restore(ctx, bytes.NewReader(b), true); err != nil {
		t.Errorf("over something that may go: %v", err)
	}
	if j, err := twin.Job(ctx, "wherry-lock-boathouse"); err != nil || j.Number != 1 || !j.Archived {
		t.Errorf("after that: %d, %v", j.Number, err)
	}
}

// Half a file, one with another byte in it, and one of the future are refused,
// and what was there stays.
func TestADamagedBackupChangesNothing(t *testing.T) {
	s := filled(t)
	b := backedUp(t, s)
	target := filled(t)
	_, before := lines(t, backedUp(t, target))
	try := func(what string, b []byte, want ...error) {
		t.Helper()
		_, err := target.Restore(ctx, bytes.NewReader(b), true)
		ok := false
		for _, w := range want {
			ok = ok || errors.Is(err, w)
		}
		if !ok {
			t.Errorf("%s: %v", what, err)
		}
	}
	for _, part := range []int{0, 1, 10, 200, len(b) / 2, len(b) - 1} {
		try("cut off", b[:part], store.ErrHalfBackup, store.ErrNoBackup)
	}
	for _, at := range []int{30, len(b) / 3, len(b) / 2, len(b) - 12} {
		other := bytes.Clone(b)
		other[at] ^= 0x20
		if _, err := target.Restore(ctx, bytes.NewReader(other), true); err == nil {
			t.Errorf("a backup with another byte at %d was taken", at)
		}
	}
	head, rest := lines(t, b)
	try("without its foot", packed(t, head+"\n"+rest), store.ErrHalfBackup)
	try("a line left out", packed(t, head+"\n"+rest[strings.Index(rest, "\n")+1:]), store.ErrHalfBackup)
	try("a newer form", packed(t, strings.Replace(head, "largo-backup/1", "largo-backup/2", 1)+"\n"+rest),
		store.ErrNewerBackup)
	try("newer tables", packed(t, regexp.MustCompile(`"migration":\d+`).ReplaceAllString(head, `"migration":999`)+"\n"+
		rest), store.ErrNewerBackup)
	try("a table of the future", packed(t, head+"\n"+`{"table":"holograms"}`+"\n"+rest), store.ErrNewerBackup)
	try("a picture", []byte("\x89PNG"), store.ErrNoBackup)
	try("another archive", packed(t, "hello\n"), store.ErrNoBackup)
	if _, after := lines(t, backedUp(t, target)); before != after {
		t.Error("a refused backup changed something")
	}
}

func packed(t *testing.T, text string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	_, err := z.Write([]byte(text))
	must(t, errors.Join(err, z.Close()))
	return b.Bytes()
}

// A table that is made by a migration is in backups, or it is said why not.
func TestEveryTableIsBackedUp(t *testing.T) {
	s := storetest.Open(t)
	db, err := sql.Open("pgx", storetest.DSN(s))
	must(t, err)
	defer db.Close()
	rows, err := db.Query(`SELECT tablename FROM pg_tables WHERE schemaname = 'public'`)
	must(t, err)
	defer rows.Close()
	n := 0
	for rows.Next() {
		var name string
		must(t, rows.Scan(&name))
		n++
		if !store.SpokenFor(name) {
			t.Errorf("the table %s is neither in backups nor left out with a reason: register it in backup.go", name)
		}
	}
	if n < 10 {
		t.Errorf("%d tables", n)
	}
}
