-- +goose Up
-- How many things of a job are planned and not finished; worked out again with the next revision.
ALTER TABLE jobs ADD COLUMN unfinished integer NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE jobs DROP COLUMN unfinished;
