-- +goose Up
-- How many of each model lie where.
CREATE TABLE stock (
    model text NOT NULL REFERENCES models (id) ON DELETE CASCADE,
    place text NOT NULL CHECK (place <> ''),
    count integer NOT NULL CHECK (count > 0),
    PRIMARY KEY (model, place)
);

-- +goose Down
DROP TABLE stock;
