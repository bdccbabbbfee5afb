-- name: InsertMeeting :exec
INSERT INTO meeting (id, uid, organiser_id, version) VALUES (@id, @uid, @organiser_id, @version);

-- name: UpdateMeeting :exec
UPDATE meeting SET version = @version, called_off_at = @called_off_at WHERE id = @id;

-- name: InsertVersion :exec
INSERT INTO meeting_version (meeting_id, version, content, stamp) VALUES (@meeting_id, @version, @content, @stamp);

-- name: Meeting :one
SELECT sqlc.embed(m), sqlc.embed(v) FROM meeting m
JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version WHERE m.id = @id;

-- name: LockMeeting :one
SELECT sqlc.embed(m), sqlc.embed(v) FROM meeting m
JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version WHERE m.id = @id FOR UPDATE OF m;

-- name: MeetingAtVersion :one
SELECT sqlc.embed(m), sqlc.embed(v) FROM meeting m
JOIN meeting_version v ON v.meeting_id = m.id WHERE m.id = @id AND v.version = @version;

-- name: InsertParticipant :exec
INSERT INTO participant (id, meeting_id, person_id, name, email, zone, needed, answer, sent_sequence)
VALUES (@id, @meeting_id, @person_id, @name, @email, @zone, @needed, @answer, @sent_sequence);

-- name: Participants :many
SELECT * FROM participant WHERE meeting_id = @meeting_id AND removed_at IS NULL;

-- name: Participant :one
SELECT * FROM participant WHERE id = @id;

-- name: LockParticipant :one
SELECT * FROM participant WHERE id = @id FOR UPDATE;

-- name: UpdateParticipant :exec
UPDATE participant SET name = @name, needed = @needed, answer = @answer, comment = @comment, answered_at = @answered_at,
    answer_stamp = @answer_stamp, sent_sequence = @sent_sequence, removed_at = @removed_at WHERE id = @id;

-- name: InsertReply :exec
INSERT INTO reply (id, participant_id, on_day, answer, comment, sequence, stamp, via, counts, arrived_at)
VALUES (@id, @participant_id, @on_day, @answer, @comment, @sequence, @stamp, @via, @counts, @arrived_at);

-- name: AnswersOn :many
-- What those invited to a meeting answered to single dates.
SELECT a.* FROM answer_on a JOIN participant p ON p.id = a.participant_id WHERE p.meeting_id = @meeting_id ORDER BY a.on_day;

-- name: SetAnswerOn :exec
INSERT INTO answer_on (participant_id, on_day, answer, comment, answered_at, answer_stamp, sent_sequence)
VALUES (@participant_id, @on_day, @answer, @comment, @answered_at, @answer_stamp, @sent_sequence)
ON CONFLICT (participant_id, on_day) DO UPDATE SET answer = excluded.answer, comment = excluded.comment,
    answered_at = excluded.answered_at, answer_stamp = excluded.answer_stamp, sent_sequence = excluded.sent_sequence;

-- name: DeleteAnswersOn :exec
DELETE FROM answer_on a USING participant p WHERE p.id = a.participant_id AND p.meeting_id = @meeting_id;

-- name: MeetingsRelated :many
-- The series that go on from one, by its UID.
SELECT m.id, m.uid, v.content FROM meeting m JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version
WHERE v.content->>'relatedTo' = @uid::text OR m.uid = @related_to::text;

-- name: InsertHappening :exec
INSERT INTO happening (meeting_id, at, words) VALUES (@meeting_id, @at, @words);

-- name: Happenings :many
SELECT at, words FROM happening WHERE meeting_id = @meeting_id ORDER BY id DESC LIMIT @most;

-- name: InsertSendKey :exec
INSERT INTO send_key (person_id, key, sheet_id, meeting_id, told, created_at)
VALUES (@person_id, @key, @sheet_id, @meeting_id, @told, @created_at);

-- name: SendKey :one
SELECT * FROM send_key WHERE person_id = @person_id AND key = @key;

-- name: LockSendKey :exec
-- Two sends with one key wait for each other.
SELECT pg_advisory_xact_lock(hashtextextended(@name::text, 0));
