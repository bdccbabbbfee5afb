-- +goose Up
-- How often the address of somebody's own page was made anew: the ones before no longer hold.
ALTER TABLE participant ADD COLUMN page int NOT NULL DEFAULT 0 CHECK (page BETWEEN 0 AND 65535),
    -- The version of the meeting that their page last showed, 0 for none.
    ADD COLUMN page_seen int NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE participant DROP COLUMN page, DROP COLUMN page_seen;
