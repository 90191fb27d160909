-- +goose Up
-- Files of models that were read and shown, but not taken yet.
CREATE TABLE gear_imports (
    id     uuid PRIMARY KEY,
    models jsonb NOT NULL,
    at     timestamptz NOT NULL DEFAULT now()
);

-- +goose Down
DROP TABLE gear_imports;
