-- name: InsertDispatches :exec
INSERT INTO dispatch (id, meeting_id, version, participant_id, kind, channel, words, state, queued_at, handed_at, on_days, recurrence_ids, stamp)
SELECT t.id, t.m, t.v, t.p, t.k, t.c, t.w, t.st, t.q, nullif(t.h, 'epoch'::timestamptz), string_to_array(t.d, ',')::date[],
    string_to_array(t.r, ',')::timestamptz[], t.s
FROM (SELECT unnest(@ids::uuid[]) AS id, unnest(@meetings::uuid[]) AS m, unnest(@versions::int[]) AS v, unnest(@participants::uuid[]) AS p,
    unnest(@kinds::text[]) AS k, unnest(@channels::text[]) AS c, unnest(@words::text[]) AS w, unnest(@states::text[]) AS st,
    unnest(@queued_at::timestamptz[]) AS q, unnest(@handed_at::timestamptz[]) AS h, unnest(@days::text[]) AS d,
    unnest(@recurrence_ids::text[]) AS r, unnest(@stamps::timestamptz[]) AS s) t;

-- name: Dispatch :one
SELECT * FROM dispatch WHERE id = @id;

-- name: LockDispatch :one
SELECT * FROM dispatch WHERE id = @id FOR UPDATE;

-- name: UpdateDispatch :exec
UPDATE dispatch SET state = @state, detail = @detail, handed_at = @handed_at WHERE id = @id;

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
