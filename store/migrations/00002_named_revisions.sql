-- +goose Up
-- A revision worth finding again bears a name, as "soundcheck".
ALTER TABLE revisions ADD COLUMN name text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE revisions DROP COLUMN name;
