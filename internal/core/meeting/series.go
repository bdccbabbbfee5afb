package meeting

import (
	"iter"
	"slices"
	"time"

	"jembro/internal/core/recur"
	"jembro/internal/core/series"
	"jembro/internal/core/when"
)

// Series is what a meeting that repeats has beside its first date. Single dates
// are known by their day in the rule.
type Series struct {
	series.Repeat
	// Asked is how the repetition was asked for; Dropped are the dates left out
	// by hand, apart from what that leaves out.
	Asked   DraftRepeat
	Dropped []when.Day
	// Off are those of Dropped that had been sent: they were called off.
	Off []when.Day
	// Overrides is what single dates have of their own beside the time, by day.
	Overrides []Override
	// Skipped are the days of the rule that the repetition leaves out, and why;
	// it is known while a sheet is settled, and not kept.
	Skipped []series.LeftOut
}

// Override is what one date has of its own; nil is what all have.
type Override struct {
	On     when.Day
	Title  *string
	Text   *string
	Room   *Room
	NoRoom bool
}

// Empty tells whether there is nothing of its own.
func (o Override) Empty() bool { return o.Title == nil && o.Text == nil && o.Room == nil && !o.NoRoom }

// Date is one date of a meeting with what holds on it.
type Date struct {
	series.Date
	Title, Text string
	Room        *Room
}

// same tells whether nothing about a date differs.
func (d Date) same(o Date) bool {
	return d.Span == o.Span && d.Title == o.Title && d.Text == o.Text && roomOf(d.Room) == roomOf(o.Room)
}

func roomOf(r *Room) string {
	if r == nil {
		return ""
	}
	return r.ID
}

// Plan is when the meeting is: one date where it does not repeat.
func (m Meeting) Plan() series.Plan {
	p := series.Plan{Start: m.Start, End: m.End, Zone: m.zone()}
	if m.Series != nil {
		p.Repeat = m.Series.Repeat
	}
	return p
}

// put makes the meeting one that is when a plan says.
func (m Meeting) put(p series.Plan) Meeting {
	m.Start, m.End = p.Start, p.End
	rep := *m.Series
	rep.Repeat = p.Repeat
	rep.Overrides = slices.DeleteFunc(slices.Clone(rep.Overrides), func(o Override) bool { return !p.Has(o.On) })
	back := func(d when.Day) bool { return !slices.Contains(p.ExDates, d) }
	rep.Dropped = slices.DeleteFunc(slices.Clone(rep.Dropped), back)
	rep.Off = slices.DeleteFunc(slices.Clone(rep.Off), back)
	m.Series = &rep
	return m
}

// Dates are the dates from a day of the rule on, in the order of the rule.
func (m Meeting) Dates(from when.Day) iter.Seq[Date] {
	return func(yield func(Date) bool) {
		for d := range m.Plan().Dates(from) {
			if !yield(m.dress(d)) {
				return
			}
		}
	}
}

// Date is the date on a day of the rule; ok is false when there is none.
func (m Meeting) Date(on when.Day) (Date, bool) {
	d, ok := m.Plan().Date(on)
	return m.dress(d), ok
}

func (m Meeting) dress(d series.Date) Date {
	out := Date{Date: d, Title: m.Title, Text: m.Text, Room: m.Room}
	own, _ := m.own(d.On)
	if own.Title != nil {
		out.Title = *own.Title
	}
	if own.Text != nil {
		out.Text = *own.Text
	}
	if own.Room != nil || own.NoRoom {
		out.Room = own.Room
	}
	return out
}

// own is what a date has of its own.
func (m Meeting) own(on when.Day) (own Override, at int) {
	own.On = on
	if m.Series == nil {
		return own, 0
	}
	at, is := slices.BinarySearchFunc(m.Series.Overrides, on, func(o Override, on when.Day) int { return int(o.On - on) })
	if is {
		own = m.Series.Overrides[at]
	}
	return own, at
}

// setOwn gives a date something of its own.
func (m Meeting) setOwn(own Override) Meeting {
	rep := *m.Series
	was, at := m.own(own.On)
	rep.Overrides = slices.Clone(rep.Overrides)
	if !was.Empty() {
		rep.Overrides = slices.Delete(rep.Overrides, at, at+1)
	}
	if !own.Empty() {
		rep.Overrides = slices.Insert(rep.Overrides, at, own)
	}
	m.Series = &rep
	return m
}

// Repeats tells whether the meeting is a series.
func (m Meeting) Repeats() bool { return m.Series != nil }

// On tells whether a participant is invited to the date on a day of the rule.
func (p Participant) On(day when.Day) bool {
	return len(p.Dates) == 0 || slices.ContainsFunc(p.Dates, func(r series.Range) bool { return r.Holds(day) })
}

// Finite tells whether somebody is invited to some dates with an end, and not to
// what the series goes on to.
func (p Participant) Finite() bool {
	return len(p.Dates) > 0 && p.Dates[len(p.Dates)-1].To != 0
}

// markOff tells the dates that are called off from those that are left out and
// were never sent.
func markOff(before *Meeting, m Meeting) Meeting {
	if before == nil || !before.Repeats() || !m.Repeats() {
		return m
	}
	rep := *m.Series
	rep.Off = nil
	for _, day := range rep.Dropped {
		if slices.Contains(before.Series.Off, day) || before.Plan().Has(day) {
			rep.Off = append(rep.Off, day)
		}
	}
	m.Series = &rep
	return m
}

// markSingle tells those who only ever knew of one date from those who know a
// series.
func markSingle(before *Meeting, m Meeting) Meeting {
	m.Participants = slices.Clone(m.Participants)
	for i := range m.Participants {
		p := &m.Participants[i]
		if !m.Repeats() {
			p.Dates = nil
		}
		p.Single = m.Repeats() && p.Finite() && m.once(*p)
		if before != nil && before.Repeats() {
			if was, known := before.Participant(p.ID); known {
				p.Single = p.Single && was.Single
			}
		}
	}
	return m
}

// once tells whether somebody is invited to exactly one date.
func (m Meeting) once(p Participant) bool {
	n := 0
	for d := range m.Dates(p.firstDay(m)) {
		if d.On > p.until() {
			break
		}
		if p.On(d.On) {
			if n++; n == 2 {
				break
			}
		}
	}
	return n == 1
}

// DatesOf are the dates that a participant is invited to, up to and with a day.
func (m Meeting) DatesOf(p Participant, until when.Day) (out []Date) {
	for d := range m.Dates(p.firstDay(m)) {
		if d.On > until {
			break
		}
		if p.On(d.On) {
			out = append(out, d)
		}
	}
	return out
}

const (
	// soonDates and soonFor are when the end of a series is near: so few dates are left, or so
	// little time.
	soonDates = 3
	soonFor   = 35 * 24 * time.Hour
)

// EndsSoon is the last day of a series whose end is near; near is false for one that goes on for
// longer, has no end, or is over.
func (m Meeting) EndsSoon(now when.Instant) (last when.Day, near bool) {
	last, ends := m.Plan().Last()
	if !m.Repeats() || !ends {
		return 0, false
	}
	left := 0
	for d := range m.Dates(m.StartIn().Zone.LocalAt(now).Day - 1) {
		if d.Span.Start > now {
			left++
		}
		if left > soonDates {
			break
		}
	}
	return last, left > 0 && (left <= soonDates || m.Plan().Regular(last).Span.Start < now.Add(soonFor))
}

// mostMore is how many dates a series is extended by at the most, unless somebody says more.
const mostMore = 12

// ExtendedTo is the day up to which a series that ends on a day goes on for as many dates as it
// has, or mostMore.
func (m Meeting) ExtendedTo(last when.Day) when.Day {
	plan := m.Plan()
	had := len(plan.Upto(last))
	plan.Rule.Until = recur.Until{}
	more := 0
	for d := range plan.Dates(last + 1) {
		if last, more = d.On, more+1; more == min(max(had, 1), mostMore) {
			break
		}
	}
	return last
}
