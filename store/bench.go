package store

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"
	"time"

	"github.com/jmoiron/sqlx"

	"largo/core/bench"
)

// Heated is a session of the thermal bench as it is kept.
type Heated struct {
	bench.Session
	ID     int64
	Author string
	At     time.Time
}

// benchForm is the form of set-ups and events that is written today.
const benchForm = 1

type heatedRow struct {
	ID      int64     `db:"id"`
	Version int       `db:"version"`
	Setup   []byte    `db:"setup"`
	Author  string    `db:"author"`
	At      time.Time `db:"at"`
}

func (r heatedRow) heated(events [][]byte) (h Heated, err error) {
	h = Heated{ID: r.ID, Author: r.Author, At: r.At}
	h.Events, err = happened[bench.Event](&h.Setup, r.Setup, events, r.Version, benchForm)
	for i := range h.Events {
		h.Events[i].Seq = i + 1
	}
	return h, err
}

// BeginSession keeps a new session and gives its id.
func (s *Store) BeginSession(ctx context.Context, c Command, setup bench.Setup) (int64, error) {
	return s.KeepSession(ctx, c, bench.Session{Setup: setup}, 0)
}

// KeepSession keeps a session with what happened in it, as of now, and gives its id: all
// of it, or nothing.
func (s *Store) KeepSession(ctx context.Context, c Command, session bench.Session, now int64) (int64, error) {
	c.Act = "begin a session"
	if err := session.Setup.Check(); err != nil {
		return 0, err
	}
	doc, err := json.Marshal(session.Setup)
	if err != nil {
		return 0, err
	}
	result, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		var id int64
		if err := tx.GetContext(ctx, &id,
			`INSERT INTO bench_sessions (model, version, setup, author) VALUES ($1, $2, $3, $4) RETURNING id`,
			session.Setup.Model, benchForm, doc, c.Author); err != nil {
			return "", err
		}
		kept := bench.Session{Setup: session.Setup}
		for _, e := range session.Events {
			if err := kept.Take(e, now); err != nil {
				return "", fmt.Errorf("event %d: %w", e.Seq, err)
			}
			if err := insertEvent(ctx, tx, c, id, &kept, e); err != nil {
				return "", err
			}
		}
		return strconv.FormatInt(id, 10), nil
	})
	if err != nil {
		return 0, err
	}
	return strconv.ParseInt(result, 10, 64)
}

// insertEvent keeps one more event of a session.
func insertEvent(ctx context.Context, tx *sqlx.Tx, c Command, id int64, s *bench.Session, e bench.Event) error {
	e.Seq = len(s.Events) + 1
	s.Events = append(s.Events, e)
	doc, err := json.Marshal(e)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO bench_events (session, seq, command, event) VALUES ($1, $2, $3, $4)`, id,
		e.Seq, c.ID, doc)
	return err
}

const selectHeated = `SELECT id, version, setup, author, at FROM bench_sessions`

// HeatedSession finds a session of the bench by its id.
func (s *Store) HeatedSession(ctx context.Context, id int64) (h Heated, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	return readHeated(ctx, s.db, id, "")
}

func readHeated(ctx context.Context, q sqlx.QueryerContext, id int64, lock string) (Heated, error) {
	var row heatedRow
	if err := sqlx.GetContext(ctx, q, &row, selectHeated+` WHERE id = $1`+lock, id); err != nil {
		return Heated{}, known(err)
	}
	var events [][]byte
	if err := sqlx.SelectContext(ctx, q, &events, `SELECT event FROM bench_events WHERE session = $1 ORDER BY seq`,
		id); err != nil {
		return Heated{}, known(err)
	}
	return row.heated(events)
}

// HeatedSessions lists the sessions of a model, or of all where it is "", the newest
// first. One that cannot be read is left out and counted.
func (s *Store) HeatedSessions(ctx context.Context, model string, most int) (list []Heated, unread int, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var rows []heatedRow
	if err := s.db.SelectContext(ctx, &rows, selectHeated+` WHERE $1 = '' OR model = $1 ORDER BY id DESC LIMIT $2`, model,
		most); err != nil {
		return nil, 0, known(err)
	}
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.ID
	}
	var events []struct {
		Session int64
		Event   []byte
	}
	if err := s.db.SelectContext(ctx, &events,
		`SELECT session, event FROM bench_events WHERE session = ANY ($1) ORDER BY session, seq`, ids); err != nil {
		return nil, 0, known(err)
	}
	of := map[int64][][]byte{}
	for _, e := range events {
		of[e.Session] = append(of[e.Session], e.Event)
	}
	for _, r := range rows {
		h, err := r.heated(of[r.ID])
		if err != nil {
			unread++
			continue
		}
		list = append(list, h)
	}
	return list, unread, nil
}

// AddEvent keeps what happened in a session, if the session takes it as of now. The same
// act sent twice is kept once.
func (s *Store) AddEvent(ctx context.Context, c Command, id int64, e bench.Event, now int64) error {
	return s.AddSeen(ctx, c, id, e, nil, now)
}

// AddSeen is the same with a photograph of it, nil for none.
func (s *Store) AddSeen(ctx context.Context, c Command, id int64, e bench.Event, jpeg []byte, now int64) error {
	c.Act = "heat " + strconv.FormatInt(id, 10)
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		h, err := readHeated(ctx, tx, id, " FOR UPDATE")
		if err != nil {
			return "", err
		}
		if e.By == "" {
			e.By = c.Author
		}
		if jpeg != nil {
			if e.Photo, err = keepPhoto(ctx, tx, c, jpeg); err != nil {
				return "", err
			}
		}
		if err := h.Take(e, now); err != nil {
			return "", err
		}
		err = insertEvent(ctx, tx, c, id, &h.Session, e)
		return strconv.Itoa(len(h.Events)), err
	})
	return err
}

// SetUp changes the set-up of a session; change refuses by its error, and nothing is kept.
func (s *Store) SetUp(ctx context.Context, c Command, id int64, change func(*Heated) error) error {
	c.Act = "set up " + strconv.FormatInt(id, 10)
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		h, err := readHeated(ctx, tx, id, " FOR UPDATE")
		if err != nil {
			return "", err
		}
		if err := change(&h); err != nil {
			return "", err
		}
		if err := h.Setup.Check(); err != nil {
			return "", err
		}
		doc, err := json.Marshal(h.Setup)
		if err != nil {
			return "", err
		}
		_, err = tx.ExecContext(ctx, `UPDATE bench_sessions SET setup = $2, version = $3 WHERE id = $1`, id, doc, benchForm)
		return "", err
	})
	return err
}

// AskedSessions are the ids of sessions that have a probe to be asked and were not ended
// when their last event was kept.
func (s *Store) AskedSessions(ctx context.Context) (ids []int64, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	return ids, known(s.db.SelectContext(ctx, &ids, `
SELECT id FROM bench_sessions b WHERE setup->>'ask' <> '' AND NOT EXISTS (
	SELECT FROM bench_events e WHERE e.session = b.id AND e.event->>'kind' = 'end')`))
}
