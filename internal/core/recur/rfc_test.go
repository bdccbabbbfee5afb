package recur_test

import (
	_ "embed"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/recur"
)

var newYork = "America/New_York"

func ask(t testing.TB, rule, start string, zone *string, limit int) recur.Answer {
	t.Helper()
	a, err := recur.Occurrences(recur.Question{RRule: rule, DTStart: start, TZID: zone, Limit: limit})
	require.NoError(t, err, rule)
	return a
}

//go:embed testdata/rfc5545-3.8.5.3.txt
var examples string

// example is one of RFC 5545, 3.8.5.3: a start, the rules that the text calls the
// same, and their dates.
type example struct {
	start, without string
	rules          []string
	dates          []said
	forever        bool
}

// said is a date as the text names it; after is true where "..." stands before it.
type said struct {
	date  string
	after bool
}

var (
	exampleLine = regexp.MustCompile(`^       (DTSTART|EXDATE|RRULE)[^:]*:(.*)$`)
	yearOf      = regexp.MustCompile(`^\((\d{4})(?: 9:00 AM)? E[SD]T\)`)
	dayOf       = regexp.MustCompile(`^\((\w+) (\d+), (\d{4}) E[SD]T\)`)
	token       = regexp.MustCompile(`^(?:(\.\.\.)|(\d+:\d\d)|(\d+)-(\d+)|(\d+)|([A-Z][a-z]+)|[ ,;])`)
)

func readExamples(t *testing.T) (out []example) {
	lines := strings.Split(examples, "\n")
	for i := 0; i < len(lines); i++ {
		found := exampleLine.FindStringSubmatch(lines[i])
		if found == nil {
			if at := strings.Index(lines[i], "==>"); at >= 0 {
				text := lines[i][at+3:]
				for ; i+1 < len(lines) && strings.HasPrefix(lines[i+1], "        ") && !strings.Contains(lines[i+1], "Note:"); i++ {
					text += " " + strings.TrimSpace(lines[i+1])
				}
				out[len(out)-1].read(t, text)
			}
			continue
		}
		for i+1 < len(lines) && strings.HasPrefix(lines[i+1], "        ") && !strings.Contains(lines[i+1], "==>") {
			i++
			found[2] += strings.TrimSpace(lines[i])
		}
		switch found[1] {
		case "DTSTART":
			out = append(out, example{start: found[2]})
		case "EXDATE":
			out[len(out)-1].without = found[2]
		case "RRULE":
			out[len(out)-1].rules = append(out[len(out)-1].rules, found[2])
		}
	}
	return out
}

func (e *example) read(t *testing.T, text string) {
	var year, day int
	var month time.Month
	after := false
	add := func(clock string) {
		e.dates = append(e.dates, said{fmt.Sprintf("%04d%02d%02dT%s00", year, month, day, clock), after})
		after = false
	}
	for text = strings.TrimSpace(text); text != ""; text = strings.TrimSpace(text) {
		var length int
		if found := yearOf.FindStringSubmatch(text); found != nil {
			length = len(found[0])
			year, _ = strconv.Atoi(found[1])
		} else if found := dayOf.FindStringSubmatch(text); found != nil {
			length = len(found[0])
			at, err := time.Parse("January 2 2006", found[1]+" "+found[2]+" "+found[3])
			require.NoError(t, err)
			year, month, day = at.Date()
		} else if found := token.FindStringSubmatch(text); assert.NotNil(t, found, "the text %q", text) {
			length = len(found[0])
			switch {
			case found[1] != "":
				after = true
			case found[2] != "":
				add(fmt.Sprintf("%04s", strings.Replace(found[2], ":", "", 1)))
			case found[3] != "":
				last, _ := strconv.Atoi(found[4])
				for day, _ = strconv.Atoi(found[3]); day <= last; day++ {
					add("0900")
				}
			case found[5] != "":
				day, _ = strconv.Atoi(found[5])
				add("0900")
			case found[6] != "":
				at, err := time.Parse("January", found[6])
				require.NoError(t, err)
				month = at.Month()
			}
		} else {
			t.FailNow()
		}
		text = text[length:]
	}
	e.forever = after
}

// TestExamplesOfTheRFC: all of RFC 5545, 3.8.5.3, from its text. One is put right:
// "every 3 hours from 9:00 AM to 5:00 PM" has an UNTIL in UTC that is 13:00 in New
// York, and names 15:00 (reported as an erratum of the RFC; its number is not at
// hand).
func TestExamplesOfTheRFC(t *testing.T) {
	all := readExamples(t)
	assert.Equal(t, 39, len(all))
	for _, e := range all {
		require.NotEmpty(t, e.dates, e.rules)
		for _, rule := range e.rules {
			rule = strings.Replace(rule, "UNTIL=19970902T170000Z", "UNTIL=19970902T210000Z", 1)
			t.Run(rule, func(t *testing.T) {
				q := recur.Question{RRule: rule, DTStart: e.start, TZID: &newYork, Limit: 400}
				if e.without != "" {
					q.EXDates = []string{e.without}
				}
				a, err := recur.Occurrences(q)
				require.NoError(t, err)
				assert.Equal(t, !e.forever, a.Complete)
				rest := a.Instances
				for _, d := range e.dates {
					at := slices.Index(rest, d.date)
					require.GreaterOrEqual(t, at, 0, "%s is not there", d.date)
					if !d.after {
						require.Zero(t, at, "%v stand before %s", rest[:at], d.date)
					}
					rest = rest[at+1:]
				}
				if !e.forever {
					assert.Empty(t, rest)
				}
			})
		}
	}
}

// TestWhereLibrariesPartFromTheRFC: the dates follow from the text of 3.3.10.
func TestWhereLibrariesPartFromTheRFC(t *testing.T) {
	cases := []struct {
		name, rule, start string
		limit             int
		dates             string
	}{
		{"YEARLY with BYMONTHDAY alone is every month", "FREQ=YEARLY;BYMONTHDAY=5", "20260105", 4, "20260105 20260205 20260305 20260405"},
		{"BYWEEKNO without a day is the weekday of the start", "FREQ=YEARLY;BYWEEKNO=20", "20260513", 3, "20260513 20270519 20280517"},
		{"week 1 begins in the year before", "FREQ=YEARLY;BYWEEKNO=1;BYDAY=MO", "20180101", 4, "20180101 20181231 20191230 20210104"},
		{"week 53 ends in the year after", "FREQ=YEARLY;BYWEEKNO=53;BYDAY=SU", "20200101", 2, "20210103 20270103"},
		{"the last week, counted from the end", "FREQ=YEARLY;BYWEEKNO=-1;BYDAY=FR", "20200101", 3, "20210101 20211231 20221230"},
		{"every other year of weeks", "FREQ=YEARLY;INTERVAL=2;BYWEEKNO=1;BYDAY=MO", "20180101", 3, "20180101 20191230 20220103"},
		{"the last day of the month under DAILY", "FREQ=DAILY;BYMONTHDAY=-1", "20260101", 3, "20260131 20260228 20260331"},
		{"the last day of the year under HOURLY", "FREQ=HOURLY;INTERVAL=24;BYYEARDAY=-1", "20260101T100000", 2, "20261231T100000 20271231T100000"},
		{"BYYEARDAY with BYMONTH is both", "FREQ=YEARLY;BYYEARDAY=1,40,60;BYMONTH=2", "20260101", 2, "20260209 20270209"},
		{"BYYEARDAY with BYMONTHDAY is both", "FREQ=YEARLY;BYYEARDAY=32,60;BYMONTHDAY=1", "20260101", 3, "20260201 20260301 20270201"},
		{"BYSETPOS counts the whole first week", "FREQ=WEEKLY;BYDAY=MO,WE,FR;BYSETPOS=1", "20260107", 2, "20260112 20260119"},
		{"BYSETPOS with several times a day", "FREQ=MONTHLY;BYDAY=MO;BYHOUR=9,15;BYSETPOS=2,-1", "20260101T090000", 4, "20260105T150000 20260126T150000 20260202T150000 20260223T150000"},
		{"hours in any order", "FREQ=DAILY;BYHOUR=15,9;BYMINUTE=30,0", "20260101T090000", 5, "20260101T090000 20260101T093000 20260101T150000 20260101T153000 20260102T090000"},
		{"a leap day every year there is one", "FREQ=YEARLY", "20240229", 2, "20240229 20280229"},
		{"the 31st skips short months", "FREQ=MONTHLY", "20260131", 3, "20260131 20260331 20260531"},
		{"the 53rd weekday from the end", "FREQ=YEARLY;BYDAY=-53TH", "20260101", 1, "20260101"},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			assert.Equal(t, strings.Fields(c.dates), ask(t, c.rule, c.start, nil, c.limit).Instances)
		})
	}
}

// TestClocksThatChange: DESIGN.md, rule 1, and RFC 5545, 3.3.10.
func TestClocksThatChange(t *testing.T) {
	lisbon := "Europe/Lisbon"
	gap := ask(t, "FREQ=DAILY;COUNT=3", "20260328T013000", &lisbon, 9)
	assert.Equal(t, strings.Fields("20260328T013000 20260330T013000 20260331T013000"), gap.Instances, "29 March has no 1:30; it is left out and not counted")
	assert.Equal(t, "20260330T003000Z", gap.UTC[1])
	twice := ask(t, "FREQ=DAILY;COUNT=2", "20261024T013000", &lisbon, 9)
	assert.Equal(t, strings.Fields("20261024T003000Z 20261025T003000Z"), twice.UTC, "25 October has 1:30 twice: the first")
	until := ask(t, "FREQ=DAILY;UNTIL=20260701T083000Z", "20260629T093000", &lisbon, 9)
	assert.Len(t, until.Instances, 3, "an end in UTC is an instant, inclusive")
	assert.Nil(t, ask(t, "FREQ=DAILY;COUNT=1", "20260328T013000", nil, 9).UTC, "floating")
	utc := ask(t, "FREQ=DAILY;COUNT=2;BYHOUR=1", "20260328T013000Z", nil, 9)
	assert.Equal(t, strings.Fields("20260328T013000Z 20260329T013000Z"), utc.Instances)
	assert.Equal(t, utc.Instances, utc.UTC)
}

// TestAStartThatIsNoDateOfItsRule: RFC 5545, 3.3.10 has DTSTART count as the first
// occurrence, and 3.8.5.3 leaves the set undefined where the rule does not name it.
// Our choice: it is no date and does not count. Nothing that goes out begins so.
func TestAStartThatIsNoDateOfItsRule(t *testing.T) {
	assert.Equal(t, strings.Fields("20260109 20260116"), ask(t, "FREQ=WEEKLY;BYDAY=FR;COUNT=2", "20260105", nil, 9).Instances)
}

func TestDatesAddedAndLeftOut(t *testing.T) {
	a, err := recur.Occurrences(recur.Question{RRule: "FREQ=WEEKLY;COUNT=4", DTStart: "20260105", Limit: 9,
		EXDates: []string{"20260112", "20260601"}, RDates: []string{"20260114", "20260119", "20260301"}})
	require.NoError(t, err)
	assert.Equal(t, strings.Fields("20260105 20260114 20260119 20260126 20260301"), a.Instances, "dates left out have been counted")
}

func TestForbiddenRulesNameThePart(t *testing.T) {
	cases := []struct{ rule, start, part string }{
		{"FREQ=DAILY;UNTIL=20260201;COUNT=3", "20260105", "COUNT"},
		{"FREQ=MONTHLY;BYWEEKNO=20", "20260105", "BYWEEKNO"},
		{"FREQ=WEEKLY;BYDAY=1MO", "20260105", "BYDAY"},
		{"FREQ=YEARLY;BYWEEKNO=3;BYDAY=1MO", "20260105", "BYDAY"},
		{"FREQ=DAILY;INTERVAL=0", "20260105", "INTERVAL"},
		{"FREQ=DAILY;COUNT=0", "20260105", "COUNT"},
		{"FREQ=DAILY;COUNT=-1", "20260105", "COUNT"},
		{"FREQ=MONTHLY;BYMONTHDAY=32", "20260105", "BYMONTHDAY"},
		{"FREQ=MONTHLY;BYMONTHDAY=0", "20260105", "BYMONTHDAY"},
		{"FREQ=YEARLY;BYYEARDAY=367", "20260105", "BYYEARDAY"},
		{"FREQ=YEARLY;BYMONTH=13", "20260105", "BYMONTH"},
		{"FREQ=YEARLY;BYMONTH=-1", "20260105", "BYMONTH"},
		{"FREQ=DAILY;BYHOUR=24", "20260105T090000", "BYHOUR"},
		{"FREQ=DAILY;BYSETPOS=0", "20260105", "BYSETPOS"},
		{"FREQ=DAILY;BYSETPOS=1", "20260105", "BYSETPOS"},
		{"FREQ=MONTHLY;BYDAY=54MO", "20260105", "BYDAY"},
		{"FREQ=MONTHLY;BYDAY=XX", "20260105", "BYDAY"},
		{"FREQ=WEEKLY;BYMONTHDAY=3", "20260105", "BYMONTHDAY"},
		{"FREQ=DAILY;BYYEARDAY=3", "20260105", "BYYEARDAY"},
		{"FREQ=DAILY;UNTIL=20260201T000000Z", "20260105", "UNTIL"},
		{"FREQ=DAILY;UNTIL=20260201", "20260105T090000", "UNTIL"},
		{"FREQ=DAILY;UNTIL=20260201T000000Z", "20260105T090000", "UNTIL"},
		{"FREQ=DAILY;UNTIL=soon", "20260105", "UNTIL"},
		{"FREQ=HOURLY", "20260105", "FREQ"},
		{"FREQ=NEVER", "20260105", "FREQ"},
		{"COUNT=3", "20260105", "FREQ"},
		{"FREQ=DAILY;FREQ=DAILY", "20260105", "FREQ"},
		{"FREQ=DAILY;BYEASTER=1", "20260105", "BYEASTER"},
		{"FREQ=DAILY;WKST=XX", "20260105", "WKST"},
		{"FREQ=DAILY;COUNT", "20260105", "COUNT"},
		{"FREQ=DAILY;COUNT=+3", "20260105", "COUNT"},
		{"FREQ=DAILY;INTERVAL=+2", "20260105", "INTERVAL"},
		{"FREQ=MONTHLY;BYMONTHDAY=-0", "20260105", "BYMONTHDAY"},
		{"FREQ=MONTHLY;BYMONTHDAY=001", "20260105", "BYMONTHDAY"},
		{"FREQ=MONTHLY;BYMONTHDAY=+-1", "20260105", "BYMONTHDAY"},
		{"FREQ=YEARLY;BYMONTH=+1", "20260105", "BYMONTH"},
		{"FREQ=YEARLY;BYMONTH=001", "20260105", "BYMONTH"},
		{"FREQ=YEARLY;BYYEARDAY=0001", "20260105", "BYYEARDAY"},
		{"FREQ=MONTHLY;BYDAY=+-1MO", "20260105", "BYDAY"},
		{"FREQ=MONTHLY;BYDAY=0MO", "20260105", "BYDAY"},
		{"FREQ=MONTHLY;BYDAY=001MO", "20260105", "BYDAY"},
		{"FREQ=DAILY;BYDAY=MO, TU", "20260105", "BYDAY"},
		{"FREQ=DAILY ;COUNT=3", "20260105", "FREQ"},
		{" FREQ=DAILY", "20260105", "FREQ"},
		{"RRULE:FREQ=DAILY", "20260105", "RRULE:FREQ"},
		{"FREQ=DAILY;", "20260105", ""},
		{"FREQ=DAILY;UNTIL=20260201T000000.5", "20260105T090000", "UNTIL"},
		{"FREQ=DAILY;UNTIL=20260201T246000", "20260105T090000", "UNTIL"},
	}
	for _, c := range cases {
		t.Run(c.rule, func(t *testing.T) {
			_, err := recur.Occurrences(recur.Question{RRule: c.rule, DTStart: c.start, Limit: 3})
			var part *recur.PartError
			require.ErrorAs(t, err, &part)
			assert.Equal(t, c.part, part.Part)
		})
	}
	_, err := recur.Occurrences(recur.Question{RRule: "FREQ=DAILY;UNTIL=20260201T000000", DTStart: "20260105T090000", TZID: &newYork, Limit: 3})
	assert.ErrorContains(t, err, "UNTIL")
}

// TestWhatTheGrammarAllowsIsRead: RFC 5545, 3.3.10 and 3.3.5.
func TestWhatTheGrammarAllowsIsRead(t *testing.T) {
	plus := ask(t, "freq=monthly;bymonthday=+01,-01;byday=+1mo,fr;count=02", "20260101T090000", nil, 9)
	assert.Equal(t, strings.Fields("20260501T090000 20260601T090000"), plus.Instances)
	assert.Equal(t, strings.Fields("20260105 20260106"), ask(t, "FREQ=DAILY;COUNT=2;BYHOUR=9,10;BYMINUTE=30", "20260105", nil, 9).Instances, "ignored with a DATE")
	leap := ask(t, "FREQ=DAILY;UNTIL=20260106T235960Z", "20260105T235959Z", nil, 9)
	assert.Equal(t, strings.Fields("20260105T235959Z 20260106T235959Z"), leap.Instances, "second 60 is second 59")
}

func TestNoRuleHangs(t *testing.T) {
	for _, rule := range []string{"FREQ=SECONDLY;INTERVAL=2;BYSECOND=1", "FREQ=MINUTELY;INTERVAL=2;BYMINUTE=1", "FREQ=SECONDLY;BYSECOND=60"} {
		_, err := recur.Occurrences(recur.Question{RRule: rule, DTStart: "20260101T000000", Limit: 3})
		assert.ErrorIs(t, err, recur.ErrTooMuch, rule)
	}
	for _, rule := range []string{"FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30", "FREQ=SECONDLY;BYMONTH=2;BYMONTHDAY=30", "FREQ=DAILY;BYMONTH=4;BYMONTHDAY=31"} {
		a := ask(t, rule, "20260101T000000", nil, 3)
		assert.Empty(t, a.Instances, rule)
		assert.True(t, a.Complete)
	}
}
