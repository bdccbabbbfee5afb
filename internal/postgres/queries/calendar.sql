-- name: LockPerson :exec
-- Whoever changes something that somebody has one of waits for each other.
SELECT 1 FROM person WHERE id = @id FOR NO KEY UPDATE;

-- name: SetHours :execrows
UPDATE person SET hours = @hours, zone = @zone, hours_version = hours_version + 1 WHERE id = @id AND hours_version = @version;

-- name: SetOtherHours :execrows
UPDATE person SET other_hours = @other_hours, hours_version = hours_version + 1 WHERE id = @id AND hours_version = @version;

-- name: SetShares :exec
UPDATE person SET shares = @shares WHERE id = @id;

-- name: DropSharing :exec
DELETE FROM sharing WHERE person_id = @person_id;

-- name: AddSharing :exec
INSERT INTO sharing (person_id, with_id, level) SELECT @person_id, unnest(@with_ids::uuid[]), unnest(@levels::text[]);

-- name: SharingOf :many
SELECT s.with_id, p.name, s.level FROM sharing s JOIN person p ON p.id = s.with_id WHERE s.person_id = @person_id ORDER BY p.name, p.id;

-- name: SharedWith :many
SELECT person_id, level FROM sharing WHERE with_id = @with_id;

-- name: AddAbsence :exec
INSERT INTO absence (id, person_id, first_day, last_day, word, entered_at) VALUES (@id, @person_id, @first_day, @last_day, @word, @entered_at);

-- name: DropAbsence :execrows
DELETE FROM absence WHERE id = @id AND person_id = @person_id;

-- name: Absences :many
SELECT * FROM absence WHERE person_id = @person_id AND last_day >= @since ORDER BY first_day, id;

-- name: DropBusyFrom :exec
DELETE FROM busy WHERE from_id = ANY(@ids::uuid[]);

-- name: InsertCalendar :exec
INSERT INTO calendar (id, person_id, contact_id, name, address, host, counts, added_at, next_at)
VALUES (@id, @person_id, @contact_id, @name, @address, @host, @counts, @added_at, @next_at);

-- name: CalendarByID :one
SELECT * FROM calendar WHERE id = @id;

-- name: LockCalendar :one
SELECT * FROM calendar WHERE id = @id FOR UPDATE;

-- name: CalendarsOf :many
SELECT * FROM calendar WHERE person_id = @person_id ORDER BY added_at, name, id;

-- name: CalendarsOfContacts :many
SELECT k.* FROM calendar k WHERE k.contact_id = ANY(@contact_ids::uuid[]);

-- name: UpdateCalendar :exec
UPDATE calendar SET name = @name, address = @address, host = @host, counts = @counts, read_at = @read_at, tried_at = @tried_at, failing_since = @failing_since,
    fault = @fault, empty_since = @empty_since, failures = @failures, next_at = @next_at, etag = @etag, modified = @modified, print = @print,
    refresh = @refresh, entries = @entries, unread = @unread, expanded_on = @expanded_on WHERE id = @id;

-- name: StaleCalendars :many
-- Since when somebody's counting calendars could not be read, where there are such.
SELECT person_id::uuid AS person_id, min(coalesce(read_at, added_at))::timestamptz AS since FROM calendar
WHERE person_id = ANY(@people::uuid[]) AND counts AND failing_since IS NOT NULL GROUP BY person_id;

-- name: DropCalendar :exec
DELETE FROM calendar WHERE id = @id;

-- name: DueCalendars :many
-- Those that are to be looked at, each given to one instance: it is looked at again after
-- a while if that one is killed.
UPDATE calendar SET next_at = @again::timestamptz WHERE id IN (
    SELECT c.id FROM calendar c WHERE c.next_at <= @now::timestamptz
      AND NOT EXISTS (SELECT 1 FROM person p WHERE p.id = c.person_id AND p.left_at IS NOT NULL)
    ORDER BY c.next_at LIMIT @most FOR UPDATE SKIP LOCKED)
RETURNING id, host;

-- name: SetCalendarContent :exec
INSERT INTO calendar_content (calendar_id, packed) VALUES (@calendar_id, @packed)
ON CONFLICT (calendar_id) DO UPDATE SET packed = excluded.packed;

-- name: CalendarContent :one
SELECT packed FROM calendar_content WHERE calendar_id = @calendar_id;

-- name: DropEntries :exec
DELETE FROM calendar_entry WHERE calendar_id = @calendar_id;

-- name: InsertEntries :exec
INSERT INTO calendar_entry (calendar_id, uid, title, starts, ends, kind, whole_day)
SELECT @calendar_id, unnest(@uids::text[]), unnest(@titles::text[]), unnest(@starts::timestamptz[]), unnest(@ends::timestamptz[]), unnest(@kinds::text[]), unnest(@whole_days::boolean[]);

-- name: EntriesOf :many
-- What somebody's other calendars have in a window, each once: two of them can hold the
-- same.
SELECT DISTINCT ON (e.starts, e.ends, e.title, e.kind) e.uid, e.title, e.starts, e.ends, e.kind, e.whole_day, c.name, c.counts
FROM calendar c JOIN calendar_entry e ON e.calendar_id = c.id
WHERE c.person_id = @person_id AND e.starts < @ends::timestamptz AND e.ends > @begins::timestamptz
ORDER BY e.starts, e.ends, e.title, e.kind, c.counts DESC, c.added_at LIMIT 2000;

-- name: InsertBusyFrom :exec
INSERT INTO busy (person_id, during, kind, source, from_id)
SELECT @person_id, tstzrange(t.s, t.e), t.k, @source, @from_id
FROM (SELECT unnest(@starts::timestamptz[]) AS s, unnest(@ends::timestamptz[]) AS e, unnest(@kinds::text[]) AS k) t;

-- name: DropContactBusy :exec
DELETE FROM contact_busy WHERE contact_id = @contact_id;

-- name: InsertContactBusy :exec
INSERT INTO contact_busy (contact_id, during, kind)
SELECT @contact_id, tstzrange(t.s, t.e), t.k
FROM (SELECT unnest(@starts::timestamptz[]) AS s, unnest(@ends::timestamptz[]) AS e, unnest(@kinds::text[]) AS k) t;

-- name: ContactBusy :many
SELECT b.contact_id, lower(b.during)::timestamptz AS starts, upper(b.during)::timestamptz AS ends, b.kind
FROM (SELECT unnest(@starts::timestamptz[]) AS s, unnest(@ends::timestamptz[]) AS e) w
JOIN contact_busy b ON b.contact_id = ANY(@contacts::uuid[]) AND lower(b.during) < w.e AND lower(b.during) > w.s - interval '24 hours' AND upper(b.during) > w.s;

-- name: OurUIDs :many
-- Those of some UIDs that are meetings here which somebody organises or is invited to.
SELECT m.uid FROM meeting m WHERE m.uid = ANY(@uids::text[]);

-- name: ContactZone :one
SELECT zone FROM contact WHERE id = @id;

-- name: UpsertContact :one
INSERT INTO contact (id, name, firm, email, zone, fold) VALUES (@id, @name, '', @email, '', @fold)
ON CONFLICT (lower(email)) DO UPDATE SET name = contact.name RETURNING id;

-- name: Watching :many
SELECT coalesce(w.watched_id, '00000000-0000-0000-0000-000000000000')::uuid AS watched_id, coalesce(w.room_id, '00000000-0000-0000-0000-000000000000')::uuid AS room_id
FROM watching w WHERE w.person_id = @person_id ORDER BY w.place;

-- name: DropWatching :exec
DELETE FROM watching WHERE person_id = @person_id;

-- name: AddWatching :exec
INSERT INTO watching (person_id, place, watched_id, room_id)
SELECT @person_id, t.n, nullif(t.w, '00000000-0000-0000-0000-000000000000'::uuid), nullif(t.r, '00000000-0000-0000-0000-000000000000'::uuid)
FROM (SELECT unnest(@watched::uuid[]) AS w, unnest(@rooms::uuid[]) AS r, generate_series(1, cardinality(@rooms::uuid[])) AS n) t;

-- name: FeedByID :one
SELECT * FROM feed WHERE id = @id;

-- name: FeedOfPerson :one
SELECT * FROM feed WHERE person_id = @person_id;

-- name: FeedOfRoom :one
SELECT * FROM feed WHERE room_id = @room_id;

-- name: InsertFeed :exec
INSERT INTO feed (id, person_id, room_id, titles, made_at, changed_at) VALUES (@id, @person_id, @room_id, @titles, @made_at, @made_at)
ON CONFLICT DO NOTHING;

-- name: SetFeedTitles :exec
UPDATE feed SET titles = @titles WHERE id = @id;

-- name: SetFeedPrint :exec
UPDATE feed SET print = @print, changed_at = @changed_at WHERE id = @id;

-- name: DropFeedOfPerson :exec
DELETE FROM feed WHERE person_id = @person_id;

-- name: DropFeedOfRoom :exec
DELETE FROM feed WHERE room_id = @room_id;

-- name: LeaveDays :many
-- How many meetings somebody has on the days of each leave of theirs.
SELECT a.id, count(DISTINCT b.meeting_id)::int AS meetings FROM absence a JOIN person p ON p.id = a.person_id
JOIN busy b ON b.person_id = a.person_id AND b.source = 'meeting' AND b.kind <> 'free'
    AND lower(b.during) < ((a.last_day + 1)::timestamp AT TIME ZONE p.zone) AND lower(b.during) > (a.first_day::timestamp AT TIME ZONE p.zone) - interval '24 hours'
    AND upper(b.during) > (a.first_day::timestamp AT TIME ZONE p.zone)
WHERE a.person_id = @person_id AND a.last_day >= @since GROUP BY a.id;
