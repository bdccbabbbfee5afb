package dispatch

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"github.com/google/uuid"

	"jembro/internal/schedule"
)

// deliverTx is what is needed here of a transaction.
type deliverTx interface {
	AddHappening(ctx context.Context, meetingID uuid.UUID, h schedule.Happening) error
	AnswersOn(ctx context.Context, meetingID uuid.UUID) ([]schedule.AnswerOn, error)
	Dispatch(ctx context.Context, id uuid.UUID) (schedule.Dispatch, error)
	EarlierMails(ctx context.Context, participantID uuid.UUID, version int) ([]uuid.UUID, error)
	Invited(ctx context.Context, id uuid.UUID) (schedule.Invited, error)
	LockDispatch(ctx context.Context, id uuid.UUID) (schedule.Dispatch, error)
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	MeetingAt(ctx context.Context, id uuid.UUID, version int) (schedule.Record, error)
	SetDispatch(ctx context.Context, d schedule.Dispatch) error
	Tell(ctx context.Context, people []uuid.UUID, about uuid.UUID) error
}

// ErrEarlier: an earlier message to the same person has not gone out yet, and
// this one must not overtake it.
var ErrEarlier = errors.New("an earlier message goes first")

// Deliver hands one message over. A message that was handed over already is
// left alone; one that is handed over twice because the news of it got lost has
// the same Message-ID both times. What trying again does not mend is kept as
// failed, and returned as a *RefusedError.
func (s *Deeds) Deliver(ctx context.Context, id uuid.UUID) error {
	letter, d, err := s.letter(ctx, id)
	if err != nil || d.State != schedule.Queued {
		return err
	}
	takenBy, err := s.Post.Send(ctx, letter)
	var refused *schedule.RefusedError
	if err != nil && !errors.As(err, &refused) {
		return errors.Join(err, s.settleDispatch(ctx, id, schedule.Queued, "not yet: "+err.Error()))
	}
	if refused != nil {
		return errors.Join(err, s.settleDispatch(ctx, id, schedule.Failed, refused.Reason))
	}
	return s.settleDispatch(ctx, id, schedule.Handed, takenBy)
}

// letter writes a message from what was settled when it was queued.
func (s *Deeds) letter(ctx context.Context, id uuid.UUID) (letter schedule.Letter, d schedule.Dispatch, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		if d, err = tx.Dispatch(ctx, id); err != nil || d.State != schedule.Queued {
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
		answers = slices.DeleteFunc(answers, func(a schedule.AnswerOn) bool { return a.ParticipantID != to.ID })
		reader := schedule.Recipient(to, record.Content)
		if _, stays := record.Content.Participant(reader.ID); !stays && d.Version > 1 {
			before, err := tx.MeetingAt(ctx, d.MeetingID, d.Version-1)
			if err != nil {
				return err
			}
			reader = schedule.Recipient(to, before.Content)
		}
		letter = schedule.Letter{DispatchID: id, Kind: d.Kind, On: d.On, Meeting: record.Content, Stamp: record.Stamp,
			To: reader, Answer: to.Answer, Answers: schedule.AnswersByDay(answers),
			Words: d.Words, House: s.House, GuestURL: s.GuestURL(to.ID),
			ReplyTo: s.Seal.ReplyAddress(to.ID, s.House.MailDomain), MessageID: s.MessageID(id)}
		for _, e := range earlier {
			before, err := tx.Dispatch(ctx, e)
			if err != nil {
				return err
			}
			if before.State == schedule.Queued {
				return ErrEarlier
			}
			letter.Earlier = append(letter.Earlier, s.MessageID(e))
		}
		return nil
	})
	return letter, d, err
}

// settleDispatch keeps what became of a message and tells the organiser.
func (s *Deeds) settleDispatch(ctx context.Context, id uuid.UUID, state schedule.State, detail string) error {
	return s.Store.InTx(ctx, func(tx Tx) error {
		d, err := tx.LockDispatch(ctx, id)
		if err != nil || d.State != schedule.Queued || d.State == state && d.Detail == detail {
			return err
		}
		d.State, d.Detail = state, detail
		if state == schedule.Handed {
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
		if state == schedule.Failed {
			to, err := tx.Invited(ctx, d.ParticipantID)
			if err != nil {
				return err
			}
			words := fmt.Sprintf("The message to %s was refused: %s", to.Name, detail)
			if err := tx.AddHappening(ctx, d.MeetingID, schedule.Happening{At: s.Now(), Words: words}); err != nil {
				return err
			}
		}
		return tx.Tell(ctx, []uuid.UUID{record.OrganiserID}, d.MeetingID)
	})
}
