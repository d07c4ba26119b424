-- +goose Up
-- The book of what came in, went out and was counted: rows are only ever added.
CREATE TABLE stock_moves (
    seq         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    crew_id     bigint NOT NULL REFERENCES crews (id) ON DELETE CASCADE,
    id          uuid   NOT NULL,                      -- made by who sends it: sent twice, it is there once
    move        jsonb  NOT NULL,
    UNIQUE (crew_id, id)
);
CREATE INDEX stock_moves_crew ON stock_moves (crew_id, seq);

-- +goose Down
DROP TABLE stock_moves;
