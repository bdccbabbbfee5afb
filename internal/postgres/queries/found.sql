-- name: DeleteFound :exec
DELETE FROM found WHERE meeting_id = @meeting_id;

-- name: InsertFound :exec
-- Most who may open a meeting see the same words: each text is read once. Which says
-- which is whose, counted from 1.
WITH texts AS MATERIALIZED (
    SELECT t.n, setweight(to_tsvector('found', t.title), 'A') || to_tsvector('found', t.words) AS document
    FROM (SELECT unnest(@titles::text[]) AS title, unnest(@words::text[]) AS words, generate_series(1, cardinality(@titles::text[])) AS n) t
)
INSERT INTO found (meeting_id, person_id, document, starts)
SELECT @meeting_id, t.p, x.document, t.s
FROM (SELECT unnest(@people::uuid[]) AS p, unnest(@which::int[]) AS w, unnest(@starts::timestamptz[]) AS s) t JOIN texts x ON x.n = t.w
ON CONFLICT (meeting_id, person_id) DO NOTHING;

-- name: FindMeetings :many
-- Meetings that somebody may open and that hold all words, those to come first, the
-- nearest before the others. The date is the one nearest to now, within a window where
-- there is one; a meeting that was called off has none.
SELECT m.id, m.organiser_id, m.called_off_at, v.schema, v.content, p.id AS participant_id, coalesce(d.on_day, '1970-01-01')::date AS on_day, f.starts
FROM (SELECT * FROM found x WHERE x.person_id = @person_id AND x.document @@ to_tsquery('found', @words) ORDER BY x.starts DESC LIMIT 1000) f
JOIN meeting m ON m.id = f.meeting_id
JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version
LEFT JOIN participant p ON p.meeting_id = m.id AND p.person_id = f.person_id AND p.removed_at IS NULL
LEFT JOIN LATERAL (
    SELECT o.on_day, o.starts, o.ends FROM occurrence o WHERE o.meeting_id = m.id AND o.starts < @until::timestamptz AND o.ends > @since::timestamptz
        AND (p.id IS NULL OR EXISTS (SELECT 1 FROM participation x WHERE x.participant_id = p.id AND x.occurrence_id = o.id))
    ORDER BY o.ends <= @now::timestamptz, abs(extract(epoch FROM o.starts - @now::timestamptz)) LIMIT 1
) d ON true
WHERE d.starts IS NOT NULL OR f.starts < @until AND f.starts >= @since AND m.called_off_at IS NOT NULL
ORDER BY coalesce(d.ends, f.starts) <= @now, abs(extract(epoch FROM coalesce(d.starts, f.starts) - @now::timestamptz)), m.id
LIMIT @most OFFSET @skip;

-- name: MeetingsNotFound :many
-- Meetings that nobody can find yet.
SELECT m.id FROM meeting m WHERE NOT EXISTS (SELECT 1 FROM found f WHERE f.meeting_id = m.id) ORDER BY m.id LIMIT @most;

-- name: DaysWithMeetings :many
-- On how many occasions somebody's time is taken on each day of a window, by the clock
-- of a zone.
SELECT (lower(b.during) AT TIME ZONE @zone::text)::date AS day, count(DISTINCT b.occurrence_id)::int AS meetings FROM busy b
WHERE b.person_id = @person_id AND lower(b.during) < @ends::timestamptz AND lower(b.during) >= @starts::timestamptz AND b.occurrence_id IS NOT NULL
GROUP BY 1 ORDER BY 1;
