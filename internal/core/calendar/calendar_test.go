package calendar_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/availability"
	"jembro/internal/core/calendar"
	"jembro/internal/core/recur"
	"jembro/internal/core/when"
)

var (
	day    = when.DayOf(2026, time.November, 23) // a Monday
	window = when.Span{Start: when.Zoned{Local: when.Local{Day: day}}.Instant(), End: when.Zoned{Local: when.Local{Day: day + 7}}.Instant()}
)

func at(d when.Day, hour int) *calendar.Time {
	return &calendar.Time{Moment: recur.Moment{Day: d, Second: int32(hour) * 3600}, Form: calendar.UTC}
}

func taken(d when.Day, from, to int, kind availability.Kind) availability.Time {
	start := when.Zoned{Local: when.Local{Day: d}}.Instant()
	return availability.Time{Span: when.Span{Start: start + when.Instant(from*3600), End: start + when.Instant(to*3600)}, Kind: kind}
}

func open(d when.Day, from, to int) calendar.Event {
	return calendar.Event{UID: "open", Start: *at(d, from), Length: calendar.Length{End: at(d, to)}}
}

// TestBlocksOverEachOther is RFC 7953, 4: a higher priority replaces a lower one where it
// lies; of equal ones busy goes before leave before maybe.
func TestBlocksOverEachOther(t *testing.T) {
	work := calendar.Block{Start: at(day, 0), End: at(day+1, 0), Kind: availability.Leave, Available: []calendar.Event{open(day, 9, 17)}}
	for name, c := range map[string]struct {
		blocks []calendar.Block
		want   []availability.Time
	}{
		"one": {[]calendar.Block{work}, []availability.Time{taken(day, 0, 9, "leave"), taken(day, 17, 24, "leave")}},
		"an afternoon off": {[]calendar.Block{{Start: at(day, 13), End: at(day, 18), Priority: 5, Kind: availability.Busy}, work},
			[]availability.Time{taken(day, 0, 9, "leave"), taken(day, 13, 18, "busy"), taken(day, 18, 24, "leave")}},
		"an evening open, with more say": {[]calendar.Block{work, {Start: at(day, 16), End: at(day, 20), Priority: 1, Kind: availability.Leave, Available: []calendar.Event{open(day, 18, 20)}}},
			[]availability.Time{taken(day, 0, 9, "leave"), taken(day, 16, 18, "leave"), taken(day, 20, 24, "leave")}},
		"9 is less than 1": {[]calendar.Block{{Start: at(day, 10), End: at(day, 12), Priority: 1, Kind: availability.Maybe}, {Start: at(day, 10), End: at(day, 12), Priority: 9, Kind: availability.Busy}},
			[]availability.Time{taken(day, 10, 12, "maybe")}},
		"equal ones": {[]calendar.Block{{Start: at(day, 10), End: at(day, 12), Kind: availability.Maybe}, {Start: at(day, 11), End: at(day, 13), Kind: availability.Busy}},
			[]availability.Time{taken(day, 10, 11, "maybe"), taken(day, 11, 13, "busy")}},
		"no bounds": {[]calendar.Block{{Kind: availability.Leave, Available: []calendar.Event{open(day, 9, 17)}}},
			[]availability.Time{taken(day, 0, 9, "leave"), taken(day, 17, 7*24, "leave")}},
	} {
		got, err := calendar.Calendar{Blocks: c.blocks}.Busy(window, when.Zone{})
		require.NoError(t, err)
		assert.Equal(t, c.want, got, name)
	}
}

// TestBusyAndEntriesAgree: what is shown and what counts is the same time.
func TestBusyAndEntriesAgree(t *testing.T) {
	lisbon, err := when.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		var c calendar.Calendar
		for range rapid.IntRange(1, 6).Draw(t, "events") {
			start := rapid.IntRange(0, 23).Draw(t, "start")
			e := calendar.Event{UID: rapid.SampledFrom([]string{"a", "b", "c"}).Draw(t, "uid"), Kind: rapid.SampledFrom([]availability.Kind{"busy", "maybe", "free"}).Draw(t, "kind"),
				Start:  calendar.Time{Moment: recur.Moment{Day: day - 3 + when.Day(rapid.IntRange(0, 9).Draw(t, "day")), Second: int32(start) * 3600}, Form: calendar.Local, TZID: "Europe/Lisbon"},
				Length: calendar.Length{Days: rapid.IntRange(0, 2).Draw(t, "days"), Seconds: int64(rapid.IntRange(1, 5).Draw(t, "hours")) * 3600}}
			if text := rapid.SampledFrom([]string{"", "FREQ=DAILY", "FREQ=WEEKLY;BYDAY=MO,TH", "FREQ=DAILY;INTERVAL=2;COUNT=3"}).Draw(t, "rule"); text != "" {
				rule, err := recur.ParseRule(text)
				require.NoError(t, err)
				e.Rules = []recur.Rule{rule}
			}
			c.Events = append(c.Events, e)
		}
		busy, err := c.Busy(window, lisbon)
		require.NoError(t, err)
		var all []availability.Time
		require.NoError(t, c.Entries(window, lisbon, func(e calendar.Entry) bool {
			if e.Kind != availability.Free {
				all = append(all, availability.Time{Span: e.Span.Intersect(window), Kind: e.Kind})
			}
			return true
		}))
		assert.Equal(t, availability.Combine(all), busy)
	})
}
