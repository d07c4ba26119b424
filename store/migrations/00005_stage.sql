-- +goose Up
ALTER TABLE jobs RENAME COLUMN next_stop TO next_stage;

-- +goose Down
ALTER TABLE jobs RENAME COLUMN next_stage TO next_stop;
