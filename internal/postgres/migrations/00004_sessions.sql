-- +goose Up
-- A session that is not used ends.
ALTER TABLE session ADD COLUMN seen_at timestamptz NOT NULL DEFAULT now();
CREATE INDEX session_person ON session (person_id);

-- Tries at signing in that failed, by account and by network, shared by all
-- instances: the more there are, the longer the next one waits.
CREATE TABLE throttle (
    key     text PRIMARY KEY,
    fails   int NOT NULL,
    last_at timestamptz NOT NULL
);

-- Mails to people outside that somebody caused, by hour.
CREATE TABLE outside_mail (
    person_id uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    hour      timestamptz NOT NULL,
    count     int NOT NULL,
    PRIMARY KEY (person_id, hour)
);

-- What waits is looked for often, and is little.
CREATE INDEX dispatch_queued ON dispatch (queued_at) WHERE state = 'queued';
CREATE INDEX dispatch_failed ON dispatch (meeting_id, version) WHERE state = 'failed';
CREATE INDEX dispatch_participant ON dispatch (participant_id, version);

-- +goose Down
DROP INDEX dispatch_queued, dispatch_failed, dispatch_participant;
DROP TABLE outside_mail, throttle;
DROP INDEX session_person;
ALTER TABLE session DROP COLUMN seen_at;
