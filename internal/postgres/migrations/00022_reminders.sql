-- +goose Up
-- When those of a meeting are reminded by mail, in minutes before each date, and what was sent.
ALTER TABLE meeting ADD COLUMN mail_reminds int[] NOT NULL DEFAULT '{}';
CREATE INDEX meeting_mail_reminds ON meeting (id) WHERE mail_reminds <> '{}';
CREATE TABLE reminded (
    meeting_id uuid NOT NULL REFERENCES meeting ON DELETE CASCADE,
    on_day     date NOT NULL,
    before     int NOT NULL,
    starts     timestamptz NOT NULL,
    PRIMARY KEY (meeting_id, on_day, before, starts)
);

-- +goose Down
DROP TABLE reminded;
ALTER TABLE meeting DROP COLUMN mail_reminds;
