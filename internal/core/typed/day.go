package typed

import (
	"slices"
	"strings"
	"time"

	"jembro/internal/core/when"
)

// day reads one day.
func (r Reader) day(all []token) (when.Day, *Error) {
	none := &Error{Kind: NotADay}
	for len(all) > 0 && (isSign(all[len(all)-1], ",") || len(all) > 1 && slices.Contains(r.Words.At, all[len(all)-1].text)) {
		all = all[:len(all)-1]
	}
	if len(all) == 0 {
		return 0, none
	}
	if day, ok := r.byWord(all); ok {
		return bounded(day)
	}
	if day, ok := r.byCount(all); ok {
		return bounded(day)
	}
	if day, ok := r.byWeek(all); ok {
		return bounded(day)
	}
	weekday, rest, named := r.weekday(all)
	if named && len(rest) == 0 { // the next such day, today included
		return r.Today + when.Day((int(weekday)-int(r.Today.Weekday())+7)%7), nil
	}
	p, ok := r.parts(rest)
	if !ok {
		return 0, none
	}
	return r.settle(p, weekday, named)
}

func bounded(day when.Day) (when.Day, *Error) {
	if y, _, _ := day.Date(); y < when.FirstYear || y > when.LastYear {
		return 0, &Error{Kind: OutOfBounds}
	}
	return day, nil
}

// byWord reads "today", "tomorrow", "this friday" (of the week that runs, which begins
// on a Monday: ISO 8601) and "next tue" (of the week after it).
func (r Reader) byWord(all []token) (when.Day, bool) {
	for _, w := range []struct {
		words []string
		by    when.Day
	}{{r.Words.Today, 0}, {r.Words.Tomorrow, 1}, {r.Words.AfterTomorrow, 2}, {r.Words.Yesterday, -1}} {
		for _, phrase := range w.words {
			if sameTokens(all, tokens(phrase)) {
				return r.Today + w.by, true
			}
		}
	}
	if len(all) < 2 {
		return 0, false
	}
	next := slices.Contains(r.Words.Next, all[0].text)
	if !next && !slices.Contains(r.Words.This, all[0].text) {
		return 0, false
	}
	if next && len(all) == 2 && slices.Contains(r.Words.Weeks, all[1].text) {
		return r.Today + 7, true
	}
	weekday, rest, ok := r.weekday(all[1:])
	if !ok || len(rest) > 0 {
		return 0, false
	}
	day := monday(r.Today) + when.Day((int(weekday)+6)%7)
	if next {
		day += 7
	}
	return day, true
}

func monday(d when.Day) when.Day { return d - when.Day((int(d.Weekday())+6)%7) }

// byCount reads "in 2 weeks", "+7" and "in a month".
func (r Reader) byCount(all []token) (when.Day, bool) {
	plus := isSign(all[0], "+")
	if !plus && !slices.Contains(r.Words.In, all[0].text) {
		return 0, false
	}
	count, half, rest, ok := r.amount(all[1:])
	if !ok || half || count > 10_000 {
		return 0, false
	}
	if len(rest) == 0 && plus {
		return r.Today + when.Day(count), true
	}
	if len(rest) != 1 {
		return 0, false
	}
	y, m, d := r.Today.Date()
	switch unit := rest[0].text; {
	case slices.Contains(r.Words.Days, unit):
		return r.Today + when.Day(count), true
	case slices.Contains(r.Words.Weeks, unit):
		return r.Today + when.Day(7*count), true
	case slices.Contains(r.Words.MonthsOf, unit):
		return lastThatIs(y, int(m)+count, d), true
	case slices.Contains(r.Words.Years, unit):
		return lastThatIs(y+count, int(m), d), true
	}
	return 0, false
}

// lastThatIs is a day of a month, or the last one that the month has.
func lastThatIs(y, m, d int) when.Day {
	last := when.DayOf(y, time.Month(m+1), 1) - 1
	return min(when.DayOf(y, time.Month(m), 1)+when.Day(d-1), last)
}

// byWeek reads "week 12", "w12" and "2027-W12" (ISO 8601): its Monday. Without a year
// it is the nearest such week.
func (r Reader) byWeek(all []token) (when.Day, bool) {
	year, n := 0, ""
	switch {
	case len(all) == 2 && (all[0].text == "w" || slices.Contains(r.Words.Weeks, all[0].text)) && all[1].number:
		n = all[1].text
	case len(all) == 3 && (all[0].text == "w" || slices.Contains(r.Words.Weeks, all[0].text)) && all[1].number && all[2].number && len(all[2].text) == 4:
		n, year = all[1].text, number(all[2].text)
	case len(all) == 4 && all[0].number && len(all[0].text) == 4 && isSign(all[1], "-") && all[2].text == "w" && all[3].number:
		year, n = number(all[0].text), all[3].text
	}
	if n == "" || len(n) > 2 || number(n) < 1 || number(n) > 53 {
		return 0, false
	}
	first := func(year int) (when.Day, bool) {
		day := monday(when.DayOf(year, 1, 4)) + when.Day(7*(number(n)-1))
		y, w := day.Week()
		return day, y == year && w == number(n)
	}
	if year != 0 {
		return first(year)
	}
	return r.nearest(first)
}

// nearest is the day of this year, the one before or the one after that lies next to
// today.
func (r Reader) nearest(in func(year int) (when.Day, bool)) (best when.Day, ok bool) {
	year, _, _ := r.Today.Date()
	for _, y := range []int{year, year + 1, year - 1} {
		day, is := in(y)
		if is && (!ok || away(day, r.Today) < away(best, r.Today)) {
			best, ok = day, true
		}
	}
	return best, ok
}

func away(a, b when.Day) when.Day { return max(a-b, b-a) }

// weekday reads the name of a weekday at the beginning, cut short to no less than two
// letters.
func (r Reader) weekday(all []token) (time.Weekday, []token, bool) {
	if len(all) == 0 || all[0].number || len(all[0].text) < 2 {
		return 0, all, false
	}
	for i, name := range r.Words.Weekdays {
		if strings.HasPrefix(name, all[0].text) {
			rest := all[1:]
			for len(rest) > 0 && isSign(rest[0], ",.") {
				rest = rest[1:]
			}
			return time.Weekday(i), rest, true
		}
	}
	return 0, all, false
}

// month reads the name of a month, cut short to no less than three letters.
func (r Reader) month(t token) (int, bool) {
	if t.number || len(t.text) < 3 {
		return 0, false
	}
	for i, name := range r.Words.Months {
		if strings.HasPrefix(name, t.text) || t.text == "sept" && i == 8 {
			return i + 1, true
		}
	}
	return 0, false
}

// parts are those of a day; 0 where one is not said.
type parts struct{ y, m, d int }

// parts reads a day by its parts: "2026-12-03", "3.12.", "3/12", "3 Dec", "Dec 3, 2026",
// "3rd of December", "3".
func (r Reader) parts(all []token) (parts, bool) {
	if p, ok := r.numeric(all); ok {
		return p, true
	}
	return r.named(all)
}

// numeric reads days in numbers. With points the day comes first, as everywhere where
// points are used; four digits at first are the year (ISO 8601).
func (r Reader) numeric(all []token) (parts, bool) {
	var n []string
	sign := ""
	for i, t := range all {
		switch {
		case t.number && (i == 0 || !all[i-1].number):
			n = append(n, t.text)
		case !t.number && isSign(t, "./-") && i > 0 && all[i-1].number && (sign == "" || sign == t.text):
			sign = t.text
		default:
			return parts{}, false
		}
	}
	if len(all) > 0 && sign != "." && !all[len(all)-1].number { // only a point may stand at the end
		return parts{}, false
	}
	switch {
	case len(n) == 1 && len(n[0]) == 8 && sign == "":
		return parts{number(n[0][:4]), number(n[0][4:6]), number(n[0][6:])}, true
	case len(n) == 1 && len(n[0]) <= 2:
		return parts{d: number(n[0])}, number(n[0]) >= 1
	case len(n) == 3 && len(n[0]) == 4:
		return r.checked(n[0], n[1], n[2])
	case len(n) == 2 && sign == ".":
		return r.checked("", n[1], n[0])
	case len(n) == 3 && sign == ".":
		return r.checked(n[2], n[1], n[0])
	case len(n) == 3 && r.Order == YearFirst && len(n[2]) != 4:
		return r.checked(n[0], n[1], n[2])
	case len(n) == 2 || len(n) == 3:
		day, month := n[0], n[1]
		if r.Order == MonthFirst || r.Order == YearFirst {
			day, month = month, day
		}
		if number(month) > 12 && number(day) <= 12 { // it can only be the other way round
			day, month = month, day
		}
		year := ""
		if len(n) == 3 {
			year = n[2]
		}
		return r.checked(year, month, day)
	}
	return parts{}, false
}

func (r Reader) checked(y, m, d string) (parts, bool) {
	p := parts{m: number(m), d: number(d)}
	ok := len(m) <= 2 && len(d) <= 2 && p.m >= 1 && p.d >= 1
	if y != "" {
		p.y = yearOf(y)
		ok = ok && (len(y) == 2 || len(y) == 4)
	}
	return p, ok
}

// yearOf is a year; two digits are one of this century.
func yearOf(text string) int {
	if len(text) == 2 {
		return 2000 + number(text)
	}
	return number(text)
}

// named reads days with the name of the month.
func (r Reader) named(all []token) (p parts, ok bool) {
	ordinal := false
	for i, t := range all {
		month, isMonth := r.month(t)
		switch {
		case isMonth && p.m == 0:
			p.m = month
		case t.number && p.d == 0 && len(t.text) <= 2 && (i == 0 || !isSign(all[i-1], "'")):
			p.d = number(t.text)
			if p.d == 0 {
				return p, false
			}
		case t.number && p.y == 0 && (len(t.text) == 4 || len(t.text) == 2 && p.d != 0 && (number(t.text) > 24 || isSign(all[i-1], "'"))):
			p.y = yearOf(t.text) // what could be an hour is none
		case isSign(t, ".,'-/"):
		case slices.Contains(r.Words.Ordinal, t.text) && i > 0 && all[i-1].number:
			ordinal = true
		case slices.Contains(r.Words.Of, t.text) && p.d != 0:
		default:
			return p, false
		}
	}
	return p, p.d != 0 && (p.m != 0 || ordinal)
}

// settle finds the day. Without a year it is the one that lies nearest to today, past
// or to come: who types "3 Nov" in December is asked, not moved by a year. A weekday
// beside it says which year is meant, or that something is wrong. A day of the month
// alone is the next such day.
func (r Reader) settle(p parts, weekday time.Weekday, named bool) (when.Day, *Error) {
	if p.m > 12 || p.d > 31 {
		return 0, &Error{Kind: NoSuchDay}
	}
	if p.y != 0 && (p.y < when.FirstYear || p.y > when.LastYear) {
		return 0, &Error{Kind: OutOfBounds}
	}
	exact := func(y, m, d int) (when.Day, bool) {
		day := when.DayOf(y, time.Month(m), d)
		_, month, _ := day.Date()
		return day, int(month) == (m-1)%12+1
	}
	var day when.Day
	var ok bool
	switch {
	case p.m == 0:
		y, m, _ := r.Today.Date()
		for by := 0; by < 12 && (!ok || day < r.Today || named && day.Weekday() != weekday); by++ {
			day, ok = exact(y, int(m)+by, p.d)
		}
	case p.y != 0:
		day, ok = exact(p.y, p.m, p.d)
	default:
		day, ok = r.nearest(func(y int) (when.Day, bool) {
			d, is := exact(y, p.m, p.d)
			return d, is && (!named || d.Weekday() == weekday)
		})
		if !ok {
			day, ok = r.nearest(func(y int) (when.Day, bool) { return exact(y, p.m, p.d) })
		}
		if !ok && p.m == 2 && p.d == 29 { // the next leap year
			for y, _, _ := r.Today.Date(); !ok; y++ {
				day, ok = exact(y, 2, 29)
			}
		}
	}
	switch {
	case !ok:
		return 0, &Error{Kind: NoSuchDay}
	case named && day.Weekday() != weekday:
		return 0, &Error{Kind: OtherDay, Day: day, Weekday: weekday}
	}
	return day, nil
}

// Month reads what is typed to jump to: a month like "mar 2027" or "march", whose first
// day it gives, a year, or any day.
func (r Reader) Month(text string) (when.Day, *Error) {
	all := tokens(text)
	if len(all) == 1 && all[0].number && len(all[0].text) == 4 {
		return bounded(when.DayOf(number(all[0].text), 1, 1))
	}
	if len(all) == 1 || len(all) == 2 && all[1].number && len(all[1].text) == 4 {
		if m, ok := r.month(all[0]); ok && len(all) == 2 {
			return bounded(when.DayOf(number(all[1].text), time.Month(m), 1))
		} else if ok {
			day, _ := r.nearest(func(y int) (when.Day, bool) { return when.DayOf(y, time.Month(m), 1), true })
			return day, nil
		}
	}
	return r.day(all)
}
