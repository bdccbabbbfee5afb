package when_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/when"
)

// The algebra is checked against sets of whole seconds, one by one.

const horizon = 60

var anySpan = rapid.Custom(func(t *rapid.T) when.Span {
	return when.Span{
		Start: when.Instant(rapid.IntRange(0, horizon).Draw(t, "start")),
		End:   when.Instant(rapid.IntRange(0, horizon).Draw(t, "end")),
	}
})

func anySpans(t *rapid.T, label string) when.Spans {
	return when.Union(rapid.SliceOfN(anySpan, 0, 8).Draw(t, label)...)
}

func holds(spans when.Spans, i when.Instant) bool {
	return slices.ContainsFunc(spans, func(s when.Span) bool { return s.Holds(i) })
}

func checkWritten(t require.TestingT, spans when.Spans) {
	for n, s := range spans {
		require.False(t, s.Empty(), "empty span in %v", spans)
		if n > 0 {
			require.Greater(t, s.Start, spans[n-1].End, "spans touch or descend in %v", spans)
		}
	}
}

func TestAlgebraAgreesWithSetsOfInstants(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := anySpans(t, "a"), anySpans(t, "b")
		window := anySpan.Draw(t, "window")
		union, both, minus, rest := a.Union(b), a.Intersect(b), a.Minus(b), a.Within(window)
		for _, spans := range []when.Spans{a, b, union, both, minus, rest} {
			checkWritten(t, spans)
		}
		for i := when.Instant(-1); i <= horizon+1; i++ {
			inA, inB := holds(a, i), holds(b, i)
			require.Equal(t, inA || inB, holds(union, i), "union at %d", i)
			require.Equal(t, inA && inB, holds(both, i), "intersection at %d", i)
			require.Equal(t, inA && !inB, holds(minus, i), "difference at %d", i)
			require.Equal(t, window.Holds(i) && !inA, holds(rest, i), "complement at %d", i)
		}
	})
}

func TestUnionTakesSpansInAnyOrder(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		spans := rapid.SliceOfN(anySpan, 0, 8).Draw(t, "spans")
		shuffled := rapid.Permutation(spans).Draw(t, "shuffled")
		require.Equal(t, when.Union(spans...), when.Union(shuffled...))
	})
}

func TestCoversAndOverlapsAgreeWithInstants(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, s := anySpans(t, "a"), anySpan.Draw(t, "s")
		all, some := true, false
		for i := s.Start; i < s.End; i++ {
			all = all && holds(a, i)
			some = some || holds(a, i)
		}
		require.Equal(t, all, a.Covers(s) || s.Empty())
		require.Equal(t, some, a.Overlaps(s))
	})
}

func zone(t require.TestingT, name string) when.Zone {
	z, err := when.LoadZone(name)
	require.NoError(t, err)
	return z
}

func TestResolve(t *testing.T) {
	cases := []struct {
		name, zone, local, utc string
		exists                 bool
	}{
		{"an ordinary winter morning", "Europe/Lisbon", "2026-11-24T09:30", "2026-11-24T09:30:00Z", true},
		{"summer time", "Europe/Lisbon", "2026-07-01T09:30", "2026-07-01T08:30:00Z", true},
		{"RFC 5545, 3.3.5: the first of two 1:30", "America/New_York", "2007-11-04T01:30", "2007-11-04T05:30:00Z", true},
		{"RFC 5545, 3.3.5: 2:30 in the gap, read with the offset before it", "America/New_York", "2007-03-11T02:30", "2007-03-11T07:30:00Z", false},
		{"the last minute before the gap", "America/New_York", "2007-03-11T01:59", "2007-03-11T06:59:00Z", true},
		{"the first minute after the gap", "America/New_York", "2007-03-11T03:00", "2007-03-11T07:00:00Z", true},
		{"the first of two in Lisbon", "Europe/Lisbon", "2026-10-25T01:15", "2026-10-25T00:15:00Z", true},
		{"a half-hour change", "Australia/Lord_Howe", "2026-10-04T02:15", "2026-10-03T15:45:00Z", false},
		{"a day that a zone left out", "Pacific/Apia", "2011-12-30T12:00", "2011-12-30T22:00:00Z", false},
		{"far east of Greenwich", "Asia/Tokyo", "2026-11-24T00:15", "2026-11-23T15:15:00Z", true},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			local, err := when.ParseLocal(c.local)
			require.NoError(t, err)
			i, exists := zone(t, c.zone).Resolve(local)
			assert.Equal(t, c.utc, i.Time().Format(time.RFC3339))
			assert.Equal(t, c.exists, exists)
		})
	}
}

func TestResolveIsTheInverseOfTheClock(t *testing.T) {
	names := []string{"Europe/Lisbon", "Asia/Tokyo", "Africa/Nairobi", "America/Sao_Paulo", "America/New_York",
		"Australia/Lord_Howe", "Pacific/Apia", "Asia/Kathmandu", "America/St_Johns", "UTC"}
	rapid.Check(t, func(t *rapid.T) {
		z := zone(t, rapid.SampledFrom(names).Draw(t, "zone"))
		// Whole minutes from 1990 to 2037; older offsets have seconds.
		minute := rapid.Int64Range(631152000/60, 2114380800/60).Draw(t, "minute")
		i := when.Instant(minute * 60)
		local := z.LocalAt(i)
		back, exists := z.Resolve(local)
		require.True(t, exists, "%s shows %s", z, local)
		require.LessOrEqual(t, back, i, "the first of two")
		require.Equal(t, local, z.LocalAt(back))
	})
}

func TestDaySpanWhereClocksChange(t *testing.T) {
	lisbon := zone(t, "Europe/Lisbon")
	assert.Equal(t, 23*time.Hour, when.DaySpan(when.DayOf(2026, 3, 29), lisbon).Length())
	assert.Equal(t, 25*time.Hour, when.DaySpan(when.DayOf(2026, 10, 25), lisbon).Length())
	assert.Equal(t, 24*time.Hour, when.DaySpan(when.DayOf(2026, 11, 24), lisbon).Length())
}

func TestWorkingHoursFollowTheZoneAndTheWindow(t *testing.T) {
	tokyo := zone(t, "Asia/Tokyo")
	hours := when.Workdays(when.ClockOf(9, 0), when.ClockOf(18, 0), tokyo)
	lisbon := zone(t, "Europe/Lisbon")
	thursday := when.DaySpan(when.DayOf(2026, 12, 3), lisbon)
	worked := hours.Within(thursday)
	// 9 to 18 in Tokyo is 0 to 9 in Lisbon.
	require.Len(t, worked, 1)
	assert.Equal(t, "2026-12-03T00:00", lisbon.LocalAt(worked[0].Start).String())
	assert.Equal(t, "2026-12-03T09:00", lisbon.LocalAt(worked[0].End).String())
	assert.Empty(t, hours.Within(when.DaySpan(when.DayOf(2026, 12, 6), tokyo)), "Sunday")
	assert.Empty(t, hours.Within(when.Span{}), "no window")
}

func TestParseRefusesWhatIsNotATime(t *testing.T) {
	for _, s := range []string{"", "24:00", "9.30", "9:60", "half past"} {
		_, err := when.ParseClock(s)
		assert.Error(t, err, s)
	}
	for _, s := range []string{"", "2026-02-30", "24.11.2026"} {
		_, err := when.ParseDay(s)
		assert.Error(t, err, s)
	}
	_, err := when.ParseLocal("2026-11-24 09:30")
	assert.Error(t, err)
	for _, s := range []string{"", "Local", "Mars/Olympus", "../etc/passwd"} {
		_, err := when.LoadZone(s)
		assert.ErrorIs(t, err, when.ErrZone, s)
	}
}

func TestLocalArithmetic(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		l := when.Local{Day: when.Day(rapid.IntRange(0, 40000).Draw(t, "day")), Clock: when.Clock(rapid.IntRange(0, 1439).Draw(t, "clock"))}
		minutes := time.Duration(rapid.IntRange(-5000, 5000).Draw(t, "minutes")) * time.Minute
		moved := l.Add(minutes)
		require.Equal(t, minutes, moved.Sub(l))
		parsed, err := when.ParseLocal(moved.String())
		require.NoError(t, err)
		require.Equal(t, moved, parsed)
	})
}

func ExampleUnion() {
	nine, ten, eleven := when.Instant(9*3600), when.Instant(10*3600), when.Instant(11*3600)
	busy := when.Union(when.Span{Start: ten, End: eleven}, when.Span{Start: nine, End: ten})
	fmt.Println(len(busy), busy.Total())
	// Output: 1 2h0m0s
}

func TestWordsOfASpan(t *testing.T) {
	lisbon, tokyo := zone(t, "Europe/Lisbon"), zone(t, "Asia/Tokyo")
	start := when.Zoned{Local: when.Local{Day: when.DayOf(2026, 12, 3), Clock: when.ClockOf(14, 30)}, Zone: lisbon}.Instant()
	span := when.Span{Start: start, End: start.Add(time.Hour)}
	assert.Equal(t, "Thursday 3 December 2026, 14:30 – 15:30", lisbon.Words(span))
	assert.Equal(t, "Thursday 3 December 2026, 23:30 – Friday 4 December 2026, 0:30", tokyo.Words(span))
	assert.Equal(t, "Sao Paulo", zone(t, "America/Sao_Paulo").City())
}

// TestClocksChangeYearAfterYear goes past the changes that the time zone database
// lists one by one, over leap years; the dates follow from the rules of each
// place: the last Sundays of March and October, the first of April and October.
func TestClocksChangeYearAfterYear(t *testing.T) {
	for name, perYear := range map[string]int{"Europe/Lisbon": 2, "America/New_York": 2, "Australia/Lord_Howe": 2, "Asia/Tokyo": 0} {
		zone, err := when.LoadZone(name)
		require.NoError(t, err)
		at, changes := when.At(time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)), 0
		for until := when.At(time.Date(2086, 1, 1, 0, 0, 0, 0, time.UTC)); ; changes++ {
			next, ok := zone.NextChange(at)
			if !ok || next >= until {
				break
			}
			require.Greater(t, next, at)
			require.NotEqual(t, zone.OffsetAt(next-1), zone.OffsetAt(next))
			if name != "America/New_York" {
				require.Contains(t, []time.Month{time.March, time.April, time.September, time.October}, next.Time().Month(), name)
			}
			at = next
		}
		require.Equal(t, 60*perYear, changes, name)
	}
}
