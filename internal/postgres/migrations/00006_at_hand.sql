-- +goose Up
CREATE EXTENSION IF NOT EXISTS unaccent;
CREATE EXTENSION IF NOT EXISTS btree_gin;

-- What is new for somebody: messages that stay inside, answers to what they organise,
-- and what went wrong with it.
CREATE TABLE news (
    id         uuid PRIMARY KEY,
    person_id  uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    meeting_id uuid NOT NULL REFERENCES meeting ON DELETE CASCADE,
    kind       text NOT NULL CHECK (kind IN ('invite', 'update', 'calloff', 'event')),
    facts      jsonb NOT NULL,
    at         timestamptz NOT NULL,
    read_at    timestamptz,
    mailed_at  timestamptz
);
CREATE INDEX news_person ON news (person_id, at DESC, id DESC);
CREATE INDEX news_unread ON news (person_id, meeting_id) WHERE read_at IS NULL;
CREATE INDEX news_meeting ON news (meeting_id);
CREATE INDEX news_unmailed ON news (at) WHERE read_at IS NULL AND mailed_at IS NULL;

-- Whether what is new comes by mail as well: away is to those who have not been here
-- for a day.
ALTER TABLE person ADD COLUMN news_mail text NOT NULL DEFAULT 'away' CHECK (news_mail IN ('never', 'away', 'always'));

-- What can be found by whom: of every meeting a row for each who may open it, with the
-- words that they may see.
CREATE TEXT SEARCH CONFIGURATION found (COPY = simple);
ALTER TEXT SEARCH CONFIGURATION found ALTER MAPPING FOR hword, hword_part, word WITH unaccent, simple;
CREATE TABLE found (
    meeting_id uuid NOT NULL REFERENCES meeting ON DELETE CASCADE,
    person_id  uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    document   tsvector NOT NULL,
    starts     timestamptz NOT NULL,
    PRIMARY KEY (meeting_id, person_id)
);
CREATE INDEX found_document ON found USING gin (person_id, document);

-- +goose Down
DROP TABLE found;
DROP TEXT SEARCH CONFIGURATION found;
ALTER TABLE person DROP COLUMN news_mail;
DROP TABLE news;
