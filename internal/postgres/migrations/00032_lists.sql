-- +goose Up
-- Lists of people are rows that refer to them, in the order in which they were given.
CREATE TABLE room_keeper (
    room_id   uuid NOT NULL REFERENCES room ON DELETE CASCADE,
    person_id uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    place     int NOT NULL,
    PRIMARY KEY (room_id, person_id)
);
CREATE INDEX room_keeper_person ON room_keeper (person_id);
INSERT INTO room_keeper (room_id, person_id, place)
SELECT r.id, k.id, k.place FROM room r CROSS JOIN LATERAL unnest(r.keepers) WITH ORDINALITY k(id, place) JOIN person p ON p.id = k.id
ON CONFLICT DO NOTHING;
ALTER TABLE room DROP COLUMN keepers;

CREATE TABLE standing_share (
    link_id   uuid NOT NULL REFERENCES standing_link ON DELETE CASCADE,
    person_id uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    place     int NOT NULL,
    PRIMARY KEY (link_id, person_id)
);
CREATE INDEX standing_share_person ON standing_share (person_id);
INSERT INTO standing_share (link_id, person_id, place)
SELECT l.id, s.id, s.place FROM standing_link l CROSS JOIN LATERAL unnest(l.shared_with) WITH ORDINALITY s(id, place) JOIN person p ON p.id = s.id
ON CONFLICT DO NOTHING;
ALTER TABLE standing_link DROP COLUMN shared_with;

CREATE TABLE waiting_person (
    sheet_id  uuid NOT NULL REFERENCES waiting ON DELETE CASCADE,
    person_id uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    place     int NOT NULL,
    PRIMARY KEY (sheet_id, person_id)
);
CREATE INDEX waiting_person_person ON waiting_person (person_id);
INSERT INTO waiting_person (sheet_id, person_id, place)
SELECT w.sheet_id, x.id, x.place FROM waiting w CROSS JOIN LATERAL unnest(w.people) WITH ORDINALITY x(id, place) JOIN person p ON p.id = x.id
ON CONFLICT DO NOTHING;
ALTER TABLE waiting DROP COLUMN people;

-- A reminder of the meeting itself is nobody's own.
ALTER TABLE reminded DROP CONSTRAINT reminded_pkey, ALTER COLUMN participant_id DROP DEFAULT, ALTER COLUMN participant_id DROP NOT NULL;
UPDATE reminded SET participant_id = NULL WHERE participant_id = '00000000-0000-0000-0000-000000000000';
ALTER TABLE reminded ADD CONSTRAINT reminded_once UNIQUE NULLS NOT DISTINCT (meeting_id, on_day, before, starts, participant_id);

-- +goose Down
ALTER TABLE reminded DROP CONSTRAINT reminded_once;
UPDATE reminded SET participant_id = '00000000-0000-0000-0000-000000000000' WHERE participant_id IS NULL;
ALTER TABLE reminded ALTER COLUMN participant_id SET NOT NULL, ALTER COLUMN participant_id SET DEFAULT '00000000-0000-0000-0000-000000000000',
    ADD PRIMARY KEY (meeting_id, on_day, before, starts, participant_id);
ALTER TABLE waiting ADD COLUMN people uuid[] NOT NULL DEFAULT '{}';
UPDATE waiting w SET people = ARRAY(SELECT x.person_id FROM waiting_person x WHERE x.sheet_id = w.sheet_id ORDER BY x.place);
DROP TABLE waiting_person;
ALTER TABLE standing_link ADD COLUMN shared_with uuid[] NOT NULL DEFAULT '{}';
UPDATE standing_link l SET shared_with = ARRAY(SELECT x.person_id FROM standing_share x WHERE x.link_id = l.id ORDER BY x.place);
CREATE INDEX standing_link_shared ON standing_link USING gin (shared_with);
DROP TABLE standing_share;
ALTER TABLE room ADD COLUMN keepers uuid[] NOT NULL DEFAULT '{}';
UPDATE room r SET keepers = ARRAY(SELECT x.person_id FROM room_keeper x WHERE x.room_id = r.id ORDER BY x.place);
DROP TABLE room_keeper;
