package words

import (
	"fmt"
	"time"

	"jembro/internal/core/availability"
	"jembro/internal/core/when"
)

// SeriesOpening says what a time for all dates of a series is like: its head is when, the
// lines what there is to know. weekday tells that all dates are on the same one, room is
// the name of the one that is clear on the most dates.
func SeriesOpening(o availability.SeriesOpening, people []availability.Person, room string, wantRoom, weekday bool, zone when.Zone) (head string, lines []string) {
	start, end := zone.LocalAt(o.Dates[0].Start), zone.LocalAt(o.Dates[0].End)
	head = start.Clock.String() + " – " + end.Clock.String()
	if weekday {
		head = weekdayPlural(start.Day.Weekday()) + ", " + head
	}
	all := len(o.Dates)
	if o.Fails == 0 {
		lines = append(lines, fmt.Sprintf("all %d dates", all))
	} else {
		lines = append(lines, fmt.Sprintf("%d of %d dates", all-o.Fails, all))
	}
	for _, x := range o.Missing {
		lines = append(lines, people[x.Person].Name+onDates(" busy", x.Dates, all))
	}
	switch {
	case !wantRoom:
	case o.OneClear == all:
		lines = append(lines, room+" on all")
	case o.OneClear == 0:
		lines = append(lines, "no room is clear")
	case o.Changes > 0:
		lines = append(lines, fmt.Sprintf("%s on %d, %s of the room", room, o.OneClear, Count(o.Changes, "change")))
	default:
		lines = append(lines, fmt.Sprintf("%s on %d", room, o.OneClear))
	}
	if len(o.Off) > 0 {
		worst := o.Off[0]
		for _, x := range o.Off {
			if x.Off > worst.Off {
				worst = x
			}
		}
		text := fmt.Sprintf("%s outside hours by %s a date", name(people[worst.Person]), Length(perDate(worst.Off, all)))
		if n := len(o.Off) - 1; n > 0 {
			text += fmt.Sprintf(", %d more outside hours", n)
		}
		lines = append(lines, text)
	}
	for _, x := range o.Optional {
		lines = append(lines, people[x.Person].Name+onDates(" cannot come", x.Dates, all))
	}
	return head, lines
}

func onDates(what string, n, all int) string {
	if n == all {
		return what + " on all"
	}
	return fmt.Sprintf("%s on %d", what, n)
}

// perDate is a sum over dates as each has it on average, in whole minutes.
func perDate(sum time.Duration, dates int) time.Duration {
	return (sum / time.Duration(dates)).Round(time.Minute)
}

// Shared says that two times by turns are fairer than one.
func Shared(s availability.Shared, zone when.Zone) (head string, lines []string) {
	clock := func(o availability.SeriesOpening) string { return zone.LocalAt(o.Dates[0].Start).Clock.String() }
	all := len(s.First.Dates)
	return fmt.Sprintf("By turns %s and %s", clock(s.First), clock(s.Second)),
		[]string{fmt.Sprintf("nobody outside their hours by more than %s a date", Length(perDate(s.Worst, all))),
			fmt.Sprintf("at one time it is %s for somebody", Length(perDate(s.WorstAlone, all)))}
}
