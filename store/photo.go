package store

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"
)

// Photo is a photograph as it is kept, JPEG.
type Photo struct {
	JPEG   []byte
	Author string
	At     time.Time
}

// Photo finds a photograph by its id. One never changes.
func (s *Store) Photo(ctx context.Context, id int64) (p Photo, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	return p, known(s.db.GetContext(ctx, &p, `SELECT jpeg, author, at FROM photos WHERE id = $1`, id))
}

// keepPhoto keeps a photograph within what refers to it.
func keepPhoto(ctx context.Context, tx *sqlx.Tx, c Command, jpeg []byte) (id int64, err error) {
	return id, tx.GetContext(ctx, &id, `INSERT INTO photos (jpeg, author) VALUES ($1, $2) RETURNING id`, jpeg, c.Author)
}
