-- name: SetWaiting :exec
INSERT INTO waiting (sheet_id, person_id, meeting_id, room_id, people, starts, ends, since)
VALUES (@sheet_id, @person_id, @meeting_id, @room_id, @people, @starts, @ends, @since)
ON CONFLICT (sheet_id) DO UPDATE SET meeting_id = excluded.meeting_id, room_id = excluded.room_id, people = excluded.people,
    starts = excluded.starts, ends = excluded.ends, since = excluded.since, turn_until = NULL, state = 'waits';

-- name: WaitingOf :one
SELECT w.*, (SELECT count(*) FROM waiting b WHERE b.state <> 'passed' AND b.room_id = w.room_id AND b.since < w.since AND b.starts < w.ends AND b.ends > w.starts)::int AS before
FROM waiting w WHERE w.sheet_id = @sheet_id;

-- name: DeleteWaiting :execrows
DELETE FROM waiting WHERE sheet_id = @sheet_id;

-- name: WaitingFor :many
-- Who waits, for some rooms or for anything, in the order in which they began; those
-- whose turn it was and is over among them. What has begun is waited for no more.
SELECT * FROM waiting WHERE (state = 'waits' OR state = 'turn' AND turn_until <= @now)
    AND (cardinality(@rooms::uuid[]) = 0 OR room_id = ANY(@rooms::uuid[])) AND starts > @now::timestamptz
ORDER BY since, sheet_id LIMIT 500 FOR UPDATE SKIP LOCKED;

-- name: WaitingRooms :many
SELECT w.room_id::uuid AS room_id, w.starts, w.ends, p.name FROM waiting w JOIN person p ON p.id = w.person_id
WHERE w.room_id = @room AND w.state <> 'passed' AND w.starts > @now ORDER BY w.starts, w.since LIMIT 50;

-- name: SetTurn :exec
UPDATE waiting SET state = @state, turn_until = @turn_until WHERE sheet_id = @sheet_id;

-- name: DeleteWaited :exec
DELETE FROM waiting WHERE starts <= @now;

-- name: UnsureDates :many
-- Dates with a room that begin within a window, of meetings with others, to which nobody
-- has said that they come or may, and of which it was not asked yet.
SELECT o.meeting_id, o.on_day, o.starts FROM occurrence o
JOIN booking b ON b.occurrence_id = o.id AND b.kind = 'booked'
JOIN meeting m ON m.id = o.meeting_id AND m.called_off_at IS NULL
WHERE o.starts > @after::timestamptz AND o.starts <= @before::timestamptz
  AND EXISTS (SELECT 1 FROM participant p WHERE p.meeting_id = o.meeting_id AND p.removed_at IS NULL)
  AND NOT EXISTS (SELECT 1 FROM participant p LEFT JOIN answer_on a ON a.participant_id = p.id AND a.on_day = o.on_day
      WHERE p.meeting_id = o.meeting_id AND p.removed_at IS NULL AND coalesce(nullif(a.answer, ''), p.answer) IN ('ACCEPTED', 'TENTATIVE'))
  AND NOT EXISTS (SELECT 1 FROM still_needed s WHERE s.meeting_id = o.meeting_id AND s.on_day = o.on_day)
ORDER BY o.starts LIMIT 200;

-- name: AddStillNeeded :execrows
INSERT INTO still_needed (meeting_id, on_day, asked_at) VALUES (@meeting_id, @on_day, @asked_at) ON CONFLICT DO NOTHING;

-- name: KeepNeeded :exec
INSERT INTO still_needed (meeting_id, on_day, asked_at, kept_at) VALUES (@meeting_id, @on_day, @at, @at)
ON CONFLICT (meeting_id, on_day) DO UPDATE SET kept_at = excluded.kept_at;

-- name: KeptDates :many
SELECT on_day FROM still_needed WHERE meeting_id = @meeting_id AND kept_at IS NOT NULL;
