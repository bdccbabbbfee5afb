package sheets

import (
	"context"
	"errors"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/schedule"
)

// ChangeAtOnce settles a change to a meeting at once: what a sheet would do in several steps.
// Where it cannot be, nothing of it stays. It fails with an *InvalidError where a change is begun
// already, and as Send does.
func (s *Deeds) ChangeAtOnce(ctx context.Context, who schedule.Actor, id uuid.UUID, o Opening, alter func(*meeting.Draft) error) error {
	sheet, err := s.ChangeMeeting(ctx, who, id, o)
	if err != nil {
		return err
	}
	if sheet.Version > 1 {
		return schedule.Invalid("meeting", "You have begun to change this meeting: finish that on its sheet, or throw it away.")
	}
	opened := sheet.ID
	if err = alter(&sheet.Draft); err == nil {
		sheet, _, err = s.SaveSheet(ctx, who, sheet.ID, sheet.Version, sheet.Draft, "")
	}
	if err == nil {
		_, err = s.Send(ctx, who, sheet.ID, sheet.Version, uuid.NewString())
	}
	if err != nil {
		err = errors.Join(err, s.DiscardSheet(context.WithoutCancel(ctx), who, opened))
	}
	return err
}
