-- +goose Up
-- What was ticked off of a list of a job: who, when. Taken back, the line goes.
CREATE TABLE ticks (
    job_id bigint NOT NULL REFERENCES jobs ON DELETE CASCADE,
    list   text NOT NULL, -- as "by ear A1 out A"
    item   text NOT NULL,
    author text NOT NULL,
    at     timestamptz NOT NULL DEFAULT clock_timestamp(),
    PRIMARY KEY (job_id, list, item)
);

-- +goose Down
DROP TABLE ticks;
