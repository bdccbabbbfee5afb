-- name: InvitationOf :one
SELECT * FROM invitation WHERE person_id = @person_id AND uid = @uid AND room_id IS NULL FOR UPDATE;

-- name: InvitationOfRoom :one
SELECT * FROM invitation WHERE room_id = @room_id::uuid AND uid = @uid FOR UPDATE;

-- name: DropOutsideBookings :exec
DELETE FROM booking WHERE invitation_id = @invitation_id::uuid;

-- name: InsertOutsideBookings :execrows
-- What is taken meanwhile stays with who has it.
INSERT INTO booking (id, room_id, kind, owner_id, invitation_id, during, booked_at)
SELECT gen_random_uuid(), @room_id::uuid, 'booked', @owner_id::uuid, @invitation_id::uuid, tstzrange(t.s, t.e), @booked_at::timestamptz
FROM (SELECT unnest(@starts::timestamptz[]) AS s, unnest(@ends::timestamptz[]) AS e) t ON CONFLICT DO NOTHING;

-- name: Invitation :one
SELECT * FROM invitation WHERE id = @id;

-- name: LockInvitation :one
SELECT * FROM invitation WHERE id = @id FOR UPDATE;

-- name: KeepInvitation :exec
INSERT INTO invitation (id, person_id, uid, state, waiting, organiser_name, organiser, attendee, title, answer, comment, answered_at, reply, reply_detail, off, version, arrived_at, changed_at, expanded_on, answers, replying, room_id)
VALUES (@id, @person_id, @uid, @state, @waiting, @organiser_name, @organiser, @attendee, @title, @answer, @comment, @answered_at, @reply, @reply_detail, @off, @version, @arrived_at, @changed_at, @expanded_on, @answers, @replying, @room_id)
ON CONFLICT (id) DO UPDATE SET state = excluded.state, waiting = excluded.waiting, organiser_name = excluded.organiser_name, organiser = excluded.organiser,
    attendee = excluded.attendee, title = excluded.title, answer = excluded.answer, comment = excluded.comment, answered_at = excluded.answered_at,
    reply = excluded.reply, reply_detail = excluded.reply_detail, off = excluded.off, version = excluded.version, changed_at = excluded.changed_at, expanded_on = excluded.expanded_on, answers = excluded.answers, replying = excluded.replying;

-- name: DropInvitationDates :exec
DELETE FROM invitation_date WHERE invitation_id = @id;

-- name: InsertInvitationDates :exec
INSERT INTO invitation_date (invitation_id, starts, ends, title, whole_day, free, answer)
SELECT @id, unnest(@starts::timestamptz[]), unnest(@ends::timestamptz[]), unnest(@titles::text[]), unnest(@whole_days::boolean[]), unnest(@free::boolean[]), unnest(@answers::text[]);

-- name: InvitationDates :many
-- The dates in a window of what somebody is invited to by people outside.
SELECT i.id, i.uid, i.organiser, i.organiser_name, coalesce(nullif(d.answer, ''), i.answer)::text AS answer, d.starts, d.ends, d.title, d.whole_day, d.free
FROM invitation i JOIN invitation_date d ON d.invitation_id = i.id
WHERE i.person_id = @person_id AND i.room_id IS NULL AND d.starts < @ends::timestamptz AND d.ends > @begins::timestamptz ORDER BY d.starts, d.ends LIMIT 1000;

-- name: OpenInvitations :many
-- What waits for somebody: an answer, or whether to believe a message; the nearest first.
SELECT i.id, (SELECT min(d.starts) FROM invitation_date d WHERE d.invitation_id = i.id AND d.ends > @now::timestamptz)::timestamptz AS starts
FROM invitation i
WHERE i.person_id = @person_id AND (i.waiting IS NOT NULL OR i.reply = 'failed' OR i.answer = 'NEEDS-ACTION' AND NOT i.off
        AND EXISTS (SELECT 1 FROM invitation_date d WHERE d.invitation_id = i.id AND d.ends > @now AND d.answer = ''))
    AND EXISTS (SELECT 1 FROM invitation_date d WHERE d.invitation_id = i.id AND d.ends > @now)
ORDER BY 2 LIMIT 20;

-- name: InvitationsToRoll :many
SELECT id FROM invitation WHERE NOT off AND expanded_on < @before AND id > @after ORDER BY id LIMIT 200;
