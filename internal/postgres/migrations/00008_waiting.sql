-- +goose Up
-- Who waits for a room, or for people, to be clear at the time on a sheet; one wait a
-- sheet, and it goes with it. people are those inside who are needed.
CREATE TABLE waiting (
    sheet_id   uuid PRIMARY KEY REFERENCES sheet ON DELETE CASCADE,
    person_id  uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    meeting_id uuid,
    room_id    uuid REFERENCES room ON DELETE CASCADE,
    people     uuid[] NOT NULL,
    starts     timestamptz NOT NULL,
    ends       timestamptz NOT NULL,
    since      timestamptz NOT NULL,
    turn_until timestamptz,
    state      text NOT NULL DEFAULT 'waits' CHECK (state IN ('waits', 'turn', 'passed'))
);
CREATE INDEX waiting_since ON waiting (since) WHERE state <> 'passed';

-- What is new can be about a sheet.
ALTER TABLE news ALTER COLUMN meeting_id DROP NOT NULL, ADD COLUMN sheet_id uuid REFERENCES sheet ON DELETE CASCADE;
ALTER TABLE news ADD CONSTRAINT news_about CHECK (meeting_id IS NOT NULL OR sheet_id IS NOT NULL);
CREATE INDEX news_sheet ON news (sheet_id) WHERE sheet_id IS NOT NULL;

-- Dates of which it was asked whether their rooms are still needed, and which are.
CREATE TABLE still_needed (
    meeting_id uuid NOT NULL REFERENCES meeting ON DELETE CASCADE,
    on_day     date NOT NULL,
    asked_at   timestamptz NOT NULL,
    kept_at    timestamptz,
    PRIMARY KEY (meeting_id, on_day)
);

-- +goose Down
DROP TABLE still_needed;
DELETE FROM news WHERE meeting_id IS NULL;
DROP INDEX news_sheet;
ALTER TABLE news DROP COLUMN sheet_id, ALTER COLUMN meeting_id SET NOT NULL;
DROP TABLE waiting;
