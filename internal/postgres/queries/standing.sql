-- name: StandingLinks :many
-- Those that somebody may use: their own, those shared with them, and those of rooms.
SELECT sqlc.embed(l), ARRAY(SELECT s.person_id FROM standing_share s WHERE s.link_id = l.id ORDER BY s.place)::uuid[] AS shared_with
FROM standing_link l WHERE l.owner_id = @person_id OR l.id = ANY(ARRAY(SELECT s.link_id FROM standing_share s WHERE s.person_id = @person_id)::uuid[])
    OR l.kind = 'room' AND l.id = ANY(@rooms::uuid[])
ORDER BY l.kind, lower(l.name), l.id LIMIT @most;

-- name: StandingLink :one
SELECT sqlc.embed(l), ARRAY(SELECT s.person_id FROM standing_share s WHERE s.link_id = l.id ORDER BY s.place)::uuid[] AS shared_with
FROM standing_link l WHERE l.id = @id;

-- name: LockStandingRow :one
SELECT id FROM standing_link WHERE id = @id FOR NO KEY UPDATE;

-- name: UpsertStandingLink :execrows
INSERT INTO standing_link (id, kind, name, owner_id, card, made_at) VALUES (@id, @kind, @name, @owner_id, @card, @made_at)
ON CONFLICT (id) DO UPDATE SET name = excluded.name, card = excluded.card, version = standing_link.version + 1
WHERE standing_link.owner_id IS NOT DISTINCT FROM excluded.owner_id;

-- name: DropSharesOf :exec
DELETE FROM standing_share WHERE link_id = @link;

-- name: InsertShares :exec
INSERT INTO standing_share (link_id, person_id, place)
SELECT @link, s.id, s.place FROM unnest(@people::uuid[]) WITH ORDINALITY s(id, place) ON CONFLICT DO NOTHING;

-- name: DeleteStandingLink :exec
DELETE FROM standing_link WHERE id = @id;

-- name: StandingUses :many
-- When a standing link is used by others, as far as its reader may know of it.
SELECT o.starts, o.ends, m.id AS meeting_id, (v.content ->> 'title')::text AS title, m.private, p.name AS by_name, m.organiser_id,
    (m.organiser_id = @reader OR EXISTS (SELECT 1 FROM participant i WHERE i.meeting_id = m.id AND i.person_id = @reader AND i.removed_at IS NULL))::boolean AS mine,
    coalesce(s.level, p.shares)::text AS shares
FROM meeting m JOIN occurrence o ON o.meeting_id = m.id
JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version
JOIN person p ON p.id = m.organiser_id
LEFT JOIN sharing s ON s.person_id = m.organiser_id AND s.with_id = @reader
WHERE m.standing_id = @id AND m.id <> @but AND m.called_off_at IS NULL AND o.starts < @until AND o.ends > @since
ORDER BY o.starts LIMIT 500;

-- name: CallUses :many
-- When other meetings have a call at a provider, in one account where that is named.
SELECT o.starts, o.ends FROM meeting m JOIN occurrence o ON o.meeting_id = m.id
WHERE m.call_provider = @provider AND (@owner::uuid = '00000000-0000-0000-0000-000000000000' OR m.call_owner = @owner)
    AND m.id <> @but AND m.called_off_at IS NULL AND o.starts < @until AND o.ends > @since
ORDER BY o.starts LIMIT 2000;

-- name: MeetingsOfStanding :many
-- Meetings to come that use a standing link, in the order in which they are locked.
SELECT m.id FROM meeting m WHERE m.standing_id = @id AND m.called_off_at IS NULL
    AND EXISTS (SELECT 1 FROM occurrence o WHERE o.meeting_id = m.id AND o.ends > @now) ORDER BY m.id;

-- name: CountOfStanding :one
SELECT count(*)::int FROM meeting m WHERE m.standing_id = @id AND m.called_off_at IS NULL
    AND EXISTS (SELECT 1 FROM occurrence o WHERE o.meeting_id = m.id AND o.ends > @now);

-- name: CallsToCheck :many
-- Meetings soon to come whose call was made at a provider and not been looked at for long.
SELECT DISTINCT m.id FROM occurrence o JOIN meeting m ON m.id = o.meeting_id
WHERE o.starts > @now AND o.starts < @until AND m.call_provider IS NOT NULL AND m.standing_id IS NULL AND m.called_off_at IS NULL
    AND (m.call_seen_at IS NULL OR m.call_seen_at < @seen_before) LIMIT @most;

-- name: SetCallSeen :exec
UPDATE meeting SET call_seen_at = @at WHERE id = @id;

-- name: LeftSheets :many
-- Sheets that nobody has touched for long, with a call that was made for them: not with that
-- of the meeting that they change.
SELECT s.* FROM sheet s LEFT JOIN meeting m ON m.id = s.meeting_id
LEFT JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version
WHERE s.card IS NOT NULL AND s.send_at IS NULL AND s.updated_at < @before AND coalesce(s.card ->> 'kind', '') = '' AND s.card ->> 'provider' <> ''
    AND coalesce(s.card ->> 'follows', '') = '' AND (s.meeting_id IS NULL OR v.content -> 'card' ->> 'url' IS DISTINCT FROM s.card ->> 'url')
ORDER BY s.id LIMIT @most FOR NO KEY UPDATE OF s SKIP LOCKED;
