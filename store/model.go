package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"largo/core/gear"
)

// Kept is a model of the library with its place in its own history.
type Kept struct {
	gear.Model
	Head     int // the revision in force
	CanUndo  bool
	CanRedo  bool
	Archived bool
}

// docRow is a stored model.
type docRow struct {
	Doc     []byte
	Version int
}

// readModels reads stored models; one that cannot be read is left out and
// counted, so that a single bad document does not take the library away.
func (s *Store) readModels(rows []docRow) (models []gear.Model, unread int) {
	models = make([]gear.Model, 0, len(rows))
	for _, r := range rows {
		m, err := s.models.read(r.Doc, r.Version)
		if err != nil {
			unread++
			continue
		}
		models = append(models, m)
	}
	return models, unread
}

// Models lists the gear library by kind, maker and name, without what was
// archived.
func (s *Store) Models(ctx context.Context) ([]gear.Model, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var rows []docRow
	if err := s.db.SelectContext(ctx, &rows,
		`SELECT doc, version FROM models WHERE archived_at IS NULL ORDER BY kind, maker, name, id`); err != nil {
		return nil, known(err)
	}
	models, _ := s.readModels(rows)
	return models, nil
}

// AllModels lists the library with what was archived.
func (s *Store) AllModels(ctx context.Context) ([]gear.Model, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var rows []docRow
	if err := s.db.SelectContext(ctx, &rows,
		`SELECT doc, version FROM models ORDER BY kind, maker, name, id`); err != nil {
		return nil, known(err)
	}
	models, _ := s.readModels(rows)
	return models, nil
}

// Found is what a search of the library found.
type Found struct {
	Models []gear.Model      // at most so many
	All    int               // how many there are
	Kinds  map[gear.Kind]int // how many of each kind hold what was typed
	Unread []string          // ids of those among them that cannot be read
}

// Wanted is what is searched for in the library.
type Wanted struct {
	Typed    string    // every word of it
	Kind     gear.Kind // "" for all
	Archived bool      // in the archive, else in the library without it
}

// SearchModels lists the models wanted, at most so many, by kind, maker and name.
func (s *Store) SearchModels(ctx context.Context, w Wanted, most int) (f Found, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	words := likeWords(w.Typed)
	const found = ` FROM models WHERE words LIKE ALL ($1::text[]) AND (archived_at IS NOT NULL) = $2`
	var counts []struct {
		Kind  gear.Kind
		Count int
	}
	if err := s.db.SelectContext(ctx, &counts, `SELECT kind, count(*)`+found+` GROUP BY kind`, words,
		w.Archived); err != nil {
		return f, known(err)
	}
	f.Kinds = make(map[gear.Kind]int, len(counts))
	for _, c := range counts {
		if f.Kinds[c.Kind] = c.Count; w.Kind == "" || w.Kind == c.Kind {
			f.All += c.Count
		}
	}
	var rows []struct {
		ID string
		docRow
	}
	if err := s.db.SelectContext(ctx, &rows, `SELECT id, doc, version`+found+`
	AND ($3 = '' OR kind = $3) ORDER BY kind, maker, name, id LIMIT $4`, words, w.Archived, w.Kind, most); err != nil {
		return f, known(err)
	}
	for _, r := range rows {
		if m, err := s.models.read(r.Doc, r.Version); err == nil {
			f.Models = append(f.Models, m)
		} else {
			f.Unread = append(f.Unread, r.ID)
		}
	}
	return f, nil
}

// ModelNames lists the models that hold every word typed as SearchModels does,
// with id, kind, maker and name alone: enough to choose one by.
func (s *Store) ModelNames(ctx context.Context, typed string, most int) (models []gear.Model, all int, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	words := likeWords(typed)
	if err := s.db.GetContext(ctx, &all,
		`SELECT count(*) FROM models WHERE words LIKE ALL ($1::text[]) AND archived_at IS NULL`, words); err != nil {
		return nil, 0, known(err)
	}
	err = s.db.SelectContext(ctx, &models, `
SELECT id, kind, maker, name FROM models WHERE words LIKE ALL ($1::text[]) AND archived_at IS NULL
	ORDER BY kind, maker, name, id LIMIT $2`, words, most)
	return models, all, known(err)
}

// MeantModel finds the model that somebody means by what they typed of its title: the
// one of just that title, else the only one that holds every word.
func (s *Store) MeantModel(ctx context.Context, typed string) (gear.Model, bool, error) {
	const few = 40
	models, all, err := s.ModelNames(ctx, typed, few)
	if err != nil || strings.TrimSpace(typed) == "" {
		return gear.Model{}, false, err
	}
	meant := slices.IndexFunc(models, func(m gear.Model) bool {
		return strings.EqualFold(m.Title(), typed) || strings.EqualFold(m.Name, typed)
	})
	if meant < 0 && all == 1 {
		meant = 0
	}
	if meant < 0 {
		return gear.Model{}, false, nil
	}
	k, err := s.Model(ctx, models[meant].ID)
	return k.Model, err == nil, err
}

// mostWords is how many words of a search count.
const mostWords = 12

// likeWords makes a pattern of each word typed.
func likeWords(typed string) []string {
	words := strings.Fields(strings.ToLower(typed))
	words = words[:min(len(words), mostWords)]
	for i, w := range words {
		words[i] = "%" + likeEscape.Replace(w) + "%"
	}
	return words
}

// likeEscape takes the meaning from the wildcards of LIKE.
var likeEscape = strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`)

// Model finds a model of the library, in the archive too. One that cannot be
// read is ErrUnreadable.
func (s *Store) Model(ctx context.Context, id string) (Kept, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var row struct {
		docRow
		Head     int
		Archived bool
		CanUndo  bool `db:"can_undo"`
		CanRedo  bool `db:"can_redo"`
	}
	if err := s.db.GetContext(ctx, &row, `
SELECT m.doc, m.version, m.head, m.archived_at IS NOT NULL AS archived,
       EXISTS (SELECT FROM model_revisions r WHERE r.model = m.id AND r.number = m.head
       	AND r.parent IS NOT NULL) AS can_undo,
       EXISTS (SELECT FROM model_revisions r WHERE r.model = m.id AND r.parent = m.head) AS can_redo
FROM models m WHERE m.id = $1`, id); err != nil {
		return Kept{}, known(err)
	}
	k := Kept{Head: row.Head, Archived: row.Archived, CanUndo: row.CanUndo, CanRedo: row.CanRedo}
	var err error
	k.Model, err = s.models.read(row.Doc, row.Version)
	return k, err
}

// Bases are the revisions of some models that are in force, by id; a model that
// the library lacks has none.
func (s *Store) Bases(ctx context.Context, ids []string) (map[string]int, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var rows []struct {
		ID   string
		Head int
	}
	if err := s.db.SelectContext(ctx, &rows, `SELECT id, head FROM models WHERE id = any($1)`, ids); err != nil {
		return nil, known(err)
	}
	bases := make(map[string]int, len(rows))
	for _, r := range rows {
		bases[r.ID] = r.Head
	}
	return bases, nil
}

// ModelChange is a model to be kept, and the revision that it was made on: 0
// for one that the library should not have yet.
type ModelChange struct {
	Model gear.Model
	Base  int
}

// SaveModels keeps models: all or none. One that has moved on from its base,
// or is there where it should be new, is ErrConflict.
func (s *Store) SaveModels(ctx context.Context, c Command, said string, changes ...ModelChange) error {
	c.Act = "save models"
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		for _, x := range changes {
			if err := saveModel(ctx, tx, c, said, x); err != nil {
				return "", err
			}
		}
		return "", nil
	})
	return err
}

func saveModel(ctx context.Context, tx *sqlx.Tx, c Command, said string, x ModelChange) error {
	m := x.Model
	doc, err := json.Marshal(m)
	if err != nil {
		return err
	}
	if x.Base == 0 {
		made, err := tx.ExecContext(ctx, `
INSERT INTO models (id, kind, maker, name, doc, version, head) VALUES ($1, $2, $3, $4, $5, $6, 1)
	ON CONFLICT (id) DO NOTHING`,
			m.ID, m.Kind, m.Maker, m.Name, doc, modelForm.version)
		if err != nil {
			return err
		}
		if n, err := made.RowsAffected(); err != nil || n == 0 {
			return errors.Join(err, fmt.Errorf("%w: the library has %s already", ErrConflict, m.Title()))
		}
		return insertModelRevision(ctx, tx, m.ID, 1, nil, doc, said, c)
	}
	head, err := lockModel(ctx, tx, m.ID)
	if err != nil {
		return err
	}
	if head != x.Base {
		return fmt.Errorf("%w: %s", ErrConflict, m.Title())
	}
	var number int
	if err := tx.GetContext(ctx, &number, `SELECT max(number) + 1 FROM model_revisions WHERE model = $1`,
		m.ID); err != nil {
		return err
	}
	if err := insertModelRevision(ctx, tx, m.ID, number, &head, doc, said, c); err != nil {
		return err
	}
	return setModelHead(ctx, tx, m.ID, number)
}

func insertModelRevision(ctx context.Context, tx *sqlx.Tx, id string, number int, parent *int, doc []byte,
	said string, c Command) error {
	_, err := tx.ExecContext(ctx, `
INSERT INTO model_revisions (model, number, parent, version, doc, said, author, command)
	VALUES ($1, $2, $3, $4, $5, $6, $7, $8)`,
		id, number, parent, modelForm.version, doc, said, c.Author, c.ID)
	return err
}

func lockModel(ctx context.Context, tx *sqlx.Tx, id string) (head int, err error) {
	err = tx.QueryRowxContext(ctx, `SELECT head FROM models WHERE id = $1 FOR UPDATE`, id).Scan(&head)
	return head, err
}

// setModelHead puts a revision of a model in force.
func setModelHead(ctx context.Context, tx *sqlx.Tx, id string, number int) error {
	_, err := tx.ExecContext(ctx, `
UPDATE models m
	SET head = r.number, doc = r.doc, version = r.version, kind = r.doc->>'kind',
		maker = r.doc->>'maker', name = r.doc->>'name', at = now()
FROM model_revisions r WHERE m.id = $1 AND r.model = $1 AND r.number = $2`, id, number)
	return err
}

// UndoModel goes back to what a model was before the revision in force.
func (s *Store) UndoModel(ctx context.Context, id string, base int, c Command) error {
	return s.moveModel(ctx, id, base, c, "undo",
		`SELECT parent FROM model_revisions WHERE model = $1 AND number = $2 AND parent IS NOT NULL`)
}

// RedoModel goes forward again.
func (s *Store) RedoModel(ctx context.Context, id string, base int, c Command) error {
	return s.moveModel(ctx, id, base, c, "redo",
		`SELECT number FROM model_revisions WHERE model = $1 AND parent = $2 ORDER BY number DESC LIMIT 1`)
}

func (s *Store) moveModel(ctx context.Context, id string, base int, c Command, act, to string) error {
	c.Act = act + " model " + id
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		head, err := lockModel(ctx, tx, id)
		if err != nil {
			return "", err
		}
		number, err := neighbour(ctx, tx, to, id, head, base)
		if err != nil || number == 0 {
			return "", err
		}
		return "", setModelHead(ctx, tx, id, number)
	})
	return err
}

// ArchiveModel puts a model into the archive, where it is offered no more, or
// takes it back. Rigs and stock that name it are left alone.
func (s *Store) ArchiveModel(ctx context.Context, id string, archive bool, c Command) error {
	c.Act = "archive model " + id
	_, err := s.once(ctx, c, func(ctx context.Context, tx *sqlx.Tx) (string, error) {
		res, err := tx.ExecContext(ctx, `UPDATE models SET archived_at = CASE WHEN $2 THEN now() END WHERE id = $1`, id,
			archive)
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

// ModelLine is one line of a model's history.
type ModelLine struct {
	Number int
	Said   string
	Author string
	At     time.Time
}

// ModelHistory lists the latest revisions of a model, newest first.
func (s *Store) ModelHistory(ctx context.Context, id string, most int) ([]ModelLine, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var lines []ModelLine
	err := s.db.SelectContext(ctx, &lines,
		`SELECT number, said, author, at FROM model_revisions WHERE model = $1 ORDER BY number DESC LIMIT $2`, id, most)
	return lines, known(err)
}

// Import is a file of models that was read and shown, but not taken yet.
type Import struct {
	Models []gear.Model
	Bases  map[string]int // what each was compared with
}

// KeepImport keeps models that were read from a file until somebody takes
// them; what nobody took within a day is forgotten.
func (s *Store) KeepImport(ctx context.Context, id string, i Import) error {
	models, err := json.Marshal(i.Models)
	if err != nil {
		return err
	}
	bases, err := json.Marshal(i.Bases)
	if err != nil {
		return err
	}
	return s.within(ctx, func(ctx context.Context, tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `DELETE FROM gear_imports WHERE at < now() - interval '1 day'`); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx,
			`INSERT INTO gear_imports (id, models, bases) VALUES ($1, $2, $3) ON CONFLICT (id) DO NOTHING`, id, models, bases)
		return err
	})
}

// Import gives a kept import.
func (s *Store) Import(ctx context.Context, id string) (i Import, err error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var row struct{ Models, Bases []byte }
	if err := s.db.GetContext(ctx, &row, `SELECT models, bases FROM gear_imports WHERE id = $1`, id); err != nil {
		return i, known(err)
	}
	if err := json.Unmarshal(row.Models, &i.Models); err != nil {
		return i, err
	}
	return i, json.Unmarshal(row.Bases, &i.Bases)
}
