package store

import (
	"context"
	"encoding/json"
	"strings"

	"github.com/jmoiron/sqlx"

	"largo/core/gear"
)

// Models lists the gear library by kind, maker and name.
func (s *Store) Models(ctx context.Context) ([]gear.Model, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var docs [][]byte
	if err := s.db.SelectContext(ctx, &docs, `SELECT doc FROM models ORDER BY kind, maker, name, id`); err != nil {
		return nil, known(err)
	}
	models := make([]gear.Model, len(docs))
	for i, d := range docs {
		if err := json.Unmarshal(d, &models[i]); err != nil {
			return nil, err
		}
	}
	return models, nil
}

// SearchModels lists the models that hold every word typed, at most so many,
// by kind, maker and name, and how many there are in all.
func (s *Store) SearchModels(ctx context.Context, typed string, most int) (models []gear.Model, all int, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	words := likeWords(typed)
	if err := s.db.GetContext(ctx, &all, `SELECT count(*) FROM models WHERE words LIKE ALL ($1::text[])`, words); err != nil {
		return nil, 0, known(err)
	}
	var docs [][]byte
	if err := s.db.SelectContext(ctx, &docs, `
SELECT doc FROM models WHERE words LIKE ALL ($1::text[]) ORDER BY kind, maker, name, id LIMIT $2`, words, most); err != nil {
		return nil, 0, known(err)
	}
	models = make([]gear.Model, len(docs))
	for i, d := range docs {
		if err := json.Unmarshal(d, &models[i]); err != nil {
			return nil, 0, err
		}
	}
	return models, all, nil
}

// ModelNames lists the models that hold every word typed as SearchModels does,
// with id, kind, maker and name alone: enough to choose one by.
func (s *Store) ModelNames(ctx context.Context, typed string, most int) (models []gear.Model, all int, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	words := likeWords(typed)
	if err := s.db.GetContext(ctx, &all, `SELECT count(*) FROM models WHERE words LIKE ALL ($1::text[])`, words); err != nil {
		return nil, 0, known(err)
	}
	err = s.db.SelectContext(ctx, &models, `
SELECT id, kind, maker, name FROM models WHERE words LIKE ALL ($1::text[]) ORDER BY kind, maker, name, id LIMIT $2`, words, most)
	return models, all, known(err)
}

// likeWords makes a pattern of each word typed.
func likeWords(typed string) []string {
	words := strings.Fields(strings.ToLower(typed))
	for i, w := range words {
		words[i] = "%" + likeEscape.Replace(w) + "%"
	}
	return words
}

// likeEscape takes the meaning from the wildcards of LIKE.
var likeEscape = strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`)

// Model finds a model of the library.
func (s *Store) Model(ctx context.Context, id string) (gear.Model, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var doc []byte
	var m gear.Model
	if err := s.db.GetContext(ctx, &doc, `SELECT doc FROM models WHERE id = $1`, id); err != nil {
		return m, known(err)
	}
	return m, json.Unmarshal(doc, &m)
}

// SaveModels keeps models, replacing those of the same id: all or none.
func (s *Store) SaveModels(ctx context.Context, models ...gear.Model) error {
	return s.within(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		for _, m := range models {
			doc, err := json.Marshal(m)
			if err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx, `
INSERT INTO models (id, kind, maker, name, doc) VALUES ($1, $2, $3, $4, $5)
ON CONFLICT (id) DO UPDATE SET kind = $2, maker = $3, name = $4, doc = $5, at = now()`, m.ID, m.Kind, m.Maker, m.Name, doc); err != nil {
				return err
			}
		}
		return nil
	})
}

// KeepImport keeps models that were read from a file until somebody takes
// them; what nobody took within a day is forgotten.
func (s *Store) KeepImport(ctx context.Context, id string, models []gear.Model) error {
	doc, err := json.Marshal(models)
	if err != nil {
		return err
	}
	return s.within(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `DELETE FROM gear_imports WHERE at < now() - interval '1 day'`); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO gear_imports (id, models) VALUES ($1, $2) ON CONFLICT (id) DO NOTHING`, id, doc)
		return err
	})
}

// Import gives the models of a kept import.
func (s *Store) Import(ctx context.Context, id string) ([]gear.Model, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var doc []byte
	var models []gear.Model
	if err := s.db.GetContext(ctx, &doc, `SELECT models FROM gear_imports WHERE id = $1`, id); err != nil {
		return nil, known(err)
	}
	return models, json.Unmarshal(doc, &models)
}
