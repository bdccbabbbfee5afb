-- name: InsertOccurrence :exec
INSERT INTO occurrence (id, meeting_id, starts, ends) VALUES (@id, @meeting_id, @starts, @ends);

-- name: DeleteOccurrences :exec
DELETE FROM occurrence WHERE meeting_id = @meeting_id;

-- name: InsertBusy :exec
INSERT INTO busy (person_id, occurrence_id, during, kind)
VALUES (@person_id, @occurrence_id, tstzrange(@starts::timestamptz, @ends::timestamptz), @kind);

-- name: SetBusyOfMeeting :exec
UPDATE busy b SET kind = @kind FROM occurrence o
WHERE b.occurrence_id = o.id AND o.meeting_id = @meeting_id AND b.person_id = @person_id;

-- name: DeleteBusyOfMeeting :exec
DELETE FROM busy b USING occurrence o
WHERE b.occurrence_id = o.id AND o.meeting_id = @meeting_id AND b.person_id = @person_id;

-- name: AddBusyOfMeeting :exec
INSERT INTO busy (person_id, occurrence_id, during, kind)
SELECT @person_id, o.id, tstzrange(o.starts, o.ends), @kind FROM occurrence o WHERE o.meeting_id = @meeting_id;

-- name: BusyTimes :many
-- Whose time is taken in a window, but for what one meeting takes.
SELECT b.person_id, lower(b.during)::timestamptz AS starts, upper(b.during)::timestamptz AS ends, b.kind
FROM busy b LEFT JOIN occurrence o ON o.id = b.occurrence_id
WHERE b.person_id = ANY(@people::uuid[]) AND b.during && tstzrange(@starts::timestamptz, @ends::timestamptz)
  AND o.meeting_id IS DISTINCT FROM @but::uuid;

-- name: InsertBooking :exec
INSERT INTO booking (id, room_id, occurrence_id, during, booked_at)
VALUES (@id, @room_id, @occurrence_id, tstzrange(@starts::timestamptz, @ends::timestamptz), @booked_at);

-- name: LockRoom :exec
SELECT pg_advisory_xact_lock(hashtextextended('room ' || @room::text, 0));

-- name: Bookings :many
-- What rooms are taken by in a window, but for what one meeting takes.
SELECT b.room_id, lower(b.during)::timestamptz AS starts, upper(b.during)::timestamptz AS ends, b.booked_at,
    p.name AS by_name, (v.content->>'private')::boolean AS private
FROM booking b
JOIN occurrence o ON o.id = b.occurrence_id
JOIN meeting m ON m.id = o.meeting_id
JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version
JOIN person p ON p.id = m.organiser_id
WHERE b.during && tstzrange(@starts::timestamptz, @ends::timestamptz)
  AND (cardinality(@rooms::uuid[]) = 0 OR b.room_id = ANY(@rooms::uuid[]))
  AND o.meeting_id IS DISTINCT FROM @but::uuid
ORDER BY b.room_id, lower(b.during);

-- name: WeekMeetings :many
-- What somebody organises or is invited to in a window; a person's own time
-- leads to it, but for what they declined.
SELECT m.id, o.starts, o.ends, v.content, m.organiser_id, coalesce(p.answer, '')::text AS answer,
    EXISTS (SELECT 1 FROM dispatch d WHERE d.meeting_id = m.id AND d.state = 'failed' AND d.version = m.version) AS unreached
FROM occurrence o
JOIN meeting m ON m.id = o.meeting_id AND m.called_off_at IS NULL
JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version
LEFT JOIN participant p ON p.meeting_id = m.id AND p.person_id = @person AND p.removed_at IS NULL
WHERE o.id IN (
    SELECT b.occurrence_id FROM busy b
    WHERE b.person_id = @person AND b.during && tstzrange(@starts::timestamptz, @ends::timestamptz)
    UNION
    SELECT d.id FROM participant q JOIN occurrence d ON d.meeting_id = q.meeting_id
    WHERE q.person_id = @person AND q.removed_at IS NULL AND q.answer = 'DECLINED' AND d.starts < @ends AND d.ends > @starts
)
ORDER BY o.starts, o.ends, m.id;

-- name: Leave :many
SELECT lower(during)::timestamptz AS starts, upper(during)::timestamptz AS ends FROM busy
WHERE person_id = @person AND kind = 'leave' AND during && tstzrange(@starts::timestamptz, @ends::timestamptz);

-- name: Notify :exec
SELECT pg_notify('jembro_live', @payload::text);
