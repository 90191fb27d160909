package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"largo/core/rig"
)

// Verdict is what the rules said of a revision, kept beside it so that the
// list of jobs need not survey every rig.
type Verdict struct {
	Rules   string `json:"-"`     // the id of the rules that judged; other rules judge anew
	Worst   int    `json:"-"`     // the gravest finding, 0 fine to 3 stop, or Unread
	Stage   string `json:"stage"` // of the gravest finding
	Says    string `json:"says"`
	Devices int    `json:"devices"`
	Who     string `json:"who,omitempty"` // goes
}

// Unread is the worst of a revision that cannot be read.
const Unread = 9

// Shelf is where a job lies.
type Shelf string

// The shelves.
const (
	AtHand   Shelf = ""         // the list of jobs
	Archived Shelf = "archived" // put by, and found again
	Deleted  Shelf = "deleted"  // thrown away, until somebody empties it
)

// where is the condition of a shelf.
func (at Shelf) where() string {
	switch at {
	case Archived:
		return "j.archived_at IS NOT NULL AND j.deleted_at IS NULL"
	case Deleted:
		return "j.deleted_at IS NOT NULL"
	}
	return "j.archived_at IS NULL AND j.deleted_at IS NULL"
}

// Listed is a job as the list shows it.
type Listed struct {
	ID     int64
	Slug   string
	Number int
	Brief  rig.Brief
	At     time.Time // of the revision in force
	Stamp  string    // of the revision in force
	Judged bool      // Verdict is what today's rules say of what is kept today
	Verdict
}

// Counts is how many jobs a list holds, all pages together.
type Counts struct {
	All      int
	Stops    int `db:"stops"`    // at stop
	Unread   int `db:"unread"`   // that cannot be read
	Unjudged int `db:"unjudged"` // not judged by today's rules yet
}

// Count takes a job in that was judged just now.
func (n *Counts) Count(l Listed) {
	switch l.Worst {
	case 3:
		n.Stops++
	case Unread:
		n.Unread++
	}
}

// freshVerdict is the condition that a verdict v is of today's rules, $1, and of
// the revision r as it lies there now.
const freshVerdict = `(v.rules = $1 AND v.stamp = r.xmin::text)`

const joinVerdict = ` LEFT JOIN verdicts v ON v.job_id = j.id AND v.number = j.head`

// List lists the jobs of a shelf that hold every word typed, some at a time, as a
// book of dates: from today on, the next first; then those without a date, the
// latest begun first; then those that were, the latest first. It tells how many
// there are in all. Rules is the id of today's rules.
func (s *Store) List(ctx context.Context, at Shelf, typed, rules string, today time.Time,
	skip, most int) (jobs []Listed, n Counts, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	found := ` FROM jobs j JOIN revisions r ON r.job_id = j.id AND r.number = j.head` + joinVerdict +
		` WHERE ` + at.where() +
		` AND j.words || ' ' || coalesce(j.on_date::text, '') LIKE ALL ($2::text[])`
	words := likeWords(typed)
	if err := s.db.GetContext(ctx, &n, `SELECT count(*) AS all,
       count(*) FILTER (WHERE `+freshVerdict+` AND v.worst = 3) AS stops,
    count(*) FILTER (WHERE `+freshVerdict+` AND v.worst = 9) AS unread,
       count(*) FILTER (WHERE `+freshVerdict+` IS NOT TRUE) AS unjudged`+found, rules, words); err != nil {
		return nil, n, known(err)
	}
	var rows []struct {
		ID             int64
		Slug, Stamp    string
		Title, Place   string
		Number, Worst  int
		Brief, Verdict []byte
		At             time.Time
		Fresh          bool
	}
	if err := s.db.SelectContext(ctx, &rows, `
SELECT j.id, j.slug, j.title, j.place, r.number, r.xmin::text AS stamp, r.brief,
    coalesce(v.verdict, '{}') AS verdict, coalesce(v.worst, 0) AS worst
    , r.at, `+freshVerdict+` IS TRUE AS fresh`+found+`
ORDER BY CASE WHEN j.on_date >= $5 THEN 0 WHEN j.on_date IS NULL THEN 1 ELSE 2 END,
    CASE WHEN j.on_date >= $5 THEN j.on_date END, j.on_date DESC, j.id DESC OFFSET $3 LIMIT $4`, rules, words,
		skip, most, today.Format(time.DateOnly)); err != nil {
		return nil, n, known(err)
	}
	jobs = make([]Listed, len(rows))
	for i, r := range rows {
		jobs[i] = Listed{ID: r.ID, Slug: r.Slug, Number: r.Number, Stamp: r.Stamp, At: r.At, Judged: r.Fresh}
		// the rest will be found when it is judged
		if json.Unmarshal(r.Brief, &jobs[i].Brief) != nil || jobs[i].Brief.Title == "" {
			jobs[i].Brief = rig.Brief{Title: r.Title, Place: r.Place}
		}
		if r.Fresh && json.Unmarshal(r.Verdict, &jobs[i].Verdict) != nil {
			jobs[i].Judged = false
		}
		jobs[i].Rules, jobs[i].Worst = rules, r.Worst
	}
	return jobs, n, nil
}

// Unjudged lists some jobs whose revision in force was not judged by these
// rules yet.
func (s *Store) Unjudged(ctx context.Context, rules string, most int) ([]Listed, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var jobs []Listed
	rows, err := s.db.QueryxContext(ctx, `
SELECT j.id, j.slug, r.number, r.xmin::text FROM jobs j
	JOIN revisions r ON r.job_id = j.id AND r.number = j.head`+joinVerdict+`
WHERE `+freshVerdict+` IS NOT TRUE ORDER BY j.id DESC LIMIT $2`, rules, most)
	if err != nil {
		return nil, known(err)
	}
	defer rows.Close()
	for rows.Next() {
		var l Listed
		if err := rows.Scan(&l.ID, &l.Slug, &l.Number, &l.Stamp); err != nil {
			return nil, known(err)
		}
		jobs = append(jobs, l)
	}
	return jobs, known(rows.Err())
}

// ListedRig reads the rig of a listed job.
func (s *Store) ListedRig(ctx context.Context, l Listed) (rig.Rig, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var version int
	if err := s.db.GetContext(ctx, &version, `SELECT version FROM revisions WHERE job_id = $1 AND number = $2`, l.ID,
		l.Number); err != nil {
		return rig.Rig{}, known(err)
	}
	return s.rigOf(ctx, rigKey{l.ID, l.Number, l.Stamp}, version)
}

// SetVerdict keeps what the rules say of a listed job's revision as it was read.
func (s *Store) SetVerdict(ctx context.Context, l Listed, v Verdict) error {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	return known(setVerdict(ctx, s.db, l.ID, l.Number, l.Stamp, v))
}

func setVerdict(ctx context.Context, db sqlx.ExecerContext, job int64, number int, stamp string, v Verdict) error {
	doc, err := json.Marshal(v)
	if err != nil {
		return err
	}
	_, err = db.ExecContext(ctx, `
INSERT INTO verdicts (job_id, number, stamp, rules, verdict, worst) SELECT job_id, number, $3, $4, $5, $6
	FROM revisions WHERE job_id = $1 AND number = $2
ON CONFLICT (job_id, number) DO
	UPDATE SET stamp = $3, rules = $4, verdict = $5, worst = $6`, job, number, stamp, v.Rules, doc, v.Worst)
	return err
}

// MoveJob puts a job on another shelf. Whatever lies on one can be taken back.
func (s *Store) MoveJob(ctx context.Context, slug string, to Shelf, c Command) error {
	set := map[Shelf]string{AtHand: "archived_at = NULL, deleted_at = NULL",
		Archived: "archived_at = now(), deleted_at = NULL", Deleted: "deleted_at = now()"}[to]
	said := map[Shelf]string{AtHand: "Taken back to the list of jobs", Archived: "Put into the archive",
		Deleted: "Deleted"}[to]
	c.Act = "move " + slug
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		id, head, err := lockJob(ctx, tx, slug)
		if err != nil {
			return "", err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE jobs SET `+set+` WHERE id = $1`, id); err != nil {
			return "", err
		}
		_, err = tx.ExecContext(ctx, `
INSERT INTO moves (job_id, command, said, from_number, to_number, author)
	VALUES ($1, $2, $3, $4, $4, $5)`, id, c.ID, said, head, c.Author)
		return "", err
	})
	return err
}

// PurgeJob takes a deleted job away for good, with its history. A job that was
// not deleted before is ErrConflict.
func (s *Store) PurgeJob(ctx context.Context, slug string, c Command) error {
	c.Act = "purge " + slug
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		if _, _, err := lockJob(ctx, tx, slug); err != nil {
			return "", err
		}
		res, err := tx.ExecContext(ctx, `DELETE FROM jobs WHERE slug = $1 AND deleted_at IS NOT NULL`, slug)
		if err != nil {
			return "", err
		}
		if n, err := res.RowsAffected(); err != nil || n == 0 {
			return "", fmt.Errorf("%w: it was not deleted first", ErrConflict)
		}
		return "", nil
	})
	return err
}

// CountJobs is how many jobs there are on all shelves.
func (s *Store) CountJobs(ctx context.Context) (n int, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	return n, known(s.db.GetContext(ctx, &n, `SELECT count(*) FROM jobs`))
}
