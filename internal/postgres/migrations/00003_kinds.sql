-- +goose Up
-- What is asked often of a meeting is a column, not a look into its content.
ALTER TABLE meeting
    ADD COLUMN zone text NOT NULL DEFAULT '',
    ADD COLUMN private boolean NOT NULL DEFAULT false,
    ADD COLUMN related_to text NOT NULL DEFAULT '',
    ADD COLUMN repeats boolean NOT NULL DEFAULT false;
UPDATE meeting m SET zone = v.content->>'zone', private = (v.content->>'private')::boolean,
    related_to = coalesce(v.content->>'relatedTo', ''), repeats = coalesce(v.content->'series', 'null') <> 'null'
FROM meeting_version v WHERE v.meeting_id = m.id AND v.version = m.version;
CREATE INDEX meeting_related ON meeting (related_to) WHERE related_to <> '';
CREATE INDEX meeting_zone ON meeting (zone) WHERE called_off_at IS NULL;
DROP INDEX meeting_version_related;

-- The shape of what a version holds has a number; each is read for ever.
ALTER TABLE meeting_version ADD COLUMN schema smallint NOT NULL DEFAULT 1;

-- Busy time says what it comes from: a meeting, leave, later a calendar elsewhere.
-- A row is a day long at the most, so that what reaches into a window begins at
-- most a day before it.
ALTER TABLE busy DROP CONSTRAINT busy_length;
ALTER TABLE busy
    ADD COLUMN source text NOT NULL DEFAULT 'meeting' CHECK (source IN ('meeting', 'leave', 'calendar')),
    ADD COLUMN meeting_id uuid,
    ADD COLUMN until timestamptz;
UPDATE busy b SET meeting_id = o.meeting_id FROM occurrence o WHERE o.id = b.occurrence_id;
UPDATE busy SET source = 'leave' WHERE occurrence_id IS NULL;
INSERT INTO busy (person_id, occurrence_id, during, kind, source, meeting_id)
SELECT person_id, occurrence_id, tstzrange(s, least(s + interval '24 hours', upper(during))), kind, source, meeting_id
FROM busy, generate_series(lower(during), upper(during) - interval '1 second', interval '24 hours') s
WHERE upper(during) - lower(during) > interval '24 hours';
DELETE FROM busy WHERE upper(during) - lower(during) > interval '24 hours';
ALTER TABLE busy ADD CONSTRAINT busy_length CHECK (upper(during) - lower(during) <= interval '24 hours');
-- Whose time a meeting takes is in the index: a day of many people is read from it
-- alone.
DROP INDEX busy_person;
CREATE INDEX busy_person ON busy (person_id, lower(during)) INCLUDE (during, kind, meeting_id, until);
DROP INDEX busy_occurrence;
CREATE INDEX busy_occurrence ON busy (occurrence_id) WHERE occurrence_id IS NOT NULL;
CREATE INDEX busy_meeting ON busy (meeting_id, person_id) WHERE meeting_id IS NOT NULL;

-- A booking says what it is, whose, and until when it is kept if it is a hold.
ALTER TABLE booking
    ADD COLUMN kind text NOT NULL DEFAULT 'booked' CHECK (kind IN ('booked', 'asked', 'hold')),
    ADD COLUMN owner_id uuid REFERENCES person,
    ADD COLUMN meeting_id uuid,
    ADD COLUMN private boolean NOT NULL DEFAULT false,
    ADD COLUMN until timestamptz;
UPDATE booking b SET meeting_id = m.id, owner_id = m.organiser_id, private = m.private
FROM occurrence o JOIN meeting m ON m.id = o.meeting_id WHERE o.id = b.occurrence_id;
ALTER TABLE booking ALTER COLUMN owner_id SET NOT NULL, ALTER COLUMN occurrence_id DROP NOT NULL,
    ADD CONSTRAINT booking_hold CHECK (kind = 'hold' OR occurrence_id IS NOT NULL AND until IS NULL);
CREATE INDEX booking_time ON booking USING spgist (during); -- of every room at some time
CREATE INDEX booking_room ON booking (room_id, lower(during)) INCLUDE (during, booked_at, owner_id, meeting_id, private); -- of some rooms over months
CREATE INDEX booking_meeting ON booking (meeting_id) WHERE meeting_id IS NOT NULL;

-- History is what happened, who did it, and the facts; words are made when it is
-- read. What was kept as words stays as words.
ALTER TABLE happening
    ADD COLUMN kind text NOT NULL DEFAULT 'said',
    ADD COLUMN actor uuid,
    ADD COLUMN facts jsonb NOT NULL DEFAULT '{}';
UPDATE happening SET facts = jsonb_build_object('words', words);
ALTER TABLE happening DROP COLUMN words;

-- +goose Down
ALTER TABLE happening ADD COLUMN words text NOT NULL DEFAULT '';
UPDATE happening SET words = coalesce(facts->>'words', kind);
ALTER TABLE happening DROP COLUMN kind, DROP COLUMN actor, DROP COLUMN facts;
DROP INDEX booking_time, booking_room, booking_meeting;
DELETE FROM booking WHERE kind <> 'booked';
ALTER TABLE booking DROP CONSTRAINT booking_hold, DROP COLUMN kind, DROP COLUMN owner_id, DROP COLUMN meeting_id, DROP COLUMN private, DROP COLUMN until;
ALTER TABLE booking ALTER COLUMN occurrence_id SET NOT NULL;
DROP INDEX busy_person, busy_meeting, busy_occurrence;
CREATE INDEX busy_occurrence ON busy (occurrence_id);
ALTER TABLE busy DROP CONSTRAINT busy_length, DROP COLUMN source, DROP COLUMN meeting_id, DROP COLUMN until;
ALTER TABLE busy ADD CONSTRAINT busy_length CHECK (upper(during) - lower(during) <= interval '31 days');
CREATE INDEX busy_person ON busy (person_id, lower(during));
ALTER TABLE meeting_version DROP COLUMN schema;
CREATE INDEX meeting_version_related ON meeting_version ((content->>'relatedTo')) WHERE content->>'relatedTo' IS NOT NULL;
DROP INDEX meeting_related, meeting_zone;
ALTER TABLE meeting DROP COLUMN zone, DROP COLUMN private, DROP COLUMN related_to, DROP COLUMN repeats;
