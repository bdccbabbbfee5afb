-- +goose Up
-- The least day of a range was once written in a year that no calendar has.
UPDATE meeting_version SET content = replace(content::text, '"-2937836-09-26"', '""')::jsonb WHERE content::text LIKE '%"-2937836-09-26"%';
UPDATE happening SET facts = replace(facts::text, '"-2937836-09-26"', '""')::jsonb WHERE facts::text LIKE '%"-2937836-09-26"%';

-- A message can take back single dates by their RECURRENCE-IDs, and has a DTSTAMP of
-- its own: no two that differ have the same.
ALTER TABLE dispatch DROP CONSTRAINT dispatch_kind_check;
ALTER TABLE dispatch ADD CONSTRAINT dispatch_kind_check CHECK (kind IN ('invite', 'update', 'calloff', 'clear')),
    ADD COLUMN recurrence_ids timestamptz[] NOT NULL DEFAULT '{}',
    ADD COLUMN stamp timestamptz;

-- Which version the answer that holds was to: the newer one is told by that first.
ALTER TABLE participant ADD COLUMN answer_sequence int NOT NULL DEFAULT 0;
ALTER TABLE answer_on ADD COLUMN answer_sequence int NOT NULL DEFAULT 0;

-- Mail that came to the address of a meeting: answers, with what became of them, and
-- whatever else somebody wrote. digest makes the same mail one, however often it
-- comes. state is open while the organiser is to decide.
CREATE TABLE letter_in (
    id          uuid PRIMARY KEY,
    meeting_id  uuid NOT NULL REFERENCES meeting ON DELETE CASCADE,
    digest      bytea NOT NULL,
    from_name   text NOT NULL,
    from_email  text NOT NULL,
    signed_by   text NOT NULL DEFAULT '',
    subject     text NOT NULL,
    words       text NOT NULL,
    answers     jsonb NOT NULL DEFAULT '[]',
    why         text NOT NULL DEFAULT '',
    state       text NOT NULL CHECK (state IN ('taken', 'open', 'left')),
    arrived_at  timestamptz NOT NULL,
    raw         bytea,
    UNIQUE (meeting_id, digest)
);
CREATE INDEX letter_in_meeting ON letter_in (meeting_id, arrived_at DESC);

-- +goose Down
DROP TABLE letter_in;
ALTER TABLE answer_on DROP COLUMN answer_sequence;
ALTER TABLE participant DROP COLUMN answer_sequence;
DELETE FROM dispatch WHERE kind = 'clear';
ALTER TABLE dispatch DROP CONSTRAINT dispatch_kind_check, DROP COLUMN recurrence_ids, DROP COLUMN stamp;
ALTER TABLE dispatch ADD CONSTRAINT dispatch_kind_check CHECK (kind IN ('invite', 'update', 'calloff'));
