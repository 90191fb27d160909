package store

import (
	"context"
	"encoding/json"

	"github.com/jmoiron/sqlx"

	"largo/core/gear"
)

// Stock lists what is owned, by kind, maker and name of the model, then place.
func (s *Store) Stock(ctx context.Context) ([]gear.Holding, error) { return s.holdings(ctx, "") }

// Held lists where a model lies, and how many.
func (s *Store) Held(ctx context.Context, id string) ([]gear.Holding, error) {
	return s.holdings(ctx, id)
}

// holdings lists the holdings of one model, or of all.
func (s *Store) holdings(ctx context.Context, id string) ([]gear.Holding, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var rows []struct {
		Doc   []byte
		Place string
		Count int
	}
	if err := s.db.SelectContext(ctx, &rows, `
SELECT m.doc, s.place, s.count FROM stock s JOIN models m ON m.id = s.model WHERE $1 = '' OR s.model = $1
ORDER BY m.kind, m.maker, m.name, m.id, s.place`, id); err != nil {
		return nil, known(err)
	}
	held := make([]gear.Holding, len(rows))
	for i, r := range rows {
		held[i].Place, held[i].Count = r.Place, r.Count
		if err := json.Unmarshal(r.Doc, &held[i].Model); err != nil {
			return nil, err
		}
	}
	return held, nil
}

// SetStock records how many of a model lie at a place, all of the holdings or
// none; 0 takes a record away. A model that the library lacks is ErrNotFound.
func (s *Store) SetStock(ctx context.Context, held ...gear.Holding) error {
	return s.within(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		for _, h := range held {
			var there bool
			if err := tx.GetContext(ctx, &there, `SELECT EXISTS (SELECT FROM models WHERE id = $1)`, h.Model.ID); err != nil {
				return err
			}
			if !there {
				return ErrNotFound
			}
			if h.Count == 0 {
				if _, err := tx.ExecContext(ctx, `DELETE FROM stock WHERE model = $1 AND place = $2`, h.Model.ID, h.Place); err != nil {
					return err
				}
				continue
			}
			if _, err := tx.ExecContext(ctx, `
INSERT INTO stock (model, place, count) VALUES ($1, $2, $3) ON CONFLICT (model, place) DO UPDATE SET count = $3`, h.Model.ID, h.Place, h.Count); err != nil {
				return err
			}
		}
		return nil
	})
}
