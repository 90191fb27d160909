-- +goose Up
-- Every act that changes anything bears an id made by whoever asks for it, and
-- is made once: its row comes first in the transaction, so that the same act
-- sent twice waits here for the first and then finds its result.
CREATE TABLE commands (
    id      uuid PRIMARY KEY,
    act     text NOT NULL,            -- as "begin a job"
    content text NOT NULL DEFAULT '', -- a digest of what was sent with it
    result  text NOT NULL DEFAULT '', -- as the name of the job that it began
    at      timestamptz NOT NULL DEFAULT now()
);
INSERT INTO commands (id, act, result, at)
SELECT DISTINCT ON (r.command) r.command, 'before', j.slug, r.at
FROM revisions r JOIN jobs j ON j.id = r.job_id ORDER BY r.command, r.at;

ALTER TABLE jobs
    ADD COLUMN archived_at timestamptz,
    ADD COLUMN deleted_at  timestamptz,
    ADD COLUMN words text GENERATED ALWAYS AS (lower(title || ' ' || place)) STORED;
CREATE INDEX jobs_listed ON jobs (on_date DESC, id DESC);

ALTER TABLE revisions
    ADD COLUMN version integer NOT NULL DEFAULT 1, -- of the document
    ADD COLUMN page    uuid,                       -- the page that sent the edit
    -- the edit as data; null for what began a job, and for edits of before
    ADD COLUMN edit    jsonb,
    ADD COLUMN brief   jsonb GENERATED ALWAYS AS (rig->'brief') STORED;

-- What the rules said of a revision, so that the list of jobs need not survey
-- every rig. It is of the rules and the row (by its xmin) that it names, and of
-- no other.
CREATE TABLE verdicts (
    job_id  bigint NOT NULL,
    number  integer NOT NULL,
    stamp   text NOT NULL,
    rules   text NOT NULL,
    verdict jsonb NOT NULL,
    worst   integer NOT NULL, -- 0 fine to 3 stop, 9 cannot be read
    PRIMARY KEY (job_id, number),
    FOREIGN KEY (job_id, number) REFERENCES revisions ON DELETE CASCADE
);

-- A revision that waited for another is later than it.
ALTER TABLE revisions ALTER COLUMN at SET DEFAULT clock_timestamp();

-- Undo and redo, archiving and the like: what was done to a job beside its
-- edits, by whom and when.
CREATE TABLE moves (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    job_id      bigint NOT NULL REFERENCES jobs ON DELETE CASCADE,
    command     uuid NOT NULL,
    said        text NOT NULL,
    from_number integer NOT NULL,
    to_number   integer NOT NULL,
    author      text NOT NULL,
    at          timestamptz NOT NULL DEFAULT clock_timestamp()
);
CREATE INDEX moves_of ON moves (job_id, id);

-- The library has a history as rigs have.
ALTER TABLE models
    ADD COLUMN head        integer NOT NULL DEFAULT 1,
    ADD COLUMN archived_at timestamptz;
CREATE TABLE model_revisions (
    model   text NOT NULL REFERENCES models (id) ON DELETE CASCADE,
    number  integer NOT NULL,
    parent  integer,
    version integer NOT NULL DEFAULT 1,
    doc     jsonb NOT NULL,
    said    text NOT NULL,
    author  text NOT NULL,
    command uuid NOT NULL,
    at      timestamptz NOT NULL DEFAULT clock_timestamp(),
    PRIMARY KEY (model, number)
);
INSERT INTO model_revisions (model, number, doc, said, author, command, at)
SELECT id, 1, doc, 'As it was', '', '00000000-0000-0000-0000-000000000000', at FROM models;
ALTER TABLE models ADD COLUMN version integer NOT NULL DEFAULT 1;
ALTER TABLE gear_imports ADD COLUMN bases jsonb NOT NULL DEFAULT '{}';

-- What was done to the stock, a row an act and below it a row a holding.
CREATE TABLE stock_acts (
    id      bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    command uuid NOT NULL,
    said    text NOT NULL,
    author  text NOT NULL,
    undoes  bigint REFERENCES stock_acts,
    at      timestamptz NOT NULL DEFAULT clock_timestamp()
);
CREATE TABLE stock_changes (
    act    bigint NOT NULL REFERENCES stock_acts ON DELETE CASCADE,
    model  text NOT NULL,
    place  text NOT NULL,
    before integer NOT NULL,
    after  integer NOT NULL,
    PRIMARY KEY (act, model, place)
);
CREATE INDEX stock_changes_of ON stock_changes (model, place, act);

-- When all of it was last copied away.
CREATE TABLE backups (
    id   bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    file text NOT NULL,
    at   timestamptz NOT NULL DEFAULT now()
);

-- +goose Down
DROP TABLE verdicts, backups, stock_changes, stock_acts, model_revisions, moves, commands;
ALTER TABLE gear_imports DROP COLUMN bases;
ALTER TABLE models DROP COLUMN head, DROP COLUMN archived_at, DROP COLUMN version;
ALTER TABLE revisions DROP COLUMN version, DROP COLUMN page, DROP COLUMN edit, DROP COLUMN brief;
DROP INDEX jobs_listed;
ALTER TABLE jobs DROP COLUMN archived_at, DROP COLUMN deleted_at, DROP COLUMN words;
