-- name: InsertSheet :exec
INSERT INTO sheet (id, owner_id, meeting_id, based_on, draft, card, version, updated_at)
VALUES (@id, @owner_id, @meeting_id, @based_on, @draft, @card, 1, @updated_at) ON CONFLICT (id) DO NOTHING;

-- name: SheetOf :one
SELECT * FROM sheet WHERE id = @id AND owner_id = @owner_id;

-- name: LockSheet :one
SELECT * FROM sheet WHERE id = @id AND owner_id = @owner_id FOR NO KEY UPDATE;

-- name: LockSheetForMeeting :one
SELECT * FROM sheet WHERE meeting_id = @meeting_id AND owner_id = @owner_id FOR NO KEY UPDATE;

-- name: LockSheetsOf :exec
SELECT 1 FROM sheet WHERE meeting_id = @meeting_id ORDER BY id FOR NO KEY UPDATE;

-- name: Sheets :many
SELECT * FROM sheet WHERE owner_id = @owner_id ORDER BY updated_at DESC, id LIMIT @most OFFSET @skip;

-- name: UpdateSheet :exec
UPDATE sheet SET draft = @draft, card = @card, based_on = @based_on, version = version + 1, updated_at = @updated_at, send_fault = NULL WHERE id = @id;

-- name: SetSending :exec
UPDATE sheet SET send_at = @send_at, send_fault = @send_fault WHERE id = @id;

-- name: SheetByID :one
SELECT * FROM sheet WHERE id = @id;

-- name: UnsentSheets :many
-- What was to go out by itself and did not.
SELECT * FROM sheet WHERE owner_id = @owner_id AND send_fault IS NOT NULL ORDER BY updated_at DESC, id LIMIT 20;

-- name: DeleteSheet :exec
DELETE FROM sheet WHERE id = @id;

-- name: DeleteSheetsOfMeeting :exec
DELETE FROM sheet WHERE meeting_id = @meeting_id;

-- name: SheetsByID :many
SELECT * FROM sheet WHERE owner_id = @owner_id AND id = ANY(@ids::uuid[]) ORDER BY id FOR NO KEY UPDATE;

-- name: RebaseSheet :exec
-- What is changed on it goes on being changed, of a newer version.
UPDATE sheet SET based_on = @based_on, card = @card, version = version + 1 WHERE id = @id;

-- name: ChooseCall :one
-- Something else is chosen for the call of a sheet; gives the number of that choice.
UPDATE sheet SET chosen = chosen + 1 WHERE id = @id RETURNING chosen;

-- name: SetSheetCard :exec
UPDATE sheet SET card = @card WHERE id = @id;
