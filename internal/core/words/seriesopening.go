package words

import (
	"strconv"
	"time"

	"jembro/internal/core/availability"
	"jembro/internal/core/tongue"
	"jembro/internal/core/when"
)

// SeriesOpening says what a time for all dates of a series is like: its head is when, the
// lines what there is to know. weekday tells that all dates are on the same one, room is
// the name of the one that is clear on the most dates.
func SeriesOpening(in tongue.Tongue, o availability.SeriesOpening, people []availability.Person, room string, wantRoom, weekday bool, zone when.Zone) (head string, lines []string) {
	start, end := zone.LocalAt(o.Dates[0].Start), zone.LocalAt(o.Dates[0].End)
	head = start.Clock.String() + " – " + end.Clock.String()
	if weekday {
		head = weekdayPlural(in, start.Day.Weekday()) + ", " + head
	}
	all := len(o.Dates)
	if o.Fails == 0 {
		lines = append(lines, in.Say("all %s dates", strconv.Itoa(all)))
	} else {
		lines = append(lines, in.Say("%[1]s of %[2]s dates", strconv.Itoa(all-o.Fails), strconv.Itoa(all)))
	}
	for _, x := range o.Missing {
		lines = append(lines, people[x.Person].Name+onDates(in, in.Say(" busy"), x.Dates, all))
	}
	switch {
	case !wantRoom:
	case o.OneClear == all:
		lines = append(lines, in.Say("%s on all", room))
	case o.OneClear == 0:
		lines = append(lines, in.Say("no room is clear"))
	case o.Changes > 0:
		lines = append(lines, in.Say("%[1]s on %[2]s, %[3]s of the room", room, strconv.Itoa(o.OneClear), Count(in, o.Changes, "change")))
	default:
		lines = append(lines, in.Say("%[1]s on %[2]s", room, strconv.Itoa(o.OneClear)))
	}
	if len(o.Off) > 0 {
		worst := o.Off[0]
		for _, x := range o.Off {
			if x.Off > worst.Off {
				worst = x
			}
		}
		text := in.Say("%[1]s outside hours by %[2]s a date", name(in, people[worst.Person]), Length(in, perDate(worst.Off, all)))
		if n := len(o.Off) - 1; n > 0 {
			text += in.Say(", %s more outside hours", strconv.Itoa(n))
		}
		lines = append(lines, text)
	}
	for _, x := range o.Optional {
		lines = append(lines, people[x.Person].Name+onDates(in, in.Say(" cannot come"), x.Dates, all))
	}
	return head, lines
}

func onDates(in tongue.Tongue, what string, n, all int) string {
	if n == all {
		return in.Say("%s on all", what)
	}
	return in.Say("%[1]s on %[2]s", what, strconv.Itoa(n))
}

// perDate is a sum over dates as each has it on average, in whole minutes.
func perDate(sum time.Duration, dates int) time.Duration {
	return (sum / time.Duration(dates)).Round(time.Minute)
}

// Shared says that two times by turns are fairer than one.
func Shared(in tongue.Tongue, s availability.Shared, zone when.Zone) (head string, lines []string) {
	clock := func(o availability.SeriesOpening) string { return zone.LocalAt(o.Dates[0].Start).Clock.String() }
	all := len(s.First.Dates)
	return in.Say("By turns %[1]s and %[2]s", clock(s.First), clock(s.Second)),
		[]string{in.Say("nobody outside their hours by more than %s a date", Length(in, perDate(s.Worst, all))),
			in.Say("at one time it is %s for somebody", Length(in, perDate(s.WorstAlone, all)))}
}
