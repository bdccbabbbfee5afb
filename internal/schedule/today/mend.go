package today

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/sheets"
)

// TakeRoom gives a date of a meeting a room at once, and tells those who are invited. It fails
// as sheets.Deeds.Send does; nothing is changed then.
func (s *Deeds) TakeRoom(ctx context.Context, who schedule.Actor, id uuid.UUID, on when.Day, room uuid.UUID) error {
	return s.Sheets.ChangeAtOnce(ctx, who, id, sheets.Opening{At: on, One: true}, func(d *meeting.Draft) error {
		d.RoomID, d.NoRoom = room.String(), false
		return nil
	})
}

// Extend lets a series go on beyond its end at once, for as many dates as core says.
func (s *Deeds) Extend(ctx context.Context, who schedule.Actor, id uuid.UUID) error {
	return s.Sheets.ChangeAtOnce(ctx, who, id, sheets.Opening{Extend: true}, func(d *meeting.Draft) error {
		if d.Repeat == nil || d.Repeat.Ends == "open" {
			return schedule.Invalid("meeting", say.It("ends.noEnd"))
		}
		return nil
	})
}
