package meeting

import (
	"jembro/internal/core/series"
	"jembro/internal/core/when"
)

// SeenBy is a meeting as one of those invited may know it: somebody who is invited
// to some dates of a series learns of the people who are on those, and of no others.
func (m Meeting) SeenBy(id string) Meeting {
	me, invited := m.Participant(id)
	if !invited || len(me.Dates) == 0 || !m.Repeats() {
		return m
	}
	mine := m.DatesOf(me, me.firstDay(m)+2*Horizon)
	var seen []Participant
	for _, p := range m.Participants {
		if p.ID == id || p.onAny(mine) {
			seen = append(seen, p)
		}
	}
	m.Participants = seen
	return m
}

// firstDay is the first day of a series that somebody can be invited to.
func (p Participant) firstDay(m Meeting) when.Day {
	return max(m.Start.Day, series.Whole(p.Dates)[0].From)
}

func (p Participant) onAny(dates []Date) bool {
	for _, d := range dates {
		if p.On(d.On) {
			return true
		}
	}
	return false
}

// SpanFor is when a meeting is for one of those invited: the first date that they
// are invited to, of a series.
func (m Meeting) SpanFor(id string) when.Span {
	me, invited := m.Participant(id)
	if !invited || len(me.Dates) == 0 || !m.Repeats() {
		return m.Span()
	}
	for _, d := range m.DatesOf(me, me.firstDay(m)+2*Horizon) {
		return d.Span
	}
	return m.Span()
}

// Over is when a meeting is over for good; ok is false for a series without an end.
func (m Meeting) Over() (at when.Instant, ok bool) {
	if !m.Repeats() {
		return m.Span().End, true
	}
	if _, ends := m.Plan().Last(); !ends {
		return 0, false
	}
	for d := range m.Dates(m.Start.Day) {
		at = max(at, d.Span.End)
	}
	return at, true
}
