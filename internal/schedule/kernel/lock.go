package kernel

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/schedule"
)

// Locking is what is needed of a transaction to hold a meeting.
type Locking interface {
	LockMeeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
}

// Organised locks a meeting that who organises and that is still on. It fails with ErrNotFound
// for somebody else's, and with ErrCalledOff.
func Organised(ctx context.Context, tx Locking, who schedule.Actor, id uuid.UUID) (schedule.Record, error) {
	record, err := tx.LockMeeting(ctx, id)
	switch {
	case err != nil:
		return record, err
	case record.OrganiserID != who.For:
		return record, schedule.ErrNotFound
	case record.CalledOffAt != nil:
		return record, schedule.ErrCalledOff
	}
	return record, nil
}
