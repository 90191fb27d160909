package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"largo/core/rig"
)

// Job is a job with its revision in force.
type Job struct {
	ID   int64
	Slug string
	Revision
	Command string // the id of the edit that made the revision in force
	CanUndo bool
	CanRedo bool
}

// Revision is one state of a rig.
type Revision struct {
	Number int
	Rig    rig.Rig
	Said   string // what the edit did
	Name   string // given to find it again, as "soundcheck"
	Author string
	At     time.Time
}

// Change is a new state of a job to be kept.
type Change struct {
	Base    int    // the revision it was made on
	Command string // a UUID made by the client; a repeated one is harmless
	Rig     rig.Rig
	Said    string
	Author  string
}

type jobRow struct {
	ID      int64     `db:"id"`
	Slug    string    `db:"slug"`
	Number  int       `db:"number"`
	Parent  *int      `db:"parent"`
	Rig     []byte    `db:"rig"`
	Command string    `db:"command"`
	Said    string    `db:"said"`
	Author  string    `db:"author"`
	At      time.Time `db:"at"`
	CanRedo bool      `db:"can_redo"`
}

func (r jobRow) job() (Job, error) {
	j := Job{ID: r.ID, Slug: r.Slug, CanUndo: r.Parent != nil, CanRedo: r.CanRedo,
		Command: r.Command, Revision: Revision{Number: r.Number, Said: r.Said, Author: r.Author, At: r.At}}
	if err := json.Unmarshal(r.Rig, &j.Rig); err != nil {
		return j, fmt.Errorf("revision %d of %s cannot be read: %w", r.Number, r.Slug, err)
	}
	return j, nil
}

const selectJob = `
SELECT j.id, j.slug, r.number, r.parent, r.rig, r.command, r.said, r.author, r.at,
       EXISTS (SELECT FROM revisions c WHERE c.job_id = j.id AND c.parent = j.head) AS can_redo
FROM jobs j JOIN revisions r ON r.job_id = j.id AND r.number = j.head`

// Jobs lists all jobs by date, those without one last.
func (s *Store) Jobs(ctx context.Context) ([]Job, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var rows []jobRow
	if err := s.db.SelectContext(ctx, &rows, selectJob+` ORDER BY j.on_date NULLS LAST, j.id LIMIT 500`); err != nil {
		return nil, known(err)
	}
	jobs := make([]Job, len(rows))
	for i, row := range rows {
		var err error
		if jobs[i], err = row.job(); err != nil {
			return nil, err
		}
	}
	return jobs, nil
}

// Job finds a job by its slug.
func (s *Store) Job(ctx context.Context, slug string) (Job, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var row jobRow
	if err := s.db.GetContext(ctx, &row, selectJob+` WHERE j.slug = $1`, slug); err != nil {
		return Job{}, known(err)
	}
	return row.job()
}

// Revisions lists the latest states of a job without their rigs, newest first.
func (s *Store) Revisions(ctx context.Context, slug string) ([]Revision, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var list []Revision
	err := s.db.SelectContext(ctx, &list, `
SELECT r.number, r.said, r.name, r.author, r.at FROM revisions r JOIN jobs j ON j.id = r.job_id
WHERE j.slug = $1 ORDER BY r.number DESC LIMIT 200`, slug)
	return list, known(err)
}

// CreateJob keeps a new job and gives its slug.
func (s *Store) CreateJob(ctx context.Context, c Change) (string, error) {
	doc, err := json.Marshal(c.Rig)
	if err != nil {
		return "", err
	}
	var slug string
	err = s.within(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		err := tx.GetContext(ctx, &slug, `SELECT j.slug FROM jobs j JOIN revisions r ON r.job_id = j.id WHERE r.command = $1 AND r.number = 1`, c.Command)
		if known(err) != ErrNotFound {
			return err // kept before, or broken
		}
		if slug, err = freeSlug(ctx, tx, c.Rig.Brief.Title); err != nil {
			return err
		}
		var id int64
		b := c.Rig.Brief
		if err := tx.GetContext(ctx, &id, `
INSERT INTO jobs (slug, title, place, on_date, head) VALUES ($1, $2, $3, NULLIF($4, '')::date, 1) RETURNING id`,
			slug, b.Title, b.Place, b.Date); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `
INSERT INTO revisions (job_id, number, rig, said, author, command) VALUES ($1, 1, $2, $3, $4, $5)`,
			id, doc, c.Said, c.Author, c.Command)
		return err
	})
	return slug, err
}

var notInSlug = regexp.MustCompile(`[^\p{L}\p{N}]+`)

// freeSlug makes the name of a job in its URL.
func freeSlug(ctx context.Context, tx *sqlx.Tx, title string) (string, error) {
	base := strings.Trim(notInSlug.ReplaceAllString(strings.ToLower(title), "-"), "-")
	if r := []rune(base); len(r) > 48 {
		base = strings.Trim(string(r[:48]), "-")
	}
	if base == "" {
		base = "job"
	}
	var taken []string
	if err := tx.SelectContext(ctx, &taken, `SELECT slug FROM jobs WHERE slug = $1 OR slug LIKE $1 || '-%'`, base); err != nil {
		return "", err
	}
	have := map[string]bool{}
	for _, t := range taken {
		have[t] = true
	}
	slug := base
	for n := 2; have[slug]; n++ {
		slug = fmt.Sprintf("%s-%d", base, n)
	}
	return slug, nil
}

// Keep makes a change the revision in force. It gives ErrConflict when the
// job has moved on from the change's base, and does nothing when the command
// was kept before.
func (s *Store) Keep(ctx context.Context, slug string, c Change) error {
	doc, err := json.Marshal(c.Rig)
	if err != nil {
		return err
	}
	return s.within(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		id, head, err := lockJob(ctx, tx, slug)
		if err != nil {
			return err
		}
		var kept bool
		if err := tx.GetContext(ctx, &kept, `SELECT EXISTS (SELECT FROM revisions WHERE job_id = $1 AND command = $2)`, id, c.Command); err != nil || kept {
			return err
		}
		if head != c.Base {
			return ErrConflict
		}
		var number int
		if err := tx.GetContext(ctx, &number, `
INSERT INTO revisions (job_id, number, parent, rig, said, author, command)
SELECT $1, max(number) + 1, $2, $3, $4, $5, $6 FROM revisions WHERE job_id = $1 RETURNING number`,
			id, head, doc, c.Said, c.Author, c.Command); err != nil {
			return err
		}
		return setHead(ctx, tx, id, number)
	})
}

// Undo goes back to the state before the one in force.
func (s *Store) Undo(ctx context.Context, slug string, base int) error {
	return s.move(ctx, slug, base, `SELECT parent FROM revisions WHERE job_id = $1 AND number = $2 AND parent IS NOT NULL`)
}

// Redo goes forward again to the latest state made from the one in force.
func (s *Store) Redo(ctx context.Context, slug string, base int) error {
	return s.move(ctx, slug, base, `SELECT number FROM revisions WHERE job_id = $1 AND parent = $2 ORDER BY number DESC LIMIT 1`)
}

func (s *Store) move(ctx context.Context, slug string, base int, to string) error {
	return s.within(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		id, head, err := lockJob(ctx, tx, slug)
		if err != nil {
			return err
		}
		if head != base {
			return ErrConflict
		}
		var number int
		err = tx.GetContext(ctx, &number, to, id, head)
		if errors.Is(known(err), ErrNotFound) {
			return nil // at the end of the history: nothing to do
		}
		if err != nil {
			return err
		}
		return setHead(ctx, tx, id, number)
	})
}

func lockJob(ctx context.Context, tx *sqlx.Tx, slug string) (id int64, head int, err error) {
	err = tx.QueryRowxContext(ctx, `SELECT id, head FROM jobs WHERE slug = $1 FOR UPDATE`, slug).Scan(&id, &head)
	return id, head, err
}

// setHead puts a revision in force and the job's columns in step with it.
func setHead(ctx context.Context, tx *sqlx.Tx, id int64, number int) error {
	_, err := tx.ExecContext(ctx, `
UPDATE jobs SET head = $2, title = r.rig->'brief'->>'title', place = coalesce(r.rig->'brief'->>'place', ''),
       on_date = NULLIF(r.rig->'brief'->>'date', '')::date
FROM revisions r WHERE jobs.id = $1 AND r.job_id = $1 AND r.number = $2`, id, number)
	return err
}

// RevisionRig reads the rig as it was at a revision.
func (s *Store) RevisionRig(ctx context.Context, slug string, number int) (rig.Rig, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var doc []byte
	var r rig.Rig
	if err := s.db.GetContext(ctx, &doc, `
SELECT r.rig FROM revisions r JOIN jobs j ON j.id = r.job_id WHERE j.slug = $1 AND r.number = $2`, slug, number); err != nil {
		return r, known(err)
	}
	return r, json.Unmarshal(doc, &r)
}

// NameRevision names a state of a job; an empty name takes the name away.
func (s *Store) NameRevision(ctx context.Context, slug string, number int, name string) error {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	res, err := s.db.ExecContext(ctx, `
UPDATE revisions r SET name = $3 FROM jobs j WHERE j.id = r.job_id AND j.slug = $1 AND r.number = $2`, slug, number, name)
	if err != nil {
		return known(err)
	}
	if n, err := res.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrNotFound)
	}
	return nil
}
