-- +goose Up
-- The country whose public holidays a site keeps, by its ISO 3166-1 code.
ALTER TABLE site ADD COLUMN holidays text NOT NULL DEFAULT '';

-- A date of a series is known by its day in the rule, wherever it is moved to.
ALTER TABLE occurrence ADD COLUMN on_day date;
UPDATE occurrence o SET on_day = (o.starts AT TIME ZONE (v.content->>'zone'))::date
FROM meeting m JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version WHERE m.id = o.meeting_id;
ALTER TABLE occurrence ALTER COLUMN on_day SET NOT NULL;
CREATE UNIQUE INDEX occurrence_once ON occurrence (meeting_id, on_day);
CREATE INDEX occurrence_ends ON occurrence (ends);

-- Busy times are found by where they begin: no stretch is longer than 31 days, so
-- that none that reaches into a window begins earlier than that before it. A
-- B-tree takes the many rows of a series in a fraction of the time of a GiST.
-- Whose time it is has been checked where they were invited: a check for each of
-- thousands of rows would be a tenth of the time that sending a series takes.
ALTER TABLE busy DROP CONSTRAINT busy_person_id_fkey;
ALTER TABLE busy ADD CONSTRAINT busy_length CHECK (upper(during) - lower(during) <= interval '31 days');
DROP INDEX busy_person;
CREATE INDEX busy_person ON busy (person_id, lower(during));

-- The last day up to which the dates of a series are written down; null when all
-- of them are.
ALTER TABLE meeting ADD COLUMN written_to date;

-- The dates of a series that a message is about; none for all of them.
ALTER TABLE dispatch ADD COLUMN on_days date[] NOT NULL DEFAULT '{}';

-- What somebody answered to one date of a series, and what they were last sent
-- about it.
CREATE TABLE answer_on (
    participant_id uuid NOT NULL REFERENCES participant ON DELETE CASCADE,
    on_day         date NOT NULL,
    answer         text NOT NULL CHECK (answer IN ('', 'NEEDS-ACTION', 'ACCEPTED', 'TENTATIVE', 'DECLINED')),
    comment        text NOT NULL DEFAULT '',
    answered_at    timestamptz,
    answer_stamp   bigint NOT NULL DEFAULT 0,
    sent_sequence  int NOT NULL DEFAULT 0,
    PRIMARY KEY (participant_id, on_day)
);
ALTER TABLE reply ADD COLUMN on_day date;

-- Which series goes on from which.
CREATE INDEX meeting_version_related ON meeting_version ((content->>'relatedTo')) WHERE content->>'relatedTo' IS NOT NULL;

-- What the rules of a zone were when the instants of its meetings were written
-- down.
CREATE TABLE zone_print (
    zone  text PRIMARY KEY,
    print text NOT NULL
);

-- +goose Down
DROP TABLE zone_print;
DROP INDEX meeting_version_related;
ALTER TABLE reply DROP COLUMN on_day;
DROP TABLE answer_on;
ALTER TABLE dispatch DROP COLUMN on_days;
DROP INDEX busy_person;
CREATE INDEX busy_person ON busy USING gist (person_id, during);
ALTER TABLE busy DROP CONSTRAINT busy_length;
ALTER TABLE busy ADD CONSTRAINT busy_person_id_fkey FOREIGN KEY (person_id) REFERENCES person ON DELETE CASCADE;
ALTER TABLE meeting DROP COLUMN written_to;
DROP INDEX occurrence_once, occurrence_ends;
ALTER TABLE occurrence DROP COLUMN on_day;
ALTER TABLE site DROP COLUMN holidays;
