package postgres

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/attachment"
	"jembro/internal/postgres/db"
	"jembro/internal/schedule"
)

// AddFile keeps a file; SweepFiles drops it again while no sheet and no meeting has it.
func (t *Tx) AddFile(ctx context.Context, f schedule.File, owner uuid.UUID, at time.Time) error {
	id, err := uuid.Parse(f.ID)
	if err != nil {
		return err
	}
	return t.InsertFile(ctx, db.InsertFileParams{ID: id, OwnerID: owner, Name: f.Name, Type: f.Type, Size: int32(f.Size), Content: f.Content, AddedAt: at})
}

// fileIDs are the ids of files; what is none names no file.
func fileIDs(all []attachment.File) []uuid.UUID {
	out := []uuid.UUID{}
	for _, f := range all {
		if id, err := uuid.Parse(f.ID); err == nil {
			out = append(out, id)
		}
	}
	return out
}

// FilesFor are those of some files that somebody can put on the sheet of a meeting, by id; nil is
// for a new one.
func (t *Tx) FilesFor(ctx context.Context, all []attachment.File, owner uuid.UUID, meetingID *uuid.UUID) (map[string]attachment.File, error) {
	rows, err := t.Queries.FilesFor(ctx, db.FilesForParams{Ids: fileIDs(all), OwnerID: owner, MeetingID: meetingID})
	out := map[string]attachment.File{}
	for _, r := range rows {
		out[r.ID.String()] = attachment.File{ID: r.ID.String(), Name: r.Name, Type: r.Type, Size: int(r.Size)}
	}
	return out, err
}

// KeepSheetFiles keeps files as long as the sheet is there.
func (t *Tx) KeepSheetFiles(ctx context.Context, sheetID, owner uuid.UUID, all []attachment.File) error {
	return t.Queries.KeepSheetFiles(ctx, db.KeepSheetFilesParams{SheetID: sheetID, OwnerID: owner, Ids: fileIDs(all)})
}

// KeepMeetingFiles keeps files as long as the meeting is there. Those of an earlier version stay,
// and only the current ones are given out.
func (t *Tx) KeepMeetingFiles(ctx context.Context, meetingID uuid.UUID, all []attachment.File) error {
	if err := t.RetireMeetingFiles(ctx, db.RetireMeetingFilesParams{MeetingID: meetingID, Ids: fileIDs(all)}); err != nil {
		return err
	}
	return t.Queries.KeepMeetingFiles(ctx, db.KeepMeetingFilesParams{MeetingID: meetingID, Ids: fileIDs(all)})
}

func toFile(r db.FileContentsRow) schedule.File {
	return schedule.File{File: attachment.File{ID: r.ID.String(), Name: r.Name, Type: r.Type, Size: int(r.Size)}, Content: r.Content}
}

// FileContents are files with what is in them, in the order that they are asked for.
func (t *Tx) FileContents(ctx context.Context, all []attachment.File) (out []schedule.File, err error) {
	rows, err := t.Queries.FileContents(ctx, fileIDs(all))
	for _, f := range all {
		for _, r := range rows {
			if r.ID.String() == f.ID {
				out = append(out, toFile(r))
			}
		}
	}
	return out, err
}

// FileForPerson is a file that somebody inside may open.
func (t *Tx) FileForPerson(ctx context.Context, id, person uuid.UUID) (schedule.File, error) {
	r, err := t.Queries.FileForPerson(ctx, db.FileForPersonParams{ID: id, PersonID: person})
	return toFile(db.FileContentsRow(r)), domain(err)
}

// FileOfMeeting is a file that goes with a meeting as it is now.
func (t *Tx) FileOfMeeting(ctx context.Context, id, meetingID uuid.UUID) (schedule.File, error) {
	r, err := t.Queries.FileOfMeeting(ctx, db.FileOfMeetingParams{ID: id, MeetingID: meetingID})
	return toFile(db.FileContentsRow(r)), domain(err)
}

// SweepFiles drops what was added before a moment and neither a sheet nor a meeting has.
func (t *Tx) SweepFiles(ctx context.Context, before time.Time) error {
	return t.Queries.SweepFiles(ctx, before)
}
