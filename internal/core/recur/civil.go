package recur

import (
	"time"

	"jembro/internal/core/when"
)

// civil is the year, month and day of month of a day: the shifted-year method,
// all in whole numbers.
func civil(day when.Day) (year int, month, dom int) {
	z := int(day) + 719468 // days since 1 March of the year 0
	era := floorDiv(z, 146097)
	doe := z - era*146097
	yoe := (doe - doe/1460 + doe/36524 - doe/146096) / 365
	doy := doe - (365*yoe + yoe/4 - yoe/100)
	mp := (5*doy + 2) / 153
	dom = doy - (153*mp+2)/5 + 1
	month = mp + 3
	if month > 12 {
		month -= 12
	}
	year = yoe + era*400
	if month <= 2 {
		year++
	}
	return year, month, dom
}

// dayOf is the day of a date.
func dayOf(year, month, dom int) when.Day {
	if month <= 2 {
		year--
	}
	era := floorDiv(year, 400)
	yoe := year - era*400
	mp := (month + 9) % 12
	doy := (153*mp+2)/5 + dom - 1
	doe := yoe*365 + yoe/4 - yoe/100 + doy
	return when.Day(era*146097 + doe - 719468)
}

func floorDiv(a, b int) int {
	q := a / b
	if a%b < 0 {
		q--
	}
	return q
}

func weekday(day when.Day) time.Weekday {
	w := (int(day) + 4) % 7 // 1 January 1970 was a Thursday
	if w < 0 {
		w += 7
	}
	return time.Weekday(w)
}

func leap(year int) bool { return year%4 == 0 && (year%100 != 0 || year%400 == 0) }

func yearLength(year int) int {
	if leap(year) {
		return 366
	}
	return 365
}

var monthLengths = [13]int{0, 31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31}

func monthLength(year, month int) int {
	if month == 2 && leap(year) {
		return 29
	}
	return monthLengths[month]
}

// weekOf is the first day of the week of a day.
func weekOf(day when.Day, start time.Weekday) when.Day {
	return day - when.Day((int(weekday(day))-int(start)+7)%7)
}

// firstWeek is the first day of week 1 of a year: the first week with at least
// four days in it (RFC 5545, 3.3.10, BYWEEKNO).
func firstWeek(year int, start time.Weekday) when.Day {
	return weekOf(dayOf(year, 1, 4), start)
}
