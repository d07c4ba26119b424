-- +goose Up
-- What an edit takes back is the difference of the documents before and after
-- it: changes written in an older version's words could not be applied.
ALTER TABLE job_revisions DROP COLUMN inverse;

-- +goose Down
ALTER TABLE job_revisions ADD COLUMN inverse jsonb NOT NULL DEFAULT '[]';
