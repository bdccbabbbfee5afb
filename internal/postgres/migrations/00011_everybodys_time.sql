-- +goose Up
-- Who may see how much of somebody's time, hours of single days in place of the week's,
-- and which state of these a page shows.
ALTER TABLE person
    ADD COLUMN shares text NOT NULL DEFAULT 'busy' CHECK (shares IN ('nothing', 'busy', 'titles')),
    ADD COLUMN other_hours jsonb NOT NULL DEFAULT '[]',
    ADD COLUMN hours_version int NOT NULL DEFAULT 1;

-- What one colleague sees, where that is not what everybody does.
CREATE TABLE sharing (
    person_id uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    with_id   uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    level     text NOT NULL CHECK (level IN ('nothing', 'busy', 'titles')),
    PRIMARY KEY (person_id, with_id)
);
CREATE INDEX sharing_with ON sharing (with_id);

-- Leave, in whole days of whose it is.
CREATE TABLE absence (
    id         uuid PRIMARY KEY,
    person_id  uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    first_day  date NOT NULL,
    last_day   date NOT NULL,
    word       text NOT NULL DEFAULT '',
    entered_at timestamptz NOT NULL,
    CHECK (first_day <= last_day)
);
CREATE INDEX absence_person ON absence (person_id, last_day);

-- Busy time that comes from no meeting says which leave or calendar it comes from.
ALTER TABLE busy ADD COLUMN from_id uuid;
CREATE INDEX busy_from ON busy (from_id) WHERE from_id IS NOT NULL;
WITH pieces AS (
    SELECT person_id, lower(during) AS s, upper(during) AS e FROM busy WHERE source = 'leave'
), begun AS (
    SELECT *, CASE WHEN s <= max(e) OVER (PARTITION BY person_id ORDER BY s ROWS BETWEEN UNBOUNDED PRECEDING AND 1 PRECEDING) THEN 0 ELSE 1 END AS new FROM pieces
), counted AS (
    SELECT *, sum(new) OVER (PARTITION BY person_id ORDER BY s) AS n FROM begun
)
INSERT INTO absence (id, person_id, first_day, last_day, entered_at)
SELECT gen_random_uuid(), c.person_id, (min(s) AT TIME ZONE p.zone)::date, ((max(e) - interval '1 second') AT TIME ZONE p.zone)::date, min(s)
FROM counted c JOIN person p ON p.id = c.person_id GROUP BY c.person_id, c.n, p.zone;
UPDATE busy b SET from_id = a.id FROM absence a, person p
WHERE b.source = 'leave' AND a.person_id = b.person_id AND p.id = b.person_id
  AND (lower(b.during) AT TIME ZONE p.zone)::date BETWEEN a.first_day AND a.last_day;

-- A calendar kept elsewhere: of somebody inside, or of somebody outside who publishes when
-- they are busy. address is sealed; a file has none. What was last read well stays.
CREATE TABLE calendar (
    id            uuid PRIMARY KEY,
    person_id     uuid REFERENCES person ON DELETE CASCADE,
    contact_id    uuid UNIQUE REFERENCES contact ON DELETE CASCADE,
    name          text NOT NULL,
    address       bytea,
    host          text NOT NULL DEFAULT '',
    counts        boolean NOT NULL DEFAULT true,
    added_at      timestamptz NOT NULL,
    read_at       timestamptz,
    tried_at      timestamptz,
    failing_since timestamptz,
    fault         text NOT NULL DEFAULT '',
    empty_since   timestamptz,
    failures      int NOT NULL DEFAULT 0,
    next_at       timestamptz,
    etag          text NOT NULL DEFAULT '',
    modified      text NOT NULL DEFAULT '',
    print         bytea,
    refresh       int NOT NULL DEFAULT 0,
    entries       int NOT NULL DEFAULT 0,
    unread        int NOT NULL DEFAULT 0,
    expanded_on   date,
    CHECK ((person_id IS NULL) <> (contact_id IS NULL))
);
CREATE INDEX calendar_person ON calendar (person_id);
CREATE INDEX calendar_next ON calendar (next_at) WHERE next_at IS NOT NULL;
CREATE TABLE calendar_content (
    calendar_id uuid PRIMARY KEY REFERENCES calendar ON DELETE CASCADE,
    packed      bytea NOT NULL
);

-- The dates of a calendar as its owner sees them.
CREATE TABLE calendar_entry (
    calendar_id uuid NOT NULL REFERENCES calendar ON DELETE CASCADE,
    uid         text NOT NULL,
    title       text NOT NULL,
    starts      timestamptz NOT NULL,
    ends        timestamptz NOT NULL,
    kind        text NOT NULL CHECK (kind IN ('busy', 'maybe', 'free')),
    whole_day   boolean NOT NULL
);
CREATE INDEX calendar_entry_starts ON calendar_entry (calendar_id, starts);

-- When somebody outside is busy, by the calendar kept with them; a row is a day long at
-- the most, as in busy.
CREATE TABLE contact_busy (
    contact_id uuid NOT NULL REFERENCES contact ON DELETE CASCADE,
    during     tstzrange NOT NULL,
    kind       text NOT NULL CHECK (kind IN ('busy', 'maybe', 'leave')),
    CHECK (upper(during) - lower(during) <= interval '24 hours')
);
CREATE INDEX contact_busy_contact ON contact_busy (contact_id, lower(during)) INCLUDE (during, kind);

-- Whose time somebody watches beside their own, and which rooms.
CREATE TABLE watching (
    person_id  uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    place      int NOT NULL,
    watched_id uuid REFERENCES person ON DELETE CASCADE,
    room_id    uuid REFERENCES room ON DELETE CASCADE,
    PRIMARY KEY (person_id, place),
    CHECK ((watched_id IS NULL) <> (room_id IS NULL))
);

-- The secret address of somebody's busy times, or of a room's. print is of what it last
-- gave, changed_at since when it gives that.
CREATE TABLE feed (
    id         uuid PRIMARY KEY,
    person_id  uuid UNIQUE REFERENCES person ON DELETE CASCADE,
    room_id    uuid UNIQUE REFERENCES room ON DELETE CASCADE,
    titles     boolean NOT NULL DEFAULT false,
    made_at    timestamptz NOT NULL,
    print      text NOT NULL DEFAULT '',
    changed_at timestamptz NOT NULL,
    CHECK ((person_id IS NULL) <> (room_id IS NULL))
);

-- +goose Down
DROP TABLE feed, watching, contact_busy, calendar_entry, calendar_content, calendar;
DELETE FROM busy WHERE source = 'calendar';
DROP INDEX busy_from;
ALTER TABLE busy DROP COLUMN from_id;
DROP TABLE absence, sharing;
ALTER TABLE person DROP COLUMN shares, DROP COLUMN other_hours, DROP COLUMN hours_version;
