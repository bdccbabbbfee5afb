-- name: UpsertAddress :one
-- Keeps the code that there is.
INSERT INTO meeting_address (meeting_id, code, asks, made_at) VALUES (@meeting_id, @code, @asks, @made_at)
ON CONFLICT (meeting_id) DO UPDATE SET asks = @asks RETURNING code, asks;

-- name: AddressOf :one
SELECT code, asks FROM meeting_address WHERE meeting_id = @meeting_id;

-- name: MeetingAtAddress :one
SELECT meeting_id, asks FROM meeting_address WHERE code = @code;

-- name: DeleteAddress :exec
DELETE FROM meeting_address WHERE meeting_id = @meeting_id;

-- name: MoveAddress :exec
UPDATE meeting_address SET meeting_id = @after WHERE meeting_id = @before;

-- name: JoinedSince :one
-- How many asked for an invitation to a meeting, and got it, since a moment: among its latest lines.
SELECT count(*)::int FROM (SELECT kind, at FROM happening WHERE meeting_id = @meeting_id ORDER BY id DESC LIMIT 400) h
WHERE h.kind = 'joined' AND h.at > @since::timestamptz;
