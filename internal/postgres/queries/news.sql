-- name: InsertNews :exec
INSERT INTO news (id, person_id, meeting_id, sheet_id, kind, facts, at)
SELECT t.id, t.p, nullif(t.m, '00000000-0000-0000-0000-000000000000'::uuid), nullif(t.s, '00000000-0000-0000-0000-000000000000'::uuid), t.k, t.f::jsonb, @at
FROM (SELECT unnest(@ids::uuid[]) AS id, unnest(@people::uuid[]) AS p, unnest(@meetings::uuid[]) AS m, unnest(@sheets::uuid[]) AS s, unnest(@kinds::text[]) AS k,
    unnest(@facts::text[]) AS f) t;

-- name: News :many
-- What is new for somebody, the newest first, with how they stand to the meeting now.
SELECT sqlc.embed(n), coalesce(m.organiser_id, '00000000-0000-0000-0000-000000000000')::uuid AS organiser_id, m.called_off_at, p.id AS participant_id,
    coalesce((SELECT greatest(p.sent_sequence, max(a.sent_sequence)) FROM answer_on a WHERE a.participant_id = p.id), 0)::int AS sequence,
    EXISTS (SELECT 1 FROM participation x WHERE x.participant_id = p.id AND x.waits AND x.ends > @now::timestamptz) AS waits,
    EXISTS (SELECT 1 FROM participant r WHERE r.meeting_id = n.meeting_id AND r.person_id = n.person_id AND r.off_version > 0) AS was_off,
    EXISTS (SELECT 1 FROM room_request q WHERE q.meeting_id = n.meeting_id AND q.state = 'open' AND q.room_id::text = n.facts->>'roomId') AS decides
FROM news n LEFT JOIN meeting m ON m.id = n.meeting_id
LEFT JOIN participant p ON p.meeting_id = n.meeting_id AND p.person_id = n.person_id AND p.removed_at IS NULL
WHERE n.person_id = @person_id ORDER BY n.at DESC, n.id DESC LIMIT @most OFFSET @skip;

-- name: UnreadNews :one
SELECT count(*)::int FROM (SELECT 1 FROM news WHERE person_id = @person_id AND read_at IS NULL LIMIT 1000) n;

-- name: ReadNews :execrows
-- Marks as read: some, or all of a meeting, or, up to a moment, everything.
UPDATE news SET read_at = @now::timestamptz WHERE person_id = @person_id AND read_at IS NULL
    AND (id = ANY(@ids::uuid[]) OR meeting_id = @meeting_id::uuid OR at <= @up_to::timestamptz);

-- name: NewsToMail :many
-- Who has something new that nobody told them by mail, since before a moment.
SELECT n.person_id, max(n.at)::timestamptz AS latest, count(*)::int AS count FROM news n JOIN person p ON p.id = n.person_id
WHERE n.read_at IS NULL AND n.mailed_at IS NULL AND n.at < @before AND n.at > @since
    AND (p.news_mail = 'always' OR p.news_mail = 'away'
        AND NOT EXISTS (SELECT 1 FROM session s WHERE s.person_id = p.id AND s.seen_at > @away_since))
GROUP BY n.person_id ORDER BY min(n.at) LIMIT 200;

-- name: UnmailedNews :many
SELECT * FROM news WHERE person_id = @person_id AND read_at IS NULL AND mailed_at IS NULL AND at <= @up_to ORDER BY at, id LIMIT 100;

-- name: SetNewsMailed :exec
UPDATE news SET mailed_at = @now WHERE person_id = @person_id AND mailed_at IS NULL AND at <= @up_to;

-- name: SetNewsMail :exec
UPDATE person SET news_mail = @news_mail WHERE id = @id;

-- name: OwnClashes :many
-- Where dates to come of some meetings that somebody is invited to overlap with what else they
-- have: the first few of each meeting.
SELECT c.meeting_id, c.on_day, c.kind, coalesce(v.content->>'title', '')::text AS title, c.other_starts
FROM unnest(@meetings::uuid[]) asked(id) CROSS JOIN LATERAL (
    SELECT x.meeting_id, x.on_day, b.kind, b.meeting_id AS other_id, lower(b.during)::timestamptz AS other_starts
    FROM participant p JOIN participation x ON x.participant_id = p.id
    JOIN busy b ON b.person_id = p.person_id AND lower(b.during) < x.ends AND lower(b.during) > x.starts - interval '24 hours' AND upper(b.during) > x.starts
        AND b.meeting_id IS DISTINCT FROM x.meeting_id AND b.kind = ANY(@kinds::text[])
    WHERE p.meeting_id = asked.id AND p.person_id = @person_id AND p.removed_at IS NULL AND x.ends > @now
    ORDER BY x.starts, lower(b.during) LIMIT 12
) c
LEFT JOIN meeting m ON m.id = c.other_id
LEFT JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version
ORDER BY c.meeting_id, c.on_day, c.other_starts;
