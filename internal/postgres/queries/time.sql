-- name: Occurrences :many
-- The dates of a meeting as they are written down, with the room booked.
SELECT o.id, o.on_day, o.starts, o.ends, b.room_id, coalesce(b.kind, '')::text AS kind FROM occurrence o LEFT JOIN booking b ON b.occurrence_id = o.id
WHERE o.meeting_id = @meeting_id ORDER BY o.on_day;

-- name: InsertOccurrences :exec
INSERT INTO occurrence (id, meeting_id, on_day, starts, ends)
SELECT unnest(@ids::uuid[]), @meeting_id, unnest(@on_days::date[]), unnest(@starts::timestamptz[]), unnest(@ends::timestamptz[]);

-- name: DeleteOccurrences :exec
DELETE FROM occurrence WHERE id = ANY(@ids::uuid[]);

-- name: DeleteOccurrencesOfMeeting :exec
DELETE FROM occurrence WHERE meeting_id = @meeting_id;

-- name: DeleteBusyOfMeeting :exec
DELETE FROM busy b WHERE b.meeting_id = @meeting_id
  AND (@person_id::uuid = '00000000-0000-0000-0000-000000000000' OR b.person_id = @person_id);

-- name: InsertBusy :exec
INSERT INTO busy (person_id, occurrence_id, meeting_id, during, kind, source)
SELECT t.p, nullif(t.o, '00000000-0000-0000-0000-000000000000'::uuid), nullif(t.m, '00000000-0000-0000-0000-000000000000'::uuid),
    tstzrange(t.s, t.e), t.k, t.src
FROM (SELECT unnest(@people::uuid[]) AS p, unnest(@occurrences::uuid[]) AS o, unnest(@meetings::uuid[]) AS m, unnest(@starts::timestamptz[]) AS s,
    unnest(@ends::timestamptz[]) AS e, unnest(@kinds::text[]) AS k, unnest(@sources::text[]) AS src) t;

-- name: BusyTimes :many
-- Whose time is taken in some windows that do not touch, but for what one meeting
-- takes. A row of the table is a day long at the most; here is one for each person,
-- for reading tens of thousands one by one, or sorting them, takes longer than finding
-- them.
SELECT p::uuid AS person_id, taken.* FROM unnest(@people::uuid[]) p CROSS JOIN LATERAL (
    SELECT coalesce(array_agg(lower(b.during)) FILTER (WHERE b.kind = 'busy'), '{}')::timestamptz[] AS busy_starts,
        coalesce(array_agg(upper(b.during)) FILTER (WHERE b.kind = 'busy'), '{}')::timestamptz[] AS busy_ends,
        coalesce(array_agg(lower(b.during)) FILTER (WHERE b.kind = 'maybe'), '{}')::timestamptz[] AS maybe_starts,
        coalesce(array_agg(upper(b.during)) FILTER (WHERE b.kind = 'maybe'), '{}')::timestamptz[] AS maybe_ends,
        coalesce(array_agg(lower(b.during)) FILTER (WHERE b.kind = 'leave'), '{}')::timestamptz[] AS leave_starts,
        coalesce(array_agg(upper(b.during)) FILTER (WHERE b.kind = 'leave'), '{}')::timestamptz[] AS leave_ends
    FROM (SELECT unnest(@starts::timestamptz[]) AS s, unnest(@ends::timestamptz[]) AS e) w
    JOIN busy b ON b.person_id = p AND lower(b.during) < w.e AND lower(b.during) > w.s - interval '24 hours' AND upper(b.during) > w.s
    WHERE b.meeting_id IS DISTINCT FROM @but::uuid AND b.kind <> 'free' AND (b.until IS NULL OR b.until > @now::timestamptz)) taken;

-- name: InsertBookings :exec
INSERT INTO booking (id, room_id, kind, occurrence_id, meeting_id, owner_id, private, during, booked_at)
SELECT gen_random_uuid(), t.r, t.k, t.o, m.id, m.organiser_id, m.private, tstzrange(t.s, t.e), @booked_at
FROM (SELECT unnest(@rooms::uuid[]) AS r, unnest(@kinds::text[]) AS k, unnest(@occurrences::uuid[]) AS o, unnest(@starts::timestamptz[]) AS s,
    unnest(@ends::timestamptz[]) AS e) t, meeting m WHERE m.id = @meeting_id;

-- name: SetBookingsPrivate :exec
UPDATE booking SET private = @private WHERE meeting_id = @meeting_id::uuid AND private <> @private;

-- name: Clashes :many
-- What stands against bookings that are wanted, but for what one meeting has.
SELECT t.n::int AS wanted, b.room_id, lower(b.during)::timestamptz AS starts, upper(b.during)::timestamptz AS ends, b.booked_at,
    p.name AS by_name, b.private, b.kind, b.until, coalesce((SELECT x.level FROM sharing x WHERE x.person_id = b.owner_id AND x.with_id = @owner::uuid), p.shares)::text AS shares
FROM (SELECT unnest(@rooms::uuid[]) AS r, unnest(@starts::timestamptz[]) AS s, unnest(@ends::timestamptz[]) AS e,
    generate_series(1, cardinality(@rooms::uuid[])) AS n) t
JOIN booking b ON b.room_id = t.r AND b.during && tstzrange(t.s, t.e)
JOIN person p ON p.id = b.owner_id
WHERE b.meeting_id IS DISTINCT FROM @but::uuid AND stands(b.kind, b.until, b.owner_id, @owner::uuid, @now::timestamptz)
ORDER BY t.n, lower(b.during);

-- name: LockRoom :exec
SELECT pg_advisory_xact_lock(hashtextextended('room ' || @room::text, 0));

-- name: Bookings :many
-- What all rooms are taken by in some windows that do not touch, but for what one
-- meeting takes.
SELECT b.room_id, lower(b.during)::timestamptz AS starts, upper(b.during)::timestamptz AS ends, b.booked_at, p.name AS by_name, b.private, b.kind, b.until,
    coalesce((SELECT x.level FROM sharing x WHERE x.person_id = b.owner_id AND x.with_id = @reader::uuid), p.shares)::text AS shares
FROM (SELECT unnest(@starts::timestamptz[]) AS s, unnest(@ends::timestamptz[]) AS e) w
JOIN booking b ON b.during && tstzrange(w.s, w.e)
JOIN person p ON p.id = b.owner_id
WHERE b.meeting_id IS DISTINCT FROM @but::uuid AND stands(b.kind, b.until, b.owner_id, @reader::uuid, @now::timestamptz);

-- name: RoomBookings :many
-- The same of some rooms. The bookings of a room do not overlap: those that reach
-- into a window are the last that begins before it, and what begins within.
SELECT b.room_id, lower(b.during)::timestamptz AS starts, upper(b.during)::timestamptz AS ends, b.booked_at, p.name AS by_name, b.private, b.kind, b.until,
    coalesce((SELECT x.level FROM sharing x WHERE x.person_id = b.owner_id AND x.with_id = @reader::uuid), p.shares)::text AS shares
FROM (SELECT unnest(@starts::timestamptz[]) AS s, unnest(@ends::timestamptz[]) AS e) w
CROSS JOIN unnest(@rooms::uuid[]) r
JOIN booking b ON b.room_id = r AND lower(b.during) < w.e AND upper(b.during) > w.s
    AND lower(b.during) >= coalesce((SELECT lower(x.during) FROM booking x
        WHERE x.room_id = r AND lower(x.during) <= w.s ORDER BY lower(x.during) DESC LIMIT 1), w.s)
JOIN person p ON p.id = b.owner_id
WHERE b.meeting_id IS DISTINCT FROM @but::uuid AND stands(b.kind, b.until, b.owner_id, @reader::uuid, @now::timestamptz);

-- name: TakenRooms :many
-- When all rooms are taken in some windows, without a word by whom.
SELECT b.room_id, array_agg(lower(b.during))::timestamptz[] AS starts, array_agg(upper(b.during))::timestamptz[] AS ends
FROM (SELECT unnest(@starts::timestamptz[]) AS s, unnest(@ends::timestamptz[]) AS e) w
JOIN booking b ON b.during && tstzrange(w.s, w.e)
WHERE b.meeting_id IS DISTINCT FROM @but::uuid AND stands(b.kind, b.until, b.owner_id, @reader::uuid, @now::timestamptz)
GROUP BY b.room_id;

-- name: TakenOf :many
-- The same of some rooms, over long windows.
SELECT b.room_id, array_agg(lower(b.during))::timestamptz[] AS starts, array_agg(upper(b.during))::timestamptz[] AS ends
FROM (SELECT unnest(@starts::timestamptz[]) AS s, unnest(@ends::timestamptz[]) AS e) w
CROSS JOIN unnest(@rooms::uuid[]) r
JOIN booking b ON b.room_id = r AND lower(b.during) < w.e AND upper(b.during) > w.s
    AND lower(b.during) >= coalesce((SELECT lower(x.during) FROM booking x
        WHERE x.room_id = r AND lower(x.during) <= w.s ORDER BY lower(x.during) DESC LIMIT 1), w.s)
WHERE b.meeting_id IS DISTINCT FROM @but::uuid AND stands(b.kind, b.until, b.owner_id, @reader::uuid, @now::timestamptz)
GROUP BY b.room_id;

-- name: WeekMeetings :many
-- What somebody organises or is invited to in a window; a person's own time
-- leads to it, but for what they declined.
SELECT m.id, m.version, o.on_day, o.starts, o.ends, v.schema, v.content, m.organiser_id,
    coalesce(x.answer, '')::text AS answer, coalesce(p.id, '00000000-0000-0000-0000-000000000000')::uuid AS participant_id,
    EXISTS (SELECT 1 FROM dispatch d WHERE d.meeting_id = m.id AND d.state = 'failed' AND d.mended_at IS NULL AND d.version = m.version) AS unreached,
    ARRAY(SELECT r.before FROM own_reminder r WHERE r.participant_id = p.id AND NOT r.mail)::int[] AS own_reminds
FROM (
    SELECT b.occurrence_id AS id FROM busy b
    WHERE b.person_id = @person AND lower(b.during) < @ends::timestamptz AND b.occurrence_id IS NOT NULL
      AND lower(b.during) > @since::timestamptz AND upper(b.during) > @starts::timestamptz
    UNION
    SELECT d.occurrence_id FROM participation d
    WHERE d.person_id = @person AND d.answer = 'DECLINED' AND d.starts < @ends AND d.starts > @long_since::timestamptz AND d.ends > @starts
) theirs
JOIN occurrence o ON o.id = theirs.id
JOIN meeting m ON m.id = o.meeting_id AND m.called_off_at IS NULL
JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version
LEFT JOIN participant p ON p.meeting_id = m.id AND p.person_id = @person AND p.removed_at IS NULL
LEFT JOIN participation x ON x.participant_id = p.id AND x.occurrence_id = o.id
ORDER BY o.starts, o.ends, m.id;

-- name: Leave :many
SELECT lower(during)::timestamptz AS starts, upper(during)::timestamptz AS ends FROM busy
WHERE person_id = @person AND kind = 'leave' AND lower(during) < @ends::timestamptz
  AND lower(during) > @since::timestamptz AND upper(during) > @starts::timestamptz;

-- name: Notify :exec
SELECT pg_notify('jembro_live', @payload::text);

-- name: ZonesInUse :many
-- The zones of meetings with a date still to come.
SELECT DISTINCT m.zone FROM meeting m
WHERE m.called_off_at IS NULL AND EXISTS (SELECT 1 FROM occurrence o WHERE o.meeting_id = m.id AND o.ends > @now);

-- name: MeetingsInZone :many
SELECT m.id FROM meeting m WHERE m.called_off_at IS NULL AND m.zone = @zone
  AND EXISTS (SELECT 1 FROM occurrence o WHERE o.meeting_id = m.id AND o.ends > @now) ORDER BY m.id;

-- name: MeetingsWrittenTo :many
-- The series whose dates are written down up to a day before this one.
SELECT id FROM meeting WHERE written_to < @day AND called_off_at IS NULL ORDER BY id;

-- name: SetWrittenTo :exec
UPDATE meeting SET written_to = @written_to WHERE id = @id;

-- name: ZonePrint :one
SELECT print FROM zone_print WHERE zone = @zone;

-- name: SetZonePrint :exec
INSERT INTO zone_print (zone, print) VALUES (@zone, @print) ON CONFLICT (zone) DO UPDATE SET print = excluded.print;

-- name: RoomsTaken :many
-- What all rooms are taken by in a window, and whether somebody is part of it; what it is
-- called is read where they are, or where a level shows titles.
SELECT x.room_id, x.starts::timestamptz AS starts, x.ends::timestamptz AS ends, x.booked_at, x.by_name, x.private, x.kind, x.until, x.level::text AS shares,
    coalesce(x.meeting_id, '00000000-0000-0000-0000-000000000000')::uuid AS meeting_id,
    coalesce(CASE WHEN x.is_mine OR x.level = ANY(@titled::text[]) THEN
        (SELECT v.content->>'title' FROM meeting m JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version WHERE m.id = x.meeting_id) END, '')::text AS title,
    coalesce(CASE WHEN x.is_mine THEN (SELECT o.on_day FROM occurrence o WHERE o.id = x.occurrence_id) END, '1970-01-01')::date AS on_day, x.is_mine::boolean AS mine
FROM (
    SELECT b.room_id, lower(b.during) AS starts, upper(b.during) AS ends, b.booked_at, p.name AS by_name, b.private, b.kind, b.until, b.meeting_id, b.occurrence_id,
        coalesce((SELECT h.level FROM sharing h WHERE h.person_id = b.owner_id AND h.with_id = @person::uuid), p.shares) AS level,
        b.owner_id = @person OR EXISTS (SELECT 1 FROM participant q WHERE q.meeting_id = b.meeting_id AND q.person_id = @person AND q.removed_at IS NULL) AS is_mine
    FROM booking b JOIN person p ON p.id = b.owner_id
    WHERE b.during && tstzrange(@starts::timestamptz, @ends::timestamptz) AND stands(b.kind, b.until, b.owner_id, NULL, @now::timestamptz)
) x ORDER BY x.starts;

-- name: SetParticipations :exec
-- Makes these the rows of a meeting, or of one of those invited to it; what is the same stays.
WITH given AS MATERIALIZED (
    SELECT unnest(@participants::uuid[]) AS participant_id, unnest(@occurrences::uuid[]) AS occurrence_id, unnest(@people::uuid[]) AS person_id,
        unnest(@needed::boolean[]) AS needed, unnest(@answers::text[]) AS answer, unnest(@waits::boolean[]) AS waits
), gone AS (
    DELETE FROM participation x USING occurrence o WHERE o.meeting_id = @meeting_id AND x.occurrence_id = o.id
        AND (@one::uuid = '00000000-0000-0000-0000-000000000000' OR x.participant_id = @one)
        AND NOT EXISTS (SELECT 1 FROM given g WHERE g.participant_id = x.participant_id AND g.occurrence_id = x.occurrence_id)
)
INSERT INTO participation AS x (participant_id, occurrence_id, meeting_id, person_id, on_day, starts, ends, needed, answer, waits)
SELECT g.participant_id, o.id, o.meeting_id, nullif(g.person_id, '00000000-0000-0000-0000-000000000000'::uuid), o.on_day, o.starts, o.ends, g.needed, g.answer, g.waits
FROM given g JOIN occurrence o ON o.id = g.occurrence_id
ON CONFLICT (participant_id, occurrence_id) DO UPDATE SET needed = excluded.needed, answer = excluded.answer, waits = excluded.waits
WHERE (x.needed, x.answer, x.waits) IS DISTINCT FROM (excluded.needed, excluded.answer, excluded.waits);

-- name: ParticipationsDue :many
SELECT meeting_id FROM participation_due ORDER BY meeting_id LIMIT @most;

-- name: ParticipationsWritten :exec
DELETE FROM participation_due WHERE meeting_id = @meeting_id;
