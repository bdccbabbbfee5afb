package recur

import (
	"fmt"
	"math/bits"
	"slices"
	"strings"
	"time"
)

var frequencyNames = [...]string{Secondly: "SECONDLY", Minutely: "MINUTELY", Hourly: "HOURLY", Daily: "DAILY",
	Weekly: "WEEKLY", Monthly: "MONTHLY", Yearly: "YEARLY"}

var weekdayCodes = [...]string{"SU", "MO", "TU", "WE", "TH", "FR", "SA"}

// String writes the rule as the value of an RRULE (RFC 5545, 3.3.10), its parts
// in one order; ParseRule gives the same rule back. The zero Rule is "".
func (r Rule) String() string {
	if r.Freq == 0 {
		return ""
	}
	parts := []string{"FREQ=" + frequencyNames[r.Freq]}
	add := func(name, value string) {
		if value != "" {
			parts = append(parts, name+"="+value)
		}
	}
	if r.Interval > 1 {
		add("INTERVAL", fmt.Sprint(r.Interval))
	}
	if r.Count > 0 {
		add("COUNT", fmt.Sprint(r.Count))
	}
	add("UNTIL", r.Until.String())
	add("BYMONTH", listText(bitNumbers(uint64(r.Months))))
	add("BYWEEKNO", listText(r.WeekNos.Numbers()))
	add("BYYEARDAY", listText(r.YearDays.Numbers()))
	add("BYMONTHDAY", listText(r.MonthDays.Numbers()))
	var days []string
	for _, d := range r.Days.All() {
		days = append(days, d.String())
	}
	add("BYDAY", strings.Join(days, ","))
	add("BYHOUR", listText(bitNumbers(uint64(r.Hours))))
	add("BYMINUTE", listText(bitNumbers(r.Minutes)))
	add("BYSECOND", listText(bitNumbers(r.Seconds)))
	add("BYSETPOS", listText(r.SetPos.Numbers()))
	if r.WeekStart != time.Monday {
		add("WKST", weekdayCodes[r.WeekStart])
	}
	return strings.Join(parts, ";")
}

// String writes the end as UNTIL holds it, "" for none.
func (u Until) String() string {
	switch {
	case !u.Set:
		return ""
	case u.AllDay:
		return u.Moment.Date()
	case u.UTC:
		return u.Moment.String() + "Z"
	}
	return u.Moment.String()
}

// MarshalText writes a rule as String does.
func (r Rule) MarshalText() ([]byte, error) { return []byte(r.String()), nil }

// UnmarshalText reads what MarshalText writes.
func (r *Rule) UnmarshalText(b []byte) (err error) {
	if len(b) == 0 {
		*r = Rule{}
		return nil
	}
	*r, err = ParseRule(string(b))
	return err
}

// Numbers are the numbers of the set: 1 and up, then −1 and down.
func (s Ordinals) Numbers() (out []int) {
	for i, word := range s.above {
		for ; word != 0; word &= word - 1 {
			out = append(out, i<<6+bits.TrailingZeros64(word))
		}
	}
	for i, word := range s.below {
		for ; word != 0; word &= word - 1 {
			out = append(out, -(i<<6 + bits.TrailingZeros64(word)))
		}
	}
	return out
}

// NthDay is a weekday with its ordinal in a month or year: 1 is the first, −1
// the last, 0 every one.
type NthDay struct {
	Ordinal int
	Day     time.Weekday
}

// String writes it as BYDAY does: TH, 1TH, -1TH.
func (d NthDay) String() string {
	if d.Ordinal == 0 {
		return weekdayCodes[d.Day]
	}
	return fmt.Sprint(d.Ordinal) + weekdayCodes[d.Day]
}

// All are the weekdays of the set, by ordinal as Numbers orders them, then from
// Monday on.
func (w *Weekdays) All() (out []NthDay) {
	for i, set := range w {
		for day := time.Sunday; day <= time.Saturday; day++ {
			if set&(1<<day) != 0 {
				out = append(out, NthDay{i - maxOrdinal, day})
			}
		}
	}
	place := func(d NthDay) int {
		ordinal := d.Ordinal
		if ordinal < 0 {
			ordinal = 2*maxOrdinal - ordinal
		}
		return ordinal*7 + (int(d.Day)+6)%7
	}
	slices.SortFunc(out, func(a, b NthDay) int { return place(a) - place(b) })
	return out
}

func bitNumbers(set uint64) (out []int) {
	for ; set != 0; set &= set - 1 {
		out = append(out, bits.TrailingZeros64(set))
	}
	return out
}

func listText(numbers []int) string {
	return strings.ReplaceAll(strings.Trim(fmt.Sprint(numbers), "[]"), " ", ",")
}
