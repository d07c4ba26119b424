-- +goose Up
ALTER TABLE jobs ADD COLUMN lead text NOT NULL DEFAULT '', ADD COLUMN archived boolean NOT NULL DEFAULT false;
CREATE TABLE crew (
  id       smallint PRIMARY KEY DEFAULT 1 CHECK (id = 1), -- one row: the crew of this server
  currency text     NOT NULL DEFAULT ''                    -- by ISO 4217; empty: not said
);
INSERT INTO crew DEFAULT VALUES;

-- +goose Down
DROP TABLE crew;
ALTER TABLE jobs DROP COLUMN lead, DROP COLUMN archived;
