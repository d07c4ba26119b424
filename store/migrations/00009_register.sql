-- +goose Up
-- What of the recorded jobs the register finds by: written with every revision that changes it.
CREATE TABLE register (
    crew_id    bigint NOT NULL,
    job_id     uuid   NOT NULL,
    number     int    NOT NULL,
    rig        text   NOT NULL,
    kind       text   NOT NULL,
    about      text   NOT NULL,
    what       text   NOT NULL,
    text       text   NOT NULL,
    value      double precision,
    day        date,
    beginnings text[] NOT NULL,
    FOREIGN KEY (crew_id, job_id) REFERENCES jobs (crew_id, id) ON DELETE CASCADE
);
CREATE INDEX ON register (crew_id, job_id);
-- A word that most jobs have is found along the order in which it is shown.
CREATE INDEX ON register (crew_id, kind, number DESC, about);
CREATE INDEX ON register (crew_id, kind, day DESC, number DESC);
CREATE INDEX ON register (crew_id, kind, day, number);
CREATE INDEX ON register (crew_id, rig) WHERE kind = 'signed';
CREATE INDEX ON register USING gin (beginnings);
-- Jobs of before the register are written into it when the program next starts.
CREATE TABLE register_due (crew_id bigint NOT NULL, job_id uuid NOT NULL, PRIMARY KEY (crew_id, job_id), FOREIGN KEY (crew_id, job_id) REFERENCES jobs (crew_id, id) ON DELETE CASCADE);
INSERT INTO register_due SELECT crew_id, id FROM jobs;

-- +goose Down
DROP TABLE register_due, register;
