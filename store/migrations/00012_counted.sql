-- +goose Up
-- What was counted back of a job: of each model how many came, and how many of those are faulty.
CREATE TABLE counted (
    job_id bigint NOT NULL REFERENCES jobs ON DELETE CASCADE,
    model  text NOT NULL,
    back   integer NOT NULL,
    faulty integer NOT NULL,
    author text NOT NULL,
    at     timestamptz NOT NULL DEFAULT clock_timestamp(),
    PRIMARY KEY (job_id, model)
);

-- +goose Down
DROP TABLE counted;
