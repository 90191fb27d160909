-- +goose Up
-- Power-ups and shutdowns as they were done: the order, frozen when it began, and what happened,
-- which never changes.
CREATE TABLE runs (
    id       bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    job_id   bigint NOT NULL REFERENCES jobs ON DELETE CASCADE,
    version  integer NOT NULL, -- of the set-up's form and that of its events
    setup    jsonb NOT NULL,
    author   text NOT NULL,
    at       timestamptz NOT NULL DEFAULT clock_timestamp()
);
CREATE INDEX runs_of ON runs (job_id, id);
CREATE TABLE run_events (
    run     bigint NOT NULL REFERENCES runs ON DELETE CASCADE,
    seq     integer NOT NULL,
    command uuid NOT NULL,
    event   jsonb NOT NULL,
    at      timestamptz NOT NULL DEFAULT clock_timestamp(),
    PRIMARY KEY (run, seq)
);

-- +goose Down
DROP TABLE run_events, runs;
