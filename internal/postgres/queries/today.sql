-- name: LostMeetings :many
-- Meetings of an organiser with a message that did not get to its reader, or is held up, and
-- with a date to come, or called off not long ago.
SELECT DISTINCT m.id FROM meeting m JOIN dispatch d ON d.meeting_id = m.id
WHERE m.organiser_id = @organiser_id AND d.trouble <> '' AND d.mended_at IS NULL
    AND (m.called_off_at > @since::timestamptz OR EXISTS (SELECT 1 FROM occurrence o WHERE o.meeting_id = m.id AND o.ends > @now::timestamptz))
LIMIT 50;

-- name: OpenLetters :many
-- Answers by mail that an organiser has to decide about.
SELECT l.id, l.meeting_id, l.from_name, l.from_email, l.answers FROM meeting m JOIN letter_in l ON l.meeting_id = m.id
WHERE m.organiser_id = @organiser_id AND l.state = 'open' AND m.called_off_at IS NULL
    AND EXISTS (SELECT 1 FROM occurrence o WHERE o.meeting_id = m.id AND o.ends > @now::timestamptz)
ORDER BY l.arrived_at LIMIT 50;

-- name: AnswersOnOf :many
-- What those invited to some meetings answered to single dates.
SELECT a.* FROM answer_on a JOIN participant p ON p.id = a.participant_id WHERE p.meeting_id = ANY(@meetings::uuid[]) AND p.removed_at IS NULL;

-- name: BookedDates :many
-- The dates of some meetings in a window that have a room, or have asked its keeper.
SELECT o.meeting_id, o.on_day FROM occurrence o JOIN booking b ON b.occurrence_id = o.id
WHERE o.meeting_id = ANY(@meetings::uuid[]) AND o.ends > @starts::timestamptz AND o.starts < @ends::timestamptz;

-- name: CallEvents :many
-- What happened to the calls of some meetings, the newest first of each.
SELECT meeting_id, kind, facts FROM happening
WHERE meeting_id = ANY(@meetings::uuid[]) AND kind IN ('linkMade', 'linkStays', 'linkAwaited', 'linkTaken', 'linkLate', 'linkGone', 'linkReplaced')
ORDER BY meeting_id, id DESC;

-- name: AskedOf :many
-- Meetings with a date to come that waits for somebody to say whether they come, the nearest first.
SELECT x.meeting_id, x.participant_id, min(x.starts)::timestamptz AS starts,
    (SELECT greatest(max(p.sent_sequence), max(a.sent_sequence)) FROM participant p LEFT JOIN answer_on a ON a.participant_id = p.id WHERE p.id = x.participant_id)::int AS sequence
FROM participation x WHERE x.person_id = @person_id AND x.waits AND x.ends > @now
GROUP BY x.meeting_id, x.participant_id ORDER BY 3, 1 LIMIT 20;

-- name: LetBe :many
SELECT key FROM let_be WHERE person_id = @person_id;

-- name: KeepLetBe :exec
INSERT INTO let_be (person_id, key, at) VALUES (@person_id, @key, @at) ON CONFLICT DO NOTHING;

-- name: MorningsDue :many
-- Those who wish a mail about the day and have not had one on a day, in whatever zone they are.
SELECT id FROM person WHERE morning_mail AND left_at IS NULL AND (morning_mailed IS NULL OR morning_mailed < @before_day) ORDER BY id LIMIT 20000;

-- name: SetMorningMail :exec
UPDATE person SET morning_mail = @morning_mail WHERE id = @id;

-- name: SetMorningMailed :exec
UPDATE person SET morning_mailed = @morning_mailed WHERE id = @id;

-- name: SetNudges :exec
UPDATE person SET nudges = @nudges WHERE id = @id;

-- name: SilentSoon :many
-- Those who need to answer about a date that starts in a window, and had nothing about it since a
-- moment; of organisers who have them asked again. A page of them, from after the last one on.
SELECT x.participant_id, p.zone, m.zone AS meeting_zone, m.organiser_id, x.starts
FROM participation x JOIN participant p ON p.id = x.participant_id JOIN meeting m ON m.id = x.meeting_id JOIN person by ON by.id = m.organiser_id
WHERE x.waits AND x.needed AND x.starts >= @after::timestamptz AND x.starts < @before::timestamptz
    AND (x.starts, x.participant_id) > (@after::timestamptz, @last::uuid) AND by.nudges AND by.left_at IS NULL
    AND NOT EXISTS (SELECT 1 FROM dispatch d WHERE d.participant_id = p.id AND d.queued_at > @asked_since::timestamptz)
ORDER BY x.starts, x.participant_id LIMIT @most;

-- name: MailRemindersDue :many
-- The dates whose moment to remind by mail has come, with when their meeting was settled as it is;
-- none twice.
SELECT m.id, o.on_day, o.starts, r.before::int AS before, v.stamp AS settled
FROM meeting m CROSS JOIN LATERAL unnest(m.mail_reminds) AS r(before) JOIN occurrence o ON o.meeting_id = m.id
    JOIN meeting_version v ON v.meeting_id = m.id AND v.version = m.version
WHERE m.mail_reminds <> '{}' AND m.called_off_at IS NULL AND o.starts > @now::timestamptz AND o.starts <= @last::timestamptz
    AND o.starts - make_interval(mins => r.before) <= @now::timestamptz AND o.starts - make_interval(mins => r.before) > @since::timestamptz
    AND NOT EXISTS (SELECT FROM reminded x WHERE x.meeting_id = m.id AND x.on_day = o.on_day AND x.before = r.before AND x.starts = o.starts AND x.participant_id IS NULL)
ORDER BY o.starts, m.id LIMIT 200;

-- name: OwnMailRemindersDue :many
-- The same of what those invited set for themselves, with when they did.
SELECT p.meeting_id, o.on_day, o.starts, r.before, p.id AS participant_id, r.set_at AS settled
FROM own_reminder r JOIN participant p ON p.id = r.participant_id JOIN participation x ON x.participant_id = p.id JOIN occurrence o ON o.id = x.occurrence_id
WHERE r.mail AND x.answer <> 'DECLINED' AND o.starts > @now::timestamptz AND o.starts <= @last::timestamptz
    AND o.starts - make_interval(mins => r.before) <= @now::timestamptz AND o.starts - make_interval(mins => r.before) > @since::timestamptz
    AND NOT EXISTS (SELECT FROM reminded x WHERE x.meeting_id = p.meeting_id AND x.on_day = o.on_day AND x.before = r.before AND x.starts = o.starts AND x.participant_id = p.id)
ORDER BY o.starts, p.meeting_id, p.id LIMIT 200;

-- name: OwnReminders :many
SELECT before, mail FROM own_reminder WHERE participant_id = @participant_id ORDER BY before DESC, mail;

-- name: DropOwnReminders :exec
-- But for those that stay as they are: when those were set counts.
DELETE FROM own_reminder r WHERE participant_id = @participant_id
    AND NOT EXISTS (SELECT FROM (SELECT unnest(@before::int[]) AS before, unnest(@mail::boolean[]) AS mail) t WHERE t.before = r.before AND t.mail = r.mail);

-- name: InsertOwnReminders :exec
INSERT INTO own_reminder (participant_id, before, mail, set_at)
SELECT @participant_id, t.before, t.mail, @set_at FROM (SELECT unnest(@before::int[]) AS before, unnest(@mail::boolean[]) AS mail) t ON CONFLICT DO NOTHING;

-- name: CarryOwnReminders :exec
-- Those of a series hold for the one that it goes on in.
INSERT INTO own_reminder (participant_id, before, mail, set_at)
SELECT p.id, r.before, r.mail, r.set_at FROM participant q JOIN own_reminder r ON r.participant_id = q.id JOIN participant p ON p.person_id = q.person_id
WHERE q.meeting_id = @was AND q.removed_at IS NULL AND p.meeting_id = @next AND p.removed_at IS NULL ON CONFLICT DO NOTHING;

-- name: InsertReminded :execrows
INSERT INTO reminded (meeting_id, on_day, before, starts, participant_id) VALUES (@meeting_id, @on_day, @before, @starts, @participant_id) ON CONFLICT DO NOTHING;

-- name: SweepReminded :exec
DELETE FROM reminded WHERE starts < @before::timestamptz;
