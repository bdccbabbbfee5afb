-- +goose Up
-- The short address of a meeting, for mails and pages of others: asks tells that whoever opens it
-- can ask for an invitation.
CREATE TABLE meeting_address (
    meeting_id uuid PRIMARY KEY REFERENCES meeting ON DELETE CASCADE,
    code       text NOT NULL UNIQUE,
    asks       boolean NOT NULL,
    made_at    timestamptz NOT NULL
);

-- +goose Down
DROP TABLE meeting_address;
