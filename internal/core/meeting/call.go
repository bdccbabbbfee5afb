package meeting

import (
	"jembro/internal/core/join"
	"jembro/internal/core/when"
)

// CallDates is on how many dates of a series it is looked whether a call is in use elsewhere.
const CallDates = 120

// CallUse is what the meeting needs of its call.
func (m Meeting) CallUse() join.Use {
	u := join.Use{Length: m.Length(), People: len(m.Participants) + 1, Dates: 1, Ends: m.Span().End.Time(), Repeats: m.Repeats()}
	if m.AllDay {
		u.Length = 0 // nobody calls in for days
	}
	if !m.Repeats() {
		return u
	}
	last, ends := m.Plan().Last()
	if !ends {
		u.Dates = 0
		return u
	}
	u.Dates = len(m.Plan().Upto(last))
	u.Ends = m.Plan().Regular(last).Span.End.Time()
	return u
}

// CallSpans are when its call is in use, from a moment on, at most CallDates of them.
func (m Meeting) CallSpans(now when.Instant) (out []when.Span) {
	if m.AllDay {
		return nil
	}
	for d := range m.Dates(m.Start.Day) {
		if d.Span.End > now {
			out = append(out, d.Span)
		}
		if len(out) == CallDates {
			break
		}
	}
	return out
}

// Around is the stretch from the first to the last of spans.
func Around(spans []when.Span) (out when.Span) {
	for i, s := range spans {
		if i == 0 || s.Start < out.Start {
			out.Start = s.Start
		}
		out.End = max(out.End, s.End)
	}
	return out
}

// AtOnce is how many of the others there are at the same time as one of spans, at most.
func AtOnce(spans, others []when.Span) (most int) {
	for _, s := range spans {
		n := 0
		for _, o := range others {
			if s.Overlaps(o) {
				n++
			}
		}
		most = max(most, n)
	}
	return most
}
