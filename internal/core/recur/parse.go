package recur

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// PartError is a rule that the standard forbids, with the part that is wrong.
type PartError struct {
	Part string
	What say.What
}

func (e *PartError) Error() string { return e.Part + ": " + e.What.Error() }

func wrong(part string, what say.What) error { return &PartError{part, what} }

// MaxInterval and MaxCount are what a rule can ask for.
const (
	MaxInterval = 1_000_000
	MaxCount    = 1_000_000
)

var frequencies = map[string]Frequency{"SECONDLY": Secondly, "MINUTELY": Minutely, "HOURLY": Hourly, "DAILY": Daily,
	"WEEKLY": Weekly, "MONTHLY": Monthly, "YEARLY": Yearly}

var weekdayNames = map[string]time.Weekday{"SU": time.Sunday, "MO": time.Monday, "TU": time.Tuesday, "WE": time.Wednesday,
	"TH": time.Thursday, "FR": time.Friday, "SA": time.Saturday}

// ParseRule reads the value of an RRULE by the grammar of RFC 5545, 3.3.10, in any
// case: no white space, no sign before a count, no more digits than the grammar
// has. It refuses what the standard forbids with a *PartError.
func ParseRule(text string) (Rule, error) {
	r := Rule{Interval: 1, WeekStart: time.Monday}
	seen := map[string]bool{}
	for part := range strings.SplitSeq(text, ";") {
		name, value, found := strings.Cut(part, "=")
		name = strings.ToUpper(name)
		if !found || value == "" || strings.ContainsAny(part, " \t\r\n") {
			return Rule{}, wrong(strings.TrimSpace(name), say.It("recur.partForm"))
		}
		if seen[name] {
			return Rule{}, wrong(name, say.It("recur.partTwice"))
		}
		seen[name] = true
		if err := r.set(name, strings.ToUpper(value)); err != nil {
			return Rule{}, err
		}
	}
	return r, r.check(seen)
}

func (r *Rule) set(name, value string) (err error) {
	switch name {
	case "FREQ":
		var known bool
		if r.Freq, known = frequencies[value]; !known {
			return wrong(name, say.It("recur.frequencyNone", value))
		}
	case "INTERVAL":
		r.Interval, err = number(name, value, 1, MaxInterval)
	case "COUNT":
		r.Count, err = number(name, value, 1, MaxCount)
	case "UNTIL":
		r.Until, err = parseUntil(value)
	case "BYSECOND":
		err = list(name, value, 0, 60, false, func(n int) { r.Seconds |= 1 << n })
	case "BYMINUTE":
		err = list(name, value, 0, 59, false, func(n int) { r.Minutes |= 1 << n })
	case "BYHOUR":
		err = list(name, value, 0, 23, false, func(n int) { r.Hours |= 1 << n })
	case "BYMONTH":
		err = list(name, value, 1, 12, false, func(n int) { r.Months |= 1 << n })
	case "BYMONTHDAY":
		err = list(name, value, 1, 31, true, r.MonthDays.add)
	case "BYYEARDAY":
		err = list(name, value, 1, 366, true, r.YearDays.add)
	case "BYWEEKNO":
		err = list(name, value, 1, 53, true, r.WeekNos.add)
	case "BYSETPOS":
		err = list(name, value, 1, 366, true, r.SetPos.add)
	case "BYDAY":
		err = r.parseDays(value)
	case "WKST":
		var known bool
		if r.WeekStart, known = weekdayNames[value]; !known {
			return wrong(name, say.It("recur.weekStart", value))
		}
	default:
		return wrong(name, say.It("recur.partNone"))
	}
	return err
}

func number(name, value string, least, most int) (int, error) {
	n, err := strconv.Atoi(value)
	if err != nil || !digits(value, 19) || n < least || n > most {
		return 0, wrong(name, say.It("recur.number", value, least, most))
	}
	return n, nil
}

// digits tells whether a text is 1 to so many digits.
func digits(text string, most int) bool {
	return text != "" && len(text) <= most && strings.Trim(text, "0123456789") == ""
}

// signedNumber reads [plus / minus] 1*nDIGIT, n as many digits as the largest number
// has.
func signedNumber(text string, most int) (n, size int, ok bool) {
	bare := strings.TrimPrefix(strings.TrimPrefix(text, "+"), "-")
	if len(text)-len(bare) > 1 || !digits(bare, len(strconv.Itoa(most))) {
		return 0, 0, false
	}
	size, _ = strconv.Atoi(bare)
	if text[0] == '-' {
		return -size, size, true
	}
	return size, size, true
}

func list(name, value string, least, most int, signed bool, add func(int)) error {
	for item := range strings.SplitSeq(value, ",") {
		n, size, ok := signedNumber(item, most)
		if !ok || size < least || size > most || !signed && strings.ContainsAny(item, "+-") {
			what := say.It("recur.listed", item, least, most)
			if signed {
				what.Code = "recur.listedSigned"
			}
			return wrong(name, what)
		}
		add(n)
	}
	return nil
}

func (r *Rule) parseDays(value string) error {
	for item := range strings.SplitSeq(value, ",") {
		if len(item) < 2 {
			return wrong("BYDAY", say.It("recur.weekday", say.Quoted(item)))
		}
		day, known := weekdayNames[item[len(item)-2:]]
		ordinal := 0
		if nth := item[:len(item)-2]; nth != "" {
			n, size, ok := signedNumber(nth, maxOrdinal)
			if !ok || size == 0 || size > maxOrdinal {
				return wrong("BYDAY", say.It("recur.ordinal", item))
			}
			ordinal = n
		}
		if !known {
			return wrong("BYDAY", say.It("recur.weekday", say.Quoted(item)))
		}
		r.Days.add(ordinal, day)
	}
	return nil
}

// check refuses what the standard forbids of parts together.
func (r Rule) check(seen map[string]bool) error {
	switch {
	case !seen["FREQ"]:
		return wrong("FREQ", say.It("recur.noFrequency"))
	case seen["UNTIL"] && seen["COUNT"]:
		return wrong("COUNT", say.It("recur.twoEnds"))
	case seen["BYWEEKNO"] && r.Freq != Yearly:
		return wrong("BYWEEKNO", say.It("recur.yearlyOnly"))
	case seen["BYYEARDAY"] && (r.Freq == Daily || r.Freq == Weekly || r.Freq == Monthly):
		return wrong("BYYEARDAY", say.It("recur.notYearDay"))
	case seen["BYMONTHDAY"] && r.Freq == Weekly:
		return wrong("BYMONTHDAY", say.It("recur.notMonthDay"))
	case r.Days.ordinals() && r.Freq != Monthly && r.Freq != Yearly:
		return wrong("BYDAY", say.It("recur.ordinalFrequency"))
	case r.Days.ordinals() && seen["BYWEEKNO"]:
		return wrong("BYDAY", say.It("recur.ordinalWeek"))
	case seen["BYSETPOS"] && !seen["BYSECOND"] && !seen["BYMINUTE"] && !seen["BYHOUR"] && !seen["BYDAY"] && !seen["BYMONTHDAY"] &&
		!seen["BYYEARDAY"] && !seen["BYWEEKNO"] && !seen["BYMONTH"]:
		return wrong("BYSETPOS", say.It("recur.setPos"))
	}
	return nil
}

// Fits refuses a rule whose parts do not go with a start of that kind.
func (r Rule) Fits(kind Kind) error {
	u := r.Until
	switch {
	case u.Set && u.AllDay != (kind == AllDay):
		return wrong("UNTIL", say.It("recur.untilDate"))
	case u.Set && kind == Zoned && !u.UTC:
		return wrong("UNTIL", say.It("recur.untilUTC"))
	case u.Set && kind == Floating && u.UTC:
		return wrong("UNTIL", say.It("recur.untilLocal"))
	case kind == AllDay && r.Freq < Daily:
		return wrong("FREQ", say.It("recur.wholeDays"))
	}
	return nil
}

func parseUntil(value string) (Until, error) {
	m, kind, utc, err := ParseMoment(value)
	if err != nil {
		return Until{}, wrong("UNTIL", errMoment)
	}
	return Until{Set: true, UTC: utc, AllDay: kind == AllDay, Moment: m}, nil
}

var errMoment = say.It("recur.moment")

// ParseMoment reads a DATE or DATE-TIME (RFC 5545, 3.3.4 and 3.3.5); utc is true
// for one that ends in Z, whose kind is Zoned. The second 60 is read as 59, as
// 3.3.5 asks of who knows no leap seconds.
func ParseMoment(text string) (m Moment, kind Kind, utc bool, err error) {
	day, clock, timed := strings.Cut(text, "T")
	if timed {
		clock, utc = strings.CutSuffix(clock, "Z")
	}
	switch {
	case utc:
		kind = Zoned
	case !timed:
		kind, clock = AllDay, "000000"
	}
	t, err := time.Parse("20060102", day)
	if err != nil || !digits(day, 8) || !digits(clock, 6) || len(clock) != 6 {
		return Moment{}, 0, false, fmt.Errorf("%q is %w", text, errMoment)
	}
	number := func(text string) int32 { n, _ := strconv.Atoi(text); return int32(n) }
	hour, minute, second := number(clock[:2]), number(clock[2:4]), number(clock[4:])
	if hour > 23 || minute > 59 || second > 60 {
		return Moment{}, 0, false, fmt.Errorf("%q is %w", text, errMoment)
	}
	y, mo, d := t.Date()
	return Moment{when.DayOf(y, mo, d), hour*3600 + minute*60 + min(second, 59)}, kind, utc, nil
}
