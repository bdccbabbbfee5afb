package recur

import (
	"fmt"
	"strings"
	"time"

	"jembro/internal/core/when"
)

// End is where a series ends: on a day, after a number of dates, or, when both
// are zero, never.
type End struct {
	Until when.Day
	Count int
}

// Open tells whether there is no end.
func (e End) Open() bool { return e == End{} }

// Words is the rule as a person says it, for a series that starts on a day:
// "every 2nd Tuesday", "the last working day of the month". Its end is left out.
// A rule that nobody would say is named by its parts.
func (r Rule) Words(start when.Day) string {
	if r.Sayable(start) {
		return r.words(start)
	}
	r.Count, r.Until = 0, Until{}
	return "by the rule " + r.String()
}

// Words is the end as it follows the rule: " until 15 December 2026", ", 4
// times", or nothing. The year is left out when the series starts in it.
func (e End) Words(start when.Day) string {
	switch {
	case e.Count == 1:
		return ", once"
	case e.Count > 0:
		return fmt.Sprintf(", %d times", e.Count)
	case e.Until != 0:
		return " until " + dayWords(e.Until, start)
	}
	return ""
}

func dayWords(day, start when.Day) string {
	y, _, _ := day.Date()
	if startYear, _, _ := start.Date(); y == startYear {
		return day.Words()
	}
	return fmt.Sprintf("%s %d", day.Words(), y)
}

// EachWorkingDay tells whether the rule is Monday to Friday, every week.
func (r Rule) EachWorkingDay() bool {
	return r.sayable() && r.Days == workingDays && r.Interval == 1 && (r.Freq == Weekly || r.Freq == Daily && r.MonthDays.Empty())
}

// EachDay tells whether the rule is each day of the week, every week.
func (r Rule) EachDay() bool {
	return r.sayable() && r.Interval == 1 && (r.Freq == Weekly && len(r.Days.All()) == 7 || r.Freq == Daily && r.Days.Empty() && r.MonthDays.Empty())
}

// Sayable tells whether Words says the rule as a person would.
func (r Rule) Sayable(start when.Day) bool { return r.sayable() && r.words(start) != "" }

// sayable tells whether the rule has only parts that words are known for.
func (r Rule) sayable() bool {
	return r.Freq >= Daily && r.Hours == 0 && r.Minutes == 0 && r.Seconds == 0 && r.WeekNos.Empty() && r.YearDays.Empty() &&
		(r.Months == 0 || r.Freq == Yearly) && (r.SetPos.Empty() || r.Freq == Monthly)
}

func (r Rule) words(start when.Day) string {
	switch r.Freq {
	case Daily:
		switch {
		case r.EachWorkingDay():
			return "every working day"
		case r.Days.Empty() && r.MonthDays.Empty():
			return "every " + nth(r.Interval, "day")
		}
	case Weekly:
		return r.weeklyWords(start)
	case Monthly:
		if what := r.monthlyWords(start); what != "" {
			return what + " of " + ofEvery(r.Interval)
		}
	case Yearly:
		return r.yearlyWords(start)
	}
	return ""
}

var workingDays = func() (w Weekdays) {
	for day := time.Monday; day <= time.Friday; day++ {
		w.add(0, day)
	}
	return w
}()

func (r Rule) weeklyWords(start when.Day) string {
	days := r.Days.All()
	if len(days) == 0 {
		days = []NthDay{{0, start.Weekday()}}
	}
	var names []string
	for _, d := range days {
		names = append(names, d.Day.String())
	}
	switch {
	case r.EachWorkingDay():
		return "every working day"
	case r.EachDay():
		return "every day"
	case len(days) == 1:
		return "every " + nth(r.Interval, names[0])
	case r.Interval == 1:
		return "every " + and(names)
	}
	return "every " + nth(r.Interval, "week") + " on " + and(names)
}

// monthlyWords is what the rule names of a month: "the 1st Thursday", "the 15th".
func (r Rule) monthlyWords(start when.Day) string {
	days, positions, doms := r.Days.All(), r.SetPos.Numbers(), r.MonthDays.Numbers()
	switch {
	case len(positions) == 1 && r.Days == workingDays && len(doms) == 0:
		return "the " + ordinal(positions[0]) + " working day"
	case len(positions) > 0:
		return ""
	case len(days) == 0 && len(doms) == 0:
		_, _, dom := start.Date()
		return "the " + ordinal(dom)
	case len(days) == 0:
		return "the " + and(each(doms, domWords))
	case len(doms) > 0 || !r.Days.ordinals():
		return ""
	}
	var ordinals []string
	for _, d := range days {
		if d.Day != days[0].Day || d.Ordinal == 0 {
			return ""
		}
		ordinals = append(ordinals, ordinal(d.Ordinal))
	}
	return "the " + and(ordinals) + " " + days[0].Day.String()
}

func (r Rule) yearlyWords(start when.Day) string {
	_, month, dom := start.Date()
	months, doms := bitNumbers(uint64(r.Months)), r.MonthDays.Numbers()
	every := "every "
	if r.Interval > 1 {
		every = "every " + nth(r.Interval, "year") + " on "
	}
	switch {
	case len(months) == 0 && len(doms) == 0 && r.Days.Empty():
		return every + fmt.Sprintf("%d %s", dom, month)
	case len(months) != 1:
		return ""
	case r.Days.Empty() && len(doms) <= 1:
		if len(doms) == 1 {
			dom = doms[0]
		}
		if dom < 0 {
			return ""
		}
		return every + fmt.Sprintf("%d %s", dom, time.Month(months[0]))
	case len(doms) == 0 && r.Interval == 1:
		if what := r.monthlyWords(start); what != "" {
			return what + " of " + time.Month(months[0]).String()
		}
	}
	return ""
}

func domWords(n int) string {
	if n < 0 {
		return ordinal(n) + " day"
	}
	return ordinal(n)
}

func ofEvery(interval int) string {
	if interval == 1 {
		return "the month"
	}
	return "every " + nth(interval, "month")
}

// nth is "day" or "2nd day".
func nth(interval int, what string) string {
	if interval == 1 {
		return what
	}
	return ordinal(interval) + " " + what
}

// ordinal is 1st, 2nd, last, 2nd last.
func ordinal(n int) string {
	switch {
	case n == -1:
		return "last"
	case n < 0:
		return ordinal(-n) + " last"
	}
	suffix := "th"
	if n%100/10 != 1 {
		switch n % 10 {
		case 1:
			suffix = "st"
		case 2:
			suffix = "nd"
		case 3:
			suffix = "rd"
		}
	}
	return fmt.Sprint(n) + suffix
}

// and is "Monday", "Monday and Friday", "Monday, Wednesday and Friday".
func and(words []string) string {
	if len(words) < 2 {
		return strings.Join(words, "")
	}
	return strings.Join(words[:len(words)-1], ", ") + " and " + words[len(words)-1]
}

func each[From, To any](all []From, turn func(From) To) []To {
	out := make([]To, len(all))
	for i, v := range all {
		out[i] = turn(v)
	}
	return out
}
