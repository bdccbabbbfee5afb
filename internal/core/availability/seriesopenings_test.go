package availability_test

import (
	"cmp"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/availability"
	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

// plainSeries is a time weighed as rule 4 of DESIGN.md has it, word by word.
type plainSeries struct {
	shift                 int
	clock                 when.Clock
	never, fails, changes int
	worst, sum            time.Duration
	optional              int
	start                 when.Instant
}

// plainly goes through every time and every way to give dates their rooms.
func plainly(ask availability.SeriesAsk) (all []plainSeries) {
	house, _ := ask.Rooms(nil)
	for _, shift := range ask.Shifts {
		for _, clock := range ask.Clocks {
			x := plainSeries{shift: shift, clock: clock}
			var dates []when.Span
			for _, day := range ask.Days {
				start := when.Zoned{Local: when.Local{Day: day + when.Day(shift), Clock: clock}, Zone: ask.Zone}.Instant()
				dates = append(dates, when.Span{Start: start, End: start.Add(ask.Length)})
			}
			if x.start = dates[0].Start; x.start <= ask.Now {
				continue
			}
			fails := map[int]bool{}
			for _, p := range ask.People {
				busy, off := 0, time.Duration(0)
				for d, s := range dates {
					if p.Busy.Overlaps(s) {
						busy++
						if p.Needed {
							fails[d] = true
						}
					}
					off += p.Off.Intersect(when.Spans{s}).Total()
				}
				switch {
				case !p.Needed:
					x.optional += busy
					continue
				case busy == len(dates):
					x.never++
				}
				x.worst, x.sum = max(x.worst, off), x.sum+off
			}
			if ask.WantRoom {
				for d, s := range dates {
					if !slices.ContainsFunc(house, func(r rooms.Room) bool { return !r.Busy.Overlaps(s) }) {
						fails[d] = true
					}
				}
				_, x.changes = fewest(dates, house)
			}
			x.fails = len(fails)
			all = append(all, x)
		}
	}
	slices.SortStableFunc(all, func(a, b plainSeries) int {
		return cmp.Or(a.never-b.never, a.fails-b.fails, a.changes-b.changes, cmp.Compare(a.worst, b.worst), cmp.Compare(a.sum, b.sum), a.optional-b.optional, cmp.Compare(a.start, b.start))
	})
	return all
}

// fewest is the fewest different rooms, and the fewest changes with so many, of all ways to
// give every date a room that is clear, where one is.
func fewest(dates []when.Span, all []rooms.Room) (different, changes int) {
	different, changes = 99, 99
	way := make([]int, len(dates))
	var try func(d int)
	try = func(d int) {
		if d == len(dates) {
			used, last, n := map[int]bool{}, -1, 0
			for _, r := range way {
				if r < 0 {
					continue
				}
				used[r] = true
				if last >= 0 && r != last {
					n++
				}
				last = r
			}
			if len(used) < different || len(used) == different && n < changes {
				different, changes = len(used), n
			}
			return
		}
		any := false
		for r, room := range all {
			if !room.Busy.Overlaps(dates[d]) {
				any = true
				way[d] = r
				try(d + 1)
			}
		}
		if !any {
			way[d] = -1
			try(d + 1)
		}
	}
	try(0)
	return different, changes
}

func drawSeries(t *rapid.T, zone when.Zone) availability.SeriesAsk {
	first := when.DayOf(2027, 3, 22) // clocks change on the 28th
	ask := availability.SeriesAsk{Zone: zone, Length: time.Duration(rapid.IntRange(1, 4).Draw(t, "length")) * when.Quarter, Shifts: []int{0}, WantRoom: rapid.Bool().Draw(t, "room"), Most: 50,
		Now: when.DaySpan(first-1, zone).Start}
	if rapid.Bool().Draw(t, "shifts") {
		ask.Shifts = []int{-1, 0, 1}
	}
	for n := range rapid.IntRange(1, 4).Draw(t, "dates") {
		ask.Days = append(ask.Days, first+when.Day(n*3))
	}
	for n := range rapid.IntRange(1, 5).Draw(t, "clocks") {
		ask.Clocks = append(ask.Clocks, when.ClockOf(9+n, 0))
	}
	busy := func(name string, most int) when.Spans {
		var spans []when.Span
		for range rapid.IntRange(0, most).Draw(t, name) {
			start := when.DaySpan(first-2, zone).Start.Add(time.Duration(rapid.IntRange(0, 16*96).Draw(t, "at")) * when.Quarter)
			spans = append(spans, when.Span{Start: start, End: start.Add(time.Duration(rapid.IntRange(1, 120).Draw(t, "long")) * when.Quarter)})
		}
		return when.Union(spans...)
	}
	for range rapid.IntRange(1, 3).Draw(t, "people") {
		p := availability.Person{Needed: rapid.Bool().Draw(t, "needed"), Busy: busy("busy", 3)}
		if rapid.Bool().Draw(t, "hours") {
			p.Off = when.Workdays(when.ClockOf(rapid.IntRange(8, 12).Draw(t, "opens"), 0), when.ClockOf(rapid.IntRange(12, 16).Draw(t, "closes"), 0), zone).Off(when.Spans{{Start: when.DaySpan(first-3, zone).Start, End: when.DaySpan(first+20, zone).End}})
		}
		ask.People = append(ask.People, p)
	}
	var all []rooms.Room
	for n := range rapid.IntRange(0, 3).Draw(t, "rooms") {
		all = append(all, rooms.Room{ID: string(rune('a' + n)), Busy: busy("taken", 4)})
	}
	ask.Rooms = func(when.Spans) ([]rooms.Room, error) { return all, nil }
	return ask
}

// The ranking is that of rule 4, tried plainly; the choice of rooms that of all ways.
func TestSeriesOpeningsAreThoseOfThePlainSearch(t *testing.T) {
	zone, err := when.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		ask := drawSeries(t, zone)
		want := plainly(ask)
		ask.Most = rapid.IntRange(1, 20).Draw(t, "most")
		got, _, err := availability.SeriesOpenings(ask)
		require.NoError(t, err)
		again, _, _ := availability.SeriesOpenings(ask)
		require.Equal(t, got, again, "equal input, equal order")
		// Those that overlap a better one are left out of the answer.
		var shown []plainSeries
		for _, x := range want {
			if !slices.ContainsFunc(shown, func(o plainSeries) bool {
				return when.Span{Start: o.start, End: o.start.Add(ask.Length)}.Overlaps(when.Span{Start: x.start, End: x.start.Add(ask.Length)})
			}) {
				shown = append(shown, x)
			}
		}
		shown = shown[:min(len(shown), ask.Most)]
		require.Len(t, got, len(shown))
		for i, o := range got {
			x := shown[i]
			require.Equal(t, []any{x.shift, x.clock, x.never, x.fails, x.changes}, []any{o.Shift, o.Clock, len(o.Never), o.Fails, o.Changes}, i)
			var worst, sum time.Duration
			for _, off := range o.Off {
				worst, sum = max(worst, off.Off), sum+off.Off
			}
			require.Equal(t, []time.Duration{x.worst, x.sum}, []time.Duration{worst, sum})
		}
	})
}

// TestABurdenIsShared: somebody nine hours ahead and somebody in Lisbon meet every week;
// by turns neither has to stay late or get up early each time.
func TestABurdenIsShared(t *testing.T) {
	lisbon, err := when.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	tokyo, err := when.LoadZone("Asia/Tokyo")
	require.NoError(t, err)
	first := when.DayOf(2027, 1, 12)
	window := when.Spans{{Start: when.DaySpan(first-2, lisbon).Start, End: when.DaySpan(first+80, lisbon).End}}
	person := func(zone when.Zone) availability.Person {
		return availability.Person{Needed: true, Off: when.Workdays(when.ClockOf(9, 0), when.ClockOf(17, 0), zone).Off(window)}
	}
	ask := availability.SeriesAsk{Zone: lisbon, Length: time.Hour, Shifts: []int{0}, Most: 5, People: []availability.Person{person(lisbon), person(tokyo)}}
	for n := range 10 {
		ask.Days = append(ask.Days, first+when.Day(7*n))
	}
	for hour := 6; hour < 20; hour++ {
		ask.Clocks = append(ask.Clocks, when.ClockOf(hour, 0))
	}
	best, shared, err := availability.SeriesOpenings(ask)
	require.NoError(t, err)
	require.NotEmpty(t, best)
	require.NotNil(t, shared)
	assert.Equal(t, 10*time.Hour, shared.WorstAlone, "somebody is outside their hours on every date")
	assert.Equal(t, 5*time.Hour, shared.Worst)
	assert.NotEqual(t, shared.First.Clock, shared.Second.Clock)
	ask.People = ask.People[:1]
	_, shared, _ = availability.SeriesOpenings(ask)
	assert.Nil(t, shared, "there is nothing to share")
}

func TestSeriesThatCannotBeAsked(t *testing.T) {
	for _, ask := range []availability.SeriesAsk{{}, {Days: []when.Day{20000}}, {Days: []when.Day{20000}, Clocks: []when.Clock{540}, Shifts: []int{0}}} {
		got, shared, err := availability.SeriesOpenings(ask)
		require.NoError(t, err)
		assert.Empty(t, got)
		assert.Nil(t, shared)
	}
}

// BenchmarkSeriesOpenings weighs 52 dates for 20 people and 100 rooms, at every quarter of
// eleven hours on five weekdays, beside trying out every one of them span by span.
func BenchmarkSeriesOpenings(b *testing.B) {
	lisbon, err := when.LoadZone("Europe/Lisbon")
	require.NoError(b, err)
	first := when.DayOf(2027, 1, 13)
	ask := availability.SeriesAsk{Zone: lisbon, Length: time.Hour, Shifts: []int{-2, -1, 0, 1, 2}, Most: 5, WantRoom: true}
	for n := range 52 {
		ask.Days = append(ask.Days, first+when.Day(7*n))
	}
	for clock := when.ClockOf(8, 0); clock < when.ClockOf(19, 0); clock += 15 {
		ask.Clocks = append(ask.Clocks, clock)
	}
	window := when.Spans{{Start: when.DaySpan(first-3, lisbon).Start, End: when.DaySpan(first+370, lisbon).End}}
	off := when.Workdays(when.ClockOf(9, 0), when.ClockOf(17, 0), lisbon).Off(window)
	spans := func(seed, every int) when.Spans {
		var out []when.Span
		for day := range 370 {
			for n := range 4 {
				if (seed*7+day*13+n*5)%every == 0 {
					start := when.DaySpan(first-3+when.Day(day), lisbon).Start.Add(time.Duration(8*4+(seed*11+day*3+n*9)%40) * when.Quarter)
					out = append(out, when.Span{Start: start, End: start.Add(time.Hour)})
				}
			}
		}
		return when.Union(out...)
	}
	for i := range 20 {
		ask.People = append(ask.People, availability.Person{Needed: i < 15, Busy: spans(i, 9), Off: off})
	}
	var house []rooms.Room
	for i := range 100 {
		house = append(house, rooms.Room{ID: string(rune(i)), Busy: spans(i+50, 5)})
	}
	ask.Rooms = func(when.Spans) ([]rooms.Room, error) { return house, nil }
	var plain time.Duration
	b.Run("plain", func(b *testing.B) {
		for b.Loop() {
			fails := 0
			for _, shift := range ask.Shifts {
				for _, clock := range ask.Clocks {
					for _, day := range ask.Days {
						start, _ := ask.Zone.Resolve(when.Local{Day: day + when.Day(shift), Clock: clock})
						s := when.Span{Start: start, End: start.Add(ask.Length)}
						for _, p := range ask.People {
							if p.Busy.Overlaps(s) {
								fails++
							}
						}
						for _, r := range house {
							if r.Busy.Overlaps(s) {
								fails++
							}
						}
					}
				}
			}
		}
		plain = b.Elapsed() / time.Duration(b.N)
	})
	b.Run("grid", func(b *testing.B) {
		for b.Loop() {
			availability.SeriesOpenings(ask)
		}
		b.ReportMetric(float64(b.Elapsed()/time.Duration(b.N))/float64(plain), "×plain")
	})
}
