package meetings

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/schedule"
)

// attachmentTx is what is needed here of a transaction.
type attachmentTx interface {
	invitedTx
	FileForPerson(ctx context.Context, id, person uuid.UUID) (schedule.File, error)
	FileOfMeeting(ctx context.Context, id, meetingID uuid.UUID) (schedule.File, error)
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
}

func (s *Deeds) attachmentStore() schedule.Store[attachmentTx] {
	return schedule.Narrow(s.Store, func(tx Tx) attachmentTx { return tx })
}

// Attachment is a file of a meeting, or one of somebody's own for a sheet; it fails with
// ErrNotFound for who may not open it.
func (s *Deeds) Attachment(ctx context.Context, who schedule.Actor, id uuid.UUID) (f schedule.File, err error) {
	err = s.attachmentStore().Look(ctx, func(tx attachmentTx) error {
		f, err = tx.FileForPerson(ctx, id, who.For)
		return err
	})
	return f, err
}

// GuestAttachment is a file of the meeting that a token is for.
func (s *Deeds) GuestAttachment(ctx context.Context, token string, id uuid.UUID) (f schedule.File, err error) {
	err = s.attachmentStore().Look(ctx, func(tx attachmentTx) error {
		i, err := s.guest(ctx, tx, token)
		if err != nil {
			return err
		}
		record, err := tx.Meeting(ctx, i.MeetingID)
		if err == nil && lapsed(record, s.Now()) {
			err = schedule.ErrNotFound
		}
		if err != nil {
			return err
		}
		f, err = tx.FileOfMeeting(ctx, id, i.MeetingID)
		return err
	})
	return f, err
}
