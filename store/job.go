package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"strconv"
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
	Command  string // the id of the edit that made the revision in force
	Page     string // the page that sent that edit, "" when none did
	CanUndo  bool
	CanRedo  bool
	Archived bool   // it lies in the archive, or among what was deleted
	Stamp    string // of the revision as it lies there: what follows from it follows from no other
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
	Content string // a digest of what was sent, where a page may send other content under one id
	Page    string // the UUID of the page that sends it, "" for none
	Rig     rig.Rig
	Edit    []byte // the edit as data (rig.MarshalEdit), nil for none
	Said    string
	Author  string
	Verdict Verdict // what the rules say of it
}

type jobRow struct {
	ID       int64     `db:"id"`
	Slug     string    `db:"slug"`
	Number   int       `db:"number"`
	Parent   *int      `db:"parent"`
	Version  int       `db:"version"`
	Stamp    string    `db:"stamp"`
	Command  string    `db:"command"`
	Page     *string   `db:"page"`
	Said     string    `db:"said"`
	Author   string    `db:"author"`
	At       time.Time `db:"at"`
	CanRedo  bool      `db:"can_redo"`
	Archived bool      `db:"archived"`
}

func (r jobRow) job() Job {
	j := Job{ID: r.ID, Slug: r.Slug, CanUndo: r.Parent != nil, CanRedo: r.CanRedo, Archived: r.Archived,
		Command: r.Command, Stamp: r.Stamp, Revision: Revision{Number: r.Number, Said: r.Said, Author: r.Author, At: r.At}}
	if r.Page != nil {
		j.Page = *r.Page
	}
	return j
}

const selectJob = `
SELECT j.id, j.slug, r.number, r.parent, r.version, r.xmin::text AS stamp, r.command, r.page, r.said, r.author, r.at,
       EXISTS (SELECT FROM revisions c WHERE c.job_id = j.id AND c.parent = j.head) AS can_redo,
       coalesce(j.archived_at, j.deleted_at) IS NOT NULL AS archived
FROM jobs j JOIN revisions r ON r.job_id = j.id AND r.number = j.head`

// Job finds a job by its slug. One whose rig cannot be read is ErrUnreadable.
func (s *Store) Job(ctx context.Context, slug string) (Job, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var row jobRow
	if err := s.db.GetContext(ctx, &row, selectJob+` WHERE j.slug = $1`, slug); err != nil {
		return Job{}, known(err)
	}
	j := row.job()
	var err error
	j.Rig, err = s.rigOf(ctx, rigKey{row.ID, row.Number, row.Stamp}, row.Version)
	return j, err
}

// Visits are the jobs before this one at the same place, by their dates, the last first, so many
// at most. What was deleted does not count, and what cannot be read is left out.
func (s *Store) Visits(ctx context.Context, slug string, most int) (list []Job, err error) {
	var slugs []string
	if err := s.db.SelectContext(ctx, &slugs, `
SELECT b.slug FROM jobs j JOIN jobs b ON lower(trim(b.place)) = lower(trim(j.place)) AND b.on_date < j.on_date
	WHERE j.slug = $1 AND trim(j.place) <> '' AND b.deleted_at IS NULL ORDER BY b.on_date DESC, b.id DESC LIMIT $2`, slug,
		most); err != nil {
		return nil, known(err)
	}
	for _, before := range slugs {
		j, err := s.Job(ctx, before)
		switch {
		case errors.Is(err, ErrUnreadable):
		case err != nil:
			return nil, err
		default:
			list = append(list, j)
		}
	}
	return list, nil
}

// rigOf gives the rig of a revision: decoded and checked before, or now.
func (s *Store) rigOf(ctx context.Context, k rigKey, version int) (rig.Rig, error) {
	if r, have := s.rigs.Get(k); have {
		return r, nil
	}
	var doc []byte
	if err := s.db.GetContext(ctx, &doc,
		`SELECT rig FROM revisions WHERE job_id = $1 AND number = $2 AND xmin::text = $3`, k.job, k.number,
		k.stamp); err != nil {
		return rig.Rig{}, known(err)
	}
	r, err := rigForm.read(doc, version)
	if err != nil {
		return rig.Rig{}, fmt.Errorf("revision %d: %w", k.number, err)
	}
	s.rigs.Add(k, r)
	return r, nil
}

// CreateJob keeps a new job and gives its slug.
func (s *Store) CreateJob(ctx context.Context, c Change) (string, error) {
	doc, err := json.Marshal(c.Rig)
	if err != nil {
		return "", err
	}
	return s.once(ctx, Command{ID: c.Command, Act: "begin a job", Content: c.Content, Author: c.Author},
		func(ctx context.Context, tx *sqlx.Tx) (string, error) {
			slug, err := freeSlug(ctx, tx, c.Rig.Brief.Title)
			if err != nil {
				return "", err
			}
			var id int64
			b := c.Rig.Brief
			if err := tx.GetContext(ctx, &id, `
INSERT INTO jobs (slug, title, place, on_date, head) VALUES ($1, $2, $3, NULLIF($4, '')::date, 1) RETURNING id`,
				slug, b.Title, b.Place, b.Date); err != nil {
				return "", err
			}
			if _, err := insertRevision(ctx, tx, id, 1, nil, doc, c); err != nil {
				return "", err
			}
			return slug, tell(ctx, tx, Event{Job: slug, Head: 1, Command: c.Command, Page: c.Page, Author: c.Author})
		})
}

// insertRevision keeps a state of a job and gives its stamp.
func insertRevision(ctx context.Context, tx *sqlx.Tx, job int64, number int, parent *int, doc []byte,
	c Change) (stamp string, err error) {
	if err := tx.GetContext(ctx, &stamp, `
INSERT INTO revisions (job_id, number, parent, rig, version, said, author, command, page, edit)
VALUES ($1, $2, $3, $4, $5, $6, $7, $8, NULLIF($9, '')::uuid, $10) RETURNING xmin::text`,
		job, number, parent, doc, rigForm.version, c.Said, c.Author, c.Command, c.Page, c.Edit); err != nil {
		return "", err
	}
	if c.Verdict.Rules == "" {
		return stamp, nil // it is judged when somebody asks
	}
	return stamp, setVerdict(ctx, tx, job, number, stamp, c.Verdict)
}

var notInSlug = regexp.MustCompile(`[^\p{L}\p{N}]+`)

// titlesLock is held while a free name for a new job is sought, so that
// several jobs of one title, begun at once, get one each.
const titlesLock = 7071001

// freeSlug makes the name of a job in its URL.
func freeSlug(ctx context.Context, tx *sqlx.Tx, title string) (string, error) {
	base := strings.Trim(notInSlug.ReplaceAllString(strings.ToLower(title), "-"), "-")
	if r := []rune(base); len(r) > 48 {
		base = strings.Trim(string(r[:48]), "-")
	}
	if base == "" {
		base = "job"
	}
	if _, err := tx.ExecContext(ctx, `SELECT pg_advisory_xact_lock($1)`, titlesLock); err != nil {
		return "", err
	}
	var taken []string
	if err := tx.SelectContext(ctx, &taken, `SELECT slug FROM jobs WHERE slug = $1 OR slug LIKE $2`, base,
		likeEscape.Replace(base)+"-%"); err != nil {
		return "", err
	}
	have := map[string]bool{}
	for _, t := range taken {
		have[t] = true
	}
	slug := base
	for n := 2; have[slug] || slug == importSlug; n++ {
		slug = fmt.Sprintf("%s-%d", base, n)
	}
	return slug, nil
}

// importSlug is a page of the list of jobs, so no job may bear it.
const importSlug = "import"

// Done is what a change was kept as.
type Done struct {
	Number int
	Stamp  string // "" when the command was kept before
}

// Keep makes a change the revision in force. It gives ErrConflict when the job
// has moved on from the change's base, and only the number when the command was
// kept before.
func (s *Store) Keep(ctx context.Context, slug string, c Change) (done Done, err error) {
	doc, err := json.Marshal(c.Rig)
	if err != nil {
		return done, err
	}
	result, err := s.once(ctx, Command{ID: c.Command, Act: "edit " + slug, Author: c.Author},
		func(ctx context.Context, tx *sqlx.Tx) (string, error) {
			id, head, err := lockJob(ctx, tx, slug)
			if err != nil {
				return "", err
			}
			if head != c.Base {
				return "", ErrConflict
			}
			var number int
			if err := tx.GetContext(ctx, &number, `SELECT max(number) + 1 FROM revisions WHERE job_id = $1`, id); err != nil {
				return "", err
			}
			if done.Stamp, err = insertRevision(ctx, tx, id, number, &head, doc, c); err != nil {
				return "", err
			}
			if err := setHead(ctx, tx, id, number); err != nil {
				return "", err
			}
			return strconv.Itoa(number),
				tell(ctx, tx, Event{Job: slug, Head: number, Command: c.Command, Page: c.Page, Author: c.Author})
		})
	if err != nil {
		return Done{}, err
	}
	done.Number, _ = strconv.Atoi(result) // a Largo that noted no number kept it before
	return done, nil
}

// Undo goes back to the state before the one in force. At the beginning of the
// history there is nothing to do.
func (s *Store) Undo(ctx context.Context, slug string, base int, c Command) error {
	return s.move(ctx, slug, base, c, "undo",
		`SELECT parent FROM revisions WHERE job_id = $1 AND number = $2 AND parent IS NOT NULL`)
}

// Redo goes forward again to the latest state made from the one in force.
func (s *Store) Redo(ctx context.Context, slug string, base int, c Command) error {
	return s.move(ctx, slug, base, c, "redo",
		`SELECT number FROM revisions WHERE job_id = $1 AND parent = $2 ORDER BY number DESC LIMIT 1`)
}

func (s *Store) move(ctx context.Context, slug string, base int, c Command, act, to string) error {
	c.Act = act + " " + slug
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		id, head, err := lockJob(ctx, tx, slug)
		if err != nil {
			return "", err
		}
		number, err := neighbour(ctx, tx, to, id, head, base)
		if err != nil || number == 0 {
			return "", err
		}
		said, of := "Undid: ", head
		if act == "redo" {
			said, of = "Made again: ", number
		}
		if _, err := tx.ExecContext(ctx, `
INSERT INTO moves (job_id, command, said, from_number, to_number, author)
SELECT $1, $2, $3 || said, $4, $5, $6
	FROM revisions WHERE job_id = $1 AND number = $7`, id, c.ID, said, head, number, c.Author, of); err != nil {
			return "", err
		}
		if err := setHead(ctx, tx, id, number); err != nil {
			return "", err
		}
		return "", tell(ctx, tx, Event{Job: slug, Head: number, Command: c.ID, Page: c.Page, Author: c.Author})
	})
	return err
}

// neighbour is the revision that undo or redo goes to from the head, of a job or
// of a model; 0 at the end of the history. A head that is not the base which was
// seen is a conflict.
func neighbour(ctx context.Context, tx *sqlx.Tx, to string, of any, head, base int) (number int, err error) {
	if head != base {
		return 0, ErrConflict
	}
	err = tx.GetContext(ctx, &number, to, of, head)
	if errors.Is(known(err), ErrNotFound) {
		return 0, nil
	}
	return number, err
}

func lockJob(ctx context.Context, tx *sqlx.Tx, slug string) (id int64, head int, err error) {
	err = tx.QueryRowxContext(ctx, `SELECT id, head FROM jobs WHERE slug = $1 FOR UPDATE`, slug).Scan(&id, &head)
	return id, head, err
}

// setHead puts a revision in force and the job's columns in step with it.
func setHead(ctx context.Context, tx *sqlx.Tx, id int64, number int) error {
	_, err := tx.ExecContext(ctx, `
UPDATE jobs SET head = $2, title = r.brief->>'title', place = coalesce(r.brief->>'place', ''),
       on_date = NULLIF(r.brief->>'date', '')::date
FROM revisions r WHERE jobs.id = $1 AND r.job_id = $1 AND r.number = $2`, id, number)
	return err
}

// mostNumber is the largest number of a revision that the database can hold.
const mostNumber = 1<<31 - 1

// RevisionStamp is the stamp of a job's revision.
func (s *Store) RevisionStamp(ctx context.Context, slug string, number int) (stamp string, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	if number < 0 || number > mostNumber {
		return "", ErrNotFound
	}
	return stamp, known(s.db.GetContext(ctx, &stamp, `
SELECT r.xmin::text FROM revisions r JOIN jobs j ON j.id = r.job_id WHERE j.slug = $1 AND r.number = $2`, slug, number))
}

// RevisionRig reads the rig as it was at a revision.
func (s *Store) RevisionRig(ctx context.Context, slug string, number int) (rig.Rig, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	if number < 0 || number > mostNumber {
		return rig.Rig{}, ErrNotFound
	}
	var row struct {
		ID      int64
		Version int
		Stamp   string
	}
	if err := s.db.GetContext(ctx, &row, `
SELECT j.id, r.version, r.xmin::text AS stamp FROM revisions r JOIN jobs j ON j.id = r.job_id
	WHERE j.slug = $1 AND r.number = $2`, slug, number); err != nil {
		return rig.Rig{}, known(err)
	}
	return s.rigOf(ctx, rigKey{row.ID, number, row.Stamp}, row.Version)
}

// NameRevision names a state of a job; an empty name takes the name away.
func (s *Store) NameRevision(ctx context.Context, slug string, number int, name string, c Command) error {
	if number < 0 || number > mostNumber {
		return ErrNotFound
	}
	c.Act = "name a revision of " + slug
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		res, err := tx.ExecContext(ctx, `
UPDATE revisions r SET name = $3 FROM jobs j
	WHERE j.id = r.job_id AND j.slug = $1 AND r.number = $2`, slug, number, name)
		if err != nil {
			return "", err
		}
		if n, err := res.RowsAffected(); err != nil || n == 0 {
			return "", errors.Join(err, ErrNotFound)
		}
		return "", nil
	})
	return err
}
