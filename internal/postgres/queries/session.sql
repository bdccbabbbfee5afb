-- name: InsertSession :exec
INSERT INTO session (token_hash, person_id, created_at, expires_at, seen_at) VALUES (@token_hash, @person_id, @created_at, @expires_at, @created_at);

-- name: SessionPerson :one
SELECT s.person_id, s.seen_at, p.language FROM session s JOIN person p ON p.id = s.person_id
WHERE s.token_hash = @token_hash AND s.expires_at > @now AND s.seen_at > @idle_since;

-- name: TouchSession :exec
UPDATE session SET seen_at = @now WHERE token_hash = @token_hash;

-- name: DeleteSession :one
DELETE FROM session WHERE token_hash = @token_hash RETURNING person_id;

-- name: DeleteSessionsOf :exec
DELETE FROM session WHERE person_id = @person_id AND token_hash <> @but;

-- name: DeleteOldSessions :exec
DELETE FROM session WHERE expires_at <= @now OR seen_at <= @idle_since;

-- name: Throttles :many
SELECT key, fails, last_at FROM throttle WHERE key = ANY(@keys::text[]);

-- name: AddFails :exec
-- A try that failed; what is older than an hour is forgotten.
INSERT INTO throttle (key, fails, last_at) SELECT unnest(@keys::text[]), 1, @now
ON CONFLICT (key) DO UPDATE SET last_at = excluded.last_at,
    fails = CASE WHEN throttle.last_at < excluded.last_at - interval '1 hour' THEN 1 ELSE throttle.fails + 1 END;

-- name: DeleteThrottle :exec
DELETE FROM throttle WHERE key = @key;

-- name: DeleteOldThrottles :exec
DELETE FROM throttle WHERE last_at < @before;

-- name: SetPassword :exec
UPDATE person SET password_hash = @password_hash WHERE id = @id;

-- name: OutsideMails :one
-- Mails to people outside that somebody caused since two moments.
SELECT coalesce(sum(count) FILTER (WHERE hour > @since_hour), 0)::int AS last_hour, coalesce(sum(count), 0)::int AS last_day
FROM outside_mail WHERE person_id = @person_id AND hour > @since_day;

-- name: AddOutsideMails :exec
INSERT INTO outside_mail (person_id, hour, count) VALUES (@person_id, @hour, @count)
ON CONFLICT (person_id, hour) DO UPDATE SET count = outside_mail.count + excluded.count;

-- name: DatabaseNow :one
SELECT clock_timestamp()::timestamptz;

-- name: LastStamp :one
-- The latest moment that was written down.
SELECT greatest((SELECT max(stamp) FROM meeting_version), (SELECT max(at) FROM happening), 'epoch'::timestamptz)::timestamptz;
