-- +goose Up
ALTER TABLE crews ADD COLUMN calendar jsonb;  -- who works when, and how many vans there are; null: not said yet

-- +goose Down
ALTER TABLE crews DROP COLUMN calendar;
