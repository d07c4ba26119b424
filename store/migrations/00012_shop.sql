-- +goose Up
-- Where an item lies, when more of it is ordered, and from whom.
CREATE TABLE stock_cards (
    crew_id     bigint NOT NULL REFERENCES crews (id) ON DELETE CASCADE,
    item        text   NOT NULL,
    card        jsonb  NOT NULL,
    PRIMARY KEY (crew_id, item)
);
CREATE TABLE suppliers (
    crew_id     bigint NOT NULL REFERENCES crews (id) ON DELETE CASCADE,
    name        text   NOT NULL,
    supplier    jsonb  NOT NULL,
    PRIMARY KEY (crew_id, name)
);

-- +goose Down
DROP TABLE suppliers;
DROP TABLE stock_cards;
