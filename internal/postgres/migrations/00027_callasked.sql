-- +goose Up
-- How often something was chosen for the call of a sheet: what a provider answers to an earlier
-- choice does not replace a later one.
ALTER TABLE sheet ADD COLUMN chosen bigint NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE sheet DROP COLUMN chosen;
