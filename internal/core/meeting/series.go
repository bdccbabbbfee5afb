package meeting

import (
	"iter"
	"slices"

	"jembro/internal/core/recur"
	"jembro/internal/core/when"
)

// Series is what a meeting that repeats has beside its first date. Single dates
// are known by their day in the rule.
type Series struct {
	recur.Repeat
	// Asked is how the repetition was asked for; Dropped are the dates left out
	// by hand, apart from what that leaves out.
	Asked   DraftRepeat `json:"asked"`
	Dropped []when.Day  `json:"dropped,omitempty"`
	// Off are those of Dropped that had been sent: they were called off.
	Off []when.Day `json:"off,omitempty"`
	// Own is what single dates have of their own beside the time, by day.
	Own []Own `json:"own,omitempty"`
	// Skipped are the days of the rule that the repetition leaves out, and why;
	// it is known while a sheet is settled, and not kept.
	Skipped []recur.LeftOut `json:"-"`
}

// Own is what one date has of its own; nil is what all have.
type Own struct {
	On     when.Day `json:"on"`
	Title  *string  `json:"title,omitempty"`
	Text   *string  `json:"text,omitempty"`
	Room   *Room    `json:"room,omitempty"`
	NoRoom bool     `json:"noRoom,omitempty"`
}

// Empty tells whether there is nothing of its own.
func (o Own) Empty() bool { return o.Title == nil && o.Text == nil && o.Room == nil && !o.NoRoom }

// Date is one date of a meeting with what holds on it.
type Date struct {
	recur.Date
	Title, Text string
	Room        *Room
}

// same tells whether nothing about a date differs.
func (d Date) same(o Date) bool {
	return d.Start == o.Start && d.End == o.End && d.Title == o.Title && d.Text == o.Text && roomOf(d.Room) == roomOf(o.Room)
}

func roomOf(r *Room) string {
	if r == nil {
		return ""
	}
	return r.ID
}

// Range is the dates from one day of the rule to another, both included. To is 0
// for all that come.
type Range struct {
	From when.Day `json:"from"`
	To   when.Day `json:"to,omitempty"`
}

// Holds tells whether a day lies in the range.
func (r Range) Holds(day when.Day) bool { return r.From <= day && (r.To == 0 || day <= r.To) }

// Plan is when the meeting is: one date where it does not repeat.
func (m Meeting) Plan() recur.Plan {
	p := recur.Plan{Start: m.Start, End: m.End, Zone: m.zone()}
	if m.Series != nil {
		p.Repeat = m.Series.Repeat
	}
	return p
}

// put makes the meeting one that is when a plan says.
func (m Meeting) put(p recur.Plan) Meeting {
	m.Start, m.End = p.Start, p.End
	series := *m.Series
	series.Repeat = p.Repeat
	series.Own = slices.DeleteFunc(slices.Clone(series.Own), func(o Own) bool { return !p.Has(o.On) })
	back := func(d when.Day) bool { return !slices.Contains(p.Left, d) }
	series.Dropped = slices.DeleteFunc(slices.Clone(series.Dropped), back)
	series.Off = slices.DeleteFunc(slices.Clone(series.Off), back)
	m.Series = &series
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

func (m Meeting) dress(d recur.Date) Date {
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
func (m Meeting) own(on when.Day) (own Own, at int) {
	own.On = on
	if m.Series == nil {
		return own, 0
	}
	at, is := slices.BinarySearchFunc(m.Series.Own, on, func(o Own, on when.Day) int { return int(o.On - on) })
	if is {
		own = m.Series.Own[at]
	}
	return own, at
}

// setOwn gives a date something of its own.
func (m Meeting) setOwn(own Own) Meeting {
	series := *m.Series
	was, at := m.own(own.On)
	series.Own = slices.Clone(series.Own)
	if !was.Empty() {
		series.Own = slices.Delete(series.Own, at, at+1)
	}
	if !own.Empty() {
		series.Own = slices.Insert(series.Own, at, own)
	}
	m.Series = &series
	return m
}

// Repeats tells whether the meeting is a series.
func (m Meeting) Repeats() bool { return m.Series != nil }

// On tells whether a participant is invited to the date on a day of the rule.
func (p Participant) On(day when.Day) bool {
	return len(p.Dates) == 0 || slices.ContainsFunc(p.Dates, func(r Range) bool { return r.Holds(day) })
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
	series := *m.Series
	series.Off = nil
	for _, day := range series.Dropped {
		if slices.Contains(before.Series.Off, day) || before.Plan().Has(day) {
			series.Off = append(series.Off, day)
		}
	}
	m.Series = &series
	return m
}

// markSingle tells those who only ever knew of single dates from those who know
// the series.
func markSingle(before *Meeting, m Meeting) Meeting {
	m.Participants = slices.Clone(m.Participants)
	for i := range m.Participants {
		p := &m.Participants[i]
		p.Single = m.Repeats() && p.Finite()
		if before != nil && before.Repeats() {
			if was, known := before.Participant(p.ID); known {
				p.Single = p.Single && was.Single
			}
		}
	}
	return m
}

// DatesOf are the dates that a participant is invited to, up to and with a day.
func (m Meeting) DatesOf(p Participant, until when.Day) (out []Date) {
	for d := range m.Dates(m.Start.Day) {
		if d.On > until {
			break
		}
		if p.On(d.On) {
			out = append(out, d)
		}
	}
	return out
}

// forever is after every date, and Ever before: the first day of a range without
// one.
const (
	forever = when.Day(1 << 30)
	Ever    = -forever
)

func (r Range) end() when.Day {
	if r.To == 0 {
		return forever
	}
	return r.To
}

func rangeTo(from, to when.Day) Range {
	if to == forever {
		to = 0
	}
	return Range{from, to}
}

// within cuts ranges to a scope; outside keeps what lies beside it. No ranges
// mean everything.
func within(ranges []Range, scope Range) (out []Range) {
	for _, r := range whole(ranges) {
		if from, to := max(r.From, scope.From), min(r.end(), scope.end()); from <= to {
			out = append(out, rangeTo(from, to))
		}
	}
	return out
}

func outside(ranges []Range, scope Range) (out []Range) {
	for _, r := range whole(ranges) {
		if r.From < scope.From {
			out = append(out, rangeTo(r.From, min(r.end(), scope.From-1)))
		}
		if r.end() > scope.end() {
			out = append(out, rangeTo(max(r.From, scope.end()+1), r.end()))
		}
	}
	return slices.DeleteFunc(out, func(r Range) bool { return r.From > r.end() })
}

func whole(ranges []Range) []Range {
	if len(ranges) == 0 {
		return []Range{{From: Ever}}
	}
	return ranges
}

// merge puts ranges together that touch; nil means everything.
func merge(ranges []Range) (out []Range) {
	ranges = slices.Clone(ranges)
	slices.SortFunc(ranges, func(a, b Range) int { return int(a.From - b.From) })
	for _, r := range ranges {
		if n := len(out); n > 0 && r.From <= out[n-1].end()+1 {
			out[n-1] = rangeTo(out[n-1].From, max(out[n-1].end(), r.end()))
			continue
		}
		out = append(out, r)
	}
	if len(out) == 1 && out[0].From == Ever && out[0].To == 0 {
		return nil
	}
	return out
}
