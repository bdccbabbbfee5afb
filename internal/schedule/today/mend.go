package today

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/sheets"
)

// TakeRoom gives a date of a meeting a room at once, and tells those who are invited. It fails
// as sheets.Deeds.Send does; nothing is changed then.
func (s *Deeds) TakeRoom(ctx context.Context, who schedule.Actor, id uuid.UUID, on when.Day, room uuid.UUID) error {
	return s.change(ctx, who, id, sheets.Opening{At: on, One: true}, func(d *meeting.Draft) error {
		d.RoomID, d.NoRoom = room.String(), false
		return nil
	})
}

// Extend lets a series go on beyond its end at once, for as many dates as core says.
func (s *Deeds) Extend(ctx context.Context, who schedule.Actor, id uuid.UUID) error {
	return s.change(ctx, who, id, sheets.Opening{Extend: true}, func(d *meeting.Draft) error {
		if d.Repeat == nil || d.Repeat.Ends == "open" {
			return schedule.Invalid("meeting", "This meeting has no end to go beyond.")
		}
		return nil
	})
}

// change settles a change to a meeting at once: what a sheet would do in several steps. Where it
// cannot be, nothing of it stays.
func (s *Deeds) change(ctx context.Context, who schedule.Actor, id uuid.UUID, o sheets.Opening, alter func(*meeting.Draft) error) error {
	sheet, err := s.Sheets.ChangeMeeting(ctx, who, id, o)
	if err != nil {
		return err
	}
	if sheet.Version > 1 {
		return schedule.Invalid("meeting", "You have begun to change this meeting: finish that on its sheet, or throw it away.")
	}
	opened := sheet.ID
	if err = alter(&sheet.Draft); err == nil {
		sheet, _, err = s.Sheets.SaveSheet(ctx, who, sheet.ID, sheet.Version, sheet.Draft, "")
	}
	if err == nil {
		_, err = s.Sheets.Send(ctx, who, sheet.ID, sheet.Version, uuid.NewString())
	}
	if err != nil {
		err = errors.Join(err, s.Sheets.DiscardSheet(context.WithoutCancel(ctx), who, opened))
	}
	return err
}
