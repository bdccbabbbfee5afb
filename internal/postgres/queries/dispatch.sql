-- name: InsertDispatches :exec
INSERT INTO dispatch (id, meeting_id, version, participant_id, kind, channel, words, state, queued_at, handed_at, on_days, recurrence_ids, stamp, address, stage, stage_at)
SELECT t.id, t.m, t.v, t.p, t.k, t.c, t.w, t.st, t.q, nullif(t.h, 'epoch'::timestamptz), string_to_array(t.d, ',')::date[],
    string_to_array(t.r, ',')::timestamptz[], t.s, t.a, t.sg, nullif(t.h, 'epoch'::timestamptz)
FROM (SELECT unnest(@ids::uuid[]) AS id, unnest(@meetings::uuid[]) AS m, unnest(@versions::int[]) AS v, unnest(@participants::uuid[]) AS p,
    unnest(@kinds::text[]) AS k, unnest(@channels::text[]) AS c, unnest(@words::text[]) AS w, unnest(@states::text[]) AS st,
    unnest(@queued_at::timestamptz[]) AS q, unnest(@handed_at::timestamptz[]) AS h, unnest(@days::text[]) AS d,
    unnest(@recurrence_ids::text[]) AS r, unnest(@stamps::timestamptz[]) AS s, unnest(@addresses::text[]) AS a, unnest(@stages::text[]) AS sg) t;

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

-- name: LatestDispatches :many
-- The newest message to each participant of a meeting that tells them something.
SELECT DISTINCT ON (participant_id) * FROM dispatch WHERE meeting_id = @meeting_id AND kind <> 'clear'
ORDER BY participant_id, version DESC, stamp DESC NULLS LAST, queued_at DESC;

-- name: EarlierDispatches :many
-- What one participant was sent of a meeting before a message, oldest first.
SELECT * FROM dispatch WHERE participant_id = @participant_id AND channel = 'mail' AND
    (version < @version OR version = @version AND stamp < @stamp::timestamptz) ORDER BY version, stamp;

-- name: DispatchesQueuedBefore :many
SELECT id FROM dispatch WHERE state = 'queued' AND queued_at < @at ORDER BY queued_at LIMIT 1000;
