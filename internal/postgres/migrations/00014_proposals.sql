-- +goose Up

-- Other times that somebody invited proposes, and what became of them. was is when what it is
-- about was then.
CREATE TABLE proposal (
    id             uuid PRIMARY KEY,
    meeting_id     uuid NOT NULL REFERENCES meeting ON DELETE CASCADE,
    participant_id uuid NOT NULL REFERENCES participant ON DELETE CASCADE,
    on_day         date,
    starts         timestamptz NOT NULL,
    ends           timestamptz NOT NULL,
    was_starts     timestamptz NOT NULL,
    was_ends       timestamptz NOT NULL,
    comment        text NOT NULL DEFAULT '',
    sequence       int NOT NULL,
    stamp          bigint NOT NULL,
    via            text NOT NULL CHECK (via IN ('inside', 'page', 'mail')),
    state          text NOT NULL CHECK (state IN ('open', 'taken', 'kept', 'replaced')),
    arrived_at     timestamptz NOT NULL,
    decided_at     timestamptz,
    CHECK (starts < ends)
);
CREATE INDEX proposal_meeting ON proposal (meeting_id, arrived_at);
CREATE INDEX proposal_open ON proposal (meeting_id) WHERE state = 'open';

ALTER TABLE dispatch DROP CONSTRAINT dispatch_kind_check;
ALTER TABLE dispatch ADD CONSTRAINT dispatch_kind_check CHECK (kind IN ('invite', 'update', 'calloff', 'clear', 'keep'));

-- +goose Down
DELETE FROM dispatch WHERE kind = 'keep';
ALTER TABLE dispatch DROP CONSTRAINT dispatch_kind_check;
ALTER TABLE dispatch ADD CONSTRAINT dispatch_kind_check CHECK (kind IN ('invite', 'update', 'calloff', 'clear'));
DROP TABLE proposal;
