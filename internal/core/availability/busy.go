package availability

import (
	"cmp"
	"slices"

	"jembro/internal/core/meeting"
	"jembro/internal/core/when"
)

// Kind is how somebody's time is taken: BUSY, BUSY-TENTATIVE and BUSY-UNAVAILABLE
// of RFC 5545, 3.2.9.
type Kind string

const (
	Busy  Kind = "busy"
	Maybe Kind = "maybe"
	Leave Kind = "leave"
	// Free is in somebody's week and leaves their time clear: FREE of RFC 5545, 3.2.9.
	Free Kind = "free"
)

// Clashing are the kinds of time that stand against being asked to something else then: whoever is
// maybe there has to decide.
var Clashing = []Kind{Busy, Maybe, Leave}

// Taken is how a meeting takes the time of somebody who answered so (DESIGN.md,
// rule 2); empty when it leaves it clear. The organiser's time is Busy.
func Taken(a meeting.Answer) Kind {
	switch a {
	case meeting.Declined:
		return ""
	case meeting.Maybe:
		return Maybe
	}
	return Busy
}

// Time is a stretch of somebody's time that is taken.
type Time struct {
	Span when.Span
	Kind Kind
}

// With is the person with what their time is taken by.
func (p Person) With(taken []Time) Person {
	var busy, leave, maybe []when.Span
	for _, t := range taken {
		switch t.Kind {
		case Maybe:
			maybe = append(maybe, t.Span)
		case Leave:
			leave = append(leave, t.Span)
			fallthrough
		default:
			busy = append(busy, t.Span)
		}
	}
	p.Busy, p.Leave, p.Maybe = when.Union(busy...), when.Union(leave...), when.Union(maybe...)
	return p
}

// Combine is the same time with each instant taken in one way only: ascending, none
// touching another of its kind. Busy goes before leave, and leave before maybe (RFC 7953,
// 4).
func Combine(all []Time) (out []Time) {
	by := map[Kind][]when.Span{}
	for _, t := range all {
		by[t.Kind] = append(by[t.Kind], t.Span)
	}
	var above when.Spans
	for _, kind := range []Kind{Busy, Leave, Maybe} {
		spans := when.Union(by[kind]...)
		for _, s := range spans.Minus(above) {
			out = append(out, Time{s, kind})
		}
		above = above.Union(spans)
	}
	slices.SortFunc(out, func(a, b Time) int { return cmp.Compare(a.Span.Start, b.Span.Start) })
	return out
}
