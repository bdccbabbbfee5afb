package meetings

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/schedule"
)

// ownRemindersTx is what is needed here of a transaction.
type ownRemindersTx interface {
	InvitedTx
	SetOwnReminders(ctx context.Context, participant uuid.UUID, all []meeting.Reminder, at time.Time) error
	Tell(ctx context.Context, n schedule.Notice) error
}

func (s *Deeds) ownRemindersStore() schedule.Store[ownRemindersTx] {
	return schedule.Narrow(s.Store, func(tx Tx) ownRemindersTx { return tx })
}

// RemindMe sets when somebody who is invited is reminded besides: inside, or by mail to them alone.
// Nobody else learns of it. It fails with ErrNotFound for who is not, with ErrCalledOff, and with an
// *InvalidError at "reminders".
func (s *Deeds) RemindMe(ctx context.Context, who schedule.Actor, id uuid.UUID, all []meeting.Reminder) error {
	own, fault := meeting.OwnReminders(all)
	if fault != nil {
		return schedule.Invalid(fault.Field, fault.What)
	}
	d, err := s.Meeting(ctx, who, id)
	switch {
	case err != nil:
		return err
	case d.Me == nil:
		return schedule.Invalid("reminders", say.It("reminder.organiser"))
	}
	return s.ownRemindersStore().InTx(ctx, func(tx ownRemindersTx) error {
		if _, _, err := LockInvited(ctx, tx, d.Me.ID); err != nil {
			return err
		}
		if err := tx.SetOwnReminders(ctx, d.Me.ID, own, s.Now()); err != nil {
			return err
		}
		return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{who.For}, Topic: schedule.AboutMeeting, ID: id})
	})
}
