-- +goose Up
-- What people outside ask of a room: an invitation that its keeper answers for it, and the bookings
-- that come of that.
ALTER TABLE invitation ADD COLUMN room_id uuid REFERENCES room ON DELETE CASCADE,
    DROP CONSTRAINT invitation_person_id_uid_key;
CREATE UNIQUE INDEX invitation_one ON invitation (person_id, uid) WHERE room_id IS NULL;
CREATE UNIQUE INDEX invitation_of_room ON invitation (room_id, uid) WHERE room_id IS NOT NULL;
ALTER TABLE booking ADD COLUMN invitation_id uuid REFERENCES invitation ON DELETE CASCADE,
    DROP CONSTRAINT booking_hold,
    ADD CONSTRAINT booking_hold CHECK (kind = 'hold' OR (occurrence_id IS NOT NULL) <> (invitation_id IS NOT NULL) AND until IS NULL);
CREATE INDEX booking_invitation ON booking (invitation_id) WHERE invitation_id IS NOT NULL;

-- +goose Down
DELETE FROM invitation WHERE room_id IS NOT NULL;
ALTER TABLE booking DROP CONSTRAINT booking_hold, DROP COLUMN invitation_id,
    ADD CONSTRAINT booking_hold CHECK (kind = 'hold' OR occurrence_id IS NOT NULL AND until IS NULL);
DROP INDEX invitation_one, invitation_of_room;
ALTER TABLE invitation DROP COLUMN room_id, ADD UNIQUE (person_id, uid);
