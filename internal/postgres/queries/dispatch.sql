-- name: InsertDispatch :exec
INSERT INTO dispatch (id, meeting_id, version, participant_id, kind, channel, words, state, queued_at, handed_at, on_days)
VALUES (@id, @meeting_id, @version, @participant_id, @kind, @channel, @words, @state, @queued_at, @handed_at, @on_days);

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
SELECT id FROM dispatch WHERE participant_id = @participant_id AND version < @version AND channel = 'mail' ORDER BY version;
