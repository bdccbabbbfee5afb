-- name: Providers :many
-- A list of them: of what is being written no more than its beginning, and no secrets.
SELECT key, left(draft, 300)::text AS draft, draft_version, version, in_use, service, secret_names FROM provider ORDER BY key LIMIT @most;

-- name: ProvidersInUse :many
SELECT key, version, service FROM provider WHERE in_use ORDER BY key LIMIT @most;

-- name: ProviderByKey :one
SELECT * FROM provider WHERE key = @key;

-- name: LockProvider :one
SELECT * FROM provider WHERE key = @key FOR NO KEY UPDATE;

-- name: InsertProvider :execrows
INSERT INTO provider (key, draft, added_at) VALUES (@key, @draft, @added_at) ON CONFLICT (key) DO NOTHING;

-- name: UpdateProvider :exec
UPDATE provider SET draft = @draft, draft_version = @draft_version, version = @version, in_use = @in_use, service = @service,
    secrets = @secrets, secret_names = @secret_names WHERE key = @key;

-- name: DeleteProvider :exec
DELETE FROM provider WHERE key = @key;

-- name: InsertProviderVersion :exec
INSERT INTO provider_version (provider, version, description, made_by, made_at) VALUES (@provider, @version, @description, @made_by, @made_at);

-- name: ProviderVersion :one
SELECT description FROM provider_version WHERE provider = @provider AND version = @version;

-- name: ProviderVersions :many
SELECT v.version, v.made_at, coalesce(p.name, '')::text AS by_name FROM provider_version v LEFT JOIN person p ON p.id = v.made_by
WHERE v.provider = @provider ORDER BY v.version DESC LIMIT @most;

-- name: KeepProviders :execrows
UPDATE person SET keeps_providers = @keeps WHERE lower(email) = lower(@email) AND left_at IS NULL;

-- name: SignedInAt :many
-- At which providers somebody has an account.
SELECT provider FROM connection WHERE person_id = @person_id;

-- name: CountSignedIn :many
SELECT provider, count(*)::int AS people FROM connection GROUP BY provider;

-- name: UpcomingCallsAt :one
-- Meetings to come whose call is at a provider.
SELECT count(*)::int FROM meeting m WHERE m.call_provider = @provider AND m.called_off_at IS NULL
    AND EXISTS (SELECT 1 FROM occurrence o WHERE o.meeting_id = m.id AND o.starts > @now);

-- name: SealedTokens :many
-- The sign-ins of people at providers, as they are sealed.
SELECT person_id, provider, sealed FROM connection;

-- name: SealedSecrets :many
SELECT key, secrets FROM provider WHERE secrets IS NOT NULL;

-- name: ResealConnection :exec
UPDATE connection SET sealed = @sealed WHERE person_id = @person_id AND provider = @provider AND sealed = @was;

-- name: ResealProvider :exec
UPDATE provider SET secrets = @sealed WHERE key = @key AND secrets = @was;
