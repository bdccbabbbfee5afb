-- +goose Up
-- Files that go with meetings. They never change; what nobody names any more is dropped. Most are
-- packed already, so they are kept as they are.
CREATE TABLE file (
    id       uuid PRIMARY KEY,
    owner_id uuid NOT NULL REFERENCES person ON DELETE CASCADE,
    name     text NOT NULL,
    type     text NOT NULL,
    size     int NOT NULL CHECK (size > 0),
    content  bytea NOT NULL,
    added_at timestamptz NOT NULL
);
ALTER TABLE file ALTER COLUMN content SET STORAGE EXTERNAL;
CREATE INDEX file_owner ON file (owner_id);
CREATE TABLE sheet_file (
    sheet_id uuid NOT NULL REFERENCES sheet ON DELETE CASCADE,
    file_id  uuid NOT NULL REFERENCES file ON DELETE CASCADE,
    PRIMARY KEY (sheet_id, file_id)
);
CREATE INDEX sheet_file_file ON sheet_file (file_id);
-- current tells that the newest version of the meeting names it.
CREATE TABLE meeting_file (
    meeting_id uuid NOT NULL REFERENCES meeting ON DELETE CASCADE,
    file_id    uuid NOT NULL REFERENCES file ON DELETE CASCADE,
    current    boolean NOT NULL,
    PRIMARY KEY (meeting_id, file_id)
);
CREATE INDEX meeting_file_file ON meeting_file (file_id);

-- +goose Down
DROP TABLE meeting_file, sheet_file, file;
