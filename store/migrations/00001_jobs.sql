-- +goose Up
CREATE TABLE jobs (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    slug    text NOT NULL UNIQUE,
    title   text NOT NULL,
    place   text NOT NULL,
    on_date date,
    head    integer NOT NULL
);

-- Every state a rig ever had. Undo moves jobs.head to the parent; nothing is
-- taken away.
CREATE TABLE revisions (
    job_id  bigint NOT NULL REFERENCES jobs ON DELETE CASCADE,
    number  integer NOT NULL,
    parent  integer,
    rig     jsonb NOT NULL,
    said    text NOT NULL,
    author  text NOT NULL,
    command uuid NOT NULL,
    at      timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (job_id, number),
    UNIQUE (job_id, command)
);

CREATE TABLE models (
    id    text PRIMARY KEY,
    kind  text NOT NULL,
    maker text NOT NULL,
    name  text NOT NULL,
    doc   jsonb NOT NULL,
    at    timestamptz NOT NULL DEFAULT now()
);

-- +goose Down
DROP TABLE models;
DROP TABLE revisions;
DROP TABLE jobs;
