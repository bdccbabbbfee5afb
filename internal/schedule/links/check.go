package links

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/meeting"
	"jembro/internal/schedule"
	"jembro/internal/schedule/kernel"
)

type checkTx interface {
	kernel.In
	CallsToCheck(ctx context.Context, now, until, seenBefore time.Time, most int) ([]uuid.UUID, error)
	LeftSheets(ctx context.Context, before time.Time, most int) ([]schedule.Sheet, error)
	Meeting(ctx context.Context, id uuid.UUID) (schedule.Record, error)
	SetCallSeen(ctx context.Context, id uuid.UUID, at time.Time) error
	SetSheet(ctx context.Context, s schedule.Sheet) error
	Tell(ctx context.Context, n schedule.Notice) error
}

func (s *Deeds) checkStore() schedule.Store[checkTx] {
	return schedule.Narrow(s.Store, func(tx Tx) checkTx { return tx })
}

const (
	checkAhead  = 3 * 24 * time.Hour // of the meetings whose calls are looked at
	checkEvery  = 20 * time.Hour     // each call, at most
	checkAgain  = 25 * time.Minute   // where its provider was away
	checkAtOnce = 200
	// leftFor is how long a sheet lies before its call is taken back.
	leftFor = 30 * 24 * time.Hour
)

// CheckCalls looks whether the calls of the next three days are still there, and tells those
// who organise what is gone; a call is looked at once a day. A provider that does not answer
// is asked again the next time. More tells that there are others to look at.
func (s *Deeds) CheckCalls(ctx context.Context) (more bool, err error) {
	var ids []uuid.UUID
	err = s.checkStore().Look(ctx, func(tx checkTx) error {
		ids, err = tx.CallsToCheck(ctx, s.Now(), s.Now().Add(checkAhead), s.Now().Add(-checkEvery), checkAtOnce)
		return err
	})
	if err != nil {
		return false, err
	}
	away := map[string]bool{} // by provider: nobody waits for it twice
	for _, id := range ids {
		seen := s.Now()
		switch err := s.checkCall(ctx, id, away); {
		case errors.Is(err, schedule.ErrUnreachable): // which says nothing of the call: it is looked at again soon
			seen = seen.Add(checkAgain - checkEvery)
		case err != nil && !errors.Is(err, schedule.ErrConnect): // nor does a sign-in that is over
			slog.Warn("a call could not be looked at", "meeting", id, "error", err)
		}
		if err := s.checkStore().InTx(ctx, func(tx checkTx) error { return tx.SetCallSeen(ctx, id, seen) }); err != nil {
			return false, err
		}
	}
	return len(ids) == checkAtOnce, ctx.Err()
}

func (s *Deeds) checkCall(ctx context.Context, id uuid.UUID, away map[string]bool) error {
	var record schedule.Record
	err := s.checkStore().Look(ctx, func(tx checkTx) (err error) {
		record, err = tx.Meeting(ctx, id)
		return err
	})
	if err != nil || record.CalledOffAt != nil || !record.Content.Card.Made() {
		return err
	}
	card := *record.Content.Card
	if away[card.Provider] {
		return schedule.ErrUnreachable
	}
	p, provider, err := s.providerOf(ctx, card)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(ctx, time.Minute)
	defer cancel()
	there, err := p.Holds(ctx, s.keyring(schedule.AccountOf(card, record.OrganiserID), provider), card)
	away[card.Provider] = errors.Is(err, schedule.ErrUnreachable)
	if err != nil || there {
		return err
	}
	return s.note(ctx, id, meeting.Event{Kind: meeting.EventLinkGone, Name: card.Name})
}

// SweepSheets takes back the calls of sheets that nobody has touched for a month; the sheets
// stay, and a call can be chosen again.
func (s *Deeds) SweepSheets(ctx context.Context) error {
	for range 100 {
		n := 0
		err := s.checkStore().InTx(ctx, func(tx checkTx) error {
			left, err := tx.LeftSheets(ctx, s.Now().Add(-leftFor), 100)
			if err != nil {
				return err
			}
			n = len(left)
			for _, sheet := range left {
				var of *schedule.Record
				if sheet.MeetingID != nil {
					record, err := tx.Meeting(ctx, *sheet.MeetingID)
					if err != nil && !errors.Is(err, schedule.ErrNotFound) {
						return err
					}
					of = &record
				}
				if err := kernel.WithdrawUnused(ctx, tx, sheet.OwnerID, sheet.Card, of); err != nil {
					return err
				}
				if sheet.Card = nil; of != nil {
					sheet.Card = of.Content.Card
				}
				if err := tx.SetSheet(ctx, sheet); err != nil {
					return err
				}
				if err := tx.Tell(ctx, sheet.Notice()); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil || n == 0 {
			return err
		}
	}
	return nil
}
