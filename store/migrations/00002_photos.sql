-- +goose Up
-- A photo's bytes; what it shows and of what stands in the job's document. Kept
-- even when a job no longer shows it: an undo brings it back.
CREATE TABLE photos (
    id     uuid PRIMARY KEY,
    job_id uuid NOT NULL REFERENCES jobs (id),
    kind   text NOT NULL,
    data   bytea NOT NULL
);

-- +goose Down
DROP TABLE photos;
