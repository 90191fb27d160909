-- +goose Up
-- Photographs, made small before they come here. What they belong to refers to them.
CREATE TABLE photos (
    id     bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    jpeg   bytea NOT NULL,
    author text NOT NULL,
    at     timestamptz NOT NULL DEFAULT clock_timestamp()
);

-- +goose Down
DROP TABLE photos;
