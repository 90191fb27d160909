-- +goose Up
-- The mains meter that a job's circuits are read by, and what it read: events of the show,
-- never changed. What was typed off a meter in the hand stands among them.
CREATE TABLE meters (
    job_id  bigint PRIMARY KEY REFERENCES jobs ON DELETE CASCADE,
    address text NOT NULL,
    author  text NOT NULL,
    at      timestamptz NOT NULL DEFAULT clock_timestamp()
);
CREATE TABLE meter_readings (
    job_id bigint NOT NULL REFERENCES jobs ON DELETE CASCADE,
    part   text NOT NULL, -- of the supply, by its name then
    at     timestamptz NOT NULL,
    volts  double precision,
    amps   double precision,
    hertz  double precision,
    author text NOT NULL,
    PRIMARY KEY (job_id, part, at)
);
-- Photographs of parts of the supply: an outlet, where it is, what its breaker looks like.
CREATE TABLE supply_photos (
    job_id bigint NOT NULL REFERENCES jobs ON DELETE CASCADE,
    part   text NOT NULL,
    photo  bigint NOT NULL REFERENCES photos,
    PRIMARY KEY (job_id, part, photo)
);

-- +goose Down
DROP TABLE supply_photos, meter_readings, meters;
