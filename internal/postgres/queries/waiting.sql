-- name: SetWaiting :exec
INSERT INTO waiting (sheet_id, person_id, meeting_id, room_id, starts, ends, since)
VALUES (@sheet_id, @person_id, @meeting_id, @room_id, @starts, @ends, @since)
ON CONFLICT (sheet_id) DO UPDATE SET meeting_id = excluded.meeting_id, room_id = excluded.room_id,
    starts = excluded.starts, ends = excluded.ends, since = excluded.since, turn_until = NULL, state = 'waits';

-- name: DropWaitedFor :exec
DELETE FROM waiting_person WHERE sheet_id = @sheet_id;

-- name: InsertWaitedFor :exec
INSERT INTO waiting_person (sheet_id, person_id, place)
SELECT @sheet_id, x.id, x.place FROM unnest(@people::uuid[]) WITH ORDINALITY x(id, place) ON CONFLICT DO NOTHING;

-- name: WaitingOf :one
SELECT sqlc.embed(w), ARRAY(SELECT x.person_id FROM waiting_person x WHERE x.sheet_id = w.sheet_id ORDER BY x.place)::uuid[] AS people, (SELECT count(*) FROM waiting b WHERE b.state <> 'passed' AND b.room_id = w.room_id AND b.since < w.since AND b.starts < w.ends AND b.ends > w.starts)::int AS before
FROM waiting w WHERE w.sheet_id = @sheet_id;

-- name: DeleteWaiting :execrows
DELETE FROM waiting WHERE sheet_id = @sheet_id;

-- name: WaitingFor :many
-- Who waits, for some rooms or for anything, in the order in which they began; those
-- whose turn it was and is over among them. What has begun is waited for no more.
SELECT sqlc.embed(w), ARRAY(SELECT x.person_id FROM waiting_person x WHERE x.sheet_id = w.sheet_id ORDER BY x.place)::uuid[] AS people
FROM waiting w WHERE (w.state = 'waits' OR w.state = 'turn' AND w.turn_until <= @now)
    AND (cardinality(@rooms::uuid[]) = 0 OR w.room_id = ANY(@rooms::uuid[])) AND w.starts > @now::timestamptz
ORDER BY w.since, w.sheet_id LIMIT 500 FOR UPDATE OF w SKIP LOCKED;

-- name: WaitingRooms :many
SELECT w.room_id::uuid AS room_id, w.starts, w.ends, p.name FROM waiting w JOIN person p ON p.id = w.person_id
WHERE w.room_id = @room AND w.state <> 'passed' AND w.starts > @now ORDER BY w.starts, w.since LIMIT 50;

-- name: SetTurn :exec
UPDATE waiting SET state = @state, turn_until = @turn_until WHERE sheet_id = @sheet_id;

-- name: DeleteWaited :exec
DELETE FROM waiting WHERE starts <= @now;

-- name: BookedSoon :many
-- Dates with a booked room that begin within a window, of one meeting or of all, with what
-- those invited to them answered; whether it was asked if the room is still needed, and whether
-- that was answered.
SELECT o.meeting_id, o.on_day, o.starts, coalesce(array_agg(x.answer) FILTER (WHERE x.participant_id IS NOT NULL), '{}')::text[] AS answers,
    bool_or(s.asked_at IS NOT NULL)::boolean AS asked, bool_or(s.kept_at IS NOT NULL)::boolean AS kept
FROM occurrence o JOIN booking b ON b.occurrence_id = o.id AND b.kind = 'booked'
LEFT JOIN participation x ON x.occurrence_id = o.id
LEFT JOIN still_needed s ON s.meeting_id = o.meeting_id AND s.on_day = o.on_day
WHERE o.starts > @after::timestamptz AND o.starts <= @before::timestamptz
    AND (@meeting_id::uuid = '00000000-0000-0000-0000-000000000000' OR o.meeting_id = @meeting_id)
GROUP BY o.id ORDER BY o.starts, o.id;

-- name: AddStillNeeded :execrows
INSERT INTO still_needed (meeting_id, on_day, asked_at) VALUES (@meeting_id, @on_day, @asked_at) ON CONFLICT DO NOTHING;

-- name: KeepNeeded :exec
INSERT INTO still_needed (meeting_id, on_day, asked_at, kept_at) VALUES (@meeting_id, @on_day, @at, @at)
ON CONFLICT (meeting_id, on_day) DO UPDATE SET kept_at = excluded.kept_at;
