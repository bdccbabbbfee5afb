package ical_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/availability"
	"jembro/internal/core/holidays"
	"jembro/internal/core/when"
	"jembro/internal/ical"
	"jembro/internal/schedule"
	keeping "jembro/internal/schedule/calendars"
)

// TestOthersReadWhatWeGive: busy times as events and as VFREEBUSY, and hours as blocks of
// availability, are read by python3-icalendar with python3-dateutil (and by libical, where
// it knows the component) as they were meant, and by ourselves.
func TestOthersReadWhatWeGive(t *testing.T) {
	at := func(day, hour int) when.Instant {
		return when.At(time.Date(2026, 11, 30+day, hour, 0, 0, 0, time.UTC))
	}
	p := keeping.Published{ID: "x", Domain: "meet.marrowby.example", Name: "Ilse; Marrant, \"registrar\"", Email: "ilse.marrant@marrowby.example",
		Window: when.Span{Start: at(0, 0), End: at(14, 0)}, Stamp: time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC), Refresh: 15 * time.Minute,
		Times: []availability.Shown{
			{Time: availability.Time{Span: when.Span{Start: at(0, 9), End: at(0, 10)}, Kind: availability.Busy}, Title: "Crate sizes, loan 14; and\nmore"},
			{Time: availability.Time{Span: when.Span{Start: at(0, 9), End: at(0, 11)}, Kind: availability.Maybe}},
			{Time: availability.Time{Span: when.Span{Start: at(2, 0), End: at(4, 0)}, Kind: availability.Busy}},
			{Time: availability.Time{Span: when.Span{Start: at(7, 0), End: at(9, 0)}, Kind: availability.Leave}},
		}}
	zone, err := when.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	portugal, _ := holidays.Find("PT")
	hours := when.Workdays(when.ClockOf(9, 0), when.ClockOf(12, 30), zone)
	for day := 1; day <= 5; day++ {
		hours.Week[day] = append(hours.Week[day], when.ClockSpan{Start: when.ClockOf(13, 30), End: when.ClockOf(18, 0)})
	}
	hours.Week[6] = []when.ClockSpan{{Start: when.ClockOf(20, 0), End: 24 * 60}}
	monday := when.DayOf(2026, 11, 30)
	other := schedule.OtherDay{Day: monday + 3, Hours: []when.ClockSpan{{Start: when.ClockOf(14, 0), End: when.ClockOf(18, 0)}}}
	h := keeping.Hours{Name: "Ilse Marrant", Email: "ilse.marrant@marrowby.example", Domain: "meet.marrowby.example", Hours: hours, From: monday, Stamp: p.Stamp,
		Other: []schedule.OtherDay{other, {Day: monday + 4}}, Holidays: []when.Day{monday + 1, monday + 8}, Leave: []schedule.Absence{{First: monday + 9, Last: monday + 12}}}
	hours.Closed, hours.Other = portugal, map[when.Day][]when.ClockSpan{monday + 3: other.Hours, monday + 4: nil}
	window := when.Span{Start: at(0, 0), End: at(14, 0)}
	worked := hours.Within(window).Minus(when.Spans{{Start: when.DaySpan(monday+9, zone).Start, End: when.DaySpan(monday+12, zone).End}})
	var off [][3]string
	for _, s := range worked.Within(window) {
		off = append(off, [3]string{s.Start.Time().Format(time.RFC3339), s.End.Time().Format(time.RFC3339), "leave"})
	}
	times := [][3]string{{"2026-11-30T09:00:00Z", "2026-11-30T10:00:00Z", "busy"}, {"2026-11-30T10:00:00Z", "2026-11-30T11:00:00Z", "maybe"},
		{"2026-12-02T00:00:00Z", "2026-12-04T00:00:00Z", "busy"}, {"2026-12-07T00:00:00Z", "2026-12-09T00:00:00Z", "leave"}}
	asEvents := append([][3]string{}, times...)
	asEvents[3][2] = "busy" // an event has no leave

	format := ical.Calendars{}
	for name, c := range map[string]struct {
		text      []byte
		want      [][3]string
		libraries []string
	}{
		"events":       {format.Events(p), asEvents, []string{"icalendar", "libical"}},
		"busy times":   {format.FreeBusy(p), times, []string{"icalendar", "libical"}},
		"availability": {format.Availability(h), off, []string{"icalendar"}},
	} {
		q := question{string(c.text), "2026-11-30T00:00:00Z", "2026-12-14T00:00:00Z", "Europe/Lisbon"}
		assert.Equal(t, c.want, ask(t, q), "ourselves: %s", name)
		for _, library := range c.libraries {
			assert.Equal(t, c.want, askElsewhere(t, library, []question{q})[0], "%s: %s", library, name)
		}
		for line := range strings.SplitSeq(string(c.text), "\r\n") {
			assert.LessOrEqual(t, len(line), 75, "RFC 5545, 3.1")
		}
	}
	assert.NotContains(t, string(format.FreeBusy(p)), "Crate", "busy times have no titles (RFC 7953, 9)")
}
