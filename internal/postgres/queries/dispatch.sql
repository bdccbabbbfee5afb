-- name: InsertDispatches :exec
INSERT INTO dispatch (id, meeting_id, version, participant_id, kind, channel, words, state, queued_at, handed_at, on_days, recurrence_ids, stamp, address, stage, stage_at, cover, subject)
SELECT t.id, t.m, t.v, t.p, t.k, t.c, t.w, t.st, t.q, nullif(t.h, 'epoch'::timestamptz), string_to_array(t.d, ',')::date[],
    string_to_array(t.r, ',')::timestamptz[], t.s, t.a, t.sg, nullif(t.h, 'epoch'::timestamptz), t.cv, t.sj
FROM (SELECT unnest(@ids::uuid[]) AS id, unnest(@meetings::uuid[]) AS m, unnest(@versions::int[]) AS v, unnest(@participants::uuid[]) AS p,
    unnest(@kinds::text[]) AS k, unnest(@channels::text[]) AS c, unnest(@words::text[]) AS w, unnest(@states::text[]) AS st,
    unnest(@queued_at::timestamptz[]) AS q, unnest(@handed_at::timestamptz[]) AS h, unnest(@days::text[]) AS d,
    unnest(@recurrence_ids::text[]) AS r, unnest(@stamps::timestamptz[]) AS s, unnest(@addresses::text[]) AS a, unnest(@stages::text[]) AS sg,
    unnest(@covers::text[]) AS cv, unnest(@subjects::text[]) AS sj) t;

-- name: SetMeetingsSent :exec
UPDATE meeting SET sent_at = @at WHERE id = ANY(@ids::uuid[]);

-- name: Dispatch :one
SELECT * FROM dispatch WHERE id = @id;

-- name: LockDispatch :one
SELECT * FROM dispatch WHERE id = @id FOR UPDATE;

-- name: UpdateDispatch :exec
UPDATE dispatch SET state = @state, detail = @detail, handed_at = @handed_at, stage = @stage, stage_at = @stage_at, trouble = @trouble,
    trouble_at = @trouble_at, trouble_code = @trouble_code, trouble_server = @trouble_server, trouble_said = @trouble_said,
    mended_at = @mended_at, mended = @mended
WHERE id = @id;

-- name: InsertDispatchEvents :exec
INSERT INTO dispatch_event (dispatch_id, at, kind, address, server, code, said)
SELECT @dispatch_id, t.at, t.kind, t.address, t.server, t.code, t.said
FROM (SELECT unnest(@at::timestamptz[]) AS at, unnest(@kinds::text[]) AS kind, unnest(@addresses::text[]) AS address, unnest(@servers::text[]) AS server,
    unnest(@codes::text[]) AS code, unnest(@said::text[]) AS said) t;

-- name: DispatchEvents :many
-- What was heard of some messages, the newest first of each.
SELECT * FROM dispatch_event WHERE dispatch_id = ANY(@ids::uuid[]) ORDER BY dispatch_id, id DESC LIMIT 500;

-- name: NewestMail :one
-- The newest mail to a participant.
SELECT id FROM dispatch WHERE participant_id = @participant_id AND channel = 'mail' ORDER BY version DESC, stamp DESC NULLS LAST, queued_at DESC LIMIT 1;

-- name: EarlierDispatches :many
-- What one participant was sent of a meeting before a message, oldest first.
SELECT * FROM dispatch WHERE participant_id = @participant_id AND channel = 'mail' AND
    (version < @version OR version = @version AND stamp < @stamp::timestamptz) ORDER BY version, stamp;

-- name: SentMeetings :many
-- The meetings of an organiser about which something was sent, the newest first; only those with
-- something open, or with somebody whose name or address holds some words.
SELECT m.id FROM meeting m
WHERE m.organiser_id = @organiser_id AND m.sent_at IS NOT NULL
    AND (NOT @troubled::bool OR EXISTS (SELECT 1 FROM dispatch d WHERE d.meeting_id = m.id AND d.trouble <> '' AND d.mended_at IS NULL))
    AND (@words::text = '' OR EXISTS (SELECT 1 FROM participant p WHERE p.meeting_id = m.id AND (p.name ILIKE @words OR p.email ILIKE @words OR p.reach_at ILIKE @words)))
ORDER BY m.sent_at DESC, m.id LIMIT @most OFFSET @skip;

-- name: SentInHouse :many
-- The same of everybody.
SELECT m.id FROM meeting m
WHERE m.sent_at IS NOT NULL
    AND (NOT @troubled::bool OR EXISTS (SELECT 1 FROM dispatch d WHERE d.meeting_id = m.id AND d.trouble <> '' AND d.mended_at IS NULL))
    AND (@words::text = '' OR EXISTS (SELECT 1 FROM participant p WHERE p.meeting_id = m.id AND (p.name ILIKE @words OR p.email ILIKE @words OR p.reach_at ILIKE @words)))
ORDER BY m.sent_at DESC, m.id LIMIT @most OFFSET @skip;

-- name: TroubledOf :one
-- How many messages of an organiser did not get there, and how many are on their way for longer
-- than it takes, to meetings that are not over.
SELECT count(*) FILTER (WHERE d.state = 'failed')::int AS lost, count(*) FILTER (WHERE d.state <> 'failed')::int AS other
FROM meeting m JOIN dispatch d ON d.meeting_id = m.id
WHERE m.organiser_id = @organiser_id AND m.sent_at > @since AND d.trouble <> '' AND d.mended_at IS NULL;

-- name: NewestOfMeetings :many
-- The newest message to each participant of some meetings; one that did not get there stands
-- before what was sent since.
SELECT DISTINCT ON (meeting_id, participant_id) * FROM dispatch WHERE meeting_id = ANY(@ids::uuid[]) AND kind NOT IN ('clear', 'keep')
ORDER BY meeting_id, participant_id, (trouble <> '' AND mended_at IS NULL) DESC, version DESC, stamp DESC NULLS LAST, queued_at DESC;

-- name: ParticipantsOf :many
SELECT * FROM participant WHERE meeting_id = ANY(@ids::uuid[]);

-- name: SeenInside :many
-- When people inside last read what is new about some meetings.
SELECT meeting_id, person_id, max(read_at)::timestamptz AS read_at FROM news
WHERE meeting_id = ANY(@ids::uuid[]) AND kind <> 'event' AND read_at IS NOT NULL GROUP BY meeting_id, person_id;

-- name: MendOlder :exec
-- What is told anew in full needs no mending any more.
UPDATE dispatch SET mended_at = @at, mended = @mended
WHERE participant_id = ANY(@participants::uuid[]) AND trouble <> '' AND mended_at IS NULL AND id <> ALL(@but::uuid[]);

-- name: SetReachAt :exec
UPDATE participant SET reach_at = @reach_at WHERE id = @id;

-- name: SawPage :exec
UPDATE participant SET page_seen = @version WHERE id = @id AND page_seen < @version;

-- name: RenewPage :exec
UPDATE participant SET page = page + 1 WHERE id = @id;

-- name: KeepAlias :exec
INSERT INTO alias (person_id, email, also, learnt_at) VALUES (@person_id, lower(@email::text), lower(@also::text), @learnt_at)
ON CONFLICT (person_id, email, also) DO UPDATE SET learnt_at = excluded.learnt_at;

-- name: AliasesOf :many
-- What somebody knows of one address: other addresses of the same person, the newest first.
SELECT (CASE WHEN a.email = lower(@email::text) THEN a.also ELSE a.email END)::text AS address, a.learnt_at FROM alias a
WHERE a.person_id = @person_id AND lower(@email::text) IN (a.email, a.also) ORDER BY a.learnt_at DESC LIMIT 10;

-- name: OtherAddresses :many
-- Where somebody of the same name was reached for an organiser, the newest first.
SELECT lower(p.email)::text AS address, m.id AS meeting_id, max(d.queued_at)::timestamptz AS at
FROM participant p JOIN meeting m ON m.id = p.meeting_id JOIN dispatch d ON d.participant_id = p.id
WHERE m.organiser_id = @organiser_id AND lower(p.name) = lower(@name::text) AND p.person_id IS NULL AND p.name <> p.email AND lower(p.email) <> lower(@email::text)
    AND d.state = 'handed' AND d.trouble = ''
GROUP BY 1, 2 ORDER BY 3 DESC LIMIT 5;

-- name: DispatchesQueuedBefore :many
SELECT id FROM dispatch WHERE state = 'queued' AND queued_at < @at ORDER BY queued_at LIMIT 1000;
