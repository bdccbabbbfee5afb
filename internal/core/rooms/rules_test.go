package rooms_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jembro/internal/core/rooms"
	"jembro/internal/core/when"
)

func lisbon(t require.TestingT) when.Zone {
	zone, err := when.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	return zone
}

// hall is open on weekdays from 8 to 20 for its site, closed on 1 December, and asks
// above 2 h or after 18:00.
func hall(t require.TestingT) rooms.Place {
	open := when.Workdays(when.ClockOf(8, 0), when.ClockOf(20, 0), lisbon(t)).Week
	return rooms.Place{SiteID: "main", Zone: lisbon(t), Holiday: func(d when.Day) bool { return d == when.DayOf(2026, 12, 8) },
		Rules: rooms.Rules{By: rooms.BySite, Longest: 4 * time.Hour, Ahead: 90, Gap: 30 * time.Minute, Open: open, Holidays: true,
			Closed: []when.Day{when.DayOf(2026, 12, 1)}, Share: 8, Agree: rooms.Agree{Above: 2 * time.Hour, After: when.ClockOf(18, 0)}}}
}

func on(t require.TestingT, month time.Month, day, hour, minute int, length time.Duration) when.Span {
	start := when.Zoned{Local: when.Local{Day: when.DayOf(2026, month, day), Clock: when.ClockOf(hour, minute)}, Zone: lisbon(t)}.Instant()
	return when.Span{Start: start, End: start.Add(length)}
}

var inside = rooms.Asker{PersonID: "ilse", SiteID: "main"}

func TestARoomDecides(t *testing.T) {
	now := on(t, 11, 24, 10, 12, 0).Start
	other, keeper := rooms.Asker{PersonID: "tome", SiteID: "quay"}, rooms.Asker{PersonID: "rui", SiteID: "quay", Keeps: true}
	refuse := func(p rooms.Place) rooms.Place { p.Others = rooms.OthersRefused; return p }
	named := func(p rooms.Place) rooms.Place { p.By, p.People = rooms.ByNamed, []string{"tome"}; return p }
	always := func(p rooms.Place) rooms.Place { p.Agree.Always = true; return p }
	same := func(p rooms.Place) rooms.Place { return p }
	for _, c := range []struct {
		name    string
		rules   func(rooms.Place) rooms.Place
		who     rooms.Asker
		wanted  when.Span
		verdict rooms.Verdict
		codes   []rooms.ReasonCode
	}{
		{"within everything", same, inside, on(t, 11, 25, 9, 0, 2*time.Hour), rooms.Booked, nil},
		{"longer than needs no asking", same, inside, on(t, 11, 25, 9, 0, 121*time.Minute), rooms.Asked, []rooms.ReasonCode{rooms.AskLong}},
		{"later than needs no asking", same, inside, on(t, 11, 25, 17, 30, time.Hour), rooms.Asked, []rooms.ReasonCode{rooms.AskLate}},
		{"until that very minute", same, inside, on(t, 11, 25, 17, 0, time.Hour), rooms.Booked, nil},
		{"longer and later", same, inside, on(t, 11, 25, 16, 0, 3*time.Hour), rooms.Asked, []rooms.ReasonCode{rooms.AskLong, rooms.AskLate}},
		{"its keeper need not ask", always, keeper, on(t, 11, 25, 16, 0, 3*time.Hour), rooms.Booked, nil},
		{"nor do rules of closing bend for the keeper", same, keeper, on(t, 11, 28, 9, 0, time.Hour), rooms.Refused, []rooms.ReasonCode{rooms.OutOfHours}},
		{"another site asks", same, other, on(t, 11, 25, 9, 0, time.Hour), rooms.Asked, []rooms.ReasonCode{rooms.AskOthers}},
		{"another site is refused where the rules say so", refuse, other, on(t, 11, 25, 9, 0, time.Hour), rooms.Refused, []rooms.ReasonCode{rooms.NotForThem}},
		{"named", named, other, on(t, 11, 25, 9, 0, time.Hour), rooms.Booked, nil},
		{"not named", named, inside, on(t, 11, 25, 9, 0, time.Hour), rooms.Asked, []rooms.ReasonCode{rooms.AskOthers}},
		{"always asked", always, inside, on(t, 11, 25, 9, 0, time.Hour), rooms.Asked, []rooms.ReasonCode{rooms.AskAlways}},
		{"too long", same, inside, on(t, 11, 25, 9, 0, 5*time.Hour), rooms.Refused, []rooms.ReasonCode{rooms.TooLong}},
		{"too early", same, inside, on(t, 11, 25, 7, 45, time.Hour), rooms.Refused, []rooms.ReasonCode{rooms.OutOfHours}},
		{"on a day it is closed", same, inside, on(t, 12, 1, 9, 0, time.Hour), rooms.Refused, []rooms.ReasonCode{rooms.ClosedDay}},
		{"on a public holiday", same, inside, on(t, 12, 8, 9, 0, time.Hour), rooms.Refused, []rooms.ReasonCode{rooms.ClosedDay}},
		{"on the last day ahead", same, inside, on(t, 11, 114, 9, 0, time.Hour), rooms.Booked, nil}, // Monday 22 February 2027
		{"a day further", same, inside, on(t, 11, 115, 9, 0, time.Hour), rooms.Refused, []rooms.ReasonCode{rooms.TooFar}},
	} {
		t.Run(c.name, func(t *testing.T) {
			got := c.rules(hall(t)).Decide([]when.Span{c.wanted}, 1, 1, c.who, now)
			assert.Equal(t, c.verdict, got.Verdict)
			var codes []rooms.ReasonCode
			for _, r := range got.Reasons {
				codes = append(codes, r.Code)
			}
			assert.Equal(t, c.codes, codes)
		})
	}
}

func TestARoomDecidesOfASeries(t *testing.T) {
	now := on(t, 11, 24, 10, 12, 0).Start
	weekly := func(n int) (spans []when.Span) {
		for i := range n {
			s := on(t, 11, 25, 9, 0, time.Hour)
			spans = append(spans, when.Span{Start: s.Start.Add(time.Duration(i*7*24) * time.Hour), End: s.End.Add(time.Duration(i*7*24) * time.Hour)})
		}
		return spans
	}
	assert.Equal(t, rooms.Booked, hall(t).Decide(weekly(8), 8, 10, inside, now).Verdict, "8 of 10 are enough")
	d := hall(t).Decide(weekly(7), 7, 10, inside, now)
	assert.Equal(t, rooms.Decision{Verdict: rooms.Refused, Reasons: []rooms.Reason{{Code: rooms.TooFew, Clear: 7, Dates: 10, Share: 8}}}, d)
	d = hall(t).Decide(weekly(20), 20, 20, inside, now)
	require.Equal(t, rooms.Refused, d.Verdict, "the last lie too far ahead")
	assert.Equal(t, []rooms.Reason{{Code: rooms.TooFar, Day: when.DayOf(2027, 2, 22)}}, d.Reasons, "said once, with the last day")
	assert.Equal(t, rooms.Booked, rooms.Place{Zone: lisbon(t)}.Decide(weekly(500), 500, 500, rooms.Asker{}, now).Verdict, "without rules anybody can")
}

func TestWhenAKeeperHasToAnswer(t *testing.T) {
	far := on(t, 12, 31, 9, 0, 0).Start
	lapses := func(month time.Month, day, hour int) when.Instant {
		return hall(t).Lapses(on(t, month, day, hour, 0, 0).Start, far)
	}
	assert.Equal(t, on(t, 11, 26, 17, 0, 0).Start, lapses(11, 24, 17), "two working days later")
	assert.Equal(t, on(t, 12, 1, 17, 0, 0).Start, lapses(11, 27, 17), "over a weekend")
	assert.Equal(t, on(t, 12, 9, 17, 0, 0).Start, lapses(12, 4, 17), "and a public holiday")
	soon := on(t, 11, 24, 18, 0, 0).Start
	assert.Equal(t, soon, hall(t).Lapses(on(t, 11, 24, 17, 0, 0).Start, soon), "never later than it begins")
	began := on(t, 11, 24, 16, 0, 0).Start
	assert.Equal(t, on(t, 11, 24, 17, 0, 0).Start, hall(t).Lapses(on(t, 11, 24, 17, 0, 0).Start, began), "at once where it has begun")
}

func TestRulesThatNobodyCouldFollow(t *testing.T) {
	open := func(spans ...when.ClockSpan) (week [7][]when.ClockSpan) { week[1] = spans; return week }
	for _, c := range []struct {
		name  string
		rules rooms.Rules
		want  []rooms.Fault
	}{
		{"none", rooms.Rules{}, nil},
		{"named, and nobody is", rooms.Rules{By: rooms.ByNamed}, []rooms.Fault{rooms.FaultPeople}},
		{"some other way", rooms.Rules{By: "cats"}, []rooms.Fault{rooms.FaultBy}},
		{"a gap longer than its day", rooms.Rules{Gap: 2 * time.Hour, Open: open(when.ClockSpan{Start: 540, End: 600})}, []rooms.Fault{rooms.FaultGap}},
		{"hours that end before they begin", rooms.Rules{Open: open(when.ClockSpan{Start: 600, End: 540})}, []rooms.Fault{rooms.FaultOpen}},
		{"hours that overlap", rooms.Rules{Open: open(when.ClockSpan{Start: 540, End: 600}, when.ClockSpan{Start: 590, End: 700})}, []rooms.Fault{rooms.FaultOpen}},
		{"hours that touch", rooms.Rules{Open: open(when.ClockSpan{Start: 540, End: 600}, when.ClockSpan{Start: 600, End: 700})}, nil},
		{"eleven of ten, a minute, a thousand years", rooms.Rules{Share: 11, Longest: time.Minute, Ahead: 365_000}, []rooms.Fault{rooms.FaultLongest, rooms.FaultAhead, rooms.FaultShare}},
	} {
		assert.Equal(t, c.want, c.rules.Faults(), c.name)
	}
}

// What a room's rows of time show as unclear and what it decides are the same rule: a
// stretch that is not unclear is not refused, and one that its rules refuse is unclear.
func TestUnclearIsWhatIsRefused(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := hall(t)
		p.Others = rapid.SampledFrom([]rooms.Others{rooms.OthersAsk, rooms.OthersRefused}).Draw(t, "others")
		p.Ahead = rapid.IntRange(0, 20).Draw(t, "ahead")
		who := rapid.SampledFrom([]rooms.Asker{inside, {PersonID: "tome", SiteID: "quay"}, {Keeps: true}}).Draw(t, "who")
		now := on(t, 11, 24, 10, 12, 0).Start
		start := now.Add(time.Duration(rapid.IntRange(0, 25*24*4).Draw(t, "quarters")) * when.Quarter)
		wanted := when.Span{Start: start, End: start.Add(time.Duration(rapid.IntRange(1, 16).Draw(t, "length")) * when.Quarter)}
		window := when.Span{Start: now, End: now.Add(40 * 24 * time.Hour)}
		refused := p.Decide([]when.Span{wanted}, 1, 1, who, now).Verdict == rooms.Refused
		unclear := p.Unclear(nil, when.Spans{window}, who, now).Overlaps(wanted) || p.TooLong(wanted.Length())
		require.Equal(t, unclear, refused)
	})
}

func TestAGapIsKeptOnBothSides(t *testing.T) {
	p := rooms.Place{Zone: lisbon(t), Rules: rooms.Rules{Gap: 30 * time.Minute}}
	booked := on(t, 11, 25, 10, 0, time.Hour)
	window := when.Spans{{Start: booked.Start.Add(-12 * time.Hour), End: booked.End.Add(12 * time.Hour)}}
	unclear := p.Unclear(when.Spans{booked}, window, inside, booked.Start)
	assert.Equal(t, when.Spans{on(t, 11, 25, 9, 30, 2*time.Hour)}, unclear)
	assert.False(t, unclear.Overlaps(on(t, 11, 25, 11, 30, time.Hour)), "half an hour later it is clear")
	assert.True(t, p.Turned(booked).Overlaps(on(t, 11, 25, 11, 15, time.Hour)))
}

func TestNobodyHoldsARoomForHours(t *testing.T) {
	start := time.Date(2026, 11, 24, 10, 12, 0, 0, time.UTC)
	at := func(minutes int) time.Time { return start.Add(time.Duration(minutes) * time.Minute) }
	var since, last time.Time
	for minute := 0; minute < 60; minute += 4 { // renewed every four minutes
		until, from, ok := rooms.HoldUntil(since, last, at(minute))
		require.True(t, ok, minute)
		assert.Equal(t, at(min(minute+10, 60)), until)
		since, last = from, until
	}
	until, _, ok := rooms.HoldUntil(since, last, at(60))
	assert.False(t, ok)
	assert.Equal(t, at(120), until, "it can be held again an hour later")
	_, _, ok = rooms.HoldUntil(since, last, at(119))
	assert.False(t, ok)
	until, from, ok := rooms.HoldUntil(since, last, at(120))
	assert.True(t, ok)
	assert.Equal(t, []time.Time{at(130), at(120)}, []time.Time{until, from})
}

// However somebody asks, out of two hours they hold a room for one at the most.
func TestHoldsLeaveRoomForOthers(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		now := time.Date(2026, 11, 24, 10, 12, 0, 0, time.UTC)
		var since, last, begun time.Time
		for range rapid.IntRange(1, 200).Draw(t, "asks") {
			now = now.Add(time.Duration(rapid.IntRange(0, 30).Draw(t, "minutes")) * time.Minute)
			until, from, ok := rooms.HoldUntil(since, last, now)
			if !ok {
				require.True(t, until.After(now), "it says when")
				continue
			}
			if !from.Equal(since) {
				require.True(t, begun.IsZero() || !now.Before(last.Add(rooms.HoldLimit)), "others had their turn")
				begun = from
			}
			since, last = from, until
			require.False(t, until.After(begun.Add(rooms.HoldLimit)))
			require.True(t, until.After(now))
		}
	})
}
