package recur

import (
	"errors"
	"fmt"
	"math/bits"
	"slices"
	"time"

	"jembro/internal/core/when"
)

// Without leaves dates out, besides those that are left out already.
func (p Plan) Without(days ...when.Day) Plan {
	for _, day := range days {
		if at, is := slices.BinarySearch(p.Left, day); !is && p.InRule(day) {
			p.Left = slices.Insert(slices.Clone(p.Left), at, day)
		}
	}
	return p
}

// With takes days back in that were left out.
func (p Plan) With(days ...when.Day) Plan {
	p.Left = slices.DeleteFunc(slices.Clone(p.Left), func(d when.Day) bool { return slices.Contains(days, d) })
	return p
}

// Add puts in a day that the rule does not name.
func (p Plan) Add(day when.Day) Plan {
	if at, is := slices.BinarySearch(p.Added, day); !is && day > p.Start.Day && !p.InRule(day) {
		p.Added = slices.Insert(slices.Clone(p.Added), at, day)
	}
	return p
}

// Put gives the date on a day of the rule a time of its own; the time that the
// rule gives puts it back in line.
func (p Plan) Put(on when.Day, start, end when.Local) Plan {
	at, is := p.moved(on)
	p.Moved = slices.Clone(p.Moved)
	if is {
		p.Moved = slices.Delete(p.Moved, at, at+1)
	}
	if regular := p.Regular(on); regular.Start != start || regular.End != end {
		p.Moved = slices.Insert(p.Moved, at, Moved{on, start, end})
	}
	return p
}

// Before is the part of the series before a day of the rule; ok is false when
// there is no date in it.
func (p Plan) Before(day when.Day) (part Plan, ok bool) {
	var last when.Day
	for _, d := range p.Upto(day - 1) {
		last, ok = d.On, true
	}
	if !ok {
		return Plan{}, false
	}
	p.Rule.Until, p.Rule.Count = p.untilOn(last), 0
	return p.only(func(on when.Day) bool { return on <= last }), true
}

// From is the part of the series from a day of the rule on, in step with the
// whole; ok is false when there is no date in it. Where it begins with a date that
// was added to the rule, it starts on the day of the rule before, and leaves that
// out.
func (p Plan) From(day when.Day) (part Plan, ok bool) {
	for d := range p.Dates(day) {
		start := p.step(d.On)
		first := p.Regular(start)
		p.Start, p.End = first.Start, first.End
		p = p.only(func(on when.Day) bool { return on >= d.On })
		if start != d.On {
			p.Left = slices.Insert(p.Left, 0, start)
		}
		return p, true
	}
	return Plan{}, false
}

// step is the last day up to one that the rule itself names.
func (p Plan) step(day when.Day) (on when.Day) {
	s := p.series()
	s.Dates = nil
	on = p.Start.Day
	for m := range s.From(Moment{Day: max(p.Start.Day, day-400)}, unlimited()) {
		if m.Day > day {
			break
		}
		on = m.Day
	}
	return on
}

// only keeps what concerns some days.
func (p Plan) only(keep func(when.Day) bool) Plan {
	drop := func(d when.Day) bool { return !keep(d) }
	p.Added = slices.DeleteFunc(slices.Clone(p.Added), drop)
	p.Left = slices.DeleteFunc(slices.Clone(p.Left), drop)
	p.Moved = slices.DeleteFunc(slices.Clone(p.Moved), func(m Moved) bool { return drop(m.On) })
	return p
}

// Lost is what a single date had and could not keep.
type Lost struct {
	On  when.Day
	Why string
}

// Rebase puts what single dates have of their own on another rule or time: next
// is the series as it is to be, without exceptions but those it must have, and
// days is how far its dates lie from those of p. A date keeps its own time, or
// is left out still, where next has a date on the same day, moved along; it falls
// back in line where its own time is the regular one now. What does not make
// sense any more is lost, and said.
func (p Plan) Rebase(next Plan, days int) (Plan, []Lost) {
	var lost []Lost
	for _, day := range p.Left {
		next = next.Without(day + when.Day(days))
	}
	for _, m := range p.Moved {
		on := m.On + when.Day(days)
		if slices.Contains(p.Left, m.On) {
			continue
		}
		d, is := next.Date(on)
		switch own := next.Put(on, m.Start, m.End); {
		case !is:
			lost = append(lost, Lost{m.On, "the series has no date there any more"})
		case own.clashes(on):
			lost = append(lost, Lost{m.On, fmt.Sprintf("its own time runs into another date; it is at %s with the others now", d.Start.Clock)})
		default:
			next = own
		}
	}
	return next, lost
}

// clashes tells whether the date on a day overlaps the one before or after it,
// or has changed places with it.
func (p Plan) clashes(on when.Day) bool {
	var before *Date
	for d := range p.Dates(max(p.Start.Day, on-400)) {
		if before != nil && (d.On == on || before.On == on) && d.Span.Start < before.Span.End {
			return true
		}
		if d.On > on {
			return false
		}
		before = &d
	}
	return false
}

// Overlap finds two dates up to a day that overlap, whatever their order; ok is
// false when there are none.
func (p Plan) Overlap(until when.Day) (a, b Date, ok bool) {
	dates := p.Upto(until)
	slices.SortFunc(dates, func(x, y Date) int { return int(x.Span.Start - y.Span.Start) })
	for i := 1; i < len(dates); i++ {
		if dates[i].Span.Start < dates[i-1].Span.End {
			return dates[i-1], dates[i], true
		}
	}
	return Date{}, Date{}, false
}

// ErrFollow: a rule of this kind does not move by days.
var ErrFollow = errors.New("This rule does not move by days. Choose another rule for the new day.")

// Shift moves the whole series by days and minutes on the clock, and what single
// dates have of their own along as Rebase does. It fails with ErrFollow.
func (p Plan) Shift(days int, by time.Duration) (Plan, []Lost, error) {
	move := func(l when.Local) when.Local { return l.Add(time.Duration(days)*24*time.Hour + by) }
	next := Plan{Start: move(p.Start), End: move(p.End), Zone: p.Zone}
	days = int(next.Start.Day - p.Start.Day)
	if p.Rule.Days == workingDays && days%7 != 0 {
		return Plan{}, nil, ErrFollow
	}
	var err error
	if next.Rule, err = p.Rule.Follow(p.Start.Day, next.Start.Day); err != nil {
		return Plan{}, nil, err
	}
	if last, bounded := p.lastInRule(); bounded && p.Rule.Freq != 0 {
		next.Rule.Until, next.Rule.Count = Until{}, 0
		// The last date moves along; a monthly rule may not land on the same day.
		last += when.Day(days)
		for m := range next.series().From(Moment{Day: last - 6}, unlimited()) {
			if m.Day > last+6 {
				break
			}
			next.Rule.Until = next.untilOn(m.Day)
			if m.Day >= last {
				break
			}
		}
		if !next.Rule.Until.Set {
			next.Rule.Until = next.untilOn(last)
		}
	}
	for _, day := range p.Added {
		next = next.Add(day + when.Day(days))
	}
	moved, lost := p.Rebase(next, days)
	return moved, lost, nil
}

// lastInRule is the last day that the rule names, left out or not.
func (p Plan) lastInRule() (day when.Day, bounded bool) {
	if p.Open() {
		return 0, false
	}
	s := p.series()
	s.Dates = nil
	for m := range s.All() {
		day = m.Day
	}
	return day, true
}

// Follow is the rule when its first date moves from one day to another: every
// Thursday becomes every Friday, the 1st Thursday the 1st Friday, the 15th the
// 16th. It fails with ErrFollow for a rule that names several days of a month,
// and leaves one for working days as it is.
func (r Rule) Follow(from, to when.Day) (Rule, error) {
	if from == to {
		return r, nil
	}
	_, month, dom := to.Date()
	length := monthLength(func() (int, int) { y, m, _ := to.Date(); return y, int(m) }())
	if r.Months != 0 {
		if r.Freq != Yearly || bits.OnesCount16(r.Months) > 1 {
			return r, ErrFollow
		}
		r.Months = 1 << month
	}
	days, doms := r.Days.All(), r.MonthDays.Numbers()
	switch {
	case !r.SetPos.Empty() || !r.WeekNos.Empty() || !r.YearDays.Empty() || len(doms) > 1:
		return r, ErrFollow
	case r.Days == workingDays:
		return r, nil
	case r.Freq <= Weekly && len(days) > 0:
		// Week and weekdays turn together, so that the step over weeks stays.
		turn := func(d time.Weekday) time.Weekday { return time.Weekday(((int(d)+int(to-from))%7 + 7) % 7) }
		r.Days = Weekdays{}
		for _, d := range days {
			r.Days.add(0, turn(d.Day))
		}
		if r.Interval > 1 && len(days) > 1 {
			r.WeekStart = turn(r.WeekStart)
		}
		return r, nil
	case len(days) > 1 || len(days) == 1 && len(doms) == 1:
		return r, ErrFollow
	case len(days) == 1 && days[0].Ordinal == 0:
		r.Days = Weekdays{}
		r.Days.add(0, to.Weekday())
	case len(days) == 1:
		r.Days = Weekdays{}
		if days[0].Ordinal > 0 {
			r.Days.add((dom-1)/7+1, to.Weekday())
		} else {
			r.Days.add(-((length-dom)/7 + 1), to.Weekday())
		}
	case len(doms) == 1:
		r.MonthDays = Signed{}
		if doms[0] > 0 {
			r.MonthDays.add(dom)
		} else {
			r.MonthDays.add(dom - length - 1)
		}
	}
	return r, nil
}

// Differ compares two plans: whole tells whether their rule or regular time
// differ, days are those on which one has a date that the other has not, or at
// another time. With whole only days with exceptions on either side are looked
// at.
func Differ(a, b Plan) (whole bool, days []when.Day) {
	whole = a.Start != b.Start || a.End != b.End || a.Zone != b.Zone || a.Rule != b.Rule
	for _, day := range exceptional(a, b) {
		x, inA := a.Date(day)
		y, inB := b.Date(day)
		if inA != inB || inA && (x.Start != y.Start || x.End != y.End) {
			days = append(days, day)
		}
	}
	return whole, days
}

// exceptional are the days on which one of two plans departs from its rule.
func exceptional(plans ...Plan) (days []when.Day) {
	for _, p := range plans {
		days = slices.Concat(days, p.Added, p.Left, each(p.Moved, func(m Moved) when.Day { return m.On }))
	}
	slices.Sort(days)
	return slices.Compact(days)
}
