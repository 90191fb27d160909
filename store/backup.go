package store

import (
	"bufio"
	"bytes"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"
)

// A backup is one gzip file of JSON lines: a head that names its form, then
// for each table its name and its rows, then a foot with the number of rows and
// the digest of all that came before. A file without a true foot is half a
// file.

// BackupFormat names the form that is written and read.
const BackupFormat = "largo-backup/1"

// Errors of a backup that callers tell apart.
var (
	ErrHalfBackup  = errors.New("the backup is cut off or damaged; nothing was restored")
	ErrNewerBackup = errors.New("a newer Largo wrote this backup; update Largo first. Nothing was restored")
	ErrNoBackup    = errors.New("this is no backup of Largo; nothing was restored")
	ErrNotEmpty    = errors.New("there is something here already, and a restore would overwrite it; nothing was restored")
)

// table is a table that backups hold. Its order among the others is that of its
// references.
type table struct {
	name  string
	order string // of its rows
	owned bool   // its id is given by the database, and goes on after a restore
}

// backedUp are the tables of a backup. A later migration that makes a table
// registers it here; a test fails while one is missing.
var backedUp = []table{
	{name: "commands", order: "id"},
	{name: "jobs", order: "id", owned: true},
	{name: "revisions", order: "job_id, number"},
	{name: "moves", order: "id", owned: true},
	{name: "models", order: "id"},
	{name: "model_revisions", order: "model, number"},
	{name: "stock", order: "model, place"},
	{name: "stock_acts", order: "id", owned: true},
	{name: "stock_changes", order: "act, model, place"},
	{name: "photos", order: "id", owned: true},
	{name: "bench_sessions", order: "id", owned: true},
	{name: "bench_events", order: "session, seq"},
	{name: "ticks", order: "job_id, list, item"},
	{name: "meters", order: "job_id"},
	{name: "runs", order: "id", owned: true},
	{name: "run_events", order: "run, seq"},
	{name: "meter_readings", order: "job_id, part, at"},
	{name: "supply_photos", order: "job_id, part, photo"},
	{name: "counted", order: "job_id, model"},
}

// notBackedUp are tables that a backup leaves out, with the reason.
var notBackedUp = map[string]string{
	"goose_db_version": "the restoring Largo makes its own tables",
	"gear_imports":     "files that were shown and not taken",
	"verdicts":         "what the rules say of a rig is worked out anew",
	"backups":          "when this database was copied away says nothing of another",
}

type backupHead struct {
	Format    string    `json:"format"`
	Migration int64     `json:"migration"` // of the tables
	At        time.Time `json:"at"`
}

type backupFoot struct {
	Rows   int    `json:"rows"`
	Digest string `json:"digest"` // SHA-256 of all lines before
}

// line is one line of a backup: one of these is set.
type line struct {
	Head  *backupHead     `json:"head,omitempty"`
	Table string          `json:"table,omitempty"` // whose rows follow
	Row   json.RawMessage `json:"row,omitempty"`
	Foot  *backupFoot     `json:"foot,omitempty"`
}

// Backup writes everything that is kept, as it is at one moment. It gives the
// number of rows. While it reads, others may go on to write.
func (s *Store) Backup(ctx context.Context, w io.Writer) (rows int, err error) {
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return 0, known(err)
	}
	defer func() { _ = tx.Rollback() }()
	if _, err := tx.ExecContext(ctx, `SET TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY`); err != nil {
		return 0, known(err)
	}
	head := backupHead{Format: BackupFormat, At: time.Now().UTC()}
	if head.Migration, err = migrationOf(ctx, tx); err != nil {
		return 0, err
	}
	packed := gzip.NewWriter(w)
	out := backupWriter{w: bufio.NewWriterSize(packed, 1<<16), sum: sha256.New()}
	out.put(line{Head: &head})
	for _, t := range backedUp {
		out.put(line{Table: t.name})
		if err := out.table(ctx, tx, t); err != nil {
			return 0, known(err)
		}
	}
	out.put(line{Foot: &backupFoot{Rows: out.rows, Digest: hex.EncodeToString(out.sum.Sum(nil))}})
	return out.rows, errors.Join(out.err, out.w.Flush(), packed.Close())
}

type backupWriter struct {
	w    *bufio.Writer
	sum  hash.Hash
	rows int
	err  error // the first
}

func (b *backupWriter) put(l line) {
	if b.err != nil {
		return
	}
	text, err := json.Marshal(l)
	if err != nil {
		b.err = err
		return
	}
	text = append(text, '\n')
	if l.Foot == nil {
		b.sum.Write(text)
	}
	_, b.err = b.w.Write(text)
}

// table writes the rows of a table, without what the database works out.
func (b *backupWriter) table(ctx context.Context, tx *sqlx.Tx, t table) error {
	columns, err := columnsOf(ctx, tx, t.name)
	if err != nil {
		return err
	}
	rows, err := tx.QueryxContext(ctx, `SELECT to_jsonb(t) FROM (SELECT `+strings.Join(columns, ", ")+` FROM `+t.name+
		` ORDER BY `+t.order+`) t`)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var row []byte
		if err := rows.Scan(&row); err != nil {
			return err
		}
		b.rows++
		if b.put(line{Row: row}); b.err != nil {
			return b.err
		}
	}
	return rows.Err()
}

// columnsOf are the columns of a table that are given, not generated.
func columnsOf(ctx context.Context, tx *sqlx.Tx, name string) (columns []string, err error) {
	err = tx.SelectContext(ctx, &columns, `
SELECT quote_ident(attname) FROM pg_attribute WHERE attrelid = $1::regclass AND attnum > 0 AND NOT attisdropped
	AND attgenerated = '' ORDER BY attnum`, name)
	return columns, err
}

func migrationOf(ctx context.Context, tx *sqlx.Tx) (n int64, err error) {
	return n, known(tx.GetContext(ctx, &n, `SELECT max(version_id) FROM goose_db_version WHERE is_applied`))
}

// Restored is what a restore brought back.
type Restored struct {
	At   time.Time // when the backup was made
	Rows map[string]int
}

// Restore brings a backup into an empty database, all of it or nothing. Where
// something is kept already it gives ErrNotEmpty, unless replace says that it
// may be thrown away. The backup may have been made by an older Largo, never by
// a newer one.
func (s *Store) Restore(ctx context.Context, r io.Reader, replace bool) (Restored, error) {
	done := Restored{Rows: map[string]int{}}
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return done, known(err)
	}
	defer func() { _ = tx.Rollback() }()
	if err := s.makeRoom(ctx, tx, replace); err != nil {
		return done, err
	}
	in, err := openBackup(r)
	if err != nil {
		return done, err
	}
	if err := in.restore(ctx, tx, &done); err != nil {
		return done, err
	}
	for _, t := range backedUp {
		if !t.owned {
			continue
		}
		if _, err := tx.ExecContext(ctx, `SELECT setval(pg_get_serial_sequence($1, 'id'), coalesce((SELECT max(id) FROM `+
			t.name+`), 0) + 1, false)`, t.name); err != nil {
			return done, known(err)
		}
	}
	if err := tx.Commit(); err != nil {
		return done, known(err)
	}
	s.rigs.Purge() // ids of jobs may mean other jobs now
	return done, nil
}

// makeRoom sees that nothing is kept yet.
func (s *Store) makeRoom(ctx context.Context, tx *sqlx.Tx, replace bool) error {
	var names []string
	for _, t := range backedUp {
		names = append(names, t.name)
	}
	if _, err := tx.ExecContext(ctx, `LOCK TABLE `+strings.Join(names, ", ")+` IN ACCESS EXCLUSIVE MODE`); err != nil {
		return known(err)
	}
	var there bool
	if err := tx.GetContext(ctx, &there, `SELECT EXISTS (SELECT FROM jobs) OR EXISTS (SELECT FROM models)`); err != nil {
		return known(err)
	}
	if there && !replace {
		return ErrNotEmpty
	}
	_, err := tx.ExecContext(ctx, `TRUNCATE `+strings.Join(names, ", ")+`, gear_imports, verdicts`)
	return known(err)
}

// backupReader reads the lines of a backup and sums them up.
type backupReader struct {
	lines *bufio.Reader
	sum   hash.Hash
	head  backupHead
}

func openBackup(r io.Reader) (*backupReader, error) {
	packed, err := gzip.NewReader(r)
	if err != nil {
		return nil, ErrNoBackup
	}
	b := &backupReader{lines: bufio.NewReaderSize(packed, 1<<16), sum: sha256.New()}
	first, err := b.next()
	if err != nil || first.Head == nil {
		return nil, ErrNoBackup
	}
	b.head = *first.Head
	if form, ours := strings.CutPrefix(b.head.Format, "largo-backup/"); !ours {
		return nil, ErrNoBackup
	} else if b.head.Format != BackupFormat {
		return nil, fmt.Errorf("%w (its form is %.20q)", ErrNewerBackup, form)
	}
	return b, nil
}

// mostBackupLine bounds one line of a backup: a rig of the largest size is
// some 4 MiB.
const mostBackupLine = 64 << 20

func (b *backupReader) next() (l line, err error) {
	var text []byte
	for {
		part, err := b.lines.ReadSlice('\n')
		text = append(text, part...)
		if err == nil {
			break
		}
		if err != bufio.ErrBufferFull || len(text) > mostBackupLine {
			return l, ErrHalfBackup
		}
	}
	dec := json.NewDecoder(bytes.NewReader(text))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&l); err != nil {
		return l, ErrHalfBackup
	}
	if l.Foot == nil {
		b.sum.Write(text)
	}
	return l, nil
}

// restore writes the rows of a backup until its foot proves that it is whole.
func (b *backupReader) restore(ctx context.Context, tx *sqlx.Tx, done *Restored) error {
	now, err := migrationOf(ctx, tx)
	if err != nil {
		return err
	}
	if b.head.Migration > now {
		return fmt.Errorf("%w (its tables are of step %d, these of step %d)", ErrNewerBackup, b.head.Migration, now)
	}
	done.At = b.head.At
	var at table
	var insert string
	rows := 0
	for {
		l, err := b.next()
		switch {
		case err != nil:
			return err
		case l.Table != "":
			i := slices.IndexFunc(backedUp, func(t table) bool { return t.name == l.Table })
			if i < 0 {
				return fmt.Errorf("%w (it holds a table %.40q)", ErrNewerBackup, l.Table)
			}
			at = backedUp[i]
			if insert, err = insertOf(ctx, tx, at.name); err != nil {
				return known(err)
			}
		case l.Row != nil:
			if at.name == "" {
				return ErrHalfBackup
			}
			if _, err := tx.ExecContext(ctx, insert, string(l.Row)); err != nil {
				return fmt.Errorf("a row of %s cannot be restored: %w", at.name, known(err))
			}
			rows++
			done.Rows[at.name]++
		case l.Foot != nil:
			if l.Foot.Rows != rows || l.Foot.Digest != hex.EncodeToString(b.sum.Sum(nil)) {
				return ErrHalfBackup
			}
			if _, err := b.lines.ReadByte(); err != io.EOF { // the archive's own sums come last
				return ErrHalfBackup
			}
			return nil
		}
	}
}

// insertOf is the statement that brings a row back. A column that the backup's
// Largo did not have gets what its table says.
func insertOf(ctx context.Context, tx *sqlx.Tx, name string) (string, error) {
	var columns []struct {
		Name, Otherwise string
	}
	if err := tx.SelectContext(ctx, &columns, `
SELECT a.attname AS name, coalesce(pg_get_expr(d.adbin, d.adrelid), 'NULL') AS otherwise
FROM pg_attribute a LEFT JOIN pg_attrdef d ON d.adrelid = a.attrelid AND d.adnum = a.attnum
WHERE a.attrelid = $1::regclass AND a.attnum > 0 AND NOT a.attisdropped
		AND a.attgenerated = '' ORDER BY a.attnum`, name); err != nil {
		return "", err
	}
	var names, values []string
	for _, c := range columns {
		names = append(names, `"`+c.Name+`"`)
		values = append(values, fmt.Sprintf(`CASE WHEN given.row ? '%s' THEN r."%s" ELSE %s END`, c.Name, c.Name,
			c.Otherwise))
	}
	return `WITH given AS (SELECT $1::jsonb AS row) INSERT INTO ` + name + ` (` + strings.Join(names, ", ") +
		`) OVERRIDING SYSTEM VALUE SELECT ` +
		strings.Join(values, ", ") + ` FROM given, jsonb_populate_record(NULL::` + name + `, given.row) r`, nil
}

// NoteBackup remembers that a backup was made.
func (s *Store) NoteBackup(ctx context.Context, file string) error {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	_, err := s.db.ExecContext(ctx, `INSERT INTO backups (file) VALUES ($1)`, file)
	return known(err)
}

// LastBackup is when the last backup was made; false when none was.
func (s *Store) LastBackup(ctx context.Context) (at time.Time, made bool, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var last *time.Time
	if err := s.db.GetContext(ctx, &last, `SELECT max(at) FROM backups`); err != nil || last == nil {
		return at, false, known(err)
	}
	return *last, true, nil
}
