-- +goose Up
-- What is never read, and what nothing looks up.
DROP TABLE reply;
DROP INDEX let_be_at;

-- What the program never writes is not taken either. Rows from before stay as they are.
ALTER TABLE dispatch
    ADD CONSTRAINT dispatch_stage CHECK (stage IN ('', 'handed', 'relayed', 'delivered', 'seen')) NOT VALID,
    ADD CONSTRAINT dispatch_trouble CHECK (trouble IN ('', 'delayed', 'refused', 'returned', 'discarded', 'challenged', 'complained')) NOT VALID;
ALTER TABLE waiting ADD CONSTRAINT waiting_span CHECK (starts < ends) NOT VALID;
ALTER TABLE proposal ADD CONSTRAINT proposal_span CHECK (starts < ends AND was_starts < was_ends) NOT VALID;
-- A date in a calendar of others may be a moment (RFC 5545, 3.6.1).
ALTER TABLE calendar_entry ADD CONSTRAINT calendar_entry_span CHECK (starts <= ends) NOT VALID;
ALTER TABLE invitation_date ADD CONSTRAINT invitation_date_span CHECK (starts <= ends) NOT VALID;

-- +goose Down
ALTER TABLE invitation_date DROP CONSTRAINT invitation_date_span;
ALTER TABLE calendar_entry DROP CONSTRAINT calendar_entry_span;
ALTER TABLE proposal DROP CONSTRAINT proposal_span;
ALTER TABLE waiting DROP CONSTRAINT waiting_span;
ALTER TABLE dispatch DROP CONSTRAINT dispatch_trouble, DROP CONSTRAINT dispatch_stage;
CREATE INDEX let_be_at ON let_be (at);
CREATE TABLE reply (
    id             uuid PRIMARY KEY,
    participant_id uuid NOT NULL REFERENCES participant ON DELETE CASCADE,
    on_day         date,
    answer         text NOT NULL,
    comment        text NOT NULL DEFAULT '',
    sequence       int NOT NULL,
    stamp          bigint NOT NULL,
    via            text NOT NULL CHECK (via IN ('inside', 'page', 'mail')),
    counts         boolean NOT NULL,
    arrived_at     timestamptz NOT NULL
);
