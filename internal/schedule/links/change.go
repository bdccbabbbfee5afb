package links

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/schedule"
)

// changeTx is what is needed here of a transaction.
type changeTx interface {
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
}

// ChangeCall does at the provider what a change of a meeting asks for: the call
// moves to the time and title of the newest version, whatever they are by now,
// or is withdrawn. It can run again without harm.
func (s *Deeds) ChangeCall(ctx context.Context, c schedule.CallChange) error {
	p, known := s.Providers[c.Card.Provider]
	if !known {
		return schedule.ErrNotFound
	}
	keys := s.keyring(c.PersonID, c.Card.Provider)
	if c.Withdraw {
		if w, can := p.(CallWithdrawer); can {
			return w.Withdraw(ctx, keys, c.Card)
		}
		return nil
	}
	m, can := p.(CallMover)
	if !can {
		return nil
	}
	var record schedule.Record
	err := s.Store.Look(ctx, func(tx Tx) (err error) {
		record, err = tx.Meeting(ctx, c.MeetingID)
		return err
	})
	if err != nil || record.CalledOffAt != nil {
		return err
	}
	span := record.Content.Span()
	return m.Move(ctx, keys, c.Card, Call{Topic: record.Content.Title, Start: span.Start.Time(), End: span.End.Time()})
}
