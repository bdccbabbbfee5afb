// Package bench measures the program on a database of a large house: 1,000 people
// with 5 million busy times over three years, 111 rooms with 832,000 bookings. It
// is filled once a run; every benchmark prints what it takes beside a bare query
// of the same run.
package bench

import (
	"bytes"
	"cmp"
	"context"
	"crypto/sha256"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"jembro/internal/core/loose"
	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
	"jembro/internal/ical"
	"jembro/internal/postgres"
	"jembro/internal/postgres/cluster"
	"jembro/internal/program"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
	"jembro/internal/schedule/deeds"
	"jembro/internal/schedule/sheets"
)

const (
	people, rooms     = 1000, 111
	busyRows          = 5_000_000
	bookings          = 832_000
	reminding         = 300_000
	first             = "2026-01-05 08:00+00" // a Monday
	now               = "2026-11-24T10:12:00Z"
	dayOfTheQuestions = "2026-12-03"
)

var (
	pool       *pgxpool.Pool
	store      *postgres.Store
	do         *deeds.Deeds
	statements atomic.Int64
)

// counting counts statements.
type counting struct{}

func (counting) TraceQueryStart(ctx context.Context, _ *pgx.Conn, _ pgx.TraceQueryStartData) context.Context {
	statements.Add(1)
	return ctx
}

func (counting) TraceQueryEnd(context.Context, *pgx.Conn, pgx.TraceQueryEndData) {}

func TestMain(m *testing.M) {
	if err := run(m); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(m *testing.M) error {
	ctx := context.Background()
	// Filling takes minutes: the database stays, and is filled anew when the schema is
	// another.
	dir := cmp.Or(os.Getenv("JEMBRO_BENCH_DIR"), "/tmp/jembro-bench")
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	server, err := cluster.Start(ctx, cluster.Options{Dir: dir + "/data"})
	if err != nil {
		return err
	}
	defer server.Stop()
	name, err := schema()
	if err != nil {
		return err
	}
	if err := server.Create(ctx, name, ""); err != nil {
		return err
	}
	if pool, err = program.Connect(ctx, server.URL(name)); err != nil {
		return err
	}
	defer pool.Close()
	if err := postgres.Migrate(ctx, pool); err != nil {
		return err
	}
	began := time.Now()
	if err := fill(ctx, server.URL(name)); err != nil {
		return err
	}
	fmt.Printf("filled with %d busy times and %d bookings in %s\n", busyRows, bookings, time.Since(began).Round(time.Second))
	config := pool.Config()
	config.ConnConfig.Tracer = counting{}
	traced, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return err
	}
	defer traced.Close()
	if store, err = postgres.NewStore(traced); err != nil {
		return err
	}
	clock, err := program.Clock(ctx, now, store)
	if err != nil {
		return err
	}
	seal, err := schedule.NewSeal([]byte("sixteen bytes or more"))
	if err != nil {
		return err
	}
	set := schedule.Setting{House: schedule.House{Name: "Marrowby Museums", BaseURL: "https://jembro.example", MailDomain: "meet.marrowby.example"}, Seal: seal, Clock: clock}
	do = deeds.New(set, store, deeds.Outside{Format: ical.Calendars{}})
	if code := m.Run(); code != 0 {
		return fmt.Errorf("exit %d", code)
	}
	return nil
}

// schema names the database by what it is made by: the migrations and this file.
func schema() (string, error) {
	hash := sha256.New()
	files, err := filepath.Glob("../../internal/postgres/migrations/*.sql")
	if err != nil {
		return "", err
	}
	for _, f := range append(files, "bench_test.go") {
		b, err := os.ReadFile(f)
		if err != nil {
			return "", err
		}
		if at := bytes.Index(b, []byte("\n// fill makes the house")); at >= 0 {
			b = b[at:bytes.Index(b, []byte("\n// id makes a uuid"))]
		}
		hash.Write(b)
	}
	return fmt.Sprintf("bench_%x", hash.Sum(nil)[:6]), nil
}

// fill makes the house by SQL. Busy times lie on working days of three years and
// belong to meetings of one date; bookings follow each other in every room.
func fill(ctx context.Context, url string) error {
	config, err := pgx.ParseConfig(url)
	if err != nil {
		return err
	}
	conn, err := pgx.ConnectConfig(ctx, config)
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	var filled bool
	if err := conn.QueryRow(ctx, "SELECT EXISTS (SELECT 1 FROM booking OFFSET 800000)").Scan(&filled); err != nil || filled {
		return err
	}
	hours := `[[],[[540,1080]],[[540,1080]],[[540,1080]],[[540,1080]],[[540,1080]],[]]`
	content := `{"uid":"","sequence":0,"title":"Crate sizes","text":"","start":"2026-01-05T08:00","end":"2026-01-05T08:30","zone":"Europe/Lisbon","private":false,"remindBefore":0,"organiser":{"personId":"","name":"Person 1","email":"p1@marrowby.example"},"participants":[]}`
	for _, sql := range []string{
		"SET statement_timeout = 0",
		`INSERT INTO site VALUES ('00000000-0000-0000-0000-0000000000aa', 'Main building', 'Europe/Lisbon', 'PT')`,
		fmt.Sprintf(`INSERT INTO person (id, name, email, role, site_id, zone, hours, password_hash, fold)
			SELECT %s, 'Person ' || i, 'p' || i || '@marrowby.example', 'Curator', '00000000-0000-0000-0000-0000000000aa', 'Europe/Lisbon', '%s', 'x', 'person ' || i FROM generate_series(1, %d) i`, id("i", 1), hours, people),
		fmt.Sprintf(`INSERT INTO room (id, site_id, name, floor, seats, equipment, email)
			SELECT %s, '00000000-0000-0000-0000-0000000000aa', 'Room ' || i, 'floor ' || i %% 7, 6 + i %% 60, '{screen}', 'r' || i || '@rooms.marrowby.example' FROM generate_series(1, %d) i`, id("i", 2), rooms),
		// One meeting a person: the busy times are its dates, two hours apart.
		fmt.Sprintf(`INSERT INTO meeting (id, uid, organiser_id, version, zone) SELECT %s, 'uid-' || i, %s, 1, 'Europe/Lisbon' FROM generate_series(1, %d) i`, id("i", 3), id("i", 1), people),
		fmt.Sprintf(`INSERT INTO meeting_version (meeting_id, version, schema, content, stamp) SELECT %s, 1, 1, '%s', now() FROM generate_series(1, %d) i`, id("i", 3), content, people),
		"ALTER TABLE busy DROP CONSTRAINT busy_occurrence_id_fkey",
		"DROP INDEX busy_person, busy_occurrence, busy_meeting",
		fmt.Sprintf(`INSERT INTO busy (person_id, meeting_id, during, kind, source)
			SELECT %s, %s, tstzrange(t, t + (20 + n %% 3 * 20) * interval '1 minute'), CASE n %% 7 WHEN 0 THEN 'maybe' ELSE 'busy' END, 'meeting'
			FROM generate_series(1, %d) p, generate_series(0, %d) n, LATERAL (SELECT timestamptz '%s' + (n / 6) * interval '1 day' + (n %% 6) * interval '95 minutes' + (p %% 4) * interval '15 minutes' AS t) x`,
			id("p", 1), id("p", 3), people, busyRows/people-1, first),
		"CREATE INDEX busy_person ON busy (person_id, lower(during)) INCLUDE (during, kind, meeting_id, until)",
		"CREATE INDEX busy_occurrence ON busy (occurrence_id) WHERE occurrence_id IS NOT NULL",
		"CREATE INDEX busy_meeting ON busy (meeting_id, person_id) WHERE meeting_id IS NOT NULL",
		"ALTER TABLE busy ADD CONSTRAINT busy_occurrence_id_fkey FOREIGN KEY (occurrence_id) REFERENCES occurrence ON DELETE CASCADE",
		"ALTER TABLE booking DROP CONSTRAINT booking_once, DROP CONSTRAINT booking_hold, DROP CONSTRAINT booking_occurrence_id_fkey",
		fmt.Sprintf(`INSERT INTO booking (id, room_id, meeting_id, owner_id, during, booked_at)
			SELECT gen_random_uuid(), %s, %s, %s, tstzrange(t, t + interval '40 minutes'), now()
			FROM generate_series(1, %d) r, generate_series(0, %d) n, LATERAL (SELECT timestamptz '%s' + (n / 8) * interval '1 day' + (n %% 8) * interval '75 minutes' AS t) x`,
			id("r", 2), id("1 + n % 1000", 3), id("1 + n % 1000", 1), rooms, bookings/rooms-1, first),
		"ALTER TABLE booking ADD CONSTRAINT booking_once EXCLUDE USING gist (room_id WITH =, during WITH &&)",
		// The meetings of one person's weeks, with their dates.
		fmt.Sprintf(`INSERT INTO meeting (id, uid, organiser_id, version, zone) SELECT %s, 'week-' || i, %s, 1, 'Europe/Lisbon' FROM generate_series(1, 5000) i`, id("i", 4), id("1", 1)),
		fmt.Sprintf(`INSERT INTO meeting_version (meeting_id, version, schema, content, stamp) SELECT %s, 1, 1, '%s', now() FROM generate_series(1, 5000) i`, id("i", 4), content),
		fmt.Sprintf(`INSERT INTO occurrence (id, meeting_id, on_day, starts, ends) SELECT %s, %s, lower(during)::date, lower(during), upper(during)
			FROM (SELECT during, row_number() OVER (ORDER BY lower(during)) AS i FROM busy WHERE person_id = %s) x`, id("i", 5), id("i", 4), id("1", 1)),
		fmt.Sprintf(`UPDATE busy b SET occurrence_id = o.id, meeting_id = o.meeting_id FROM occurrence o WHERE b.person_id = %s AND lower(b.during) = o.starts`, id("1", 1)),
		// What can be found: a million rows, and 5,000 more of one person, all of whom have
		// one word; and what is new, 200 things a person.
		"DROP INDEX found_document",
		fmt.Sprintf(`INSERT INTO found (meeting_id, person_id, document, starts)
			SELECT %s, %s, to_tsvector('found', 'Crate sizes ' || m || ' loan ' || m %% 50 || ' Map Room'), timestamptz '%s' + m * interval '1 day' FROM generate_series(1, %d) m, generate_series(1, %d) p`,
			id("m", 3), id("p", 1), first, people, people),
		fmt.Sprintf(`INSERT INTO found (meeting_id, person_id, document, starts)
			SELECT %s, %s, to_tsvector('found', 'Glaze samples ' || m || ' Loft Studio'), timestamptz '%s' + m * interval '5 hours' FROM generate_series(1, 5000) m`, id("m", 4), id("1", 1), first),
		"CREATE INDEX found_document ON found USING gin (person_id, document)",
		fmt.Sprintf(`INSERT INTO news (id, person_id, meeting_id, kind, facts, at, read_at)
			SELECT gen_random_uuid(), %s, %s, 'invite', '{"title":"Crate sizes","who":"Person 2","is":{"start":1796000000,"end":1796003600}}', timestamptz '%s' + n * interval '3 hours', CASE WHEN n < 190 THEN now() END
			FROM generate_series(1, %d) p, generate_series(1, 200) n`, id("p", 1), id("p", 3), first, people),
		// Reminders by mail a day before, and one's own an hour before: 300,000 meetings of one date in four years.
		fmt.Sprintf(`INSERT INTO meeting (id, uid, organiser_id, version, zone, mail_reminds) SELECT %s, 'mail-' || i, %s, 1, 'Europe/Lisbon', '{1440}' FROM generate_series(1, %d) i`, id("i", 6), id("1 + i % 1000", 1), reminding),
		fmt.Sprintf(`INSERT INTO meeting_version (meeting_id, version, schema, content, stamp) SELECT %s, 1, 1, '%s', timestamptz '%s' - interval '3 years' FROM generate_series(1, %d) i`, id("i", 6), content, first, reminding),
		fmt.Sprintf(`INSERT INTO occurrence (id, meeting_id, on_day, starts, ends) SELECT %s, %s, t::date, t, t + interval '1 hour'
			FROM generate_series(1, %d) i, LATERAL (SELECT timestamptz '%s' - interval '2 years' + i * interval '7 minutes' AS t) x`, id("i", 7), id("i", 6), reminding, first),
		fmt.Sprintf(`INSERT INTO participant (id, meeting_id, name, email, needed) SELECT %s, %s, 'Guest ' || i, 'g' || i || '@kirisame.example', true FROM generate_series(1, %d) i`, id("i", 8), id("i", 6), reminding),
		fmt.Sprintf(`INSERT INTO own_reminder (participant_id, before, mail, set_at) SELECT %s, 60, true, timestamptz '%s' - interval '3 years' FROM generate_series(1, %d) i`, id("i", 8), first, reminding),
		`INSERT INTO participation (participant_id, occurrence_id, meeting_id, on_day, starts, ends, needed, answer, waits)
			SELECT p.id, o.id, o.meeting_id, o.on_day, o.starts, o.ends, p.needed, p.answer, true FROM participant p JOIN occurrence o ON o.meeting_id = p.meeting_id`,
		"UPDATE person SET nudges = true",
		"VACUUM ANALYZE",
	} {
		if _, err := conn.Exec(ctx, sql); err != nil {
			return fmt.Errorf("%w in %.120s", err, sql)
		}
	}
	return nil
}

// id makes a uuid of a number and a kind, in SQL; of is the same in Go.
func id(n string, kind int) string {
	return fmt.Sprintf("('00000000-0000-000%d-0000-' || lpad(to_hex((%s)::int), 12, '0'))::uuid", kind, n)
}

func of(n, kind int) uuid.UUID {
	return uuid.MustParse(fmt.Sprintf("00000000-0000-000%d-0000-%012x", kind, n))
}

// beside measures deed and bare in the same run and reports both and their ratio.
func beside(b *testing.B, deed, bare func() error) {
	b.Helper()
	time1 := func(f func() error) time.Duration {
		began := time.Now()
		if err := f(); err != nil {
			b.Fatal(err)
		}
		return time.Since(began)
	}
	for range 3 {
		time1(deed)
		time1(bare)
	}
	var ours, theirs time.Duration
	before := statements.Load()
	b.ResetTimer()
	for b.Loop() {
		ours += time1(deed)
		b.StopTimer()
		theirs += time1(bare)
		b.StartTimer()
	}
	n := float64(b.N)
	b.ReportMetric(float64(statements.Load()-before)/n, "statements/op")
	b.ReportMetric(float64(theirs)/n/1e6, "bare-ms/op")
	b.ReportMetric(float64(ours)/n/1e6, "ms/op")
	b.ReportMetric(float64(ours)/float64(theirs), "times-bare")
}

func crowd(n int) (all []meeting.DraftPerson, ids []uuid.UUID) {
	for i := 2; i <= n; i++ {
		all = append(all, meeting.DraftPerson{PersonID: of(i, 1).String(), Email: fmt.Sprintf("p%d@marrowby.example", i), Needed: true})
		ids = append(ids, of(i, 1))
	}
	return all, append(ids, of(1, 1))
}

// scan reads a query to its end.
func scan(sql string, args ...any) error {
	rows, err := pool.Query(context.Background(), sql, args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		if _, err := rows.Values(); err != nil {
			return err
		}
	}
	return rows.Err()
}

const (
	bareBusy     = `SELECT person_id, lower(during), upper(during), kind FROM busy WHERE person_id = ANY($1) AND lower(during) < $3 AND lower(during) > $2::timestamptz - interval '24 hours' AND upper(during) > $2`
	bareBookings = `SELECT room_id, lower(during), upper(during) FROM booking WHERE during && tstzrange($1, $2)`
)

// BenchmarkDay: everybody's day, 50 people and 111 rooms.
func BenchmarkDay(b *testing.B) {
	zone, err := when.LoadZone("Europe/Lisbon")
	if err != nil {
		b.Fatal(err)
	}
	day, err := when.ParseDay(dayOfTheQuestions)
	if err != nil {
		b.Fatal(err)
	}
	all, ids := crowd(50)
	window := when.DaySpan(day, zone)
	q := availability.DayQuestion{Day: day, Zone: zone, WantRoom: true, People: all, Chosen: when.Span{Start: window.Start.Add(9 * time.Hour), End: window.Start.Add(10 * time.Hour)}}
	beside(b, func() error {
		a, err := do.Availability.Day(b.Context(), schedule.Self(of(1, 1)), q)
		if err == nil && (len(a.Lanes) != 50 || len(a.Rooms) == 0) {
			err = fmt.Errorf("%d lanes, %d rooms", len(a.Lanes), len(a.Rooms))
		}
		return err
	}, func() error {
		if err := scan(bareBusy, ids, window.Start.Time(), window.End.Time()); err != nil {
			return err
		}
		return scan(bareBookings, window.Start.Time(), window.End.Time())
	})
}

// BenchmarkOpenings: the best times of four weeks for 50 people and a room.
func BenchmarkOpenings(b *testing.B) {
	zone, err := when.LoadZone("Europe/Lisbon")
	if err != nil {
		b.Fatal(err)
	}
	day, err := when.ParseDay(dayOfTheQuestions)
	if err != nil {
		b.Fatal(err)
	}
	all, ids := crowd(50)
	q := availability.OpeningsQuestion{First: day, Days: 28, Zone: zone, Length: time.Hour, From: when.ClockOf(8, 0), To: when.ClockOf(19, 0), WantRoom: true, People: all}
	start, end := when.DaySpan(day, zone).Start.Time(), when.DaySpan(day+27, zone).End.Time()
	beside(b, func() error {
		_, err := do.Availability.Openings(b.Context(), schedule.Self(of(1, 1)), q)
		return err
	}, func() error {
		if err := scan(bareBusy, ids, start, end); err != nil {
			return err
		}
		return scan(bareBookings, start, end)
	})
}

// BenchmarkSeriesOpenings: the best times for 52 dates, 20 people and all rooms.
func BenchmarkSeriesOpenings(b *testing.B) {
	s := weekly(b, 20, 52)
	_, ids := crowd(20)
	zone, err := when.LoadZone("Europe/Lisbon")
	if err != nil {
		b.Fatal(err)
	}
	day, err := when.ParseDay(dayOfTheQuestions)
	if err != nil {
		b.Fatal(err)
	}
	start, end := when.DaySpan(day, zone).Start.Time(), when.DaySpan(day+51*7, zone).End.Time()
	q := sheets.SeriesQuestion{SheetID: s.ID, From: when.ClockOf(8, 0), To: when.ClockOf(19, 0)}
	beside(b, func() error {
		a, err := do.Sheets.SeriesOpenings(b.Context(), schedule.Self(of(1, 1)), q)
		if err == nil && len(a.Openings) == 0 {
			err = fmt.Errorf("no openings")
		}
		return err
	}, func() error {
		if err := scan(bareBusy, ids, start, end); err != nil {
			return err
		}
		return scan(bareBookings, start, end)
	})
}

// BenchmarkRoomsDay: 300 rooms of a day side by side. Those over the ones of the house are
// there for this alone, with the bookings of its first room on that day.
func BenchmarkRoomsDay(b *testing.B) {
	day, err := when.ParseDay(dayOfTheQuestions)
	if err != nil {
		b.Fatal(err)
	}
	zone, err := when.LoadZone("Europe/Lisbon")
	if err != nil {
		b.Fatal(err)
	}
	span := when.DaySpan(day, zone)
	const shown = 300
	change := func(sql string, args ...any) {
		if _, err := pool.Exec(context.Background(), sql, args...); err != nil {
			b.Fatal(err)
		}
	}
	more := fmt.Sprintf("FROM generate_series(%d, %d) i", rooms+1, shown)
	clear := func() {
		change(fmt.Sprintf("DELETE FROM booking WHERE room_id IN (SELECT %s %s)", id("i", 2), more))
		change(fmt.Sprintf("DELETE FROM room WHERE id IN (SELECT %s %s)", id("i", 2), more))
	}
	clear()
	b.Cleanup(clear)
	change(fmt.Sprintf(`INSERT INTO room (id, site_id, name, floor, seats, equipment, email)
		SELECT %s, '00000000-0000-0000-0000-0000000000aa', 'Room ' || i, 'floor ' || i %% 7, 6 + i %% 60, '{screen}', 'r' || i || '@rooms.marrowby.example' %s`, id("i", 2), more))
	change(fmt.Sprintf(`INSERT INTO booking (id, room_id, meeting_id, owner_id, during, booked_at)
		SELECT gen_random_uuid(), %s, x.meeting_id, x.owner_id, x.during, x.booked_at %s, booking x WHERE x.room_id = %s AND x.during && tstzrange($1, $2)`, id("i", 2), more, id("1", 2)),
		span.Start.Time(), span.End.Time())
	beside(b, func() error {
		a, err := do.Availability.RoomsDay(b.Context(), schedule.Self(of(1, 1)), availability.RoomsQuestion{Day: day})
		if err == nil && len(a.Rooms) != shown {
			err = fmt.Errorf("%d rooms", len(a.Rooms))
		}
		return err
	}, func() error { return scan(bareBookings, span.Start.Time(), span.End.Time()) })
}

// BenchmarkWeek: a person's week.
func BenchmarkWeek(b *testing.B) {
	day, err := when.ParseDay("2026-11-30")
	if err != nil {
		b.Fatal(err)
	}
	start := time.Date(2026, 11, 30, 0, 0, 0, 0, time.UTC)
	beside(b, func() error {
		_, err := do.Availability.Week(b.Context(), schedule.Self(of(1, 1)), day, 7)
		return err
	}, func() error { return scan(bareBusy, []uuid.UUID{of(1, 1)}, start, start.AddDate(0, 0, 7)) })
}

// BenchmarkFind: a word that all of one's 5,000 meetings have, the worst there is, and
// one that few have, among a million rows.
func BenchmarkFind(b *testing.B) {
	for name, text := range map[string]string{"every meeting": "glaz", "few": "glaze 4321"} {
		b.Run(name, func(b *testing.B) {
			beside(b, func() error {
				l, err := do.Meetings.Find(b.Context(), schedule.Self(of(1, 1)), text, schedule.Page{Most: 13})
				if err == nil && len(l.Items) == 0 {
					err = fmt.Errorf("nothing found")
				}
				return err
			}, func() error {
				return scan(`SELECT meeting_id FROM found WHERE person_id = $1 AND document @@ to_tsquery('found', $2) LIMIT 13`, of(1, 1), strings.Join(strings.Fields(text), ":* & ")+":*")
			})
		})
	}
}

// BenchmarkNews: the first page of what is new.
func BenchmarkNews(b *testing.B) {
	beside(b, func() error {
		l, err := do.News.News(b.Context(), schedule.Self(of(1, 1)), schedule.Page{Most: 21})
		if err == nil && (len(l.Items) != 21 || l.Unread != 11) {
			err = fmt.Errorf("%d items, %d unread", len(l.Items), l.Unread)
		}
		return err
	}, func() error {
		return scan(`SELECT * FROM news WHERE person_id = $1 ORDER BY at DESC LIMIT 21`, of(1, 1))
	})
}

// BenchmarkTurns: what the program looks for by itself again and again.
func BenchmarkTurns(b *testing.B) {
	moment, err := time.Parse(time.RFC3339, now)
	if err != nil {
		b.Fatal(err)
	}
	for name, find := range map[string]func(*postgres.Tx) error{
		"reminders by mail": func(tx *postgres.Tx) error {
			due, err := tx.MailRemindersDue(b.Context(), moment)
			if err == nil && len(due) == 0 {
				err = fmt.Errorf("nothing is due")
			}
			return err
		},
		"the silent": func(tx *postgres.Tx) error { // whose meetings are read as well
			window := when.Span{Start: when.At(moment.Add(loose.NudgeUntil)), End: when.At(moment.Add(loose.NudgeBefore))}
			_, err := tx.SilentSoon(b.Context(), window, moment.Add(-loose.NudgeRest), schedule.Silent{}, 500)
			return err
		},
	} {
		b.Run(name, func(b *testing.B) {
			beside(b, func() error {
				return store.Look(b.Context(), find)
			}, func() error {
				return scan(`SELECT * FROM occurrence WHERE starts > $1 AND starts <= $2 LIMIT 200`, moment, moment.Add(24*time.Hour))
			})
		})
	}
}

// weekly is a sheet of so many dates and people with a room.
func weekly(b *testing.B, people, dates int) schedule.Sheet {
	all, _ := crowd(people)
	s, err := do.Sheets.OpenSheet(b.Context(), schedule.Self(of(1, 1)), "2026-12-03T09:30", "2026-12-03T10:30")
	if err != nil {
		b.Fatal(err)
	}
	s.Draft.Title, s.Draft.People, s.Draft.RoomID, s.Draft.NoLink = "Crate sizes", all, of(30, 2).String(), true
	s.Draft.Repeat = &meeting.DraftRepeat{Rule: "FREQ=WEEKLY;BYDAY=TH", Ends: "after", Count: dates}
	s, _, err = do.Sheets.SaveSheet(b.Context(), schedule.Self(of(1, 1)), s.ID, s.Version, s.Draft, "")
	if err != nil {
		b.Fatal(err)
	}
	return s
}

// BenchmarkDates: how 104 dates of a sheet stand for 20 people and 111 rooms.
func BenchmarkDates(b *testing.B) {
	s := weekly(b, 20, 104)
	_, ids := crowd(20)
	beside(b, func() error {
		d, err := do.Sheets.SheetDates(b.Context(), schedule.Self(of(1, 1)), sheets.DatesQuestion{SheetID: s.ID})
		if err == nil && len(d.Dates) != 104 {
			err = fmt.Errorf("%d dates", len(d.Dates))
		}
		return err
	}, func() error {
		at := time.Date(2026, 12, 3, 9, 30, 0, 0, time.UTC)
		var starts, ends []time.Time
		for i := range 104 {
			starts, ends = append(starts, at.AddDate(0, 0, 7*i)), append(ends, at.AddDate(0, 0, 7*i).Add(time.Hour))
		}
		if err := scan(`SELECT b.room_id, b.during FROM (SELECT unnest($1::timestamptz[]) s, unnest($2::timestamptz[]) e) w JOIN booking b ON b.during && tstzrange(w.s, w.e)`, starts, ends); err != nil {
			return err
		}
		return scan(`SELECT b.person_id, b.during FROM (SELECT unnest($1::timestamptz[]) s, unnest($2::timestamptz[]) e) w JOIN busy b ON b.person_id = ANY($3) AND lower(b.during) < w.e AND lower(b.during) > w.s - interval '24 hours' AND upper(b.during) > w.s`, starts, ends, ids)
	})
}

// BenchmarkChangeTenDates: ten dates of a series with 20 people get another title.
func BenchmarkChangeTenDates(b *testing.B) {
	me := schedule.Self(of(1, 1))
	s, err := do.Sheets.OpenSheet(b.Context(), me, "2029-06-07T09:30", "2029-06-07T10:30")
	if err != nil {
		b.Fatal(err)
	}
	all, _ := crowd(20)
	s.Draft.Title, s.Draft.People, s.Draft.NoRoom, s.Draft.NoLink = "Crate sizes", all, true, true
	s.Draft.Repeat = &meeting.DraftRepeat{Rule: "FREQ=WEEKLY;BYDAY=TH", Ends: "after", Count: 52}
	if s, _, err = do.Sheets.SaveSheet(b.Context(), me, s.ID, s.Version, s.Draft, ""); err != nil {
		b.Fatal(err)
	}
	sent, err := do.Sheets.Send(b.Context(), me, s.ID, s.Version, uuid.NewString())
	if err != nil {
		b.Fatal(err)
	}
	n := 0
	beside(b, func() error {
		n++
		at, _ := when.ParseDay("2029-06-14")
		s, err := do.Sheets.ChangeMeeting(b.Context(), me, sent.MeetingID, sheets.Opening{At: at, One: true})
		if err != nil {
			return err
		}
		s.Draft.Title, s.Draft.Scope.To = fmt.Sprint("Title ", n), "2029-08-16"
		if s, _, err = do.Sheets.SaveSheet(b.Context(), me, s.ID, s.Version, s.Draft, ""); err != nil {
			return err
		}
		before := statements.Load()
		_, err = do.Sheets.Send(b.Context(), me, s.ID, s.Version, uuid.NewString())
		b.ReportMetric(float64(statements.Load()-before), "statements-of-send")
		return err
	}, func() error { return scan("SELECT 1") })
}
