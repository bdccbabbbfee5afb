package words

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"jembro/internal/core/meeting"
	"jembro/internal/core/tongue"
	"jembro/internal/core/typed"
	"jembro/internal/core/when"
)

// Typed are the words in which people type days and times.
var Typed = typed.Vocabulary{
	Months:   months(),
	Weekdays: weekdays(),
	Today:    []string{"today", "tod"}, Tomorrow: []string{"tomorrow", "tmrw", "tom"}, Yesterday: []string{"yesterday"},
	AfterTomorrow: []string{"day after tomorrow", "the day after tomorrow"},
	This:          []string{"this"}, Next: []string{"next"}, In: []string{"in"}, For: []string{"for"}, At: []string{"at", "from"}, Of: []string{"of"},
	To: []string{"to", "until", "till"}, And: []string{"and"},
	Days: []string{"day", "days", "d"}, Weeks: []string{"week", "weeks", "w", "wk", "wks"}, MonthsOf: []string{"month", "months"}, Years: []string{"year", "years"},
	Hours: []string{"h", "hr", "hrs", "hour", "hours"}, Minutes: []string{"m", "min", "mins", "minute", "minutes", "'"},
	Noon: []string{"noon", "midday"}, Midnight: []string{"midnight"},
	Morning: []string{"am", "a.m.", "a.m", "a"}, Afternoon: []string{"pm", "p.m.", "p.m", "p"},
	HalfPast: []string{"half past"}, QuarterPast: []string{"quarter past", "a quarter past"}, QuarterTo: []string{"quarter to", "a quarter to"},
	Half: []string{"half"}, Clock: []string{"o'clock"}, Ordinal: []string{"st", "nd", "rd", "th"},
	Numbers: map[string]int{"a": 1, "an": 1, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8,
		"nine": 9, "ten": 10, "eleven": 11, "twelve": 12},
}

func months() (names [12]string) {
	for i := range names {
		names[i] = strings.ToLower(time.Month(i + 1).String())
	}
	return names
}

func weekdays() (names [7]string) {
	for i := range names {
		names[i] = strings.ToLower(time.Weekday(i).String())
	}
	return names
}

// FullDay is a day as it is said where nothing around says which year: "Thu 3 Dec
// 2026".
func FullDay(in tongue.Tongue, d when.Day) string {
	y, _, _ := d.Date()
	return in.Say("%[1]s %[2]s %[3]s", in.Say(d.Weekday().String()[:3]), ShortDay(in, d), strconv.Itoa(y))
}

// Length is how long something takes: "45 min", "1 h", "1 h 30".
func Length(in tongue.Tongue, d time.Duration) string {
	h, m := int(d.Hours()), int(d.Minutes())%60
	switch {
	case h == 0:
		return in.Say("%s min", strconv.Itoa(m))
	case m == 0:
		return fmt.Sprintf("%d h", h)
	}
	return fmt.Sprintf("%d h %d", h, m)
}

// Settled says what a sheet says after something was typed into a field: "Thu 3 Dec
// 2026, 9:30 – 10:30, 1 h".
func Settled(in tongue.Tongue, field string, d meeting.Draft) string {
	switch field {
	case "repeat.until":
		if day, err := when.ParseDay(d.Repeat.Until); err == nil {
			return FullDay(in, day)
		}
		return ""
	case "repeat.days", "repeat.added":
		return ""
	}
	if on, _, ok := strings.Cut(strings.TrimPrefix(field, "dates."), "."); ok && strings.HasPrefix(field, "dates.") {
		for _, own := range d.Dates {
			if own.On == on {
				d.Start, d.End = own.Start, own.End
			}
		}
	}
	start, noStart := when.ParseLocal(d.Start)
	end, noEnd := when.ParseLocal(d.End)
	zone, noZone := when.LoadZone(d.Zone)
	if noStart != nil || noEnd != nil || noZone != nil {
		return ""
	}
	if d.AllDay {
		return AllDay(in, start.Day, end.Day-1)
	}
	text := locals(in, start, end)
	span := when.Span{Start: when.Zoned{Local: start, Zone: zone}.Instant(), End: when.Zoned{Local: end, Zone: zone}.Instant()}
	if !span.Empty() {
		text += ", " + Length(in, span.Length())
	}
	return text
}

// ClockChange says what clocks do around a time: "Clocks go forward that night, from
// 1:00 to 2:00."
func ClockChange(in tongue.Tongue, c when.ClockChange, zone when.Zone) string {
	way, from := in.Say("forward"), c.From
	if c.To.Sub(c.From) < 0 {
		way = in.Say("back")
	}
	return in.Say("On %[1]s clocks in %[2]s go %[3]s, from %[4]s to %[5]s.", ShortDay(in, from.Day), zone.City(), way, from.Clock, c.To.Clock)
}
