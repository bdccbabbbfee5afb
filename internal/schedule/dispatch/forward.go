package dispatch

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// forwardTx is what is needed here of a transaction.
type forwardTx interface {
	directory.LookupTx
	DropLetterRaw(ctx context.Context, id uuid.UUID) error
	LetterRaw(ctx context.Context, id uuid.UUID) (schedule.LetterIn, error)
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
}

func (s *Deeds) forwardStore() schedule.Store[forwardTx] {
	return schedule.Narrow(s.Store, func(tx Tx) forwardTx { return tx })
}

// Forward hands a mail that somebody wrote to a meeting on to its organiser, once. It
// fails as Deliver does.
func (s *Deeds) Forward(ctx context.Context, letterID uuid.UUID) error {
	var f schedule.Forwarded
	err := s.forwardStore().Look(ctx, func(tx forwardTx) error {
		l, err := tx.LetterRaw(ctx, letterID)
		if err != nil {
			return err
		}
		record, err := tx.Meeting(ctx, l.MeetingID)
		if err != nil {
			return err
		}
		organiser, err := directory.Person(ctx, tx, record.OrganiserID)
		f = schedule.Forwarded{LetterIn: l, Title: record.Content.Title, To: record.Content.Organiser, Language: organiser.Language, House: s.House,
			Address: s.Seal.MeetingAddress(l.MeetingID, s.House.MailDomain), MessageID: s.MessageID(l.ID)}
		return err
	})
	if err != nil || f.Raw == nil {
		return err
	}
	if err := s.Post.Forward(ctx, f); err != nil {
		return err
	}
	return s.forwardStore().InTx(ctx, func(tx forwardTx) error { return tx.DropLetterRaw(ctx, letterID) })
}
