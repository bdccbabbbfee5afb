-- +goose Up
-- Answers to single dates of what people outside invite to, and which answers are on their way: the
-- dates by when they were meant first (RECURRENCE-ID), in Unix seconds, 0 for all.
ALTER TABLE invitation ADD COLUMN answers jsonb NOT NULL DEFAULT '[]', ADD COLUMN replying bigint[] NOT NULL DEFAULT '{}';
UPDATE invitation SET replying = '{0}' WHERE reply = 'queued';
ALTER TABLE invitation_date ADD COLUMN answer text NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE invitation DROP COLUMN answers, DROP COLUMN replying;
ALTER TABLE invitation_date DROP COLUMN answer;
