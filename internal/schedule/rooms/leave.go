package rooms

import (
	"context"
	"time"

	"github.com/google/uuid"

	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// leaveTx is what is needed here of a transaction.
type leaveTx interface {
	kernel.In
	DropSessionsOf(ctx context.Context, personID uuid.UUID, but []byte) error
	Leaves(ctx context.Context, person uuid.UUID, at time.Time) (rooms []uuid.UUID, ok bool, err error)
	OpenRequests(ctx context.Context, rooms []uuid.UUID, most int) ([]schedule.AskedRoom, error)
	PersonByEmail(ctx context.Context, email string) (schedule.Person, error)
	RoomsByID(ctx context.Context, ids []uuid.UUID) ([]schedule.Room, error)
	Tell(ctx context.Context, n schedule.Notice) error
}

func (s *Deeds) leaveStore() schedule.Store[leaveTx] {
	return schedule.Narrow(s.Store, func(tx Tx) leaveTx { return tx })
}

// Leave has somebody work here no more: they cannot sign in, are not found in the
// directory, and keep no rooms. What waits for their answer is asked of who keeps the
// rooms then. Orphaned are rooms that nobody keeps afterwards: they book themselves.
func (s *Deeds) Leave(ctx context.Context, email string) (orphaned []string, err error) {
	err = s.leaveStore().InTx(ctx, func(tx leaveTx) error {
		orphaned = nil
		p, err := tx.PersonByEmail(ctx, email)
		if err != nil {
			return err
		}
		kept, ok, err := tx.Leaves(ctx, p.ID, s.Now())
		if err != nil || !ok {
			return err
		}
		if err := tx.DropSessionsOf(ctx, p.ID, nil); err != nil {
			return err
		}
		if err := tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{p.ID}, Topic: schedule.AboutSession, ID: p.ID}); err != nil {
			return err
		}
		house, err := tx.RoomsByID(ctx, kept)
		if err != nil {
			return err
		}
		open, err := tx.OpenRequests(ctx, kept, len(kept)*mostAsked)
		if err != nil {
			return err
		}
		for _, room := range house {
			if len(room.KeptBy) == 0 {
				orphaned = append(orphaned, room.Name)
			}
			for _, q := range open {
				if q.RoomID == room.ID {
					if err := s.Kernel.TellKeepers(ctx, tx, q.MeetingID, q.Content, room, q.By); err != nil {
						return err
					}
				}
			}
		}
		return nil
	})
	return orphaned, err
}
