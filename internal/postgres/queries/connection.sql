-- name: Connection :one
SELECT sealed FROM connection WHERE person_id = @person_id AND provider = @provider;

-- name: UpsertConnection :exec
INSERT INTO connection (person_id, provider, sealed, updated_at) VALUES (@person_id, @provider, @sealed, @updated_at)
ON CONFLICT (person_id, provider) DO UPDATE SET sealed = excluded.sealed, updated_at = excluded.updated_at;

-- name: DeleteConnection :exec
DELETE FROM connection WHERE person_id = @person_id AND provider = @provider;

-- name: InsertConnecting :exec
INSERT INTO connecting (state_hash, person_id, provider, verifier, sheet_id, expires_at)
VALUES (@state_hash, @person_id, @provider, @verifier, @sheet_id, @expires_at);

-- name: TakeConnecting :one
DELETE FROM connecting WHERE state_hash = @state_hash AND person_id = @person_id AND expires_at > @now RETURNING *;

-- name: DeleteOldConnecting :exec
DELETE FROM connecting WHERE expires_at <= @now;
