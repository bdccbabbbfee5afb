package availability

import (
	"context"

	"github.com/google/uuid"

	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

// monthTx is what is needed here of a transaction.
type monthTx interface {
	directory.LookupTx
	DaysWithMeetings(ctx context.Context, person uuid.UUID, window when.Span, zone when.Zone) (map[when.Day]int, error)
}

// Month is on how many occasions somebody has something on each day of some weeks; days
// on which they have nothing are left out.
func (s *Deeds) Month(ctx context.Context, who schedule.Actor, first when.Day, days int) (counts map[when.Day]int, err error) {
	err = s.Store.Look(ctx, func(tx Tx) error {
		p, err := directory.Person(ctx, tx, who.For)
		if err != nil {
			return err
		}
		zone := p.Hours.Zone
		window := when.DaysSpan(first, first+when.Day(days)-1, zone)
		counts, err = tx.DaysWithMeetings(ctx, who.For, window, zone)
		return err
	})
	return counts, err
}
