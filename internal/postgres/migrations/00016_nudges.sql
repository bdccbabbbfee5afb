-- +goose Up
-- Whether who needs to answer and says nothing is asked again by itself, once before the meeting.
ALTER TABLE person ADD COLUMN nudges boolean NOT NULL DEFAULT false;

-- +goose Down
ALTER TABLE person DROP COLUMN nudges;
