package store

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"
)

// Counted is what came back of a model.
type Counted struct {
	Model        string
	Back, Faulty int
	Author       string
	At           time.Time
}

// CountedBack is what was counted back of a job, by model.
func (s *Store) CountedBack(ctx context.Context, slug string) (map[string]Counted, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var rows []Counted
	if err := s.db.SelectContext(ctx, &rows, `SELECT c.model, c.back, c.faulty, c.author, c.at FROM counted c
	JOIN jobs j ON j.id = c.job_id WHERE j.slug = $1`, slug); err != nil {
		return nil, known(err)
	}
	all := make(map[string]Counted, len(rows))
	for _, r := range rows {
		all[r.Model] = r
	}
	return all, nil
}

// CountBack keeps what was counted back of a model; counted anew, the new count stands.
func (s *Store) CountBack(ctx context.Context, c Command, slug string, n Counted) error {
	c.Act = "count " + slug
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		job, err := jobID(ctx, tx, slug)
		if err != nil {
			return "", err
		}
		_, err = tx.ExecContext(ctx, `
INSERT INTO counted (job_id, model, back, faulty, author) VALUES ($1, $2, $3, $4, $5)
	ON CONFLICT (job_id, model) DO UPDATE
	SET back = excluded.back, faulty = excluded.faulty, author = excluded.author, at = clock_timestamp()`, job, n.Model,
			n.Back, n.Faulty, c.Author)
		return "", err
	})
	return err
}
