// Package when holds time as the rules of the job need it: half-open spans and
// their algebra, wall-clock times in a zone, and working hours.
package when

import (
	"cmp"
	"slices"
	"time"
)

// Instant is a moment, in whole seconds since 1970-01-01T00:00:00Z. Instants
// are values: two are equal with == when they are the same moment.
type Instant int64

// At is the instant of t; parts of a second are cut off.
func At(t time.Time) Instant { return Instant(t.Unix()) }

// Time is the instant in UTC.
func (i Instant) Time() time.Time { return time.Unix(int64(i), 0).UTC() }

// Add moves an instant by d, in whole seconds.
func (i Instant) Add(d time.Duration) Instant { return i + Instant(d/time.Second) }

// Span is the half-open stretch [Start, End). The zero Span is empty.
type Span struct {
	Start Instant `json:"start"`
	End   Instant `json:"end"`
}

// Empty tells whether no instant lies in s; a span that ends before it starts
// is empty too.
func (s Span) Empty() bool { return s.End <= s.Start }

// Length is how long s lasts, never negative.
func (s Span) Length() time.Duration {
	if s.Empty() {
		return 0
	}
	return time.Duration(s.End-s.Start) * time.Second
}

// Overlaps tells whether some instant lies in both.
func (s Span) Overlaps(o Span) bool { return !s.Intersect(o).Empty() }

// Holds tells whether i lies in s; the end does not.
func (s Span) Holds(i Instant) bool { return s.Start <= i && i < s.End }

// Covers tells whether every instant of o lies in s.
func (s Span) Covers(o Span) bool { return o.Empty() || s.Start <= o.Start && o.End <= s.End }

// Intersect is what lies in both, empty when they only touch.
func (s Span) Intersect(o Span) Span {
	return Span{max(s.Start, o.Start), min(s.End, o.End)}
}

// Spans is a set of instants, written as spans that ascend, do not touch and
// are not empty. Union makes one from any spans; nil is the empty set.
type Spans []Span

// Union is every instant that lies in one of the spans given, in any order.
func Union(spans ...Span) Spans {
	sorted := make(Spans, 0, len(spans))
	for _, s := range spans {
		if !s.Empty() {
			sorted = append(sorted, s)
		}
	}
	slices.SortFunc(sorted, func(a, b Span) int { return cmp.Compare(a.Start, b.Start) })
	out := sorted[:0]
	for _, s := range sorted {
		if n := len(out); n > 0 && s.Start <= out[n-1].End {
			out[n-1].End = max(out[n-1].End, s.End)
			continue
		}
		out = append(out, s)
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

// Union is every instant in a or in b.
func (a Spans) Union(b Spans) Spans { return Union(slices.Concat(a, b)...) }

// Intersect is every instant in both a and b.
func (a Spans) Intersect(b Spans) Spans {
	var out Spans
	for i, j := 0, 0; i < len(a) && j < len(b); {
		if both := a[i].Intersect(b[j]); !both.Empty() {
			out = append(out, both)
		}
		if a[i].End < b[j].End {
			i++
		} else {
			j++
		}
	}
	return out
}

// Within is every instant of window that does not lie in a: the complement.
func (a Spans) Within(window Span) Spans {
	var out Spans
	from := window.Start
	for _, s := range a.Meeting(window) {
		if gap := (Span{from, min(s.Start, window.End)}); !gap.Empty() {
			out = append(out, gap)
		}
		from = max(from, s.End)
	}
	if rest := (Span{from, window.End}); !rest.Empty() {
		out = append(out, rest)
	}
	return out
}

// Minus is every instant in a that does not lie in b: the difference.
func (a Spans) Minus(b Spans) Spans {
	var out Spans
	at := 0
	for i, s := range a {
		if i == 0 {
			at = b.ending(s.Start)
		}
		for at < len(b) && b[at].End <= s.Start {
			at++
		}
		from := s.Start
		for j := at; j < len(b) && b[j].Start < s.End; j++ {
			if from < b[j].Start {
				out = append(out, Span{from, b[j].Start})
			}
			from = b[j].End
		}
		if from < s.End {
			out = append(out, Span{from, s.End})
		}
	}
	return out
}

// AtLeast keeps the spans that last d or longer.
func (a Spans) AtLeast(d time.Duration) Spans {
	var out Spans
	for _, s := range a {
		if s.Length() >= d {
			out = append(out, s)
		}
	}
	return out
}

// Covers tells whether one of the spans covers o.
func (a Spans) Covers(o Span) bool {
	return slices.ContainsFunc(a, func(s Span) bool { return s.Covers(o) })
}

// Overlaps tells whether some instant of o lies in a.
func (a Spans) Overlaps(o Span) bool {
	from := a.ending(o.Start)
	return !o.Empty() && from < len(a) && a[from].Start < o.End
}

// ending is the place of the first span that ends after an instant.
func (a Spans) ending(after Instant) int {
	at, _ := slices.BinarySearchFunc(a, after, func(s Span, i Instant) int {
		if s.End <= i {
			return -1
		}
		return 1
	})
	return at
}

// Meeting are the spans of a that share an instant with o, whole. It does not walk
// through the others.
func (a Spans) Meeting(o Span) Spans {
	if o.Empty() {
		return nil
	}
	from := a.ending(o.Start)
	to := from
	for to < len(a) && a[to].Start < o.End {
		to++
	}
	return a[from:to]
}

// Total is how long all spans last together.
func (a Spans) Total() time.Duration {
	var sum time.Duration
	for _, s := range a {
		sum += s.Length()
	}
	return sum
}
