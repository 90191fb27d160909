package store

import (
	"context"
	"encoding/json"
	"strconv"
	"time"

	"github.com/jmoiron/sqlx"

	"largo/core/run"
)

// Ran is a run as it is kept.
type Ran struct {
	run.Run
	ID     int64
	Author string
	At     time.Time
}

// runForm is the form of set-ups and events that is written today.
const runForm = 1

type ranRow struct {
	ID      int64
	Version int
	Setup   []byte
	Author  string
	At      time.Time
}

const selectRun = `SELECT r.id, r.version, r.setup, r.author, r.at FROM runs r JOIN jobs j ON j.id = r.job_id `

func (row ranRow) ran(events [][]byte) (r Ran, err error) {
	r = Ran{ID: row.ID, Author: row.Author, At: row.At}
	r.Events, err = happened[run.Event](&r.Setup, row.Setup, events, row.Version, runForm)
	for i := range r.Events {
		r.Events[i].Seq = i + 1
	}
	return r, err
}

// RunKey is what listeners hear of a run by.
func RunKey(slug string, id int64) string { return slug + "#" + strconv.FormatInt(id, 10) }

// BeginRun keeps a new run of a job and gives its id.
func (s *Store) BeginRun(ctx context.Context, c Command, slug string, setup run.Setup) (int64, error) {
	return s.KeepRun(ctx, c, slug, run.Run{Setup: setup}, time.Now())
}

// KeepRun keeps a run that was begun at a time, with what happened in it, and gives its id.
func (s *Store) KeepRun(ctx context.Context, c Command, slug string, r run.Run, begun time.Time) (int64, error) {
	c.Act = "begin a run"
	if err := r.Check(); err != nil {
		return 0, err
	}
	doc, err := json.Marshal(r.Setup)
	if err != nil {
		return 0, err
	}
	result, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		job, err := jobID(ctx, tx, slug)
		if err != nil {
			return "", err
		}
		var id int64
		if err = tx.GetContext(ctx, &id,
			`INSERT INTO runs (job_id, version, setup, author, at) VALUES ($1, $2, $3, $4, $5) RETURNING id`, job, runForm, doc,
			c.Author, begun); err != nil {
			return "", err
		}
		return strconv.FormatInt(id, 10), insertRunEvents(ctx, tx, c, id, r.Events)
	})
	if err != nil {
		return 0, err
	}
	return strconv.ParseInt(result, 10, 64)
}

// Run finds a run of a job.
func (s *Store) Run(ctx context.Context, slug string, id int64) (Ran, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	return readRun(ctx, s.db, slug, id, "")
}

func readRun(ctx context.Context, q sqlx.QueryerContext, slug string, id int64, lock string) (Ran, error) {
	var row ranRow
	if err := sqlx.GetContext(ctx, q, &row, selectRun+`WHERE j.slug = $1 AND r.id = $2`+lock, slug, id); err != nil {
		return Ran{}, known(err)
	}
	var events [][]byte
	if err := sqlx.SelectContext(ctx, q, &events, `SELECT event FROM run_events WHERE run = $1 ORDER BY seq`,
		id); err != nil {
		return Ran{}, known(err)
	}
	return row.ran(events)
}

// Runs lists the runs of a job, the newest first. One that cannot be read is left out.
func (s *Store) Runs(ctx context.Context, slug string, most int) (list []Ran, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var ids []int64
	if err := s.db.SelectContext(ctx, &ids, `SELECT r.id FROM runs r JOIN jobs j ON j.id = r.job_id
	WHERE j.slug = $1 ORDER BY r.id DESC LIMIT $2`, slug, most); err != nil {
		return nil, known(err)
	}
	for _, id := range ids {
		if r, err := readRun(ctx, s.db, slug, id, ""); err == nil {
			list = append(list, r)
		}
	}
	return list, nil
}

// RunEvent keeps what happened in a run, if the run takes it as of now, in ms. What another
// phone did before is no fault and changes nothing: two confirmations of one step are one. It
// happened so many ms ago, by a clock that runs as fast as ours.
func (s *Store) RunEvent(ctx context.Context, c Command, slug string, id int64, e run.Event, ago int64,
	now func() int64) error {
	c.Act = "run " + strconv.FormatInt(id, 10)
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		r, err := readRun(ctx, tx, slug, id, " FOR UPDATE OF r")
		if err != nil {
			return "", err
		}
		at := now() // after the wait for whoever was first
		e.At = max(at-ago, r.At.UnixMilli())
		if e.By == "" {
			e.By = c.Author
		}
		if r.Made(e) {
			return "", nil
		}
		had := len(r.Events)
		if err := r.Take(e, at); err != nil {
			return "", err
		}
		if err := insertRunEvents(ctx, tx, c, id, r.Events[had:]); err != nil {
			return "", err
		}
		return "", tell(ctx, tx, Event{Job: RunKey(slug, id), Head: len(r.Events), Author: c.Author})
	})
	return err
}

func insertRunEvents(ctx context.Context, tx *sqlx.Tx, c Command, id int64, events []run.Event) error {
	for _, e := range events {
		doc, err := json.Marshal(e)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO run_events (run, seq, command, event) VALUES ($1, $2, $3, $4)`, id,
			e.Seq,
			c.ID, doc); err != nil {
			return err
		}
	}
	return nil
}
