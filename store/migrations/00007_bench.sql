-- +goose Up
-- Sessions of the thermal bench: the set-up as it stands, and what happened, which
-- never changes: what was wrong is withdrawn by an event of its own.
CREATE TABLE bench_sessions (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    model   text NOT NULL,
    version integer NOT NULL, -- of the set-up's form and that of its events
    setup   jsonb NOT NULL,
    author  text NOT NULL,
    at      timestamptz NOT NULL DEFAULT clock_timestamp()
);
CREATE INDEX bench_sessions_of ON bench_sessions (model, id);
CREATE TABLE bench_events (
    session bigint NOT NULL REFERENCES bench_sessions ON DELETE CASCADE,
    seq     integer NOT NULL,
    command uuid NOT NULL,
    event   jsonb NOT NULL,
    at      timestamptz NOT NULL DEFAULT clock_timestamp(),
    PRIMARY KEY (session, seq)
);

-- +goose Down
DROP TABLE bench_events, bench_sessions;
