package store

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"time"

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
		docRow
		Place string
		Count int
	}
	if err := s.db.SelectContext(ctx, &rows, `
SELECT m.doc, m.version, s.place, s.count FROM stock s JOIN models m ON m.id = s.model WHERE $1 = '' OR s.model = $1
ORDER BY m.kind, m.maker, m.name, m.id, s.place`, id); err != nil {
		return nil, known(err)
	}
	held := make([]gear.Holding, 0, len(rows))
	for _, r := range rows {
		m, err := s.models.read(r.Doc, r.Version)
		if err != nil {
			continue // the library says which it is
		}
		held = append(held, gear.Holding{Model: m, Place: r.Place, Count: r.Count})
	}
	return held, nil
}

// StockHead is the latest act on the stock, 0 when there was none: what a page
// shows is what it was then.
func (s *Store) StockHead(ctx context.Context) (head int64, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	return head, known(s.db.GetContext(ctx, &head, `SELECT coalesce(max(id), 0) FROM stock_acts`))
}

// SetStock records how many of a model lie at a place, all of the holdings or
// none; 0 takes a record away. A model that the library lacks is ErrNotFound;
// a record that was changed after the act in base is ErrConflict.
func (s *Store) SetStock(ctx context.Context, c Command, said string, base int64, held ...gear.Holding) error {
	c.Act = "set stock"
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		act, err := beginStockAct(ctx, tx, c, said, nil)
		if err != nil {
			return "", err
		}
		for _, h := range held {
			var there bool
			if err := tx.GetContext(ctx, &there, `SELECT EXISTS (SELECT FROM models WHERE id = $1)`, h.Model.ID); err != nil {
				return "", err
			}
			if !there {
				return "", ErrNotFound
			}
			var since bool
			if err := tx.GetContext(ctx, &since,
				`SELECT EXISTS (SELECT FROM stock_changes WHERE model = $1 AND place = $2 AND act > $3 AND act <> $4)`,
				h.Model.ID, h.Place, base, act); err != nil {
				return "", err
			}
			if since {
				return "", fmt.Errorf("%w: %s in %s", ErrConflict, h.Model.Title(), h.Place)
			}
			if err := setHolding(ctx, tx, act, h.Model.ID, h.Place, h.Count); err != nil {
				return "", err
			}
		}
		return strconv.FormatInt(act, 10), nil
	})
	return err
}

// beginStockAct waits for other acts on the stock and begins one.
func beginStockAct(ctx context.Context, tx *sqlx.Tx, c Command, said string, undoes *int64) (act int64, err error) {
	if _, err := tx.ExecContext(ctx, `LOCK TABLE stock_acts IN SHARE ROW EXCLUSIVE MODE`); err != nil {
		return 0, err
	}
	return act, tx.GetContext(ctx, &act,
		`INSERT INTO stock_acts (command, said, author, undoes) VALUES ($1, $2, $3, $4) RETURNING id`, c.ID, said,
		c.Author, undoes)
}

// setHolding changes one record and notes what it was.
func setHolding(ctx context.Context, tx *sqlx.Tx, act int64, model, place string, count int) error {
	var before int
	err := tx.GetContext(ctx, &before, `SELECT count FROM stock WHERE model = $1 AND place = $2`, model, place)
	if err != nil && !errors.Is(known(err), ErrNotFound) {
		return err
	}
	if before == count {
		return nil
	}
	if _, err := tx.ExecContext(ctx,
		`INSERT INTO stock_changes (act, model, place, before, after) VALUES ($1, $2, $3, $4, $5)`, act, model, place,
		before, count); err != nil {
		return err
	}
	if count == 0 {
		_, err = tx.ExecContext(ctx, `DELETE FROM stock WHERE model = $1 AND place = $2`, model, place)
		return err
	}
	_, err = tx.ExecContext(ctx, `
INSERT INTO stock (model, place, count) VALUES ($1, $2, $3)
	ON CONFLICT (model, place) DO UPDATE SET count = $3`, model, place, count)
	return err
}

// StockAct is one line of the history of the stock.
type StockAct struct {
	ID     int64
	Said   string
	Author string
	At     time.Time
	Undone bool // or an undoing itself
}

// StockHistory lists the latest acts on the stock that changed anything,
// newest first.
func (s *Store) StockHistory(ctx context.Context, most int) ([]StockAct, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var acts []StockAct
	err := s.db.SelectContext(ctx, &acts, `
SELECT a.id, a.said, a.author, a.at, a.undoes IS NOT NULL OR EXISTS (SELECT FROM stock_acts u
	WHERE u.undoes = a.id) AS undone
FROM stock_acts a WHERE EXISTS (SELECT FROM stock_changes c WHERE c.act = a.id) ORDER BY a.id DESC LIMIT $1`, most)
	return acts, known(err)
}

// UndoStock takes an act on the stock back, all of it. Where something of it
// was changed since, or it was undone already, it is ErrConflict.
func (s *Store) UndoStock(ctx context.Context, id int64, c Command) error {
	c.Act = "undo stock " + strconv.FormatInt(id, 10)
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		var said string
		if err := tx.GetContext(ctx, &said, `SELECT said FROM stock_acts WHERE id = $1`, id); err != nil {
			return "", err
		}
		act, err := beginStockAct(ctx, tx, c, "Undid: "+said, &id)
		if err != nil {
			return "", err
		}
		var undone bool
		if err := tx.GetContext(ctx, &undone, `SELECT EXISTS (SELECT FROM stock_acts WHERE undoes = $1 AND id <> $2)`, id,
			act); err != nil {
			return "", err
		}
		if undone {
			return "", ErrConflict
		}
		var changes []struct {
			Model, Place  string
			Before, After int
		}
		if err := tx.SelectContext(ctx, &changes,
			`SELECT model, place, before, after FROM stock_changes WHERE act = $1 ORDER BY model, place`, id); err != nil {
			return "", err
		}
		for _, x := range changes {
			var now int
			err := tx.GetContext(ctx, &now, `SELECT count FROM stock WHERE model = $1 AND place = $2`, x.Model, x.Place)
			if err != nil && !errors.Is(known(err), ErrNotFound) {
				return "", err
			}
			if now != x.After {
				return "", ErrConflict
			}
			if err := setHolding(ctx, tx, act, x.Model, x.Place, x.Before); err != nil {
				return "", err
			}
		}
		return "", nil
	})
	return err
}
