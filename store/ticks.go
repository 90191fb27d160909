package store

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"
)

// Tick is an item of a list of a job that was ticked off.
type Tick struct {
	Item, Author string
	At           time.Time
}

// Ticks are the items of a list that were ticked off, by item.
func (s *Store) Ticks(ctx context.Context, slug, list string) (map[string]Tick, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var rows []Tick
	if err := s.db.SelectContext(ctx, &rows,
		`SELECT t.item, t.author, t.at FROM ticks t JOIN jobs j ON j.id = t.job_id WHERE j.slug = $1 AND t.list = $2`, slug,
		list); err != nil {
		return nil, known(err)
	}
	ticks := make(map[string]Tick, len(rows))
	for _, r := range rows {
		ticks[r.Item] = r
	}
	return ticks, nil
}

// SetTick ticks an item off, or takes that back. Who came first stays.
func (s *Store) SetTick(ctx context.Context, c Command, slug, list, item string, on bool) error {
	c.Act = "tick " + item
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		var job int64
		if err := tx.GetContext(ctx, &job, `SELECT id FROM jobs WHERE slug = $1`, slug); err != nil {
			return "", err
		}
		if !on {
			_, err := tx.ExecContext(ctx, `DELETE FROM ticks WHERE job_id = $1 AND list = $2 AND item = $3`, job, list, item)
			return "", err
		}
		_, err := tx.ExecContext(ctx,
			`INSERT INTO ticks (job_id, list, item, author) VALUES ($1, $2, $3, $4) ON CONFLICT DO NOTHING`, job, list, item,
			c.Author)
		return "", err
	})
	return err
}
