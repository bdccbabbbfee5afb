package calendars

import (
	"context"
	"fmt"

	"github.com/google/uuid"

	"jembro/internal/core/availability"
	"jembro/internal/core/say"
	"jembro/internal/schedule"
)

// sharingTx is what is needed here of a transaction.
type sharingTx interface {
	tellTx
	People(ctx context.Context, ids []uuid.UUID) ([]schedule.Person, error)
	SetSharing(ctx context.Context, personID uuid.UUID, everybody availability.Level, with []schedule.Sharing) error
}

func (s *Deeds) sharingStore() schedule.Store[sharingTx] {
	return schedule.Narrow(s.Store, func(tx Tx) sharingTx { return tx })
}

// mostShared is how many colleagues can see something else than everybody.
const mostShared = 200

// Share sets what everybody in the house sees of somebody's time, and what single
// colleagues do.
func (s *Deeds) Share(ctx context.Context, who schedule.Actor, everybody availability.Level, with []schedule.Sharing) error {
	if !everybody.Known() {
		return schedule.Invalid("everybody", say.It("sharing.level"))
	}
	if len(with) > mostShared {
		return schedule.Invalid("with", say.It("sharing.many", mostShared))
	}
	seen := map[uuid.UUID]bool{who.For: true}
	var ids []uuid.UUID
	for i, w := range with {
		switch {
		case w.PersonID == who.For:
			return schedule.Invalid(fmt.Sprintf("with.%d", i), say.It("sharing.self"))
		case seen[w.PersonID]:
			return schedule.Invalid(fmt.Sprintf("with.%d", i), say.It("sharing.twice"))
		case !w.Level.Known():
			return schedule.Invalid(fmt.Sprintf("with.%d", i), say.It("sharing.level"))
		}
		seen[w.PersonID] = true
		ids = append(ids, w.PersonID)
	}
	return s.sharingStore().InTx(ctx, func(tx sharingTx) error {
		if len(ids) > 0 {
			found, err := tx.People(ctx, ids)
			if err != nil {
				return err
			}
			if len(found) != len(ids) {
				return schedule.Invalid("with", say.It("sharing.gone"))
			}
		}
		if err := tx.SetSharing(ctx, who.For, everybody, with); err != nil {
			return err
		}
		return s.tell(ctx, tx, who.For)
	})
}
