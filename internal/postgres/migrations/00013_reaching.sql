-- +goose Up

-- How far each message came, what stands against it, and how it was mended. address is where it
-- went where that is not the participant's own.
ALTER TABLE dispatch
    ADD COLUMN address text NOT NULL DEFAULT '',
    ADD COLUMN stage text NOT NULL DEFAULT '',
    ADD COLUMN stage_at timestamptz,
    ADD COLUMN trouble text NOT NULL DEFAULT '',
    ADD COLUMN trouble_at timestamptz,
    ADD COLUMN trouble_code text NOT NULL DEFAULT '',
    ADD COLUMN trouble_server text NOT NULL DEFAULT '',
    ADD COLUMN trouble_said text NOT NULL DEFAULT '',
    ADD COLUMN mended_at timestamptz,
    ADD COLUMN mended text NOT NULL DEFAULT '' CHECK (mended IN ('', 'told', 'again', 'elsewhere', 'text', 'answered'));
UPDATE dispatch SET stage = CASE channel WHEN 'inside' THEN 'delivered' ELSE 'handed' END, stage_at = handed_at WHERE state = 'handed';
UPDATE dispatch SET trouble = 'refused', trouble_at = coalesce(handed_at, queued_at), trouble_said = detail WHERE state = 'failed';
CREATE INDEX dispatch_trouble ON dispatch (meeting_id) WHERE trouble <> '' AND mended_at IS NULL;

-- What was heard of each message, in the order in which it was heard.
CREATE TABLE dispatch_event (
    id          bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    dispatch_id uuid NOT NULL REFERENCES dispatch ON DELETE CASCADE,
    at          timestamptz NOT NULL,
    kind        text NOT NULL,
    address     text NOT NULL DEFAULT '',
    server      text NOT NULL DEFAULT '',
    code        text NOT NULL DEFAULT '',
    said        text NOT NULL DEFAULT ''
);
CREATE INDEX dispatch_event_dispatch ON dispatch_event (dispatch_id, id);

-- When something was last sent about a meeting: the list of what went out begins with the
-- newest.
ALTER TABLE meeting ADD COLUMN sent_at timestamptz;
UPDATE meeting m SET sent_at = (SELECT max(queued_at) FROM dispatch d WHERE d.meeting_id = m.id);
CREATE INDEX meeting_sent ON meeting (organiser_id, sent_at DESC) WHERE sent_at IS NOT NULL;
CREATE INDEX meeting_sent_all ON meeting (sent_at DESC) WHERE sent_at IS NOT NULL;

-- Where somebody from outside is reached now, where that is not the address they were invited at.
ALTER TABLE participant ADD COLUMN reach_at text NOT NULL DEFAULT '';
CREATE INDEX participant_outside_name ON participant (lower(name)) WHERE person_id IS NULL;

-- Other addresses of people from outside that somebody knows: one that reached them, or from
-- which they answered.
CREATE TABLE alias (
    person_id uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    email     text NOT NULL,
    also      text NOT NULL,
    learnt_at timestamptz NOT NULL,
    PRIMARY KEY (person_id, email, also)
);

-- Loose ends that somebody lets be.
CREATE TABLE let_be (
    person_id uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    key       text NOT NULL,
    at        timestamptz NOT NULL,
    PRIMARY KEY (person_id, key)
);
CREATE INDEX let_be_at ON let_be (at);
CREATE INDEX letter_in_open ON letter_in (meeting_id) WHERE state = 'open';

-- Whether a short mail about the day comes in the morning, and when it last did.
ALTER TABLE person
    ADD COLUMN morning_mail boolean NOT NULL DEFAULT false,
    ADD COLUMN morning_mailed date;

-- +goose Down
ALTER TABLE person DROP COLUMN morning_mailed, DROP COLUMN morning_mail;
DROP INDEX letter_in_open;
DROP TABLE let_be;
DROP TABLE alias;
DROP INDEX participant_outside_name;
ALTER TABLE participant DROP COLUMN reach_at;
DROP INDEX meeting_sent_all, meeting_sent;
ALTER TABLE meeting DROP COLUMN sent_at;
DROP TABLE dispatch_event;
DROP INDEX dispatch_trouble;
ALTER TABLE dispatch DROP COLUMN mended, DROP COLUMN mended_at, DROP COLUMN trouble_said, DROP COLUMN trouble_server, DROP COLUMN trouble_code,
    DROP COLUMN trouble_at, DROP COLUMN trouble, DROP COLUMN stage_at, DROP COLUMN stage, DROP COLUMN address;
