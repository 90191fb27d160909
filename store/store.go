// Package store keeps jobs, their revisions and the gear library in
// PostgreSQL. What it acknowledges is durable.
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

	"github.com/jackc/pgx/v5/pgconn"
	_ "github.com/jackc/pgx/v5/stdlib" // the driver "pgx"
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Errors that callers tell apart.
var (
	ErrNotFound = errors.New("there is no such thing")
	ErrConflict = errors.New("somebody else has changed it meanwhile")
	ErrDown     = errors.New("the database does not answer")
)

// patience is how long one act may take before it counts as failed.
const patience = 8 * time.Second

// Store is the database.
type Store struct{ db *sqlx.DB }

// Open connects to a database and brings its tables up to date.
func Open(ctx context.Context, dsn string) (*Store, error) {
	db, err := sqlx.Open("pgx", dsn)
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(20)
	db.SetMaxIdleConns(10)
	s := &Store{db}
	if err := s.migrate(ctx); err != nil {
		db.Close()
		return nil, fmt.Errorf("migrating: %w", err)
	}
	return s, nil
}

func (s *Store) migrate(ctx context.Context) error {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectPostgres, s.db.DB, dir)
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
	return known(tx.Commit())
}

// known turns the driver's errors into ours, keeping their text.
func known(err error) error {
	switch {
	case err == nil:
		return nil
	case errors.Is(err, sql.ErrNoRows):
		return ErrNotFound
	case down(err):
		return fmt.Errorf("%w: %w", ErrDown, err)
	}
	return err
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
	return pgconn.SafeToRetry(err) || errors.Is(err, driver.ErrBadConn) || errors.Is(err, sql.ErrConnDone) || errors.Is(err, io.ErrUnexpectedEOF) ||
		errors.Is(err, io.EOF) || errors.Is(err, context.DeadlineExceeded)
}
