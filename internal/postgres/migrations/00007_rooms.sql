-- +goose Up
-- What a room is like beyond its seats, who keeps it, and by which rules it is booked.
-- A room that nobody keeps is kept by those who keep all rooms.
ALTER TABLE room
    ADD COLUMN directions text NOT NULL DEFAULT '',
    ADD COLUMN link text NOT NULL DEFAULT '',
    ADD COLUMN keepers uuid[] NOT NULL DEFAULT '{}',
    ADD COLUMN rules jsonb NOT NULL DEFAULT '{"schema":1}',
    ADD COLUMN version int NOT NULL DEFAULT 1;
ALTER TABLE person ADD COLUMN keeps_rooms boolean NOT NULL DEFAULT false, ADD COLUMN left_at timestamptz;
CREATE INDEX person_keeps ON person (id) WHERE keeps_rooms AND left_at IS NULL;
CREATE UNIQUE INDEX room_email ON room (lower(email));

-- A hold belongs to a sheet and goes with it. Those that are over count for nothing and
-- are swept away.
ALTER TABLE booking ADD COLUMN sheet_id uuid REFERENCES sheet ON DELETE CASCADE;
ALTER TABLE booking ADD CONSTRAINT booking_hold_sheet CHECK ((kind = 'hold') = (sheet_id IS NOT NULL));
ALTER TABLE booking ADD CONSTRAINT booking_hold_until CHECK (kind <> 'hold' OR until IS NOT NULL);
DROP INDEX booking_room;
CREATE INDEX booking_room ON booking (room_id, lower(during)) INCLUDE (during, booked_at, owner_id, meeting_id, private, kind, until);
CREATE INDEX booking_sheet ON booking (sheet_id) WHERE sheet_id IS NOT NULL;
CREATE INDEX booking_holder ON booking (owner_id, until) WHERE kind = 'hold';

-- Since when somebody holds a room for a day, so that nobody holds one for hours.
CREATE TABLE held (
    person_id uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    room_id   uuid NOT NULL REFERENCES room ON DELETE CASCADE,
    on_day    date NOT NULL,
    since     timestamptz NOT NULL,
    until     timestamptz NOT NULL,
    PRIMARY KEY (person_id, room_id, on_day)
);
CREATE INDEX held_until ON held (until);

-- What the keeper of a room is asked, and what became of it. The dates are as they were
-- asked for: the same are not asked about twice.
CREATE TABLE room_request (
    id         uuid PRIMARY KEY,
    room_id    uuid NOT NULL REFERENCES room ON DELETE CASCADE,
    meeting_id uuid NOT NULL REFERENCES meeting ON DELETE CASCADE,
    asked_at   timestamptz NOT NULL,
    lapses_at  timestamptz NOT NULL,
    reasons    jsonb NOT NULL,
    on_days    date[] NOT NULL,
    starts     timestamptz[] NOT NULL,
    ends       timestamptz[] NOT NULL,
    state      text NOT NULL CHECK (state IN ('open', 'agreed', 'refused', 'lapsed', 'withdrawn')),
    word       text NOT NULL DEFAULT '',
    decided_by uuid REFERENCES person,
    decided_at timestamptz
);
CREATE UNIQUE INDEX room_request_open ON room_request (room_id, meeting_id) WHERE state = 'open';
CREATE INDEX room_request_meeting ON room_request (meeting_id, asked_at);
CREATE INDEX room_request_lapses ON room_request (lapses_at) WHERE state = 'open';

-- +goose Down
DROP TABLE room_request, held;
DROP INDEX booking_room;
DELETE FROM booking WHERE kind <> 'booked';
ALTER TABLE booking DROP COLUMN sheet_id;
CREATE INDEX booking_room ON booking (room_id, lower(during)) INCLUDE (during, booked_at, owner_id, meeting_id, private);
DROP INDEX booking_holder, room_email, person_keeps;
ALTER TABLE person DROP COLUMN keeps_rooms, DROP COLUMN left_at;
ALTER TABLE room DROP COLUMN directions, DROP COLUMN link, DROP COLUMN keepers, DROP COLUMN rules, DROP COLUMN version;
