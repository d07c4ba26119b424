-- +goose Up
-- What is recorded as built and what is planned are apart: the jobs with entries are written in again when
-- the program next starts.
INSERT INTO register_due SELECT DISTINCT crew_id, job_id FROM register ON CONFLICT DO NOTHING;

-- +goose Down
DELETE FROM register WHERE kind = 'planned';
