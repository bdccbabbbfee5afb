package recur

import (
	"math/bits"
	"slices"
	"time"

	"jembro/internal/core/when"
)

// Explicit is the rule with everything said that RFC 5545, 3.3.10 has follow from
// the start: the weekday of a week, the day of a month, the month of a year. The
// start has to be a date of the rule; any later date of it can take its place then.
func (r Rule) Explicit(start when.Day) Rule {
	_, month, dom := civil(start)
	none := r.Days.Empty() && r.MonthDays.Empty() && r.YearDays.Empty()
	switch {
	case !none:
	case r.Freq == Weekly || !r.WeekNos.Empty():
		r.Days.add(0, weekday(start))
	case r.Freq == Monthly:
		r.MonthDays.add(dom)
	case r.Freq == Yearly:
		r.MonthDays.add(dom)
		if r.Months == 0 {
			r.Months = 1 << month
		}
	}
	return r
}

// Portable is the rule in a form that the calendar programs we know of read as the
// RFC has it: everything said that would follow from the start, and in the largest
// period and with the fewest parts that say the same. ok is false where there is no
// such form: then the dates are to be listed. Which forms are read alike is common
// practice, found by asking python3-dateutil, libical and ical.js
// (TestPortableRulesAreReadAlike).
func (r Rule) Portable(start when.Day) (out Rule, ok bool) {
	if r.Freq < Daily || r.Hours != 0 || r.Minutes != 0 || r.Seconds != 0 {
		return r, false
	}
	r = r.Explicit(start)
	for range 3 { // a form can lead to a simpler one
		was := r
		switch r.Freq {
		case Daily:
			ok = r.plainDaily()
		case Weekly:
			ok = r.plainWeekly()
		case Monthly:
			ok = r.plainMonthly(start)
		case Yearly:
			ok = r.plainYearly()
		}
		if !ok || r == was {
			break
		}
	}
	return r, ok
}

const everyMonth = 1<<13 - 2

func (r *Rule) plainDaily() bool {
	if !r.SetPos.Empty() { // of the one date of a day
		if !r.SetPos.Has(1) && !r.SetPos.Has(-1) {
			return false
		}
		r.SetPos = Ordinals{}
	}
	r.WeekStart = time.Monday
	limited := !r.Days.Empty() || !r.MonthDays.Empty() || r.Months != 0
	switch {
	case !limited:
		return true
	case r.Interval > 1:
		return r.MonthDays.Empty()
	case !r.MonthDays.Empty():
		r.Freq = Monthly
	default:
		if r.Days.Empty() {
			r.Days = everyWeekday
		}
		r.Freq = Weekly
	}
	return true
}

var everyWeekday = func() (w Weekdays) {
	for day := time.Sunday; day <= time.Saturday; day++ {
		w.add(0, day)
	}
	return w
}()

func (r *Rule) plainWeekly() bool {
	if r.Months == everyMonth {
		r.Months = 0
	}
	if !r.SetPos.Empty() && !r.chooseInWeek() {
		return false
	}
	if r.Interval == 1 || len(r.Days.All()) == 1 {
		r.WeekStart = time.Monday // it changes nothing
	}
	if r.Months != 0 && r.Interval == 1 {
		r.Freq = Yearly
	}
	return true
}

// chooseInWeek does what BYSETPOS says of the days of a week.
func (r *Rule) chooseInWeek() bool {
	if r.Months != 0 {
		return false // the first and last week of a month are cut
	}
	var days []time.Weekday
	for i := range time.Weekday(7) {
		if day := (r.WeekStart + i) % 7; r.Days.every(day) {
			days = append(days, day)
		}
	}
	chosen := Weekdays{}
	for i, day := range days {
		if r.SetPos.Has(i+1) || r.SetPos.Has(i-len(days)) {
			chosen.add(0, day)
		}
	}
	r.Days, r.SetPos = chosen, Ordinals{}
	return !chosen.Empty()
}

func (r *Rule) plainMonthly(start when.Day) bool {
	r.WeekStart = time.Monday
	if r.Months == everyMonth {
		r.Months = 0
	}
	if !r.SetPos.Empty() && !r.chooseInMonth() {
		return false
	}
	days, doms := r.Days, r.MonthDays
	switch {
	case r.Months != 0 && 12%r.Interval == 0:
		// The same months of every year.
		_, first, _ := civil(start)
		for month := 1; month <= 12; month++ {
			if (month-first)%r.Interval != 0 {
				r.Months &^= 1 << month
			}
		}
		r.Freq, r.Interval = Yearly, 1
		return r.Months != 0
	case r.Months != 0:
		return false
	case !days.Empty() && !doms.Empty():
		return r.SetPos.Empty() && !days.ordinals() && !fromTheEnd(doms)
	case !days.Empty() && !days.ordinals() && r.SetPos.Empty() && r.Interval == 1:
		r.Freq = Weekly
	}
	return true
}

func fromTheEnd(doms Ordinals) bool {
	return slices.ContainsFunc(doms.Numbers(), func(n int) bool { return n < 0 })
}

// chooseInMonth does what BYSETPOS says of the days of a month, where other parts
// can say it: the 2nd of all Thursdays is 2TH.
func (r *Rule) chooseInMonth() bool {
	days := r.Days.All()
	switch {
	case !r.MonthDays.Empty() || r.Days.ordinals():
		return false
	case len(days) == 1:
		chosen := Weekdays{}
		for _, n := range r.SetPos.Numbers() {
			if n >= -5 && n <= 5 {
				chosen.add(n, days[0].Day)
			}
		}
		r.Days, r.SetPos = chosen, Ordinals{}
		return !chosen.Empty()
	}
	return len(r.SetPos.Numbers()) == 1
}

func (r *Rule) plainYearly() bool {
	r.WeekStart = time.Monday
	if !r.SetPos.Empty() && (bits.OnesCount16(r.Months) != 1 || !r.MonthDays.Empty() || !r.chooseInMonth()) {
		return false
	}
	days, doms := r.Days, r.MonthDays
	switch {
	case !r.WeekNos.Empty():
		return false
	case !r.YearDays.Empty():
		return r.Months == 0 && days.Empty() && doms.Empty()
	case r.Interval == 1 && (r.Months == 0 || r.Months == everyMonth) && !days.ordinals():
		r.Months, r.Freq = 0, Monthly
		return true
	case r.Months == 0 && days.ordinals():
		return doms.Empty() && r.nthOfYear()
	case r.Months == 0:
		r.Months = everyMonth
	}
	switch {
	case days.ordinals() && !doms.Empty():
		return false
	case days.ordinals():
		// The 5th of a weekday in February comes every 28 years.
		return r.Months != 1<<2 || !slices.ContainsFunc(days.All(), func(d NthDay) bool { return d.Ordinal == 5 || d.Ordinal == -5 })
	}
	return doms.Empty() || r.daysOfTheseMonths()
}

// nthOfYear says the 2nd Monday of the year as that of January, the last as that
// of December.
func (r *Rule) nthOfYear() bool {
	for _, d := range r.Days.All() {
		switch {
		case d.Ordinal >= 1 && d.Ordinal <= 4:
			r.Months |= 1 << 1
		case d.Ordinal >= -4 && d.Ordinal <= -1:
			r.Months |= 1 << 12
		default:
			return false
		}
	}
	return bits.OnesCount16(r.Months) == 1
}

// daysOfTheseMonths counts days of the month from the 1st where all months named
// are equally long, and tells whether every such month has every such day.
func (r *Rule) daysOfTheseMonths() bool {
	lengths := map[int]bool{}
	for _, month := range bitNumbers(uint64(r.Months)) {
		lengths[monthLengths[month]] = true
	}
	if len(lengths) == 1 && r.Months != 1<<2 {
		var length int
		for length = range lengths {
		}
		counted := Ordinals{}
		for _, n := range r.MonthDays.Numbers() {
			switch {
			case n > 0 && n <= length:
				counted.add(n)
			case n < 0 && -n <= length:
				counted.add(length + 1 + n)
			}
		}
		r.MonthDays = counted
		return !counted.Empty()
	}
	numbers := r.MonthDays.Numbers()
	if r.Months == 1<<2 && len(numbers) == 1 {
		return numbers[0] > 0 || r.Interval == 1 && r.Days.Empty()
	}
	return !slices.ContainsFunc(numbers, func(n int) bool { return n < 0 || n > 30 || n > 28 && lengths[28] })
}

// OnWorkingDays is the rule without its dates on Saturday and Sunday; start is a
// date of the rule. ok is false where no rule says that.
func (r Rule) OnWorkingDays(start when.Day) (out Rule, ok bool) {
	r = r.Explicit(start)
	if !r.SetPos.Empty() || !r.WeekNos.Empty() && r.Days.Empty() {
		return r, false
	}
	if r.Days.Empty() {
		r.Days = workingDays
		if r.Freq == Daily && r.Interval == 1 && r.MonthDays.Empty() {
			r.Freq = Weekly
		}
		return r, true
	}
	const weekend = 1<<time.Saturday | 1<<time.Sunday
	for i := range r.Days {
		r.Days[i] &^= weekend
	}
	return r, !r.Days.Empty()
}
