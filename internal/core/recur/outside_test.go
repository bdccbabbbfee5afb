package recur_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os/exec"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jembro/internal/core/recur"
)

// made makes up rules, all outside the classes in which libraries are known to
// part from the RFC (TestWhereLibrariesPartFromTheRFC).
type made struct{ *rand.Rand }

func (r made) chance(one int) bool { return r.IntN(one) == 0 }

// some are a few different numbers from low to high, ascending.
func (r made) some(low, high, most int) string {
	var all []int
	for range 1 + r.IntN(most) {
		if n := low + r.IntN(high-low+1); n != 0 && !slices.Contains(all, n) {
			all = append(all, n)
		}
	}
	if len(all) == 0 {
		all = []int{max(low, 1)}
	}
	slices.Sort(all)
	return strings.Trim(strings.ReplaceAll(fmt.Sprint(all), " ", ","), "[]")
}

func (r made) days(ordinals bool) string {
	names := []string{"MO", "TU", "WE", "TH", "FR", "SA", "SU"}
	r.Shuffle(7, func(i, j int) { names[i], names[j] = names[j], names[i] })
	names = names[:1+r.IntN(3)]
	if ordinals {
		for i := range names {
			names[i] = []string{"1", "2", "3", "4", "-1", "-2"}[r.IntN(6)] + names[i]
		}
	}
	return strings.Join(names, ",")
}

func (r made) rule() string {
	freq := []string{"YEARLY", "MONTHLY", "WEEKLY", "DAILY", "HOURLY", "MINUTELY", "SECONDLY"}[r.IntN(7)]
	parts := []string{"FREQ=" + freq}
	add := func(one int, format string, args ...any) bool {
		if !r.chance(one) {
			return false
		}
		parts = append(parts, fmt.Sprintf(format, args...))
		return true
	}
	add(2, "INTERVAL=%d", 1+r.IntN(4))
	switch freq {
	case "YEARLY":
		months := add(2, "BYMONTH=%s", r.some(1, 12, 3))
		switch r.IntN(4) {
		case 0:
			if months {
				add(1, "BYMONTHDAY=%s", r.some(-28, 28, 3))
			}
		case 1:
			add(1, "BYDAY=%s", r.days(r.chance(2)))
		case 2:
			if !months {
				add(1, "BYYEARDAY=%s", r.some(-365, 365, 3))
			}
		}
	case "MONTHLY":
		add(4, "BYMONTH=%s", r.some(1, 12, 4))
		switch r.IntN(3) {
		case 0:
			add(1, "BYMONTHDAY=%s", r.some(-31, 31, 3))
			add(4, "BYDAY=%s", r.days(false))
		case 1:
			if add(1, "BYDAY=%s", r.days(r.chance(2))) {
				add(4, "BYSETPOS=%s", r.some(-2, 2, 2))
			}
		}
	case "WEEKLY":
		add(2, "BYDAY=%s", r.days(false))
		add(6, "BYMONTH=%s", r.some(1, 12, 4))
		add(3, "WKST=%s", []string{"SU", "MO", "WE"}[r.IntN(3)])
	default:
		add(4, "BYMONTH=%s", r.some(1, 12, 4))
		add(4, "BYMONTHDAY=%s", r.some(1, 31, 3))
		add(4, "BYDAY=%s", r.days(false))
		if freq != "DAILY" {
			add(3, "BYHOUR=%s", r.some(0, 23, 3))
		}
	}
	if r.chance(3) {
		add(1, "COUNT=%d", 1+r.IntN(40))
	} else {
		add(4, "UNTIL=2030%02d%02dT120000", 1+r.IntN(12), 1+r.IntN(28))
	}
	return strings.Join(parts, ";")
}

// thin tells whether a rule is none, or hardly ever comes true.
func thin(t *testing.T, q recur.Question) bool {
	rule, err := recur.ParseRule(q.RRule)
	if err != nil || rule.Fits(recur.Floating) != nil {
		return true
	}
	start, _, _, err := recur.ParseMoment(q.DTStart)
	require.NoError(t, err)
	budget := &recur.Budget{Left: 100_000}
	n := 0
	for range (recur.Series{Start: start, Rule: rule}).From(start, budget) {
		if n++; n > q.Limit {
			break
		}
	}
	return n == 0 || budget.Spent()
}

// walkable tells whether a library that walks from period to period gets to the
// last date within reason.
func walkable(t *testing.T, q recur.Question, a recur.Answer) bool {
	if a.Complete && !strings.Contains(q.RRule, "COUNT") {
		return !strings.Contains(q.RRule, "SECONDLY") && !strings.Contains(q.RRule, "MINUTELY") && strings.Contains(q.RRule, "UNTIL")
	}
	day := 24 * time.Hour
	far := map[string]time.Duration{"SECONDLY": day, "MINUTELY": 30 * day, "HOURLY": 3 * 365 * day}
	freq, _, _ := strings.Cut(strings.TrimPrefix(q.RRule, "FREQ="), ";")
	most, ok := far[freq]
	if !ok {
		most = 40 * 365 * day
	}
	first, err := time.Parse("20060102T150405", q.DTStart)
	require.NoError(t, err)
	last, err := time.Parse("20060102T150405", a.Instances[len(a.Instances)-1])
	require.NoError(t, err)
	return last.Sub(first) < most
}

// partsFromTheOthers are the classes in which ical.js 2.2.1 gives other dates
// than dateutil and libical, which agree with each other and with the text: days
// from the end of several months of a year, BYMONTH under MONTHLY, BYMONTHDAY
// together with BYDAY under MONTHLY, and BYSETPOS over weekdays with ordinals.
var partsFromTheOthers = regexp.MustCompile(`YEARLY.*BYMONTHDAY=(.*,)?-|MONTHLY.*BYMONTH=|MONTHLY.*BYMONTHDAY=.*BYDAY=|MONTHLY.*BYDAY=-?\d.*BYSETPOS`)

// TestOtherLibrariesAgree compares with python3-dateutil and libical, Debian's,
// and with ical.js of npm, on made-up rules. Two more classes in which libical 3.0 parts from dateutil
// and from the text are left to dateutil: a start that is no date of its rule
// (the RFC leaves that undefined), and BYHOUR under HOURLY and finer, where it
// keeps the minutes of the start, loses INTERVAL or gives a date twice
// (HOURLY;INTERVAL=3;BYHOUR=1,17,19 from 17:39).
func TestOtherLibrariesAgree(t *testing.T) {
	const rules, limit = 2000, 25
	r := made{rand.New(rand.NewPCG(5545, 2190))}
	for _, library := range []string{"dateutil", "libical", "ical.js"} {
		t.Run(library, func(t *testing.T) {
			var questions []recur.Question
			var in bytes.Buffer
			for len(questions) < rules {
				q := recur.Question{RRule: r.rule(), Limit: limit,
					DTStart: fmt.Sprintf("2026%02d%02dT%02d%02d00", 1+r.IntN(12), 1+r.IntN(28), r.IntN(24), r.IntN(60))}
				if thin(t, q) {
					continue // the others walk to the end of time for these
				}
				a, err := recur.Occurrences(q)
				require.NoError(t, err)
				if library != "dateutil" {
					if strings.Contains(q.RRule, "BYHOUR") {
						continue
					}
					if library == "ical.js" && partsFromTheOthers.MatchString(q.RRule) {
						continue
					}
					q.DTStart = a.Instances[0]
					if a, err = recur.Occurrences(q); err != nil || a.Instances[0] != q.DTStart {
						continue
					}
				}
				if !walkable(t, q, a) {
					continue
				}
				questions = append(questions, q)
				b, err := json.Marshal(q)
				require.NoError(t, err)
				in.Write(append(b, '\n'))
			}
			answers := expandElsewhere(t, library, in.Bytes())
			require.Len(t, answers, rules)
			differ := 0
			for i, q := range questions {
				theirs := answers[i]
				ours, err := recur.Occurrences(q)
				require.NoError(t, err)
				if !assert.Equal(t, theirs, ours.Instances, "%s from %s", q.RRule, q.DTStart) {
					if differ++; differ > 5 {
						t.FailNow()
					}
				}
			}
		})
	}
}

// expandElsewhere asks a library for the dates of questions, as JSON lines.
func expandElsewhere(t *testing.T, library string, questions []byte) (answers [][]string) {
	t.Helper()
	cmd := exec.CommandContext(t.Context(), "/usr/bin/python3", "testdata/expand.py", library)
	if library == "ical.js" {
		cmd = exec.CommandContext(t.Context(), "node", "testdata/expand.mjs", "../../../web/node_modules/ical.js/dist/ical.js")
	}
	cmd.Stdin = bytes.NewReader(questions)
	var stderr bytes.Buffer
	cmd.Stderr = &stderr
	out, err := cmd.Output()
	require.NoError(t, err, stderr.String())
	for line := range strings.Lines(string(out)) {
		var dates []string
		require.NoError(t, json.Unmarshal([]byte(line), &dates))
		answers = append(answers, dates)
	}
	return answers
}
