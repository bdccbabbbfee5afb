package calendar

import (
	"fmt"
	"slices"

	"jembro/internal/core/availability"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// Working is somebody's hours as blocks of availability have them: for each weekday what
// most of them hold, and the days that differ.
type Working struct {
	Week  [7][]when.ClockSpan
	Other map[when.Day][]when.ClockSpan
}

// HoursDays is how far availability is looked at for somebody's hours, and MostOther how
// many days may differ from the week.
const HoursDays, MostOther = 26 * 7, 100

// ErrNoHours: the calendar says nothing of when somebody is available.
var ErrNoHours = say.It("calendar.noHours")

// Hours are the working hours that blocks of availability leave from a day on, in a zone.
// They fail with ErrNoHours where there is none, and with another error where no week comes
// out of it.
func (c Calendar) Hours(zone when.Zone, from when.Day) (w Working, err error) {
	if len(c.Blocks) == 0 {
		return w, ErrNoHours
	}
	window := when.DaysSpan(from, from+HoursDays-1, zone)
	taken, err := Calendar{Blocks: c.Blocks, Zones: c.Zones}.Busy(window, zone)
	if err != nil {
		return w, err
	}
	var spans []when.Span
	for _, t := range taken {
		if t.Kind != availability.Maybe {
			spans = append(spans, t.Span)
		}
	}
	open := when.Union(spans...).Within(window)
	days := make([][]when.ClockSpan, HoursDays)
	for i := range days {
		days[i] = clocks(open, from+when.Day(i), zone)
	}
	w.Other = map[when.Day][]when.ClockSpan{}
	for weekday := range w.Week {
		w.Week[weekday] = mostCommon(days, from, weekday)
	}
	for i, day := range days {
		on := from + when.Day(i)
		if usual := w.Week[on.Weekday()]; !slices.Equal(day, usual) {
			w.Other[on] = day
		}
	}
	if len(w.Other) > MostOther {
		return w, fmt.Errorf("this availability differs from week to week on %d days; at most %d single days can be kept", len(w.Other), MostOther)
	}
	return w, nil
}

// clocks is what of a day is open, by the clock.
func clocks(open when.Spans, day when.Day, zone when.Zone) (out []when.ClockSpan) {
	whole := when.DaySpan(day, zone)
	for _, s := range open.Meeting(whole) {
		s = s.Intersect(whole)
		span := when.ClockSpan{Start: zone.LocalAt(s.Start).Clock, End: 24 * 60}
		if end := zone.LocalAt(s.End); end.Day == day {
			span.End = end.Clock
		}
		if span.Start < span.End && len(out) < when.MostStretches {
			out = append(out, span)
		}
	}
	return out
}

// mostCommon is what most days of one weekday hold; of equals the earliest.
func mostCommon(days [][]when.ClockSpan, from when.Day, weekday int) (best []when.ClockSpan) {
	most := 0
	for i := range days {
		if int((from + when.Day(i)).Weekday()) != weekday {
			continue
		}
		n := 0
		for j := i % 7; j < len(days); j += 7 {
			if slices.Equal(days[i], days[j]) {
				n++
			}
		}
		if n > most {
			most, best = n, days[i]
		}
	}
	return best
}
