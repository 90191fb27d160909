-- +goose Up
-- What is typed into the search: maker, name and kind, in small letters.
ALTER TABLE models ADD COLUMN words text GENERATED ALWAYS AS (lower(maker || ' ' || name || ' ' || kind)) STORED;
CREATE INDEX models_listed ON models (kind, maker, name, id);

-- +goose Down
DROP INDEX models_listed;
ALTER TABLE models DROP COLUMN words;
