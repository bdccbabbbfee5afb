package recur

import (
	"regexp"
	"strconv"
	"strings"
	"time"

	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// ErrWords: the words are no rule that is known.
var ErrWords = say.It("recur.words")

// ParseWords reads a rule as a person says it, and its end; a day without a year
// is the first one on or after start. The value of an RRULE is taken too. It
// fails with ErrWords, or with a *PartError for an RRULE.
func ParseWords(text string, start when.Day) (Rule, End, error) {
	text = strings.TrimSpace(text)
	if rule := strings.TrimPrefix(strings.ToUpper(text), "RRULE:"); strings.Contains(rule, "FREQ=") {
		return parseRRule(rule)
	}
	body := strings.Join(strings.Fields(strings.ToLower(strings.TrimRight(text, "."))), " ")
	body, end, err := cutEnd(body, start)
	if err != nil {
		return Rule{}, End{}, err
	}
	for _, say := range sayings {
		if found := say.form.FindStringSubmatch(body); found != nil {
			if parts, ok := say.parts(found); ok {
				rule, err := ParseRule(parts)
				return rule, end, err
			}
		}
	}
	return Rule{}, End{}, ErrWords
}

// parseRRule takes the end out of a rule: a date in UTC counts as its day.
func parseRRule(text string) (Rule, End, error) {
	rule, err := ParseRule(text)
	if err != nil {
		return Rule{}, End{}, err
	}
	end := End{Count: rule.Count}
	if rule.Until.Set {
		end.Until = rule.Until.Moment.Day
	}
	rule.Count, rule.Until = 0, Until{}
	return rule, end, nil
}

var (
	untilForm = regexp.MustCompile(`^(.+?),? (?:until|till) (.+)$`)
	timesForm = regexp.MustCompile(`^(.+?),? (?:for )?(\w+) (?:times|dates)$`)
)

func cutEnd(body string, start when.Day) (string, End, error) {
	if found := untilForm.FindStringSubmatch(body); found != nil {
		day, ok := parseDay(found[2], start)
		if !ok {
			return "", End{}, ErrWords
		}
		return found[1], End{Until: day}, nil
	}
	if found := timesForm.FindStringSubmatch(body); found != nil {
		n, ok := parseNumber(found[2])
		if !ok {
			return "", End{}, ErrWords
		}
		return found[1], End{Count: n}, nil
	}
	if rest, once := strings.CutSuffix(body, ", once"); once {
		return rest, End{Count: 1}, nil
	}
	return body, End{}, nil
}

func parseDay(text string, start when.Day) (when.Day, bool) {
	if day, err := when.ParseDay(text); err == nil {
		return day, true
	}
	for _, layout := range []string{"2 January 2006", "2 Jan 2006"} {
		if t, err := time.Parse(layout, title(text)); err == nil {
			return when.DayOf(t.Date()), true
		}
	}
	year, _, _ := start.Date()
	for _, layout := range []string{"2 January", "2 Jan"} {
		if t, err := time.Parse(layout+" 2006", title(text)+" "+strconv.Itoa(year)); err == nil {
			day := when.DayOf(t.Date())
			if day < start {
				day = when.DayOf(year+1, t.Month(), t.Day())
			}
			return day, true
		}
	}
	return 0, false
}

// title writes the month as package time reads it.
func title(text string) string {
	words := strings.Fields(text)
	for i, w := range words {
		words[i] = strings.ToUpper(w[:1]) + w[1:]
	}
	return strings.Join(words, " ")
}

var numberWords = []string{"zero", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"}
var ordinalWords = map[string]int{"first": 1, "second": 2, "other": 2, "third": 3, "fourth": 4, "fifth": 5, "sixth": 6, "last": -1}

func parseNumber(text string) (int, bool) {
	for n, word := range numberWords {
		if word == text {
			return n, n > 0
		}
	}
	n, err := strconv.Atoi(text)
	return n, err == nil && n > 0
}

// parseNth reads 2, two, 2nd, second, other, last, "2nd last".
func parseNth(text string) (int, bool) {
	if text == "" {
		return 1, true
	}
	if before, is := strings.CutSuffix(text, " last"); is {
		n, ok := parseNth(before)
		return -n, ok && n > 0
	}
	if n, ok := ordinalWords[text]; ok {
		return n, true
	}
	if n, ok := parseNumber(text); ok {
		return n, true
	}
	if len(text) > 2 && strings.Contains("st nd rd th", text[len(text)-2:]) {
		return parseNumber(text[:len(text)-2])
	}
	return 0, false
}

func parseWeekday(text string) (string, bool) {
	text = strings.TrimSuffix(text, "s")
	for day := time.Sunday; day <= time.Saturday; day++ {
		name := strings.ToLower(day.String())
		if text == name || len(text) >= 2 && len(text) <= 5 && strings.HasPrefix(name, text) {
			return weekdayCodes[day], true
		}
	}
	return "", false
}

// split is "monday, wednesday and friday" as its parts.
func split(text string) []string {
	return strings.FieldsFunc(strings.ReplaceAll(text, " and ", ","), func(r rune) bool { return r == ',' })
}

// listed reads every part of a list, or says that it cannot.
func parseList[T any](text string, read func(string) (T, bool)) (out []T, ok bool) {
	for _, part := range split(text) {
		v, known := read(strings.TrimPrefix(strings.TrimSpace(part), "the "))
		if !known {
			return nil, false
		}
		out = append(out, v)
	}
	return out, len(out) > 0
}

const working = "MO,TU,WE,TH,FR"

// sayings are the forms that are understood, the narrow ones first.
var sayings = []struct {
	form  *regexp.Regexp
	parts func(found []string) (string, bool)
}{
	{regexp.MustCompile(`^(?:every|each|on every) (?:working day|workday|weekday)s?$`),
		func([]string) (string, bool) { return "FREQ=WEEKLY;BYDAY=" + working, true }},
	{regexp.MustCompile(`^(?:daily|(?:every|each) (?:(.+) )?days?)$`),
		func(f []string) (string, bool) { return interval("DAILY", f[1]) }},
	{regexp.MustCompile(`^(?:weekly|every (?:(.+) )?weeks?)(?: on (.+))?$`), func(f []string) (string, bool) {
		parts, ok := interval("WEEKLY", f[1])
		return with(parts, ok, f[2])
	}},
	{regexp.MustCompile(`^(?:on )?(?:monthly on )?the (.+?) (working day|day)s?(?: of (?:the|a|each|every) (?:(.+) )?months?)?$`), func(f []string) (string, bool) {
		parts, ok := interval("MONTHLY", f[3])
		ordinals, known := parseList(f[1], parseNth)
		if !ok || !known {
			return "", false
		}
		if f[2] == "day" {
			return parts + ";BYMONTHDAY=" + listText(ordinals), true
		}
		return parts + ";BYDAY=" + working + ";BYSETPOS=" + listText(ordinals), true
	}},
	{regexp.MustCompile(`^(?:on )?(?:monthly on )?the (.+?) (\w+?day)s? of (?:the|a|each|every) (?:(.+) )?months?$`), func(f []string) (string, bool) {
		parts, ok := interval("MONTHLY", f[3])
		return onNth(parts, ok, f[1], f[2])
	}},
	{regexp.MustCompile(`^(?:on )?the (.+?) (\w+?day)s? of (\w+)$`), func(f []string) (string, bool) {
		month, err := time.Parse("January", title(f[3]))
		return onNth("FREQ=YEARLY;BYMONTH="+strconv.Itoa(int(month.Month())), err == nil, f[1], f[2])
	}},
	{regexp.MustCompile(`^(?:on )?(?:monthly on )?the (.+?) of (?:the|a|each|every) (?:(.+) )?months?$`), func(f []string) (string, bool) {
		parts, ok := interval("MONTHLY", f[2])
		days, known := parseList(f[1], parseDom)
		return parts + ";BYMONTHDAY=" + listText(days), ok && known
	}},
	{regexp.MustCompile(`^(?:yearly|every (?:(.+) )?years?)(?: on)? (\d+ \w+)$`), func(f []string) (string, bool) {
		parts, ok := interval("YEARLY", f[1])
		return onDate(parts, ok, f[2])
	}},
	{regexp.MustCompile(`^every (\d+ [a-z]+)$`), func(f []string) (string, bool) { return onDate("FREQ=YEARLY", true, f[1]) }},
	{regexp.MustCompile(`^every (\w+) (\w+days?)$`), func(f []string) (string, bool) {
		parts, ok := interval("WEEKLY", f[1])
		return with(parts, ok, f[2])
	}},
	{regexp.MustCompile(`^(?:every|on) (.+)$`), func(f []string) (string, bool) { return with("FREQ=WEEKLY", true, f[1]) }},
}

func interval(freq, text string) (string, bool) {
	n, ok := parseNth(text)
	if n == 1 {
		return "FREQ=" + freq, ok
	}
	return "FREQ=" + freq + ";INTERVAL=" + strconv.Itoa(n), ok && n > 0
}

func with(parts string, ok bool, days string) (string, bool) {
	if days == "" || !ok {
		return parts, ok
	}
	codes, known := parseList(days, parseWeekday)
	return parts + ";BYDAY=" + strings.Join(codes, ","), known
}

func onNth(parts string, ok bool, ordinals, day string) (string, bool) {
	numbers, known := parseList(ordinals, parseNth)
	code, isDay := parseWeekday(day)
	if !ok || !known || !isDay {
		return "", false
	}
	return parts + ";BYDAY=" + strings.Join(each(numbers, func(n int) string { return strconv.Itoa(n) + code }), ","), true
}

func parseDom(text string) (int, bool) {
	return parseNth(strings.TrimSuffix(text, " day"))
}

func onDate(parts string, ok bool, date string) (string, bool) {
	for _, layout := range []string{"2 January 2006", "2 Jan 2006"} {
		if t, err := time.Parse(layout, title(date)+" 2024"); err == nil { // a leap year has every date
			return parts + ";BYMONTH=" + strconv.Itoa(int(t.Month())) + ";BYMONTHDAY=" + strconv.Itoa(t.Day()), ok
		}
	}
	return "", false
}
