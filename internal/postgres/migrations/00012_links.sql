-- +goose Up
-- Who adds providers and keeps their descriptions.
ALTER TABLE person ADD COLUMN keeps_providers boolean NOT NULL DEFAULT false;

-- A conferencing provider: the description being written, and what is in use of it. Secrets
-- are sealed; secret_names say which there are.
CREATE TABLE provider (
    key           text PRIMARY KEY CHECK (key ~ '^[a-z0-9][a-z0-9-]{0,39}$'),
    draft         text NOT NULL,
    draft_version int NOT NULL DEFAULT 1,
    version       int NOT NULL DEFAULT 0, -- the newest that was put into use, 0 for none
    in_use        boolean NOT NULL DEFAULT false,
    service       jsonb,                  -- what that version can do
    secrets       bytea,
    secret_names  text[] NOT NULL DEFAULT '{}',
    added_at      timestamptz NOT NULL
);

-- Every version that was put into use; calls that were made by it name it.
CREATE TABLE provider_version (
    provider    text NOT NULL REFERENCES provider ON DELETE CASCADE,
    version     int NOT NULL,
    description text NOT NULL,
    made_by     uuid REFERENCES person ON DELETE SET NULL,
    made_at     timestamptz NOT NULL,
    PRIMARY KEY (provider, version)
);

-- A permanent way into a call, of a person, a room (with the id of the room) or a group.
-- Those in shared_with use it too.
CREATE TABLE standing_link (
    id          uuid PRIMARY KEY,
    kind        text NOT NULL CHECK (kind IN ('person', 'room', 'group')),
    name        text NOT NULL,
    owner_id    uuid REFERENCES person ON DELETE CASCADE, -- NULL for a room
    shared_with uuid[] NOT NULL DEFAULT '{}',
    card        jsonb NOT NULL,
    version     int NOT NULL DEFAULT 1,
    made_at     timestamptz NOT NULL,
    CHECK ((kind = 'room') = (owner_id IS NULL))
);
CREATE INDEX standing_link_owner ON standing_link (owner_id);
CREATE INDEX standing_link_shared ON standing_link USING gin (shared_with);

INSERT INTO standing_link (id, kind, name, card, made_at)
SELECT id, 'room', name, jsonb_build_object('kind', 'standing', 'provider', '', 'name', '', 'standsAs', id, 'url', link), now()
FROM room WHERE link <> '';

-- Where the call of a meeting is: at a provider, in somebody's account, or in a standing room.
ALTER TABLE meeting
    ADD COLUMN call_provider text,
    ADD COLUMN call_owner uuid,
    ADD COLUMN standing_id uuid;
UPDATE meeting m SET call_provider = v.content -> 'card' ->> 'provider',
    call_owner = coalesce(nullif(v.content -> 'card' ->> 'owner', '')::uuid, m.organiser_id)
FROM meeting_version v WHERE v.meeting_id = m.id AND v.version = m.version AND v.content -> 'card' ->> 'provider' <> '';
CREATE INDEX meeting_call ON meeting (call_provider, call_owner) WHERE call_provider IS NOT NULL;
CREATE INDEX meeting_standing ON meeting (standing_id) WHERE standing_id IS NOT NULL;

-- Somebody may sign in without a sheet, to try a provider out.
ALTER TABLE connecting ALTER COLUMN sheet_id DROP NOT NULL;

-- When it was last looked whether the call of a meeting is still there.
ALTER TABLE meeting ADD COLUMN call_seen_at timestamptz;
DROP INDEX occurrence_meeting;
CREATE INDEX occurrence_meeting ON occurrence (meeting_id, starts);
CREATE INDEX occurrence_starts ON occurrence (starts);

-- +goose Down
DELETE FROM connecting WHERE sheet_id IS NULL;
ALTER TABLE connecting ALTER COLUMN sheet_id SET NOT NULL;
DROP INDEX occurrence_starts;
DROP INDEX occurrence_meeting;
CREATE INDEX occurrence_meeting ON occurrence (meeting_id);
ALTER TABLE meeting DROP COLUMN call_seen_at, DROP COLUMN standing_id, DROP COLUMN call_owner, DROP COLUMN call_provider;
DROP TABLE standing_link;
DROP TABLE provider_version;
DROP TABLE provider;
ALTER TABLE person DROP COLUMN keeps_providers;
