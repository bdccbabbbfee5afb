-- +goose Up
CREATE EXTENSION IF NOT EXISTS btree_gist;

CREATE TABLE site (
    id   uuid PRIMARY KEY,
    name text NOT NULL,
    zone text NOT NULL
);

-- Somebody with an account here. fold is what the directory is searched by:
-- name and address in lower case without accents.
CREATE TABLE person (
    id            uuid PRIMARY KEY,
    name          text NOT NULL,
    email         text NOT NULL,
    role          text NOT NULL DEFAULT '',
    site_id       uuid NOT NULL REFERENCES site,
    zone          text NOT NULL,
    hours         jsonb NOT NULL,
    password_hash text NOT NULL,
    fold          text NOT NULL
);
CREATE UNIQUE INDEX person_email ON person (lower(email));

-- Somebody outside who is known by name; hours is null when nobody knows them.
CREATE TABLE contact (
    id    uuid PRIMARY KEY,
    name  text NOT NULL,
    firm  text NOT NULL,
    email text NOT NULL,
    zone  text NOT NULL,
    hours jsonb,
    fold  text NOT NULL
);
CREATE UNIQUE INDEX contact_email ON contact (lower(email));

CREATE TABLE room (
    id        uuid PRIMARY KEY,
    site_id   uuid NOT NULL REFERENCES site,
    name      text NOT NULL,
    floor     text NOT NULL,
    seats     int NOT NULL CHECK (seats > 0),
    equipment text[] NOT NULL DEFAULT '{}',
    email     text NOT NULL
);

CREATE TABLE session (
    token_hash bytea PRIMARY KEY,
    person_id  uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    created_at timestamptz NOT NULL,
    expires_at timestamptz NOT NULL
);

CREATE TABLE meeting (
    id            uuid PRIMARY KEY,
    uid           text NOT NULL UNIQUE,
    organiser_id  uuid NOT NULL REFERENCES person,
    version       int NOT NULL,
    called_off_at timestamptz
);
CREATE INDEX meeting_organiser ON meeting (organiser_id);

-- Every version that was ever settled, whole; the newest is the meeting.
CREATE TABLE meeting_version (
    meeting_id uuid NOT NULL REFERENCES meeting ON DELETE CASCADE,
    version    int NOT NULL,
    content    jsonb NOT NULL,
    stamp      timestamptz NOT NULL,
    PRIMARY KEY (meeting_id, version)
);

-- A sheet holds what is being settled: a new meeting, or changes to one.
CREATE TABLE sheet (
    id         uuid PRIMARY KEY,
    owner_id   uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    meeting_id uuid REFERENCES meeting ON DELETE CASCADE,
    based_on   int NOT NULL DEFAULT 0,
    draft      jsonb NOT NULL,
    card       jsonb,
    version    int NOT NULL DEFAULT 1,
    updated_at timestamptz NOT NULL
);
CREATE INDEX sheet_owner ON sheet (owner_id, updated_at DESC);
CREATE UNIQUE INDEX sheet_meeting ON sheet (meeting_id, owner_id) WHERE meeting_id IS NOT NULL;

CREATE TABLE participant (
    id            uuid PRIMARY KEY,
    meeting_id    uuid NOT NULL REFERENCES meeting ON DELETE CASCADE,
    person_id     uuid REFERENCES person,
    name          text NOT NULL,
    email         text NOT NULL,
    zone          text NOT NULL DEFAULT '',
    needed        boolean NOT NULL,
    answer        text NOT NULL DEFAULT 'NEEDS-ACTION'
                  CHECK (answer IN ('NEEDS-ACTION', 'ACCEPTED', 'TENTATIVE', 'DECLINED')),
    comment       text NOT NULL DEFAULT '',
    answered_at   timestamptz,
    answer_stamp  bigint NOT NULL DEFAULT 0,
    sent_sequence int NOT NULL DEFAULT 0,
    removed_at    timestamptz
);
CREATE UNIQUE INDEX participant_once ON participant (meeting_id, lower(email)) WHERE removed_at IS NULL;
CREATE INDEX participant_person ON participant (person_id);

CREATE TABLE occurrence (
    id         uuid PRIMARY KEY,
    meeting_id uuid NOT NULL REFERENCES meeting ON DELETE CASCADE,
    starts     timestamptz NOT NULL,
    ends       timestamptz NOT NULL,
    CHECK (starts < ends)
);
CREATE INDEX occurrence_meeting ON occurrence (meeting_id);

-- When somebody is busy: through an occurrence, or on leave without one.
CREATE TABLE busy (
    person_id     uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    occurrence_id uuid REFERENCES occurrence ON DELETE CASCADE,
    during        tstzrange NOT NULL,
    kind          text NOT NULL CHECK (kind IN ('busy', 'maybe', 'leave'))
);
CREATE INDEX busy_person ON busy USING gist (person_id, during);
CREATE INDEX busy_occurrence ON busy (occurrence_id);

-- Two bookings of a room never overlap, under any load.
CREATE TABLE booking (
    id            uuid PRIMARY KEY,
    room_id       uuid NOT NULL REFERENCES room,
    occurrence_id uuid NOT NULL REFERENCES occurrence ON DELETE CASCADE,
    during        tstzrange NOT NULL,
    booked_at     timestamptz NOT NULL,
    CONSTRAINT booking_once EXCLUDE USING gist (room_id WITH =, during WITH &&)
);
CREATE INDEX booking_occurrence ON booking (occurrence_id);

-- One message to one person, and what became of it.
CREATE TABLE dispatch (
    id             uuid PRIMARY KEY,
    meeting_id     uuid NOT NULL REFERENCES meeting ON DELETE CASCADE,
    version        int NOT NULL,
    participant_id uuid NOT NULL REFERENCES participant ON DELETE CASCADE,
    kind           text NOT NULL CHECK (kind IN ('invite', 'update', 'calloff')),
    channel        text NOT NULL CHECK (channel IN ('inside', 'mail')),
    words          text NOT NULL DEFAULT '',
    state          text NOT NULL CHECK (state IN ('queued', 'handed', 'failed')),
    detail         text NOT NULL DEFAULT '',
    queued_at      timestamptz NOT NULL,
    handed_at      timestamptz
);
CREATE INDEX dispatch_meeting ON dispatch (meeting_id, queued_at);

-- Every answer that ever arrived, with or without effect.
CREATE TABLE reply (
    id             uuid PRIMARY KEY,
    participant_id uuid NOT NULL REFERENCES participant ON DELETE CASCADE,
    answer         text NOT NULL,
    comment        text NOT NULL DEFAULT '',
    sequence       int NOT NULL,
    stamp          bigint NOT NULL,
    via            text NOT NULL CHECK (via IN ('inside', 'page', 'mail')),
    counts         boolean NOT NULL,
    arrived_at     timestamptz NOT NULL
);

CREATE TABLE happening (
    id         bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    meeting_id uuid NOT NULL REFERENCES meeting ON DELETE CASCADE,
    at         timestamptz NOT NULL,
    words      text NOT NULL
);
CREATE INDEX happening_meeting ON happening (meeting_id, id DESC);

-- Somebody's account at a provider; tokens are sealed.
CREATE TABLE connection (
    person_id  uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    provider   text NOT NULL,
    sealed     bytea NOT NULL,
    updated_at timestamptz NOT NULL,
    PRIMARY KEY (person_id, provider)
);

-- A sign-in at a provider that is under way.
CREATE TABLE connecting (
    state_hash bytea PRIMARY KEY,
    person_id  uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    provider   text NOT NULL,
    verifier   text NOT NULL,
    sheet_id   uuid NOT NULL,
    expires_at timestamptz NOT NULL
);

-- What a Send with this key did, so that its repetition does nothing more.
CREATE TABLE send_key (
    person_id  uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    key        text NOT NULL,
    sheet_id   uuid NOT NULL,
    meeting_id uuid NOT NULL REFERENCES meeting ON DELETE CASCADE,
    told       int NOT NULL,
    created_at timestamptz NOT NULL,
    PRIMARY KEY (person_id, key)
);

-- +goose Down
DROP TABLE send_key, connecting, connection, happening, reply, dispatch, booking, busy, occurrence,
    participant, sheet, meeting_version, meeting, session, room, contact, person, site;
