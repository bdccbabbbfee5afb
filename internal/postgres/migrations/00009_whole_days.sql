-- +goose Up
-- What leaves somebody's time clear is in their week all the same.
ALTER TABLE busy DROP CONSTRAINT busy_kind_check;
ALTER TABLE busy ADD CONSTRAINT busy_kind_check CHECK (kind IN ('busy', 'maybe', 'leave', 'free'));

-- +goose Down
DELETE FROM busy WHERE kind = 'free';
ALTER TABLE busy DROP CONSTRAINT busy_kind_check;
ALTER TABLE busy ADD CONSTRAINT busy_kind_check CHECK (kind IN ('busy', 'maybe', 'leave'));
