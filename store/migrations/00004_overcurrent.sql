-- +goose Up
-- Fuses, breakers and disconnects together are called overcurrent devices.
UPDATE shelf_parts SET kind = 'overcurrent' WHERE kind = 'protection';

-- +goose Down
UPDATE shelf_parts SET kind = 'protection' WHERE kind = 'overcurrent';
