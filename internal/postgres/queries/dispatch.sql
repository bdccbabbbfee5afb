-- name: InsertDispatches :exec
INSERT INTO dispatch (id, meeting_id, version, participant_id, kind, channel, words, state, queued_at, handed_at, on_days)
SELECT t.id, t.m, t.v, t.p, t.k, t.c, t.w, t.st, t.q, nullif(t.h, 'epoch'::timestamptz), string_to_array(t.d, ',')::date[]
FROM (SELECT unnest(@ids::uuid[]) AS id, unnest(@meetings::uuid[]) AS m, unnest(@versions::int[]) AS v, unnest(@participants::uuid[]) AS p,
    unnest(@kinds::text[]) AS k, unnest(@channels::text[]) AS c, unnest(@words::text[]) AS w, unnest(@states::text[]) AS st,
    unnest(@queued_at::timestamptz[]) AS q, unnest(@handed_at::timestamptz[]) AS h, unnest(@days::text[]) AS d) t;

-- name: Dispatch :one
SELECT * FROM dispatch WHERE id = @id;

-- name: LockDispatch :one
SELECT * FROM dispatch WHERE id = @id FOR UPDATE;

-- name: UpdateDispatch :exec
UPDATE dispatch SET state = @state, detail = @detail, handed_at = @handed_at WHERE id = @id;

-- name: LatestDispatches :many
-- The newest message to each participant of a meeting.
SELECT DISTINCT ON (participant_id) * FROM dispatch WHERE meeting_id = @meeting_id
ORDER BY participant_id, version DESC, queued_at DESC;

-- name: EarlierDispatches :many
-- What one participant was sent of a meeting before this version, oldest first.
SELECT * FROM dispatch WHERE participant_id = @participant_id AND version < @version AND channel = 'mail' ORDER BY version;

-- name: DispatchesQueuedBefore :many
SELECT id FROM dispatch WHERE state = 'queued' AND queued_at < @at ORDER BY queued_at LIMIT 1000;
