package meeting

import (
	"errors"
	"fmt"
	"time"

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

// Split is a sheet as so many that follow each other, of about the same length in steps of
// five minutes. It fails for one that repeats, or has no time.
func (d Draft) Split(parts int) ([]Draft, error) {
	zone, zoneErr := when.LoadZone(d.Zone)
	start, startErr := when.ParseLocal(d.Start)
	end, endErr := when.ParseLocal(d.End)
	if err := errors.Join(zoneErr, startErr, endErr); err != nil {
		return nil, err
	}
	from, to := when.Zoned{Local: start, Zone: zone}.Instant(), when.Zoned{Local: end, Zone: zone}.Instant()
	length := when.Span{Start: from, End: to}.Length()
	const step = 5 * time.Minute
	each := (length/time.Duration(max(parts, 1)) + step - 1) / step * step
	if d.Repeat != nil || d.AllDay || parts < 2 || each*time.Duration(parts-1) >= length {
		return nil, errors.New("this cannot be split")
	}
	var out []Draft
	for i := range parts {
		part := d
		begins := from.Add(each * time.Duration(i))
		part.Start, part.End = zone.LocalAt(begins).String(), zone.LocalAt(min(begins.Add(each), to)).String()
		if part.Title != "" {
			part.Title = fmt.Sprintf("%s (%d of %d)", d.Title, i+1, parts)
		}
		part.NoLink = false
		out = append(out, part)
	}
	return out, nil
}
