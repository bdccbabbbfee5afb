-- +goose Up

-- Meetings of people outside to which somebody inside is invited. state is what is known of it,
-- waiting a message about it that was not believed by itself. reply says how far the answer came.
CREATE TABLE invitation (
    id             uuid PRIMARY KEY,
    person_id      uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    uid            text NOT NULL,
    state          jsonb NOT NULL,
    waiting        jsonb,
    organiser_name text NOT NULL DEFAULT '',
    organiser      text NOT NULL,
    attendee       text NOT NULL,
    title          text NOT NULL DEFAULT '',
    answer         text NOT NULL DEFAULT 'NEEDS-ACTION' CHECK (answer IN ('NEEDS-ACTION', 'ACCEPTED', 'TENTATIVE', 'DECLINED')),
    comment        text NOT NULL DEFAULT '',
    answered_at    timestamptz,
    reply          text NOT NULL DEFAULT '' CHECK (reply IN ('', 'queued', 'handed', 'failed')),
    reply_detail   text NOT NULL DEFAULT '',
    off            boolean NOT NULL DEFAULT false,
    version        int NOT NULL DEFAULT 1,
    arrived_at     timestamptz NOT NULL,
    changed_at     timestamptz NOT NULL,
    expanded_on    date NOT NULL,
    UNIQUE (person_id, uid)
);
CREATE TABLE invitation_date (
    invitation_id uuid NOT NULL REFERENCES invitation ON DELETE CASCADE,
    starts        timestamptz NOT NULL,
    ends          timestamptz NOT NULL,
    title         text NOT NULL,
    whole_day     boolean NOT NULL,
    free          boolean NOT NULL
);
CREATE INDEX invitation_date_of ON invitation_date (invitation_id, starts);
CREATE INDEX invitation_expanded ON invitation (expanded_on) WHERE NOT off;
ALTER TABLE busy DROP CONSTRAINT busy_source_check;
ALTER TABLE busy ADD CONSTRAINT busy_source_check CHECK (source IN ('meeting', 'leave', 'calendar', 'invitation'));

-- +goose Down
DELETE FROM busy WHERE source = 'invitation';
ALTER TABLE busy DROP CONSTRAINT busy_source_check;
ALTER TABLE busy ADD CONSTRAINT busy_source_check CHECK (source IN ('meeting', 'leave', 'calendar'));
DROP TABLE invitation_date, invitation;
