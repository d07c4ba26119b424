-- +goose Up
-- Who came in, took data out or was refused: for a lead to read.
CREATE TABLE audit (
    id        bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    crew_id   bigint NOT NULL REFERENCES crews (id) ON DELETE CASCADE,
    at        timestamptz NOT NULL,
    person_id bigint,
    who       text NOT NULL,
    act       text NOT NULL,
    about     text NOT NULL,
    outcome   text NOT NULL,
    address   text NOT NULL
);
CREATE INDEX audit_crew_id_id_idx ON audit (crew_id, id);

-- +goose Down
DROP TABLE audit;
