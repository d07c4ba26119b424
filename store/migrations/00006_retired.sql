-- +goose Up
ALTER TABLE shelf_parts ADD COLUMN retired boolean NOT NULL DEFAULT false;

-- +goose Down
ALTER TABLE shelf_parts DROP COLUMN retired;
