-- name: InsertFile :exec
INSERT INTO file (id, owner_id, name, type, size, content, added_at) VALUES (@id, @owner_id, @name, @type, @size, @content, @added_at);

-- name: UnsentSize :one
-- How much somebody has added that no meeting has.
SELECT coalesce(sum(size), 0)::bigint FROM file f
WHERE owner_id = @owner_id AND NOT EXISTS (SELECT FROM meeting_file mf WHERE mf.file_id = f.id);

-- name: FilesFor :many
-- Those of some files that a sheet can name: its owner's own, and those of the meeting it changes.
SELECT id, name, type, size FROM file f
WHERE id = ANY(@ids::uuid[]) AND (owner_id = @owner_id
    OR EXISTS (SELECT FROM meeting_file mf WHERE mf.file_id = f.id AND mf.meeting_id = sqlc.narg(meeting_id)::uuid));

-- name: KeepSheetFiles :exec
INSERT INTO sheet_file (sheet_id, file_id)
SELECT @sheet_id, id FROM file WHERE id = ANY(@ids::uuid[]) AND owner_id = @owner_id ON CONFLICT DO NOTHING;

-- name: RetireMeetingFiles :exec
UPDATE meeting_file SET current = false WHERE meeting_id = @meeting_id AND current AND NOT file_id = ANY(@ids::uuid[]);

-- name: KeepMeetingFiles :exec
INSERT INTO meeting_file (meeting_id, file_id, current)
SELECT @meeting_id, id, true FROM file WHERE id = ANY(@ids::uuid[])
ON CONFLICT (meeting_id, file_id) DO UPDATE SET current = true WHERE NOT meeting_file.current;

-- name: FileContents :many
SELECT id, name, type, size, content FROM file WHERE id = ANY(@ids::uuid[]);

-- name: FileForPerson :one
-- A file of one's own, or of a meeting that one organises or is invited to.
SELECT id, name, type, size, content FROM file f
WHERE f.id = @id AND (f.owner_id = @person_id OR EXISTS (SELECT FROM meeting_file mf JOIN meeting m ON m.id = mf.meeting_id
    WHERE mf.file_id = f.id AND mf.current AND (m.organiser_id = @person_id
        OR EXISTS (SELECT FROM participant p WHERE p.meeting_id = m.id AND p.person_id = @person_id AND p.removed_at IS NULL))));

-- name: FileOfMeeting :one
SELECT id, name, type, size, content FROM file f
WHERE f.id = @id AND EXISTS (SELECT FROM meeting_file mf WHERE mf.file_id = f.id AND mf.current AND mf.meeting_id = @meeting_id);

-- name: SweepFiles :exec
DELETE FROM file f WHERE added_at < @before AND NOT EXISTS (SELECT FROM sheet_file sf WHERE sf.file_id = f.id)
    AND NOT EXISTS (SELECT FROM meeting_file mf WHERE mf.file_id = f.id);
