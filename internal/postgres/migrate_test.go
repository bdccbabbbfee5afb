package postgres_test

import (
	"compress/gzip"
	"database/sql"
	"io"
	"os"
	"testing"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/tongue"
	"jembro/internal/core/words"
	"jembro/internal/postgres"
)

// migratedTo is a database with the schema of an older version.
func migratedTo(t *testing.T, version int64) (*pgxpool.Pool, *sql.DB) {
	pool := empty(t)
	db := stdlib.OpenDBFromPool(pool)
	t.Cleanup(func() { _ = db.Close() })
	goose.SetBaseFS(nil)
	goose.SetLogger(goose.NopLogger())
	require.NoError(t, goose.SetDialect("postgres"))
	require.NoError(t, goose.UpToContext(t.Context(), db, "migrations", version))
	return pool, db
}

// TestAHouseOfTheVersionBeforeIsKept migrates a database that the version before
// filled (the demo house at the second migration) and reads everything back.
func TestAHouseOfTheVersionBeforeIsKept(t *testing.T) {
	pool, _ := migratedTo(t, 2)
	file, err := os.Open("testdata/version2.sql.gz")
	require.NoError(t, err)
	defer file.Close()
	unpacked, err := gzip.NewReader(file)
	require.NoError(t, err)
	filled, err := io.ReadAll(unpacked)
	require.NoError(t, err)
	_, err = pool.Exec(t.Context(), string(filled))
	require.NoError(t, err)
	number := func(sql string) (n int) {
		require.NoError(t, pool.QueryRow(t.Context(), sql).Scan(&n))
		return n
	}
	busyBefore := number(`SELECT sum(extract(epoch FROM upper(during) - lower(during)))::int FROM busy`)
	long := number(`SELECT count(*) FROM busy WHERE upper(during) - lower(during) > interval '24 hours'`)
	require.Positive(t, long, "there is leave of several days")

	// The least day of a range as it was once written: the meeting could not be read.
	_, err = pool.Exec(t.Context(), `UPDATE meeting_version SET content = jsonb_set(content, '{participants,0,dates}', '[{"from": "-2937836-09-26", "to": "2027-06-01"}]')
		WHERE content->'series' IS NOT NULL AND jsonb_array_length(content->'participants') > 0`)
	require.NoError(t, err)
	broken := number(`SELECT count(*) FROM meeting_version WHERE content::text LIKE '%-2937836%'`)
	require.Positive(t, broken)

	require.NoError(t, postgres.Migrate(t.Context(), pool))
	assert.Zero(t, number(`SELECT count(*) FROM meeting_version WHERE content::text LIKE '%-2937836%'`))
	store, err := postgres.NewStore(pool)
	require.NoError(t, err)
	assert.Equal(t, 120, number("SELECT count(*) FROM meeting"))
	assert.Equal(t, busyBefore, number(`SELECT sum(extract(epoch FROM upper(during) - lower(during)))::int FROM busy`), "no time is lost or won by cutting rows")
	assert.Equal(t, 0, number(`SELECT count(*) FROM busy WHERE source = 'meeting' AND meeting_id IS NULL OR source = 'leave' AND meeting_id IS NOT NULL`))
	assert.Equal(t, 84, number(`SELECT count(*) FROM booking b JOIN meeting m ON m.id = b.meeting_id WHERE b.owner_id = m.organiser_id AND b.private = m.private AND b.kind = 'booked'`))
	assert.Equal(t, 0, number(`SELECT count(*) FROM meeting WHERE zone = ''`))
	assert.Equal(t, 0, number(`SELECT count(*) FROM busy WHERE (source = 'leave') <> (from_id IS NOT NULL)`), "leave is known as such")
	assert.Equal(t, number(`SELECT round(sum(extract(epoch FROM upper(during) - lower(during))) / 86400)::int FROM busy WHERE source = 'leave'`), number(`SELECT sum(last_day - first_day + 1)::int FROM absence`), "day for day")
	series := number(`SELECT count(*) FROM meeting WHERE repeats`)
	assert.Positive(t, series)

	rows, err := pool.Query(t.Context(), "SELECT id FROM meeting")
	require.NoError(t, err)
	var ids []uuid.UUID
	for rows.Next() {
		var id uuid.UUID
		require.NoError(t, rows.Scan(&id))
		ids = append(ids, id)
	}
	require.NoError(t, rows.Err())
	require.NoError(t, store.Look(t.Context(), func(tx *postgres.Tx) error {
		repeating := 0
		for _, id := range ids {
			r, err := tx.Meeting(t.Context(), id)
			require.NoError(t, err)
			require.NotEmpty(t, r.Content.Title)
			if r.Content.Repeats() {
				repeating++
			}
			story, err := tx.Happenings(t.Context(), id, 100)
			require.NoError(t, err)
			require.NotEmpty(t, story)
			for _, h := range story {
				require.NotEmpty(t, words.Event(tongue.Tongue{}, h.Event), "what was kept as words stays as words")
			}
		}
		assert.Equal(t, series, repeating)
		return nil
	}))
}

// TestListsOfPeopleAreRows: those of a house that kept them in arrays are the same, in their order,
// without whoever is not there any more; and going back gives them back.
func TestListsOfPeopleAreRows(t *testing.T) {
	pool, db := migratedTo(t, 31)
	const ilse, tome, gone = "00000000-0000-0000-0000-0000000000a1", "00000000-0000-0000-0000-0000000000a2", "00000000-0000-0000-0000-0000000000a3"
	_, err := pool.Exec(t.Context(), `
		INSERT INTO site (id, name, zone) VALUES ('00000000-0000-0000-0000-000000000001', 'Lantern House', 'Europe/Lisbon');
		INSERT INTO person (id, name, email, role, site_id, zone, hours, password_hash, fold) SELECT id::uuid, name, name || '@marrowby.example', '', '00000000-0000-0000-0000-000000000001', 'Europe/Lisbon', '{}', '', name
			FROM (VALUES ('`+ilse+`', 'ilse'), ('`+tome+`', 'tome')) p(id, name);
		INSERT INTO room (id, site_id, name, floor, seats, equipment, email, keepers) VALUES
			('00000000-0000-0000-0000-0000000000b1', '00000000-0000-0000-0000-000000000001', 'Tide Office', '1', 6, '{}', 'tide@rooms.marrowby.example', '{`+tome+`,`+gone+`,`+ilse+`}');
		INSERT INTO standing_link (id, kind, name, owner_id, shared_with, card, made_at) VALUES
			('00000000-0000-0000-0000-0000000000c1', 'person', 'Desk', '`+ilse+`', '{`+tome+`}', '{}', now());
		INSERT INTO sheet (id, owner_id, draft, updated_at) VALUES ('00000000-0000-0000-0000-0000000000d1', '`+ilse+`', '{}', now());
		INSERT INTO waiting (sheet_id, person_id, people, starts, ends, since) VALUES
			('00000000-0000-0000-0000-0000000000d1', '`+ilse+`', '{`+tome+`,`+ilse+`}', now(), now() + interval '1 hour', now())`)
	require.NoError(t, err)
	text := func(sql string) (s string) {
		require.NoError(t, pool.QueryRow(t.Context(), sql).Scan(&s))
		return s
	}
	require.NoError(t, goose.UpToContext(t.Context(), db, "migrations", 32))
	named := func(table string) string {
		return text(`SELECT string_agg(p.name, ' ' ORDER BY x.place) FROM ` + table + ` x JOIN person p ON p.id = x.person_id`)
	}
	assert.Equal(t, "tome ilse", named("room_keeper"))
	assert.Equal(t, "tome", named("standing_share"))
	assert.Equal(t, "tome ilse", named("waiting_person"))
	require.NoError(t, goose.DownToContext(t.Context(), db, "migrations", 31))
	assert.Equal(t, "{"+tome+","+ilse+"}", text(`SELECT keepers::text FROM room`))
	assert.Equal(t, "{"+tome+"}", text(`SELECT shared_with::text FROM standing_link`))
	assert.Equal(t, "{"+tome+","+ilse+"}", text(`SELECT people::text FROM waiting`))
	require.NoError(t, goose.UpContext(t.Context(), db, "migrations"))
}
