-- +goose Up
-- Reminders that somebody invited set for themselves, in minutes before each date; what was sent is
-- kept for each of them as well.
CREATE TABLE own_reminder (
    participant_id uuid NOT NULL REFERENCES participant ON DELETE CASCADE,
    before         int NOT NULL CHECK (before > 0),
    mail           boolean NOT NULL,
    set_at         timestamptz NOT NULL,
    PRIMARY KEY (participant_id, before, mail)
);
CREATE INDEX own_reminder_mail ON own_reminder (participant_id) WHERE mail;
ALTER TABLE reminded ADD COLUMN participant_id uuid NOT NULL DEFAULT '00000000-0000-0000-0000-000000000000';
ALTER TABLE reminded DROP CONSTRAINT reminded_pkey, ADD PRIMARY KEY (meeting_id, on_day, before, starts, participant_id);

-- +goose Down
DELETE FROM reminded WHERE participant_id <> '00000000-0000-0000-0000-000000000000';
ALTER TABLE reminded DROP CONSTRAINT reminded_pkey, DROP COLUMN participant_id, ADD PRIMARY KEY (meeting_id, on_day, before, starts);
DROP TABLE own_reminder;
