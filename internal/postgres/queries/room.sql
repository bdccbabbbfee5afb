-- name: LockRoomRow :one
SELECT id FROM room WHERE id = @id FOR UPDATE;

-- name: DropKeepersOf :exec
DELETE FROM room_keeper WHERE room_id = @room;

-- name: InsertKeepers :exec
INSERT INTO room_keeper (room_id, person_id, place)
SELECT @room, k.id, k.place FROM unnest(@people::uuid[]) WITH ORDINALITY k(id, place) ON CONFLICT DO NOTHING;

-- name: UpdateRoom :exec
UPDATE room SET site_id = @site_id, name = @name, floor = @floor, seats = @seats, equipment = @equipment, email = @email,
    directions = @directions, link = @link, rules = @rules, version = version + 1 WHERE id = @id;

-- name: Sites :many
SELECT id, name, zone, holidays FROM site ORDER BY name;

-- name: HoldsOf :many
-- What a sheet holds, over or not.
SELECT b.room_id, lower(b.during)::timestamptz AS starts, upper(b.during)::timestamptz AS ends, b.until FROM booking b
WHERE b.sheet_id = @sheet_id::uuid ORDER BY lower(b.during), b.room_id;

-- name: RenewHolds :exec
UPDATE booking SET until = @until::timestamptz WHERE sheet_id = @sheet_id::uuid;

-- name: DeleteHoldsOf :exec
DELETE FROM booking WHERE sheet_id = @sheet_id::uuid;

-- name: DeleteHoldsIn :exec
-- Holds that are in the way of somebody's bookings: those that are over, and their own.
DELETE FROM booking b USING (SELECT unnest(@rooms::uuid[]) AS r, unnest(@starts::timestamptz[]) AS s, unnest(@ends::timestamptz[]) AS e) t
WHERE b.kind = 'hold' AND b.room_id = t.r AND b.during && tstzrange(t.s, t.e) AND (b.until <= @now::timestamptz OR b.owner_id = @owner::uuid);

-- name: InsertHolds :exec
INSERT INTO booking (id, room_id, kind, owner_id, meeting_id, sheet_id, during, booked_at, until)
SELECT gen_random_uuid(), t.r, 'hold', @owner::uuid, nullif(@meeting_id::uuid, '00000000-0000-0000-0000-000000000000'), @sheet_id::uuid,
    tstzrange(t.s, t.e), @booked_at::timestamptz, @until::timestamptz
FROM (SELECT unnest(@rooms::uuid[]) AS r, unnest(@starts::timestamptz[]) AS s, unnest(@ends::timestamptz[]) AS e) t;

-- name: OtherHolds :one
-- How many other sheets of somebody hold something, but for those that wait to go out.
SELECT count(DISTINCT b.sheet_id)::int FROM booking b JOIN sheet s ON s.id = b.sheet_id
WHERE b.kind = 'hold' AND b.owner_id = @owner::uuid AND b.sheet_id <> @sheet_id::uuid AND b.until > @now::timestamptz AND s.send_at IS NULL;

-- name: HeldSince :one
SELECT since, until FROM held WHERE person_id = @person AND room_id = @room AND on_day = @on_day FOR UPDATE;

-- name: SetHeld :exec
INSERT INTO held (person_id, room_id, on_day, since, until) VALUES (@person, @room, @on_day, @since, @until)
ON CONFLICT (person_id, room_id, on_day) DO UPDATE SET since = excluded.since, until = excluded.until;

-- name: SweepHolds :exec
DELETE FROM booking WHERE id IN (SELECT id FROM booking WHERE kind = 'hold' AND until < @before::timestamptz FOR UPDATE SKIP LOCKED);

-- name: SweepHeld :exec
DELETE FROM held WHERE until < @before::timestamptz;

-- name: RequestsOfMeeting :many
SELECT * FROM room_request WHERE meeting_id = @meeting_id ORDER BY asked_at, id;

-- name: LockRequest :one
SELECT * FROM room_request WHERE id = @id FOR UPDATE;

-- name: RequestMeeting :one
SELECT meeting_id FROM room_request WHERE id = @id;

-- name: InsertRequest :exec
INSERT INTO room_request (id, room_id, meeting_id, asked_at, lapses_at, reasons, on_days, starts, ends, state)
VALUES (@id, @room_id, @meeting_id, @asked_at, @lapses_at, @reasons, @on_days, @starts, @ends, 'open');

-- name: UpdateRequest :exec
UPDATE room_request SET asked_at = @asked_at, lapses_at = @lapses_at, reasons = @reasons, on_days = @on_days, starts = @starts, ends = @ends,
    state = @state, word = @word, decided_by = @decided_by, decided_at = @decided_at WHERE id = @id;

-- name: OpenRequests :many
-- What is asked of who keeps a room, the next to lapse first.
SELECT sqlc.embed(q), m.organiser_id, p.name AS by_name, m.private, v.schema, v.content
FROM room_request q JOIN meeting m ON m.id = q.meeting_id JOIN person p ON p.id = m.organiser_id
JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version
WHERE q.state = 'open' AND q.room_id = ANY(@rooms::uuid[]) ORDER BY q.lapses_at, q.starts[1], q.id LIMIT @most;

-- name: LapsedRequests :many
SELECT id FROM room_request WHERE state = 'open' AND lapses_at <= @now ORDER BY lapses_at LIMIT 100;

-- name: AgreeBookings :exec
UPDATE booking SET kind = 'booked' WHERE meeting_id = @meeting_id::uuid AND room_id = @room_id AND kind = 'asked';

-- name: DeleteAsked :exec
DELETE FROM booking WHERE meeting_id = @meeting_id::uuid AND room_id = @room_id AND kind = 'asked';

-- name: MarkLeft :execrows
UPDATE person SET left_at = @at, keeps_rooms = false, keeps_providers = false WHERE id = @id AND left_at IS NULL;

-- name: DropKeeper :many
WITH gone AS (DELETE FROM room_keeper WHERE person_id = @person RETURNING room_id)
UPDATE room SET version = version + 1 WHERE id IN (SELECT room_id FROM gone) RETURNING id;

-- name: RoomUses :many
-- What one room is taken by in a window, as RoomsTaken.
SELECT x.starts::timestamptz AS starts, x.ends::timestamptz AS ends, x.booked_at, x.by_name, x.private, x.kind, x.until, x.level::text AS shares,
    coalesce(x.meeting_id, '00000000-0000-0000-0000-000000000000')::uuid AS meeting_id,
    coalesce(CASE WHEN x.is_mine OR x.level = ANY(@titled::text[]) THEN
        (SELECT v.content->>'title' FROM meeting m JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version WHERE m.id = x.meeting_id) END, '')::text AS title,
    coalesce(CASE WHEN x.is_mine THEN (SELECT o.on_day FROM occurrence o WHERE o.id = x.occurrence_id) END, '1970-01-01')::date AS on_day, x.is_mine::boolean AS mine
FROM (
    SELECT b.room_id, lower(b.during) AS starts, upper(b.during) AS ends, b.booked_at, p.name AS by_name, b.private, b.kind, b.until, b.meeting_id, b.occurrence_id,
        coalesce((SELECT h.level FROM sharing h WHERE h.person_id = b.owner_id AND h.with_id = @person::uuid), p.shares) AS level,
        b.owner_id = @person OR EXISTS (SELECT 1 FROM participant q WHERE q.meeting_id = b.meeting_id AND q.person_id = @person AND q.removed_at IS NULL) AS is_mine
    FROM booking b JOIN person p ON p.id = b.owner_id
    WHERE b.room_id = @room AND lower(b.during) < @ends::timestamptz AND upper(b.during) > @starts::timestamptz
    AND lower(b.during) >= coalesce((SELECT lower(y.during) FROM booking y
        WHERE y.room_id = @room AND lower(y.during) <= @starts ORDER BY lower(y.during) DESC LIMIT 1), @starts)
    AND stands(b.kind, b.until, b.owner_id, NULL, @now::timestamptz)
) x ORDER BY x.starts;
