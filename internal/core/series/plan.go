// Package series is when a meeting that repeats is: the plan of its dates, what
// single ones have beside the rule, edits that give another plan, and whose dates
// are whose. Rules themselves are package recur's.
package series

import (
	"iter"
	"slices"
	"time"

	"jembro/internal/core/recur"
	"jembro/internal/core/when"
)

// Repeat is what makes a series of one start: RRULE, RDATE and EXDATE (RFC 5545,
// 3.8.5), and dates that were moved, as RECURRENCE-ID (3.8.4.4) has them. A date is known by its day in the rule,
// wherever it is moved to; there is at most one a day. Lists ascend.
type Repeat struct {
	Rule    recur.Rule // without COUNT; UNTIL is in UTC
	RDates  []when.Day
	ExDates []when.Day
	Moved   []Moved
}

// Moved is a date with a time of its own.
type Moved struct {
	On    when.Day
	Start when.Local
	End   when.Local
}

// Plan is a settled series: the times of its first date in a zone, and how it
// repeats. Its edits are pure: they give another plan.
type Plan struct {
	Start, End when.Local
	Zone       when.Zone
	Repeat
}

// Date is one date of a series. On is its day in the rule.
type Date struct {
	On         when.Day
	Start, End when.Local
	Span       when.Span
	Moved      bool
}

// Dates yields the dates from a day of the rule on, in the order of the rule. As
// RFC 5545, 3.8.5.3 has it for DTEND, each lasts exactly as long as the first.
func (p Plan) Dates(from when.Day) iter.Seq[Date] { return p.dates(from, recur.Unlimited()) }

func (p Plan) dates(from when.Day, budget *recur.Budget) iter.Seq[Date] {
	return func(yield func(Date) bool) {
		series := p.series()
		series.Without = each(p.ExDates, p.moment)
		length := p.length()
		for m, start := range series.Times(recur.Moment{Day: from}, budget) {
			if !yield(p.date(m, start, length)) {
				return
			}
		}
	}
}

// date is the date that a moment of the rule stands for, which comes at start
// unless it was moved.
func (p Plan) date(m recur.Moment, start when.Instant, length time.Duration) Date {
	if at, moved := p.moved(m.Day); moved {
		own := p.Moved[at]
		return Date{On: m.Day, Start: own.Start, End: own.End, Moved: true, Span: when.Span{
			Start: when.Zoned{Local: own.Start, Zone: p.Zone}.Instant(), End: when.Zoned{Local: own.End, Zone: p.Zone}.Instant()}}
	}
	span := when.Span{Start: start, End: start.Add(length)}
	return Date{On: m.Day, Start: when.Local{Day: m.Day, Clock: p.Start.Clock}, End: p.Zone.LocalAt(span.End), Span: span}
}

// series is the plan without what differs on single dates.
func (p Plan) series() recur.Series {
	return recur.Series{Start: p.moment(p.Start.Day), Kind: recur.Zoned, Zone: p.Zone, Rule: p.Rule, Dates: each(p.RDates, p.moment)}
}

func (p Plan) moment(day when.Day) recur.Moment {
	return recur.Moment{Day: day, Second: int32(p.Start.Clock) * 60}
}

func (p Plan) length() time.Duration {
	return time.Duration(when.Zoned{Local: p.End, Zone: p.Zone}.Instant()-when.Zoned{Local: p.Start, Zone: p.Zone}.Instant()) * time.Second
}

func (p Plan) moved(on when.Day) (at int, is bool) {
	return slices.BinarySearchFunc(p.Moved, on, func(m Moved, on when.Day) int { return int(m.On - on) })
}

// Has tells whether there is a date on that day of the rule.
func (p Plan) Has(on when.Day) bool {
	_, is := p.Date(on)
	return is
}

// Date is the date on that day of the rule; ok is false when there is none.
func (p Plan) Date(on when.Day) (d Date, ok bool) {
	for d = range p.Dates(on) {
		return d, d.On == on
	}
	return Date{}, false
}

// InRule tells whether the rule, or an added date, names the day, left out or
// not.
func (p Plan) InRule(on when.Day) bool {
	for m := range p.series().From(recur.Moment{Day: on}, recur.Unlimited()) {
		return m.Day == on
	}
	return false
}

// Regular is the date as the rule has it, moved or not.
func (p Plan) Regular(on when.Day) Date {
	p.Moved = nil
	m := p.moment(on)
	return p.date(m, p.series().Instant(m), p.length())
}

// First is the first date; ok is false when every date is left out.
func (p Plan) First() (Date, bool) {
	for d := range p.Dates(p.Start.Day) {
		return d, true
	}
	return Date{}, false
}

// Open tells whether the series has no end.
func (p Plan) Open() bool { return p.Rule != (recur.Rule{}) && !p.Rule.Until.Set && p.Rule.Count == 0 }

// Last is the last day of the rule with a date; ok is false for an open series.
func (p Plan) Last() (day when.Day, ok bool) {
	if p.Open() {
		return 0, false
	}
	for d := range p.Dates(p.Start.Day) {
		day, ok = d.On, true
	}
	return day, ok
}

// Words is when the plan comes, as people say it: "every 2nd Thursday until 25
// February".
func (p Plan) Words() string {
	words := p.Rule.Words(p.Start.Day)
	if last, ends := p.Last(); ends {
		words += recur.End{Until: last}.Words(p.Start.Day)
	}
	return words
}

// EndDay is the day on which the rule ends, a date on it or not; ok is false for
// an open series.
func (p Plan) EndDay() (day when.Day, ok bool) {
	if u := p.Rule.Until; u.Set {
		t := time.Unix(int64(u.Moment.Day)*86400+int64(u.Moment.Second), 0)
		return p.Zone.LocalAt(when.At(t)).Day, true
	}
	return p.Start.Day, p.Rule == recur.Rule{}
}

// Upto are the dates up to and with a day of the rule.
func (p Plan) Upto(day when.Day) (out []Date) {
	for d := range p.Dates(p.Start.Day) {
		if d.On > day {
			break
		}
		out = append(out, d)
	}
	return out
}

// Equal tells whether two plans have the same dates for the same reasons.
func (p Plan) Equal(o Plan) bool {
	return p.Start == o.Start && p.End == o.End && p.Zone == o.Zone && p.Rule == o.Rule &&
		slices.Equal(p.RDates, o.RDates) && slices.Equal(p.ExDates, o.ExDates) && slices.Equal(p.Moved, o.Moved)
}

func each[From, To any](all []From, turn func(From) To) []To {
	out := make([]To, len(all))
	for i, v := range all {
		out[i] = turn(v)
	}
	return out
}
