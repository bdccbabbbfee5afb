-- name: InsertMeeting :exec
INSERT INTO meeting (id, uid, organiser_id, version, zone, private, related_to, repeats, call_provider, call_owner, standing_id, mail_reminds)
VALUES (@id, @uid, @organiser_id, @version, @zone, @private, @related_to, @repeats, @call_provider, @call_owner, @standing_id, @mail_reminds);

-- name: UpdateMeeting :exec
UPDATE meeting SET version = @version, called_off_at = @called_off_at, zone = @zone, private = @private,
    related_to = @related_to, repeats = @repeats, call_provider = @call_provider, call_owner = @call_owner, standing_id = @standing_id, mail_reminds = @mail_reminds WHERE id = @id;

-- name: InsertVersion :exec
INSERT INTO meeting_version (meeting_id, version, schema, content, stamp) VALUES (@meeting_id, @version, @schema, @content, @stamp);

-- name: Meeting :one
SELECT sqlc.embed(m), sqlc.embed(v) FROM meeting m
JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version WHERE m.id = @id;

-- name: LockMeeting :exec
-- The row alone: whoever waited for it reads what holds then in a statement of its
-- own.
SELECT 1 FROM meeting WHERE id = @id FOR UPDATE;

-- name: OrganiserOf :one
SELECT organiser_id FROM meeting WHERE id = @id;

-- name: MeetingAtVersion :one
SELECT sqlc.embed(m), sqlc.embed(v) FROM meeting m
JOIN meeting_version v ON v.meeting_id = m.id WHERE m.id = @id AND v.version = @version;

-- name: InsertParticipants :exec
INSERT INTO participant (id, meeting_id, person_id, name, email, zone, needed, answer, comment, answered_at, answer_stamp, sent_sequence, answer_sequence)
SELECT t.id, t.m, nullif(t.p, '00000000-0000-0000-0000-000000000000'::uuid), t.n, t.e, t.z, t.needed, t.a, t.c, nullif(t.at, 'epoch'::timestamptz), t.s, t.sent, t.aseq
FROM (SELECT unnest(@ids::uuid[]) AS id, unnest(@meetings::uuid[]) AS m, unnest(@people::uuid[]) AS p, unnest(@names::text[]) AS n,
    unnest(@emails::text[]) AS e, unnest(@zones::text[]) AS z, unnest(@needed::boolean[]) AS needed, unnest(@answers::text[]) AS a,
    unnest(@comments::text[]) AS c, unnest(@answered_at::timestamptz[]) AS at, unnest(@stamps::bigint[]) AS s, unnest(@sent::int[]) AS sent,
    unnest(@answer_sequences::int[]) AS aseq) t;

-- name: Participants :many
SELECT * FROM participant WHERE meeting_id = @meeting_id AND removed_at IS NULL;

-- name: Participant :one
SELECT * FROM participant WHERE id = @id;

-- name: LockParticipant :one
SELECT * FROM participant WHERE id = @id FOR UPDATE;

-- name: UpdateParticipants :exec
UPDATE participant p SET name = t.n, needed = t.needed, answer = t.a, comment = t.c, answered_at = nullif(t.at, 'epoch'::timestamptz),
    answer_stamp = t.s, sent_sequence = t.sent, answer_sequence = t.aseq, removed_at = nullif(t.gone, 'epoch'::timestamptz), off_version = t.off
FROM (SELECT unnest(@ids::uuid[]) AS id, unnest(@names::text[]) AS n, unnest(@needed::boolean[]) AS needed, unnest(@answers::text[]) AS a,
    unnest(@comments::text[]) AS c, unnest(@answered_at::timestamptz[]) AS at, unnest(@stamps::bigint[]) AS s, unnest(@sent::int[]) AS sent,
    unnest(@removed_at::timestamptz[]) AS gone, unnest(@answer_sequences::int[]) AS aseq, unnest(@off_versions::int[]) AS off) t
WHERE p.id = t.id;

-- name: AnswersOn :many
-- What those invited to a meeting answered to single dates.
SELECT a.* FROM answer_on a JOIN participant p ON p.id = a.participant_id WHERE p.meeting_id = @meeting_id ORDER BY a.on_day;

-- name: SetAnswersOn :exec
INSERT INTO answer_on (participant_id, on_day, answer, comment, answered_at, answer_stamp, sent_sequence, answer_sequence, moved)
SELECT t.p, t.d, t.a, t.c, nullif(t.at, 'epoch'::timestamptz), t.s, t.sent, t.aseq, t.moved
FROM (SELECT unnest(@participants::uuid[]) AS p, unnest(@days::date[]) AS d, unnest(@answers::text[]) AS a, unnest(@comments::text[]) AS c,
    unnest(@answered_at::timestamptz[]) AS at, unnest(@stamps::bigint[]) AS s, unnest(@sent::int[]) AS sent,
    unnest(@answer_sequences::int[]) AS aseq, unnest(@moved::bigint[]) AS moved) t
ON CONFLICT (participant_id, on_day) DO UPDATE SET answer = excluded.answer, comment = excluded.comment,
    answered_at = excluded.answered_at, answer_stamp = excluded.answer_stamp, sent_sequence = excluded.sent_sequence,
    answer_sequence = excluded.answer_sequence, moved = excluded.moved;

-- name: DeleteAnswersOn :exec
DELETE FROM answer_on a USING participant p WHERE p.id = a.participant_id AND p.meeting_id = @meeting_id;

-- name: MeetingsRelated :many
-- The series that go on from one, by its UID, and the one that it goes on from.
SELECT m.id, m.uid, m.organiser_id, v.schema, v.content FROM meeting m JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version
WHERE m.related_to = @uid::text AND m.related_to <> '' OR m.uid = @related_to::text;

-- name: InsertHappenings :exec
INSERT INTO happening (meeting_id, at, actor, kind, facts)
SELECT @meeting_id, @at, nullif(t.a, '00000000-0000-0000-0000-000000000000'::uuid), t.k, t.f::jsonb
FROM (SELECT unnest(@actors::uuid[]) AS a, unnest(@kinds::text[]) AS k, unnest(@facts::text[]) AS f) t;

-- name: Happenings :many
SELECT at, kind, facts FROM happening WHERE meeting_id = @meeting_id ORDER BY id DESC LIMIT @most;

-- name: MeetingByUID :one
SELECT id FROM meeting WHERE uid = @uid;

-- name: InvitedEver :many
-- Everybody who was ever invited, those who still are first.
SELECT * FROM participant WHERE meeting_id = @meeting_id ORDER BY removed_at DESC NULLS FIRST;

-- name: InsertLetterIn :execrows
INSERT INTO letter_in (id, meeting_id, digest, from_name, from_email, signed_by, subject, words, answers, why, state, arrived_at, raw)
VALUES (@id, @meeting_id, @digest, @from_name, @from_email, @signed_by, @subject, @words, @answers, @why, @state, @arrived_at, @raw)
ON CONFLICT (meeting_id, digest) DO NOTHING;

-- name: LettersIn :many
-- The newest first; those to be decided before all others.
SELECT id, meeting_id, from_name, from_email, signed_by, subject, words, answers, why, state, arrived_at FROM letter_in
WHERE meeting_id = @meeting_id ORDER BY state <> 'open', arrived_at DESC, id LIMIT @most;

-- name: LockLetterIn :one
SELECT id, meeting_id, from_name, from_email, signed_by, subject, words, answers, why, state, arrived_at FROM letter_in
WHERE id = @id FOR UPDATE;

-- name: LetterInRaw :one
SELECT * FROM letter_in WHERE id = @id;

-- name: UpdateLetterIn :exec
UPDATE letter_in SET state = @state, why = @why WHERE id = @id;

-- name: DropLetterRaw :exec
UPDATE letter_in SET raw = NULL WHERE id = @id;

-- name: InsertSendKey :exec
INSERT INTO send_key (person_id, key, sheet_id, meeting_id, told, created_at)
VALUES (@person_id, @key, @sheet_id, @meeting_id, @told, @created_at);

-- name: SendKey :one
SELECT * FROM send_key WHERE person_id = @person_id AND key = @key;

-- name: LockSendKey :exec
-- Two sends with one key wait for each other.
SELECT pg_advisory_xact_lock(hashtextextended(@name::text, 0));

-- name: SetOrganiserOf :exec
UPDATE meeting SET organiser_id = @organiser_id WHERE id = @id;

-- name: SetBookingsOwner :exec
UPDATE booking SET owner_id = @owner_id WHERE meeting_id = @meeting_id::uuid;
