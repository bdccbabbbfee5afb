package recur_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/recur"
	"jembro/internal/core/when"
)

// start is Thursday 3 December 2026.
var start = when.DayOf(2026, 12, 3)

// TestRulesInWordsAndBack: what a rule is called gives the rule again.
func TestRulesInWordsAndBack(t *testing.T) {
	cases := []struct{ rule, words string }{
		{"FREQ=DAILY", "every day"},
		{"FREQ=DAILY;INTERVAL=3", "every 3rd day"},
		{"FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR", "every working day"},
		{"FREQ=WEEKLY;BYDAY=TH", "every Thursday"},
		{"FREQ=WEEKLY;INTERVAL=2;BYDAY=TU", "every 2nd Tuesday"},
		{"FREQ=WEEKLY;BYDAY=MO,WE,FR", "every Monday, Wednesday and Friday"},
		{"FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,TH", "every 2nd week on Monday and Thursday"},
		{"FREQ=MONTHLY;BYDAY=1TH", "the 1st Thursday of the month"},
		{"FREQ=MONTHLY;BYDAY=1TH,3TH", "the 1st and 3rd Thursday of the month"},
		{"FREQ=MONTHLY;BYDAY=-1FR", "the last Friday of the month"},
		{"FREQ=MONTHLY;BYDAY=-2FR", "the 2nd last Friday of the month"},
		{"FREQ=MONTHLY;INTERVAL=3;BYDAY=1TH", "the 1st Thursday of every 3rd month"},
		{"FREQ=MONTHLY;BYMONTHDAY=15", "the 15th of the month"},
		{"FREQ=MONTHLY;BYMONTHDAY=1,15", "the 1st and 15th of the month"},
		{"FREQ=MONTHLY;BYMONTHDAY=-1", "the last day of the month"},
		{"FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1", "the last working day of the month"},
		{"FREQ=MONTHLY;INTERVAL=2;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=1", "the 1st working day of every 2nd month"},
		{"FREQ=YEARLY;BYMONTH=12;BYMONTHDAY=3", "every 3 December"},
		{"FREQ=YEARLY;INTERVAL=2;BYMONTH=12;BYMONTHDAY=3", "every 2nd year on 3 December"},
		{"FREQ=YEARLY;BYMONTH=11;BYDAY=4TH", "the 4th Thursday of November"},
	}
	for _, c := range cases {
		t.Run(c.words, func(t *testing.T) {
			rule, err := recur.ParseRule(c.rule)
			require.NoError(t, err)
			assert.Equal(t, c.words, rule.Words(start))
			assert.Equal(t, c.rule, rule.String())
			back, end, err := recur.ParseWords(c.words, start)
			require.NoError(t, err)
			assert.Equal(t, c.rule, back.String())
			assert.True(t, end.Open())
		})
	}
}

func TestRulesAsPeopleSayThem(t *testing.T) {
	cases := []struct{ words, rule, end string }{
		{"every 2nd Tuesday until 15 December", "FREQ=WEEKLY;INTERVAL=2;BYDAY=TU", " until 15 December"},
		{"Every other Tuesday till 1 March.", "FREQ=WEEKLY;INTERVAL=2;BYDAY=TU", " until 1 March 2027"},
		{"every two weeks on tue and thu, 4 times", "FREQ=WEEKLY;INTERVAL=2;BYDAY=TU,TH", ", 4 times"},
		{"weekly on Thursdays for ten dates", "FREQ=WEEKLY;BYDAY=TH", ", 10 times"},
		{"every weekday until 2026-12-18", "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR", " until 18 December"},
		{"daily", "FREQ=DAILY", ""},
		{"every second day, once", "FREQ=DAILY;INTERVAL=2", ", once"},
		{"on the first monday of every month", "FREQ=MONTHLY;BYDAY=1MO", ""},
		{"monthly on the 15th of the month", "FREQ=MONTHLY;BYMONTHDAY=15", ""},
		{"the second last working day of a month", "FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-2", ""},
		{"yearly on 29 february", "FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=29", ""},
		{"rrule:freq=weekly;count=7", "FREQ=WEEKLY", ", 7 times"},
		{"FREQ=DAILY;UNTIL=20261218T093000Z", "FREQ=DAILY", " until 18 December"},
	}
	for _, c := range cases {
		t.Run(c.words, func(t *testing.T) {
			rule, end, err := recur.ParseWords(c.words, start)
			require.NoError(t, err)
			assert.Equal(t, c.rule, rule.String())
			assert.Equal(t, c.end, end.Words(start))
		})
	}
	for _, none := range []string{"", "now and then", "every", "every blue moon", "the 1st", "every 0 weeks", "every monday until christmas", "every last tuesday",
		"every monday, many times", "the 9th thirstday of the month", "FREQ=SOMETIMES", "FREQ=WEEKLY;COUNT=3;UNTIL=20261218"} {
		_, _, err := recur.ParseWords(none, start)
		assert.Error(t, err, none)
	}
}

// TestRulesAreWrittenAsTheyAreRead goes over made-up rules of every kind.
func TestRulesAreWrittenAsTheyAreRead(t *testing.T) {
	for rule := range madeRules(2000) {
		again, err := recur.ParseRule(rule.String())
		require.NoError(t, err, rule.String())
		require.True(t, rule == again, rule.String())
		require.NotEmpty(t, rule.Words(start))
	}
	odd, err := recur.ParseRule("FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO")
	require.NoError(t, err)
	assert.Equal(t, "by the rule FREQ=YEARLY;BYWEEKNO=20;BYDAY=MO", odd.Words(start), "nobody says it")
}

// FuzzParseWords: whatever somebody types, it is refused or is a rule that can be
// said, written and read again.
func FuzzParseWords(f *testing.F) {
	for _, s := range []string{"every 2nd Tuesday until 15 December", "the last working day of the month, 4 times", "FREQ=WEEKLY;COUNT=3", "every 29 february", "the -1st of the month"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		rule, end, err := recur.ParseWords(text, start)
		if err != nil {
			return
		}
		again, err := recur.ParseRule(rule.String())
		if err != nil || again != rule || rule.Words(start)+end.Words(start) == "" || end.Count < 0 {
			t.Fatalf("%q is %q, %+v: %v", text, rule.String(), end, err)
		}
	})
}
