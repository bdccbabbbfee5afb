package schedule

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"github.com/google/uuid"
)

// ErrEarlier: an earlier message to the same person has not gone out yet, and
// this one must not overtake it.
var ErrEarlier = errors.New("an earlier message goes first")

// Deliver hands one message over. A message that was handed over already is
// left alone; one that is handed over twice because the news of it got lost has
// the same Message-ID both times. What trying again does not mend is kept as
// failed, and returned as a *RefusedError.
func (s *Service) Deliver(ctx context.Context, id uuid.UUID) error {
	letter, d, err := s.letter(ctx, id)
	if err != nil || d.State != Queued {
		return err
	}
	takenBy, err := s.Post.Send(ctx, letter)
	var refused *RefusedError
	if err != nil && !errors.As(err, &refused) {
		return errors.Join(err, s.settleDispatch(ctx, id, Queued, "not yet: "+err.Error()))
	}
	if refused != nil {
		return errors.Join(err, s.settleDispatch(ctx, id, Failed, refused.Reason))
	}
	return s.settleDispatch(ctx, id, Handed, takenBy)
}

// letter writes a message from what was settled when it was queued.
func (s *Service) letter(ctx context.Context, id uuid.UUID) (letter Letter, d Dispatch, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		if d, err = tx.Dispatch(ctx, id); err != nil || d.State != Queued {
			return err
		}
		record, err := tx.MeetingAt(ctx, d.MeetingID, d.Version)
		if err != nil {
			return err
		}
		to, err := tx.Invited(ctx, d.ParticipantID)
		if err != nil {
			return err
		}
		earlier, err := tx.EarlierMails(ctx, to.ID, d.Version)
		if err != nil {
			return err
		}
		answers, err := tx.AnswersOn(ctx, d.MeetingID)
		if err != nil {
			return err
		}
		answers = slices.DeleteFunc(answers, func(a AnswerOn) bool { return a.ParticipantID != to.ID })
		reader := recipient(to, record.Content)
		if _, stays := record.Content.Participant(reader.ID); !stays && d.Version > 1 {
			before, err := tx.MeetingAt(ctx, d.MeetingID, d.Version-1)
			if err != nil {
				return err
			}
			reader = recipient(to, before.Content)
		}
		letter = Letter{DispatchID: id, Kind: d.Kind, On: d.On, Meeting: record.Content, Stamp: record.Stamp,
			To: reader, Answer: to.Answer, Answers: answersByDay(answers),
			Words: d.Words, House: s.House, GuestURL: s.GuestURL(to.ID),
			ReplyTo: s.Seal.ReplyAddress(to.ID, s.House.MailDomain), MessageID: s.MessageID(id)}
		for _, e := range earlier {
			before, err := tx.Dispatch(ctx, e)
			if err != nil {
				return err
			}
			if before.State == Queued {
				return ErrEarlier
			}
			letter.Earlier = append(letter.Earlier, s.MessageID(e))
		}
		return nil
	})
	return letter, d, err
}

// settleDispatch keeps what became of a message and tells the organiser.
func (s *Service) settleDispatch(ctx context.Context, id uuid.UUID, state State, detail string) error {
	return s.Store.InTx(ctx, func(tx Tx) error {
		d, err := tx.LockDispatch(ctx, id)
		if err != nil || d.State != Queued || d.State == state && d.Detail == detail {
			return err
		}
		d.State, d.Detail = state, detail
		if state == Handed {
			now := s.Now()
			d.HandedAt = &now
		}
		if err := tx.SetDispatch(ctx, d); err != nil {
			return err
		}
		record, err := tx.Meeting(ctx, d.MeetingID)
		if err != nil {
			return err
		}
		if state == Failed {
			to, err := tx.Invited(ctx, d.ParticipantID)
			if err != nil {
				return err
			}
			words := fmt.Sprintf("The message to %s was refused: %s", to.Name, detail)
			if err := tx.AddHappening(ctx, d.MeetingID, Happening{At: s.Now(), Words: words}); err != nil {
				return err
			}
		}
		return tx.Tell(ctx, []uuid.UUID{record.OrganiserID}, d.MeetingID)
	})
}
