package postgres_test

import (
	"math/rand/v2"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/when"
	"jembro/internal/postgres"
	"jembro/internal/schedule"
)

// TestWhatIsTakenInSomeWindows compares every way to read bookings with a walk
// through all of them: what reaches into a window is read, nothing else is, however
// long it lasts.
func TestWhatIsTakenInSomeWindows(t *testing.T) {
	pool, store := database(t)
	require.NoError(t, store.Import(t.Context(), house()))
	random := rand.New(rand.NewPCG(20, 26))
	ctx := t.Context()
	var house []schedule.Room
	require.NoError(t, store.Look(ctx, func(tx *postgres.Tx) (err error) {
		house, err = tx.Rooms(ctx, schedule.EveryRoom)
		return err
	}))
	for len(house) < 3 { // two more, alike but for their ids
		var id uuid.UUID
		require.NoError(t, pool.QueryRow(ctx, `INSERT INTO room (id, site_id, name, floor, seats, equipment, email)
			SELECT gen_random_uuid(), site_id, name || gen_random_uuid(), floor, seats, equipment, gen_random_uuid() || '@rooms.marrowby.example' FROM room LIMIT 1 RETURNING id`).Scan(&id))
		house = append(house, schedule.Room{ID: id})
	}
	begin := when.At(time.Date(2026, 12, 1, 0, 0, 0, 0, time.UTC))
	all := map[uuid.UUID][]when.Span{}
	_, err := pool.Exec(ctx, `INSERT INTO sheet (id, owner_id, draft, updated_at) SELECT gen_random_uuid(), id, '{}', now() FROM person LIMIT 1`)
	require.NoError(t, err)
	for _, r := range house[:3] {
		for at := begin; at < begin.Add(90*24*time.Hour); {
			at = at.Add(time.Duration(random.IntN(20*60)) * time.Minute)
			long := time.Duration(5+random.IntN(180)) * time.Minute
			if random.IntN(20) == 0 {
				long = time.Duration(1+random.IntN(30)) * 24 * time.Hour
			}
			s := when.Span{Start: at, End: at.Add(long)}
			_, err := pool.Exec(ctx, `INSERT INTO booking (id, room_id, kind, owner_id, during, booked_at, until, sheet_id) SELECT gen_random_uuid(), $1, 'hold', owner_id, tstzrange($2, $3), now(), now() + interval '10 minutes', id FROM sheet LIMIT 1`,
				r.ID, s.Start.Time(), s.End.Time())
			require.NoError(t, err)
			all[r.ID] = append(all[r.ID], s)
			at = s.End
		}
	}
	for range 40 {
		var windows []when.Span
		for range 1 + random.IntN(6) {
			start := begin.Add(time.Duration(random.IntN(100*24*60)) * time.Minute)
			windows = append(windows, when.Span{Start: start, End: start.Add(time.Duration(1+random.IntN(3*24*60)) * time.Minute)})
		}
		asked := when.Union(windows...)
		ids := []uuid.UUID{house[0].ID, house[2].ID}
		require.NoError(t, store.Look(ctx, func(tx *postgres.Tx) error {
			for name, some := range map[string][]uuid.UUID{"all rooms": nil, "some rooms": ids} {
				want := map[string]when.Spans{}
				for _, r := range house[:3] {
					var meets []when.Span
					for _, s := range all[r.ID] {
						if asked.Overlaps(s) {
							meets = append(meets, s)
						}
					}
					if spans := when.Union(meets...); spans != nil && (some == nil || r.ID != house[1].ID) {
						want[r.ID.String()] = spans
					}
				}
				taken, err := tx.Taken(ctx, some, asked, schedule.View{})
				require.NoError(t, err)
				assert.Equal(t, want, taken, name)
				bookings, err := tx.Bookings(ctx, some, asked, schedule.View{})
				require.NoError(t, err)
				assert.Equal(t, want, schedule.Booked(bookings), name)
			}
			return nil
		}))
	}
}
