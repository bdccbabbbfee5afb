-- +goose Up
-- When a sheet goes out by itself, and why it did not.
ALTER TABLE sheet ADD COLUMN send_at timestamptz, ADD COLUMN send_fault text NOT NULL DEFAULT '';
CREATE INDEX sheet_unsent ON sheet (owner_id) WHERE send_fault <> '';

-- +goose Down
ALTER TABLE sheet DROP COLUMN send_at, DROP COLUMN send_fault;
