package today

import (
	"context"
	"errors"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/loose"
	"jembro/internal/core/when"
	"jembro/internal/schedule"
)

// nudgeTx is what is needed here of a transaction.
type nudgeTx interface {
	SetNudges(ctx context.Context, person uuid.UUID, on bool) error
	SilentSoon(ctx context.Context, window when.Span, askedSince time.Time, last schedule.Silent, most int) ([]schedule.Silent, error)
}

func (s *Deeds) nudgeStore() schedule.Store[nudgeTx] {
	return schedule.Narrow(s.Store, func(tx Tx) nudgeTx { return tx })
}

// Nudges sets whether who needs to answer and says nothing is asked again by itself.
func (s *Deeds) Nudges(ctx context.Context, who schedule.Actor, on bool) error {
	return s.nudgeStore().InTx(ctx, func(tx nudgeTx) error { return tx.SetNudges(ctx, who.For, on) })
}

// NudgeSilent asks those again who say nothing about what is soon, in the name of who organises
// it: once before each meeting, and not at night.
func (s *Deeds) NudgeSilent(ctx context.Context) error {
	now := s.Now()
	window := when.Span{Start: when.At(now.Add(loose.NudgeUntil)), End: when.At(now.Add(loose.NudgeBefore))}
	asked := map[uuid.UUID]bool{}
	var last schedule.Silent
	var failed error
	for {
		var silent []schedule.Silent
		err := s.nudgeStore().Look(ctx, func(tx nudgeTx) (err error) {
			silent, err = tx.SilentSoon(ctx, window, now.Add(-loose.NudgeRest), last, silentAtOnce)
			return err
		})
		if err != nil {
			return errors.Join(failed, err)
		}
		for _, x := range silent {
			last = x
			if asked[x.Participant] || !loose.NudgeNow(x.Start, when.At(now), x.Zone) {
				continue
			}
			asked[x.Participant] = true
			var invalid *schedule.InvalidError
			err := s.Meetings.AskAgain(ctx, schedule.Self(x.Organiser), x.Participant)
			if err != nil && !errors.As(err, &invalid) && !errors.Is(err, schedule.ErrNotFound) { // who has answered meanwhile needs nothing
				failed = errors.Join(failed, err)
			}
		}
		if len(silent) < silentAtOnce {
			return failed
		}
	}
}

// silentAtOnce is how many of the silent are read at once.
const silentAtOnce = 500
