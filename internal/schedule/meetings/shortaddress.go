package meetings

import (
	"context"
	"crypto/rand"
	"errors"
	"strings"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

// shortTx is what is needed here of a transaction.
type shortTx interface {
	kernel.Locking
	AtAddress(ctx context.Context, code string) (meetingID uuid.UUID, asks bool, err error)
	DropAddress(ctx context.Context, meetingID uuid.UUID) error
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	SetAddress(ctx context.Context, meetingID uuid.UUID, a schedule.ShortAddress, at time.Time) (schedule.ShortAddress, error)
	ShortAddress(ctx context.Context, meetingID uuid.UUID) (schedule.ShortAddress, error)
	Tell(ctx context.Context, n schedule.Notice) error
}

func (s *Deeds) shortStore() schedule.Store[shortTx] {
	return schedule.Narrow(s.Store, func(tx Tx) shortTx { return tx })
}

// codeLetters are those of a short address: none that is taken for another one. There are 32, so
// that ten of them are 50 random bits.
const codeLetters, codeLength = "abcdefghjkmnpqrstuvwxyz023456789", 10

// newCode is an address that cannot be guessed.
func newCode() string {
	var b [codeLength]byte
	rand.Read(b[:]) // it never fails
	for i := range b {
		b[i] = codeLetters[int(b[i])%len(codeLetters)]
	}
	return string(b[:])
}

// GiveAddress gives a meeting a short address that can be put into any mail, or says of the one it
// has whether who opens it can ask for an invitation. Only the organiser can.
func (s *Deeds) GiveAddress(ctx context.Context, who schedule.Actor, id uuid.UUID, asks bool) (a schedule.ShortAddress, err error) {
	err = s.shortStore().InTx(ctx, func(tx shortTx) error {
		if _, err := kernel.Organised(ctx, tx, who, id); err != nil {
			return err
		}
		if a, err = tx.SetAddress(ctx, id, schedule.ShortAddress{Code: newCode(), Asks: asks}, s.Now()); err != nil {
			return err
		}
		return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{who.For}, Topic: schedule.AboutMeeting, ID: id})
	})
	return a, err
}

// WithdrawAddress has the short address of a meeting open nothing any more.
func (s *Deeds) WithdrawAddress(ctx context.Context, who schedule.Actor, id uuid.UUID) error {
	return s.shortStore().InTx(ctx, func(tx shortTx) error {
		record, err := tx.LockMeeting(ctx, id)
		if err == nil && record.OrganiserID != who.For {
			err = schedule.ErrNotFound
		}
		if err != nil {
			return err
		}
		if err := tx.DropAddress(ctx, id); err != nil {
			return err
		}
		return tx.Tell(ctx, schedule.Notice{People: []uuid.UUID{who.For}, Topic: schedule.AboutMeeting, ID: id})
	})
}

// AtAddress is what a short address shows: of a meeting, not who is invited, and no files. Asks
// tells that its reader can ask for an invitation.
type AtAddress struct {
	schedule.Record
	Asks bool
	// Next is its first date that has not begun.
	Next meeting.Date
}

// ByAddress shows the meeting at a short address; it fails with ErrNotFound once the meeting is
// long over.
func (s *Deeds) ByAddress(ctx context.Context, code string) (v AtAddress, err error) {
	err = s.shortStore().Look(ctx, func(tx shortTx) error {
		id, asks, err := tx.AtAddress(ctx, strings.ToLower(code))
		if err != nil {
			return err
		}
		if v.Record, err = tx.Meeting(ctx, id); err != nil {
			return err
		}
		if lapsed(v.Record, s.Now()) {
			return schedule.ErrNotFound
		}
		v.Next, _ = v.Content.Date(v.Content.Next(when.At(s.Now())))
		over, ends := v.Content.Over()
		v.Asks = asks && v.CalledOffAt == nil && (!ends || over > when.At(s.Now()))
		return nil
	})
	return v, err
}

// shortAddress is that of a meeting, nil where it has none.
func shortAddress(ctx context.Context, tx shortTx, id uuid.UUID) (*schedule.ShortAddress, error) {
	a, err := tx.ShortAddress(ctx, id)
	if errors.Is(err, schedule.ErrNotFound) {
		return nil, nil
	}
	return &a, err
}
