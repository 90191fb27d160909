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
