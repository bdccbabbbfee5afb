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
	SilentSoon(ctx context.Context, after, before, askedSince time.Time) ([]schedule.Silent, error)
}

// Nudges sets whether who needs to answer and says nothing is asked again by itself.
func (s *Deeds) Nudges(ctx context.Context, who schedule.Actor, on bool) error {
	return s.Store.InTx(ctx, func(tx Tx) error { return tx.SetNudges(ctx, who.For, on) })
}

// NudgeSilent asks those again who say nothing about what is soon, in the name of who organises
// it: once before each meeting, and not at night.
func (s *Deeds) NudgeSilent(ctx context.Context) error {
	now := s.Now()
	var silent []schedule.Silent
	err := s.Store.Look(ctx, func(tx Tx) (err error) {
		silent, err = tx.SilentSoon(ctx, now.Add(loose.NudgeUntil), now.Add(loose.NudgeBefore), now.Add(-loose.NudgeRest))
		return err
	})
	asked := map[uuid.UUID]bool{}
	for _, x := range silent {
		if asked[x.Participant] || !loose.NudgeNow(x.Start, when.At(now), x.Zone) {
			continue
		}
		asked[x.Participant] = true
		var invalid *schedule.InvalidError
		if e := s.Meetings.AskAgain(ctx, schedule.Self(x.Organiser), x.Participant); e != nil && !errors.As(e, &invalid) && !errors.Is(e, schedule.ErrNotFound) {
			err = errors.Join(err, e) // who has answered meanwhile needs nothing
		}
	}
	return err
}
