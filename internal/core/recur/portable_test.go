package recur_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/recur"
	"jembro/internal/core/when"
)

var weekdayCodes = []string{"MO", "TU", "WE", "TH", "FR", "SA", "SU"}

// everyKind are the rules that a sheet can make, without an end: every frequency
// with every weekday, every set of weekdays, every day of the month from either
// end, every weekday of the month and year, and what narrows them down.
func everyKind() (out []string) {
	add := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	var sets []string // of weekdays
	for set := 1; set < 128; set++ {
		var days []string
		for i, code := range weekdayCodes {
			if set&(1<<i) != 0 {
				days = append(days, code)
			}
		}
		sets = append(sets, strings.Join(days, ","))
	}
	working := "MO,TU,WE,TH,FR"
	months := []string{"1", "2", "6,7", "12", "1,2,3,4,5,6,7,8,9,10,11,12"}
	doms := []string{"1,15", "15,30", "-1,-2", "1,-1", "7,8,9,10,11,12,13"}
	for n := 1; n <= 31; n++ {
		doms = append(doms, fmt.Sprint(n), fmt.Sprint(-n))
	}
	for _, every := range []string{"", ";INTERVAL=2", ";INTERVAL=3"} {
		add("FREQ=DAILY%s", every)
		add("FREQ=DAILY%s;BYDAY=%s;BYSETPOS=1", every, working)
		add("FREQ=WEEKLY%s", every)
		add("FREQ=MONTHLY%s", every)
		add("FREQ=YEARLY%s", every)
		if every == ";INTERVAL=3" {
			continue // as every second one
		}
		for _, set := range sets {
			add("FREQ=DAILY%s;BYDAY=%s", every, set)
			add("FREQ=WEEKLY%s;BYDAY=%s", every, set)
			add("FREQ=WEEKLY%s;BYDAY=%s;WKST=SU", every, set)
		}
		for _, set := range append(slices.Clone(weekdayCodes), working, "SA,SU", "MO,TU,WE,TH,FR,SA,SU") {
			add("FREQ=MONTHLY%s;BYDAY=%s", every, set)
			add("FREQ=YEARLY%s;BYDAY=%s", every, set)
			add("FREQ=YEARLY%s;BYWEEKNO=20;BYDAY=%s", every, set)
			for _, at := range []string{"1", "2", "3", "4", "5", "-1", "-2", "1,-1"} {
				add("FREQ=MONTHLY%s;BYDAY=%s;BYSETPOS=%s", every, set, at)
				add("FREQ=WEEKLY%s;BYDAY=%s;BYSETPOS=%s", every, set, at)
				add("FREQ=YEARLY%s;BYMONTH=6;BYDAY=%s;BYSETPOS=%s", every, set, at)
			}
			for _, month := range months {
				add("FREQ=DAILY%s;BYMONTH=%s;BYDAY=%s", every, month, set)
				add("FREQ=WEEKLY%s;BYMONTH=%s;BYDAY=%s", every, month, set)
				add("FREQ=YEARLY%s;BYMONTH=%s;BYDAY=%s", every, month, set)
			}
			for _, dom := range []string{"13", "31", "-1", "7,8,9,10,11,12,13"} {
				add("FREQ=MONTHLY%s;BYMONTHDAY=%s;BYDAY=%s", every, dom, set)
				add("FREQ=YEARLY%s;BYMONTH=11;BYMONTHDAY=%s;BYDAY=%s", every, dom, set)
			}
		}
		for _, day := range weekdayCodes {
			for n := -5; n <= 5; n++ {
				if n == 0 {
					continue
				}
				add("FREQ=MONTHLY%s;BYDAY=%d%s", every, n, day)
				add("FREQ=MONTHLY%s;BYDAY=%d%s;BYMONTH=3,9", every, n, day)
				add("FREQ=YEARLY%s;BYDAY=%d%s", every, n, day)
				for _, month := range months {
					add("FREQ=YEARLY%s;BYMONTH=%s;BYDAY=%d%s", every, month, n, day)
				}
			}
			add("FREQ=MONTHLY%s;BYDAY=1%s,3%s", every, day, day)
			add("FREQ=MONTHLY%s;BYDAY=1%s,-1%s", every, day, day)
			add("FREQ=YEARLY%s;BYDAY=20%s", every, day)
			add("FREQ=YEARLY%s;BYDAY=-53%s", every, day)
		}
		for _, dom := range doms {
			add("FREQ=DAILY%s;BYMONTHDAY=%s", every, dom)
			add("FREQ=MONTHLY%s;BYMONTHDAY=%s", every, dom)
			add("FREQ=MONTHLY%s;BYMONTHDAY=%s;BYMONTH=2,8", every, dom)
			add("FREQ=YEARLY%s;BYMONTHDAY=%s", every, dom)
			for _, month := range months {
				add("FREQ=YEARLY%s;BYMONTH=%s;BYMONTHDAY=%s", every, month, dom)
			}
		}
		for _, month := range months {
			add("FREQ=DAILY%s;BYMONTH=%s", every, month)
			add("FREQ=YEARLY%s;BYMONTH=%s", every, month)
		}
		for _, parts := range []string{"BYWEEKNO=1", "BYWEEKNO=20", "BYWEEKNO=53", "BYWEEKNO=-1", "BYYEARDAY=1,100,200", "BYYEARDAY=-1", "BYYEARDAY=366"} {
			add("FREQ=YEARLY%s;%s", every, parts)
		}
	}
	return out
}

// TestPortableRulesAreReadAlike: of every kind of rule that a sheet can make, what
// goes out names the same dates as the rule, and python3-dateutil, libical and
// ical.js read the same dates in it.
func TestPortableRulesAreReadAlike(t *testing.T) {
	const limit = 14
	lastAsked := when.DayOf(when.LastYear, 12, 31) // libical ends with the year 2582
	var in bytes.Buffer
	var asked []string // the rule meant, for each question
	var questions []recur.Question
	listed := map[string]bool{}
	seen := map[string]bool{}
	for _, kind := range everyKind() {
		rule, err := recur.ParseRule(kind)
		require.NoError(t, err, kind)
		for _, from := range []when.Day{when.DayOf(2026, 11, 30), when.DayOf(2027, 1, 31), when.DayOf(2028, 2, 29)} {
			s := recur.Series{Start: recur.Moment{Day: from, Second: 9*3600 + 1800}, Kind: recur.Floating, Rule: rule}
			var meant []string
			for m := range s.From(s.Start, recur.NewBudget(200_000)) {
				if len(meant) == 0 && m != s.Start { // a series begins on a date of its rule
					s.Start = m
				}
				if m.Day > lastAsked {
					break
				}
				if meant = append(meant, m.String()); len(meant) == limit {
					break
				}
			}
			if len(meant) < 2 {
				continue // it hardly ever comes true
			}
			portable, ok := rule.Portable(s.Start.Day)
			if !ok {
				listed[kind] = true
				continue
			}
			s.Rule = portable
			var ours []string
			for m := range s.From(s.Start, recur.Unlimited()) {
				if ours = append(ours, m.String()); len(ours) == len(meant) {
					break
				}
			}
			require.Equal(t, meant, ours, "%s goes out as %s", kind, portable)
			q := recur.Question{RRule: portable.String(), DTStart: s.Start.String(), Limit: len(meant)}
			if key := q.RRule + q.DTStart; !seen[key] {
				seen[key] = true
				line, err := json.Marshal(q)
				require.NoError(t, err)
				in.Write(append(line, '\n'))
				questions, asked = append(questions, q), append(asked, kind)
			}
		}
	}
	t.Logf("%d kinds, %d forms from a start, %d kinds listed by their dates", len(everyKind()), len(questions), len(listed))
	for _, library := range []string{"dateutil", "libical", "ical.js"} {
		t.Run(library, func(t *testing.T) {
			t.Parallel()
			answers := expandElsewhere(t, library, in.Bytes())
			require.Len(t, answers, len(questions))
			for i, q := range questions {
				ours, err := recur.Occurrences(q)
				require.NoError(t, err)
				assert.Equal(t, ours.Instances, answers[i], "%s from %s, meant as %s", q.RRule, q.DTStart, asked[i])
			}
		})
	}
}
