-- +goose Up
-- What the sender of a message wrote before it, and the subject that they gave it.
ALTER TABLE dispatch ADD COLUMN cover text NOT NULL DEFAULT '', ADD COLUMN subject text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE dispatch DROP COLUMN cover, DROP COLUMN subject;
