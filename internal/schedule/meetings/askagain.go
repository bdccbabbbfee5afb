package meetings

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/schedule"
)

// askTx is what is needed here of a transaction.
type askTx interface {
	TellTx
	schedule.MailsTx
	Invited(ctx context.Context, id uuid.UUID) (schedule.Invited, error)
	LockInvited(ctx context.Context, id uuid.UUID) (schedule.Invited, error)
	LockMeeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	NewestOfMeetings(ctx context.Context, ids []uuid.UUID) ([]schedule.Dispatch, error)
	Tell(ctx context.Context, n schedule.Notice) error
}

// AskAgain asks somebody who has said nothing once more. It fails with an *InvalidError where
// they have answered, or had a message within the hour.
func (s *Deeds) AskAgain(ctx context.Context, who schedule.Actor, participant uuid.UUID) error {
	return s.Store.InTx(ctx, func(tx Tx) error {
		of, err := tx.Invited(ctx, participant)
		if err != nil {
			return err
		}
		record, err := Organised(ctx, tx, who, of.MeetingID)
		if err != nil {
			return err
		}
		i, err := tx.LockInvited(ctx, participant)
		if err != nil {
			return err
		}
		p, is := record.Content.Participant(participant.String())
		switch {
		case !is || i.RemovedAt != nil:
			return schedule.ErrNotFound
		case i.Answer != meeting.NoAnswer:
			return schedule.Invalid("participant", i.Name+" has answered meanwhile.")
		}
		newest, err := tx.NewestOfMeetings(ctx, []uuid.UUID{record.ID})
		if err != nil {
			return err
		}
		asked := record
		asked.Stamp = s.Now()
		for _, d := range newest {
			if d.ParticipantID != participant {
				continue
			}
			if s.Now().Sub(d.QueuedAt) < meeting.AskedAgainAfter {
				return schedule.Invalid("participant", i.Name+" had a message within the last hour. Give them some time.")
			}
			if next := d.Stamp.Add(time.Second); next.After(asked.Stamp) { // each has its own
				asked.Stamp = next
			}
		}
		if i.PersonID == nil {
			if fault, err := s.MailFault(ctx, tx, who.For, 1); err != nil || fault != nil {
				if fault != nil {
					err = schedule.Invalid("participant", fault.Sentence)
				}
				return err
			}
			if err := s.CountMails(ctx, tx, who.For, 1); err != nil {
				return err
			}
		}
		if err := s.Dispatch(ctx, tx, nil, asked, []meeting.Message{{To: p, Kind: meeting.Invite}}, Saying("")); err != nil {
			return err
		}
		e := meeting.Event{Kind: meeting.EventAskedAgain, Who: record.Content.Organiser.Name, Name: i.Name}
		if err := s.Happened(ctx, tx, record, record.OrganiserID, e); err != nil {
			return err
		}
		told := []uuid.UUID{record.OrganiserID}
		if i.PersonID != nil {
			told = append(told, *i.PersonID)
		}
		return tx.Tell(ctx, schedule.Notice{People: told, Topic: schedule.AboutMeeting, ID: record.ID})
	})
}
