package meeting_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/meeting"
	"jembro/internal/core/say"
	"jembro/internal/core/typed"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
)

func typedReader() typed.Reader {
	return typed.Reader{Words: words.Typed, Today: when.DayOf(2026, 11, 24), Order: typed.DayFirst}
}

func TestWhatIsTypedBecomesPartOfTheSheet(t *testing.T) {
	sheet := func(start, end string) meeting.Draft {
		return meeting.Draft{Start: start, End: end, Zone: "Europe/Lisbon", Repeat: &meeting.DraftRepeat{Added: []string{"2026-12-20"}},
			Dates: []meeting.DraftDate{{On: "2026-12-10", Start: "2026-12-10T09:30", End: "2026-12-10T10:30"}}}
	}
	day, night := sheet("2026-12-03T09:30", "2026-12-03T10:30"), sheet("2026-12-03T23:00", "2026-12-04T00:30")
	for _, c := range []struct {
		name, field, text string
		from              meeting.Draft
		start, end        string
	}{
		{"a time takes the end along", "start", "11", day, "2026-12-03T11:00", "2026-12-03T12:00"},
		{"over midnight too", "start", "23:30", day, "2026-12-03T23:30", "2026-12-04T00:30"},
		{"24:00 is the next day", "start", "24:00", day, "2026-12-04T00:00", "2026-12-04T01:00"},
		{"a shift", "start", "+45", day, "2026-12-03T10:15", "2026-12-03T11:15"},
		{"a phrase", "start", "next tue 14:00 for 1 h 30", day, "2026-12-01T14:00", "2026-12-01T15:30"},
		{"a range", "start", "9-10:15", day, "2026-12-03T09:00", "2026-12-03T10:15"},
		{"a day keeps both times", "day", "fri", night, "2026-11-27T23:00", "2026-11-28T00:30"},
		{"a day with a time", "day", "4 dec 15:00", day, "2026-12-04T15:00", "2026-12-04T16:00"},
		{"an end", "end", "11:15", day, "2026-12-03T09:30", "2026-12-03T11:15"},
		{"an end after midnight", "end", "0:30", sheet("2026-12-03T23:00", "2026-12-03T23:30"), "2026-12-03T23:00", "2026-12-04T00:30"},
		{"mended to before midnight", "end", "23:45", night, "2026-12-03T23:00", "2026-12-03T23:45"},
		{"midnight", "end", "midnight", day, "2026-12-03T09:30", "2026-12-04T00:00"},
		{"an end before the start stays on its day", "end", "9", day, "2026-12-03T09:30", "2026-12-03T09:00"},
		{"of a meeting over days, on the last", "end", "17:00", sheet("2026-12-03T09:30", "2026-12-05T16:00"), "2026-12-03T09:30", "2026-12-05T17:00"},
		{"a length", "end", "for 45 min", day, "2026-12-03T09:30", "2026-12-03T10:15"},
		{"with a day", "end", "5 dec 12:00", day, "2026-12-03T09:30", "2026-12-05T12:00"},
		{"the last day", "lastDay", "5 dec", night, "2026-12-03T23:00", "2026-12-05T00:30"},
		// Clocks in Lisbon go forward at 1:00 on 28 March 2027 and back at 2:00 on 31
		// October 2027: a length is one of instants.
		{"a length over the jump", "end", "2 h", sheet("2027-03-28T00:30", "2027-03-28T00:45"), "2027-03-28T00:30", "2027-03-28T03:30"},
		{"a start before the jump", "start", "0:30", sheet("2027-03-28T10:00", "2027-03-28T12:00"), "2027-03-28T00:30", "2027-03-28T03:30"},
		{"a length when they go back", "end", "3 h", sheet("2027-10-31T00:30", "2027-10-31T00:45"), "2027-10-31T00:30", "2027-10-31T02:30"},
	} {
		t.Run(c.name, func(t *testing.T) {
			c.from.Typed = []meeting.DraftTyped{{Field: c.field, Text: c.text}}
			got := c.from.Read(typedReader(), meeting.NoMore)
			assert.Equal(t, []string{c.start, c.end}, []string{got.Start, got.End})
			assert.Empty(t, got.Typed)

			still, readings := c.from.Read(typedReader(), func(t meeting.DraftTyped) bool { return t.Field == c.field }), c.from.Readings(typedReader())
			assert.Equal(t, []string{c.from.Start, c.from.End}, []string{still.Start, still.End}, "while it is typed nothing moves")
			assert.Equal(t, c.from.Typed, still.Typed)
			require.Len(t, readings, 1)
			assert.Equal(t, []string{c.start, c.end}, []string{readings[0].After.Start, readings[0].After.End})
		})
	}
	t.Run("what cannot be read stays", func(t *testing.T) {
		day.Typed = []meeting.DraftTyped{{Field: "end", Text: "late"}, {Field: "start", Text: "11"}}
		got := day.Read(typedReader(), meeting.NoMore)
		assert.Equal(t, []meeting.DraftTyped{{Field: "end", Text: "late"}}, got.Typed)
		assert.Equal(t, "2026-12-03T11:00", got.Start)
		readings := got.Readings(typedReader())
		require.Len(t, readings, 1)
		assert.Equal(t, typed.NotATime, readings[0].Err.Kind)
	})
	t.Run("days of a series", func(t *testing.T) {
		day.Typed = []meeting.DraftTyped{{Field: "repeat.until", Text: "25 feb"}, {Field: "repeat.days", Text: "24.12."}, {Field: "repeat.added", Text: "18/12"},
			{Field: "dates.2026-12-10.start", Text: "14"}, {Field: "dates.2026-12-10.day", Text: "fri 11 dec"}, {Field: "dates.2026-12-17.start", Text: "14"}}
		got := day.Read(typedReader(), meeting.NoMore)
		assert.Equal(t, meeting.DraftRepeat{Until: "2027-02-25", Days: []string{"2026-12-24"}, Added: []string{"2026-12-18", "2026-12-20"}}, *got.Repeat)
		assert.Equal(t, meeting.DraftDate{On: "2026-12-10", Start: "2026-12-11T14:00", End: "2026-12-11T15:00"}, got.Dates[0])
		assert.Len(t, got.Typed, 1, "a date that the sheet does not speak of")
	})
}

func TestAnEndThatMayBeASlipIsAskedAbout(t *testing.T) {
	settle := func(start, end string, meant int) []meeting.Fault {
		d := meeting.Draft{Title: "Crate sizes", Start: start, End: end, Zone: "Europe/Lisbon", LongMeant: meant}
		_, faults := d.Settle(meeting.Surroundings{Now: now})
		return faults
	}
	faults := settle("2026-12-03T23:00", "2026-12-04T23:45", 0)
	require.Len(t, faults, 1)
	assert.Equal(t, "This lasts 24 h 45.", words.English(faults[0].What))
	faults[0].What = say.What{}
	assert.Equal(t, meeting.Fault{Field: "end", Fix: "2026-12-03T23:45", Long: 24*60 + 45}, faults[0])
	assert.Empty(t, settle("2026-12-03T23:00", "2026-12-04T23:45", 24*60+45), "it was said to be meant")
	assert.Len(t, settle("2026-12-03T23:00", "2026-12-05T23:45", 24*60+45), 1, "another length is asked about again")
	assert.Empty(t, settle("2026-12-03T08:00", "2026-12-03T18:00", 0))

	passed := settle("2026-11-03T09:00", "2026-11-03T10:00", 0)
	require.Len(t, passed, 1)
	assert.Equal(t, meeting.Fault{Field: "start", What: say.It("meeting.time.dayPassed"), Fix: "2027-11-03T09:00"}, passed[0])
	jumped := settle("2027-03-28T01:30", "2027-03-28T02:00", 0)
	require.Len(t, jumped, 1)
	assert.Equal(t, "1:30 is not on the clock that night, so it starts at 2:30; this ends before that.", words.English(jumped[0].What))
	assert.Equal(t, "2027-03-28T03:30", jumped[0].Fix)
}

func TestTheSheetKnowsWhatClocksDo(t *testing.T) {
	for _, c := range []struct {
		start, end string
		from, to   string // empty: nothing of it concerns the time
	}{
		{"2027-03-28T00:30", "2027-03-28T02:30", "2027-03-28T01:00", "2027-03-28T02:00"},
		{"2027-10-31T00:30", "2027-10-31T02:30", "2027-10-31T02:00", "2027-10-31T01:00"},
		{"2027-10-31T01:15", "2027-10-31T01:45", "2027-10-31T02:00", "2027-10-31T01:00"},
		{"2027-03-28T01:30", "2027-03-28T03:30", "2027-03-28T01:00", "2027-03-28T02:00"},
		{"2027-03-27T23:00", "2027-03-28T00:30", "", ""},
		{"2027-03-28T09:00", "2027-03-28T10:00", "", ""},
		{"2026-12-03T09:00", "2026-12-03T10:00", "", ""},
	} {
		got, ok := meeting.Draft{Start: c.start, End: c.end, Zone: "Europe/Lisbon"}.ClockChange()
		require.Equal(t, c.from != "", ok, c.start)
		if ok {
			assert.Equal(t, []string{c.from, c.to}, []string{got.From.String(), got.To.String()}, c.start)
		}
	}
}
