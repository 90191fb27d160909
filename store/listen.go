package store

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jmoiron/sqlx"
)

// Event is word of something kept, by this server or another one of the same
// database.
type Event struct {
	Job     string `json:"job,omitempty"`  // its slug
	Head    int    `json:"head,omitempty"` // the revision in force
	Command string `json:"command,omitempty"`
	Page    string `json:"page,omitempty"` // that sent it
	Author  string `json:"author,omitempty"`
}

// channel is the channel of LISTEN and NOTIFY.
const channel = "largo"

// tell sends an event when the transaction is kept.
func tell(ctx context.Context, tx *sqlx.Tx, e Event) error {
	b, err := json.Marshal(e)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `SELECT pg_notify($1, $2)`, channel, string(b))
	return err
}

// Listen hears of everything that is kept until the context ends, on a
// connection of its own. What is kept while that connection is away is not
// heard: after each time that it comes (the first too) it calls missed, so that
// whoever waits can ask anew.
func (s *Store) Listen(ctx context.Context, log *slog.Logger, heard func(Event), missed func()) {
	const least, most = 100 * time.Millisecond, 5 * time.Second
	pause := least
	for ctx.Err() == nil {
		begun := time.Now()
		if err := s.listen(ctx, heard, missed); err != nil && ctx.Err() == nil {
			log.WarnContext(ctx, "the database's events are not heard", "error", err, "again in", pause)
		}
		if time.Since(begun) > most {
			pause = least
		}
		select {
		case <-ctx.Done():
		case <-time.After(pause):
		}
		pause = min(2*pause, most)
	}
}

func (s *Store) listen(ctx context.Context, heard func(Event), missed func()) error {
	conn, err := pgx.Connect(ctx, s.dsn)
	if err != nil {
		return err
	}
	defer func() {
		closing, cancel := context.WithTimeout(context.Background(), time.Second)
		defer cancel()
		_ = conn.Close(closing)
	}()
	if _, err := conn.Exec(ctx, "LISTEN "+channel); err != nil {
		return err
	}
	missed()
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		var e Event
		if err := json.Unmarshal([]byte(n.Payload), &e); err != nil {
			return errors.Join(errors.New("an event that is none"), err)
		}
		heard(e)
	}
}

// Head is the revision of a job that is in force, and by whom.
func (s *Store) Head(ctx context.Context, slug string) (Event, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	e := Event{Job: slug}
	err := s.db.QueryRowxContext(ctx, `
SELECT r.number, r.command, coalesce(r.page::text, ''), r.author FROM jobs j
	JOIN revisions r ON r.job_id = j.id AND r.number = j.head
	WHERE j.slug = $1`, slug).
		Scan(&e.Head, &e.Command, &e.Page, &e.Author)
	return e, known(err)
}
