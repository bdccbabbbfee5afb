package bench

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"jembro/internal/core/when"
	"jembro/internal/schedule"
	"jembro/internal/schedule/availability"
	"jembro/internal/schedule/calendars"
	"jembro/internal/subscribe"
)

// BenchmarkSecretAddress: what a secret address costs the server, unpacked; beside it the
// busy times of the same days alone.
func BenchmarkSecretAddress(b *testing.B) {
	who := schedule.Self(of(1, 1))
	if err := do.Calendars.Give(b.Context(), who, false); err != nil {
		b.Fatal(err)
	}
	page, err := do.Calendars.Page(b.Context(), who)
	if err != nil {
		b.Fatal(err)
	}
	token := strings.TrimSuffix(page.FeedURL[strings.LastIndex(page.FeedURL, "/")+1:], ".ics")
	day := time.Date(2026, 11, 24, 0, 0, 0, 0, time.UTC)
	beside(b, func() error {
		g, err := do.Calendars.Given(b.Context(), token, true)
		if err == nil && len(g.Body) < 10_000 {
			err = fmt.Errorf("%d bytes", len(g.Body))
		}
		return err
	}, func() error {
		return scan(bareBusy, []uuid.UUID{of(1, 1)}, day.AddDate(0, 0, -7), day.AddDate(0, 0, 93))
	})
}

// BenchmarkWatched: a week of twelve colleagues who share titles, the most there can be.
func BenchmarkWatched(b *testing.B) {
	who := schedule.Self(of(1, 1))
	var all []schedule.Watched
	var ids []uuid.UUID
	for i := 2; i < 2+calendars.MostWatched; i++ {
		all, ids = append(all, schedule.Watched{PersonID: of(i, 1)}), append(ids, of(i, 1))
	}
	if err := do.Calendars.Watch(b.Context(), who, all); err != nil {
		b.Fatal(err)
	}
	start := time.Date(2026, 11, 30, 0, 0, 0, 0, time.UTC)
	beside(b, func() error {
		_, err := do.Calendars.Watched(b.Context(), who, when.DayOf(2026, 11, 30), 7)
		return err
	}, func() error { return scan(bareBusy, ids, start, start.AddDate(0, 0, 7)) })
}

// subscriptions are as many as an hour of one worker holds.
const subscriptions = 2000

// BenchmarkRefreshing reads subscribed calendars again, each changed, one after the other:
// how many an hour that makes, and how long the day of 20 people takes meanwhile, beside
// what it takes when nothing else is going on (95th percentiles).
func BenchmarkRefreshing(b *testing.B) {
	asked := 0
	server := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		asked++
		var out strings.Builder
		out.WriteString("BEGIN:VCALENDAR\r\nVERSION:2.0\r\n")
		for i := range 60 {
			fmt.Fprintf(&out, "BEGIN:VEVENT\r\nUID:%d\r\nDTSTART;TZID=Europe/Lisbon:202611%02dT%02d0000\r\nDURATION:PT%dM\r\nSUMMARY:Entry %d\r\n%sEND:VEVENT\r\n", i, 1+i%28, 8+i%10, 20+asked%30, i,
				map[bool]string{true: "RRULE:FREQ=WEEKLY\r\n"}[i%3 == 0])
		}
		out.WriteString("END:VCALENDAR\r\n")
		fmt.Fprint(rw, out.String())
	}))
	defer server.Close()
	do.Calendars.Fetcher = subscribe.New([]netip.Prefix{netip.MustParsePrefix("127.0.0.1/32")}, "bench")
	const some = 60
	var ids []uuid.UUID
	for i := range some {
		who := schedule.Self(of(100+i, 1))
		id, err := do.Calendars.Add(b.Context(), who, calendars.NewCalendar{Address: server.URL + fmt.Sprintf("/%d.ics", i), Counts: true})
		if err != nil {
			b.Fatal(err)
		}
		ids = append(ids, id)
		b.Cleanup(func() { do.Calendars.Remove(context.Background(), who, id) })
	}
	zone, err := when.LoadZone("Europe/Lisbon")
	if err != nil {
		b.Fatal(err)
	}
	all, _ := crowd(20)
	day, err := when.ParseDay(dayOfTheQuestions)
	if err != nil {
		b.Fatal(err)
	}
	window := when.DaySpan(day, zone)
	q := availability.DayQuestion{Day: day, Zone: zone, WantRoom: true, People: all, Chosen: when.Span{Start: window.Start.Add(9 * time.Hour), End: window.Start.Add(10 * time.Hour)}}
	p95 := func(until <-chan struct{}, least int) time.Duration {
		var took []time.Duration
		for len(took) < least || until != nil {
			select {
			case <-until:
				until = nil
			default:
			}
			began := time.Now()
			if _, err := do.Availability.Day(b.Context(), schedule.Self(of(1, 1)), q); err != nil {
				b.Fatal(err)
			}
			took = append(took, time.Since(began))
		}
		slices.Sort(took)
		return took[len(took)*95/100]
	}
	p95(nil, 100) // warm
	idle := p95(nil, 300)
	pace := time.Hour / subscriptions
	for b.Loop() {
		var reading time.Duration
		done := make(chan struct{})
		go func() {
			defer close(done)
			for n := range 20 { // at the pace of an hour, 36 s
				began := time.Now()
				if err := do.Calendars.Refresh(b.Context(), ids[n%some]); err != nil {
					b.Error(err)
				}
				took := time.Since(began)
				reading += took
				time.Sleep(pace - took)
			}
		}()
		busy := p95(done, 300)
		b.ReportMetric(float64(idle.Microseconds())/1000, "idle-p95-ms")
		b.ReportMetric(float64(busy.Microseconds())/1000, "busy-p95-ms")
		b.ReportMetric(busy.Seconds()/idle.Seconds(), "times-idle")
		b.ReportMetric(float64(reading.Milliseconds())/20, "ms-a-calendar")
		b.ReportMetric(time.Hour.Seconds()*20/reading.Seconds(), "an-hour-at-most")
	}
}
