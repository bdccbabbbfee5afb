package series_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/recur"
	"jembro/internal/core/say"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
	"jembro/internal/core/words"
)

func at(text string) when.Local {
	l, err := when.ParseLocal(text)
	if err != nil {
		panic(err)
	}
	return l
}

func day(text string) when.Day {
	d, err := when.ParseDay(text)
	if err != nil {
		panic(err)
	}
	return d
}

func zone(name string) when.Zone {
	z, err := when.LoadZone(name)
	if err != nil {
		panic(err)
	}
	return z
}

// wish is a series from words, an hour long.
func wish(t require.TestingT, start, words, in string) series.Request {
	local := at(start)
	rule, end, err := recur.ParseWords(words, local.Day)
	require.NoError(t, err, words)
	return series.Request{Start: local, End: local.Add(time.Hour), Zone: zone(in), Rule: rule, Ends: end}
}

func settled(t require.TestingT, w series.Request) series.Plan {
	p, _, err := w.Settle()
	require.NoError(t, err)
	return p
}

// dates writes the first dates short: "3 Dec 9:30".
func dates(p series.Plan, most int) string {
	var out []string
	for d := range p.Dates(p.Start.Day) {
		_, month, dom := d.Start.Day.Date()
		out = append(out, fmt.Sprintf("%d %s %s", dom, month.String()[:3], d.Start.Clock))
		if len(out) == most {
			break
		}
	}
	return strings.Join(out, ", ")
}

func TestAWishBecomesDates(t *testing.T) {
	holidays := map[when.Day]string{day("2026-12-08"): "Immaculate Conception", day("2026-12-25"): "Christmas Day", day("2027-01-01"): "New Year's Day"}
	skip := func(d when.Day) say.What {
		if name := holidays[d]; name != "" {
			return say.It("series.holiday", name)
		}
		return say.What{}
	}
	cases := []struct {
		name, start, words, zone string
		skip                     func(when.Day) say.What
		dates, rule, left        string
	}{
		{"until a day", "2026-12-03T09:30", "every 2nd Thursday until 25 February", "Europe/Lisbon", nil,
			"3 Dec 9:30, 17 Dec 9:30, 31 Dec 9:30, 14 Jan 9:30, 28 Jan 9:30, 11 Feb 9:30, 25 Feb 9:30",
			"FREQ=WEEKLY;INTERVAL=2;UNTIL=20270225T093000Z;BYDAY=TH", ""},
		{"the end is the last date, not the day asked for", "2026-12-03T09:30", "every Thursday until 16 December", "Europe/Lisbon", nil,
			"3 Dec 9:30, 10 Dec 9:30", "FREQ=WEEKLY;UNTIL=20261210T093000Z;BYDAY=TH", ""},
		{"the end in another zone is an instant", "2026-12-03T08:00", "every day, 2 times", "Asia/Tokyo", nil,
			"3 Dec 8:00, 4 Dec 8:00", "FREQ=DAILY;UNTIL=20261203T230000Z", ""},
		{"holidays are left out and not counted", "2026-12-24T10:00", "every working day, 4 times", "Europe/Lisbon", skip,
			"24 Dec 10:00, 28 Dec 10:00, 29 Dec 10:00, 30 Dec 10:00", "FREQ=WEEKLY;UNTIL=20261230T100000Z;BYDAY=MO,TU,WE,TH,FR", "2026-12-25 Christmas Day"},
		{"a start that is left out gives way to the next date, in step", "2026-12-08T10:00", "every 2nd Tuesday, 2 times", "Europe/Lisbon", skip,
			"22 Dec 10:00, 5 Jan 10:00", "FREQ=WEEKLY;INTERVAL=2;UNTIL=20270105T100000Z;BYDAY=TU", "2026-12-08 Immaculate Conception"},
		{"a start that the rule does not name gives way to the first that it names", "2026-12-03T10:00", "the last Friday of the month, 2 times", "Europe/Lisbon", nil,
			"25 Dec 10:00, 29 Jan 10:00", "FREQ=MONTHLY;UNTIL=20270129T100000Z;BYDAY=-1FR", ""},
		{"an hour that the clock leaps over is left out and not counted (RFC 5545, 3.3.10)", "2027-03-27T01:30", "every day, 3 times", "Europe/Lisbon", nil,
			"27 Mar 1:30, 29 Mar 1:30, 30 Mar 1:30", "FREQ=DAILY;UNTIL=20270330T003000Z", "2027-03-28 1:30 is not on the clock that day"},
		{"months without a 31st have no date", "2026-12-31T10:00", "the 31st of the month, 3 times", "Europe/Lisbon", nil,
			"31 Dec 10:00, 31 Jan 10:00, 31 Mar 10:00", "FREQ=MONTHLY;UNTIL=20270331T090000Z;BYMONTHDAY=31", ""},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			w := wish(t, c.start, c.words, c.zone)
			w.Skip = c.skip
			p, left, err := w.Settle()
			require.NoError(t, err)
			assert.Equal(t, c.dates, dates(p, 20))
			assert.Equal(t, c.rule, p.Rule.String())
			var said []string
			for _, l := range left {
				said = append(said, l.On.String()+" "+words.English(l.Why))
			}
			assert.Equal(t, c.left, strings.Join(said, ", "))
			assert.False(t, p.Open())
		})
	}
}

func TestWishesThatComeToNothing(t *testing.T) {
	never := func(when.Day) say.What { return say.It("series.leftOut") }
	cases := []struct {
		name, words string
		skip        func(when.Day) say.What
		want        error
	}{
		{"all left out", "every day until 10 December", never, series.ErrNoDates},
		{"too many", "every day, 1001 times", nil, series.ErrMany},
		{"by the hour", "FREQ=HOURLY", nil, series.ErrFine},
		{"several times a day", "FREQ=DAILY;BYHOUR=9,15", nil, series.ErrTimes},
		{"30 February", "FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30", nil, series.ErrNoDates},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			w := wish(t, "2026-12-03T09:30", c.words, "Europe/Lisbon")
			w.Skip = c.skip
			_, _, err := w.Settle()
			assert.ErrorIs(t, err, c.want)
		})
	}
}

func TestAnOpenSeriesWritesDownWhatItLeavesOut(t *testing.T) {
	w := wish(t, "2026-12-04T10:00", "every working day", "Europe/Lisbon")
	w.Skip = func(d when.Day) say.What {
		if _, month, dom := d.Date(); month == time.December && dom == 25 {
			return say.It("series.holiday", "Christmas Day")
		}
		return say.What{}
	}
	p := settled(t, w)
	assert.True(t, p.Open())
	assert.True(t, slices.IsSorted(p.ExDates))
	assert.Equal(t, []when.Day{day("2026-12-25"), day("2028-12-25"), day("2029-12-25")}, p.ExDates[:3], "2027 it is a Saturday")
	for _, d := range p.ExDates {
		_, month, dom := d.Date()
		assert.Equal(t, "December 25", fmt.Sprint(month, " ", dom))
	}
	_, ok := p.Last()
	assert.False(t, ok)
}

func TestEditsOfASeries(t *testing.T) {
	p := settled(t, wish(t, "2026-12-03T09:30", "every 2nd Thursday until 25 February", "Europe/Lisbon"))
	own := p.Put(day("2026-12-31"), at("2027-01-07T14:00"), at("2027-01-07T15:00")).Without(day("2027-01-14"))
	assert.Equal(t, "3 Dec 9:30, 17 Dec 9:30, 7 Jan 14:00, 28 Jan 9:30, 11 Feb 9:30, 25 Feb 9:30", dates(own, 9))

	before, ok := own.Before(day("2027-01-28"))
	require.True(t, ok)
	assert.Equal(t, "3 Dec 9:30, 17 Dec 9:30, 7 Jan 14:00", dates(before, 9))
	assert.Equal(t, "FREQ=WEEKLY;INTERVAL=2;UNTIL=20261231T093000Z;BYDAY=TH", before.Rule.String())
	after, ok := own.From(day("2027-01-28"))
	require.True(t, ok)
	assert.Equal(t, "28 Jan 9:30, 11 Feb 9:30, 25 Feb 9:30", dates(after, 9))
	_, ok = own.Before(day("2026-12-03"))
	assert.False(t, ok)
	_, ok = own.From(day("2027-02-26"))
	assert.False(t, ok)

	more, ok := own.Add(day("2027-02-02")).From(day("2027-02-02"))
	require.True(t, ok)
	assert.Equal(t, "2 Feb 9:30, 11 Feb 9:30, 25 Feb 9:30", dates(more, 9), "from a date that was added on")
}

func TestRulesFollowTheirFirstDate(t *testing.T) {
	cases := []struct{ rule, from, to, want string }{
		{"FREQ=WEEKLY;BYDAY=TH", "2026-12-03", "2026-12-04", "FREQ=WEEKLY;BYDAY=FR"},
		{"FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,FR", "2026-12-04", "2026-12-07", "FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,TH;WKST=TH"},
		{"FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR", "2026-12-03", "2026-12-04", "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR"},
		{"FREQ=DAILY", "2026-12-03", "2026-12-09", "FREQ=DAILY"},
		{"FREQ=MONTHLY;BYDAY=1TH", "2026-12-03", "2026-12-11", "FREQ=MONTHLY;BYDAY=2FR"},
		{"FREQ=MONTHLY;BYDAY=-1TH", "2026-12-31", "2026-12-25", "FREQ=MONTHLY;BYDAY=-1FR"},
		{"FREQ=MONTHLY;BYMONTHDAY=3", "2026-12-03", "2026-12-04", "FREQ=MONTHLY;BYMONTHDAY=4"},
		{"FREQ=MONTHLY;BYMONTHDAY=-1", "2026-12-31", "2026-12-30", "FREQ=MONTHLY;BYMONTHDAY=-2"},
		{"FREQ=YEARLY;BYMONTH=12;BYMONTHDAY=31", "2026-12-31", "2027-01-01", "FREQ=YEARLY;BYMONTH=1;BYMONTHDAY=1"},
		{"FREQ=MONTHLY;BYMONTHDAY=1,15", "2026-12-01", "2026-12-02", ""},
		{"FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1", "2026-12-31", "2026-12-30", ""},
	}
	for _, c := range cases {
		rule, err := recur.ParseRule(c.rule)
		require.NoError(t, err)
		got, err := rule.Follow(day(c.from), day(c.to))
		if c.want == "" {
			assert.ErrorIs(t, err, recur.ErrFollow, c.rule)
			continue
		}
		require.NoError(t, err, c.rule)
		assert.Equal(t, c.want, got.String())
	}
}

// anyPlan draws a settled series of up to 40 dates, with exceptions.
func anyPlan(t *rapid.T) series.Plan {
	words := rapid.SampledFrom([]string{"every day", "every 3rd day", "every Thursday", "every 2nd week on Monday and Thursday", "every working day",
		"the 1st Thursday of the month", "the last working day of the month", "the 31st of the month", "every 29 February"}).Draw(t, "rule")
	start := when.Local{Day: day("2026-11-25") + when.Day(rapid.IntRange(0, 400).Draw(t, "start")), Clock: when.Clock(rapid.IntRange(0, 1439).Draw(t, "clock"))}
	w := wish(t, start.String(), fmt.Sprintf("%s, %d times", words, rapid.IntRange(2, 40).Draw(t, "times")),
		rapid.SampledFrom([]string{"Europe/Lisbon", "Asia/Tokyo", "America/Sao_Paulo", "Australia/Lord_Howe"}).Draw(t, "zone"))
	p := settled(t, w)
	all := p.Upto(1 << 30)
	for _, d := range all {
		switch rapid.IntRange(0, 5).Draw(t, "edit") {
		case 0:
			if d.On != p.Start.Day {
				p = p.Without(d.On)
			}
		case 1:
			p = p.Put(d.On, d.Start.Add(90*time.Minute), d.End.Add(2*time.Hour))
		}
	}
	return p
}

func spans(p series.Plan) (out []string) {
	for d := range p.Dates(p.Start.Day) {
		out = append(out, fmt.Sprint(d))
	}
	return out
}

func pick(t *rapid.T, p series.Plan) series.Date {
	return rapid.SampledFrom(p.Upto(1<<30)).Draw(t, "date")
}

func TestAnEditAndItsReverseGiveTheSameSeries(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := anyPlan(t)
		d := pick(t, p)
		require.True(t, p.Equal(p.Without(d.On).With(d.On)))
		require.True(t, p.Equal(p.Put(d.On, d.Start.Add(time.Hour), d.End.Add(3*time.Hour)).Put(d.On, d.Start, d.End)))
	})
}

func TestNoEditChangesADateBeforeTheOneItWasMadeOn(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := anyPlan(t)
		d := pick(t, p)
		before := func(p series.Plan) (out []string) {
			for x := range p.Dates(p.Start.Day) {
				if x.On >= d.On {
					break
				}
				out = append(out, fmt.Sprint(x))
			}
			return out
		}
		want := before(p)
		require.Equal(t, want, before(p.Without(d.On)))
		require.Equal(t, want, before(p.Put(d.On, d.Start.Add(time.Hour), d.End.Add(2*time.Hour))))
		if p.Rule.Freq == recur.Weekly {
			require.Equal(t, want, before(p.Add(d.On+1)))
		}
		head, okHead := p.Before(d.On)
		tail, okTail := p.From(d.On)
		require.True(t, okTail)
		require.Equal(t, len(want) > 0, okHead)
		parts := spans(tail)
		if okHead {
			require.Equal(t, want, before(head))
			parts = append(spans(head), parts...)
		}
		require.Equal(t, spans(p), parts, "both parts together are the whole")
	})
}

func TestDatesOfAPlan(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := anyPlan(t)
		var last series.Date
		for d := range p.Dates(p.Start.Day) {
			require.Greater(t, d.On, last.On, "ascend and are distinct")
			require.NotContains(t, p.ExDates, d.On)
			regular := p.Regular(d.On)
			require.Equal(t, p.Start.Clock, regular.Start.Clock)
			require.Equal(t, p.Regular(p.Start.Day).Span.Length(), regular.Span.Length(), "as long as the first")
			again, ok := p.Date(d.On)
			require.True(t, ok)
			require.Equal(t, d, again)
			last = d
		}
		end, ok := p.Last()
		require.True(t, ok)
		require.Equal(t, last.On, end)
	})
}

func TestDifferenceOfTwoVersions(t *testing.T) {
	p := settled(t, wish(t, "2026-12-03T09:30", "every 2nd Thursday until 25 February", "Europe/Lisbon"))
	whole, days := series.Differ(p, p.Without(day("2027-01-14")).Put(day("2026-12-31"), at("2027-01-07T09:30"), at("2027-01-07T10:30")))
	assert.False(t, whole)
	assert.Equal(t, []when.Day{day("2026-12-31"), day("2027-01-14")}, days)
	later := p
	later.Start, later.End = p.Start.Add(time.Hour), p.End.Add(time.Hour)
	whole, days = series.Differ(p, later)
	assert.True(t, whole)
	assert.Empty(t, days)
	shorter, _ := p.Before(day("2027-02-25"))
	whole, _ = series.Differ(p, shorter)
	assert.True(t, whole)
}

func TestGapsAreSaid(t *testing.T) {
	p := settled(t, wish(t, "2027-03-25T01:30", "every day, 6 times", "Europe/Lisbon"))
	assert.Equal(t, []when.Day{day("2027-03-28")}, p.ExDates, "written down as left out")
}

func ExampleRequest() {
	lisbon, _ := when.LoadZone("Europe/Lisbon")
	start, _ := when.ParseLocal("2026-12-03T09:30")
	rule, end, _ := recur.ParseWords("every 2nd Thursday, 3 times", start.Day)
	plan, _, _ := series.Request{Start: start, End: start.Add(time.Hour), Zone: lisbon, Rule: rule, Ends: end}.Settle()
	moved := plan.Put(plan.Start.Day+14, start.Add(15*24*time.Hour), start.Add(15*24*time.Hour+time.Hour))
	for d := range moved.Dates(moved.Start.Day) {
		fmt.Println(d.On, "at", d.Start)
	}
	// Output:
	// 2026-12-03 at 2026-12-03T09:30
	// 2026-12-17 at 2026-12-18T09:30
	// 2026-12-31 at 2026-12-31T09:30
}
