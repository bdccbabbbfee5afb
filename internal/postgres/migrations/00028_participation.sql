-- +goose Up
-- When a date of a series moved last, in Unix seconds, 0 where it never did: what was answered to
-- all dates until then was no answer to it.
ALTER TABLE answer_on ADD COLUMN moved bigint NOT NULL DEFAULT 0;
UPDATE answer_on a SET moved = coalesce((SELECT ceil(extract(epoch FROM min(v.stamp)))::bigint FROM participant p
    JOIN meeting_version v ON v.meeting_id = p.meeting_id WHERE p.id = a.participant_id AND (v.content->>'sequence')::int = a.sent_sequence), 1)
WHERE a.answer = 'NEEDS-ACTION';

-- The version that called off every date somebody was invited to, 0 for none: their page says so,
-- as it was before.
ALTER TABLE participant ADD COLUMN off_version int NOT NULL DEFAULT 0;

-- Who is asked to which date, and what they answered: a row for each of those invited to each date
-- that is written down, as the core says it. waits tells that the date waits for their answer.
CREATE TABLE participation (
    participant_id uuid NOT NULL REFERENCES participant ON DELETE CASCADE,
    occurrence_id  uuid NOT NULL REFERENCES occurrence ON DELETE CASCADE,
    meeting_id     uuid NOT NULL,
    person_id      uuid,
    on_day         date NOT NULL,
    starts         timestamptz NOT NULL,
    ends           timestamptz NOT NULL CHECK (ends > starts),
    needed         boolean NOT NULL,
    answer         text NOT NULL CHECK (answer IN ('NEEDS-ACTION', 'ACCEPTED', 'TENTATIVE', 'DECLINED')),
    waits          boolean NOT NULL,
    PRIMARY KEY (participant_id, occurrence_id)
);
CREATE INDEX participation_of ON participation (occurrence_id);
CREATE INDEX participation_waits ON participation (person_id, ends) WHERE waits;
CREATE INDEX participation_declined ON participation (person_id, starts) WHERE answer = 'DECLINED';
CREATE INDEX participation_silent ON participation (starts) WHERE waits AND needed;

-- Meetings whose rows are still to be written: those from before there were any.
CREATE TABLE participation_due (meeting_id uuid PRIMARY KEY REFERENCES meeting ON DELETE CASCADE);
INSERT INTO participation_due SELECT id FROM meeting WHERE called_off_at IS NULL;

-- +goose Down
DROP TABLE participation_due, participation;
ALTER TABLE participant DROP COLUMN off_version;
ALTER TABLE answer_on DROP COLUMN moved;
