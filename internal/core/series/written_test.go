package series_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/recur"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
)

func all(when.Day) bool { return true }

// written are the days that a written form names, as 3.8.5 of RFC 5545 has it.
func written(w series.Written, until when.Day) (days []when.Day) {
	plan := series.Plan{Start: w.Start, End: w.End, Zone: w.Zone, Repeat: series.Repeat{Rule: w.Rule, RDates: w.RDates, ExDates: w.ExDates}}
	for d := range plan.Dates(plan.Start.Day) {
		if d.On > until {
			break
		}
		days = append(days, d.On)
	}
	return days
}

// TestWhatIsWrittenNamesTheSameDates: whoever the dates are for, it begins with one of
// them, and leaves out fewer than it names.
func TestWhatIsWrittenNamesTheSameDates(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := anyPlan(t)
		every := rapid.IntRange(1, 4).Draw(t, "every")
		mine := func(on when.Day) bool { return int(on)%every == 0 || every == 4 && on > p.Start.Day+40 }
		until := series.Forever
		if p.Open() && every != 1 {
			until = p.Start.Day + 400
		}
		w, ok := p.Written(mine, until)
		var want []when.Day
		horizon := until
		if p.Open() {
			horizon = min(until, p.Start.Day+1600)
		}
		for d := range p.Dates(p.Start.Day) {
			if d.On > horizon {
				break
			}
			if mine(d.On) {
				want = append(want, d.On)
			}
		}
		require.Equal(t, len(want) > 0, ok)
		if !ok {
			return
		}
		require.Equal(t, want[0], w.Start.Day)
		require.Equal(t, want, written(w, horizon))
		if until != series.Forever {
			require.LessOrEqual(t, len(w.ExDates), max(len(want), 15))
		}
	})
}

// TestAPartOfASeriesThatComesSeldom begins in step with the whole.
func TestAPartOfASeriesThatComesSeldom(t *testing.T) {
	p := settled(t, wish(t, "2026-12-03T09:30", "every 3 December", "Europe/Lisbon"))
	p.Rule.Interval = 3
	part, ok := p.From(day("2035-01-01"))
	require.True(t, ok)
	assert.Equal(t, "2035-12-03T09:30", part.Start.String())
	head, ok := p.Before(day("2035-01-01"))
	require.True(t, ok)
	assert.Equal(t, "20321203T093000Z", head.Rule.Until.String())
}

// TestNightsOfAClockChange: a time that is skipped makes a list, one that comes twice
// goes out by itself.
func TestNightsOfAClockChange(t *testing.T) {
	skipped := settled(t, wish(t, "2027-03-01T01:30", "every day until 30 June 2027", "Europe/Lisbon"))
	w, _ := skipped.Written(all, series.Forever)
	assert.NotContains(t, w.RDates, day("2027-03-28"), "there is no 1:30 that night")
	assert.Equal(t, "FREQ=DAILY;UNTIL=20270301T013000Z", w.Rule.String(), "the first date; the others are listed")
	twice := settled(t, wish(t, "2027-10-03T01:30", "every Sunday until 30 November 2027", "Europe/Lisbon"))
	assert.Equal(t, []when.Day{day("2027-10-31")}, twice.Unclear())
	w, _ = twice.Written(all, series.Forever)
	assert.Equal(t, recur.Weekly, w.Rule.Freq)
	over := settled(t, wish(t, "2027-10-03T00:30", "every Sunday until 30 November 2027", "Europe/Lisbon"))
	over.End = over.Start.Add(3 * time.Hour)
	assert.Equal(t, []when.Day{day("2027-10-31")}, over.Unclear(), "three hours on the clock are four that night")
	added := settled(t, wish(t, "2027-03-01T01:30", "every Monday until 30 June 2027", "Europe/Lisbon")).Add(day("2027-03-28"))
	assert.False(t, slices.ContainsFunc(added.Upto(day("2027-04-30")), func(d series.Date) bool { return d.On == day("2027-03-28") }), "an added date at an hour that is skipped is none")
}

// TestWeekendsAreInTheRule: they are left out by it, not one by one.
func TestWeekendsAreInTheRule(t *testing.T) {
	for words, want := range map[string]string{"every day": "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR", "the 15th of the month": "FREQ=MONTHLY;BYMONTHDAY=15;BYDAY=MO,TU,WE,TH,FR",
		"every Tuesday and Saturday": "FREQ=WEEKLY;BYDAY=TU"} {
		w := wish(t, "2026-12-01T09:30", words, "Europe/Lisbon")
		w.Weekends = true
		p := settled(t, w)
		assert.Equal(t, want, p.Rule.String(), words)
		assert.Empty(t, p.ExDates, words)
	}
}
