package words

import (
	"fmt"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// AllDay is when something is that takes whole days, from the first to the last: "Thu 3
// Dec 2026, all day", "Thu 3 – Sat 5 Dec 2026, 3 days".
func AllDay(first, last when.Day) string {
	if last <= first {
		return FullDay(first) + ", all day"
	}
	return fmt.Sprintf("%s – %s, %d days", FullDay(first), FullDay(last), last-first+1)
}

// LongAllDay is the same in full, as letters have it: "Thursday 3 December 2026, all
// day".
func LongAllDay(first, last when.Day) string {
	full := func(d when.Day) string {
		y, _, _ := d.Date()
		return fmt.Sprintf("%s %s %d", d.Weekday(), d.Words(), y)
	}
	if last <= first {
		return full(first) + ", all day"
	}
	return fmt.Sprintf("%s – %s, %d days", full(first), full(last), last-first+1)
}

// When is when a date of a meeting is, in full, by the clock of a zone; whole days are the
// same everywhere.
func When(m meeting.Meeting, span when.Span, zone when.Zone) string {
	if !m.AllDay {
		return zone.Words(span)
	}
	first, last := m.Days(span)
	return LongAllDay(first, last)
}
