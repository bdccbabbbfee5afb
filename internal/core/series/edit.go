package series

import (
	"slices"

	"jembro/internal/core/recur"
	"jembro/internal/core/say"
	"jembro/internal/core/when"
)

// Without leaves dates out, besides those that are left out already.
func (p Plan) Without(days ...when.Day) Plan {
	for _, day := range days {
		if at, is := slices.BinarySearch(p.ExDates, day); !is && p.InRule(day) {
			p.ExDates = slices.Insert(slices.Clone(p.ExDates), at, day)
		}
	}
	return p
}

// With takes days back in that were left out.
func (p Plan) With(days ...when.Day) Plan {
	p.ExDates = slices.DeleteFunc(slices.Clone(p.ExDates), func(d when.Day) bool { return slices.Contains(days, d) })
	return p
}

// Add puts in a day that the rule does not name.
func (p Plan) Add(day when.Day) Plan {
	if at, is := slices.BinarySearch(p.RDates, day); !is && day > p.Start.Day && !p.InRule(day) {
		p.RDates = slices.Insert(slices.Clone(p.RDates), at, day)
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
// there is no date in it. Its rule ends no later than it did: a date that was added
// to it does not make it longer.
func (p Plan) Before(day when.Day) (part Plan, ok bool) {
	var last when.Day
	for _, d := range p.Upto(day - 1) {
		last, ok = d.On, true
	}
	if !ok {
		return Plan{}, false
	}
	if p.Rule != (recur.Rule{}) {
		p.Rule.Until, p.Rule.Count = p.untilOn(p.step(last)), 0
	}
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
			p.ExDates = slices.Insert(p.ExDates, 0, start)
		}
		return p, true
	}
	return Plan{}, false
}

// step is the last day up to one that the rule itself names.
func (p Plan) step(day when.Day) (on when.Day) {
	s := p.series()
	s.Dates = nil
	// Looked for from near the day; a rule that comes seldom, from farther away.
	for back := when.Day(400); ; back *= 10 {
		from, found := max(p.Start.Day, day-back), false
		for m := range s.From(recur.Moment{Day: from}, recur.Unlimited()) {
			if m.Day > day {
				break
			}
			on, found = m.Day, true
		}
		if found || from == p.Start.Day {
			return max(on, p.Start.Day)
		}
	}
}

// only keeps what concerns some days.
func (p Plan) only(keep func(when.Day) bool) Plan {
	drop := func(d when.Day) bool { return !keep(d) }
	p.RDates = slices.DeleteFunc(slices.Clone(p.RDates), drop)
	p.ExDates = slices.DeleteFunc(slices.Clone(p.ExDates), drop)
	p.Moved = slices.DeleteFunc(slices.Clone(p.Moved), func(m Moved) bool { return drop(m.On) })
	return p
}

// Lost is what a single date had and could not keep.
type Lost struct {
	On  when.Day
	Why say.What
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

// Differ compares two plans: whole tells whether their rule or regular time
// differ, days are those on which one has a date that the other has not, or at
// another time. With whole only days with exceptions on either side are looked
// at.
func Differ(a, b Plan) (whole bool, days []when.Day) {
	whole = a.Start != b.Start || a.End != b.End || a.Zone != b.Zone || a.Rule != b.Rule
	for _, day := range exceptional(a, b) {
		x, inA := a.Date(day)
		y, inB := b.Date(day)
		if inA != inB || inA && x.Span != y.Span {
			days = append(days, day)
		}
	}
	return whole, days
}

// exceptional are the days on which one of two plans departs from its rule.
func exceptional(plans ...Plan) (days []when.Day) {
	for _, p := range plans {
		days = slices.Concat(days, p.RDates, p.ExDates, each(p.Moved, func(m Moved) when.Day { return m.On }))
	}
	slices.Sort(days)
	return slices.Compact(days)
}
