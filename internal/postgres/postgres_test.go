package postgres_test

import (
	"context"
	"fmt"
	"net/url"
	"os"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/postgres"
	"jembro/internal/postgres/cluster"
	"jembro/internal/schedule"
	"jembro/internal/schedule/directory"
)

var server *cluster.Cluster

func TestMain(m *testing.M) { os.Exit(run(m)) }

func run(m *testing.M) int {
	dir, err := os.MkdirTemp("/tmp", "jembro-postgres-")
	if err == nil {
		defer os.RemoveAll(dir)
		err = os.Chmod(dir, 0o755)
	}
	if err == nil {
		server, err = cluster.Start(context.Background(), cluster.Options{Dir: dir + "/data"})
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer server.Stop()
	return m.Run()
}

// database is a new one, migrated, of this test alone.
func database(t *testing.T) (*pgxpool.Pool, *postgres.Store) {
	pool := empty(t)
	require.NoError(t, postgres.Migrate(t.Context(), pool))
	store, err := postgres.NewStore(pool)
	require.NoError(t, err)
	return pool, store
}

// empty is a new database of this test alone.
func empty(t *testing.T) *pgxpool.Pool {
	name := "t" + uuid.NewString()
	require.NoError(t, server.Create(t.Context(), name, ""))
	pool, err := pgxpool.New(t.Context(), server.URL(name))
	require.NoError(t, err)
	t.Cleanup(pool.Close)
	return pool
}

// TestTheServerIsForNobodyElse: whoever can reach its port needs the password, and the
// program works without rights beyond its database.
func TestTheServerIsForNobodyElse(t *testing.T) {
	pool := empty(t)
	u, err := url.Parse(server.URL("postgres"))
	require.NoError(t, err)
	for _, user := range []*url.Userinfo{url.User("jembro"), url.UserPassword("jembro", "guessed"), url.User("jembro_admin"), url.User("postgres")} {
		u.User = user
		_, err := pgx.Connect(t.Context(), u.String())
		assert.Error(t, err, "as %s", user)
	}
	var can bool
	require.NoError(t, pool.QueryRow(t.Context(), "SELECT rolsuper OR rolcreaterole OR rolcreatedb OR rolreplication FROM pg_roles WHERE rolname = current_user").Scan(&can))
	assert.False(t, can)
	_, err = pool.Exec(t.Context(), "COPY (SELECT 1) TO PROGRAM 'true'")
	assert.ErrorContains(t, err, "42501", "insufficient privilege (PostgreSQL, appendix A)")
}

// TestWhatWasMissedIsSaid: what is told between a lost connection and the next is not
// heard, and whoever listens is told so once it listens again.
func TestWhatWasMissedIsSaid(t *testing.T) {
	pool, store := database(t)
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	missed := make(chan bool, 10)
	heard := make(chan schedule.Notice, 10)
	go postgres.Listen(ctx, pool, func(n schedule.Notice) { heard <- n }, func() { missed <- true })
	listening := func() (pid int) {
		require.Eventually(t, func() bool {
			return pool.QueryRow(t.Context(), "SELECT pid FROM pg_stat_activity WHERE datname = current_database() AND query LIKE 'LISTEN%'").Scan(&pid) == nil
		}, 5*time.Second, 10*time.Millisecond)
		return pid
	}
	pid := listening()
	require.Empty(t, missed, "nothing was missed at first")
	_, err := pool.Exec(t.Context(), "SELECT pg_terminate_backend($1)", pid)
	require.NoError(t, err)
	tell := func() {
		require.NoError(t, store.InTx(t.Context(), func(tx *postgres.Tx) error {
			return tx.Tell(t.Context(), schedule.Notice{People: []uuid.UUID{uuid.New()}, ID: uuid.New()})
		}))
	}
	tell() // nobody hears it
	select {
	case <-missed:
	case <-time.After(10 * time.Second):
		t.Fatal("what was told in between is never made good")
	}
	listening()
	tell()
	select {
	case <-heard:
	case <-time.After(5 * time.Second):
		t.Fatal("it does not listen again")
	}
}

func house() (h postgres.House) {
	h.Sites = []struct{ Name, Zone, Holidays string }{{"Quay store", "Europe/Lisbon", "PT"}}
	h.Rooms = []postgres.HouseRoom{{Name: "Crate Bench", Site: "Quay store", Floor: "ground floor", Email: "crate.bench@rooms.marrowby.example", Seats: 10, Equipment: []string{"loading door"}}}
	h.People = append(h.People, struct {
		Name, Email, Role, Site, Password string
		KeepsRooms                        bool
		KeepsProviders                    bool
		Zone, From, Until                 string
	}{"Inês Cordeiro", "Ines.Cordeiro@marrowby.example", "Art handler", "Quay store", "quay-lantern", false, false, "Europe/Lisbon", "8:00", "16:30"})
	h.Contacts = append(h.Contacts, struct {
		Name, Firm, Email string
		Zone, From, Until string
	}{"Sound desk", "Njoro", "desk@njoro.example", "Africa/Nairobi", "", ""})
	return h
}

func TestMigratingAgainAndAtOnceDoesNothing(t *testing.T) {
	pool, _ := database(t)
	var wait sync.WaitGroup
	for range 4 {
		wait.Go(func() { assert.NoError(t, postgres.Migrate(context.Background(), pool)) })
	}
	wait.Wait()
}

func TestAHouseIsReadBackAsItWasImported(t *testing.T) {
	_, store := database(t)
	require.NoError(t, store.Import(t.Context(), house()))
	require.NoError(t, store.Look(t.Context(), func(tx *postgres.Tx) error {
		p, err := tx.PersonByEmail(t.Context(), "INES.cordeiro@marrowby.example")
		require.NoError(t, err)
		assert.Equal(t, "Quay store", p.Site)
		zone, err := when.LoadZone("Europe/Lisbon")
		require.NoError(t, err)
		week := when.Workdays(when.ClockOf(8, 0), when.ClockOf(16, 30), zone)
		assert.Equal(t, week.Week, p.Hours.Week)
		assert.Equal(t, zone, p.Hours.Zone)
		assert.NotContains(t, p.PasswordHash, "quay-lantern")
		contacts, err := tx.Contacts(t.Context(), []string{"Desk@njoro.example"})
		require.NoError(t, err)
		require.Len(t, contacts, 1)
		assert.Nil(t, contacts[0].Hours, "nobody knows them")
		found, err := tx.SearchDirectory(t.Context(), uuid.Nil, directory.Fold("INES"), schedule.Page{Most: 5})
		require.NoError(t, err)
		require.Len(t, found, 1)
		_, err = tx.PersonByEmail(t.Context(), "nobody@marrowby.example")
		assert.ErrorIs(t, err, schedule.ErrNotFound)
		return nil
	}))
	assert.ErrorContains(t, store.Import(t.Context(), house()), "empty directory")
}

func TestAHouseWithAMistakeIsNotImportedAtAll(t *testing.T) {
	_, store := database(t)
	for name, spoil := range map[string]func(*postgres.House){
		"a zone":    func(h *postgres.House) { h.Sites[0].Zone = "Lisbon" },
		"a clock":   func(h *postgres.House) { h.People[0].From = "eight" },
		"a site":    func(h *postgres.House) { h.Rooms[0].Site = "Nowhere" },
		"seats":     func(h *postgres.House) { h.Rooms[0].Seats = 0 },
		"a keeper":  func(h *postgres.House) { h.Rooms[0].Keepers = []string{"ghost@marrowby.example"} },
		"a country": func(h *postgres.House) { h.Sites[0].Holidays = "ZZ" },
	} {
		h := house()
		spoil(&h)
		assert.Error(t, store.Import(t.Context(), h), name)
	}
	require.NoError(t, store.Import(t.Context(), house()), "nothing was left behind")
}

func TestTheDatabaseItselfRefusesADoubleBooking(t *testing.T) {
	pool, store := database(t)
	require.NoError(t, store.Import(t.Context(), house()))
	hour := when.At(time.Date(2026, 12, 3, 9, 0, 0, 0, time.UTC))
	var first uuid.UUID
	book := func(from, until when.Instant) error {
		return store.InTx(t.Context(), func(tx *postgres.Tx) error {
			p, err := tx.PersonByEmail(t.Context(), "ines.cordeiro@marrowby.example")
			require.NoError(t, err)
			rooms, err := tx.Rooms(t.Context(), schedule.Page{Most: 1})
			require.NoError(t, err)
			id := uuid.New()
			require.NoError(t, tx.AddMeeting(t.Context(), schedule.Record{ID: id, OrganiserID: p.ID, Version: 1, Content: meeting.Meeting{UID: id.String()}}))
			if first == uuid.Nil {
				first = id
			}
			clashes, err := tx.SetOccurrences(t.Context(), id, p.ID, []schedule.Occurrence{{On: 20790, Span: when.Span{Start: from, End: until}, RoomID: rooms[0].ID}}, hour.Time())
			require.NoError(t, err)
			if len(clashes) > 0 {
				assert.Equal(t, "Inês Cordeiro", clashes[0].By)
				return schedule.ErrOverlap
			}
			return nil
		})
	}
	require.NoError(t, book(hour, hour+3600))
	assert.ErrorIs(t, book(hour+1800, hour+5400), schedule.ErrOverlap)
	assert.NoError(t, book(hour+3600, hour+7200), "half-open: the end is free")
	_, err := pool.Exec(t.Context(), `INSERT INTO booking (id, room_id, occurrence_id, owner_id, during, booked_at) SELECT gen_random_uuid(), room_id, occurrence_id, owner_id, during, booked_at FROM booking LIMIT 1`)
	assert.ErrorContains(t, err, "booking_once", "past all code of ours")
	var kept int
	require.NoError(t, pool.QueryRow(t.Context(), "SELECT count(*) FROM meeting").Scan(&kept))
	assert.Equal(t, 2, kept, "what was refused left nothing")
}

func TestLookingChangesNothing(t *testing.T) {
	_, store := database(t)
	err := store.Look(t.Context(), func(tx *postgres.Tx) error {
		return tx.AddSession(t.Context(), []byte("x"), uuid.New(), time.Now(), time.Now())
	})
	assert.ErrorContains(t, err, "read-only")
}

func TestNoticesComeWhenTheTransactionIsKept(t *testing.T) {
	pool, store := database(t)
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	heard := make(chan schedule.Notice, 10)
	go postgres.Listen(ctx, pool, func(n schedule.Notice) { heard <- n }, func() {})
	time.Sleep(200 * time.Millisecond)
	many := make([]uuid.UUID, 250)
	for i := range many {
		many[i] = uuid.New()
	}
	undone := store.InTx(t.Context(), func(tx *postgres.Tx) error {
		require.NoError(t, tx.Tell(t.Context(), schedule.Notice{People: many, ID: uuid.New()}))
		return schedule.ErrCalledOff
	})
	require.ErrorIs(t, undone, schedule.ErrCalledOff)
	about := uuid.New()
	require.NoError(t, store.InTx(t.Context(), func(tx *postgres.Tx) error { return tx.Tell(t.Context(), schedule.Notice{People: many, ID: about}) }))
	told := map[uuid.UUID]bool{}
	for len(told) < len(many) {
		select {
		case n := <-heard:
			require.Equal(t, about, n.ID, "what was undone is not heard")
			for _, p := range n.People {
				told[p] = true
			}
		case <-time.After(5 * time.Second):
			t.Fatalf("%d of %d people told", len(told), len(many))
		}
	}
}
