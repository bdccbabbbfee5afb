-- name: InsertSession :exec
INSERT INTO session (token_hash, person_id, created_at, expires_at) VALUES (@token_hash, @person_id, @created_at, @expires_at);

-- name: SessionPerson :one
SELECT person_id FROM session WHERE token_hash = @token_hash AND expires_at > @now;

-- name: DeleteSession :exec
DELETE FROM session WHERE token_hash = @token_hash;

-- name: DeleteOldSessions :exec
DELETE FROM session WHERE expires_at <= @now;
