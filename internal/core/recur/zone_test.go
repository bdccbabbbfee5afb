package recur_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/recur"
	"jembro/internal/core/when"
)

// lisbonOwn is Lisbon's zone as a calendar would define it (RFC 5545, 3.6.5).
func lisbonOwn(t require.TestingT) *recur.OwnZone {
	summer, err := recur.ParseRule("FREQ=YEARLY;BYMONTH=3;BYDAY=-1SU")
	require.NoError(t, err)
	winter, err := recur.ParseRule("FREQ=YEARLY;BYMONTH=10;BYDAY=-1SU")
	require.NoError(t, err)
	at := func(y int, m time.Month, d, hour int) recur.Moment {
		return recur.Moment{Day: when.DayOf(y, m, d), Second: int32(hour) * 3600}
	}
	own, ok := recur.NewOwnZone([]recur.Observance{
		{Onsets: recur.Series{Start: at(1997, time.March, 30, 1), Rule: summer}, After: 3600},
		{Onsets: recur.Series{Start: at(1996, time.October, 27, 2), Rule: winter}, Before: 3600},
	}, when.DayOf(2020, 1, 1), when.DayOf(2035, 1, 1), recur.NewBudget(10_000))
	require.True(t, ok)
	return own
}

// TestAnOwnZoneIsLikeTheDatabases: a definition that says the same as the IANA database
// resolves every time alike, also those that clocks skip and those they show twice.
func TestAnOwnZoneIsLikeTheDatabases(t *testing.T) {
	lisbon, err := when.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	own := lisbonOwn(t)
	span := when.Span{Start: when.DaySpan(when.DayOf(2021, 1, 1), lisbon).Start, End: when.DaySpan(when.DayOf(2034, 1, 1), lisbon).Start}
	assert.True(t, own.Is(lisbon, span))
	madrid, err := when.LoadZone("Europe/Madrid")
	require.NoError(t, err)
	assert.False(t, own.Is(madrid, span))
	rapid.Check(t, func(t *rapid.T) {
		day := when.DayOf(2021, 1, 1) + when.Day(rapid.IntRange(0, 12*365).Draw(t, "day"))
		if rapid.Bool().Draw(t, "near a change") {
			at, _ := lisbon.NextChange(when.DaySpan(day, lisbon).Start)
			day = lisbon.LocalAt(at).Day
		}
		clock := when.Clock(rapid.IntRange(0, 1439).Draw(t, "clock"))
		want, exists := lisbon.Resolve(when.Local{Day: day, Clock: clock})
		got, shows := own.Resolve(recur.Moment{Day: day, Second: int32(clock) * 60})
		assert.Equal(t, want, got, "%s %s", day, clock)
		assert.Equal(t, exists, shows, "%s %s", day, clock)
		if exists {
			assert.Equal(t, lisbon.OffsetAt(got), own.OffsetAt(got))
		}
	})
}

func TestWhatIsNotDefined(t *testing.T) {
	_, ok := recur.NewOwnZone(nil, 0, 1000, recur.NewBudget(100))
	assert.False(t, ok)
	ticking, err := recur.ParseRule("FREQ=SECONDLY")
	require.NoError(t, err)
	_, ok = recur.NewOwnZone([]recur.Observance{{Onsets: recur.Series{Rule: ticking}}}, 0, 1000, recur.NewBudget(1000))
	assert.False(t, ok, "clocks that are changed every second")
}
