package tongue

import (
	"strconv"
	"time"

	"jembro/internal/core/recur"
	"jembro/internal/core/when"
)

// Rule is how a series repeats, as people say it: "every 2nd Thursday"; "" where this language has
// no words for that rule.
func (t Tongue) Rule(r recur.Rule, start when.Day) string {
	if t.English() {
		return r.Words(start)
	}
	if !r.Sayable(start) || !r.SetPos.Empty() {
		return ""
	}
	days, doms := r.Days.All(), r.MonthDays.Numbers()
	every := strconv.Itoa(r.Interval)
	switch r.Freq {
	case recur.Daily:
		switch {
		case r.EachWorkingDay():
			return t.Say("every working day")
		case len(days)+len(doms) > 0:
			return ""
		case r.Interval == 1:
			return t.Say("every day")
		}
		return t.Say("every %s days", every)
	case recur.Weekly:
		switch {
		case r.EachWorkingDay():
			return t.Say("every working day")
		case r.EachDay():
			return t.Say("every day")
		}
		if len(days) == 0 {
			days = []recur.NthDay{{Day: start.Weekday()}}
		}
		var on []string
		for _, d := range days {
			on = append(on, t.Say("on "+d.Day.String()))
		}
		if r.Interval == 1 {
			return t.Say("every week %s", t.List(on))
		}
		return t.Say("every %[1]s weeks, %[2]s", every, t.List(on))
	case recur.Monthly:
		what := t.monthly(days, doms, start)
		switch {
		case what == "":
			return ""
		case r.Interval == 1:
			return t.Say("%s of every month", what)
		}
		return t.Say("%[1]s of every %[2]s months", what, every)
	case recur.Yearly:
		if len(days)+len(doms) > 0 || r.Months != 0 || r.Interval != 1 {
			return ""
		}
		return t.Say("every year on %s", t.Date(start))
	}
	return ""
}

// monthly is what a rule names of a month: "on the 1st Thursday", "on the 15th".
func (t Tongue) monthly(days []recur.NthDay, doms []int, start when.Day) string {
	switch {
	case len(days) == 0 && len(doms) == 0:
		_, _, dom := start.Date()
		doms = []int{dom}
	case len(days) == 1 && len(doms) == 0:
		return t.nth(days[0].Ordinal, days[0].Day)
	case len(days) > 0:
		return ""
	}
	var names []string
	for _, dom := range doms {
		if dom < 1 {
			return ""
		}
		names = append(names, strconv.Itoa(dom))
	}
	return t.Say("on day %s", t.List(names))
}

var ordinals = map[int]string{1: "1st", 2: "2nd", 3: "3rd", 4: "4th", 5: "5th", -1: "last"}

func (t Tongue) nth(n int, day time.Weekday) string {
	name, known := ordinals[n]
	if !known {
		return ""
	}
	return t.Say("on the " + name + " " + day.String())
}
