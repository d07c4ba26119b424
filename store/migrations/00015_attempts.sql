-- +goose Up
-- An attempt is counted before it is checked, and taken back where it was not.
ALTER TABLE attempts ADD COLUMN id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY;

-- +goose Down
ALTER TABLE attempts DROP COLUMN id;
