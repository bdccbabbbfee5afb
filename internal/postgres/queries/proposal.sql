-- name: InsertProposal :exec
INSERT INTO proposal (id, meeting_id, participant_id, on_day, starts, ends, was_starts, was_ends, comment, sequence, stamp, via, state, arrived_at)
VALUES (@id, @meeting_id, @participant_id, @on_day, @starts, @ends, @was_starts, @was_ends, @comment, @sequence, @stamp, @via, 'open', @arrived_at);

-- name: ReplaceProposals :exec
-- A newer proposal of somebody about the same takes the place of the older one.
UPDATE proposal SET state = 'replaced', decided_at = @at
WHERE participant_id = @participant_id AND state = 'open' AND on_day IS NOT DISTINCT FROM @on_day;

-- name: Proposals :many
-- What was proposed for some meetings: what is open, oldest first.
SELECT * FROM proposal WHERE meeting_id = ANY(@meetings::uuid[]) AND state = 'open' ORDER BY arrived_at, id LIMIT 200;

-- name: ProposalsOf :many
-- What somebody proposed, the newest first.
SELECT * FROM proposal WHERE participant_id = @participant_id ORDER BY arrived_at DESC, id LIMIT 20;

-- name: MeetingsWithProposals :many
-- The meetings of an organiser with something to decide.
SELECT DISTINCT p.meeting_id FROM proposal p JOIN meeting m ON m.id = p.meeting_id
WHERE m.organiser_id = @organiser_id AND p.state = 'open' AND p.starts > @now AND m.called_off_at IS NULL LIMIT 50;

-- name: LockProposal :one
SELECT * FROM proposal WHERE id = @id FOR UPDATE;

-- name: SetProposal :exec
UPDATE proposal SET state = @state, decided_at = @at WHERE id = @id;

-- name: MailsSince :one
-- How many mails to a participant were written since a moment.
SELECT count(*)::int FROM dispatch WHERE participant_id = @participant_id AND channel = 'mail' AND queued_at > @since;
