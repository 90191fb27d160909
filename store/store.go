// Package store keeps jobs, their revisions, the gear library and the stock in
// PostgreSQL. What it acknowledges is durable, and made once.
package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"embed"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net"
	"strings"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jackc/pgx/v5/pgconn"
	_ "github.com/jackc/pgx/v5/stdlib" // the driver "pgx"
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"

	"largo/core/gear"
	"largo/core/rig"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Errors that callers tell apart.
var (
	ErrNotFound   = errors.New("there is no such thing")
	ErrConflict   = errors.New("somebody else has changed it meanwhile")
	ErrDown       = errors.New("the database does not answer")
	ErrFull       = errors.New("the disk of the database is full")
	ErrUnsure     = errors.New("the database went away while it kept this, and may have kept it")
	ErrReused     = errors.New("the id of this act was used for another one")
	ErrUnreadable = errors.New("it cannot be read")
)

// patience is how long one act may take before it counts as failed.
const patience = 8 * time.Second

// Store is the database.
type Store struct {
	db  *sqlx.DB
	dsn string
	// rigs are decoded and checked revisions by what tells them apart for good:
	// a revision never changes, and one that was tampered with has another stamp.
	rigs   *lru.Cache[rigKey, rig.Rig]
	models remembered[gear.Model]
}

type rigKey struct {
	job    int64
	number int
	stamp  string // the transaction that wrote the row, xmin: another after every change, and after a restore
}

// How many decoded rigs and models are held in memory.
const (
	rigsKept   = 64
	modelsKept = 4096
)

// Open connects to a database and brings its tables up to date. Several servers
// may open one at once: they wait for each other.
func Open(ctx context.Context, dsn string) (*Store, error) {
	db, err := sqlx.Open("pgx", dsn)
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(20)
	db.SetMaxIdleConns(10)
	rigs, err := lru.New[rigKey, rig.Rig](rigsKept)
	if err != nil {
		return nil, err
	}
	s := &Store{db: db, dsn: dsn, rigs: rigs, models: remember(modelForm, modelsKept)}
	if err := s.migrate(ctx); err != nil {
		db.Close()
		return nil, fmt.Errorf("migrating: %w", known(err))
	}
	return s, nil
}

func (s *Store) migrate(ctx context.Context) error {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	// goose locks nothing by itself: two servers starting at once would both
	// make the tables.
	locker, err := lock.NewPostgresSessionLocker(lock.WithLockTimeout(1, 60))
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectPostgres, s.db.DB, dir, goose.WithSessionLocker(locker))
	if err != nil {
		return err
	}
	_, err = p.Up(ctx)
	return err
}

// Close lets the connections go.
func (s *Store) Close() error { return s.db.Close() }

// Ping tells whether the database answers.
func (s *Store) Ping(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	return known(s.db.PingContext(ctx))
}

// within runs an act in a transaction: all of it is kept, or nothing.
func (s *Store) within(ctx context.Context, act func(context.Context, *sqlx.Tx) error) error {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return known(err)
	}
	defer func() { _ = tx.Rollback() }() // after a commit it does nothing
	if err := act(ctx, tx); err != nil {
		return known(err)
	}
	err = known(tx.Commit())
	if errors.Is(err, ErrDown) { // the word that it was kept may be lost, and not the act
		return fmt.Errorf("%w: %w", ErrUnsure, err)
	}
	return err
}

// Command says who asks for what, with an id that makes a repeated act
// harmless.
type Command struct {
	ID      string // a UUID made by whoever asks
	Act     string // as "edit": an id used for another act is refused
	Content string // a digest of what was sent, where one id may come with other content; "" is not compared
	Author  string
	Page    string // the page that asks, "" for none
}

// once runs an act in a transaction unless it was made before, and gives its
// result, then or now.
func (s *Store) once(ctx context.Context, c Command,
	act func(context.Context, *sqlx.Tx) (result string, err error)) (result string, err error) {
	err = s.within(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		made, err := tx.ExecContext(ctx,
			`INSERT INTO commands (id, act, content) VALUES ($1, $2, $3) ON CONFLICT (id) DO NOTHING`, c.ID, c.Act, c.Content)
		if err != nil {
			return err
		}
		if n, err := made.RowsAffected(); err != nil {
			return err
		} else if n == 0 {
			result, err = before(ctx, tx, c)
			return err
		}
		if result, err = act(ctx, tx); err != nil {
			return err
		}
		if result == "" {
			return nil
		}
		_, err = tx.ExecContext(ctx, `UPDATE commands SET result = $2 WHERE id = $1`, c.ID, result)
		return err
	})
	return result, err
}

// before gives the result of an act that was made before.
func before(ctx context.Context, tx *sqlx.Tx, c Command) (string, error) {
	var had struct{ Act, Content, Result string }
	if err := tx.GetContext(ctx, &had, `SELECT act, content, result FROM commands WHERE id = $1`, c.ID); err != nil {
		return "", err
	}
	if had.Act != "before" && (had.Act != c.Act || had.Content != c.Content) {
		return "", ErrReused
	}
	return had.Result, nil
}

// known turns the driver's errors into ours, keeping their text.
func known(err error) error {
	var pg *pgconn.PgError
	switch {
	case err == nil:
		return nil
	case errors.Is(err, sql.ErrNoRows):
		return ErrNotFound
	case errors.As(err, &pg) && pg.Code == "53100":
		return fmt.Errorf("%w: %w", ErrFull, err)
	case errors.As(err, &pg) && refusesValue(pg.Code):
		return ErrNotFound // nothing bears a name that the database cannot even hold
	case down(err):
		return fmt.Errorf("%w: %w", ErrDown, err)
	}
	return err
}

// refusesValue tells whether the database refused a value as such: text that is
// no text, a number out of range, an id that is no id (class 22 of PostgreSQL's
// appendix A). What is kept was checked before, so this can only be a question
// for something that is not there.
func refusesValue(code string) bool {
	switch code {
	case "22021", "22P05", "22003", "22P02":
		return true
	}
	return false
}

func down(err error) bool {
	var connect *pgconn.ConnectError
	var pg *pgconn.PgError
	var network net.Error
	switch {
	case errors.As(err, &pg): // 08: connection, 57P: server shutting down, 53: out of resources
		return strings.HasPrefix(pg.Code, "08") || strings.HasPrefix(pg.Code, "57P") || strings.HasPrefix(pg.Code, "53")
	case errors.As(err, &connect), errors.As(err, &network):
		return true
	}
	return pgconn.SafeToRetry(err) || errors.Is(err, driver.ErrBadConn) || errors.Is(err, sql.ErrConnDone) ||
		errors.Is(err, io.ErrUnexpectedEOF) ||
		errors.Is(err, io.EOF) || errors.Is(err, context.DeadlineExceeded)
}
