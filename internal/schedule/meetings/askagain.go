package meetings

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// askTx is what is needed here of a transaction.
type askTx interface {
	InvitedTx
	kernel.In
	schedule.HappenTx
	schedule.MailsTx
	AnswersOn(ctx context.Context, meetingID uuid.UUID) ([]schedule.AnswerOn, error)
	NewestOfMeetings(ctx context.Context, ids []uuid.UUID) ([]schedule.Dispatch, error)
	Tell(ctx context.Context, n schedule.Notice) error
}

func (s *Deeds) askStore() schedule.Store[askTx] {
	return schedule.Narrow(s.Store, func(tx Tx) askTx { return tx })
}

// AskAgain asks somebody once more who has not answered, or not to each of their dates to come: then
// about those alone. It fails with an *InvalidError where they have answered, or had a message
// within the hour.
func (s *Deeds) AskAgain(ctx context.Context, who schedule.Actor, participant uuid.UUID) error {
	return s.askStore().InTx(ctx, func(tx askTx) error {
		of, err := tx.Invited(ctx, participant)
		if err != nil {
			return err
		}
		record, err := kernel.Organised(ctx, tx, who, of.MeetingID)
		if err != nil {
			return err
		}
		i, err := tx.LockInvited(ctx, participant)
		if err != nil {
			return err
		}
		answers, err := tx.AnswersOn(ctx, record.ID)
		if err != nil {
			return err
		}
		part, is := schedule.RollOf(record.Content, []schedule.Invited{i}, answers).Part(participant)
		if !is {
			return schedule.ErrNotFound
		}
		now := when.At(s.Now())
		if _, waits := part.Waiting(now); !waits {
			return schedule.Invalid("participant", say.It("ask.answered", say.Person(i.Name)))
		}
		newest, err := tx.NewestOfMeetings(ctx, []uuid.UUID{record.ID})
		if err != nil {
			return err
		}
		for _, d := range newest {
			if d.ParticipantID == participant && s.Now().Sub(d.QueuedAt) < meeting.AskedAgainAfter {
				return schedule.Invalid("participant", say.It("ask.justAsked", say.Person(i.Name)))
			}
		}
		if i.PersonID == nil {
			if fault, err := s.MailFault(ctx, tx, who.For, 1); err != nil || fault != nil {
				if fault != nil {
					err = schedule.Invalid("participant", fault.What)
				}
				return err
			}
			if err := s.CountMails(ctx, tx, who.For, 1); err != nil {
				return err
			}
		}
		if err := s.Kernel.TellOne(ctx, tx, record, i, meeting.Message{To: part.Participant, Kind: meeting.Invite, On: part.WaitingOn(now)}, ""); err != nil {
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
