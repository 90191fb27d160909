package store

import (
	"context"
	"time"
)

// Line is one line of a job's history: a revision, or what was done beside the
// edits, as an undo.
type Line struct {
	Number int // of the revision, or of the one that an undo or redo came to
	Move   bool
	Said   string
	Name   string // of a revision
	Author string
	At     time.Time
}

// History lists the lines of a job from the newest on, some at a time, and how
// many revisions there are in all.
func (s *Store) History(ctx context.Context, slug string, skip, most int) (lines []Line, revisions int, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	if err := s.db.GetContext(ctx, &revisions,
		`SELECT count(*) FROM revisions r JOIN jobs j ON j.id = r.job_id WHERE j.slug = $1`, slug); err != nil {
		return nil, 0, known(err)
	}
	err = s.db.SelectContext(ctx, &lines, `
SELECT number, move, said, name, author, at FROM (
    SELECT r.number, false AS move, r.said, r.name, r.author, r.at, r.number AS tie FROM revisions r
    	JOIN jobs j ON j.id = r.job_id WHERE j.slug = $1
    UNION ALL
    SELECT m.to_number, true, m.said, '', m.author, m.at, 0 FROM moves m JOIN jobs j ON j.id = m.job_id
    	WHERE j.slug = $1
) lines ORDER BY at DESC, tie DESC OFFSET $2 LIMIT $3`, slug, skip, most)
	return lines, revisions, known(err)
}

// EditLine is an edit on the way to the revision in force.
type EditLine struct {
	Number int
	Edit   []byte // as data
	Author string
	At     time.Time
}

// EditsOf lists the edits of one name, of a device by its tag, on the way to the revision
// in force, the newest first: what was undone is not among them.
func (s *Store) EditsOf(ctx context.Context, slug, name, tag string, most int) (lines []EditLine, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	err = s.db.SelectContext(ctx, &lines, `
WITH RECURSIVE way AS (
    SELECT r.job_id, r.number, r.parent, r.edit, r.author, r.at FROM revisions r
    	JOIN jobs j ON j.id = r.job_id AND r.number = j.head WHERE j.slug = $1
    UNION ALL
    SELECT r.job_id, r.number, r.parent, r.edit, r.author, r.at FROM revisions r
    	JOIN way w ON r.job_id = w.job_id AND r.number = w.parent
)
SELECT number, edit, author, at FROM way WHERE edit->>'edit' = $2 AND edit->'with'->>'tag' = $3
	ORDER BY number DESC LIMIT $4`, slug, name, tag, most)
	return lines, known(err)
}
